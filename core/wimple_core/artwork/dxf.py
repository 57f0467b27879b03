"""DXF drawings: lines that close, fills and words, in the colours of their layers.

The format's own words: AutoCAD DXF reference (group codes read by ezdxf). Lines have no width there, so what they close
is painted, and a closed line inside another is a hole.
"""

from __future__ import annotations

import io
import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import ezdxf
import numpy as np
import shapely
from ezdxf import colors, disassemble, recover, units
from ezdxf import path as dxf_path
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..errors import BadDrawing
from ..job.lettering import Lettering
from .artwork import Artwork, Note, Paint
from .lettering import set_words, shipped_face
from .limits import check_crossings, check_reach
from .svg.regions import fill_of_rings

MEET_MM = 0.1
"""Ends of lines nearer than this meet."""
MOST_LINES = 20_000
LINES = {"LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE", "LINE", "ARC"}
_FILLS = {"HATCH", "MPOLYGON"}
_CORNERS = {"SOLID", "TRACE"}
_WORDS = {"TEXT", "MTEXT", "ATTRIB"}
_SOLIDS = {"3DFACE", "MESH", "POLYFACE", "3DSOLID", "BODY", "REGION", "SURFACE"}
_SILENT = {"POINT", "VIEWPORT", "ATTDEF", "INSERT", "DIMENSION", "LEADER"}
TEXT_FONT = "barlow-condensed"
BLACK = 7


def open_dxf(data: bytes) -> Any:
    """The document of a DXF file. Raises BadDrawing for what is none."""
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, UnicodeError, IndexError, KeyError) as bad:
        raise BadDrawing(
            "This is not a DXF drawing, or it is cut short.", hint="Save it again as DXF (R2000 or later)."
        ) from bad
    return document


def flat_line(entity: Any, tolerance: float) -> Array | None:
    """Places (n, 2) along a line, arc or curve, in the file's own units; None where it cannot be drawn.

    Raises BadDrawing where it lies out of reach.
    """
    try:
        path = dxf_path.make_path(entity)
        held = np.array([(p.x, p.y) for p in path.control_vertices()]).reshape(-1, 2)
        if not len(held) or not np.isfinite(held).all():
            return None
        check_reach(held, f"a {entity.dxftype().lower()}")
        points = np.array([(p.x, p.y) for p in path.flattening(tolerance)])
    except (TypeError, ValueError, OverflowError, ezdxf.DXFError):
        return None
    return points if len(points) > 1 and np.isfinite(points).all() else None


def check_count(count: int) -> None:
    """Raises BadDrawing for more lines than are read."""
    if count > MOST_LINES:
        raise BadDrawing(
            f"This DXF drawing holds more than {MOST_LINES:,} lines and arcs.",
            hint="Keep what is to be cut alone, or draw its lines as polylines.",
        )


@dataclass
class _Taken:
    """What is taken from a file as it is walked through, by colour; lines in mm."""

    lines: dict[str, list[tuple[int, Array]]] = field(default_factory=dict)
    paints: list[Paint] = field(default_factory=list)
    notes: dict[tuple[str, str], Note] = field(default_factory=dict)

    def note(self, code: str, what: str, reason: str) -> None:
        self.notes.setdefault((code, what), Note(f"artwork.{code}", what, reason))


def read_dxf(data: bytes, tolerance: float = 0.01) -> Artwork:
    """Read a DXF file into painted regions, mm, y up.

    `tolerance` (mm) is the largest distance between a curve and its chords. Raises BadDrawing for files that cannot be
    read, that cost too much, and for those in which nothing closes.
    """
    document = open_dxf(data)
    scale, sized = _scale(document)
    taken = _Taken()
    if not sized:
        taken.note("size", "its units", "the file does not say them, so millimetres are taken: check the width")
    entities = itertools.islice(_entities(document), MOST_LINES + 1)
    for n, entity in enumerate(entities, start=1):
        check_count(n)
        _take(entity, n, scale, tolerance, document, taken)
    for colour, lines in taken.lines.items():
        taken.paints += _closed(lines, colour, tolerance, taken)
    if not taken.paints:
        why = "; ".join(f"{n.what}: {n.reason}" for n in list(taken.notes.values())[:3] if n.code != "artwork.size")
        raise BadDrawing("No line in this DXF drawing closes.", hint=why or "Join the ends of what is to be cut.")
    box = shapely.total_bounds(np.array([p.region for p in taken.paints], dtype=object))
    paints = tuple(sorted(taken.paints, key=lambda p: -p.region.area))
    return Artwork(
        paints, float(box[2] - box[0]), float(box[3] - box[1]), sized, tuple(taken.notes.values()), tolerance
    )


