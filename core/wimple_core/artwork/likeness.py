"""Which pieces are shaped alike, and what a maker would call their shape."""

from __future__ import annotations

from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from ..arrays import Array
from .edits.stack import Shapes

Shape = Literal["dot", "disc", "ring", "square", "bar", "piece"]
GAP = 0.03
"""Figures of two pieces further apart than this are of two shapes; a dot of a few chords is off by less."""
DOT_MM = 5.0
"""A disc that is smaller is a dot."""


def figures_of(parts: Shapes) -> Array:
    """What tells shapes (n,) apart in any size and turn (n, 5): holes, roundness `4 pi A / P^2`, the share of the hull
    that is filled, the hull's roundness, and how many times as long as wide the narrowest box round it is."""
    area, around = shapely.area(parts), shapely.length(parts)
    hulls = shapely.convex_hull(parts)
    hull_area, hull_around = shapely.area(hulls), shapely.length(hulls)
    boxes = shapely.get_coordinates(shapely.minimum_rotated_rectangle(hulls))
    sides = np.ones((len(parts), 2))
    if len(boxes) == 5 * len(parts):
        corners = boxes.reshape(len(parts), 5, 2)
        sides = np.sort(np.hypot(*np.moveaxis(np.diff(corners[:, :3], axis=1), 2, 0)), axis=1)
    return np.column_stack(
        [
            shapely.get_num_interior_rings(parts).astype(float),
            4 * np.pi * area / around**2,
            area / hull_area,
            4 * np.pi * hull_area / hull_around**2,
            np.log(sides[:, 1] / np.maximum(sides[:, 0], 1e-12)),
        ]
    )


def alike(parts: Shapes) -> NDArray[np.int64]:
    """For each piece (n,) the number of its shape: pieces of one shape differ in nothing by more than a small step from
    the next."""
    group = np.zeros(len(parts), dtype=np.int64)
    if not len(parts):
        return group
    figures = figures_of(parts)
    for _ in range(2):
        for column in figures.T:
            order = np.lexsort([column, group])
            step = (np.diff(group[order]) != 0) | (np.diff(column[order]) > GAP)
            group[order] = np.concatenate([[0], np.cumsum(step)])
    return group


def shapes_of(parts: Shapes, scale: float = 1.0) -> NDArray[np.object_]:
    """What each piece (n,) is called by its shape; `scale` is mm on the blank for one of the drawing's."""
    holes, _, _, hull_round, log_aspect = figures_of(parts).T
    bounds = shapely.bounds(parts)
    across = (bounds[:, 2:] - bounds[:, :2]).max(axis=1) * scale
    filled = shapely.area(shapely.polygons(shapely.get_exterior_ring(parts)))
    box = shapely.area(shapely.minimum_rotated_rectangle(parts))
    round_ = (hull_round > 0.94) & (log_aspect < 0.1) & (filled > 0.97 * shapely.area(shapely.convex_hull(parts)))
    square = filled > 0.97 * box
    out = np.full(len(parts), "piece", dtype=object)
    out[square & (holes == 0)] = "bar"
    out[square & (holes == 0) & (log_aspect < 0.06)] = "square"
    out[round_ & (holes == 1)] = "ring"
    out[round_ & (holes == 0)] = "disc"
    out[round_ & (holes == 0) & (across < DOT_MM)] = "dot"
    return out
