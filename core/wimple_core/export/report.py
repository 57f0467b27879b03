"""The report: every figure and every verdict of a job, for programs. Lengths mm, areas mm2, angles degrees."""

from __future__ import annotations

import math
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from ..built import Build
from ..measure.body import Frustum
from ..pricing.price import to_cents


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReadingReport(_Part):
    """One dimension as read. `deviation_mm` is null for a single reading."""

    name: str
    mean_mm: float
    deviation_mm: float | None
    error_mm: float
    count: int


class BodyReport(_Part):
    """The measured body; the radii, `k` and `slant_mm` are null on a panel, width and height on a cup."""

    kind: Literal["frustum", "panel"]
    k: float | None = None
    k_error: float | None = None
    radius_lower_mm: float | None = None
    radius_upper_mm: float | None = None
    radius_lower_error_mm: float | None = None
    radius_upper_error_mm: float | None = None
    slant_mm: float | None = None
    slant_error_mm: float | None = None
    upright_mm: float | None = None
    outside_volume_ml: float | None = None
    width_mm: float | None = None
    height_mm: float | None = None


class TemplateReport(_Part):
    """The flat template. Sector radii and the angle of one whole turn are null where it is a straight strip."""

    radius_lower_mm: float | None
    radius_upper_mm: float | None
    angle_deg: float | None
    width_mm: float
    height_mm: float
    area_mm2: float
    overlap_mm: float
    film_thickness_mm: float


class FreeAreaReport(_Part):
    """What the zones leave: widths along its lower and upper edge, height along the side."""

    width_low_mm: float
    width_high_mm: float
    height_mm: float
    area_mm2: float


class DrawingReport(_Part):
    """One drawing as placed."""

    file: str
    width_mm: float
    height_mm: float
    way: str
    suggested_way: str
    sag_mm: float
    width_change_mm: float


class LayerReport(_Part):
    """One layer, the lowest first."""

    name: str
    colour: str
    film: str
    film_colour: str
    pieces: int
    weeded: int
    area_mm2: float
    dots: int
    thin: int


class SheetReport(_Part):
    """One load."""

    layer: str
    film: str
    cutter: str
    sets: int
    times: int
    turned: bool
    fits: bool
    width_mm: float
    height_mm: float
    film_area_mm2: float


class PriceReport(_Part):
    """Money as strings with two decimals, for one piece; margin and markup in per cent."""

    currency: str
    lines: list[dict[str, str]]
    cost: str
    price: str
    profit: str
    margin_percent: float
    markup_percent: float
    batch_price: str


class VerdictReport(_Part):
    """One judgement with its figure and limit."""

    code: str
    step: str
    level: Literal["ok", "look", "stop"]
    value: float
    limit: float | None
    unit: str
    sentence: str


class Report(_Part):
    """All that was found out about a job."""

    format: Literal["wimple.report"] = "wimple.report"
    version: Literal[1] = 1
    title: str
    readings: list[ReadingReport]
    body: BodyReport
    template: TemplateReport
    free_areas: list[FreeAreaReport]
    drawings: list[DrawingReport]
    joint: str
    overlap_mm: float
    layers: list[LayerReport]
    sheets: list[SheetReport]
    price: PriceReport
    verdicts: list[VerdictReport]


def _body(b: Build) -> BodyReport:
    body = b.measured.body
    if not isinstance(body, Frustum):
        return BodyReport(kind="panel", width_mm=body.width, height_mm=body.height)
    return BodyReport(
        kind="frustum", k=body.k, k_error=body.error_k, radius_lower_mm=body.radius_lower,
        radius_upper_mm=body.radius_upper, radius_lower_error_mm=body.error_lower, radius_upper_error_mm=body.error_upper,
        slant_mm=body.slant, slant_error_mm=body.error_slant, upright_mm=body.upright, outside_volume_ml=b.measured.volume_ml,
    )  # fmt: skip


def make_report(b: Build) -> Report:
    """The report of a job built to its end."""
    assert b.template and b.fit and b.layers and b.sheets and b.price
    t, free, p = b.template, b.measured.free, b.price
    left, low, right, high = t.outline.bounds
    turn = free.right - free.left
    sector = t.sector
    return Report(
        title=b.job.title,
        readings=[ReadingReport(name=n, mean_mm=r.mean, deviation_mm=r.deviation, error_mm=r.error, count=r.count)
                  for n, r in b.measured.readings.items()],
        body=_body(b),
        template=TemplateReport(
            radius_lower_mm=sector.radius_lower if sector else None, radius_upper_mm=sector.radius_upper if sector else None,
            angle_deg=math.degrees(sector.angle) if sector else None, width_mm=right - left, height_mm=high - low,
            area_mm2=t.outline.area, overlap_mm=b.job.wrap.overlap_mm if b.job.wrap.extent == "full" else 0.0,
            film_thickness_mm=b.job.wrap.film_thickness_um / 1000),
        free_areas=[FreeAreaReport(width_low_mm=turn * t.surface.scale_at(free.low), width_high_mm=turn * t.surface.scale_at(free.high),
                                   height_mm=free.high - free.low, area_mm2=t.free.area)],
        drawings=[DrawingReport(file=d.file, width_mm=d.width, height_mm=d.height, way=d.way, suggested_way=d.suggested,
                                sag_mm=f.sag, width_change_mm=f.width_change)
                  for d in b.fit.drawings for f in d.ways if f.way == d.way],
        joint=b.layers.joint,
        overlap_mm=b.layers.overlap,
        layers=[LayerReport(name=la.name, colour=la.colour, film=la.film.id, film_colour=la.film_colour, pieces=la.pieces,
                            weeded=la.weeded, area_mm2=la.area, dots=len(la.inspection.dots), thin=len(la.inspection.thin))
                for la in b.layers.layers],
        sheets=[SheetReport(layer=s.layer.name, film=s.layer.film.id, cutter=s.cutter.id, sets=s.sets, times=s.times, turned=s.turned,
                            fits=s.fits, width_mm=s.width, height_mm=s.height, film_area_mm2=s.film_area) for s in b.sheets.sheets],
        price=PriceReport(
            currency=b.job.price.currency, lines=[{"name": x.name, "amount": str(to_cents(x.amount))} for x in p.lines],
            cost=str(p.cost), price=str(p.price), profit=str(p.profit), margin_percent=round(float(p.margin), 4),
            markup_percent=round(float(p.markup), 4), batch_price=str(p.batch_price)),
        verdicts=[VerdictReport(code=v.code, step=v.step, level=v.level, value=v.value, limit=v.limit, unit=v.unit, sentence=v.sentence())
                  for v in b.verdicts],
    )  # fmt: skip


def report_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the report."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Report.model_json_schema()}
