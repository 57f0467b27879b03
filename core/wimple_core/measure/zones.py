"""Keep-out zones and the free areas they leave, in the surface's own coordinates."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import singledispatch

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from ..errors import BadReading
from ..figures import carried
from ..job.blanks import RoundBase
from ..job.zones import BandZone, PolygonZone, Zone, Zones
from ..overlay import difference, intersection, union
from .body import Array, Body, Cap, FlatBody, Frustum, Panel, Profile, RiseSurface, RoundBody
from .readings import Reading
from .rectangle import Box, largest_rectangle
from .rises import evaluate

READABLE_HALF_ANGLE = math.pi / 3
"""Beyond 60 degrees from the front, foreshortening falls below one half."""
LEAST_PART_MM2 = 25.0
_STEP_MM = 2.0
GRID = 1e-9
"""Of zones, in their own coordinates: radians round, mm along."""


@dataclass(frozen=True)
class FreePart:
    """One piece of the free area. `box` is its largest upright rectangle in surface coordinates; `width`, `height`
    that rectangle's
    size in mm (on a taper the width of its narrower edge); `readable` how much of the width is read from the front;
    `area` mm2.
    """

    region: BaseGeometry
    area: float
    box: Box
    width: float
    height: float
    readable: float


@dataclass(frozen=True)
class Face:
    """A side that is looked at: who sees it, the angle (rad) or place (mm) of its middle, and the largest rectangle
    that is free and readable there, in surface coordinates and in mm."""

    seen_by: str
    centre: float
    box: Box
    width: float
    height: float


@dataclass(frozen=True)
class KeptOut:
    """A zone on the surface: its kind, what it is called, and where it lies in the surface's coordinates."""

    kind: str
    name: str
    region: BaseGeometry
    index: int | None


@dataclass(frozen=True)
class FreeArea:
    """What the zones leave of a surface.

    On a round body `left`, `right` are angles from the front (rad) and `low`, `high` distances along the side (mm),
    between the
    bands and the handle; on a panel all four are mm. `handle` is the angle of the handle's middle (None without one).
    `parts` are the pieces that are left once every zone is taken out, the largest first.
    """

    left: float
    right: float
    low: float
    high: float
    handle: float | None = None
    handle_width: float = 0.0
    region: BaseGeometry = field(default_factory=shapely.Polygon)
    parts: tuple[FreePart, ...] = ()
    faces: tuple[Face, ...] = ()
    zones: tuple[KeptOut, ...] = ()

    @property
    def all_round(self) -> bool:
        return self.handle is None


def handle_angle(blank: RoundBase) -> float:
    """Where the handle is, from the front (rad): the front is the side that is seen.

    A right-handed owner's handle is on their right: others, facing them, see it on the left of the decal, and the
    holder sees it
    on the right. One decal for both stands opposite the handle.
    """
    if blank.faces == "both" and blank.decals == 1:
        return math.pi
    right_of_front = (blank.hand == "right") == (blank.faces == "holder")
    return math.pi / 2 if right_of_front else -math.pi / 2


def _limits(blank: RoundBase, body: RoundBody) -> tuple[float, float]:
    """Lowest and highest free place along the side. Raises BadReading where the bands leave nothing."""
    rim, foot = blank.beyond[0], body.stands(blank.beyond[1])
    low = max(0.0, blank.base_band_mm - foot)
    high = body.length - max(0.0, blank.lip_band_mm - rim)
    if high - low < 1.0:
        raise BadReading(
            f"A lip band of {carried(blank.lip_band_mm)} and a base band of {carried(blank.base_band_mm)} leave nothing"
            f" of the {carried(body.length)} between the lines.",
            field="blank.lip_band_mm" if blank.lip_band_mm >= blank.base_band_mm else "blank.base_band_mm",
            hint=f"Together they must stay under {carried(body.length + rim + foot - 1)}.",
        )
    return low, high


