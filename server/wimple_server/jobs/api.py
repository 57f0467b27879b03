"""Jobs over HTTP: thin; every endpoint parses, calls one thing and returns."""

from __future__ import annotations

import datetime as dt
import io
import zipfile
from typing import Any, Literal

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from wimple_core.artwork import clean_svg, read_outline, read_svg
from wimple_core.errors import BadDrawing, BadReading
from wimple_core.figures import worded
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job
from wimple_core.job.blanks import Blank
from wimple_core.job.document import Placement
from wimple_core.job.tables import CUTTERS, FILMS, Cutter, Film
from wimple_core.measure.mesh import load_mesh

from ..workshops.models import workshop_of
from .building import scene_for, suggested_placement, summary_for
from .models import Drawing, Export, Flattening, Job, PhotoReading, Work
from .scene_shapes import FaultOut, PaintOut, Ring, Scene
from .starting import STARTING_BLANKS, new_document
from .tasks import flatten_mesh, make_files, read_photo

router = Router(tags=["jobs"])
StepName = Literal["measure", "unwrap", "artwork", "layers", "sheets", "layup", "price"]
Raw = dict[str, Any]
"""A job document as typed: lengths may still be words. The core reads it."""


class TicketOut(Schema):
    """A job on the Bench."""

    id: int
    title: str
    customer: str
    due: dt.date | None
    quantity: int
    blank: str
    changed: dt.datetime
    worst: Literal["ok", "look", "stop"]
    step: str
    sentence: str
    bounds: tuple[float, float, float, float]
    outline: list[Ring]
    paints: list[PaintOut]


class JobOut(Schema):
    id: int
    revision: int
    document: JobDocument
    drawings: list[str]
    can_undo: bool
    can_redo: bool


StartKind = Literal["cup", "mug", "stack", "revolution", "dome", "panel", "curved_panel", "rise_panel", "insert"]


class NewJob(Schema):
    title: str = Field("New job", max_length=120)
    kind: StartKind = "cup"


class SaveJob(Schema):
    revision: int = Field(ge=0, le=2**31)
    document: Raw


class HistoryIn(Schema):
    revision: int = Field(ge=0, le=2**31)


class BuildIn(Schema):
    document: Raw
    step: StepName = "measure"


class CopyIn(Schema):
    document: Raw


class DrawingOut(Schema):
    """A drawing taken in, and where it goes first: as large as is free on the side that is seen."""

    file: str
    width: float
    height: float
    placement: Placement


class ExportOut(Schema):
    id: int
    status: Literal["waiting", "running", "done", "failed", "stopped"]
    done: int
    total: int
    working_on: str
    names: list[str]
    error: FaultOut | None


class BlankFileOut(Schema):
    """A file taken in for a blank: its name, and how large what it holds is, in the file's own numbers."""

    file: str
    width: float
    height: float


class MarksOut(Schema):
    """Where the known length and the axis probably are, in pixels of the upright picture."""

    known: tuple[tuple[float, float], tuple[float, float]]
    axis: tuple[tuple[float, float], tuple[float, float]]
    width: int
    height: int


class PhotoOut(Schema):
    id: int
    name: str
    status: Literal["waiting", "running", "done", "failed", "stopped"]
    working_on: str
    marks: MarksOut | None
    error: FaultOut | None


class FlatteningOut(Schema):
    id: int
    status: Literal["waiting", "running", "done", "failed", "stopped"]
    working_on: str
    share: float
    error: FaultOut | None


class Tables(Schema):
    films: list[Film]
    cutters: list[Cutter]
    blanks: dict[str, Blank]


class ErrorOut(Schema):
    """The one shape of every error."""

    code: str
    field: str
    message: str
    hint: str
    faults: list[FaultOut]


class StaleOut(ErrorOut):
    revision: int


_ERRORS: dict[int, type[Schema]] = {404: ErrorOut, 422: ErrorOut}


def _job(request: HttpRequest, job_id: int) -> Job:
    return get_object_or_404(Job.objects.select_related("workshop"), pk=job_id, workshop=workshop_of(request))


def _unit(job: Job) -> Literal["mm", "in"]:
    return "mm" if job.workshop.length_style == "mm" else "in"


