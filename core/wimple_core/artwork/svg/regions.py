"""Flattened paths to regions: fills by either rule, strokes with their joins, caps and dashes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ...arrangement import EMPTY, GRID_MM, dissolved, faces_by_winding
from ...arrays import Array
from ...overlay import union
from ..limits import check_crossings
from .paths import Polyline

Rule = Literal["nonzero", "evenodd"]


FEW = 16
"""So few places are looked through one by one: that is sooner done than asked of arrays."""


def _each_once(p: Array) -> Array:
    """Places (n, 2) without those that repeat the one before."""
    if len(p) <= FEW:
        rows = p.tolist()
        if all(a != b for a, b in pairwise(rows)):
            return p
    twice = (p[1:] == p[:-1]).all(axis=1)
    once: Array = p[np.concatenate([[True], ~twice])]
    return once


def rings_of(lines: Sequence[Polyline]) -> list[Array]:
    """Every subpath closed: rings (n, 2) of at least three places, the first not repeated."""
    rings = []
    for line in lines:
        p = _each_once(line.points)
        if len(p) > 1 and p[0, 0] == p[-1, 0] and p[0, 1] == p[-1, 1]:
            p = p[:-1]
        if len(p) > 2:
            rings.append(p)
    return rings


def fill_of_rings(rings: Sequence[Array], rule: Rule, grid: float = GRID_MM) -> BaseGeometry:
    """The region that rings enclose by either rule; places nearer than `grid` are one."""
    if not rings:
        return EMPTY
    check_crossings(rings, closed=True)
    if len(rings) == 1:
        polygon = shapely.Polygon(rings[0])
        if polygon.is_valid:
            return polygon
    faces, winding = faces_by_winding(rings, grid)
    return dissolved(faces[winding % 2 != 0 if rule == "evenodd" else winding != 0])


def _dash(points: Array, closed: bool, pattern: Array, offset: float) -> list[Polyline]:
    path = np.concatenate([points, points[:1]]) if closed else points
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    total, period = float(length[-1]), float(pattern.sum())
    if total == 0 or period <= 0 or total / period > 20_000:
        return [Polyline(points, closed)]
    edges = (
        np.concatenate([[0.0], np.cumsum(np.tile(pattern, math.ceil((total + period) / period) + 1))]) - offset % period
    )
    out = []
    for a, b in zip(edges[:-1:2], edges[1::2], strict=False):
        a, b = max(a, 0.0), min(b, total)
        if b < a or (a == b and (a in (0.0, total))):
            continue
        inner = path[(length > a) & (length < b)]
        ends = np.column_stack([np.interp([a, b], length, path[:, i]) for i in (0, 1)])
        out.append(Polyline(np.concatenate([ends[:1], inner, ends[1:]]), False))
    return out


SMOOTH = math.radians(18)
"""Curves are flattened with steps of at most 10 degrees, so a line that turns by less than this is a curve."""
MITRE_OF_CURVES = 1.03
"""Where a curve's chords meet, their offsets are prolonged to meet too: at 18 degrees by `1 / cos 9` of the offset."""


@dataclass(frozen=True)
class Pen:
    """How a stroke is drawn: half its width, its join and cap (SVG's words), the limit of its mitres, and into how many
    steps a quarter of a turn of a round end is cut."""

    half: float
    join: str
    cap: str
    mitre_limit: float
    quad_segs: int


def _dot(at: Array, pen: Pen) -> BaseGeometry:
    return shapely.Point(at).buffer(pen.half, quad_segs=pen.quad_segs)


def _cap(at: Array, outward: Array, pen: Pen) -> list[BaseGeometry]:
    """What a cap adds beyond the end of a line, which leaves it in the direction `outward`."""
    if pen.cap == "round":
        return [_dot(at, pen)]
    if pen.cap != "square":
        return []
    side = pen.half * np.array([-outward[1], outward[0]])
    ahead = pen.half * outward
    return [shapely.Polygon([at + side, at + side + ahead, at - side + ahead, at - side])]


