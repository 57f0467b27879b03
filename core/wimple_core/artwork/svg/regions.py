"""Flattened paths to regions: fills by either rule, strokes with their joins, caps and dashes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ...overlay import EMPTY, GRID_MM, dissolved, faces_by_winding, union
from .paths import Array, Polyline


def fill_region(lines: Sequence[Polyline], rule: Literal["nonzero", "evenodd"], grid: float = GRID_MM) -> BaseGeometry:
    """The region a path fills, every subpath closed; places nearer than `grid` are one."""
    rings = []
    for line in lines:
        p = line.points
        keep = np.ones(len(p), dtype=bool)
        keep[1:] = (np.diff(p, axis=0) != 0).any(axis=1)
        p = p[keep]
        if len(p) > 1 and (p[0] == p[-1]).all():
            p = p[:-1]
        if len(p) > 2:
            rings.append(p)
    if not rings:
        return EMPTY
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


def _mitre_tips(points: Array, closed: bool, half: float, limit: float) -> list[BaseGeometry]:
    p = np.concatenate([points[-1:], points, points[:1]]) if closed else points
    leg = np.diff(p, axis=0)
    leg = leg / np.hypot(leg[:, 0], leg[:, 1])[:, None]
    before, after, at = leg[:-1], leg[1:], p[1:-1]
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    dot = (before * after).sum(1)
    # 1 / sin(phi / 2), phi the angle between the legs: SVG 2, 13.5.3
    ratio_squared = 2 / np.maximum(1 + dot, 1e-12)
    sharp = (dot < math.cos(math.radians(3))) & (ratio_squared <= limit * limit)
    before, after, at, side = before[sharp], after[sharp], at[sharp], -np.sign(cross[sharp])[:, None]
    if not len(at):
        return []
    n0 = side * np.column_stack([-before[:, 1], before[:, 0]])
    n1 = side * np.column_stack([-after[:, 1], after[:, 0]])
    total = n0 + n1
    tip = at + total * (2 * half / (total**2).sum(1))[:, None]
    quads = np.stack([at, at + half * n0, tip, at + half * n1], axis=1)
    return list(shapely.polygons(quads))


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
    """The region a stroke covers (SVG 2, 13.5), in the units of the lines."""
    half = width / 2
    if half <= 0:
        return EMPTY
    step = 2 * math.acos(max(0.0, 1 - tolerance / half)) if tolerance < half else math.pi / 4
    quad_segs = min(256, max(4, math.ceil(math.pi / 2 / min(step, math.pi / 18))))
    cap_style: Literal["round", "flat", "square"] = (
        "round" if cap == "round" else "square" if cap == "square" else "flat"
    )
    join_style: Literal["round", "bevel"] = "round" if join == "round" else "bevel"
    if dashes:
        pattern = np.abs(np.asarray(dashes, dtype=np.float64))
        pattern = np.tile(pattern, 2) if len(pattern) % 2 else pattern
        lines = [piece for line in lines for piece in _dash(line.points, line.closed, pattern, dash_offset)]
    pieces: list[BaseGeometry] = []
    for line in lines:
        p, closed = line.points, line.closed
        keep = np.ones(len(p), dtype=bool)
        keep[1:] = (np.diff(p, axis=0) != 0).any(axis=1)
        p = p[keep]
        if closed and len(p) > 1 and (p[0] == p[-1]).all():
            p = p[:-1]
        if len(p) == 1:
            if cap_style == "round":
                pieces.append(shapely.Point(p[0]).buffer(half, quad_segs=quad_segs))
            elif cap_style == "square":
                pieces.append(shapely.box(p[0, 0] - half, p[0, 1] - half, p[0, 0] + half, p[0, 1] + half))
            continue
        path: BaseGeometry
        closed = closed and len(p) > 2
        path = shapely.LinearRing(p) if closed else shapely.LineString(p)
        pieces.append(shapely.buffer(path, half, quad_segs=quad_segs, cap_style=cap_style, join_style=join_style))
        if join not in ("round", "bevel") and len(p) > 2:
            pieces += _mitre_tips(p, closed, half, mitre_limit)
    if not pieces:
        return EMPTY
    return union(pieces, tolerance / 1024)
