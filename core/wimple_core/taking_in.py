"""Files from outside, one function for each kind: what comes in as bytes goes out checked, cleaned and small.

They are done apart (`apart.Apart.run`), so everything they take and give can be pickled, and none of them knows what
asked for it. Raises of each: BadDrawing, BadReading or BadDocument in a maker's words, with fields of the file's own.
"""

from __future__ import annotations

import base64
import binascii
import io
import json
import time
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image

from .artwork import Artwork, Reading, clean_svg, read_drawing, read_outline, take_in_drawing
from .artwork.drawing import page_width
from .artwork.lettering import open_face
from .artwork.tracing import trace
from .errors import BadDocument, BadDrawing, WimpleError, seen_from
from .fit.separated import as_bytes, prepare, tolerance_for
from .measure.mesh import likely_unit, load_mesh
from .measure.photo import suggest_marks
from .measure.silhouette import Outline, find_outline, open_picture, upright_jpeg
from .table_file import TableIn, read_table

Bounds = tuple[float, float, float, float]
Ends = tuple[tuple[float, float], tuple[float, float]]
ROUGH_MM = 0.2
"""A drawing is read once as it comes in, as roughly as this: what cannot be read is told at once."""
PICTURE_SIDE, REFERENCE_SIDE = 640, 2000
MOST_IMPORTED = 20_000
OPENED_S = 4.0
SHELF_FORMAT = "wimple.shelf"


@dataclass(frozen=True)
class DrawnIn:
    """A drawing as it may be kept, and the box (mm) of what is in it."""

    data: bytes
    bounds: Bounds


@dataclass(frozen=True)
class MeshIn:
    """How large a mesh is each way, in its own numbers, and what those probably are."""

    extents: tuple[float, float, float]
    unit: str


@dataclass(frozen=True)
class PhotoIn:
    """A photograph upright and without its metadata, the outline found in it, and where its marks probably are."""

    data: bytes
    outline: Outline
    marks: tuple[Ends, Ends]


@dataclass(frozen=True)
class ShelfRow:
    """A blank of an exported Shelf as it was written, its files and its picture unpacked."""

    raw: dict[str, Any]
    files: dict[str, tuple[str, bytes]]
    picture: bytes | None


def drawing_in(data: bytes) -> DrawnIn:
    """An SVG drawing, cleaned, a DXF drawing, or a picture to be traced."""
    clean, read = take_in_drawing(data, ROUGH_MM)
    return DrawnIn(clean, read.bounds)


@dataclass(frozen=True)
class FontIn:
    """What a font says it is called, how many letters it has, and whether its flags forbid embedding."""

    name: str
    letters: int
    may_be_embedded: bool


def font_in(data: bytes) -> FontIn:
    """A font: TTF, OTF, WOFF or WOFF2. One that takes long to open is refused: once it is let in, it is opened wherever
    words are set in it."""
    began = time.process_time()
    face = open_face("", data)
    took = time.process_time() - began
    if took > OPENED_S:
        raise BadDrawing(f"The font takes {took:.0f} s to open.", hint="Take one with fewer letters.")
    return FontIn(face.own_name, len(face.parts[0].letters), face.may_be_embedded)


def features_in(data: bytes) -> tuple[str, ...]:
    """The features of a font that can be chosen, by their OpenType tags."""
    return open_face("", data).features


def read_roughly(data: bytes) -> Artwork:
    """A drawing that was taken in, as roughly as it is told from others."""
    return read_drawing(data, ROUGH_MM, Reading(rough=True))


def outline_in(data: bytes, name: str) -> DrawnIn:
    """An SVG or DXF drawing whose outermost contour is a panel's."""
    clean = clean_svg(data) if name.lower().endswith(".svg") else data
    left, low, right, high = read_outline(clean, name).bounds
    return DrawnIn(clean, (left, low, right, high))


def table_in(data: bytes) -> TableIn:
    """A list in columns: CSV, or lines of text."""
    return read_table(data)


def mesh_in(data: bytes, name: str) -> MeshIn:
    """A triangle mesh: STL, OBJ or PLY."""
    x, y, z = (float(v) for v in load_mesh(data, name).extents)
    return MeshIn((x, y, z), likely_unit(np.array([x, y, z])))


def photo_in(data: bytes, progress: Any) -> PhotoIn:
    """A side view of a body."""
    picture = upright_jpeg(data)
    outline = find_outline(picture, lambda what: progress(what, 0.0))
    return PhotoIn(picture, outline, suggest_marks(outline))


def picture_in(data: bytes) -> bytes:
    """A picture made small enough for a card, without its metadata."""
    image = Image.fromarray(open_picture(data))
    image.thumbnail((PICTURE_SIDE, PICTURE_SIDE))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=85)
    return out.getvalue()


