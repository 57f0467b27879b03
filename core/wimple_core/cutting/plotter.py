"""Plotter files in HP-GL: 40 units to the millimetre (one unit is 0.025 mm)."""

from __future__ import annotations

import numpy as np
from shapely.geometry.base import BaseGeometry

from .order import contours_of, order_contours, with_overcut

UNITS_PER_MM = 40


def plotter_lines(ends: list[tuple[tuple[float, float], tuple[float, float]]], origin: tuple[float, float]) -> str:
    """HP-GL that cuts open lines, mm, from `origin`: each from its first end to its second."""
    out = ["IN;PA;SP1;"]
    for a, b in ends:
        (x0, y0), (x1, y1) = (
            np.maximum(np.rint((np.array([a, b]) - origin) * UNITS_PER_MM), 0).astype(np.int64).tolist()
        )
        out.append(f"PU{x0},{y0};PD{x1},{y1};")
    out.append("PU0,0;SP0;")
    return "\n".join(out) + "\n"


def plotter_file(region: BaseGeometry, frames: BaseGeometry | None = None, overcut: float = 0.5) -> str:
    """HP-GL that cuts a region, inner contours first, and the weed frames last. Lengths mm, y up.

    Everything must lie at or right and above the origin: plotters take no negative places, so the work is moved
    there where it does not.
    """
    ordered = order_contours(contours_of(region))
    if frames is not None and not frames.is_empty:
        ordered += order_contours(contours_of(frames))
    left = min((float(c.points[:, 0].min()) for c in ordered), default=0.0)
    low = min((float(c.points[:, 1].min()) for c in ordered), default=0.0)
    shift = np.array([min(left, 0.0), min(low, 0.0)])
    out = ["IN;PA;SP1;"]
    for contour in ordered:
        path = np.rint((with_overcut(contour.points, overcut) - shift) * UNITS_PER_MM).astype(np.int64)
        keep = np.ones(len(path), dtype=bool)
        keep[1:] = (np.diff(path, axis=0) != 0).any(axis=1)
        path = path[keep]
        if len(path) < 2:
            continue
        rest = ",".join(map(str, path[1:].ravel().tolist()))
        out.append(f"PU{path[0, 0]},{path[0, 1]};PD{rest};")
    out.append("PU0,0;SP0;")
    return "\n".join(out) + "\n"
