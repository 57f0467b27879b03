"""Registration marks: the same on every layer, at the same place, and no two alike, so that a layer turned round or
over is seen at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..arrangement import areas
from ..job.document import Marks
from ..overlay import difference, together, union

ARM_SHARE = 0.14
"""Width of a cross's or an angle's arm, as a share of its height."""
NOTCH_SHARE = 0.4
"""How much of a square, or of a strip's width, is cut out of the one that tells the side."""
STEP_MM = 1.0
"""So finely places inside the work's box are tried."""
Bounds = tuple[float, float, float, float]


@dataclass(frozen=True)
class Placed:
    """Marks where they stand: their region, the middle between them, and how far they are apart, mm."""

    region: BaseGeometry
    middle: tuple[float, float]
    apart: float


def _put(shape: BaseGeometry, x: float, y: float) -> BaseGeometry:
    moved: BaseGeometry = shapely.transform(shape, lambda c: c + (x, y))
    return moved


@lru_cache(maxsize=32)
def _cross(size: float, footed: bool) -> BaseGeometry:
    """A cross about 0, 0."""
    half, arm = size / 2, size * ARM_SHARE / 2
    bars = [shapely.box(-half, -arm, half, arm), shapely.box(-arm, -half, arm, half)]
    if footed:
        bars.append(shapely.box(-arm, -half, half * 0.7, -half + 2 * arm))
    return union(bars)


def _square(size: float, notched: bool) -> BaseGeometry:
    """A square about 0, 0; the notched one without its outer upper corner."""
    half, gone = size / 2, NOTCH_SHARE * size
    whole = shapely.box(-half, -half, half, half)
    return difference(whole, shapely.box(half - gone, half - gone, size, size)) if notched else whole


def _strip(wide: float, tall: float, notched: bool) -> BaseGeometry:
    """A strip about 0, 0; the notched one has a bite out of its outer side, a third of the way down."""
    whole = shapely.box(-wide / 2, -tall / 2, wide / 2, tall / 2)
    bite, at = NOTCH_SHARE * wide, tall / 6
    return difference(whole, shapely.box(wide / 2 - bite, at - wide / 2, wide, at + wide / 2)) if notched else whole


def _angle(size: float, right: bool, upper: bool, whole: bool) -> BaseGeometry:
    """An angle whose arms run along the sides of the work, its outer corner at 0, 0; one that is not whole has its
    level arm only."""
    arm = size * ARM_SHARE
    level, upright = shapely.box(0, 0, size, arm), shapely.box(0, 0, arm, size)
    shape = union([level, upright]) if whole else level
    # Drawn for the lower left, and turned over for the others.
    flip = np.array([-1.0 if right else 1.0, -1.0 if upper else 1.0])
    turned: BaseGeometry = shapely.transform(shape, lambda c: c * flip)
    return shapely.orient_polygons(turned) if right != upper else turned


def _pair(one: BaseGeometry, other: BaseGeometry, a: tuple[float, float], b: tuple[float, float]) -> Placed:
    """Two marks about two places."""
    middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    return Placed(together([_put(one, *a), _put(other, *b)]), middle, float(np.hypot(b[0] - a[0], b[1] - a[1])))


def crosses_above(bounds: Bounds, size: float, away: float) -> Placed:
    """Two crosses `size` mm tall, their feet `away` mm above the work whose left, low, right, high are `bounds`."""
    left, _, right, high = bounds
    middle = (left + right) / 2
    half = max(right - left, 3 * size) / 2 - size / 2
    y = high + away + size / 2
    return _pair(_cross(size, False), _cross(size, True), (middle - half, y), (middle + half, y))


def squares_beside(bounds: Bounds, size: float, away: float) -> Placed:
    """Two squares at the sides of the work, half way up."""
    left, low, right, high = bounds
    y, out = (low + high) / 2, away + size / 2
    return _pair(_square(size, False), _square(size, True), (left - out, y), (right + out, y))


def strips_beside(bounds: Bounds, size: float, away: float) -> Placed:
    """A strip along each side of the work, a third as wide as marks are large, and as tall as the work."""
    left, low, right, high = bounds
    wide, tall = size / 3, max(high - low, 2 * size)
    y, out = (low + high) / 2, away + wide / 2
    one, other = _strip(wide, tall, False), _strip(wide, tall, True)
    made = _pair(one, other, (left - out, y), (right + out, y))
    # Laid along both, they hold a turn by their height as well.
    return Placed(made.region, made.middle, float(np.hypot(made.apart, tall)))


