"""The shapes of a scene, from which the front end's types are made. Lengths mm, y up; words in the workshop's units."""

from __future__ import annotations

import datetime as dt
from typing import Any, Literal

from ninja import Schema
from wimple_core.job import Job

Ring = list[float]
"""x0, y0, x1, y1, ... of one closed contour."""
LevelName = Literal["ok", "look", "stop"]


class VerdictOut(Schema):
    code: str
    step: str
    level: LevelName
    sentence: str
    field: str
    fix: float | str | bool | None
    fixes: dict[str, Any]
    places: list[tuple[float, float]]


class FaultOut(Schema):
    code: str = ""
    """The error's stable code, where the whole step failed by it."""
    field: str
    message: str
    hint: str
    places: list[list[float]] = []
    """Where on the body, mm, for what can be shown there."""


class ReadingOut(Schema):
    mean: float
    error: float
    count: int
    outlier: int | None
    deviation: float | None


class FigureOut(Schema):
    """A figure that follows from the readings, with its spread and the reading to take again first."""

    name: str
    value: float
    error: float
    unit: str
    first: str
    first_words: str
    first_share: float


class FacePart(Schema):
    """A side that is looked at, with the largest rectangle free and readable there: where its middle is (degrees on
    a round body, mm on
    a panel; mm up), and its size."""

    seen_by: str
    centre: float
    up: float
    width: float
    height: float


class FreePartOut(Schema):
    """One piece of the free area."""

    area: str
    width: float
    height: float
    readable: float


class StrokeOut(Schema):
    kind: Literal["body", "fine", "centre", "free", "zone", "section", "found", "level"]
    closed: bool
    lines: list[Ring]


class DimensionOut(Schema):
    """A dimension line of the drawing, mm; `leader` is set where its figure stands beside the drawing."""

    field: str
    start: tuple[float, float]
    end: tuple[float, float]
    out: tuple[float, float]
    row: float
    text: str
    leader: Literal["left", "right"] | None


class MarkOut(Schema):
    field: str
    at: tuple[float, float]
    text: str


class SketchOut(Schema):
    """The dimensioned drawing of a blank that is no cup; for a cup only what lies on it."""

    title: str
    strokes: list[StrokeOut]
    dimensions: list[DimensionOut]
    marks: list[MarkOut]
    note: str
    reach: tuple[float, float, float, float]


class SkinOut(Schema):
    """Where surface coordinates lie in space: corners with their place in the surface's own numbers (`coordinates`,
    pairs), in space
    (`positions`, mm) and, where the film has to give, its signed strain as a share (positive: stretched)."""

    left: float
    right: float
    low: float
    high: float
    coordinates: list[float]
    positions: list[float]
    triangles: list[int]
    strain: list[float]


class SolidOut(Schema):
    """The body for showing: a side line to be turned (r, y, ...), a plate's contours, or triangles."""

    line: list[float]
    plate: list[Ring]
    positions: list[float]
    triangles: list[int]
    size: tuple[float, float, float]


class LevelOut(Schema):
    height: float
    volume: float | None
    brim: float
    along: float


class PhotoCheckOut(Schema):
    name: str
    by_photo: float
    by_hand: float
    spread: float


class PhotoFoundOut(Schema):
    """The side line a photograph gave: heights above the foot and radii, the places read by hand too, and the
    outlines found, in pixels from the upper left corner of the picture (y down)."""

    z: list[float]
    r: list[float]
    apart: float | None
    checks: list[PhotoCheckOut]
    outline: list[Ring]
    width: int
    height: int


class MeasureOut(Schema):
    """What was measured. The radii and the side are a cup's, and 0 on anything else; width and height are a panel's."""

    kind: Literal["cup", "stack", "revolution", "dome", "panel", "curved_panel", "rise_panel", "insert", "mesh"]
    closed: bool
    readings: dict[str, ReadingOut]
    figures: list[FigureOut]
    faces: list[FacePart]
    free_parts: list[FreePartOut]
    sketch: SketchOut
    solid: SolidOut | None
    skin: SkinOut | None
    level: LevelOut | None
    photo: PhotoFoundOut | None
    radius_lower: float
    radius_upper: float
    slant: float
    upright: float
    k: float
    rim: float
    foot: float
    width: float
    height: float
    free_low: float
    free_high: float
    free_left: float
    free_right: float
    free_width_low: float
    free_width_high: float
    handle: float | None
    handle_width: float
    volume: float | None
    seam_top: float
    seam_bottom: float
    edge_drift: float
    taper_deg: float
    readable_half_angle: float
    readable_top: float


