"""Keep-out zones and the free areas they leave, in the surface's own coordinates."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from ..errors import BadReading
from ..figures import carried
from ..job.turned import RoundBase
from ..job.zones import BandZone, PolygonZone, Zone, Zones
from ..overlay import plain_intersection, plain_union
from .bodies import RoundBody
from .readings import Reading

_STEP_MM = 2.0


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


def limits_round(blank: RoundBase, body: RoundBody) -> tuple[float, float]:
    """Lowest and highest free place along the side. Raises BadReading where the bands leave nothing."""
    rim, foot = blank.beyond[0], body.stands(blank.beyond[1])
    low = max(0.0, blank.base_band_mm - foot)
    high = body.length - max(0.0, blank.lip_band_mm - rim)
    if high - low < 1.0:
        raise BadReading(
            f"A lip band of {carried(blank.lip_band_mm)} and a base band of {carried(blank.base_band_mm)} leave nothing"
            f" of the {carried(body.length)} between the lines.",
            field="lip_band_mm" if blank.lip_band_mm >= blank.base_band_mm else "base_band_mm",
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
            field="handle.free_width.readings.0",
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


def named_zone(zone: Zone) -> str:
    """What a zone is called: its own name, or what its kind is called."""
    return zone.name or {
        "lip": "lip band",
        "base": "base band",
        "seam": "moulded seam",
        "plate": "number plate",
        "sight": "line of sight",
        "label": "warning label",
        "other": "keep-out zone",
    }.get(zone.kind, zone.kind)


def round_zone(zone: Zone, body: RoundBody, left: float, right: float) -> BaseGeometry:
    """A zone on a body that goes round, in (angle rad, mm along the side), between two angles."""
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
    return plain_intersection(plain_union(turns), shapely.box(left, 0, right, length))


def flat_zone(zone: Zone, width: float, height: float) -> BaseGeometry:
    """A zone on something flat of that size, mm from the middle of its lower edge."""
    if isinstance(zone, BandZone):
        return shapely.box(-width / 2, zone.low_mm, width / 2, zone.high_mm)
    if isinstance(zone, PolygonZone):
        return shapely.Polygon(zone.points)
    low, high = zone.low_mm if zone.low_mm is not None else 0.0, zone.high_mm if zone.high_mm is not None else height
    return shapely.box(zone.centre_mm - zone.width_mm / 2, low, zone.centre_mm + zone.width_mm / 2, high)


def check_zones(zones: Zones) -> None:
    """Raises BadReading for a zone upside down or an outline that crosses itself."""
    for i, zone in enumerate(zones):
        if isinstance(zone, PolygonZone):
            if not shapely.Polygon(zone.points).is_valid:
                raise BadReading(
                    f"The outline of zone {i + 1} crosses itself.",
                    field=f"zones.{i}.points",
                    hint="Give its corners in order, round the zone.",
                )
        elif zone.low_mm is not None and zone.high_mm is not None and zone.high_mm <= zone.low_mm:
            raise BadReading(
                f"Zone {i + 1} ends at {carried(zone.high_mm)}, below its start at {carried(zone.low_mm)}.",
                field=f"zones.{i}.high_mm",
                hint="Its upper end must lie above its lower one.",
            )