def _joins(at: Array, before: Array, after: Array, pen: Pen) -> list[BaseGeometry]:
    """What fills the corners (n, 2) between legs that come in and go out in directions (n, 2)."""
    if pen.join == "round":
        return [_dot(p, pen) for p in at]
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    dot = (before * after).sum(1)
    side = -np.where(cross >= 0, 1.0, -1.0)[:, None]
    n0 = side * pen.half * np.column_stack([-before[:, 1], before[:, 0]])
    n1 = side * pen.half * np.column_stack([-after[:, 1], after[:, 0]])
    out: list[BaseGeometry] = list(shapely.polygons(np.stack([at, at + n0, at + n1], axis=1)))
    if pen.join != "bevel":
        # 1 / sin(phi / 2), phi the angle between the legs, against the limit: SVG 2, 13.5.3
        sharp = 2 / np.maximum(1 + dot, 1e-12) <= pen.mitre_limit**2
        at, n0, n1 = at[sharp], n0[sharp], n1[sharp]
        total = n0 + n1
        tip = at + total * (2 * pen.half**2 / np.maximum((total**2).sum(1), 1e-300))[:, None]
        out += list(shapely.polygons(np.stack([at, at + n0, tip, at + n1], axis=1)))
    return out


def _stroked(p: Array, closed: bool, pen: Pen) -> list[BaseGeometry]:
    """The parts that cover one stroked line: its smooth runs, what fills its corners, its caps."""
    if len(p) == 1:
        return _cap(p[0], np.array([1.0, 0.0]), pen) + _cap(p[0], np.array([-1.0, 0.0]), pen)
    path = np.concatenate([p, p[:1]]) if closed else p
    leg = np.diff(path, axis=0)
    leg = leg / np.hypot(leg[:, 0], leg[:, 1])[:, None]
    into, out_of = (np.roll(leg, 1, axis=0), leg) if closed else (leg[:-1], leg[1:])
    corner = np.flatnonzero((into * out_of).sum(1) < math.cos(SMOOTH))
    runs: list[Array]
    if closed:
        parts = _joins(p[corner], into[corner], out_of[corner], pen) if len(corner) else []
        if not len(corner):
            ring = shapely.LinearRing(p)
            return [shapely.buffer(ring, pen.half, join_style="mitre", mitre_limit=MITRE_OF_CURVES)]
        turned = np.concatenate([p[corner[0] :], p[: corner[0] + 1]])
        at = np.concatenate([corner - corner[0], [len(p)]])
        runs = [turned[a : b + 1] for a, b in pairwise(at.tolist())]
    else:
        parts = _joins(p[corner + 1], into[corner], out_of[corner], pen) if len(corner) else []
        at = np.concatenate([[0], corner + 1, [len(p) - 1]])
        runs = [p[a : b + 1] for a, b in pairwise(at.tolist())]
        parts += _cap(p[0], -leg[0], pen) + _cap(p[-1], leg[-1], pen)
    lines = np.array([shapely.LineString(r) for r in runs], dtype=object)
    bodies = shapely.buffer(lines, pen.half, cap_style="flat", join_style="mitre", mitre_limit=MITRE_OF_CURVES)
    return [*bodies, *parts]


def stroke_region(
    lines: Sequence[Polyline],
    width: float,
    *,
    join: str,
    cap: str,
    mitre_limit: float,
    dashes: Sequence[float],
    dash_offset: float,
    tolerance: float,
) -> BaseGeometry:
    """The region a stroke covers (SVG 2, 13.5), in the units of the lines.

    Smooth runs keep one place of their edge for each of the line, so that they leave as curves; corners and ends are
    laid over them.
    """
    half = width / 2
    if half <= 0:
        return EMPTY
    step = 2 * math.acos(max(0.0, 1 - tolerance / half)) if tolerance < half else math.pi / 4
    quad_segs = min(256, max(4, math.ceil(math.pi / 2 / min(step, math.pi / 18))))
    pen = Pen(half, join, cap, mitre_limit, quad_segs)
    if dashes:
        pattern = np.abs(np.asarray(dashes, dtype=np.float64))
        pattern = np.tile(pattern, 2) if len(pattern) % 2 else pattern
        lines = [piece for line in lines for piece in _dash(line.points, line.closed, pattern, dash_offset)]
    check_crossings([line.points for line in lines], closed=False)
    pieces: list[BaseGeometry] = []
    for line in lines:
        p, closed = line.points, line.closed
        keep = np.ones(len(p), dtype=bool)
        keep[1:] = (np.diff(p, axis=0) != 0).any(axis=1)
        p = p[keep]
        if closed and len(p) > 1 and (p[0] == p[-1]).all():
            p = p[:-1]
        pieces += _stroked(p, closed and len(p) > 2, pen)
    if not pieces:
        return EMPTY
    return union(pieces, tolerance / 1024)
