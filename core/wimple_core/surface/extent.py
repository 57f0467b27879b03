"""How far something that is laid reaches on the body: from the laid region itself, its edges between their corners
included."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from .surface import Surface

EVERY_MM = 0.5
"""A straight edge of the template sags on the wall: it is looked at so often, which is 0.001 mm on a cup."""


def heights_of(regions: Sequence[BaseGeometry], surface: Surface) -> tuple[float, float] | None:
    """The lowest and the highest place (mm along the side) of regions (n,) on the template; None where there is
    nothing. Between its corners an edge is looked at every EVERY_MM."""
    edges = shapely.segmentize(shapely.boundary(np.array(list(regions), dtype=object)), EVERY_MM)
    points = shapely.get_coordinates(edges)
    if not len(points):
        return None
    s = np.asarray(surface.wrap(points[:, 0], points[:, 1])[1])
    return float(s.min()), float(s.max())
