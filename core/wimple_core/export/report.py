"""The report: every figure and every verdict of a job, for programs. Lengths mm, areas mm2, angles degrees."""

from __future__ import annotations

import math
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from ..built import Build
from ..measure import Measured
from ..measure.body import Cap, Frustum, Panel, Profile, RiseSurface
from ..measure.measured import edge_miss
from ..surface import Template


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReadingReport(_Part):
    """One dimension as read, by its path in the blank. `deviation_mm` is null for a single reading; `outlier` is the
    place of
    the reading that stands apart, counted from 0."""

    name: str
    mean_mm: float
    deviation_mm: float | None
    error_mm: float
    count: int
    reads: str = ""
    instrument: str = ""
    outlier: int | None = None


class SectionReport(_Part):
    """One straight or tapered part of a stack, from the foot up."""

    radius_lower_mm: float
    radius_upper_mm: float
    radius_lower_error_mm: float
    radius_upper_error_mm: float
    slant_mm: float
    slant_error_mm: float
    upright_mm: float
    k: float


class BodyReport(_Part):
    """The measured body: its kind, and the figures that kind has; the others are null. Errors are standard errors.

    `frustum` has radii, `k` and slant; `stack` and `revolution` the radii at their joints, `side_mm` and
    `upright_mm`, a stack its
    `sections`; `cap` the sphere's radius, rim and rise; `panel` width and height, a bent one its `bend_radius_mm`;
    `rises` the bends in
    its middle; `mesh` its size, area, and volume where it is closed.
    """

    kind: Literal["frustum", "stack", "revolution", "cap", "panel", "curved_panel", "rises", "mesh"]
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
    width_error_mm: float | None = None
    height_error_mm: float | None = None
    area_mm2: float | None = None
    sections: list[SectionReport] | None = None
    joints_mm: list[float] | None = None
    joint_radii_mm: list[float] | None = None
    joint_radius_errors_mm: list[float] | None = None
    side_mm: float | None = None
    side_error_mm: float | None = None
    upright_error_mm: float | None = None
    radius_mm: float | None = None
    radius_error_mm: float | None = None
    rim_radius_mm: float | None = None
    rim_radius_error_mm: float | None = None
    rise_mm: float | None = None
    rise_error_mm: float | None = None
    angle_deg: float | None = None
    bend_radius_mm: float | None = None
    bend_radius_error_mm: float | None = None
    rise_residuals_mm: list[list[float]] | None = None
    bend_across_per_m: float | None = None
    bend_across_error_per_m: float | None = None
    bend_up_per_m: float | None = None
    bend_up_error_per_m: float | None = None
    depth_mm: float | None = None
    triangles: int | None = None
    volume_ml: float | None = None


class ShareReport(_Part):
    """How much of a figure's variance one reading makes."""

    reading: str
    share: float


class FigureReport(_Part):
    """A figure that follows from the readings, with its standard error and the readings that spread it, the largest
    first."""

    name: str
    value: float
    error: float
    unit: str
    again_first: str
    shares: list[ShareReport]


class SeamReport(_Part):
    """How far the ends of a full wrap may miss (standard errors, mm), and which reading to take again first.

    `rings_mm` holds the gap at every way round of a stack or turned body, from the foot up.
    """

    gap_top_mm: float
    gap_bottom_mm: float
    edge_drift_mm: float | None
    edge_miss_mm: float | None
    rings_mm: list[float]
    again_first: str


class FaceReport(_Part):
    """A side that is looked at: who sees it, where its middle is, and the largest rectangle free and readable there."""

    seen_by: str
    centre_deg: float | None
    centre_mm: float | None
    width_mm: float
    height_mm: float


class LevelReport(_Part):
    """Water that stands level: its height above the bench, and its volume (null where the wall is double)."""

    height_mm: float
    volume_ml: float | None
    brim_ml: float


class PhotoCheckReport(_Part):
    """One place by photograph and by hand: radii and the spread of their difference."""

    name: str
    height_mm: float
    radius_by_photo_mm: float
    radius_by_hand_mm: float
    spread_mm: float