class StrainAreaOut(Schema):
    """Where the strain lies in one step (1: over a quarter of the limit, 2: over half, 3: over it, 4: over twice
    it)."""

    step: int
    stretched: bool
    rings: list[Ring]


class StrainOut(Schema):
    """What the film suffers, in per cent; `limit` is null where the film states none."""

    stretch: float
    shorten: float
    ratio: float
    share_over: float
    limit: float | None
    worst_at: tuple[float, float]
    before: float
    areas: list[StrainAreaOut]


class ProfilePoint(Schema):
    """Strain along the height: mm up along the side, per cent."""

    up: float
    strain: float


class TemplateOut(Schema):
    outline: list[Ring]
    free: list[Ring]
    zones: list[Ring]
    overlap: list[Ring]
    bounds: tuple[float, float, float, float]
    k: float
    r0: float
    left: float
    right: float
    low: float
    high: float
    sector_lower: float | None
    sector_upper: float | None
    sector_angle_deg: float | None
    length_lower: float
    length_upper: float
    strain: StrainOut | None
    along: list[ProfilePoint]
    slits: list[tuple[float, float, float, float]]
    slit_depth: float
    film_thickness_um: float
    gores: int
    gore_width: float
    joints: list[tuple[float, float]]
    pieces: int


class WayOut(Schema):
    way: str
    figure: str


class PaintOut(Schema):
    colour: str
    rings: list[Ring]


class PlacedOut(Schema):
    """A drawing on the template. `across` and `up` are how its middle moves there for one unit of each coordinate
    (rad, or mm on a panel; and mm upward): what a hand needs to drag it sideways by `across_field` of its placement, of
    which one is `across_unit` of those units. `tapered` tells that the ways of laying it differ where it lies."""

    file: str
    outline: Ring
    centre: tuple[float, float]
    across: tuple[float, float]
    up: tuple[float, float]
    paints: list[PaintOut]
    width: float
    height: float
    way: str
    suggested: str
    ways: list[WayOut]
    colours: int
    pieces: int
    across_field: Literal["centre_deg", "across_mm"]
    across_unit: float
    tapered: bool


class ObjectPaintOut(Schema):
    """A layer on the object: contours in (angle rad, mm along the side); on a panel in mm."""

    colour: str
    finish: str
    rings: list[Ring]


class LayerOut(Schema):
    name: str
    colour: str
    film: str
    film_name: str
    film_colour: str
    finish: str
    pieces: int
    weeded: int
    area: str
    rings: list[Ring]
    marks: list[Ring]
    places: list[tuple[float, float]]


class LayersOut(Schema):
    layers: list[LayerOut]
    joint: str
    gap_chance: float
    bounds: tuple[float, float, float, float]


class SheetOut(Schema):
    layer: str
    colour: str
    sets: int
    times: int
    turned: bool
    fits: bool
    width: float
    height: float
    film_area: str
    rings: list[Ring]
    frames: list[Ring]


class SheetsOut(Schema):
    cutter: str
    medium: str
    width: float
    length: float
    safe_width: float
    safe_length: float
    film_area: str
    film_cost: str
    sheets: list[SheetOut]


class StepOut(Schema):
    title: str
    text: str


class LayupOut(Schema):
    order: str
    tape: str
    steps: list[StepOut]
    cautions: list[str]
    wash_from: dt.datetime | None


class CostLineOut(Schema):
    name: str
    detail: str
    amount: str


class PriceOut(Schema):
    currency: str
    lines: list[CostLineOut]
    cost: str
    price: str
    profit: str
    margin: float
    markup: float
    batch_cost: str
    batch_price: str
    shares: list[float]


class Scene(Schema):
    """A job as built: `fault` says where and why it stopped, if it did; parts beyond that are null."""

    document: Job
    levels: dict[str, LevelName | None]
    verdicts: list[VerdictOut]
    fault: FaultOut | None
    fault_step: str | None
    measure: MeasureOut
    template: TemplateOut | None
    placed: list[PlacedOut]
    object: list[ObjectPaintOut]
    layers: LayersOut | None
    sheets: SheetsOut | None
    layup: LayupOut | None
    price: PriceOut | None
