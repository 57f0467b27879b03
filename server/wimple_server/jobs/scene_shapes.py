"""The shapes of a scene, from which the front end's types are made. Lengths mm, y up; words in the workshop's units."""

from __future__ import annotations

import datetime as dt
from typing import Literal

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
    places: list[tuple[float, float]]


class FaultOut(Schema):
    field: str
    message: str
    hint: str


class ReadingOut(Schema):
    mean: float
    error: float
    count: int


class MeasureOut(Schema):
    """Figures of the side view; the radii are 0 on a panel, width and height 0 on a cup."""

    kind: Literal["cup", "panel"]
    readings: dict[str, ReadingOut]
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


class TemplateOut(Schema):
    outline: list[Ring]
    free: list[Ring]
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


class WayOut(Schema):
    way: str
    figure: str


class PaintOut(Schema):
    colour: str
    rings: list[Ring]


class PlacedOut(Schema):
    """A drawing on the template. `across` and `up` are how its middle moves there for one unit of each coordinate
    (rad, or mm on a panel; and mm upward): what a hand needs to drag it."""

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
    blade: str
    force: str
    speed: str
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
