"""The vector paths of a PDF's first page, written as an SVG drawing and read as one."""

from __future__ import annotations

import ctypes
import io
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
import pypdf
import pypdfium2 as pdfium
import pypdfium2.raw as c

from ..arrays import Array
from ..errors import BadDrawing
from .artwork import Artwork, Note
from .see_through import SeeThrough
from .svg import read_svg

MM_PER_POINT = 25.4 / 72
MOST_OBJECTS, MOST_SEGMENTS, DEEPEST = 100_000, 600_000, 20
JOINS, CAPS = ("miter", "round", "bevel"), ("butt", "round", "square")
CLIP_BEYOND = 0.01
Get = Callable[[int], object]


def is_pdf(data: bytes) -> bool:
    """Is a file a PDF? Told by its first bytes, behind at most a kilobyte of something else."""
    return b"%PDF-" in data[:1024]


@dataclass
class _Page:
    """What was found of a page so far: SVG elements, clip paths by their data, and what was left out."""

    shapes: list[str] = field(default_factory=list)
    clips: dict[str, str] = field(default_factory=dict)
    left: dict[str, int] = field(default_factory=dict)
    objects: int = 0
    segments: int = 0

    def count(self, segments: int) -> None:
        self.segments += segments
        if self.segments > MOST_SEGMENTS:
            raise BadDrawing(
                f"The page has more than {MOST_SEGMENTS:,} lines and curves.", hint="Simplify the drawing."
            )


def _matrix(of: object, read: Callable[..., object]) -> Array:
    m = c.FS_MATRIX()
    if not read(of, ctypes.byref(m)):
        return np.eye(3)
    return np.array([[m.a, m.b, 0], [m.c, m.d, 0], [m.e, m.f, 1]])


def _objects(page: object, found: _Page) -> Iterator[tuple[object, Array]]:
    """All objects of a page with what places each on it (`p @ matrix`), those of forms too."""

    def inside(count: int, get: Get, matrix: Array, deep: int) -> Iterator[tuple[object, Array]]:
        for n in range(count):
            found.objects += 1
            if found.objects > MOST_OBJECTS:
                raise BadDrawing(f"The page has more than {MOST_OBJECTS:,} parts.", hint="Simplify the drawing.")
            one = get(n)
            if c.FPDFPageObj_GetType(one) != c.FPDF_PAGEOBJ_FORM:
                yield one, matrix
            elif deep < DEEPEST:
                own = _matrix(one, c.FPDFPageObj_GetMatrix) @ matrix
                yield from inside(c.FPDFFormObj_CountObjects(one), partial(c.FPDFFormObj_GetObject, one), own, deep + 1)

    yield from inside(c.FPDFPage_CountObjects(page), partial(c.FPDFPage_GetObject, page), np.eye(3), 0)


def _path(count: int, get: Get, matrix: Array) -> tuple[str, Array]:
    """Path data of segments, and their points (n, 2), placed."""
    x, y = ctypes.c_float(), ctypes.c_float()
    points, kinds, closes = np.ones((count, 3)), [], []
    for n in range(count):
        segment = get(n)
        c.FPDFPathSegment_GetPoint(segment, ctypes.byref(x), ctypes.byref(y))
        points[n, :2] = x.value, y.value
        kinds.append(c.FPDFPathSegment_GetType(segment))
        closes.append(bool(c.FPDFPathSegment_GetClose(segment)))
    placed = (points @ matrix)[:, :2]
    out, curve = [], 0
    for (px, py), kind, close in zip(placed.tolist(), kinds, closes, strict=True):
        sign = {c.FPDF_SEGMENT_MOVETO: "M", c.FPDF_SEGMENT_LINETO: "L"}.get(kind, "" if curve % 3 else "C")
        curve = curve + 1 if kind == c.FPDF_SEGMENT_BEZIERTO else 0
        out.append(f"{sign}{px:.5f} {py:.5f} {'Z' if close else ''}")
    return "".join(out), placed


def _colour(one: object, read: Callable[..., object]) -> tuple[str, int]:
    r, g, b, a = (ctypes.c_uint() for _ in range(4))
    read(one, *(ctypes.byref(v) for v in (r, g, b, a)))
    return f"#{r.value & 255:02x}{g.value & 255:02x}{b.value & 255:02x}", a.value