class StrainReport(_Part):
    """What the film suffers, as shares (0.02 is 2 %): greatest stretch and shortening, largest length change over
    the smallest, share
    of the area over `limit` (what the default film takes; null where it states none), and where on the template it
    is worst, mm.
    `before` holds the same without the relief that was chosen (null where none was)."""

    stretch_max: float
    shorten_max: float
    length_ratio: float
    share_over_limit: float
    worst_at: tuple[float, float]
    limit: float | None
    before: dict[str, float] | None


class SlitReport(_Part):
    """A slit from the edge inward, mm on the template."""

    start: tuple[float, float]
    end: tuple[float, float]
    depth_mm: float


class GoreReport(_Part):
    """One gore or petal."""

    width_mm: float
    length_mm: float


class ReliefReport(_Part):
    """What lets the film give."""

    slits: list[SlitReport]
    gores: list[GoreReport]


class JointReport(_Part):
    """A joint between two sections: its height along the side and by how much the wall turns there."""

    height_mm: float
    turn_deg: float


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
    """One piece of what the zones leave, the largest first: widths along its lower and upper edge, height along the
    side, true
    area (its error on the first piece stands for all of them), and the largest upright rectangle inside it."""

    width_low_mm: float
    width_high_mm: float
    height_mm: float
    area_mm2: float
    area_error_mm2: float | None = None
    largest_width_mm: float | None = None
    largest_height_mm: float | None = None
    readable_width_mm: float | None = None


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
    """All that was found out about a job. Where a job was only measured, `template`, `joint` and
    `price` are null and the lists after them empty."""

    format: Literal["wimple.report"] = "wimple.report"
    version: Literal[1] = 1
    title: str
    readings: list[ReadingReport]
    body: BodyReport
    figures: list[FigureReport]
    seam: SeamReport | None
    level: LevelReport | None
    photo: list[PhotoCheckReport]
    template: TemplateReport | None
    strain: StrainReport | None
    relief: ReliefReport | None
    joints: list[JointReport]
    free_areas: list[FreeAreaReport]
    faces: list[FaceReport]
    drawings: list[DrawingReport]
    joint: str | None
    overlap_mm: float | None
    gap_chance: float | None
    layers: list[LayerReport]
    sheets: list[SheetReport]
    price: PriceReport | None
    verdicts: list[VerdictReport]


def _error(m: Measured, name: str) -> float | None:
    found = m.consequence(name)
    return found.error if found else None


def _body(b: Build) -> BodyReport:
    m, body = b.measured, b.measured.body
    if isinstance(body, Frustum):
        return BodyReport(
            kind="frustum",
            k=body.k,
            k_error=body.error_k,
            radius_lower_mm=body.radius_lower,
            radius_upper_mm=body.radius_upper,
            radius_lower_error_mm=body.error_lower,
            radius_upper_error_mm=body.error_upper,
            slant_mm=body.slant,
            slant_error_mm=body.error_slant,
            upright_mm=body.upright,
            outside_volume_ml=m.volume_ml,
        )
    if isinstance(body, Profile):
        sections = [
            SectionReport(
                radius_lower_mm=f.radius_lower,
                radius_upper_mm=f.radius_upper,
                radius_lower_error_mm=f.error_lower,
                radius_upper_error_mm=f.error_upper,
                slant_mm=f.slant,
                slant_error_mm=f.error_slant,
                upright_mm=f.upright,
                k=f.k,
            )
            for f in body.sections
        ]
        radii = body.radii_at(body.joints)
        return BodyReport(
            kind="stack" if sections else "revolution",
            sections=sections or None,
            joints_mm=body.joints.tolist(),
            joint_radii_mm=radii.tolist(),
            joint_radius_errors_mm=body.errors.tolist(),
            side_mm=body.length,
            side_error_mm=_error(m, "side"),
            upright_mm=body.upright,
            upright_error_mm=_error(m, "height"),
            outside_volume_ml=m.volume_ml,
            radius_lower_mm=float(radii[0]),
            radius_upper_mm=float(radii[-1]),
            radius_lower_error_mm=float(body.errors[0]),
            radius_upper_error_mm=float(body.errors[-1]),
        )
    if isinstance(body, Cap):
        return BodyReport(
            kind="cap",
            radius_mm=body.radius,
            radius_error_mm=body.error_radius,
            rim_radius_mm=body.rim,
            rim_radius_error_mm=body.error_rim,
            rise_mm=body.rise,
            rise_error_mm=body.error_rise,
            angle_deg=math.degrees(body.angle),
            area_mm2=body.area,
            volume_ml=m.volume_ml,
        )
    if isinstance(body, Panel):
        return BodyReport(
            kind="panel" if body.bend_radius is None else "curved_panel",
            width_mm=body.width,
            height_mm=body.height,
            width_error_mm=_error(m, "width"),
            height_error_mm=_error(m, "height"),
            area_mm2=body.outline.area,
            bend_radius_mm=body.bend_radius,
            bend_radius_error_mm=body.error_bend_radius if body.bend_radius else None,
        )
    if isinstance(body, RiseSurface):
        figures = {c.name: c for c in m.consequences}
        return BodyReport(
            kind="rises",
            width_mm=body.width,
            height_mm=body.height,
            area_mm2=figures["area"].value,
            rise_mm=figures["rise"].value,
            rise_error_mm=figures["rise"].error,
            rise_residuals_mm=body.residuals.tolist(),
            bend_across_per_m=figures["bend_across"].value,
            bend_up_per_m=figures["bend_up"].value,
            bend_across_error_per_m=figures["bend_across"].error,
            bend_up_error_per_m=figures["bend_up"].error,
        )
    return BodyReport(
        kind="mesh",
        width_mm=body.width,
        height_mm=body.height,
        depth_mm=body.size[2],
        area_mm2=body.area,
        triangles=len(body.triangles),
        volume_ml=body.volume_ml,
    )


