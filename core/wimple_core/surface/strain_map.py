"""A strain map as areas of even severity, for drawings: contours of a raster of the field."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from .strain import Strain

STEPS = (0.25, 0.5, 1.0, 2.0)
"""Bounds of the severity steps, as parts of what the film takes."""
ASSUMED_LIMIT = 0.02
RASTER = 240


@dataclass(frozen=True)
class StrainArea:
    """Where the strain lies in one step: `step` 0 (least) to 4 (more than twice the limit), `stretched` or else
    shortened."""

    step: int
    stretched: bool
    region: BaseGeometry


def strain_areas(strain: Strain, outline: BaseGeometry) -> tuple[StrainArea, ...]:
    """The outline divided by severity; what lies in the lowest step is left out."""
    left, low, right, high = outline.bounds
    size = max(right - left, high - low) / RASTER
    nx, ny = max(8, int((right - left) / size)), max(8, int((high - low) / size))
    x = left + (np.arange(nx) + 0.5) * (right - left) / nx
    y = low + (np.arange(ny) + 0.5) * (high - low) / ny
    gx, gy = np.meshgrid(x, y)
    middle = strain.flat[strain.triangles].mean(axis=1)
    apart, nearest = cKDTree(middle).query(np.column_stack([gx.ravel(), gy.ravel()]), k=min(8, len(middle)))
    share = 1 / (apart + size / 2) ** 2
    share /= share.sum(axis=1, keepdims=True)
    out_by, in_by = ((strain.most[nearest] - 1) * share).sum(axis=1), ((1 - strain.least[nearest]) * share).sum(axis=1)
    severity = np.maximum(out_by, in_by).reshape(ny, nx)
    stretched = (out_by >= in_by).reshape(ny, nx)
    limit = ASSUMED_LIMIT if strain.limit is None else max(strain.limit, 1e-6)
    # What stands just at the limit is not over it.
    step = np.digitize(severity / limit * (1 - 1e-6), STEPS)
    shapely.prepare(outline)
    grown = outline.buffer(size)
    out = []
    for n in range(1, len(STEPS) + 1):
        for sign in (True, False):
            mask = ((step == n) & (stretched == sign)).astype(np.uint8)
            if not mask.any():
                continue
            contours, tree = cv2.findContours(np.pad(mask, 1), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
            rings = [c[:, 0, :].astype(float) - 1 for c in contours]
            shells = []
            for i, ring in enumerate(rings):
                if tree[0][i][3] == -1 and len(ring) > 2:
                    shell = shapely.Polygon(ring).buffer(0.5, join_style="mitre")
                    child = tree[0][i][2]
                    while child != -1:
                        if len(rings[child]) > 2:
                            shell = shell.difference(shapely.Polygon(rings[child]).buffer(-0.5, join_style="mitre"))
                        child = tree[0][child][0]
                    shells.append(shell)
            if not shells:
                continue
            region = shapely.transform(
                shapely.union_all(shells),
                lambda p: np.column_stack(
                    [left + (p[:, 0] + 0.5) * (right - left) / nx, low + (p[:, 1] + 0.5) * (high - low) / ny]
                ),
            )
            region = shapely.intersection(shapely.simplify(region, size * 0.6), grown if n else outline)
            region = shapely.intersection(region, outline)
            if not region.is_empty:
                out.append(StrainArea(n, sign, region))
    return tuple(out)
