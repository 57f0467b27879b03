"""The Folio over HTTP: the workshop's drawings and fonts."""

from __future__ import annotations

import io
import zipfile
from collections import Counter
from dataclasses import replace
from typing import Annotated, Any, Literal

from django.conf import settings
from django.db.models import Count, OuterRef, Subquery
from django.db.models.functions import Coalesce
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.http import content_disposition_header
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from wimple_core.errors import BadDocument, BadDrawing, seen_from
from wimple_core.figures import worded
from wimple_core.views.folio import folio_in
from wimple_core.views.placed import PaintView

from ..jobs.models import Drawing, clean_name
from ..jobs.reaching import ERRORS, job_of
from ..reading import read_apart
from ..sent import read_sent
from ..workshops.models import workshop_of
from .models import FolioItem

router = Router(tags=["folio"])
PAGE = 60


class FolioCardOut(Schema):
    """A drawing or a font of the Folio; `used` counts the jobs that have it."""

    id: int
    kind: Literal["drawing", "font"]
    name: str
    file: str
    says: str
    tags: list[str]
    used: int
    kilobytes: float
    bounds: tuple[float, float, float, float]
    paints: list[PaintView]


class FolioTagOut(Schema):
    tag: str
    count: int


class FolioOut(Schema):
    total: int
    found: int
    tags: list[FolioTagOut]
    items: list[FolioCardOut]


class UsedInOut(Schema):
    job: int
    title: str


class FolioChangeIn(Schema):
    name: str | None = Field(None, min_length=1, max_length=120)
    tags: list[str] | None = Field(None, max_length=20)


class FromJobIn(Schema):
    """A file of a job, to be kept."""

    job: int = Field(ge=0, le=2**62)
    file: str = Field(min_length=1, max_length=160)


class FetchedOut(Schema):
    """The name that a file of the Folio has in a job."""

    file: str


def _item(request: HttpRequest, item_id: int) -> FolioItem:
    return get_object_or_404(FolioItem.objects.select_related("workshop"), pk=item_id, workshop=workshop_of(request))


def _out(item: FolioItem, uses: int) -> dict[str, Any]:
    return item.as_card(uses) | {"says": worded(item.card.get("says", ""), item.workshop.style)}


def _keep(request: HttpRequest, file: str, data: bytes, clean: bool = False) -> dict[str, Any]:
    """Take a file in; one that is `clean` was taken in by a job, and stays as it is there."""
    with seen_from("file"):
        taken = read_apart(folio_in, data, file)
    taken = replace(taken, data=data) if clean else taken
    item = FolioItem.keep(workshop_of(request), file, taken)
    return _out(item, item.used_in.count())


@router.get("", response={200: FolioOut, **ERRORS})
def list_folio(
    request: HttpRequest,
    q: Annotated[str, Field(max_length=200)] = "",
    tag: Annotated[str, Field(max_length=60)] = "",
    kind: Literal["", "drawing", "font"] = "",
    start: Annotated[int, Field(ge=0, le=10**6)] = 0,
) -> dict[str, object]:
    """What is in the Folio: every word of `q` must stand in its name, file or tags."""
    mine = FolioItem.objects.filter(workshop=workshop_of(request))
    rows = mine.exclude(tags=[]).values_list("pk", "tags")
    tagged = {pk: own for pk, own in rows}
    found = mine.filter(pk__in=[pk for pk, own in tagged.items() if tag in own]) if tag else mine
    for word in q.lower().split():
        found = found.filter(search__contains=word)
    if kind:
        found = found.filter(kind=kind)
    uses = Drawing.objects.filter(digest=OuterRef("digest"), job__workshop=workshop_of(request)).values("digest")
    count = Coalesce(Subquery(uses.annotate(n=Count("job", distinct=True)).values("n")), 0)
    page = found.select_related("workshop").annotate(uses=count)[start : start + PAGE]
    return {
        "total": mine.count(),
        "found": found.count(),
        "tags": [{"tag": t, "count": n} for t, n in Counter(t for own in tagged.values() for t in own).most_common(40)],
        "items": [_out(i, i.uses) for i in page],
    }


