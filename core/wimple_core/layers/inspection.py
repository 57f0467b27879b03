"""What may go wrong with a cut layer: strokes too thin to hold, pieces that hang by a thread, dots that come off
unseen, waste too narrow to come out whole, islands that go with it; and the least of each, to be looked at."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import areas, holes_in
from ..arrays import Array
from ..thin import gaps_between, least_width, narrow_gaps, narrow_notches, thin_places_and_necks

SpotKind = Literal["stroke", "gap", "piece", "hole", "point"]
Places = tuple[tuple[float, float], ...]
SIZES_MM = (2.0, 5.0, 15.0, 50.0)
"""Pieces are counted by how large they are across: smaller than the first, and so on, and larger than the last."""
GAP_SHARE = 0.5
EDGE_MM = 0.05
"""A corner is told by edges longer than this: shorter ones are of a curve."""
CORNER_DEG = 60.0
"""Corners blunter than this are no points."""
MOST_MEASURED = 60
"""Of so many thin places the width of the thinnest is measured."""
MOST_CORNERS = 15_000
"""In pieces of more corners than this no notch is measured."""


@dataclass(frozen=True)
class Spot:
    """The least of its kind in a layer: how wide a stroke or a gap is, how large across a piece or a hole (mm), how
    sharp a point (deg), and where."""

    kind: SpotKind
    value: float
    at: tuple[float, float]


@dataclass(frozen=True)
class Inspection:
    """Places (x, y) mm on the template that need care, one each; `spots` the least of each kind; `stay` and `go` how
    many pieces of film and of waste there are of each size (SIZES_MM)."""

    thin: Places
    dots: Places
    smallest_dot_mm: float
    gaps: Places = ()
    threads: Places = ()
    """Necks by which a part of a piece hangs, among the thin places."""
    islands: Places = ()
    """Pieces that stay inside a hole whose waste goes."""
    spots: tuple[Spot, ...] = ()
    stay: tuple[int, ...] = (0,) * (len(SIZES_MM) + 1)
    go: tuple[int, ...] = (0,) * (len(SIZES_MM) + 1)

    def moved(self, by: tuple[float, float]) -> Inspection:
        """The same, moved rigidly (mm)."""

        def shifted(places: Places) -> Places:
            return tuple((x + by[0], y + by[1]) for x, y in places)

        return replace(
            self,
            thin=shifted(self.thin),
            dots=shifted(self.dots),
            gaps=shifted(self.gaps),
            threads=shifted(self.threads),
            islands=shifted(self.islands),
            spots=tuple(replace(s, at=shifted((s.at,))[0]) for s in self.spots),
        )


def least_gap(least_stroke: float) -> float:
    """How wide (mm) a gap must be for its waste to come out whole: waste is only pulled off, so it may be half as wide
    as what must hold (common practice, no source)."""
    return GAP_SHARE * least_stroke


def _points(parts: np.ndarray) -> Places:
    at = shapely.get_coordinates(shapely.point_on_surface(parts))
    return tuple((float(x), float(y)) for x, y in at)


def _across(parts: np.ndarray) -> np.ndarray:
    """The greatest extent of each part in any direction (mm): the diameter of the circle round it."""
    return np.asarray(2 * shapely.minimum_bounding_radius(parts))


def _across_roughly(parts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Between what that extent lies: no less than a part's box is long, no more than the circle about the box's middle
    that holds the part."""
    points, part = shapely.get_coordinates(parts, return_index=True)
    boxes = shapely.bounds(parts)
    middle = (boxes[:, :2] + boxes[:, 2:]) / 2
    away = np.hypot(*(points - middle[part]).T)
    return (boxes[:, 2:] - boxes[:, :2]).max(axis=1), 2 * np.maximum.reduceat(
        away, np.searchsorted(part, range(len(parts)))
    )


def by_size(across: np.ndarray) -> tuple[int, ...]:
    """How many of those so large across there are of each size."""
    return tuple(np.bincount(np.searchsorted(SIZES_MM, across, side="right"), minlength=len(SIZES_MM) + 1).tolist())


def corners(region: np.ndarray) -> tuple[Array, Array]:
    """The corners of parts that point outwards, places (m, 2) and how sharp each is (m,) deg, sharper than CORNER_DEG.
    What a curve turns by within EDGE_MM is one corner."""
    rings = shapely.get_rings(shapely.orient_polygons(shapely.simplify(region, EDGE_MM / 5)))
    points, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    leg = (points[1:] - points[:-1])[same]
    start, of = points[:-1][same], ring[:-1][same]
    if not len(leg):
        return np.empty((0, 2)), np.empty(0)
    first = np.searchsorted(of, np.arange(of[-1] + 1))
    before = np.arange(len(of)) - 1
    before[first] = np.concatenate([first[1:], [len(of)]]) - 1
    into, out = leg[before], leg
    turn = np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1))
    long = np.minimum(np.hypot(*into.T), np.hypot(*out.T)) > EDGE_MM
    inside = 180 - np.degrees(turn)
    sharp = long & (turn > 0) & (inside < CORNER_DEG)
    return start[sharp], inside[sharp]


