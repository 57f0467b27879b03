"""The free area each body leaves, and where on it a drawing is seen."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..errors import BadReading
from ..figures import carried
from ..job.turned import RoundBase
from ..job.zones import Zones
from ..overlay import plain_difference, plain_intersection, plain_union
from .areas import rectangle_in, true_area
from .bodies import FlatBody, RoundBody
from .body import Cap
from .flat_bodies import Panel, RiseSurface
from .free import READABLE_HALF_ANGLE, Face, FreeArea, FreePart, KeptOut
from .readings import Reading
from .zones import check_zones, flat_zone, handle_angle, handle_width, limits_round, named_zone, round_zone

LEAST_PART_MM2 = 25.0


def _part(region: BaseGeometry, body: RoundBody | FlatBody) -> FreePart | None:
    """A piece of free area with its largest rectangle; None where it is too small to hold anything."""
    area = true_area(body, region)
    if area < LEAST_PART_MM2:
        return None
    found = rectangle_in(body, region)
    return FreePart(region, area, found.box, found.width, found.height, found.readable)


def _faces(blank: RoundBase, free: BaseGeometry, body: RoundBody, left: float, right: float) -> tuple[Face, ...]:
    """The sides that are looked at, each with what is free and readable there."""
    if blank.faces == "both":
        wanted = [("others and the holder", 0.0)] if blank.decals == 1 else [("others", 0.0), ("the holder", math.pi)]
    else:
        wanted = [("others" if blank.faces == "others" else "the holder", 0.0)]
    out = []
    turned = plain_union([free, affinity.translate(free, 2 * math.pi), affinity.translate(free, -2 * math.pi)])
    for seen_by, centre in wanted:
        seen = plain_intersection(
            turned, shapely.box(centre - READABLE_HALF_ANGLE, 0, centre + READABLE_HALF_ANGLE, body.length)
        )
        if seen.is_empty:
            continue
        found = rectangle_in(body, seen)
        out.append(Face(seen_by, (found.box[0] + found.box[2]) / 2, found.box, found.width, found.height))
    return tuple(out)


def free_area_of_round(blank: RoundBase, body: RoundBody, readings: dict[str, Reading]) -> FreeArea:
    """The free area of a cup, stack or bellied body. Raises BadReading where nothing is left."""
    low, high = limits_round(blank, body)
    check_zones(blank.zones)
    at, wide, left, right = None, 0.0, -math.pi, math.pi
    if blank.handle is not None:
        wide = handle_width(blank, body, low, high, readings)
        narrow = float(body.radii_at(np.linspace(low, high, 25)).min())
        half = wide / 2 / narrow
        if half >= math.pi - 0.05:
            raise BadReading(
                f"A handle zone of {carried(wide)} goes all round a cup of {carried(2 * math.pi * narrow)}.",
                field=("handle.width_mm" if blank.handle.free_width is None else "handle.free_width.readings.0"),
                hint="Measure across the handle where it meets the wall, with a finger's clearance.",
            )
        at = handle_angle(blank)
        left, right = (at + half - 2 * math.pi, at - half) if at > 0 else (at + half, at - half + 2 * math.pi)
        tall = readings.get("handle.free_height")
        if tall is not None:
            high = min(high, low + tall.mean)
    zones = tuple(
        KeptOut(z.kind, named_zone(z), round_zone(z, body, left, right), i) for i, z in enumerate(blank.zones)
    )
    region: BaseGeometry = shapely.box(left, low, right, high)
    if zones:
        region = plain_difference(region, plain_union([z.region for z in zones]))
    return FreeArea(
        left,
        right,
        low,
        high,
        at,
        wide,
        region,
        _parts(region, body, len(zones), "base_band_mm"),
        _faces(blank, region, body, left, right),
        zones,
    )


def _parts(region: BaseGeometry, body: RoundBody | FlatBody, zones: int, taken_by: str) -> tuple[FreePart, ...]:
    """What is free once as many zones are taken out; `taken_by` is the field by which something is taken without any.
    Raises BadReading where nothing is left."""
    found = [p for p in (_part(g, body) for g in shapely.get_parts(region)) if p is not None]
    if found:
        return tuple(sorted(found, key=lambda p: -p.area))
    if zones:
        raise BadReading(
            "The zones leave nothing free.", field=f"zones.{zones - 1}", hint="Make one smaller, or take one out."
        )
    raise BadReading(
        f"Only {carried(true_area(body, region), 'mm2')} is free, too little to lay anything on.",
        field=taken_by,
        hint="Look through the readings, or keep less clear.",
    )


def _free_flat(
    outline: BaseGeometry, body: FlatBody, margin: float, zones: Zones, size: tuple[float, float]
) -> FreeArea:
    check_zones(zones)
    region = outline.buffer(-margin, join_style="mitre") if margin else outline
    if region.is_empty or region.area < 1:
        room = shapely.maximum_inscribed_circle(outline).length
        raise BadReading(
            f"A margin of {carried(margin)} leaves nothing of a panel of {carried(size[0])} × {carried(size[1])}.",
            field="margin_mm",
            hint=f"It must stay under {carried(room - 0.5)}.",
        )
    left, low, right, high = region.bounds
    kept = tuple(
        KeptOut(z.kind, named_zone(z), plain_intersection(flat_zone(z, size[0], size[1]), outline), i)
        for i, z in enumerate(zones)
    )
    if kept:
        region = plain_difference(region, plain_union([z.region for z in kept]))
    parts = _parts(region, body, len(zones), "margin_mm")
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
    region = plain_difference(free.region, plain_union([z.region for z in kept]))
    parts = _parts(region, body, len(kept), "margin_mm")
    first = parts[0]
    face = Face("whoever stands before it", (first.box[0] + first.box[2]) / 2, first.box, first.width, first.height)
    return FreeArea(free.left, free.right, free.low, free.high, None, 0.0, region, parts, (face,), kept)


def flat_zones(zones: Zones, outline: BaseGeometry) -> tuple[KeptOut, ...]:
    """A maker's zones on a flat outline whose middle is x = 0 and whose lower edge is y = 0."""
    check_zones(zones)
    left, low, right, high = outline.bounds
    return tuple(
        KeptOut(z.kind, named_zone(z), plain_intersection(flat_zone(z, right - left, high - low), outline), i)
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