def _out(job: Job) -> dict[str, object]:
    return {
        "id": job.pk,
        "revision": job.revision,
        "document": job.load(),
        "can_undo": job.can_undo,
        "can_redo": job.can_redo,
        "drawings": list(job.drawings.filter(kind=Drawing.Kind.DRAWING).values_list("name", flat=True)),
    }


@router.get("/tables", response=Tables)
def tables(request: HttpRequest) -> dict[str, object]:
    """Films and cutters as shipped, and a blank of each kind to start from."""
    return {"films": list(FILMS.values()), "cutters": list(CUTTERS.values()), "blanks": STARTING_BLANKS}


@router.get("/jobs", response=list[TicketOut])
def list_jobs(request: HttpRequest) -> list[dict[str, object]]:
    """The Bench."""
    out = []
    for job in workshop_of(request).jobs.select_related("workshop").all():
        d = job.document
        head = {
            "id": job.pk,
            "title": d.get("title", ""),
            "customer": d.get("customer", ""),
            "due": d.get("due"),
            "quantity": d.get("quantity", 1),
            "blank": d.get("blank", {}).get("name", ""),
            "changed": job.changed,
        }
        summary = summary_for(job)
        out.append(head | summary | {"sentence": worded(str(summary["sentence"]), job.workshop.length_style)})
    return out


@router.post("/jobs", response={201: JobOut, **_ERRORS})
def new_job(request: HttpRequest, wanted: NewJob) -> tuple[int, dict[str, object]]:
    """A new job with an example blank in it."""
    return 201, _out(Job.start(workshop_of(request), new_document(wanted.title, wanted.kind)))


@router.get("/jobs/{int:job_id}", response={200: JobOut, **_ERRORS})
def get_job(request: HttpRequest, job_id: int) -> dict[str, object]:
    """A job, whole."""
    return _out(_job(request, job_id))


@router.put("/jobs/{int:job_id}", response={200: JobOut, 409: StaleOut, **_ERRORS})
def save_job(request: HttpRequest, job_id: int, save: SaveJob) -> dict[str, object]:
    """Save a document made from the revision it carries; 409 where that is no longer the newest."""
    job = _job(request, job_id)
    return _out(job.save_document(save.revision, load_job(save.document, _unit(job))))


@router.delete("/jobs/{int:job_id}", response={204: None, **_ERRORS})
def delete_job(request: HttpRequest, job_id: int) -> tuple[int, None]:
    """Take a job off the Bench for good."""
    _job(request, job_id).delete()
    return 204, None


@router.post("/jobs/{int:job_id}/copy", response={201: JobOut, **_ERRORS})
def copy_job(request: HttpRequest, job_id: int, twin_of: CopyIn) -> tuple[int, dict[str, object]]:
    """Keep a document as a job of its own, with the same drawings: how both versions of a stale save are kept."""
    job = _job(request, job_id)
    document = load_job(twin_of.document, _unit(job))
    document = document.model_copy(update={"title": f"{document.title[:110]}, copy"})
    twin = Job.start(job.workshop, document)
    Drawing.objects.bulk_create([Drawing(job=twin, name=d.name, kind=d.kind, data=d.data) for d in job.drawings.all()])
    return 201, _out(twin)


@router.post("/jobs/{int:job_id}/undo", response={200: JobOut, 409: StaleOut, **_ERRORS})
def undo(request: HttpRequest, job_id: int, at: HistoryIn) -> dict[str, object]:
    """Back one save."""
    return _out(_job(request, job_id).step_in_history(at.revision, back=True))


@router.post("/jobs/{int:job_id}/redo", response={200: JobOut, 409: StaleOut, **_ERRORS})
def redo(request: HttpRequest, job_id: int, at: HistoryIn) -> dict[str, object]:
    """Forward one save."""
    return _out(_job(request, job_id).step_in_history(at.revision, back=False))


@router.post("/jobs/{int:job_id}/build", response={200: Scene, **_ERRORS})
def build_job(request: HttpRequest, job_id: int, wanted: BuildIn) -> dict[str, object]:
    """Everything a step shows, for a document that need not be saved yet."""
    job = _job(request, job_id)
    return scene_for(job, load_job(wanted.document, _unit(job)), wanted.step)


