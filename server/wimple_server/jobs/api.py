"""Jobs over HTTP: thin; every endpoint parses, calls one thing and returns."""

from __future__ import annotations

import datetime as dt
import json
from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from ninja import Router, Schema
from pydantic import Field
from wimple_core.figures import LengthStyle, worded
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job
from wimple_core.job.document import Placement, Source
from wimple_core.views.drawn import Box, Ring
from wimple_core.views.judged import LevelName
from wimple_core.views.placed import PaintView
from wimple_core.views.scene import DoingView, LaterView, RemediesView, RestedView, Scene

from ..lanes import LANES
from ..lines import LINES, begun, in_lines
from ..people.accounts import who
from ..people.roles import viewers
from ..workshops.models import workshop_of
from . import history
from .building import Asked, makeable, scene_for, scene_in_lines, suggested_source
from .models import Drawing, Job, head_of
from .reaching import ERRORS, StaleOut, job_of, unit_of

router = Router(tags=["jobs"])
StepName = Literal["measure", "unwrap", "artwork", "layers", "sheets", "layup", "price"]
Raw = dict[str, Any]
"""A job document as typed: lengths may still be words. The core reads it."""
MOST_PARTS = 200
PAGE = 50
"""So many tickets, or revisions, are told at a time."""


class TicketOut(Schema):
    """A job on the Bench. Until its ticket is written its drawing is empty and `worst` null."""

    id: int
    title: str
    customer: str
    due: dt.date | None
    quantity: int
    blank: str
    changed: dt.datetime
    worst: LevelName | None
    step: str
    sentence: str
    bounds: Box
    outline: list[Ring]
    paints: list[PaintView]


class BenchOut(Schema):
    """A page of the Bench; `total` is how many there are in all."""

    total: int
    tickets: list[TicketOut]


class JobOut(Schema):
    id: int
    revision: int
    document: JobDocument
    drawings: list[str]
    can_undo: bool
    can_redo: bool


class NewJob(Schema):
    title: str = Field("New job", max_length=120)
    kind: str = Field("cup", max_length=20)


class SaveJob(Schema):
    revision: int = Field(ge=0, le=2**31)
    document: Raw


class HistoryIn(Schema):
    revision: int = Field(ge=0, le=2**31)


class BuildIn(Schema):
    """A document to build, and the parts of scenes that whoever asks has already, by their digests."""

    document: Raw
    step: StepName = "measure"
    have: list[str] = Field(default=[], max_length=MOST_PARTS)
    page: str = Field("", max_length=40)
    """Tells the page that asks from others: what was left to look at for it is dropped."""
    rest: bool = False
    """Is what comes after the open step to be looked at, once that is shown?"""


class RestoreIn(HistoryIn):
    to: int = Field(ge=0, le=2**31)


class RevisionOut(Schema):
    """One revision of a job: who made it, how, and what differs from the one before."""

    revision: int
    at: dt.datetime
    by: str
    via: Literal["started", "saved", "undone", "redone", "restored"]
    what: str


class RevisionsOut(Schema):
    total: int
    revisions: list[RevisionOut]


class MakeIn(Schema):
    make: str = Field(max_length=40)
    """One of the tables' `makes`."""


class MadeOut(Schema):
    """Something made without a file as an element may have it: as large as goes, and where it goes first."""

    source: Source
    placement: Placement
    knocks_out: bool


class CopyIn(Schema):
    document: Raw


def _out(job: Job) -> dict[str, object]:
    return {
        "id": job.pk,
        "revision": job.revision,
        "document": job.load(),
        "can_undo": job.can_undo,
        "can_redo": job.can_redo,
        "drawings": list(job.drawings.filter(kind=Drawing.Kind.DRAWING).values_list("name", flat=True)),
    }


@router.get("/jobs", response=BenchOut)
def list_jobs(
    request: HttpRequest,
    q: Annotated[str, Field(max_length=200)] = "",
    start: Annotated[int, Field(ge=0, le=10**6)] = 0,
) -> HttpResponse:
    """The Bench, a page at a time: tickets as they were last written. Ask for the work `tickets` where some are not."""
    workshop = workshop_of(request)
    found = Job.bench(workshop, q)
    tickets = ",".join(_ticket(job, workshop.style) for job in Job.tickets_of(found[start : start + PAGE]))
    return HttpResponse(f'{{"total":{found.count()},"tickets":[{tickets}]}}', content_type="application/json")


NOT_WRITTEN: dict[str, object] = {"worst": None, "step": "measure", "bounds": (0, 0, 1, 1), "outline": [], "paints": []}


def _ticket(job: Job, style: LengthStyle) -> str:
    """A `TicketOut`, what is written of it passed on as it is: five hundred are not read to be written again."""
    fresh = job.ticket_revision == job.revision
    sentence = worded(job.sentence, style) if fresh else ""
    own = json.dumps({"id": job.pk, "changed": job.changed.isoformat(), "sentence": sentence})
    rest = job.ticket if fresh else json.dumps({**head_of(job.document), **NOT_WRITTEN})
    return f"{own[:-1]},{rest[1:]}"


