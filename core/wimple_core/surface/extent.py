"""How far something that is laid reaches on the body: from the laid region itself, its edges between their corners
included."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from .pieces import Pieces
from .surface import Surface

SAG_MM = 0.001
"""A straight edge of the template sags on a taper: between its corners it is looked at so closely."""
IN_PIECES_MM = 0.5
"""And so often on a surface in pieces, each of which has a taper of its own."""


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
    """How far regions (n,) on the template reach; None where there is nothing. Where straight edges of the template are
    none of the wall's they are looked at between their corners, so closely that nothing is missed by more than SAG_MM:
    on a wall of taper `k`, at the radius `r`, an edge `l` long sags by `k l^2 / (8 r)`."""
    shapes = np.array(list(regions), dtype=object)
    points = shapely.get_coordinates(shapes)
    if not len(points):
        return None
    a, s = (np.asarray(v) for v in surface.wrap(points[:, 0], points[:, 1]))
    if surface.k or isinstance(surface, Pieces):
        narrow = max(surface.scale_at(float(s.min() if surface.k > 0 else s.max())), 1.0)
        every = math.sqrt(8 * SAG_MM * narrow / abs(surface.k)) if surface.k else IN_PIECES_MM
        between = shapely.segmentize(shapes, every)
        points = shapely.get_coordinates(between)
        a, s = (np.asarray(v) for v in surface.wrap(points[:, 0], points[:, 1]))
    left, right = float(a.min()), float(a.max())
    return Extent(float(s.min()), float(s.max()), left, right, surface.closed and right - left > ROUND * 2 * math.pi)