@router.post("/jobs/{int:job_id}/drawings", response={201: DrawingOut, **_ERRORS})
def add_drawing(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, dict[str, object]]:
    """Take a drawing in: it is cleaned, read once, and kept. Its name is made unique."""
    job = _job(request, job_id)
    if (file.size or 0) > settings.MOST_UPLOAD_BYTES:
        raise BadDrawing(
            f"The file has {(file.size or 0) / 1e6:.0f} MB.",
            field="file",
            hint=(
                f"At most {settings.MOST_UPLOAD_BYTES // 1_000_000} MB are taken: simplify the drawing, or take"
                " pictures out."
            ),
        )
    data = clean_svg(file.read())
    artwork = read_svg(data, 0.2)
    name = job.free_name(file.name or "drawing.svg")
    Drawing.objects.create(job=job, name=name, data=data)
    left, low, right, high = artwork.bounds
    size = (right - left, high - low)
    return 201, {"file": name, "width": size[0], "height": size[1], "placement": suggested_placement(job, *size)}


def _read_blank_file(file: UploadedFile, field: str) -> bytes:
    size = file.size or 0
    if size > settings.MOST_BLANK_FILE_BYTES:
        raise BadReading(
            f"The file has {size / 1e6:.0f} MB.",
            field=field,
            hint=f"At most {settings.MOST_BLANK_FILE_BYTES // 1_000_000} MB are taken.",
        )
    return bytes(file.read())


@router.post("/jobs/{int:job_id}/outline", response={201: BlankFileOut, **_ERRORS})
def add_outline(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, dict[str, object]]:
    """Take in an SVG or DXF drawing whose outermost contour is the panel's."""
    job = _job(request, job_id)
    data = _read_blank_file(file, "blank.outline")
    name = job.free_name(file.name or "outline.svg")
    if name.lower().endswith(".svg"):
        data = clean_svg(data)
    left, low, right, high = read_outline(data, name).bounds
    Drawing.objects.create(job=job, name=name, kind=Drawing.Kind.OUTLINE, data=data)
    return 201, {"file": name, "width": right - left, "height": high - low}


@router.post("/jobs/{int:job_id}/mesh", response={201: BlankFileOut, **_ERRORS})
def add_mesh(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, dict[str, object]]:
    """Take in a triangle mesh: STL, OBJ or PLY."""
    job = _job(request, job_id)
    data = _read_blank_file(file, "blank.file")
    name = job.free_name(file.name or "body.stl")
    extents = load_mesh(data, name).extents
    Drawing.objects.create(job=job, name=name, kind=Drawing.Kind.MESH, data=data)
    return 201, {"file": name, "width": float(extents[0]), "height": float(extents[2])}


@router.post("/jobs/{int:job_id}/photo", response={202: PhotoOut, **_ERRORS})
def add_photo(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, PhotoReading]:
    """Take in a side view; its outline is found by a task."""
    job = _job(request, job_id)
    reading = PhotoReading.objects.create(
        job=job, name=(file.name or "photo.jpg")[-150:], picture=_read_blank_file(file, "blank.photo.file")
    )
    job.photo_readings.exclude(pk=reading.pk).exclude(status__in=Work.LEFT).delete()
    read_photo.enqueue(reading.pk)
    reading.refresh_from_db()
    return 202, reading


def _photo(request: HttpRequest, reading_id: int) -> PhotoReading:
    return get_object_or_404(PhotoReading.objects.defer("picture"), pk=reading_id, job__workshop=workshop_of(request))


@router.get("/photos/{int:reading_id}", response={200: PhotoOut, **_ERRORS})
def get_photo(request: HttpRequest, reading_id: int) -> PhotoReading:
    """How far the outline is."""
    return _photo(request, reading_id)


@router.delete("/photos/{int:reading_id}", response={200: PhotoOut, **_ERRORS})
def stop_photo(request: HttpRequest, reading_id: int) -> PhotoReading:
    """Stop finding the outline."""
    work = _photo(request, reading_id)
    work.stop()
    return work


