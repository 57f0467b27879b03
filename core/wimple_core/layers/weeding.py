"""How the waste of a layer comes off: frames to weed along, lines that part it, where to begin, how long it takes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from scipy import ndimage
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY, areas, as_one, holes_in, prepared
from ..arrays import Array
from ..artwork.pieces import is_letter
from ..job.document import Weeding
from .inspection import Inspection

SMALL_MM = 15.0
FEWEST_DENSE = 6
"""So many pieces smaller than SMALL_MM near each other are a dense place (common practice, no source)."""
MOST_OF_THE_BOX = 0.6
"""A frame round more than this of all the work is the weed box over again."""
CLEAR_MM = 1.0
CLOSE_MM = 0.3
"""Frames keep this far from what they do not go round; where there is no room for the first, the second."""
HAIR_MM = 0.15
"""Lines end so far before a piece: the blade nicks none, and the waste tears there."""
SHORTEST_MM = 3.0
TRIED = 25
MANY = 400
"""Of more pieces the outline is drawn round the cells of a grid that they lie in."""
ROW_MM = 6.0
"""A row that is looked along is no lower than this."""
PER_METRE, PER_WASTE, PER_CARE = 0.5, 0.03, 0.05
"""Minutes for a metre of edge, a piece of waste, a place that needs care (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class Weeded:
    """The plan for one layer: `frames` and `lines` (k, 2) mm on the template, the corner of the weed box at which to
    begin, in words and in mm, and the minutes it takes."""

    frames: BaseGeometry
    lines: tuple[Array, ...]
    corner: str
    start: tuple[float, float]
    minutes: float

    def moved(self, by: tuple[float, float]) -> Weeded:
        """The same, moved rigidly (mm)."""
        return replace(
            self,
            frames=shapely.transform(self.frames, lambda p: p + by),
            lines=tuple(line + by for line in self.lines),
            start=(self.start[0] + by[0], self.start[1] + by[1]),
        )

    def clear_of(self, mark: BaseGeometry) -> Weeded:
        """The same, its lines keeping off a mark that came later."""
        stop = shapely.buffer(mark, HAIR_MM, quad_segs=4)
        if not self.lines or not shapely.intersects(stop, shapely.multilinestrings(list(self.lines))):
            return self
        left = shapely.get_parts(shapely.difference([shapely.LineString(line) for line in self.lines], stop))
        keep = left[shapely.length(left) >= SHORTEST_MM]
        return replace(self, lines=tuple(shapely.get_coordinates(g) for g in keep))


def plan_weeding(
    region: BaseGeometry,
    marks: BaseGeometry,
    names: Sequence[str],
    found: Inspection,
    weeded: int,
    plan: Weeding,
    away: float,
    pace: float = 1.0,
) -> Weeded:
    """Plan how a layer is weeded: its `region`, whose parts have `names`, within a box `away` mm round it and its
    marks; `weeded` pieces of waste come out of it. The workshop takes `pace` minutes for one estimated."""
    parts = areas(np.array([region], dtype=object))
    if not len(parts):
        return Weeded(EMPTY, (), "", (0.0, 0.0), 0.0)
    every = np.concatenate([parts, areas(np.array([marks], dtype=object))])
    left, low, right, high = shapely.total_bounds(every)
    box = (float(left - away), float(low - away), float(right + away), float(high + away))
    frames = _frames(parts, names, every, plan.frame_away_mm, box) if plan.frames else EMPTY
    lines = _lines(every, frames, box, plan.largest_mm) if plan.parts else ()
    corner, start = _begin(every, box)
    care = len(found.dots) + len(found.thin) + len(found.gaps)
    metres = float(shapely.length(region)) / 1000
    minutes = PER_METRE * metres + PER_WASTE * weeded + PER_CARE * care
    return Weeded(frames, lines, corner, start, pace * minutes)


def _frames(
    parts: np.ndarray, names: Sequence[str], every: np.ndarray, away: float, box: Sequence[float]
) -> BaseGeometry:
    """Outlines round lettering and dense places, that cross no piece."""
    boxes = shapely.bounds(parts)
    small = (boxes[:, 2:] - boxes[:, :2]).max(axis=1) < SMALL_MM
    letter = np.array([is_letter(n.rpartition("/")[2].partition(":")[0].partition(".")[0]) for n in names], dtype=bool)
    chosen = np.flatnonzero(small | letter)
    if not len(chosen):
        return EMPTY
    groups = _together(np.where(small[chosen], shapely.convex_hull(parts[chosen]), parts[chosen]), away)
    inside = shapely.point_on_surface(parts[chosen])
    member, group = shapely.STRtree(groups).query(inside, predicate="within")
    many = np.bincount(group, minlength=len(groups))
    worded = np.zeros(len(groups), dtype=bool)
    worded[group[letter[chosen][member]]] = True
    dense = (many >= FEWEST_DENSE) | worded
    out = []
    tree, made = shapely.STRtree(every), prepared(as_one(every))
    for n in np.flatnonzero(dense).tolist():
        mine = set(chosen[member[group == n]].tolist())
        met = np.array([k for k in tree.query(groups[n], predicate="intersects").tolist() if k not in mine], dtype=int)
        # What lies among them for the most part goes with them.
        shared = shapely.length(shapely.intersection(shapely.boundary(every[met]), groups[n]))
        among = shared > 0.5 * shapely.length(every[met])
        outline = shapely.union_all([groups[n], *shapely.buffer(every[met[among]], away, quad_segs=4)])
        framed = _clear_of(outline, every[met[~among]], inside[member[group == n]], made)
        out += [] if framed is None else [framed]
    whole = (box[2] - box[0]) * (box[3] - box[1])
    joined = shapely.get_parts(shapely.union_all(np.array(out, dtype=object))) if out else np.empty(0, dtype=object)
    rounded = shapely.simplify(shapely.polygons(shapely.get_exterior_ring(joined)), 0.05)
    keep = (shapely.area(rounded) < MOST_OF_THE_BOX * whole) & ~shapely.intersects(made, shapely.boundary(rounded))
    return as_one(rounded[keep])


def _together(shapes: np.ndarray, away: float) -> np.ndarray:
    """Outlines (m,) `away` mm round shapes (n,), one round those that are near each other: a word, not its letters."""
    if len(shapes) > MANY:
        shapes = _in_cells(shapes, away / 2)
    near = shapely.union_all(shapely.buffer(shapes, away, quad_segs=4))
    closed = shapely.buffer(shapely.buffer(near, 2 * away, quad_segs=4), -2 * away, quad_segs=4)
    return np.asarray(shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(closed))))