def _seam(m: Measured) -> SeamReport | None:
    if not isinstance(m.body, (Frustum, Profile)):
        return None
    drifts = [c.error for c in m.consequences if c.name.startswith("edge_drift")]
    middle = [c.error for c in m.consequences if c.name.startswith("seam_") and c.name[5:].isdigit()]
    top, bottom = _error(m, "seam_top") or 0.0, _error(m, "seam_bottom") or 0.0
    seams = [c for c in m.consequences if c.name.startswith(("seam", "edge_drift"))]
    return SeamReport(
        gap_top_mm=top,
        gap_bottom_mm=bottom,
        edge_drift_mm=max(drifts) if drifts else None,
        edge_miss_mm=edge_miss(m.body) if isinstance(m.body, Frustum) else None,
        rings_mm=[bottom, *middle, top],
        again_first=max(seams, key=lambda c: c.error).first,
    )


def _free_areas(m: Measured) -> list[FreeAreaReport]:
    out = []
    for i, part in enumerate(m.free.parts):
        left, low, right, high = part.region.bounds
        turn = right - left
        wide = (m.body.radius_at(low), m.body.radius_at(high)) if isinstance(m.body, (Frustum, Profile)) else (1.0, 1.0)
        out.append(
            FreeAreaReport(
                width_low_mm=turn * wide[0],
                width_high_mm=turn * wide[1],
                height_mm=high - low,
                area_mm2=part.area,
                area_error_mm2=_error(m, "free_area") if i == 0 else None,
                largest_width_mm=part.width,
                largest_height_mm=part.height,
                readable_width_mm=part.readable,
            )
        )
    return out


def _strain(t: Template | None) -> StrainReport | None:
    if t is None or t.strain is None:
        return None
    s, before = t.strain, t.before
    relieved = before is not None and (t.slits or t.gores)
    return StrainReport(
        stretch_max=s.stretch_max,
        shorten_max=s.shorten_max,
        length_ratio=s.length_ratio,
        share_over_limit=s.share_over_limit,
        worst_at=s.worst_at,
        limit=s.limit,
        before=(
            {
                "stretch_max": before.stretch_max,
                "shorten_max": before.shorten_max,
                "length_ratio": before.length_ratio,
                "share_over_limit": before.share_over_limit,
            }
            if relieved and before
            else None
        ),
    )


