"""Keeping blanks on the Shelf, taking them from it, and carrying them between workshops as JSON."""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping
from typing import Any

from django.db import transaction
from wimple_core.errors import BadDocument, WimpleError
from wimple_core.job import load_job
from wimple_core.job.blanks import Blank
from wimple_core.job.loading import load_blank
from wimple_core.measure import Measured, files_of
from wimple_core.pipeline import build_whole
from wimple_core.taking_in import SHELF_FORMAT, ShelfRow, shelf_in
from wimple_core.views.card import card_view

from ..jobs.building import CACHE
from ..jobs.models import Drawing, Job
from ..reading import read_apart
from ..workshops.models import KeptResults, Workshop
from .models import ShelfBlank, ShelfFile


def measured_blank(blank: Blank, files: Mapping[str, bytes], workshop: Workshop) -> Measured:
    """The blank measured. Raises WimpleError where it cannot be."""
    job = load_job({"blank": blank.model_dump(mode="json")})
    kept = KeptResults(workshop.pk)
    return build_whole(job, files, "measure", cache=CACHE, at_once=False, kept=kept, run=read_apart).body


def _card(m: Measured) -> dict[str, Any]:
    """What a shelf card shows, kept with the blank."""
    return card_view(m).model_dump(mode="json")


def keep(job: Job, name: str = "") -> ShelfBlank:
    """Keep a job's blank; the job then counts as one that used it. Raises WimpleError for a blank that cannot be
    measured."""
    document = job.load()
    blank = document.blank
    there = job.files()
    files = {n: there.read(n) for n in files_of(blank) if n in there}
    m = measured_blank(blank, files, job.workshop)
    kept = ShelfBlank(
        workshop=job.workshop,
        name=name or blank.name,
        kind=blank.kind,
        blank=blank.model_dump(mode="json"),
        note=blank.note,
        card=_card(m),
    )
    kept.write_search()
    kinds = dict(job.drawings.values_list("name", "kind"))
    with transaction.atomic():
        kept.save()
        ShelfFile.objects.bulk_create(
            [ShelfFile(blank=kept, name=n, kind=kinds.get(n, "drawing"), data=d) for n, d in files.items()]
        )
        Job.objects.filter(pk=job.pk).update(shelf_blank=kept)
    return kept


@transaction.atomic
def start_job(kept: ShelfBlank, title: str, by: str = "") -> Job:
    """A new job with a blank of the Shelf in it."""
    job = Job.start(kept.workshop, load_job({"title": title or kept.name, "blank": kept.blank}), by)
    for f in kept.files.all():
        Drawing.keep(job, f.name, bytes(f.data), f.kind)
    job.shelf_blank = kept
    job.save(update_fields=["shelf_blank"])
    return job


@transaction.atomic
def duplicate(kept: ShelfBlank) -> ShelfBlank:
    """The same blank once more, to be changed."""
    files = list(kept.files.all())
    twin = ShelfBlank(
        workshop=kept.workshop,
        name=f"{kept.name[:112]}, copy",
        kind=kept.kind,
        blank=kept.blank,
        note=kept.note,
        tags=kept.tags,
        picture=kept.picture,
        card=kept.card,
    )
    twin.write_search()
    twin.save()
    ShelfFile.objects.bulk_create([ShelfFile(blank=twin, name=f.name, kind=f.kind, data=f.data) for f in files])
    return twin


def exported(workshop: Workshop) -> dict[str, Any]:
    """The whole Shelf as JSON; files and pictures in base64."""
    rows = []
    for kept in workshop.shelf.prefetch_related("files"):
        rows.append(
            {
                "name": kept.name,
                "blank": kept.blank,
                "note": kept.note,
                "tags": kept.tags,
                "picture": base64.b64encode(kept.picture).decode() if kept.picture else None,
                "files": {
                    f.name: {"kind": f.kind, "data": base64.b64encode(f.data).decode()} for f in kept.files.all()
                },
            }
        )
    return {"format": SHELF_FORMAT, "version": 1, "blanks": rows}


def _row(workshop: Workshop, n: int, row: ShelfRow) -> tuple[ShelfBlank, list[ShelfFile]]:
    raw = row.raw
    try:
        blank = load_blank(raw["blank"])
        m = measured_blank(blank, {name: data for name, (_, data) in row.files.items()}, workshop)
    except WimpleError as bad:
        said = f"{bad.field}: {bad.message}" if bad.field else bad.message
        raise BadDocument(f"Blank {n + 1} of the file: {said}", field=f"blanks.{n}", hint=bad.hint) from None
    tags = (
        [str(t)[:40] for t in raw.get("tags") or [] if str(t).strip()][:20] if isinstance(raw.get("tags"), list) else []
    )
    kept = ShelfBlank(
        workshop=workshop,
        name=str(raw.get("name") or blank.name)[:120],
        kind=blank.kind,
        blank=blank.model_dump(mode="json"),
        note=str(raw.get("note") or "")[:4000],
        tags=tags,
        picture=row.picture,
        card=_card(m),
    )
    kept.write_search()
    needed = files_of(blank)
    files = [ShelfFile(name=name, kind=kind, data=data) for name, (kind, data) in row.files.items() if name in needed]
    return kept, files


def import_shelf(workshop: Workshop, data: bytes, progress: Callable[[int, int], None] = lambda n, total: None) -> int:
    """Put the blanks of an exported Shelf beside those there are: all of them, or none. Returns how many. `progress`
    hears of each, and may raise to stop.

    Raises BadDocument naming the first that cannot be taken.
    """
    read = read_apart(shelf_in, data)
    rows = []
    for n, row in enumerate(read):
        progress(n, len(read))
        rows.append(_row(workshop, n, row))
    with transaction.atomic():
        ShelfBlank.objects.bulk_create([kept for kept, _ in rows])
        ShelfFile.objects.bulk_create([f for kept, files in rows for f in _belonging(kept, files)])
    return len(rows)


def _belonging(kept: ShelfBlank, files: list[ShelfFile]) -> list[ShelfFile]:
    for f in files:
        f.blank = kept
    return files
