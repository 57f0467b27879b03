"""What may go wrong with a cut layer: strokes too thin to hold, dots that come off unseen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry


@dataclass(frozen=True)
class Inspection:
    """Pieces of a layer that need care: places (x, y) mm on the template, one each."""

    thin: tuple[tuple[float, float], ...]
    dots: tuple[tuple[float, float], ...]
    smallest_dot_mm: float


def _points(parts: np.ndarray) -> tuple[tuple[float, float], ...]:
    at = shapely.get_coordinates(shapely.point_on_surface(parts))
    return tuple((float(x), float(y)) for x, y in at)


def inspect(region: BaseGeometry, least_stroke: float, least_dot: float) -> Inspection:
    """Find what is thinner than `least_stroke` or smaller all over than `least_dot` (mm).

    What vanishes when the region is shrunk by half a width and grown again is thinner than that width. Rounded
    corners that vanish too are told from strokes by their size.
    """
    parts = shapely.get_parts(region)
    if not len(parts):
        return Inspection((), (), 0.0)
    box = shapely.bounds(parts)
    size = np.maximum(box[:, 2] - box[:, 0], box[:, 3] - box[:, 1])
    small = size < least_dot
    large = parts[~small]
    thin: np.ndarray = np.empty(0, dtype=object)
    if len(large):
        half = least_stroke / 2
        opened = shapely.buffer(shapely.buffer(large, -half, quad_segs=4), half * 1.06, quad_segs=4)
        rest = shapely.get_parts(shapely.difference(large, opened))
        thin = rest[shapely.area(rest) > 0.25 * least_stroke**2]
    return Inspection(_points(thin), _points(parts[small]), float(size[small].min()) if small.any() else 0.0)