@router.post("", response={201: FolioCardOut, **ERRORS})
def add_to_folio(request: HttpRequest, file: File[UploadedFile]) -> tuple[int, dict[str, Any]]:
    """Take a drawing, a picture or a font in. What is there already is kept once."""
    with seen_from("file"):
        data = read_sent(file, settings.MOST_UPLOAD_BYTES, BadDrawing, ": simplify the drawing, or take pictures out")
    return 201, _keep(request, clean_name(file.name or "drawing.svg"), data)


@router.post("/from-job", response={201: FolioCardOut, **ERRORS})
def keep_from_job(request: HttpRequest, wanted: FromJobIn) -> tuple[int, dict[str, Any]]:
    """Keep a drawing or a font of a job."""
    drawing = get_object_or_404(Drawing, job=job_of(request, wanted.job), name=wanted.file, kind=Drawing.Kind.DRAWING)
    return 201, _keep(request, drawing.name, bytes(drawing.data), clean=True)


@router.get("/export", response={200: bytes, **ERRORS})
def export_folio(request: HttpRequest) -> HttpResponse:
    """All files of the Folio in one zip, each once, under names of their own."""
    out, taken = io.BytesIO(), set[str]()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for item in FolioItem.objects.filter(workshop=workshop_of(request)).iterator():
            name = item.file if item.file not in taken else f"{item.pk}-{item.file}"
            taken.add(name)
            archive.writestr(name, bytes(item.data))
    if not taken:
        raise BadDocument("The Folio is empty.", hint="Bring a drawing or a font in first.")
    return HttpResponse(
        out.getvalue(),
        content_type="application/zip",
        headers={"Content-Disposition": 'attachment; filename="folio.zip"'},
    )


@router.get("/{int:item_id}/used-in", response={200: list[UsedInOut], **ERRORS})
def used_in(request: HttpRequest, item_id: int) -> list[dict[str, object]]:
    """The jobs that have it, the newest changed first."""
    return [{"job": j.pk, "title": str(j)} for j in _item(request, item_id).used_in[:100]]


@router.get("/{int:item_id}/file", response={200: bytes, **ERRORS})
def carry_out(request: HttpRequest, item_id: int) -> HttpResponse:
    """Its file, to be kept elsewhere."""
    item = _item(request, item_id)
    answer = HttpResponse(bytes(item.data), content_type="application/octet-stream")
    answer.headers["Content-Disposition"] = content_disposition_header(True, item.file) or "attachment"
    return answer


@router.patch("/{int:item_id}", response={200: FolioCardOut, **ERRORS})
def change_item(request: HttpRequest, item_id: int, change: FolioChangeIn) -> dict[str, Any]:
    """Change its name or its tags."""
    item = _item(request, item_id)
    if change.name is not None:
        item.name = change.name
    if change.tags is not None:
        item.tags = list(dict.fromkeys(t.strip()[:40] for t in change.tags if t.strip()))
    item.changed = timezone.now()
    item.write_search()
    item.save()
    return _out(item, item.used_in.count())


@router.delete("/{int:item_id}", response={204: None, **ERRORS})
def drop_item(request: HttpRequest, item_id: int) -> tuple[int, None]:
    """Take it out of the Folio for good; the jobs that have it keep theirs."""
    _item(request, item_id).delete()
    return 204, None


@router.post("/{int:item_id}/jobs/{int:job_id}", response={201: FetchedOut, **ERRORS})
def fetch_into(request: HttpRequest, item_id: int, job_id: int) -> tuple[int, dict[str, str]]:
    """Bring it into a job."""
    return 201, {"file": _item(request, item_id).into(job_of(request, job_id))}
