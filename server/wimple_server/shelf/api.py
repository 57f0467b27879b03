"""The Shelf over HTTP."""

from __future__ import annotations

import datetime as dt
import json
from collections import Counter
from typing import Annotated, Any

from django.conf import settings
from django.db.models import Count
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from wimple_core.errors import BadDocument, BadReading, seen_from
from wimple_core.figures import LengthStyle, format_length, worded
from wimple_core.job.blanks import Blank
from wimple_core.measure.compare import compare
from wimple_core.taking_in import picture_in
from wimple_core.views.drawn import Ring
from wimple_core.views.judged import LevelName

from ..jobs.models import Job
from ..jobs.reaching import ERRORS
from ..people.accounts import who
from ..reading import read_apart
from ..sent import read_sent
from ..works.api import WorkOut
from ..works.models import Work
from ..works.tasks import start
from ..workshops.models import workshop_of
from . import keeping
from .models import ShelfBlank

router = Router(tags=["shelf"])
PAGE = 60
Number = Annotated[int, Field(ge=0, le=2**62)]


class CardOut(Schema):
    """A blank on the Shelf."""

    id: int
    name: str
    kind: str
    colour: str
    size: str
    tags: list[str]
    jobs: int
    has_picture: bool
    changed: dt.datetime
    bounds: tuple[float, float, float, float]
    outline: list[Ring]


class TagOut(Schema):
    tag: str
    count: int


class ShelfOut(Schema):
    total: int
    found: int
    tags: list[TagOut]
    blanks: list[CardOut]


class BlankOut(CardOut):
    note: str
    blank: Blank


class KeepIn(Schema):
    job: int = Field(ge=0, le=2**62)
    name: str = Field("", max_length=120)


class ChangeIn(Schema):
    name: str | None = Field(None, min_length=1, max_length=120)
    note: str | None = Field(None, max_length=4000)
    tags: list[str] | None = Field(None, max_length=20)


class StartIn(Schema):
    title: str = Field("", max_length=120)


class StartedOut(Schema):
    job: int


class DifferenceOut(Schema):
    name: str
    first: str
    second: str
    apart: str
    spread: str
    level: LevelName


class ComparisonOut(Schema):
    level: LevelName
    sentence: str
    differences: list[DifferenceOut]


def _kept(request: HttpRequest, blank_id: int) -> ShelfBlank:
    return get_object_or_404(ShelfBlank.objects.select_related("workshop"), pk=blank_id, workshop=workshop_of(request))


def _card(b: ShelfBlank, jobs: int) -> dict[str, Any]:
    return {
        "id": b.pk,
        "name": b.name,
        "kind": b.kind,
        "colour": b.blank.get("colour", "#ffffff"),
        "size": worded(b.card.get("size", ""), b.workshop.style),
        "tags": b.tags,
        "jobs": jobs,
        "has_picture": b.picture is not None,
        "changed": b.changed,
        "bounds": b.card.get("bounds", (0, 0, 1, 1)),
        "outline": b.card.get("outline", []),
    }


def _whole(b: ShelfBlank) -> dict[str, Any]:
    return _card(b, b.jobs.count()) | {"note": b.note, "blank": b.load()}


@router.get("", response={200: ShelfOut, **ERRORS})
def list_shelf(
    request: HttpRequest,
    q: Annotated[str, Field(max_length=200)] = "",
    tag: Annotated[str, Field(max_length=60)] = "",
    kind: Annotated[str, Field(max_length=20)] = "",
    start: Annotated[int, Field(ge=0, le=10**6)] = 0,
) -> dict[str, object]:
    """What is on the Shelf: every word of `q` must stand in its name, kind, note, tags or size."""
    mine = ShelfBlank.objects.filter(workshop=workshop_of(request))
    tags = Counter(t for row in mine.exclude(tags=[]).values_list("tags", flat=True) for t in row)
    found = mine
    for word in q.lower().split():
        found = found.filter(search__contains=word)
    if tag:
        found = found.filter(search__contains=tag.lower())
    if kind:
        found = found.filter(kind=kind)
    if tag:
        ids = [pk for pk, row in found.values_list("pk", "tags") if tag in row]
        found = mine.filter(pk__in=ids[start : start + PAGE])
        count, page = len(ids), found
    else:
        count, page = found.count(), found[start : start + PAGE]
    rows = list(page.select_related("workshop").annotate(used=Count("jobs")))
    return {
        "total": mine.count(),
        "found": count,
        "tags": [{"tag": t, "count": n} for t, n in tags.most_common(40)],
        "blanks": [_card(b, b.used) for b in rows],
    }


@router.post("", response={201: BlankOut, **ERRORS})
def keep_blank(request: HttpRequest, wanted: KeepIn) -> tuple[int, dict[str, object]]:
    """Keep a job's blank."""
    job = get_object_or_404(Job.objects.select_related("workshop"), pk=wanted.job, workshop=workshop_of(request))
    return 201, _whole(_kept(request, keeping.keep(job, wanted.name).pk))