def reference_in(data: bytes) -> tuple[bytes, int, int]:
    """A picture to work by, upright, no larger than it is looked at, and without its metadata; its width and height in
    pixels."""
    image = Image.fromarray(open_picture(data))
    image.thumbnail((REFERENCE_SIDE, REFERENCE_SIDE))
    out = io.BytesIO()
    image.save(out, "JPEG", quality=90)
    return out.getvalue(), image.width, image.height


def shelf_in(data: bytes) -> list[ShelfRow]:
    """The blanks of an exported Shelf."""
    raw = read_json(data)
    if not isinstance(raw, dict) or raw.get("format") != SHELF_FORMAT or not isinstance(raw.get("blanks"), list):
        raise BadDocument(
            "This file is not an exported Shelf.", hint=f"It must be JSON with “format”: “{SHELF_FORMAT}”."
        )
    if raw.get("version") != 1:
        raise BadDocument(
            f"Version “{str(raw.get('version'))[:40]}” of an exported Shelf is not known here.",
            field="version",
            hint="This program reads version 1.",
        )
    if len(raw["blanks"]) > MOST_IMPORTED:
        raise BadDocument(
            f"The file holds {len(raw['blanks']):,} blanks.",
            field="blanks",
            hint=f"At most {MOST_IMPORTED:,} are taken at once.",
        )
    return [_shelf_row(n, row) for n, row in enumerate(raw["blanks"])]


def read_json(data: bytes) -> Any:
    """What a JSON file holds. Raises BadDocument for what is none."""
    try:
        return json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, ValueError, RecursionError):
        raise BadDocument("This file is not JSON.", hint="Choose a file that a Shelf exported.") from None


def _shelf_row(n: int, raw: object) -> ShelfRow:
    with seen_from(f"blanks.{n}", f"Blank {n + 1} of the file: "):
        if not isinstance(raw, dict) or "blank" not in raw:
            raise BadDocument("there is no blank in it.", hint="Export it from a Shelf again.")
        try:
            files = {
                str(name)[:180]: (str(f.get("kind", "drawing"))[:8], base64.b64decode(f["data"], validate=True))
                for name, f in (raw.get("files") or {}).items()
            }
            picture = picture_in(base64.b64decode(raw["picture"], validate=True)) if raw.get("picture") else None
        except WimpleError:
            raise
        except (binascii.Error, KeyError, TypeError, AttributeError, ValueError):
            raise BadDocument(
                "its files or its picture cannot be read.", hint="Export it from a Shelf again."
            ) from None
        return ShelfRow(raw, files, picture)


def outlined_in(data: bytes, progress: Any) -> Outline:
    """The outline of a body in a photograph that was taken in."""
    return find_outline(data, lambda what: progress(what, 0.0))


def separated_in(data: bytes, tolerance: float, how: Reading) -> bytes:
    """A drawing read to a tolerance (mm, at its own size) and separated, as it is kept."""
    return as_bytes(prepare(read_drawing(data, tolerance, how)))


def first_in(data: bytes, widest: float, how: Reading) -> tuple[float, float, bytes]:
    """A drawing of which nothing is known yet: how wide (mm) it is at its own size, and it as `separated_in` gives it,
    as finely as it must be read to be placed `widest` mm wide, with that tolerance. Read once where it is about as wide
    as its page."""
    page = page_width(data)
    if page is not None:
        tolerance = tolerance_for(page, widest)
        art = read_drawing(data, tolerance, how)
        width = max(art.bounds[2] - art.bounds[0], 1e-6)
        if tolerance_for(width, widest) == tolerance:
            return width, tolerance, as_bytes(prepare(art))
    else:
        width = width_in(data)
    tolerance = tolerance_for(width, widest)
    return width, tolerance, separated_in(data, tolerance, how)


def traced_in(data: bytes, how: Reading, progress: Any) -> bytes:
    """A picture traced and separated, as it is kept."""
    traced = trace(data, how.tracing, progress)
    progress("keeping it", 0.9)
    return as_bytes(prepare(traced))


def width_in(data: bytes) -> float:
    """How wide (mm) what a drawing paints is at its own size, roughly."""
    left, _, right, _ = read_drawing(data, 0.5, Reading(rough=True)).bounds
    return max(right - left, 1e-6)


def contour_in(data: bytes, name: str) -> Any:
    """The outermost contour of a drawing (`read_outline`)."""
    return read_outline(data, name)


def triangles_in(data: bytes, name: str) -> tuple[np.ndarray, np.ndarray]:
    """Corners (n, 3) and triangles (m, 3) of a mesh, in the file's own numbers."""
    mesh = load_mesh(data, name)
    return np.asarray(mesh.vertices), np.asarray(mesh.faces)
