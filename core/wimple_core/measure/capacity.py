"""Does the measured size agree with the capacity printed on the blank? If not, which slip would explain it?"""

from __future__ import annotations

import math

from ..job.document import CupBlank
from ..verdict import Level, Verdict
from .body import Frustum

MOST_SINGLE, MOST_DOUBLE = 1.5, 2.0
"""How much larger than its capacity the outside of a blank may be."""


def frustum_volume(r0: float, r1: float, upright: float) -> float:
    """Volume in mm3 of a frustum: `pi H / 3 (r0^2 + r0 r1 + r1^2)` (CRC Standard Mathematical Tables)."""
    return math.pi * upright / 3 * (r0 * r0 + r0 * r1 + r1 * r1)


def outside_volume_ml(frustum: Frustum, rim: float = 0.0, foot: float = 0.0) -> float:
    """Outside volume in ml, the wall prolonged by `rim` and `foot` mm along the side beyond the two lines."""
    r0 = max(frustum.radius_at(-foot), 0.0)
    r1 = max(frustum.radius_at(frustum.slant + rim), 0.0)
    rise = frustum.upright / frustum.slant * (frustum.slant + rim + foot)
    return frustum_volume(r0, r1, rise) / 1000


def level_volume_ml(frustum: Frustum, height: float, wall: float, foot: float = 0.0, floor: float = 3.0) -> float:
    """Volume in ml to pour so that the level stands at `height` mm along the side above the lower line.

    `integral of pi (r(z) - wall)^2 dz` from the inner floor (`floor` mm above the foot) for a straight or tapered wall.
    """
    upward = frustum.upright / frustum.slant
    bottom = min(-foot + floor / upward, height)
    r0, r1 = frustum.radius_at(bottom) - wall, frustum.radius_at(height) - wall
    if r0 <= 0 or r1 <= 0:
        return 0.0
    return frustum_volume(r0, r1, (height - bottom) * upward) / 1000


_SLIPS = (
    (math.pi**2, "the readings round the cup may be diameters: then choose “across”"),
    (1 / math.pi**2, "the readings across the cup may be circumferences: then choose “round”"),
    (4.0, "the readings across the cup may be radii: then double them"),
    (0.25, "the readings across the cup may be doubled"),
    (25.4**3, "the readings may be inches: then type them with “in”"),
    (25.4**-3, "the readings may be millimetres typed as inches"),
)


def capacity_verdict(blank: CupBlank, frustum: Frustum) -> Verdict | None:
    """Judge the outside volume against the stated capacity, or None where none is stated."""
    if blank.capacity_ml is None:
        return None
    volume = outside_volume_ml(frustum, blank.rim_mm, blank.foot_mm)
    most = MOST_DOUBLE if blank.wall == "double" else MOST_SINGLE
    stated = blank.capacity_ml
    ratio = volume / stated
    figures = {"stated": (stated, "ml")}
    if 1.0 <= ratio <= most:
        return Verdict("measure.capacity", "measure", "ok", volume, stated, "ml",
                       "{value} by size against {limit} stated.", figures=figures)  # fmt: skip
    round_read = {blank.upper.reads, blank.lower.reads}
    remedy = "Check the readings, the height and the capacity."
    for factor, slip in _SLIPS:
        if "round the cup" in slip and "circumference" not in round_read:
            continue
        if "across the cup" in slip and "diameter" not in round_read:
            continue
        if 1.0 <= ratio * factor <= most:
            remedy = f"{slip[0].upper()}{slip[1:]}."
            break
    limit = stated if ratio < 1 else stated * most
    side = "too small to hold" if ratio < 1 else "too large for"
    level: Level = "stop" if ratio < 0.8 or ratio > 2 * most else "look"
    return Verdict("measure.capacity", "measure", level, volume, limit, "ml",
                   f"{{value}} by size is {side} the {{stated}} stated.", remedy, figures,
                   field="blank.capacity_ml")  # fmt: skip