def handle_width(blank: RoundBase, body: RoundBody, low: float, high: float, readings: dict[str, Reading]) -> float:
    """The strip the handle takes, mm: as typed, or the way round less the free width read beside it (at the middle
    of the free height).

    Raises BadReading where the free width is more than the way round.
    """
    assert blank.handle is not None
    read = readings.get("handle.free_width")
    if read is None:
        return blank.handle.width_mm
    around = 2 * math.pi * body.radius_at((low + high) / 2)
    if read.mean >= around - 2:
        raise BadReading(
            f"A free width of {carried(read.mean)} leaves no place for a handle on a cup of {carried(around)} round.",
            field="blank.handle.free_width.readings.0",
            hint="Measure round the cup from one edge of the handle to the other.",
        )
    return around - read.mean


def _strip(body: RoundBody, centre: float, width: float, low: float, high: float) -> BaseGeometry:
    """A strip of one width in mm round an angle, in (angle, side) coordinates."""
    s = np.linspace(low, high, 2 if body.straight else 25)
    half = width / 2 / np.maximum(body.radii_at(s), 1e-3)
    return shapely.Polygon(
        np.concatenate([np.column_stack([centre - half, s]), np.column_stack([centre + half, s])[::-1]])
    )


def _named(zone: Zone) -> str:
    return zone.name or {
        "lip": "lip band",
        "base": "base band",
        "seam": "moulded seam",
        "plate": "number plate",
        "sight": "line of sight",
        "label": "warning label",
        "other": "keep-out zone",
    }.get(zone.kind, zone.kind)


def _round_zone(zone: Zone, body: RoundBody, left: float, right: float) -> BaseGeometry:
    length = body.length
    if isinstance(zone, BandZone):
        return shapely.box(left, zone.low_mm, right, zone.high_mm)
    if isinstance(zone, PolygonZone):
        shape = shapely.segmentize(shapely.Polygon(zone.points), _STEP_MM)
        region = shapely.transform(
            shape,
            lambda p: np.column_stack(
                [p[:, 0] / np.maximum(body.radii_at(np.clip(p[:, 1], 0, length)), 1e-3), p[:, 1]]
            ),
        )
    else:
        low, high = (
            zone.low_mm if zone.low_mm is not None else 0.0,
            (zone.high_mm if zone.high_mm is not None else length),
        )
        region = _strip(body, math.radians(zone.centre_deg), zone.width_mm, low, high)
    turns = [affinity.translate(region, 2 * math.pi * i) for i in (-1, 0, 1)]
    return intersection(union(turns, GRID), shapely.box(left, 0, right, length), GRID)


def _flat_zone(zone: Zone, width: float, height: float) -> BaseGeometry:
    if isinstance(zone, BandZone):
        return shapely.box(-width / 2, zone.low_mm, width / 2, zone.high_mm)
    if isinstance(zone, PolygonZone):
        return shapely.Polygon(zone.points)
    low, high = zone.low_mm if zone.low_mm is not None else 0.0, zone.high_mm if zone.high_mm is not None else height
    return shapely.box(zone.centre_mm - zone.width_mm / 2, low, zone.centre_mm + zone.width_mm / 2, high)


def _check_zones(zones: Zones) -> None:
    """Raises BadReading for a zone upside down or an outline that crosses itself."""
    for i, zone in enumerate(zones):
        if isinstance(zone, PolygonZone):
            if not shapely.Polygon(zone.points).is_valid:
                raise BadReading(
                    f"The outline of zone {i + 1} crosses itself.",
                    field=f"blank.zones.{i}.points",
                    hint="Give its corners in order, round the zone.",
                )
        elif zone.low_mm is not None and zone.high_mm is not None and zone.high_mm <= zone.low_mm:
            raise BadReading(
                f"Zone {i + 1} ends at {carried(zone.high_mm)}, below its start at {carried(zone.low_mm)}.",
                field=f"blank.zones.{i}.high_mm",
                hint="Its upper end must lie above its lower one.",
            )


