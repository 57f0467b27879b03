"""A strain map as areas of even severity, for drawings: contours of a raster of the field."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import contourpy
import cv2
import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from ..arrangement import mended
from ..overlay import intersection, union
from ..surface import Template
from ..surface.strain import Strain
from .drawn import Ring, View, rings_of

STEPS = (0.25, 0.5, 1.0, 2.0)
"""Bounds of the severity steps, as parts of what the film takes."""
ASSUMED_LIMIT = 0.02
RASTER = 240
SMOOTH = 2.0
"""Cells of the raster over which the field is smoothed."""


@dataclass(frozen=True)
class StrainArea:
    """Where the strain lies in one step: `step` 0 (least) to 4 (more than twice the limit), `stretched` or else
    shortened."""

    step: int
    stretched: bool
    region: BaseGeometry


def severity_steps(signed: np.ndarray, limit: float | None) -> np.ndarray:
    """Steps (n,) of signed strains as shares: 0 below the least bound, negative where the film shortens. What stands
    just at the limit is not over it."""
    share = np.abs(signed) / (ASSUMED_LIMIT if limit is None else max(limit, 1e-6)) * (1 - 1e-4)
    steps = (share[:, None] >= np.array(STEPS)).sum(axis=1)
    return np.asarray(np.where(signed < 0, -steps, steps), dtype=np.int64)


def _field(strain: Strain, x: np.ndarray, y: np.ndarray, size: float) -> np.ndarray:
    """Signed severity (positive: stretched) on a grid, smoothed over what the triangles leave of corners."""
    gx, gy = np.meshgrid(x, y)
    middle = strain.flat[strain.triangles].mean(axis=1)
    places = np.column_stack([gx.ravel(), gy.ravel()])
    apart, nearest = cKDTree(middle).query(places, k=min(8, len(middle)))
    share = 1 / (apart + size / 2) ** 2
    share /= share.sum(axis=1, keepdims=True)
    signed = np.where(strain.most - 1 >= 1 - strain.least, strain.most - 1, strain.least - 1)
    field = (signed[nearest] * share).sum(axis=1).reshape(gx.shape)
    return np.asarray(cv2.GaussianBlur(field, (0, 0), SMOOTH, borderType=cv2.BORDER_REPLICATE), dtype=np.float64)


def _polygons(found: tuple[list[np.ndarray], list[np.ndarray]]) -> list[BaseGeometry]:
    """What contourpy gives as outer edges with their holes, as polygons."""
    out = []
    for points, offsets in zip(*found, strict=True):
        rings = [points[a:b] for a, b in pairwise(offsets.tolist()) if b - a > 3]
        if rings:
            out.append(shapely.Polygon(rings[0], rings[1:]))
    return out


def strain_areas(strain: Strain, outline: BaseGeometry) -> tuple[StrainArea, ...]:
    """The outline divided by severity; what lies in the lowest step is left out."""
    left, low, right, high = outline.bounds
    size = max(right - left, high - low) / RASTER
    # A little beyond the outline on every side, so that no edge of the grid shows.
    x = np.linspace(left - 2 * size, right + 2 * size, max(12, int((right - left) / size) + 5))
    y = np.linspace(low - 2 * size, high + 2 * size, max(12, int((high - low) / size) + 5))
    limit = ASSUMED_LIMIT if strain.limit is None else max(strain.limit, 1e-6)
    # What stands just at the limit is not over it.
    field = _field(strain, x, y, size) / limit * (1 - 1e-6)
    lines = contourpy.contour_generator(x, y, field, fill_type=contourpy.FillType.OuterOffset)
    steps = (*STEPS, 1e9)
    out = []
    for n, (above, below) in enumerate(pairwise(steps), start=1):
        for stretched, bounds in ((True, (above, below)), (False, (-below, -above))):
            polygons = _polygons(lines.filled(*bounds))
            if not polygons:
                continue
            region = intersection(union([mended(p)[0] for p in polygons]), outline)
            if not region.is_empty:
                out.append(StrainArea(n, stretched, region))
    return tuple(out)


class StrainAreaView(View):
    """Where the strain lies in one step (1: over a quarter of the limit, 2: over half, 3: over it, 4: over twice
    it)."""

    step: int
    stretched: bool
    rings: list[Ring]


def strain_view(template: Template) -> list[StrainAreaView]:
    """The strain map of a template, where its film must give."""
    if template.strain is None:
        return []
    return [
        StrainAreaView(step=a.step, stretched=a.stretched, rings=rings_of(a.region, 0.1))
        for a in strain_areas(template.strain, template.outline)
    ]