def _in_cells(shapes: np.ndarray, size: float) -> np.ndarray:
    """The boxes of many shapes on a grid of cells `size` mm wide, joined along its rows where they are no further apart
    than an outline joins them."""
    boxes = shapely.bounds(shapes)
    a, b = np.floor(boxes[:, :2] / size).astype(int), np.ceil(boxes[:, 2:] / size).astype(int)
    (left, low), (right, high) = a.min(axis=0), b.max(axis=0)
    there = np.zeros((high - low, right - left + 1), dtype=np.int32)
    for n in range(int((b - a)[:, 1].max())):
        rows = a[:, 1] - low + n
        on = rows < b[:, 1] - low
        np.add.at(there, (rows[on], a[on, 0] - left), 1)
        np.add.at(there, (rows[on], b[on, 0] - left), -1)
    filled = np.cumsum(there, axis=1) > 0
    filled = ndimage.binary_closing(np.pad(filled, ((0, 0), (4, 4))), np.ones((1, 5)))[:, 4:-4]
    edge = np.diff(filled.astype(np.int8), axis=1, prepend=0, append=0)
    (rows, start), (_, end) = np.nonzero(edge == 1), np.nonzero(edge == -1)
    y = (rows + low) * size
    return np.asarray(shapely.box((start + left) * size, y, (end + left) * size, y + size))


