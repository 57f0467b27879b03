"""The flat template, for the screens."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..measure import Measured
from ..measure.body import Profile
from ..surface import Template
from .drawn import Box, Ring, View, box, rings_of
from .strain_map import ASSUMED_LIMIT, STEPS


class StrainView(View):
    """What the film suffers, in per cent; `limit` is null where the film states none."""

    stretch: float
    shorten: float
    ratio: float
    share_over: float
    limit: float | None
    bounds: list[float]
    """Where the steps of severity begin, per cent."""
    worst_at: tuple[float, float]
    before: float


class ProfilePoint(View):
    """Strain along the height: mm up along the side, per cent."""

    up: float
    strain: float


class SectorView(View):
    """The ring piece a tapered wall unrolls to; mm, and the angle of one whole turn."""

    lower: float
    upper: float
    angle_deg: float


class TemplateView(View):
    """The template; `k` and `r0` say how wide it is at a height (mm to a unit of its first coordinate)."""

    outline: list[Ring]
    free: list[Ring]
    zones: list[Ring]
    overlap: list[Ring]
    bounds: Box
    k: float
    r0: float
    left: float
    right: float
    low: float
    high: float
    sector: SectorView | None
    length_lower: float
    length_upper: float
    strain: StrainView | None
    along: list[ProfilePoint]
    slits: list[tuple[float, float, float, float]]
    slit_depth: float
    film_thickness_um: float
    gores: int
    gore_width: float
    all_round: bool
    """Does it go round, with nothing in the way?"""
    joints: list[tuple[float, float]]
    pieces: int


def _strain(t: Template) -> StrainView | None:
    s = t.strain
    if s is None:
        return None
    return StrainView(
        stretch=100 * s.stretch_max,
        shorten=100 * s.shorten_max,
        ratio=s.length_ratio,
        share_over=100 * s.share_over_limit,
        limit=None if s.limit is None else 100 * s.limit,
        bounds=[100 * b * (ASSUMED_LIMIT if s.limit is None else s.limit) for b in STEPS],
        worst_at=s.worst_at,
        before=100 * t.before.worst if t.before else 0.0,
    )


def _along(t: Template, m: Measured) -> list[ProfilePoint]:
    """Strain along the height of a band, for the elevation."""
    if t.hoop is None:
        return []
    assert isinstance(m.body, Profile)
    s = np.linspace(t.low, t.high, 60)
    e = m.body.radii_at(s) / (t.hoop[0] + t.hoop[1] * s) - 1
    return [ProfilePoint(up=float(u), strain=100 * float(v)) for u, v in zip(s, e, strict=True)]


def template_view(t: Template, m: Measured) -> TemplateView:
    """A template in numbers."""
    s, turn = t.sector, t.right - t.left
    return TemplateView(
        outline=rings_of(t.outline, 0.003),
        free=rings_of(t.free, 0.003),
        zones=[ring for z in t.zones for ring in rings_of(z.region, 0.01)],
        overlap=rings_of(t.overlap) if t.overlap else [],
        bounds=box(t.outline.bounds),
        k=t.surface.k,
        r0=t.surface.scale_at(0),
        left=t.left,
        right=t.right,
        low=t.low,
        high=t.high,
        sector=SectorView(lower=s.radius_lower, upper=s.radius_upper, angle_deg=math.degrees(s.angle)) if s else None,
        length_lower=turn * t.surface.scale_at(t.low),
        length_upper=turn * t.surface.scale_at(t.high),
        strain=_strain(t),
        along=_along(t, m),
        slits=[(*x.start, *x.end) for x in t.slits],
        slit_depth=max((x.depth for x in t.slits), default=0.0),
        film_thickness_um=1000 * t.film_thickness,
        gores=len(t.gores),
        gore_width=t.gores[0].width if t.gores else 0.0,
        all_round=t.surface.closed and t.limits.all_round,
        joints=[(at, math.degrees(turn)) for at, turn in t.joints],
        pieces=len(shapely.get_parts(t.outline)),
    )