def _strokes(one: object, matrix: Array) -> tuple[str, float]:
    """How a path is stroked as attributes, and half its width."""
    width = ctypes.c_float()
    c.FPDFPageObj_GetStrokeWidth(one, ctypes.byref(width))
    colour, opacity = _colour(one, c.FPDFPageObj_GetStrokeColor)
    grown = abs(float(np.linalg.det(matrix[:2, :2]))) ** 0.5
    join, cap = c.FPDFPageObj_GetLineJoin(one), c.FPDFPageObj_GetLineCap(one)
    dashes = ""
    n = c.FPDFPageObj_GetDashCount(one)
    if 0 < n <= 32:
        lengths, start = (ctypes.c_float * n)(), ctypes.c_float()
        c.FPDFPageObj_GetDashArray(one, lengths, n)
        c.FPDFPageObj_GetDashPhase(one, ctypes.byref(start))
        some = " ".join(f"{v * grown:.4f}" for v in lengths)
        dashes = f' stroke-dasharray="{some}" stroke-dashoffset="{start.value * grown:.4f}"'
    wide = max(width.value, 0.1) * grown
    said = (
        f' stroke="{colour}" stroke-opacity="{opacity / 255:.3f}" stroke-width="{wide:.4f}"'
        f' stroke-linejoin="{JOINS[join] if 0 <= join < 3 else "miter"}"'
        f' stroke-linecap="{CAPS[cap] if 0 <= cap < 3 else "butt"}" stroke-miterlimit="10"{dashes}'
    )
    return said, wide / 2


def _clips(one: object, points: Array, margin: float, matrix: Array, found: _Page) -> list[str]:
    """The clip paths, by name, that cut something off an object with those points (n, 2) and a stroke so wide."""
    clip = c.FPDFPageObj_GetClipPath(one)
    out = []
    for k in range(max(c.FPDFClipPath_CountPaths(clip), 0) if clip else 0):
        n = c.FPDFClipPath_CountPathSegments(clip, k)
        if n <= 0:
            continue
        found.count(n)
        data, edge = _path(n, partial(c.FPDFClipPath_GetPathSegment, clip, k), matrix)
        low, high = edge.min(axis=0) + margin, edge.max(axis=0) - margin
        if _is_box(edge, data) and (points >= low - CLIP_BEYOND).all() and (points <= high + CLIP_BEYOND).all():
            continue
        out.append(found.clips.setdefault(data, f"c{len(found.clips) + 1}"))
    return out


def _is_box(points: Array, data: str) -> bool:
    """Is a path of those points an upright rectangle?"""
    if len(points) not in (4, 5) or "C" in data:
        return False
    corners = {tuple(p) for p in np.round(points, 4).tolist()}
    return len({x for x, _ in corners}) == 2 and len({y for _, y in corners}) == 2 and len(corners) == 4


def _take(one: object, matrix: Array, found: _Page) -> None:
    kind = c.FPDFPageObj_GetType(one)
    if kind != c.FPDF_PAGEOBJ_PATH:
        what = {c.FPDF_PAGEOBJ_TEXT: "words", c.FPDF_PAGEOBJ_IMAGE: "picture", c.FPDF_PAGEOBJ_SHADING: "shading"}
        name = what.get(kind, "part of an unknown kind")
        found.left[name] = found.left.get(name, 0) + 1
        return
    placed = _matrix(one, c.FPDFPageObj_GetMatrix) @ matrix
    n = c.FPDFPath_CountSegments(one)
    mode, stroked = ctypes.c_int(), ctypes.c_int()
    if n <= 0 or not c.FPDFPath_GetDrawMode(one, ctypes.byref(mode), ctypes.byref(stroked)):
        return
    if not mode.value and not stroked.value:
        return
    found.count(n)
    data, points = _path(n, partial(c.FPDFPath_GetPathSegment, one), placed)
    fill = ' fill="none"'
    if mode.value:
        colour, opacity = _colour(one, c.FPDFPageObj_GetFillColor)
        rule = "evenodd" if mode.value == c.FPDF_FILLMODE_ALTERNATE else "nonzero"
        fill = f' fill="{colour}" fill-opacity="{opacity / 255:.3f}" fill-rule="{rule}"'
    stroke, half = _strokes(one, placed) if stroked.value else ("", 0.0)
    shape = f'<path d="{data}"{fill}{stroke}/>'
    for name in _clips(one, points, half, matrix, found):
        shape = f'<g clip-path="url(#{name})">{shape}</g>'
    found.shapes.append(shape)