@router.post("/jobs/{int:job_id}/flattenings", response={202: FlatteningOut, **_ERRORS})
def start_flattening(request: HttpRequest, job_id: int, wanted: CopyIn) -> tuple[int, Flattening]:
    """Start laying the chosen patch of a mesh flat."""
    job = _job(request, job_id)
    document = load_job(wanted.document, _unit(job))
    if document.blank.kind != "mesh":
        raise BadReading(
            "Only a scanned body is flattened by a task.",
            field="blank.kind",
            hint="Everything else is laid flat at once.",
        )
    job.flattenings.exclude(status__in=Work.LEFT).delete()
    work = Flattening.objects.create(job=job, document=document.model_dump(mode="json"))
    flatten_mesh.enqueue(work.pk)
    work.refresh_from_db()
    return 202, work


def _flattening(request: HttpRequest, work_id: int) -> Flattening:
    return get_object_or_404(Flattening, pk=work_id, job__workshop=workshop_of(request))


@router.get("/flattenings/{int:work_id}", response={200: FlatteningOut, **_ERRORS})
def get_flattening(request: HttpRequest, work_id: int) -> Flattening:
    """How far the flattening is."""
    return _flattening(request, work_id)


@router.delete("/flattenings/{int:work_id}", response={200: FlatteningOut, **_ERRORS})
def stop_flattening(request: HttpRequest, work_id: int) -> Flattening:
    """Stop it."""
    work = _flattening(request, work_id)
    work.stop()
    return work


@router.get("/jobs/{int:job_id}/pictures/{name}", response={200: bytes, **_ERRORS})
def get_picture(request: HttpRequest, job_id: int, name: str) -> HttpResponse:
    """A photograph of the job, upright and without its metadata."""
    picture = get_object_or_404(Drawing, job=_job(request, job_id), name=name, kind=Drawing.Kind.PHOTO)
    return HttpResponse(
        bytes(picture.data), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=3600"}
    )


def _export(request: HttpRequest, export_id: int) -> Export:
    return get_object_or_404(Export, pk=export_id, job__workshop=workshop_of(request))


@router.post("/jobs/{int:job_id}/exports", response={202: ExportOut, **_ERRORS})
def ask_for_files(request: HttpRequest, job_id: int) -> tuple[int, Export]:
    """Start making all files of the job as it is saved."""
    job = _job(request, job_id)
    export = Export.objects.create(job=job, revision=job.revision, document=job.document)
    job.exports.exclude(pk=export.pk).exclude(status__in=Work.LEFT).delete()
    make_files.enqueue(export.pk)
    export.refresh_from_db()
    return 202, export


@router.get("/exports/{int:export_id}", response={200: ExportOut, **_ERRORS})
def get_export(request: HttpRequest, export_id: int) -> Export:
    """How far the files are."""
    return _export(request, export_id)


@router.delete("/exports/{int:export_id}", response={200: ExportOut, **_ERRORS})
def stop_export(request: HttpRequest, export_id: int) -> Export:
    """Stop making the files."""
    work = _export(request, export_id)
    work.stop()
    return work


def _attachment(data: bytes, name: str) -> HttpResponse:
    shown = content_disposition_header(True, name.replace("/", "-"))
    return HttpResponse(data, content_type="application/octet-stream", headers={"Content-Disposition": shown})


def _zip_of(request: HttpRequest, export_id: int) -> bytes:
    export = _export(request, export_id)
    if export.zip is None:
        raise Http404
    return bytes(export.zip)


@router.get("/exports/{int:export_id}/zip", response={200: bytes, **_ERRORS})
def get_zip(request: HttpRequest, export_id: int) -> HttpResponse:
    """All files in one zip."""
    title = str(_export(request, export_id).document.get("title", "job"))
    return _attachment(_zip_of(request, export_id), f"{title}.zip")


@router.get("/exports/{int:export_id}/files/{path:name}", response={200: bytes, **_ERRORS})
def get_file(request: HttpRequest, export_id: int, name: str) -> HttpResponse:
    """One file of the zip."""
    with zipfile.ZipFile(io.BytesIO(_zip_of(request, export_id))) as archive:
        if name not in archive.namelist():
            raise Http404
        return _attachment(archive.read(name), name.split("/")[-1])
