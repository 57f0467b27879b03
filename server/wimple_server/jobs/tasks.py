"""Long work: making all files of a job. It reports progress, can be stopped, and is taken up again after a restart."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable

from django.db import transaction
from django_tasks import task
from wimple_core.built import Build
from wimple_core.errors import CannotUnroll, WimpleError
from wimple_core.export import all_files, zip_files
from wimple_core.job import Job, load_job
from wimple_core.job.files import OUTLINE_OF_PHOTO
from wimple_core.measure.photo import find_outline, suggest_marks, upright_jpeg
from wimple_core.pipeline import build, flatten_patch

from ..errors import error_body
from .models import Drawing, Export, Flattening, PhotoReading, Status


class Stopped(Exception):
    """Somebody asked for this work to stop."""


def _report(export: Export, **change: object) -> None:
    """Write progress down, unless the work was stopped meanwhile. Raises Stopped."""
    if not Export.objects.filter(pk=export.pk).exclude(status=Export.Status.STOPPED).update(**change):
        raise Stopped


def _as_far_as_it_unrolls(document: Job, drawings: dict[str, bytes], progress: Callable[[str], None]) -> Build:
    """The whole build, or its measuring where the body does not unroll."""
    try:
        return build(document, drawings, progress=progress)
    except CannotUnroll:
        return build(document, drawings, "measure")


@task()
def make_files(export_id: int) -> None:
    """Make the zip of one export."""
    export = Export.objects.select_related("job__workshop").filter(pk=export_id).first()
    if export is None or export.status in (Export.Status.DONE, Export.Status.STOPPED):
        return
    style = export.job.workshop.length_style
    try:
        _report(export, status=Export.Status.RUNNING)
        document = load_job(export.document)
        drawings = export.job.files_for(document)
        built = _as_far_as_it_unrolls(document, drawings, lambda step: _report(export, working_on=step))
        files = all_files(built, drawings, style, lambda n, total, name: _report(export, done=n, total=total, working_on=name))
        _report(export, status=Export.Status.DONE, zip=zip_files(files), names=[f.path for f in files], working_on="")
    except Stopped:
        return
    except WimpleError as bad:
        Export.objects.filter(pk=export.pk).update(status=Export.Status.FAILED, error=bad.as_dict())
    except Exception:
        logging.getLogger("wimple").exception("export %s", export_id)
        Export.objects.filter(pk=export.pk).update(
            status=Export.Status.FAILED,
            error=error_body("our_fault", "The files could not be made, and it is not your doing.", "Try again."),
        )


def _say(reading_id: int, **change: object) -> None:
    """Write a photograph's progress down, unless the work was stopped meanwhile. Raises Stopped."""
    if not PhotoReading.objects.filter(pk=reading_id).exclude(status=Status.STOPPED).update(**change):
        raise Stopped


@task()
def read_photo(reading_id: int) -> None:
    """Find the outline in one photograph; keep the picture, upright and without its metadata, and the outline beside it."""
    reading = PhotoReading.objects.select_related("job").filter(pk=reading_id).first()
    if reading is None or reading.picture is None or reading.status in (Status.DONE, Status.STOPPED):
        return
    try:
        _say(reading_id, status=Status.RUNNING)
        picture = upright_jpeg(bytes(reading.picture))
        outline = find_outline(picture, lambda what: _say(reading_id, working_on=what))
        known, axis = suggest_marks(outline)
        marks = {"known": known, "axis": axis, "width": outline.width, "height": outline.height}
        with transaction.atomic():
            name = reading.job.free_name(reading.name.rpartition(".")[0] + ".jpg")
            Drawing.objects.create(job=reading.job, name=name, kind=Drawing.Kind.PHOTO, data=picture)
            Drawing.objects.create(
                job=reading.job, name=name + OUTLINE_OF_PHOTO, kind=Drawing.Kind.FOUND, data=json.dumps(outline.as_dict()).encode()
            )
            _say(reading_id, status=Status.DONE, working_on="", name=name, marks=marks, picture=None)
    except Stopped:
        PhotoReading.objects.filter(pk=reading_id).update(picture=None)
    except WimpleError as bad:
        PhotoReading.objects.filter(pk=reading_id).update(status=Status.FAILED, error=bad.as_dict(), picture=None)
    except Exception:
        logging.getLogger("wimple").exception("photograph %s", reading_id)
        body = error_body("our_fault", "The photograph could not be read, and it is not your doing.", "Try again.")
        PhotoReading.objects.filter(pk=reading_id).update(status=Status.FAILED, error=body, picture=None)


@task()
def flatten_mesh(flattening_id: int) -> None:
    """Lay the chosen patch of a job's mesh flat, and keep it."""
    work = Flattening.objects.select_related("job").filter(pk=flattening_id).first()
    if work is None or work.status in (Status.DONE, Status.STOPPED):
        return

    def say(**change: object) -> None:
        if not Flattening.objects.filter(pk=flattening_id).exclude(status=Status.STOPPED).update(**change):
            raise Stopped

    try:
        say(status=Status.RUNNING)
        document = load_job(work.document)
        name, data = flatten_patch(document, work.job.files_for(document), lambda what, share: say(working_on=what, share=share))
        with transaction.atomic():
            Drawing.objects.update_or_create(job=work.job, name=name, defaults={"kind": Drawing.Kind.FOUND, "data": data})
            say(status=Status.DONE, working_on="", share=1.0)
    except Stopped:
        return
    except WimpleError as bad:
        Flattening.objects.filter(pk=flattening_id).update(status=Status.FAILED, error={**bad.as_dict(), "places": list(bad.places)})
    except Exception:
        logging.getLogger("wimple").exception("flattening %s", flattening_id)
        body = error_body("our_fault", "The patch could not be flattened, and it is not your doing.", "Try again.")
        Flattening.objects.filter(pk=flattening_id).update(status=Status.FAILED, error=body)


def take_up_again() -> int:
    """Enqueue what was waiting or running when the program was last stopped; returns how many."""
    left = Export.objects.filter(status__in=[Status.WAITING, Status.RUNNING])
    for export in left:
        make_files.enqueue(export.pk)
    photos = PhotoReading.objects.filter(status__in=[Status.WAITING, Status.RUNNING])
    for reading in photos:
        read_photo.enqueue(reading.pk)
    patches = Flattening.objects.filter(status__in=[Status.WAITING, Status.RUNNING])
    for work in patches:
        flatten_mesh.enqueue(work.pk)
    return len(left) + len(photos) + len(patches)