def inspect(region: BaseGeometry, least_stroke: float, least_dot: float) -> Inspection:
    """Find what is thinner than `least_stroke` or smaller all over than `least_dot` (mm), the gaps out of which waste
    does not come whole, what hangs by a thread and what lies in a hole."""
    parts = areas(np.array([region], dtype=object))
    if not len(parts):
        return Inspection((), (), 0.0)
    least, most = _across_roughly(parts)
    small = most < least_dot
    unsure = ~small & (least < least_dot)
    small[unsure] = _across(parts[unsure]) < least_dot
    strokes = parts[~small]
    thin, necks = thin_places_and_necks(strokes, least_stroke)
    gap = least_gap(least_stroke)
    gaps = narrow_gaps(parts, gap)
    holes, _ = holes_in(parts)
    within = np.unique(shapely.STRtree(shapely.point_on_surface(parts)).query(holes, predicate="contains")[1])
    smallest, at = _smallest(parts, least, most)
    spots = [Spot("piece", smallest, at)]
    if len(holes):
        spots.append(Spot("hole", *_smallest(holes, *_across_roughly(holes))))
    if 0 < len(thin) <= MOST_MEASURED:
        spots.append(_thinnest(strokes, thin, least_stroke))
    narrow = _narrowest(parts, gaps, gap)
    if narrow is not None:
        spots.append(narrow)
    where, sharp = corners(parts)
    if len(sharp):
        n = int(np.argmin(sharp))
        spots.append(Spot("point", float(sharp[n]), (float(where[n, 0]), float(where[n, 1]))))
    return Inspection(
        _points(thin),
        _points(parts[small]),
        smallest if small.any() else 0.0,
        _points(gaps),
        _points(thin[necks]),
        _points(parts[within]),
        tuple(spots),
        by_size((least + most) / 2),
        by_size(np.append(sum(_across_roughly(holes)) / 2 if len(holes) else [], np.inf)),
    )


def _smallest(parts: np.ndarray, least: np.ndarray, most: np.ndarray) -> tuple[float, tuple[float, float]]:
    """How large across the smallest of some parts is, and where it lies."""
    may = np.flatnonzero(least <= most.min())
    across = _across(parts[may])
    n = int(np.argmin(across))
    return float(across[n]), _points(parts[may[n : n + 1]])[0]


def _thinnest(strokes: np.ndarray, thin: np.ndarray, least_stroke: float) -> Spot:
    """The thinnest of some thin places, which are less than `least_stroke` wide."""
    of = np.unique(shapely.STRtree(strokes).query(thin, predicate="intersects")[1])
    if shapely.get_num_coordinates(strokes[of]).sum() > MOST_CORNERS:
        # As wide as what fits in it.
        across = 2 * shapely.length(shapely.maximum_inscribed_circle(thin, least_stroke / 50))
        n = int(np.argmin(across))
        return Spot("stroke", float(across[n]), _points(thin[n : n + 1])[0])
    width, found = least_width(strokes[of], least_stroke)
    return Spot("stroke", width, _points(found[:1])[0])


def _narrowest(parts: np.ndarray, gaps: np.ndarray, gap: float) -> Spot | None:
    """The narrowest of some gaps, which are less than `gap` wide."""
    if not len(gaps):
        return None
    best = Spot("gap", math.inf, (0.0, 0.0))
    lines = gaps_between(parts, gap)
    if len(lines):
        n = int(np.argmin(shapely.length(lines)))
        middle = shapely.line_interpolate_point(lines[n : n + 1], 0.5, normalized=True)
        best = Spot("gap", float(shapely.length(lines[n])), _points(middle)[0])
    notches = gaps[shapely.get_dimensions(gaps) == 2]
    of = np.empty(0, dtype=np.int64)
    if 0 < len(notches) <= MOST_MEASURED:
        of = np.unique(shapely.STRtree(parts).query(notches, predicate="dwithin", distance=gap)[1])
    if 0 < shapely.get_num_coordinates(parts[of]).sum() <= MOST_CORNERS:
        width, found = least_width(parts[of], min(best.value, gap), narrow_notches)
        if width < best.value:
            best = Spot("gap", width, _points(found[:1])[0])
    return best if math.isfinite(best.value) else None
