"""A straight or tapered wall, and a panel: unrolled exactly."""

from __future__ import annotations

import math
from dataclasses import replace

from ..errors import BadReading
from ..figures import carried
from ..job.document import Wrap
from ..measure import Measured
from ..measure.body import Frustum
from ..measure.flat_bodies import Panel
from ..measure.taper import edge_drift, edge_miss
from ..verdict import Verdict, grade
from .laying import Laying
from .layout import band, developed, laid_open, sector_of, whole_turn, zones_on
from .seam import ends_verdict, handle_verdicts
from .surface import Flat, wall_of_film
from .template import Template


def wrap_verdicts(wrap: Wrap, measured: Measured, frustum: Frustum) -> list[Verdict]:
    verdicts = []
    if wrap.extent == "full":
        sure = 2 * math.pi * max(frustum.error_upper, frustum.error_lower)
        narrow = min(frustum.radius_upper, frustum.radius_lower)
        verdicts = [ends_verdict(wrap, sure, narrow), *handle_verdicts(wrap, measured)]
    drift = edge_drift(frustum)
    verdicts.append(
        Verdict(
            "unwrap.edge_drift",
            "unwrap",
            grade(drift, 0.5),
            drift,
            0.5,
            "mm",
            (
                "Laid from the front, both ends of the template may stand {value} off level, to the same side,"
                " and meet; begun at one edge, its other end may miss it by {edge}."
            ),
            "Measure both ways round again, or begin at the front.",
            {"edge": (edge_miss(frustum), "mm")},
            field="blank.side.readings.0",
        )
    )
    return verdicts


def unwrap_panel(panel: Panel, measured: Measured, laying: Laying) -> Template:
    """A flat panel, or one bent one way: its template is its outline."""
    left, low, right, high = panel.outline.bounds
    return Template(
        surface=Flat(),
        outline=panel.outline,
        free=measured.free.region,
        zones=zones_on(Flat(), measured.free),
        left=left,
        right=right,
        low=low,
        high=high,
        limits=measured.free,
        film_thickness=laying.thickness,
    )


def unwrap_wall(frustum: Frustum, measured: Measured, laying: Laying) -> Template:
    """Unroll a wall, exactly. Raises BadReading where the wrap cannot be."""
    wrap = laying.wrap
    surface = wall_of_film(frustum, laying.thickness)
    free = laid_open(measured.free, wrap.seam_deg, frustum.slant)
    left, right = whole_turn(wrap, free)
    surface = replace(surface, middle=(left + right) / 2)
    free_outline = band(surface, free.left, free.right, free.low, free.high)
    free_region = developed(surface, free.region) if free.zones else free_outline
    overlap_part = None
    if wrap.extent == "free":
        left, right, low, high = free.left, free.right, free.low, free.high
        outline = free_outline
    else:
        low, high = 0.0, frustum.slant
        narrow = min(surface.scale_at(0), surface.scale_at(frustum.slant))
        extra = wrap.overlap_mm / narrow
        if abs(extra) > 1.0:
            raise BadReading(
                f"{'An overlap' if extra > 0 else 'A gap'} of {carried(abs(wrap.overlap_mm))} is too much for a cup of "
                f"{carried(2 * math.pi * narrow)} round.",
                field="wrap.overlap_mm",
                hint=f"Keep it under {carried(narrow)}; {carried(2)} to {carried(5)} is usual.",
            )
        outline = band(surface, left, right, low, high, wrap.overlap_mm)
        if not outline.is_valid:
            raise BadReading(
                f"A wall that leans {math.degrees(math.asin(min(1.0, abs(surface.k)))):.0f}° from upright unrolls to"
                f" almost a whole disc; with {carried(wrap.overlap_mm)} of overlap its template runs over itself.",
                field="wrap.overlap_mm",
                hint="Take less overlap, or check that round and across were not mixed up.",
            )
        if wrap.overlap_mm > 0:
            overlap_part = band(surface, right, right, low, high, wrap.overlap_mm)
    verdicts = tuple(wrap_verdicts(wrap, measured, frustum))
    return Template(
        surface=surface,
        outline=outline,
        free=free_region,
        zones=zones_on(surface, free),
        overlap=overlap_part,
        left=left,
        right=right,
        low=low,
        high=high,
        sector=sector_of(surface, frustum.slant),
        verdicts=verdicts,
        limits=free,
        film_thickness=laying.thickness,
    )
