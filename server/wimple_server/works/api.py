"""Long work over HTTP: asked for, asked about, stopped; and the files that come of it."""

from __future__ import annotations

import io
import zipfile
from typing import Any, Literal, get_args

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Router, Schema
from pydantic import Field
from wimple_core.errors import BadDocument
from wimple_core.job import load_job
from wimple_core.views.judged import FaultView
from wimple_core.views.so_far import LayView

from ..jobs.reaching import ERRORS, job_of, unit_of
from ..people.roles import require, viewers
from ..workshops.models import Role, workshop_of
from .models import LEFT, Work
from .tasks import start

router = Router(tags=["works"])
ASKED_FOR = Literal["files", "photo", "patch", "trace", "lay", "tickets"]


class WorkIn(Schema):
    """What is asked for: the files of a job as it is saved, a slow result by its key for a document, or the tickets."""

    kind: ASKED_FOR
    job: int | None = Field(None, ge=0, le=2**62)
    key: str = Field("", max_length=160)
    document: dict[str, Any] | None = None


class MarksOut(Schema):
    """Where the known length and the axis probably are, in pixels of the upright picture."""

    known: tuple[tuple[float, float], tuple[float, float]]
    axis: tuple[tuple[float, float], tuple[float, float]]
    width: int
    height: int


class PhotoTaken(Schema):
    """A photograph taken in, under its name."""

    name: str
    marks: MarksOut


class ResultOut(Schema):
    """What came of a work: the names of the files made, a photograph taken in, how many blanks were, or the best lay so
    far while one is looked for."""

    names: list[str] | None = None
    photo: PhotoTaken | None = None
    taken: int | None = None
    lay: LayView | None = None


class WorkOut(Schema):
    """Long work: how far it is, and what came of it. `error` says why it failed."""

    id: int
    kind: str
    key: str
    status: Literal["waiting", "running", "done", "failed", "stopped"]
    working_on: str
    share: float
    result: ResultOut
    error: FaultView | None

    @staticmethod
    def resolve_error(work: Work) -> FaultView | None:
        bad = work.error
        if bad is None:
            return None
        return FaultView(
            code=bad.get("code", ""),
            field=bad["field"],
            message=bad["message"],
            hint=bad["hint"],
            places=bad.get("places", []),
        )


def _asked(request: HttpRequest, wanted: WorkIn) -> Work:
    workshop = workshop_of(request)
    if wanted.kind == "tickets":
        return Work(workshop=workshop, kind=wanted.kind)
    if wanted.job is None:
        raise BadDocument("This is work for a job.", field="job", hint="Say which.")
    job = job_of(request, wanted.job)
    if wanted.kind == "files":
        return Work(workshop=workshop, job=job, kind=wanted.kind, about={"document": job.document})
    document = load_job(wanted.document, unit_of(job))
    about = {"document": document.model_dump(mode="json")}
    return Work(workshop=workshop, job=job, kind=wanted.kind, key=wanted.key, about=about)


@router.post("", response={202: WorkOut, **ERRORS}, auth=viewers)
def ask_for_work(request: HttpRequest, wanted: WorkIn) -> tuple[int, Work]:
    """Start long work. The same slow result is made once, however often it is asked for."""
    work = _asked(request, wanted)
    if wanted.kind != "files":
        under_way = Work.objects.filter(
            workshop=work.workshop, job=work.job, kind=work.kind, key=work.key, status__in=LEFT
        ).first()
        if under_way is not None:
            return 202, under_way
    return 202, start(work)


def _work(request: HttpRequest, work_id: int) -> Work:
    return get_object_or_404(Work.objects.defer("brought", "made"), pk=work_id, workshop=workshop_of(request))


@router.get("/{int:work_id}", response={200: WorkOut, **ERRORS})
def get_work(request: HttpRequest, work_id: int) -> Work:
    """How far it is."""
    return _work(request, work_id)


@router.delete("/{int:work_id}", response={200: WorkOut, **ERRORS}, auth=viewers)
def stop_work(request: HttpRequest, work_id: int) -> Work:
    """Stop it."""
    work = _work(request, work_id)
    if work.kind not in get_args(ASKED_FOR):
        require(request, Role.MAKER)
    work.stop()
    return work


def _attachment(data: bytes, name: str) -> HttpResponse:
    shown = content_disposition_header(True, name.replace("/", "-"))
    return HttpResponse(data, content_type="application/octet-stream", headers={"Content-Disposition": str(shown)})


def _zip_of(work: Work) -> bytes:
    if work.made is None:
        raise Http404
    return bytes(work.made)


@router.get("/{int:work_id}/zip", response={200: bytes, **ERRORS})
def get_zip(request: HttpRequest, work_id: int) -> HttpResponse:
    """All files in one zip."""
    work = _work(request, work_id)
    return _attachment(_zip_of(work), f"{work.about.get('document', {}).get('title', 'job')}.zip")


@router.get("/{int:work_id}/files/{path:name}", response={200: bytes, **ERRORS})
def get_file(request: HttpRequest, work_id: int, name: str) -> HttpResponse:
    """One file of the zip."""
    with zipfile.ZipFile(io.BytesIO(_zip_of(_work(request, work_id)))) as archive:
        if name not in archive.namelist():
            raise Http404
        return _attachment(archive.read(name), name.split("/")[-1])