def _scale(document: Any) -> tuple[float, bool]:
    """Millimetres to the file's unit, and whether it says one ($INSUNITS)."""
    code = int(document.header.get("$INSUNITS", 0) or 0)
    if code == 0:
        return 1.0, False
    try:
        return float(units.conversion_factor(code, units.MM)), True
    except (TypeError, ValueError, IndexError, KeyError):
        return 1.0, False


def _entities(document: Any) -> Iterator[Any]:
    """What the model space holds, blocks taken apart, without layers that are off or frozen."""
    hidden = {layer.dxf.name.lower() for layer in document.layers if layer.is_off() or layer.is_frozen()}
    for entity in disassemble.recursive_decompose(document.modelspace()):
        if str(entity.dxf.get("layer", "0")).lower() not in hidden:
            yield entity


def _colour(entity: Any, document: Any) -> str:
    """An entity's own colour, or its layer's; what is white or black there is black on paper."""
    if entity.dxf.hasattr("true_color"):
        rgb = colors.int2rgb(entity.dxf.true_color)
        return f"#{rgb[0]:02x}{rgb[1]:02x}{rgb[2]:02x}"
    index = int(entity.dxf.get("color", 256))
    if index in (0, 256):
        layer = document.layers.get(entity.dxf.get("layer", "0")) if _has_layer(entity, document) else None
        if layer is not None and layer.dxf.hasattr("true_color"):
            rgb = colors.int2rgb(layer.dxf.true_color)
            return f"#{rgb[0]:02x}{rgb[1]:02x}{rgb[2]:02x}"
        index = abs(int(layer.dxf.color)) if layer is not None else BLACK
    if index == BLACK or not 1 <= index <= 255:
        return "#000000"
    rgb = colors.aci2rgb(index)
    return f"#{rgb[0]:02x}{rgb[1]:02x}{rgb[2]:02x}"


def _has_layer(entity: Any, document: Any) -> bool:
    return str(entity.dxf.get("layer", "0")) in document.layers


def _take(entity: Any, n: int, scale: float, tolerance: float, document: Any, taken: _Taken) -> None:
    kind = entity.dxftype()
    if kind in LINES:
        points = flat_line(entity, tolerance / scale)
        if points is not None:
            taken.lines.setdefault(_colour(entity, document), []).append((n, points * scale))
    elif kind in _FILLS or kind in _CORNERS:
        region = _filled(entity, kind, scale, tolerance)
        if not region.is_empty:
            taken.paints.append(Paint(region, _colour(entity, document), str(n)))
    elif kind in _WORDS:
        _set(entity, n, scale, tolerance, _colour(entity, document), taken)
    elif kind in _SOLIDS:
        taken.note("solid", f"a {kind.lower()}", "it is a body, not a drawing: give it as a mesh where it is the blank")
    elif kind not in _SILENT:
        taken.note("element", f"a {kind.lower()}", "this kind of thing is not taken")


def _filled(entity: Any, kind: str, scale: float, tolerance: float) -> BaseGeometry:
    try:
        if kind in _CORNERS:
            corners = np.array([(p.x, p.y) for p in entity.wcs_vertices()])
            rings = [corners]
        else:
            paths = dxf_path.from_hatch(entity)
            rings = [np.array([(p.x, p.y) for p in path.flattening(tolerance / scale)]) for path in paths]
    except (TypeError, ValueError, OverflowError, AttributeError, ezdxf.DXFError):
        return shapely.Polygon()
    rings = [r for r in rings if len(r) > 2 and np.isfinite(r).all()]
    for ring in rings:
        check_reach(ring, f"a {kind.lower()}")
    return fill_of_rings([_opened(r * scale) for r in rings], "evenodd", tolerance / 1024)


def _opened(ring: Array) -> Array:
    """A ring without its last place where that is the first again."""
    return ring[:-1] if len(ring) > 3 and np.array_equal(ring[0], ring[-1]) else ring


