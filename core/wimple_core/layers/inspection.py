"""What may go wrong with a cut layer: strokes too thin to hold, dots that come off unseen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..overlay import differences, union

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


def thin_places(parts: np.ndarray, stroke: float) -> np.ndarray:
    """Where pieces (n,) are thinner than `stroke` mm: regions (m,), one for each place.

    What vanishes when a piece is shrunk by half of that and grown again is thinner. A rest that joins two stretches of
    what is left is a neck, one that touches nothing is thin altogether, and one that touches it once is an end: thin
    where it goes on for long, else the tip of a corner. None of it depends on how the piece is turned.
    """
    half = stroke / 2
    kept = shapely.buffer(shapely.buffer(parts, -half, quad_segs=16), half * (1 + SLACK), quad_segs=16)
    bare = ~shapely.covers(prepared(kept), parts)
    parts, kept = parts[bare], kept[bare]
    gone = shapely.is_empty(kept)
    whole, left = parts[gone], prepared(kept[~gone])
    rest, part = shapely.get_parts(differences(parts[~gone], left), return_index=True)
    seen = shapely.area(rest) > (SLACK * half) ** 2
    rest, part = rest[seen], part[seen]
    thin = _are_thin(rest, left[part], half)
    rest, part = rest[thin], part[thin]
    out: list[BaseGeometry] = list(whole)
    for one in np.split(rest, np.flatnonzero(np.diff(part)) + 1):
        # The two sides of one neck are one place.
        out += shapely.get_parts(union(shapely.buffer(one, half))).tolist() if len(one) > 1 else list(one)
    return np.array(out, dtype=object)


def _are_thin(rest: np.ndarray, left: np.ndarray, half: float) -> np.ndarray:
    """Of what vanished (n,), and what of its piece is left (n,): which is more than the tip of a corner?"""
    points, of = shapely.get_coordinates(shapely.get_exterior_ring(rest), return_index=True)
    at = shapely.points(points)

    def number(places: np.ndarray) -> np.ndarray:
        return np.bincount(of[places], minlength=len(rest))

    touching = shapely.dwithin(left[of], at, 1e-3 * half)
    begins = np.zeros_like(touching)
    begins[1:] = touching[1:] & ~touching[:-1] & (of[1:] == of[:-1])
    far = ~shapely.dwithin(left[of], at, LONG_TIP * half)
    thin: np.ndarray = (number(begins) != 1) | (number(far) > 0)
    return thin


def inspect(region: BaseGeometry, least_stroke: float, least_dot: float) -> Inspection:
    """Find what is thinner than `least_stroke` or smaller all over than `least_dot` (mm)."""
    parts = shapely.get_parts(region)
    if not len(parts):
        return Inspection((), (), 0.0)
    least, most = _across_roughly(parts)
    small = most < least_dot
    unsure = ~small & (least < least_dot)
    small[unsure] = _across(parts[unsure]) < least_dot
    thin = thin_places(parts[~small], least_stroke)
    smallest = small & (least <= most[small].min(initial=np.inf))
    return Inspection(
        _points(thin), _points(parts[small]), float(_across(parts[smallest]).min()) if small.any() else 0.0
    )
