"""A test cut: a small figure of our own, a triangle in a ring in a leaning square, cut in a row of forces."""

from __future__ import annotations

import numpy as np
import shapely

from ..cuts import cuts_round
from .plan import CutPath, ordered_paths

FIGURE_MM = 11.0
APART_MM = 5.0
STEPS = 5
SPREAD = 0.12
"""From one force to the next, a share of the middle one."""


def forces_round(middle: float, most_gf: float | None = None) -> list[float]:
    """A row of forces (gf) round the one that is looked for, no stronger than a machine presses."""
    row = [round(middle * (1 + SPREAD * (n - STEPS // 2))) for n in range(STEPS)]
    return [float(min(max(f, 1), most_gf or f)) for f in row]


def figure(at: tuple[float, float] = (0.0, 0.0)) -> shapely.MultiPolygon:
    """The figure with its lower left at a place, mm: corners, an arc, and a dot as small as comes off easily."""
    c = FIGURE_MM / 2
    square = shapely.affinity.rotate(shapely.box(1.6, 1.6, FIGURE_MM - 1.6, FIGURE_MM - 1.6), 12.0)
    ring = shapely.Point(c, c).buffer(3.1, quad_segs=24)
    three = np.radians([90.0, 210.0, 330.0])
    triangle = shapely.Polygon(np.column_stack([c + 2.0 * np.cos(three), c + 2.0 * np.sin(three)]))
    parts = shapely.multipolygons([square.difference(ring), triangle])
    return shapely.affinity.translate(parts, *at)


def trial_strokes(count: int, overcut: float, blade_offset: float) -> list[list[CutPath]]:
    """The strokes of so many figures side by side, for each force its own."""
    out = []
    for n in range(count):
        region = figure((n * (FIGURE_MM + APART_MM), 0.0))
        out.append(ordered_paths(cuts_round(region), overcut, blade_offset))
    return out