LEFT_OUT = {
    "words": ("words", "turn them into outlines where the PDF was made"),
    "picture": ("picture", "bring it by itself, and it is traced"),
    "shading": ("shading", "film has no shades"),
}


def _as_shown(box: tuple[float, float, float, float], turned: int) -> tuple[tuple[float, float], str]:
    """The width and height of a page as it is shown, turned clockwise by so many degrees (ISO 32000-1, table 30,
    `Rotate`), and what brings its places, y up, there, y down."""
    left, low, right, high = box
    wide, tall = right - left, high - low
    matrix = {
        0: (1, 0, 0, -1, -left, high),
        90: (0, 1, 1, 0, -low, -left),
        180: (-1, 0, 0, 1, right, -low),
        270: (0, -1, -1, 0, high, right),
    }[turned % 360]
    return (tall, wide) if turned % 180 else (wide, tall), f"matrix({' '.join(f'{v:.5f}' for v in matrix)})"


def _user_unit(data: bytes) -> float:
    """How many points (1/72 in) one unit of the first page is (ISO 32000-1, table 30, `UserUnit`)."""
    if b"/UserUnit" not in data and b"/ObjStm" not in data:
        return 1.0
    try:
        unit = float(pypdf.PdfReader(io.BytesIO(data)).pages[0].user_unit)
    except Exception:
        # What one library reads and another does not is as large as it says by itself.
        return 1.0
    return unit if 0.001 < unit < 10_000 else 1.0


def pdf_as_svg(data: bytes) -> tuple[bytes, tuple[Note, ...]]:
    """The paths of a PDF's first page as an SVG drawing of its size, and what was left out. Raises BadDrawing for one
    that is locked, damaged, or holds no paths."""
    try:
        document = pdfium.PdfDocument(data)
    except pdfium.PdfiumError as bad:
        if "assword" in str(bad):
            raise BadDrawing(
                "The PDF is locked by a password.", hint="Save it again without one where you may."
            ) from None
        raise BadDrawing("This file is no PDF, or it is damaged.", hint="Save it anew.") from None
    try:
        if not len(document):
            raise BadDrawing("The PDF has no page.", hint="Save it anew.")
        page = document[0]
        box, turned = page.get_bbox(), page.get_rotation()
        found = _Page()
        for one, matrix in _objects(page.raw, found):
            _take(one, matrix, found)
        pages = len(document)
    finally:
        document.close()
    notes = [Note("artwork.pages", f"{pages} pages", "only the first is read")] if pages > 1 else []
    for what, n in found.left.items():
        name, why = LEFT_OUT.get(what, (what, "it is no path"))
        notes.append(Note("artwork.pdf", f"{n} {name}{'s' if n > 1 and name != 'words' else ''}", f"left out: {why}"))
    if not found.shapes:
        only = ", ".join(f"{n} × {what}" for what, n in found.left.items())
        raise BadDrawing(
            f"The page has no paths{f', only {only}' if only else ''}.",
            hint="Save what is to be cut as paths; a picture may be brought by itself, and is traced.",
        )
    clips = "".join(f'<clipPath id="{name}"><path d="{d}"/></clipPath>' for d, name in found.clips.items())
    (width, height), shown = _as_shown(box, turned)
    mm = MM_PER_POINT * _user_unit(data)
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width * mm:.5f}mm"'
        f' height="{height * mm:.5f}mm" viewBox="0 0 {width:.5f} {height:.5f}">'
        f'<defs>{clips}</defs><g transform="{shown}">{"".join(found.shapes)}</g></svg>'
    )
    return svg.encode(), tuple(notes)


def read_pdf(data: bytes, tolerance: float = 0.01, shades: int = 1, see_through: SeeThrough = "shadows_out") -> Artwork:
    """The vector paths of a PDF's first page as painted regions. Raises as `pdf_as_svg` and `read_svg` do."""
    svg, notes = pdf_as_svg(data)
    art = read_svg(svg, tolerance, shades, see_through)
    return replace(art, notes=(*notes, *art.notes))