def _clear_of(group: BaseGeometry, others: np.ndarray, inside: np.ndarray, made: BaseGeometry) -> BaseGeometry | None:
    """A frame kept clear of what it does not go round; None where there is no room for one."""
    for clear in (CLEAR_MM, CLOSE_MM):
        framed = group
        if len(others):
            framed = shapely.difference(group, shapely.union_all(shapely.buffer(others, clear, quad_segs=4)))
        kept = [p for p in shapely.get_parts(framed) if shapely.intersects(p, inside).any()]
        if not kept:
            continue
        whole = shapely.polygons(shapely.get_exterior_ring(np.array(kept, dtype=object)))
        if not shapely.intersects(made, shapely.boundary(whole)).any():
            found: BaseGeometry = shapely.union_all(whole)
            return found
        if not len(others):
            break
    return None


def _short_of(part: BaseGeometry, ends: Array) -> Array:
    """A stretch of a line that ends a hair before what it was cut at, but goes up to the line's own ends; nothing where
    it is too short."""
    if part.geom_type != "LineString" or part.length < SHORTEST_MM:
        return np.empty((0, 2))
    points: Array = shapely.get_coordinates(part)[[0, -1]]
    along = (points[1] - points[0]) / part.length
    for n, sign in ((0, 1.0), (1, -1.0)):
        if np.abs(points[n] - ends).max(axis=1).min() > HAIR_MM:
            points[n] = points[n] + sign * HAIR_MM * along
    return points


def _lines(every: np.ndarray, frames: BaseGeometry, box: Sequence[float], largest: float) -> tuple[Array, ...]:
    """Lines across the box that part the waste, none of which meets a piece."""
    left, low, right, high = box
    if max(right - left, high - low) <= largest:
        return ()
    holes, _ = holes_in(every)
    size = shapely.bounds(holes)
    little = holes[(size[:, 2:] - size[:, :2]).max(axis=1) <= largest] if len(holes) else holes
    # Nothing is cut in a frame, or in a hole that a hand can hold.
    stops = np.concatenate([every, shapely.get_parts(frames), little])
    tree = shapely.STRtree(stops)
    out: list[Array] = []
    for upright in (True, False):
        a, b = (left, right) if upright else (low, high)
        count = math.ceil((b - a) / largest) - 1
        pitch = (b - a) / (count + 1)
        for n in range(1, count + 1):
            ideal = a + n * pitch
            at = ideal + np.linspace(-pitch / 5, pitch / 5, TRIED)
            ends = np.empty((TRIED, 2, 2))
            ends[:, :, 0 if upright else 1] = at[:, None]
            ends[:, :, 1 if upright else 0] = (low, high) if upright else (left, right)
            lines = shapely.linestrings(ends)
            line, met = tree.query(lines, predicate="dwithin", distance=HAIR_MM)
            crossed = np.bincount(line, minlength=TRIED) + 2 * np.abs(at - ideal) / pitch
            best = int(np.argmin(crossed))
            free = lines[best]
            for stop in stops[met[line == best]]:
                free = shapely.difference(free, stop)
            out += [p for g in shapely.get_parts(free) if len(p := _short_of(g, ends[best])) and len(p) == 2]
    return tuple(out)


CORNERS = ("lower left", "lower right", "upper left", "upper right")


def _begin(every: np.ndarray, box: Sequence[float]) -> tuple[str, tuple[float, float]]:
    """The corner of the box that is furthest from any piece: there is most waste to take hold of."""
    at = [(box[0], box[1]), (box[2], box[1]), (box[0], box[3]), (box[2], box[3])]
    away = [float(shapely.distance(every, shapely.Point(*p)).min()) for p in at]
    n = int(np.argmax(np.round(away, 3)))
    return CORNERS[n], at[n]


def looking_order(parts: np.ndarray) -> np.ndarray:
    """Pieces (n,) in the order to look: in rows from the top, each from left to right, as one reads."""
    if not len(parts):
        return np.empty(0, dtype=np.int64)
    boxes = shapely.bounds(parts)
    middle = (boxes[:, :2] + boxes[:, 2:]) / 2
    tall = max(float(np.median(boxes[:, 3] - boxes[:, 1])) * 1.2, ROW_MM)
    row = np.floor((middle[:, 1].max() - middle[:, 1]) / tall)
    return np.lexsort((middle[:, 0], row))
