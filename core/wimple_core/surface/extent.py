"""How far something that is laid reaches on the body: from the laid region itself, its edges between their corners
included."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from .surface import Surface

EVERY_MM = 0.5
"""A straight edge of the template sags on the wall: it is looked at so often, which is 0.001 mm on a cup."""


@dataclass(frozen=True)
class Extent:
    """The lowest and highest place (mm along the side) and the leftmost and rightmost (the surface's own: rad on what
    is closed, else mm) of what is laid."""

    low: float
    high: float
    left: float
    right: float
    all_round: bool
    """Does it go all round, so that its ends meet?"""


ROUND = 0.98
"""What spans so much of a turn closes."""


def extent_of(regions: Sequence[BaseGeometry], surface: Surface) -> Extent | None:
    """How far regions (n,) on the template reach; None where there is nothing. Between its corners an edge is looked at
    every EVERY_MM."""
    edges = shapely.segmentize(shapely.boundary(np.array(list(regions), dtype=object)), EVERY_MM)
    points = shapely.get_coordinates(edges)
    if not len(points):
        return None
    a, s = (np.asarray(v) for v in surface.wrap(points[:, 0], points[:, 1]))
    left, right = float(a.min()), float(a.max())
    return Extent(float(s.min()), float(s.max()), left, right, surface.closed and right - left > ROUND * 2 * math.pi)
