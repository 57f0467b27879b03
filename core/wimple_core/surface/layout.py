"""Laying out: regions of surface coordinates on the template, and the window a round body is opened to."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY, mended
from ..job.document import Wrap
from ..measure.free import FreeArea
from ..overlay import intersection, union
from .pieces import SURFACE_GRID, Pieces
from .surface import RoundWall, Surface
from .template import Sector, ZoneOnTemplate

ARC_TOLERANCE_MM = 0.001


def _row(surface: Surface, s: float, a0: float, a1: float) -> np.ndarray:
    """Points of the level line at `s` on the template, (n, 2) mm, chords within ARC_TOLERANCE_MM of the arc."""
    turn = abs(surface.k * (a1 - a0))
    n = 2
    if turn > 1e-12:
        radius = surface.scale_at(s) / abs(surface.k)
        step = 2 * math.acos(max(0.0, 1 - ARC_TOLERANCE_MM / radius))
        n = 1 + max(1, math.ceil(turn / step)) if step > 0 else 2
    a = np.linspace(a0, a1, n)
    return np.column_stack(surface.develop(a, np.full(n, s)))


def band(surface: Surface, left: float, right: float, low: float, high: float, overlap: float = 0.0) -> shapely.Polygon:
    """The flat outline of the surface between two angles and two heights.

    With `overlap` mm its right edge stands that far beyond `right` at every height, an angle of `overlap / r(s)`.
    """

    def beyond(s: float) -> float:
        return right + overlap / surface.scale_at(s)

    heights = np.linspace(low, high, 9)[1:-1] if overlap and surface.k else np.empty(0)
    angles = np.array([beyond(h) for h in heights])
    edge = np.column_stack(surface.develop(angles, heights))
    return shapely.Polygon(
        np.concatenate([_row(surface, low, left, beyond(low)), edge, _row(surface, high, beyond(high), left)])
    )


def developed(surface: Surface, region: BaseGeometry) -> BaseGeometry:
    """A region of surface coordinates laid flat, its edges cut so finely that no chord leaves its curve by
    ARC_TOLERANCE_MM."""
    if isinstance(surface, Pieces):
        return surface.lay_out(region, lambda a, s: (a, s))
    if surface.k == 0.0 and not surface.closed:
        return region
    scale = max(surface.scale_at(region.bounds[1]), surface.scale_at(region.bounds[3]), 1e-6)
    step = math.sqrt(8 * ARC_TOLERANCE_MM / max(abs(surface.k), 1e-9) * scale) / scale if surface.k else math.inf
    # Angles are cut by `step`; heights run straight on the template and need no cutting of their own.
    fine = (
        shapely.segmentize(shapely.transform(region, lambda p: p * (1, 1e-3)), step) if math.isfinite(step) else region
    )
    back = (1, 1e3) if math.isfinite(step) else (1, 1)
    flat = shapely.transform(fine, lambda p: np.column_stack(surface.develop(p[:, 0] * back[0], p[:, 1] * back[1])))
    return mended(flat)[0]


def windowed(region: BaseGeometry, left: float, right: float, low: float, high: float) -> BaseGeometry:
    """What of a region round a body lies between two angles and two heights, whichever turn it was given on."""
    turns = [shapely.transform(region, lambda p, n=n: p + (2 * math.pi * n, 0)) for n in (-2, -1, 0, 1, 2)]  # type: ignore[misc]
    box = shapely.box(left, low, right, high)
    near = [t for t in turns if shapely.intersects(t, box)]
    return intersection(union(near, SURFACE_GRID), box, SURFACE_GRID) if near else EMPTY


def laid_open(free: FreeArea, seam_deg: float, length: float) -> FreeArea:
    """The free area of a round body with its seam at an angle: its window goes once round from there. One with a handle
    is open there already."""
    if not free.all_round:
        return free
    right = math.radians(seam_deg) % (2 * math.pi)
    right += 2 * math.pi if right <= 0 else 0.0
    left = right - 2 * math.pi
    if (left, right) == (free.left, free.right):
        return free
    zones = tuple(replace(z, region=windowed(z.region, left, right, 0.0, length)) for z in free.zones)
    return replace(free, left=left, right=right, region=windowed(free.region, left, right, 0.0, length), zones=zones)


def zones_on(surface: Surface, free: FreeArea) -> tuple[ZoneOnTemplate, ...]:
    """The zones the maker drew, laid flat."""
    return tuple(
        ZoneOnTemplate(z.name, z.index, developed(surface, z.region))
        for z in free.zones
        if z.index is not None and not z.region.is_empty
    )


def sector_of(surface: Surface, slant: float) -> Sector | None:
    """The ring piece of a tapered wall; None where it unrolls to a straight strip."""
    if surface.k == 0.0 or not isinstance(surface, RoundWall):
        return None
    k = surface.k
    return Sector(surface.scale_at(0) / abs(k), surface.scale_at(slant) / abs(k), 2 * math.pi * abs(k), -surface.r0 / k)


def whole_turn(wrap: Wrap, free: FreeArea) -> tuple[float, float]:
    """Between which angles a round body is unrolled: the free area, or once round from the seam."""
    if wrap.extent == "free" or free.all_round:
        return free.left, free.right
    right = math.radians(wrap.seam_deg)
    return right - 2 * math.pi, right