def _set(entity: Any, n: int, scale: float, tolerance: float, colour: str, taken: _Taken) -> None:
    """Words: their font is not in the file, so one of ours stands in."""
    text = entity.plain_text() if entity.dxftype() == "MTEXT" else str(entity.dxf.get("text", ""))
    text = "".join(c for c in text[:600] if c.isprintable() or c == "\n").strip()
    height = float(entity.dxf.get("char_height" if entity.dxftype() == "MTEXT" else "height", 0.0)) * scale
    if not text or not 0 < height <= 10_000:
        return
    try:
        words = Lettering(text=text, font=TEXT_FONT, size_mm=height, align="left", colour="#000000")
        art = set_words(words, shipped_face(TEXT_FONT), tolerance)
    except (ValueError, BadDrawing):
        taken.note("text", f"“{text[:40]}”", "it cannot be set in a font that is shipped")
        return
    taken.note("text", f"“{text[:40]}”", f"its font is not in the file, so {shipped_face(TEXT_FONT).name} stands in")
    turn = math.radians(float(entity.dxf.get("rotation", 0.0)))
    c, s = math.cos(turn), math.sin(turn)
    at = np.array([entity.dxf.insert.x, entity.dxf.insert.y]) * scale
    left = art.bounds[0]
    for paint in art.paints:
        moved = shapely.transform(paint.region, lambda p: (p - (left, 0.0)) @ np.array([[c, s], [-s, c]]) + at)
        taken.paints.append(Paint(moved, colour, f"{n}-{paint.name}"))


def _closed(lines: list[tuple[int, Array]], colour: str, tolerance: float, taken: _Taken) -> list[Paint]:
    """What the lines of one colour close, each part called by the first of its lines."""
    check_crossings([p for _, p in lines], closed=False)
    rings: list[tuple[int, Array]] = []
    loose: list[tuple[int, Array]] = []
    for n, points in lines:
        gap = math.dist(points[0], points[-1])
        if len(points) > 3 and gap <= MEET_MM:
            rings.append((n, points[:-1]))
        elif len(points) > 1:
            loose.append((n, points))
    joined, left = _joined(loose)
    rings += joined
    if left:
        count = f"{left} line{'s' if left > 1 else ''}"
        taken.note("open", count, f"no end meets another's within {MEET_MM} mm, so nothing is closed by it")
    region = fill_of_rings([r for _, r in rings], "evenodd", tolerance / 1024)
    parts = shapely.get_parts(region)
    parts = parts[shapely.area(parts) > 0]
    if not len(parts):
        return []
    called = np.full(len(parts), np.iinfo(np.int64).max)
    starts = shapely.points(np.array([r[0] for _, r in rings]))
    near, part = shapely.STRtree(parts).query(starts, predicate="dwithin", distance=tolerance)
    np.minimum.at(called, part, np.array([n for n, _ in rings])[near])
    return [Paint(g, colour, str(n)) for g, n in zip(parts, called.tolist(), strict=True)]


def _joined(loose: list[tuple[int, Array]]) -> tuple[list[tuple[int, Array]], int]:
    """Lines whose ends meet, made rings; and how many are left open."""
    if not loose:
        return [], 0
    ends = np.array([p[i] for _, p in loose for i in (0, -1)])
    of = np.arange(len(ends))
    for a, b in sorted(cKDTree(ends).query_pairs(MEET_MM)):
        of[of == of[b]] = of[a]
    runs = []
    for i, (_, points) in enumerate(loose):
        points = points.copy()
        points[0], points[-1] = ends[of[2 * i]], ends[of[2 * i + 1]]
        runs.append(shapely.LineString(points))
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(runs)))
    whole = shapely.is_closed(merged) & (shapely.get_num_coordinates(merged) > 3)
    loops = [shapely.LineString(m.coords) for m in merged[whole]]
    # Where three ends meet there is no one way on: there the faces count that the lines make together.
    faces = shapely.union_all(shapely.get_parts(shapely.polygonize(merged[~whole])))
    loops += [
        shapely.LineString(ring.coords)
        for part in shapely.get_parts(faces)
        if isinstance(part, shapely.Polygon)
        for ring in (part.exterior, *part.interiors)
    ]
    if not loops:
        return [], len(loose)
    lines = np.array(runs, dtype=object)
    loop, line = shapely.STRtree(lines).query(np.array(loops, dtype=object), predicate="intersects")
    number = np.full(len(loops), np.iinfo(np.int64).max)
    np.minimum.at(number, loop, np.array([n for n, _ in loose])[line])
    left = int((~shapely.covered_by(lines, shapely.union_all(loops))).sum())
    return [(int(n), np.asarray(loop.coords)[:-1]) for n, loop in zip(number, loops, strict=True)], left
