"""Volumes: does the size agree with the capacity printed on the blank, and how much water makes a level."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from ..arrays import Array
from ..errors import BadDrawing, BadReading
from ..figures import MM_PER_INCH, carried
from ..job.turned import RoundBase
from ..verdict import Level, Verdict
from .bodies import RoundBody

MOST_SINGLE, MOST_DOUBLE = 1.5, 2.0
"""How much larger than its capacity the outside of a blank may be."""
FLOOR_MM = 3.0
FILLED = 0.85
"""Nobody fills it further."""


def frustum_volume(r0: float, r1: float, upright: float) -> float:
    """Volume in mm3 of a frustum: `pi H / 3 (r0^2 + r0 r1 + r1^2)` (CRC Standard Mathematical Tables)."""
    return math.pi * upright / 3 * (r0 * r0 + r0 * r1 + r1 * r1)


def inner_line(z: Array, r: Array, wall: float) -> tuple[Array, Array]:
    """Heights and radii (n,) of the inside of a wall whose thickness stands square to it, by the outside's.

    Each straight part is moved inward by the thickness and meets the next where they cross; at its ends it is cut off
    level, where it stands `wall / cos(a)` further in.
    """
    if wall <= 0:
        return z, r
    up, out = np.diff(z), np.diff(r)
    length = np.hypot(up, out)
    inward = np.column_stack([out, -up]) / length[:, None]
    level = wall * length / np.maximum(up, 1e-9)
    before, after = inward[:-1], inward[1:]
    turn = (before + after) / (1 + (before * after).sum(axis=1))[:, None]
    inner_z = np.concatenate([z[:1], z[1:-1] + wall * turn[:, 0], z[-1:]])
    inner_r = np.concatenate([r[:1] - level[:1], r[1:-1] + wall * turn[:, 1], r[-1:] - level[-1:]])
    grows = np.concatenate([[True], np.diff(np.maximum.accumulate(inner_z)) > 1e-9])
    return inner_z[grows], inner_r[grows]


@dataclass(frozen=True, eq=False)
class Hollow:
    """A body turned on its axis by the straight parts of its side line: heights `z` (n,), growing, and radii `r`
    (n,), mm."""

    z: Array
    r: Array

    def volume_ml(self, low: float, high: float) -> float:
        """Volume in ml between two heights: `integral of pi r(z)^2 dz`, exact for each straight part."""
        low, high = max(low, float(self.z[0])), min(high, float(self.z[-1]))
        if high <= low:
            return 0.0
        inner = self.z[(self.z > low) & (self.z < high)]
        z = np.concatenate([[low], inner, [high]])
        r = np.maximum(np.interp(z, self.z, self.r), 0.0)
        return float((math.pi * np.diff(z) / 3 * (r[:-1] ** 2 + r[:-1] * r[1:] + r[1:] ** 2)).sum()) / 1000


def outside_volume_ml(body: RoundBody, rim: float = 0.0, foot: float = 0.0) -> float:
    """Outside volume in ml, the wall of a cup prolonged by `rim` and `foot` mm along the side beyond the two lines."""
    z, r = body.outside(rim, foot)
    return Hollow(z, r).volume_ml(0.0, float(z[-1]))


def level_volume_ml(body: RoundBody, height: float, wall: float, foot: float = 0.0, floor: float = FLOOR_MM) -> float:
    """Volume in ml to pour so that the level stands at `height` mm along the side above the lower line.

    `integral of pi (r(z) - wall / cos(a))^2 dz` from the inner floor (`floor` mm above the bench), the wall's thickness
    standing square to it.
    """
    z, r, level = body.outside_to(height, foot)
    if min(r) <= 0:
        return 0.0
    z, r = inner_line(z, r, wall)
    return Hollow(z, r).volume_ml(floor, level)


@dataclass(frozen=True, eq=False)
class Contents:
    """What a round blank holds, by the inside of its wall: between its floor and its brim (mm above the bench)."""

    inside: Hollow
    floor: float
    brim: float
    side: tuple[Array, Array]
    """Heights (n,) of the outside, and how far along the side each is from the lower line, mm."""

    @classmethod
    def of(cls, blank: RoundBase, body: RoundBody) -> Contents:
        z, r = body.outside(*blank.beyond)
        along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(z), np.diff(r)))])
        brim = float(z[-1])
        inside = Hollow(*inner_line(z, r, blank.wall_mm))
        return cls(inside, min(FLOOR_MM, brim / 2), brim, (z, along - body.stands(blank.beyond[1])))

    @property
    def brim_ml(self) -> float:
        """What it holds to its brim."""
        return self.volume_ml(self.brim)

    def volume_ml(self, height: float) -> float:
        """What it holds up to a height above the bench."""
        return self.inside.volume_ml(self.floor, height)

    def height_of(self, ml: float) -> float:
        """How high above the bench a volume stands that does not run over."""
        return float(brentq(lambda h: self.volume_ml(h) - ml, self.floor, self.brim, xtol=1e-9))

    def along(self, height: float) -> float:
        """How far along the side a height is, mm from the lower line."""
        return float(np.interp(height, *self.side))


@dataclass(frozen=True)
class LevelFound:
    """Water that stands level: its height upright above the bench and its volume; `volume_ml` is None where the wall
    is double
    and only a gauge or a band tells the height. `brim_ml` is what the blank holds to its brim."""

    height_mm: float
    volume_ml: float | None
    brim_ml: float
    along_mm: float


def find_level(blank: RoundBase, body: RoundBody) -> LevelFound | None:
    """The level asked for, both ways: its volume from its height, or its height from its volume.

    Raises BadReading for a level above the brim, or a volume where the wall is double.
    """
    if blank.level is None:
        return None
    held = Contents.of(blank, body)
    height, brim_ml = blank.level.height_mm, held.brim_ml
    if blank.level.given == "volume":
        wanted = blank.level.volume_ml
        if blank.wall == "double":
            raise BadReading(
                "Water inside a double wall tells nothing of its outside.",
                field="level.given",
                hint="Give the height, and set a gauge or a rubber band to it.",
            )
        if wanted > brim_ml:
            raise BadReading(
                f"{carried(wanted, 'ml')} run over: this blank holds {carried(brim_ml, 'ml')} to its brim.",
                field="level.volume_ml",
                hint=f"Pour less than {carried(brim_ml, 'ml')}.",
            )
        height = held.height_of(wanted)
    elif height > held.brim:
        raise BadReading(
            f"A level at {carried(height)} stands above the rim at {carried(held.brim)}.",
            field="level.height_mm",
            hint="Give its height above the bench, upright.",
        )
    volume = None if blank.wall == "double" else held.volume_ml(height)
    return LevelFound(height, volume, brim_ml, held.along(height))


def round_quantities(blank: object, body: object) -> list[float]:
    """Three to six round quantities (ml) that stand well below the brim; none where a level cannot be told."""
    if not isinstance(blank, RoundBase) or not isinstance(body, RoundBody) or blank.wall == "double":
        return []
    most = FILLED * Contents.of(blank, body).brim_ml
    if most <= 0:
        return []
    tens = 10.0 ** math.floor(math.log10(most))
    step = next((s for s in (0.2 * tens, 0.25 * tens, 0.5 * tens, tens) if most / s < 7), tens)
    return [step * n for n in range(1, int(most / step) + 1)]


def heights_in(blank: object, body: object) -> Callable[[float], float] | None:
    """From a volume (ml) to how high it stands inside, mm along the side from the lower line; None for a blank that
    holds nothing. Raises BadDrawing, where it is asked, if the inside of the wall is not known or the volume runs over.
    """
    if not isinstance(blank, RoundBase) or not isinstance(body, RoundBody):
        return None
    held, double = Contents.of(blank, body), blank.wall == "double"

    def height(ml: float) -> float:
        if double:
            raise BadDrawing(
                "The wall is double: from outside nobody can tell how high a drink stands.",
                field="kind",
                hint="Pour the quantities, mark their levels, and draw lines there.",
            )
        if ml > held.brim_ml:
            raise BadDrawing(
                f"{carried(ml, 'ml')} run over: this blank holds {carried(held.brim_ml, 'ml')} to its brim.",
                field="quantities",
                hint="Take that quantity out.",
            )
        return held.along(held.height_of(ml))

    return height


_SLIPS = (
    (math.pi**2, "the readings round the cup may be diameters: then choose “across”"),
    (1 / math.pi**2, "the readings across the cup may be circumferences: then choose “round”"),
    (4.0, "the readings across the cup may be radii: then double them"),
    (0.25, "the readings across the cup may be doubled"),
    (MM_PER_INCH**3, "the readings may be inches: then type them with “in”"),
    (MM_PER_INCH**-3, "the readings may be millimetres typed as inches"),
)


def capacity_verdict(
    blank: RoundBase, body: RoundBody, reads: set[str], remedies: dict[float, dict[str, object]]
) -> Verdict | None:
    """Judge the outside volume against the stated capacity, or None where none is stated.

    `reads` holds how the ways round were read; `remedies` what to set where a slip of that factor in volume explains
    it.
    """
    if blank.capacity_ml is None:
        return None
    z, r = body.outside(*blank.beyond)
    volume = Hollow(z, r).volume_ml(0.0, float(z[-1]))
    most = MOST_DOUBLE if blank.wall == "double" else MOST_SINGLE
    stated = blank.capacity_ml
    ratio = volume / stated
    figures = {"stated": (stated, "ml")}
    if 1.0 <= ratio <= most:
        return Verdict(
            "measure.capacity",
            "measure",
            "ok",
            volume,
            stated,
            "ml",
            "By its size it holds up to {value}, which goes with the {limit} stated.",
            figures=figures,
        )
    remedy, fixes = "Check the readings, the height and the capacity.", {}
    for factor, slip in _SLIPS:
        if "round the cup" in slip and "circumference" not in reads:
            continue
        if "across the cup" in slip and "diameter" not in reads:
            continue
        if 1.0 <= ratio * factor <= most:
            remedy, fixes = f"{slip[0].upper()}{slip[1:]}.", remedies.get(factor, {})
            break
    limit = stated if ratio < 1 else stated * most
    side = "too little for" if ratio < 1 else "far more than"
    level: Level = "stop" if ratio < 0.8 or ratio > 2 * most else "look"
    return Verdict(
        "measure.capacity",
        "measure",
        level,
        volume,
        limit,
        "ml",
        f"By its size it holds up to {{value}}: {side} the {{stated}} stated.",
        remedy,
        figures,
        field="capacity_ml",
        fixes=fixes,
    )