def equal_area(body: RoundBody) -> tuple[Array, Array]:
    """`s` and the integral of r ds up to it: the map that makes areas in (angle, side) true."""
    s = body.fine
    r = body.radii_at(s)
    return s, np.concatenate([[0.0], np.cumsum((r[1:] + r[:-1]) / 2 * np.diff(s))])


@singledispatch
def true_area(body: Body, region: BaseGeometry) -> float:
    """Area in mm2 on a body of a region in its surface coordinates."""
    raise TypeError(type(body).__name__)


@true_area.register
def _(body: Panel, region: BaseGeometry) -> float:
    return float(region.area)


@true_area.register
def _(body: Cap, region: BaseGeometry) -> float:
    def equal(p: Array) -> Array:
        rho = np.hypot(p[:, 0], p[:, 1])
        share = 2 * body.radius * np.sin(rho / (2 * body.radius)) / np.maximum(rho, 1e-12)
        return p * np.where(rho > 1e-9, share, 1.0)[:, None]

    return float(shapely.transform(region, equal).area)


@true_area.register
def _(body: RiseSurface, region: BaseGeometry) -> float:
    if region.is_empty:
        return 0.0
    left, low, right, high = region.bounds
    x = left + (right - left) * (np.arange(64) + 0.5) / 64
    y = low + (high - low) * (np.arange(64) + 0.5) / 64
    gx, gy = np.meshgrid(x, y)
    inside = shapely.contains_xy(region, gx, gy)
    at_x = x + body.x[0] + body.width / 2
    element = np.sqrt(
        1 + evaluate(body, at_x, y + body.y[0], 1, 0) ** 2 + evaluate(body, at_x, y + body.y[0], 0, 1) ** 2
    )
    return float(region.area) * (float(element[inside].mean()) if inside.any() else 1.0)


@true_area.register
def _(body: Frustum, region: BaseGeometry) -> float:
    return _by_heights(region, lambda s: body.radius_lower * s + body.k * s**2 / 2)


@true_area.register
def _(body: Profile, region: BaseGeometry) -> float:
    s, total = equal_area(body)
    return _by_heights(region, lambda at: np.interp(at, s, total))


def _by_heights(region: BaseGeometry, total: Callable[[Array], Array]) -> float:
    """Area of a region of angles and heights, `total` being the integral of the radius up to a height."""
    fine = shapely.segmentize(region, _STEP_MM)
    return float(shapely.transform(fine, lambda p: np.column_stack([p[:, 0], total(p[:, 1])])).area)


def _part(region: BaseGeometry, body: RoundBody | FlatBody) -> FreePart | None:
    """A piece of free area with its largest rectangle; None where it is too small to hold anything."""
    area = true_area(body, region)
    if area < LEAST_PART_MM2:
        return None
    found = rectangle_in(body, region)
    return FreePart(region, area, found.box, found.width, found.height, found.readable)


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle on a surface: `box` in its coordinates, its size and how much of its width is read, mm."""

    box: Box
    width: float
    height: float
    readable: float


@singledispatch
def rectangle_in(body: Body, region: BaseGeometry) -> Rectangle:
    """The largest upright rectangle in a region of a body's surface."""
    found = largest_rectangle(region) or (0.0, 0.0, 0.0, 0.0)
    wide = found[2] - found[0]
    return Rectangle(found, wide, found[3] - found[1], wide)


@rectangle_in.register(Frustum)
@rectangle_in.register(Profile)
def _(body: RoundBody, region: BaseGeometry) -> Rectangle:
    middle = body.radius_at((region.bounds[1] + region.bounds[3]) / 2)
    found = largest_rectangle(affinity.scale(region, middle, 1, origin=(0, 0))) or (0.0, 0.0, 0.0, 0.0)
    box = (found[0] / middle, found[1], found[2] / middle, found[3])
    narrow = float(body.radii_at(np.linspace(box[1], box[3], 25)).min())
    width = (box[2] - box[0]) * narrow
    seen = 2 * READABLE_HALF_ANGLE * body.radius_at((box[1] + box[3]) / 2)
    return Rectangle(box, width, box[3] - box[1], min(width, seen))


