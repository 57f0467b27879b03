"""What may go wrong with a cut layer: strokes too thin to hold, dots that come off unseen, waste too narrow to come out
whole."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..thin import narrow_gaps, thin_places


@dataclass(frozen=True)
class Inspection:
    """Pieces of a layer that need care: places (x, y) mm on the template, one each."""

    thin: tuple[tuple[float, float], ...]
    dots: tuple[tuple[float, float], ...]
    smallest_dot_mm: float
    gaps: tuple[tuple[float, float], ...] = ()


GAP_SHARE = 0.5


def least_gap(least_stroke: float) -> float:
    """How wide (mm) a gap must be for its waste to come out whole: waste is only pulled off, so it may be half as wide
    as what must hold (common practice, no source)."""
    return GAP_SHARE * least_stroke


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


def inspect(region: BaseGeometry, least_stroke: float, least_dot: float) -> Inspection:
    """Find what is thinner than `least_stroke` or smaller all over than `least_dot` (mm), and the gaps out of which
    waste does not come whole."""
    parts = shapely.get_parts(region)
    if not len(parts):
        return Inspection((), (), 0.0)
    least, most = _across_roughly(parts)
    small = most < least_dot
    unsure = ~small & (least < least_dot)
    small[unsure] = _across(parts[unsure]) < least_dot
    thin = thin_places(parts[~small], least_stroke)
    smallest = small & (least <= most[small].min(initial=np.inf))
    gaps = narrow_gaps(parts, least_gap(least_stroke))
    dot = float(_across(parts[smallest]).min()) if small.any() else 0.0
    return Inspection(_points(thin), _points(parts[small]), dot, _points(gaps))
