"""Long work: making files, reading photographs, flattening patches. It reports progress, can be stopped, and is
taken up again after a restart."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable
from typing import TypeVar

from django.db import transaction
from django_tasks import task
from wimple_core.errors import WimpleError
from wimple_core.export import all_files, zip_files
from wimple_core.job import load_job
from wimple_core.job.files import OUTLINE_OF_PHOTO
from wimple_core.measure.photo import find_outline, suggest_marks, upright_jpeg
from wimple_core.pipeline import build, flatten_patch

from ..errors import error_body
from .models import Drawing, Export, Flattening, PhotoReading, Status, Stopped, Work

W = TypeVar("W", bound=Work)


def _carry_through(kind: type[W], pk: int, what: str, do: Callable[[W], dict[str, object]]) -> None:
    """Do one work if it is still wanted, and keep what `do` returns; however it ends is written down."""
    work = kind.objects.select_related("job__workshop").filter(pk=pk, status__in=Work.LEFT).first()  # type: ignore[attr-defined]
    if work is None:
        return
    try:
        work.say(status=Status.RUNNING)
        with_result = do(work)
        work.say(status=Status.DONE, working_on="", **with_result, **work.DROPPED)
    except Stopped:
        work.end()
    except WimpleError as bad:
        said = bad.as_dict(work.job.workshop.length_style)
        work.end(status=Status.FAILED, error={**said, "places": list(bad.places)})
    except Exception:
        logging.getLogger("wimple").exception("%s %s", kind.__name__, pk)
        work.end(
            status=Status.FAILED, error=error_body("our_fault", f"The {what}, and it is not your doing.", "Try again.")
        )


@task()
def make_files(export_id: int) -> None:
    """Make the zip of one export."""

    def do(export: Export) -> dict[str, object]:
        document = load_job(export.document)
        drawings = export.job.files_for(document)
        built = build(document, drawings, progress=lambda step: export.say(working_on=step))
        style = export.job.workshop.length_style
        files = all_files(
            built, drawings, style, lambda n, total, name: export.say(done=n, total=total, working_on=name)
        )
        return {"zip": zip_files(files), "names": [f.path for f in files]}

    _carry_through(Export, export_id, "files could not be made", do)


@task()
def read_photo(reading_id: int) -> None:
    """Find the outline in one photograph; keep the picture, upright and without its metadata, and the outline beside
    it."""

    def do(reading: PhotoReading) -> dict[str, object]:
        picture = upright_jpeg(bytes(reading.picture))
        outline = find_outline(picture, lambda what: reading.say(working_on=what))
        known, axis = suggest_marks(outline)
        name = reading.job.free_name(reading.name.rpartition(".")[0] + ".jpg")
        with transaction.atomic():
            reading.say(working_on="keeping it")
            Drawing.objects.create(job=reading.job, name=name, kind=Drawing.Kind.PHOTO, data=picture)
            found = json.dumps(outline.as_dict()).encode()
            Drawing.objects.create(job=reading.job, name=name + OUTLINE_OF_PHOTO, kind=Drawing.Kind.FOUND, data=found)
        return {"name": name, "marks": {"known": known, "axis": axis, "width": outline.width, "height": outline.height}}

    _carry_through(PhotoReading, reading_id, "photograph could not be read", do)


@task()
def flatten_mesh(flattening_id: int) -> None:
    """Lay the chosen patch of a job's mesh flat, and keep it."""

    def do(work: Flattening) -> dict[str, object]:
        document = load_job(work.document)
        name, data = flatten_patch(
            document, work.job.files_for(document), lambda what, share: work.say(working_on=what, share=share)
        )
        Drawing.objects.update_or_create(job=work.job, name=name, defaults={"kind": Drawing.Kind.FOUND, "data": data})
        return {"share": 1.0}

    _carry_through(Flattening, flattening_id, "patch could not be flattened", do)


def take_up_again() -> int:
    """Enqueue what was waiting or running when the program was last stopped; returns how many."""
    left = [
        (do, work.pk)
        for kind, do in ((Export, make_files), (PhotoReading, read_photo), (Flattening, flatten_mesh))
        for work in kind.objects.filter(status__in=Work.LEFT).only("pk")
    ]
    for do, pk in left:
        do.enqueue(pk)
    return len(left)
