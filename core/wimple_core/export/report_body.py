"""What a report says of a body: its seam, and what of it is free."""

from __future__ import annotations

from functools import singledispatch

from ..measure import Measured
from ..measure.bodies import Body, RoundBody
from ..measure.body import Frustum, Profile
from ..measure.taper import edge_miss
from .report_shapes import FreeAreaReport, SeamReport


@singledispatch
def edge_miss_of(body: Body) -> float | None:
    """How far the far end of a template misses the first where it was begun at one edge; None where that is not one
    figure."""
    return None


@edge_miss_of.register
def _(body: Frustum) -> float | None:
    return edge_miss(body)


@singledispatch
def widths_of(body: Body, low: float, high: float) -> tuple[float, float]:
    """mm to a unit of the surface's first coordinate at two heights."""
    return 1.0, 1.0


@widths_of.register(Frustum)
@widths_of.register(Profile)
def _(body: RoundBody, low: float, high: float) -> tuple[float, float]:
    return body.radius_at(low), body.radius_at(high)


def seam_of(m: Measured) -> SeamReport | None:
    if not m.body.closed:
        return None
    drifts = [c.error for c in m.consequences if c.name.startswith("edge_drift")]
    middle = [c.error for c in m.consequences if c.name.startswith("seam_") and c.name[5:].isdigit()]
    top, bottom = m.error_of("seam_top") or 0.0, m.error_of("seam_bottom") or 0.0
    seams = [c for c in m.consequences if c.name.startswith(("seam", "edge_drift"))]
    return SeamReport(
        gap_top_mm=top,
        gap_bottom_mm=bottom,
        edge_drift_mm=max(drifts) if drifts else None,
        edge_miss_mm=edge_miss_of(m.body),
        rings_mm=[bottom, *middle, top],
        again_first=max(seams, key=lambda c: c.error).first,
    )


def free_areas_of(m: Measured) -> list[FreeAreaReport]:
    out = []
    for i, part in enumerate(m.free.parts):
        left, low, right, high = part.region.bounds
        turn = right - left
        wide = widths_of(m.body, low, high)
        out.append(
            FreeAreaReport(
                width_low_mm=turn * wide[0],
                width_high_mm=turn * wide[1],
                height_mm=high - low,
                area_mm2=part.area,
                area_error_mm2=m.error_of("free_area") if i == 0 else None,
                largest_width_mm=part.width,
                largest_height_mm=part.height,
                readable_width_mm=part.readable,
            )
        )
    return out
