"""Files of a job over HTTP: drawings, outlines, meshes and photographs taken in."""

from __future__ import annotations

from typing import Annotated

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field
from wimple_core.artwork.lettering import ON_ANYWAY, feature_words, shipped_face
from wimple_core.artwork.tracing import is_picture
from wimple_core.errors import BadDocument, BadDrawing, BadReading, seen_from
from wimple_core.job.document import Placement, Reference
from wimple_core.job.source import is_font_file
from wimple_core.taking_in import drawing_in, features_in, mesh_in, outline_in, reference_in, table_in

from ..reading import read_apart
from ..sent import read_sent
from ..works.api import WorkOut
from ..works.models import Work
from ..works.tasks import start
from .building import suggested_placement, suggested_reference
from .models import Drawing
from .reaching import ERRORS, job_of

router = Router(tags=["files"])


class DrawingOut(Schema):
    """A drawing taken in, and where it goes first: as large as is free on the side that is seen."""

    file: str
    width: float
    height: float
    placement: Placement


class FeatureOut(Schema):
    """A form that a font offers, by its OpenType tag, in words, and whether it is on unless switched off."""

    tag: str
    words: str
    on: bool


class BlankFileOut(Schema):
    """A file taken in for a blank: its name, and how large what it holds is, in the file's own numbers. `unit` is what
    those probably are."""

    file: str
    width: float
    height: float
    unit: str = "mm"


@router.post("/jobs/{int:job_id}/drawings", response={201: DrawingOut, **ERRORS})
def add_drawing(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, dict[str, object]]:
    """Take a drawing in: it is cleaned, read once, and kept. Its name is made unique."""
    job = job_of(request, job_id)
    with seen_from("file"):
        advice = ": simplify the drawing, or take pictures out"
        drawn = read_apart(drawing_in, read_sent(file, settings.MOST_UPLOAD_BYTES, BadDrawing, advice))
    name = Drawing.take_in(job, file.name or "drawing.svg", drawn.data).name
    left, low, right, high = drawn.bounds
    size = (right - left, high - low)
    return 201, {"file": name, "width": size[0], "height": size[1], "placement": suggested_placement(job, *size)}


class ListOut(Schema):
    """A list as it was read: the headings of its columns, if it has any, its lines, and what was done to it."""

    headings: list[str]
    rows: list[list[str]]
    notes: list[str]


@router.post("/jobs/{int:job_id}/list", response={200: ListOut, **ERRORS})
def read_list(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, object]:
    """Read a list in columns, typed or from a CSV file. Nothing is kept of it: the document holds its lines."""
    job_of(request, job_id)
    with seen_from("names.rows"):
        table = read_apart(table_in, read_sent(file, settings.MOST_LIST_BYTES, BadDocument))
    return {"headings": table.headings, "rows": table.rows, "notes": table.notes}


@router.post("/jobs/{int:job_id}/reference", response={201: Reference, **ERRORS})
def add_reference(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, Reference]:
    """Take in a picture to work by; it is kept upright and without its metadata. Where it lies first."""
    job = job_of(request, job_id)
    with seen_from("reference.file"):
        data, width, height = read_apart(reference_in, read_sent(file, settings.MOST_UPLOAD_BYTES, BadReading))
    stem = (file.name or "picture").rpartition(".")[0] or "picture"
    name = Drawing.take_in(job, f"{stem}.jpg", data, Drawing.Kind.PHOTO).name
    return 201, suggested_reference(job, name, width, height)


@router.get("/jobs/{int:job_id}/place", response={200: Placement, **ERRORS})
def first_place(
    request: HttpRequest,
    job_id: int,
    width: Annotated[float, Field(gt=0, le=1e6)],
    height: Annotated[float, Field(gt=0, le=1e6)],
) -> Placement:
    """Where a drawing of that size (mm) goes first: as large as is free on the side that is seen."""
    return suggested_placement(job_of(request, job_id), width, height)


@router.get("/jobs/{int:job_id}/features", response={200: list[FeatureOut], **ERRORS})
def list_features(
    request: HttpRequest, job_id: int, font: Annotated[str, Field(min_length=1, max_length=160)]
) -> list[dict[str, object]]:
    """The forms that a font offers, shipped or one of the job's files."""
    job = job_of(request, job_id)
    if is_font_file(font):
        tags = read_apart(features_in, bytes(get_object_or_404(Drawing, job=job, name=font).data))
    else:
        tags = shipped_face(font).features
    return [{"tag": t, "words": feature_words(t), "on": t in ON_ANYWAY} for t in tags]


@router.post("/jobs/{int:job_id}/outline", response={201: BlankFileOut, **ERRORS})
def add_outline(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, dict[str, object]]:
    """Take in an SVG or DXF drawing whose outermost contour is the panel's."""
    job = job_of(request, job_id)
    wanted = file.name or "outline.svg"
    with seen_from("blank.outline"):
        drawn = read_apart(outline_in, read_sent(file, settings.MOST_BLANK_FILE_BYTES, BadReading), wanted)
    name = Drawing.take_in(job, wanted, drawn.data, Drawing.Kind.OUTLINE).name
    left, low, right, high = drawn.bounds
    return 201, {"file": name, "width": right - left, "height": high - low}


@router.post("/jobs/{int:job_id}/mesh", response={201: BlankFileOut, **ERRORS})
def add_mesh(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, dict[str, object]]:
    """Take in a triangle mesh: STL, OBJ or PLY."""
    job = job_of(request, job_id)
    wanted = file.name or "body.stl"
    with seen_from("blank.file"):
        data = read_sent(file, settings.MOST_BLANK_FILE_BYTES, BadReading)
        mesh = read_apart(mesh_in, data, wanted)
    name = Drawing.take_in(job, wanted, data, Drawing.Kind.MESH).name
    return 201, {"file": name, "width": mesh.extents[0], "height": mesh.extents[2], "unit": mesh.unit}


@router.post("/jobs/{int:job_id}/photo", response={202: WorkOut, **ERRORS})
def add_photo(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> tuple[int, Work]:
    """Take in a side view; its outline is found by a task."""
    job = job_of(request, job_id)
    with seen_from("blank.photo.file"):
        brought = read_sent(file, settings.MOST_BLANK_FILE_BYTES, BadReading)
    work = Work(
        workshop=job.workshop,
        job=job,
        kind=Work.Kind.PICTURE,
        about={"name": (file.name or "photo.jpg")[-150:]},
        brought=brought,
    )
    return 202, start(work)


@router.get("/jobs/{int:job_id}/pictures/{name}", response={200: bytes, **ERRORS})
def get_picture(request: HttpRequest, job_id: int, name: str) -> HttpResponse:
    """A photograph of the job, or a picture that is traced, upright and without its metadata."""
    kinds = (Drawing.Kind.PHOTO, Drawing.Kind.DRAWING)
    picture = get_object_or_404(Drawing, job=job_of(request, job_id), name=name, kind__in=kinds)
    data = bytes(picture.data)
    if not is_picture(data):
        raise Http404
    kind = "image/png" if data[:4] == b"\x89PNG" else "image/jpeg"
    return HttpResponse(data, content_type=kind, headers={"Cache-Control": "private, max-age=3600"})