def angles_at_corners(bounds: Bounds, size: float, away: float) -> Placed:
    """An angle outside each corner of the work, the upper right one without its upright arm."""
    left, low, right, high = bounds
    out = away + size * ARM_SHARE
    at = {(r, u): (right + out if r else left - out, high + out if u else low - out) for r in (0, 1) for u in (0, 1)}
    some = [_put(_angle(size, bool(r), bool(u), not (r and u)), *place) for (r, u), place in at.items()]
    middle = ((left + right) / 2, (low + high) / 2)
    wide, tall = right - left + 2 * out, high - low + 2 * out
    return Placed(together(some), middle, float(np.hypot(wide, tall)))


KINDS = {"crosses": crosses_above, "squares": squares_beside, "strips": strips_beside, "corners": angles_at_corners}


def _free(parts: NDArray[np.object_], boxes: NDArray[np.object_]) -> NDArray[np.bool_]:
    """Of boxes, of any shape, which meet none of the parts (n,) of the work. Parts may lie on one another."""
    free = np.ones(boxes.size, dtype=bool)
    free[shapely.STRtree(parts).query(boxes.ravel(), predicate="intersects")[0]] = False
    return free.reshape(boxes.shape)


def _inside(parts: NDArray[np.object_], bounds: Bounds, size: float, away: float) -> Placed | None:
    """Two crosses within the box of the work, whose parts are (n,), as far apart as there is room beside it, the
    uppermost such place: no film is added for them. None where there is no room."""
    left, low, right, high = bounds
    if right - left < 3 * size or high - low < size:
        return None
    y = np.arange(high - size / 2, low + size / 2 - 1e-9, -STEP_MM)
    x = np.array([left + size / 2, right - size / 2])
    reach = size / 2 + away
    boxes = shapely.box(x[:, None] - reach, y - reach, x[:, None] + reach, y + reach)
    free = _free(parts, boxes)
    both = np.flatnonzero(free.all(axis=0))
    if len(both):
        at = float(y[both[0]])
        return _pair(_cross(size, False), _cross(size, True), (float(x[0]), at), (float(x[1]), at))
    # Not level with each other: they hold a turn as well so.
    if not free.any(axis=1).all():
        return None
    one, other = (float(y[np.argmax(row)]) for row in free)
    return _pair(_cross(size, False), _cross(size, True), (float(x[0]), one), (float(x[1]), other))


def place_marks(marks: Marks, regions: list[BaseGeometry], bounds: Bounds) -> Placed | None:
    """Marks round some layers, whose regions lie within `bounds`; none where one layer is enough."""
    if marks.kind == "none" or len(regions) < 2:
        return None
    if marks.kind == "crosses" and marks.within:
        parts = areas(np.array(regions, dtype=object))
        found = _inside(parts, bounds, marks.size_mm, marks.away_mm)
        if found is not None:
            return found
    return KINDS[marks.kind](bounds, marks.size_mm, marks.away_mm)


def centre_tick(marks: Marks, regions: Sequence[BaseGeometry], placed: Bounds, x: float) -> BaseGeometry | None:
    """A tick on the template's centre line, at `x`, that points down along it: by it the pile is laid on the blank. It
    stands above the work where marks do as well (`placed`: the bounds of work and marks), else within the work's own
    box where there is room beside all of the layers (n,), which may lie on one another, else above them all the same;
    None where the line does not cross the work."""
    parts = areas(np.array(list(regions), dtype=object))
    left, low, right, high = shapely.total_bounds(parts).tolist()
    if marks.kind == "none" or not marks.centre or not left <= x <= right:
        return None
    size = marks.size_mm / 2
    foot = high + marks.away_mm
    if foot + size > placed[3] + 1e-6:
        y = np.arange(high - size, low, -STEP_MM)
        reach = marks.away_mm
        boxes = shapely.box(x - size / 3 - reach, y - reach, x + size / 3 + reach, y + size + reach)
        free = np.flatnonzero(_free(parts, boxes))
        foot = float(y[free[0]]) if len(free) else foot
    return shapely.Polygon([(x, foot), (x + size / 3, foot + size), (x - size / 3, foot + size)])
