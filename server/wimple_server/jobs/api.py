"""Jobs over HTTP: thin; every endpoint parses, calls one thing and returns."""

from __future__ import annotations

import datetime as dt
import itertools
import json
from typing import Any, Literal

from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from ninja import Router, Schema
from pydantic import Field
from wimple_core.figures import LengthStyle, worded
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job
from wimple_core.job.blanks import Blank
from wimple_core.job.limits import list_limits
from wimple_core.job.shipped import Cutter, Film, Tape
from wimple_core.measure import starting_blanks
from wimple_core.views.drawn import Box, Ring
from wimple_core.views.judged import LevelName
from wimple_core.views.placed import PaintView
from wimple_core.views.scene import Scene

from ..lines import LINES, in_lines
from ..workshops.models import workshop_of
from .building import scene_for, scene_in_lines
from .models import Drawing, Job, head_of
from .reaching import ERRORS, StaleOut, job_of, unit_of

router = Router(tags=["jobs"])
StepName = Literal["measure", "unwrap", "artwork", "layers", "sheets", "layup", "price"]
Raw = dict[str, Any]
"""A job document as typed: lengths may still be words. The core reads it."""
MOST_PARTS = 200


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


class CopyIn(Schema):
    document: Raw


class TablesOut(Schema):
    """What the workshop has, and a blank of each kind to start from."""

    films: list[Film]
    cutters: list[Cutter]
    tapes: list[Tape]
    blanks: dict[str, Blank]
    limits: dict[str, tuple[int, int | None]]
    """The fewest and the most entries of each list of the document; those of a blank stand under its kind."""


def _out(job: Job) -> dict[str, object]:
    return {
        "id": job.pk,
        "revision": job.revision,
        "document": job.load(),
        "can_undo": job.can_undo,
        "can_redo": job.can_redo,
        "drawings": list(job.drawings.filter(kind=Drawing.Kind.DRAWING).values_list("name", flat=True)),
    }


@router.get("/tables", response=TablesOut)
def tables(request: HttpRequest) -> dict[str, object]:
    """The workshop's films, tapes and cutters, and a blank of each kind to start from."""
    mine = workshop_of(request).load_tables()
    return {
        "films": mine.films,
        "cutters": mine.cutters,
        "tapes": mine.tapes,
        "blanks": starting_blanks(),
        "limits": list_limits(),
    }


@router.get("/jobs", response=list[TicketOut])
def list_jobs(request: HttpRequest) -> HttpResponse:
    """The Bench: tickets as they were last written. Ask for the work `tickets` where some are not."""
    workshop = workshop_of(request)
    tickets = ",".join(_ticket(job, workshop.style) for job in Job.tickets_of(workshop))
    return HttpResponse(f"[{tickets}]", content_type="application/json")


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
    return 201, _out(Job.start_with(workshop_of(request), wanted.title, wanted.kind))


@router.get("/jobs/{int:job_id}", response={200: JobOut, **ERRORS})
def get_job(request: HttpRequest, job_id: int) -> dict[str, object]:
    """A job, whole."""
    return _out(job_of(request, job_id))


@router.put("/jobs/{int:job_id}", response={200: JobOut, 409: StaleOut, **ERRORS})
def save_job(request: HttpRequest, job_id: int, save: SaveJob) -> dict[str, object]:
    """Save a document made from the revision it carries; 409 where that is no longer the newest."""
    job = job_of(request, job_id)
    return _out(job.save_document(save.revision, load_job(save.document, unit_of(job))))


@router.delete("/jobs/{int:job_id}", response={204: None, **ERRORS})
def delete_job(request: HttpRequest, job_id: int) -> tuple[int, None]:
    """Take a job off the Bench for good."""
    job_of(request, job_id).delete()
    return 204, None


@router.post("/jobs/{int:job_id}/copy", response={201: JobOut, **ERRORS})
def copy_job(request: HttpRequest, job_id: int, twin_of: CopyIn) -> tuple[int, dict[str, object]]:
    """Keep a document as a job of its own, with the same drawings: how both versions of a stale save are kept."""
    job = job_of(request, job_id)
    return 201, _out(job.copied(load_job(twin_of.document, unit_of(job))))


@router.post("/jobs/{int:job_id}/undo", response={200: JobOut, 409: StaleOut, **ERRORS})
def undo(request: HttpRequest, job_id: int, at: HistoryIn) -> dict[str, object]:
    """Back one save."""
    return _out(job_of(request, job_id).step_in_history(at.revision, back=True))


@router.post("/jobs/{int:job_id}/redo", response={200: JobOut, 409: StaleOut, **ERRORS})
def redo(request: HttpRequest, job_id: int, at: HistoryIn) -> dict[str, object]:
    """Forward one save."""
    return _out(job_of(request, job_id).step_in_history(at.revision, back=False))


@router.post("/jobs/{int:job_id}/build", response={200: Scene, **ERRORS})
def build_job(request: HttpRequest, job_id: int, wanted: BuildIn) -> HttpResponse | StreamingHttpResponse:
    """Everything a step shows, for a document that need not be saved yet, without the parts that are there already.

    Who accepts lines (`application/x-ndjson`) hears how far it is as it goes: each line a `DoingView` or a `Scene`.
    """
    job = job_of(request, job_id)
    document, have = load_job(wanted.document, unit_of(job)), frozenset(wanted.have)
    if LINES not in request.headers.get("Accept", ""):
        return HttpResponse(scene_for(job, document, wanted.step, have), content_type="application/json")
    lines = scene_in_lines(job, document, wanted.step, have)
    first = next(lines)
    return in_lines(request, itertools.chain([first], lines))