@router.get("/export", response={200: bytes, **ERRORS})
def export_shelf(request: HttpRequest) -> HttpResponse:
    """The whole Shelf as one JSON file."""
    body = json.dumps(keeping.exported(workshop_of(request)), ensure_ascii=False, indent=1)
    return HttpResponse(
        body,
        content_type="application/json",
        headers={"Content-Disposition": 'attachment; filename="shelf.wimple.json"'},
    )


@router.post("/import", response={202: WorkOut, **ERRORS})
def import_shelf(request: HttpRequest, file: File[UploadedFile]) -> tuple[int, Work]:
    """Put the blanks of an exported Shelf beside those there are: all, or none."""
    with seen_from("file"):
        brought = read_sent(file, settings.MOST_SHELF_FILE_BYTES, BadDocument)
    work = Work(workshop=workshop_of(request), kind=Work.Kind.SHELF, brought=brought)
    return 202, start(work)


@router.get("/compare", response={200: ComparisonOut, **ERRORS})
def compare_two(request: HttpRequest, first: Number, second: Number) -> dict[str, object]:
    """Is this the same blank as last time? Both measurements held against each other, their spread taken into
    account."""
    a, b = _kept(request, first), _kept(request, second)
    style = a.workshop.style
    found = compare(
        keeping.measured_blank(a.load(), a.file_bytes(), a.workshop),
        keeping.measured_blank(b.load(), b.file_bytes(), b.workshop),
        a.kind == b.kind,
    )
    fine: LengthStyle = "mm" if style == "mm" else "in_decimal"
    rows = [
        {
            "name": d.name,
            "first": format_length(d.first, fine, 1),
            "second": format_length(d.second, fine, 1),
            "apart": format_length(d.apart, fine, 2),
            "spread": format_length(d.spread, fine, 2),
            "level": d.level,
        }
        for d in found.differences
    ]
    return {"level": found.level, "sentence": worded(found.sentence, style), "differences": rows}


@router.get("/{int:blank_id}", response={200: BlankOut, **ERRORS})
def get_blank(request: HttpRequest, blank_id: int) -> dict[str, object]:
    """A kept blank, whole."""
    return _whole(_kept(request, blank_id))


@router.patch("/{int:blank_id}", response={200: BlankOut, **ERRORS})
def change_blank(request: HttpRequest, blank_id: int, change: ChangeIn) -> dict[str, object]:
    """Change its name, note or tags."""
    kept = _kept(request, blank_id)
    if change.name is not None:
        kept.name = change.name
    if change.note is not None:
        kept.note = change.note
    if change.tags is not None:
        kept.tags = list(dict.fromkeys(t.strip()[:40] for t in change.tags if t.strip()))
    kept.changed = timezone.now()
    kept.write_search()
    kept.save()
    return _whole(kept)


@router.delete("/{int:blank_id}", response={204: None, **ERRORS})
def drop_blank(request: HttpRequest, blank_id: int) -> tuple[int, None]:
    """Take a blank off the Shelf for good; the jobs that used it keep theirs."""
    _kept(request, blank_id).delete()
    return 204, None


@router.post("/{int:blank_id}/copy", response={201: BlankOut, **ERRORS})
def copy_blank(request: HttpRequest, blank_id: int) -> tuple[int, dict[str, object]]:
    """The same blank once more."""
    return 201, _whole(_kept(request, keeping.duplicate(_kept(request, blank_id)).pk))


@router.post("/{int:blank_id}/jobs", response={201: StartedOut, **ERRORS})
def start_job(request: HttpRequest, blank_id: int, wanted: StartIn) -> tuple[int, dict[str, int]]:
    """Start a job on this blank."""
    return 201, {"job": keeping.start_job(_kept(request, blank_id), wanted.title, who(request)).pk}


@router.post("/{int:blank_id}/picture", response={200: BlankOut, **ERRORS})
def set_picture(request: HttpRequest, blank_id: int, file: File[UploadedFile]) -> dict[str, object]:
    """Give the blank a picture; it is kept small and without its metadata."""
    kept = _kept(request, blank_id)
    with seen_from("file"):
        kept.picture = read_apart(picture_in, read_sent(file, settings.MOST_UPLOAD_BYTES, BadReading))
    kept.save(update_fields=["picture"])
    return _whole(kept)


@router.get("/{int:blank_id}/picture", response={200: bytes, **ERRORS})
def get_picture(request: HttpRequest, blank_id: int) -> HttpResponse:
    """The blank's picture."""
    kept = _kept(request, blank_id)
    if kept.picture is None:
        raise Http404
    return HttpResponse(
        bytes(kept.picture), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=60"}
    )