def _faces(blank: RoundBase, free: BaseGeometry, body: RoundBody, left: float, right: float) -> tuple[Face, ...]:
    """The sides that are looked at, each with what is free and readable there."""
    if blank.faces == "both":
        wanted = [("others and the holder", 0.0)] if blank.decals == 1 else [("others", 0.0), ("the holder", math.pi)]
    else:
        wanted = [("others" if blank.faces == "others" else "the holder", 0.0)]
    out = []
    turned = union([free, affinity.translate(free, 2 * math.pi), affinity.translate(free, -2 * math.pi)], GRID)
    for seen_by, centre in wanted:
        seen = intersection(
            turned, shapely.box(centre - READABLE_HALF_ANGLE, 0, centre + READABLE_HALF_ANGLE, body.length)
        )
        if seen.is_empty:
            continue
        found = rectangle_in(body, seen)
        out.append(Face(seen_by, (found.box[0] + found.box[2]) / 2, found.box, found.width, found.height))
    return tuple(out)


def free_area_of_round(blank: RoundBase, body: RoundBody, readings: dict[str, Reading]) -> FreeArea:
    """The free area of a cup, stack or bellied body. Raises BadReading where nothing is left."""
    low, high = _limits(blank, body)
    _check_zones(blank.zones)
    at, wide, left, right = None, 0.0, -math.pi, math.pi
    if blank.handle is not None:
        wide = handle_width(blank, body, low, high, readings)
        narrow = float(body.radii_at(np.linspace(low, high, 25)).min())
        half = wide / 2 / narrow
        if half >= math.pi - 0.05:
            raise BadReading(
                f"A handle zone of {carried(wide)} goes all round a cup of {carried(2 * math.pi * narrow)}.",
                field=(
                    "blank.handle.width_mm" if blank.handle.free_width is None else "blank.handle.free_width.readings.0"
                ),
                hint="Measure across the handle where it meets the wall, with a finger's clearance.",
            )
        at = handle_angle(blank)
        left, right = (at + half - 2 * math.pi, at - half) if at > 0 else (at + half, at - half + 2 * math.pi)
        tall = readings.get("handle.free_height")
        if tall is not None:
            high = min(high, low + tall.mean)
    zones = tuple(KeptOut(z.kind, _named(z), _round_zone(z, body, left, right), i) for i, z in enumerate(blank.zones))
    region: BaseGeometry = shapely.box(left, low, right, high)
    if zones:
        region = difference(region, union([z.region for z in zones], GRID), GRID)
    return FreeArea(
        left,
        right,
        low,
        high,
        at,
        wide,
        region,
        _parts(region, body, blank.zones),
        _faces(blank, region, body, left, right),
        zones,
    )


def _parts(region: BaseGeometry, body: RoundBody | FlatBody, zones: Zones) -> tuple[FreePart, ...]:
    found = [p for p in (_part(g, body) for g in shapely.get_parts(region)) if p is not None]
    if not found:
        raise BadReading(
            "The zones leave nothing free.",
            field=f"blank.zones.{len(zones) - 1}" if zones else "blank.margin_mm",
            hint="Make one smaller, or take one out.",
        )
    return tuple(sorted(found, key=lambda p: -p.area))


