"""What may go wrong with a cut layer: strokes too thin to hold, dots that come off unseen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..overlay import difference, union

LONG_TIP = 3.0
"""A point that goes on for more than this many half strokes beyond where it gets too thin tears; a corner of more than
about 29 degrees does not go on for so long."""
SLACK = 0.02
"""By this share of the half stroke rounding may leave an edge without its being thin."""


@dataclass(frozen=True)
class Inspection:
    """Pieces of a layer that need care: places (x, y) mm on the template, one each."""

    thin: tuple[tuple[float, float], ...]
    dots: tuple[tuple[float, float], ...]
    smallest_dot_mm: float


def _points(parts: np.ndarray) -> tuple[tuple[float, float], ...]:
    at = shapely.get_coordinates(shapely.point_on_surface(parts))
    return tuple((float(x), float(y)) for x, y in at)


def _across(parts: np.ndarray) -> np.ndarray:
    """The greatest extent of each part in any direction (mm): the diameter of the circle round it."""
    return np.asarray(2 * shapely.minimum_bounding_radius(parts))


def thin_places(parts: np.ndarray, stroke: float) -> np.ndarray:
    """Where pieces (n,) are thinner than `stroke` mm: regions (m,), one for each place.

    What vanishes when a piece is shrunk by half of that and grown again is thinner. A rest that joins two stretches of
    what is left is a neck, one that touches nothing is thin altogether, and one that touches it once is an end: thin
    where it goes on for long, else the tip of a corner. None of it depends on how the piece is turned.
    """
    half = stroke / 2
    kept = shapely.buffer(shapely.buffer(parts, -half, quad_segs=16), half * (1 + SLACK), quad_segs=16)
    out: list[BaseGeometry] = []
    shapely.prepare(kept)
    for part, left in zip(parts[~shapely.covers(kept, parts)], kept[~shapely.covers(kept, parts)], strict=True):
        if left.is_empty:
            out.append(part)
            continue
        rest = shapely.get_parts(difference(part, left))
        thin = [r for r in rest[shapely.area(rest) > (SLACK * half) ** 2] if _is_thin(r, left, half)]
        # The two sides of one neck are one place.
        out += shapely.get_parts(union(shapely.buffer(thin, half))).tolist() if len(thin) > 1 else thin
    return np.array(out, dtype=object)


def _is_thin(rest: BaseGeometry, left: BaseGeometry, half: float) -> bool:
    """Is what vanished more than the tip of a corner?"""
    apart = shapely.distance(left, shapely.points(shapely.get_coordinates(rest.exterior)))
    touching = apart < 1e-3 * half
    contacts = int((touching[1:] & ~touching[:-1]).sum())
    return bool(touching.all()) or contacts != 1 or float(apart.max()) > LONG_TIP * half


def inspect(region: BaseGeometry, least_stroke: float, least_dot: float) -> Inspection:
    """Find what is thinner than `least_stroke` or smaller all over than `least_dot` (mm)."""
    parts = shapely.get_parts(region)
    if not len(parts):
        return Inspection((), (), 0.0)
    left, low, right, high = shapely.bounds(parts).T
    # The circle round a part is no smaller than its box is long, and no larger than the box is from corner to corner.
    least, most = np.maximum(right - left, high - low), np.hypot(right - left, high - low)
    small = most < least_dot
    unsure = ~small & (least < least_dot)
    small[unsure] = _across(parts[unsure]) < least_dot
    thin = thin_places(parts[~small], least_stroke)
    smallest = small & (least <= most[small].min(initial=np.inf))
    return Inspection(
        _points(thin), _points(parts[small]), float(_across(parts[smallest]).min()) if small.any() else 0.0
    )