@router.post("/jobs", response={201: JobOut, **ERRORS})
def new_job(request: HttpRequest, wanted: NewJob) -> tuple[int, dict[str, object]]:
    """A new job with an example blank in it."""
    return 201, _out(Job.start_with(workshop_of(request), wanted.title, wanted.kind, who(request)))


@router.get("/jobs/{int:job_id}", response={200: JobOut, **ERRORS})
def get_job(request: HttpRequest, job_id: int) -> dict[str, object]:
    """A job, whole."""
    return _out(job_of(request, job_id))


@router.put("/jobs/{int:job_id}", response={200: JobOut, 409: StaleOut, **ERRORS})
def save_job(request: HttpRequest, job_id: int, save: SaveJob) -> dict[str, object]:
    """Save a document made from the revision it carries; 409 where that is no longer the newest."""
    job = job_of(request, job_id)
    return _out(history.save(job, save.revision, load_job(save.document, unit_of(job)), who(request)))


@router.delete("/jobs/{int:job_id}", response={204: None, **ERRORS})
def delete_job(request: HttpRequest, job_id: int) -> tuple[int, None]:
    """Take a job off the Bench for good."""
    job_of(request, job_id).delete()
    return 204, None


@router.post("/jobs/{int:job_id}/copy", response={201: JobOut, **ERRORS})
def copy_job(request: HttpRequest, job_id: int, twin_of: CopyIn) -> tuple[int, dict[str, object]]:
    """Keep a document as a job of its own, with the same drawings: how both versions of a stale save are kept."""
    job = job_of(request, job_id)
    return 201, _out(job.copied(load_job(twin_of.document, unit_of(job)), who(request)))


@router.post("/jobs/{int:job_id}/undo", response={200: JobOut, 409: StaleOut, **ERRORS})
def undo(request: HttpRequest, job_id: int, at: HistoryIn) -> dict[str, object]:
    """Back one save."""
    return _out(history.step(job_of(request, job_id), at.revision, back=True, by=who(request)))


@router.post("/jobs/{int:job_id}/redo", response={200: JobOut, 409: StaleOut, **ERRORS})
def redo(request: HttpRequest, job_id: int, at: HistoryIn) -> dict[str, object]:
    """Forward one save."""
    return _out(history.step(job_of(request, job_id), at.revision, back=False, by=who(request)))


@router.get("/jobs/{int:job_id}/history", response={200: RevisionsOut, **ERRORS})
def list_revisions(
    request: HttpRequest, job_id: int, start: Annotated[int, Field(ge=0, le=10**6)] = 0
) -> dict[str, object]:
    """A job's revisions, the newest first, a page at a time."""
    states = job_of(request, job_id).states.defer("document").order_by("-revision")
    return {"total": states.count(), "revisions": list(states[start : start + PAGE])}


@router.post("/jobs/{int:job_id}/restore", response={200: JobOut, 409: StaleOut, **ERRORS})
def restore(request: HttpRequest, job_id: int, wanted: RestoreIn) -> dict[str, object]:
    """Bring a revision back as the newest."""
    return _out(history.restore(job_of(request, job_id), wanted.revision, wanted.to, who(request)))


@router.post(
    "/jobs/{int:job_id}/build",
    response={200: Scene | LaterView | RemediesView | RestedView | DoingView, **ERRORS},
    auth=viewers,
)
def build_job(request: HttpRequest, job_id: int, wanted: BuildIn) -> HttpResponse | StreamingHttpResponse:
    """Everything a step shows, for a document that need not be saved yet, without the parts that are there already.

    Who accepts lines (`application/x-ndjson`) hears how far it is as it goes: each line a `DoingView` or a `Scene`, the
    last of them whole. With `rest` the answer stays open after it: a `LaterView` for each later step and alternative, a
    `RemediesView` for each remedy that was tried and helps, or a `RestedView`; it ends when all is looked at, and at
    the next request of the same page.
    """
    job = job_of(request, job_id)
    member = str(request.user.pk or "")
    LANES.drop(member, wanted.page)
    document, have = load_job(wanted.document, unit_of(job)), frozenset(wanted.have)
    line = request.META.get("gunicorn.socket")
    asked = Asked(job, document, wanted.step, have, wanted.rest, member, wanted.page, line)
    if LINES not in request.headers.get("Accept", ""):
        return HttpResponse(scene_for(asked), content_type="application/json")
    return in_lines(request, begun(scene_in_lines(asked)))


@router.post("/jobs/{int:job_id}/make", response={200: MadeOut, **ERRORS}, auth=viewers)
def suggest_made(request: HttpRequest, job_id: int, wanted: MakeIn) -> dict[str, object]:
    """How words, a shape or a recipe would go onto the job's blank; nothing is changed."""
    job = job_of(request, job_id)
    made = makeable(wanted.make)
    source, placement = suggested_source(job, made)
    return {"source": source, "placement": placement, "knocks_out": made.knocks_out}