def make_report(b: Build) -> Report:
    """The report of a job, as far as it was built."""
    m, t, p = b.measured, b.template, b.price
    round_body = isinstance(m.body, (Frustum, Profile))
    template = None
    if t is not None:
        left, low, right, high = t.outline.bounds
        sector = t.sector
        template = TemplateReport(
            radius_lower_mm=sector.radius_lower if sector else None,
            radius_upper_mm=sector.radius_upper if sector else None,
            angle_deg=math.degrees(sector.angle) if sector else None,
            width_mm=right - left,
            height_mm=high - low,
            area_mm2=t.outline.area,
            overlap_mm=b.job.wrap.overlap_mm if b.job.wrap.extent == "full" else 0.0,
            film_thickness_mm=t.film_thickness,
        )
    return Report(
        title=b.job.title,
        readings=[
            ReadingReport(
                name=n,
                mean_mm=r.mean,
                deviation_mm=r.deviation,
                error_mm=r.error,
                count=r.count,
                reads=r.reads,
                instrument=r.instrument,
                outlier=r.outlier,
            )
            for n, r in m.readings.items()
        ],
        body=_body(b),
        figures=[
            FigureReport(
                name=c.name,
                value=c.value,
                error=c.error,
                unit=c.unit,
                again_first=c.first,
                shares=[ShareReport(reading=n, share=s) for n, s in c.shares],
            )
            for c in m.consequences
        ],
        seam=_seam(m),
        level=(
            LevelReport(height_mm=m.level.height_mm, volume_ml=m.level.volume_ml, brim_ml=m.level.brim_ml)
            if m.level
            else None
        ),
        photo=[
            PhotoCheckReport(
                name=c.name,
                height_mm=c.height,
                radius_by_photo_mm=c.by_photo,
                radius_by_hand_mm=c.by_hand,
                spread_mm=c.spread,
            )
            for c in (m.photo.checks if m.photo else ())
        ],
        template=template,
        strain=_strain(t),
        relief=(
            None
            if t is None
            else ReliefReport(
                slits=[SlitReport(start=s.start, end=s.end, depth_mm=s.depth) for s in t.slits],
                gores=[GoreReport(width_mm=g.width, length_mm=g.length) for g in t.gores],
            )
        ),
        joints=[JointReport(height_mm=at, turn_deg=math.degrees(turn)) for at, turn in (t.joints if t else ())],
        free_areas=_free_areas(m),
        faces=[
            FaceReport(
                seen_by=f.seen_by,
                centre_deg=math.degrees(f.centre) if round_body else None,
                centre_mm=None if round_body else f.centre,
                width_mm=f.width,
                height_mm=f.height,
            )
            for f in m.free.faces
        ],
        drawings=[
            DrawingReport(
                file=d.file,
                width_mm=d.width,
                height_mm=d.height,
                way=d.way,
                suggested_way=d.suggested,
                sag_mm=f.sag,
                width_change_mm=f.width_change,
            )
            for d in (b.fit.drawings if b.fit else ())
            for f in d.ways
            if f.way == d.way
        ],
        joint=b.layers.joint if b.layers else None,
        overlap_mm=b.layers.overlap if b.layers else None,
        gap_chance=b.layers.gap_chance if b.layers else None,
        layers=[
            LayerReport(
                name=la.name,
                colour=la.colour,
                film=la.film.id,
                film_colour=la.film_colour,
                pieces=la.pieces,
                weeded=la.weeded,
                area_mm2=la.area,
                dots=len(la.inspection.dots),
                thin=len(la.inspection.thin),
            )
            for la in (b.layers.layers if b.layers else ())
        ],
        sheets=[
            SheetReport(
                layer=s.layer.name,
                film=s.layer.film.id,
                cutter=s.cutter.id,
                sets=s.sets,
                times=s.times,
                turned=s.turned,
                fits=s.fits,
                width_mm=s.width,
                height_mm=s.height,
                film_area_mm2=s.film_area,
            )
            for s in (b.sheets.sheets if b.sheets else ())
        ],
        price=(
            None
            if p is None
            else PriceReport(
                currency=b.job.price.currency,
                lines=[{"name": x.name, "amount": str(x.amount)} for x in p.lines],
                cost=str(p.cost),
                price=str(p.price),
                profit=str(p.profit),
                margin_percent=round(float(p.margin), 4),
                markup_percent=round(float(p.markup), 4),
                batch_price=str(p.batch_price),
            )
        ),
        verdicts=[
            VerdictReport(
                code=v.code,
                step=v.step,
                level=v.level,
                value=v.value,
                limit=v.limit,
                unit=v.unit,
                sentence=v.sentence(),
            )
            for v in b.verdicts
        ],
    )


def report_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of the report."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Report.model_json_schema()}
