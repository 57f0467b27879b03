"""What all views share: contours thinned for the screen, and the base of their shapes."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict
from shapely.geometry.base import BaseGeometry

DRAWN_TOLERANCE_MM = 0.015
"""Contours are thinned to this for the screen; files are made from the whole ones."""
Ring = list[float]
"""x0, y0, x1, y1, ... of one contour, mm, y up."""
Box = tuple[float, float, float, float]


class View(BaseModel):
    """Base of what a screen is given."""

    model_config = ConfigDict(extra="forbid", frozen=True)


def flat(points: np.ndarray, digits: int = 3) -> Ring:
    """Points (n, k) one after the other."""
    out: Ring = np.round(points, digits).ravel().tolist()
    return out


def _thinned_parts(parts: NDArray[np.object_], tolerance: float) -> NDArray[np.object_]:
    """Each part (m,) thinned by itself: all at once would cost their square. What is so small that nothing would be
    left of it stays as it is."""
    out: NDArray[np.object_] = shapely.simplify(parts, tolerance, preserve_topology=False)
    gone = shapely.is_empty(out)
    out[gone] = parts[gone]
    return out


def thinned(region: BaseGeometry, tolerance: float = DRAWN_TOLERANCE_MM) -> NDArray[np.object_]:
    """The parts (m,) of a region with their contours thinned."""
    left: NDArray[np.object_] = shapely.get_parts(_thinned_parts(shapely.get_parts(region), tolerance))
    return left


def rings_of(region: BaseGeometry, tolerance: float = DRAWN_TOLERANCE_MM, digits: int = 3) -> list[Ring]:
    """Contours for the screen, each a flat list of numbers."""
    return rings_by_part(region, tolerance, digits)[0]


def rings_by_part(
    region: BaseGeometry, tolerance: float = DRAWN_TOLERANCE_MM, digits: int = 3
) -> tuple[list[Ring], list[int]]:
    """Contours for the screen, and for each the number of the part it belongs to."""
    parts = shapely.get_parts(region)
    # Thinned, one may fall into several.
    pieces, whole = shapely.get_parts(_thinned_parts(parts, tolerance) if tolerance else parts, return_index=True)
    rings, piece = shapely.get_rings(pieces, return_index=True)
    of = whole[piece]
    points, ring = shapely.get_coordinates(rings, return_index=True)
    if not len(points):
        return [], []
    last = np.concatenate([ring[1:] != ring[:-1], [True]])
    points, ring = np.round(points[~last], digits), ring[~last]
    starts = np.flatnonzero(np.concatenate([[True], ring[1:] != ring[:-1]]))
    ends = [*starts[1:].tolist(), len(points)]
    numbers = points.ravel().tolist()
    out = [numbers[2 * a : 2 * b] for a, b in zip(starts.tolist(), ends, strict=True)]
    return out, of[ring[starts]].tolist()


def box(bounds: tuple[float, ...]) -> Box:
    """Left, low, right, high to 0.0001 mm."""
    a, b, c, d = (round(float(v), 4) for v in bounds)
    return a, b, c, d