def _free_flat(
    outline: BaseGeometry, body: FlatBody, margin: float, zones: Zones, size: tuple[float, float]
) -> FreeArea:
    _check_zones(zones)
    region = outline.buffer(-margin, join_style="mitre") if margin else outline
    if region.is_empty or region.area < 1:
        room = shapely.maximum_inscribed_circle(outline).length
        raise BadReading(
            f"A margin of {carried(margin)} leaves nothing of a panel of {carried(size[0])} × {carried(size[1])}.",
            field="blank.margin_mm",
            hint=f"It must stay under {carried(room - 0.5)}.",
        )
    left, low, right, high = region.bounds
    kept = tuple(
        KeptOut(z.kind, _named(z), intersection(_flat_zone(z, size[0], size[1]), outline, GRID), i)
        for i, z in enumerate(zones)
    )
    if kept:
        region = difference(region, union([z.region for z in kept], GRID), GRID)
    parts = _parts(region, body, zones)
    first = parts[0]
    face = Face("whoever stands before it", (first.box[0] + first.box[2]) / 2, first.box, first.width, first.height)
    return FreeArea(left, right, low, high, None, 0.0, region, parts, (face,), kept)


def free_area_of_panel(panel: Panel, margin: float, zones: Zones) -> FreeArea:
    """The panel less its margin and zones; left and right from its middle. Raises BadReading where nothing is left."""
    return _free_flat(panel.outline, panel, margin, zones, (panel.width, panel.height))


def free_area_of_cap(cap: Cap, margin: float, zones: Zones) -> FreeArea:
    """The dome laid out from its middle by true distances and directions, less its margin and zones."""
    t = np.linspace(0, 2 * math.pi, 361)[:-1]
    outline = shapely.Polygon(cap.arc * np.column_stack([np.cos(t), np.sin(t)]))
    return _free_flat(outline, cap, margin, zones, (2 * cap.arc, 2 * cap.arc))


def free_area_of_rises(surface: RiseSurface, margin: float, zones: Zones) -> FreeArea:
    """The panel's base rectangle, x from its middle and y from its lower edge, less its margin and zones."""
    outline = shapely.box(-surface.width / 2, 0, surface.width / 2, surface.height)
    return _free_flat(outline, surface, margin, zones, (surface.width, surface.height))


def free_area_of_outline(outline: BaseGeometry, margin: float, kept: tuple[KeptOut, ...] = ()) -> FreeArea:
    """The free area of a flat outline, mm, less a margin and zones that already lie on it. Raises BadReading where
    nothing is left."""
    left, low, right, high = outline.bounds
    body = Panel(
        right - left,
        high - low,
        outline=outline if isinstance(outline, shapely.Polygon) else shapely.box(*outline.bounds),
    )
    free = _free_flat(outline, body, margin, (), (right - left, high - low))
    if not kept:
        return free
    region = difference(free.region, union([z.region for z in kept], GRID), GRID)
    parts = _parts(region, body, ())
    first = parts[0]
    face = Face("whoever stands before it", (first.box[0] + first.box[2]) / 2, first.box, first.width, first.height)
    return FreeArea(free.left, free.right, free.low, free.high, None, 0.0, region, parts, (face,), kept)


def flat_zones(zones: Zones, outline: BaseGeometry) -> tuple[KeptOut, ...]:
    """A maker's zones on a flat outline whose middle is x = 0 and whose lower edge is y = 0."""
    _check_zones(zones)
    left, low, right, high = outline.bounds
    return tuple(
        KeptOut(z.kind, _named(z), intersection(_flat_zone(z, right - left, high - low), outline, GRID), i)
        for i, z in enumerate(zones)
    )


def blocked_widths(free: FreeArea, body: RoundBody, places: int = 160) -> tuple[Array, Array]:
    """Heights along the side within the free area, and how many mm round the body the zones take there."""
    s = np.linspace(free.low, free.high, places)
    around = 2 * math.pi * body.radii_at(s)
    if not free.zones and free.handle is None:
        return s, np.zeros_like(s)
    lines = shapely.linestrings(
        np.stack(
            [np.column_stack([np.full(places, free.left), s]), np.column_stack([np.full(places, free.right), s])],
            axis=1,
        )
    )
    open_angle = shapely.length(shapely.intersection(lines, free.region))
    open_angle[[0, -1]] = open_angle[[1, -2]]
    return s, around - open_angle * body.radii_at(s)
