"""What the film suffers under a placed drawing, where the surface is curved twice."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from ..overlay import together
from ..surface import Template
from ..verdict import Verdict, plain
from .place import PlacedDrawing

LEAST_SHARE = 0.05
"""A drawing is not asked to shrink to less than that for its film's sake: it had better go elsewhere."""


def _share_clear_of(cover: BaseGeometry, points: NDArray[np.float64]) -> float | None:
    """How small a drawing must become, about its middle, to leave those points (n, 2) out; None where it cannot."""
    hull = shapely.convex_hull(cover)
    x0, y0, x1, y1 = cover.bounds
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    for share in np.geomspace(0.96, LEAST_SHARE, 60):
        # Under a drawing so much smaller lies what, so much further out, would lie under it as it is.
        if not shapely.contains_xy(hull, *(middle + (points - middle) / share).T).any():
            return 0.97 * float(share)
    return None


def _under(cover: BaseGeometry, middle: np.ndarray) -> np.ndarray:
    """Which triangles lie under a drawing, by their middles (n, 2): those its hull covers, else the nearest."""
    out: np.ndarray = shapely.contains_xy(shapely.convex_hull(cover), middle[:, 0], middle[:, 1])
    if not out.any():
        out[int(np.argmin(((middle - np.array(cover.centroid.coords[0])) ** 2).sum(axis=1)))] = True
    return out


def strain_verdicts(d: PlacedDrawing, template: Template) -> list[Verdict]:
    """What the film suffers under one drawing, where the surface is curved twice."""
    strain = template.strain
    if strain is None:
        return []
    middle = strain.flat[strain.triangles].mean(axis=1)
    cover = together(c.seen for c in d.colours)
    under = _under(cover, middle)
    severity = np.where(under, strain.severity, 0.0)
    worst = 100 * float(severity.max())
    at = middle[int(np.argmax(severity))]
    limit = 100 * strain.limit if strain.limit is not None else None
    place = ((float(at[0]), float(at[1])),)
    if limit is None or worst <= limit:
        return [
            Verdict(
                "artwork.strain",
                "artwork",
                "ok",
                worst,
                limit,
                "%",
                "Under “" + plain(d.name) + "” the film changes length by {value} at most.",
                places=place,
            )
        ]
    too_much = middle[under & (100 * strain.severity > limit)]
    share = _share_clear_of(cover, too_much)
    if share:
        smaller = affinity.scale(cover, share, share, origin="center")
        if 100 * float(strain.severity[_under(smaller, middle)].max()) >= worst:
            # Nothing calmer lies so near: however small, it lies where the film gives most.
            share = None
    return [
        Verdict(
            "artwork.strain",
            "artwork",
            "look" if worst < 2 * limit else "stop",
            worst,
            limit,
            "%",
            "Under “" + plain(d.name) + "” the film changes length by {value}; it takes {limit}.",
            "Make it smaller, slit it, or take a film that gives."
            if share
            else "Move it where the film stays calmer, slit it, or take a film that gives.",
            field=f"{d.at}.width_mm" if share else f"{d.at}.up_mm",
            fix=math.floor(d.width * share * 10) / 10 if share else None,
            places=place,
        )
    ]
