"""Bodies as measured: a frustum (straight or tapered) and a flat panel, each with its spread."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import BadReading
from ..job.document import CupBlank, Dimension, PanelBlank
from .readings import Reading, read_dimension

LONGEST_SLANT_MM = 5000.0


@dataclass(frozen=True)
class Frustum:
    """A straight or tapered wall between a lower and an upper line.

    Radii and slant in mm with their standard errors; `k` is the sine of the half apex angle, positive where the
    wall widens upward.
    """

    radius_lower: float
    radius_upper: float
    slant: float
    error_lower: float = 0.0
    error_upper: float = 0.0
    error_slant: float = 0.0

    @property
    def k(self) -> float:
        return (self.radius_upper - self.radius_lower) / self.slant

    @property
    def error_k(self) -> float:
        """Standard error of `k`, to first order (JCGM 100:2008, 5.1.2)."""
        return math.hypot(self.error_lower, self.error_upper, self.k * self.error_slant) / self.slant

    @property
    def upright(self) -> float:
        """Height between the two lines, along the axis."""
        return math.sqrt(self.slant**2 - (self.radius_upper - self.radius_lower) ** 2)

    def radius_at(self, s: float) -> float:
        """Radius at distance `s` along the side above the lower line."""
        return self.radius_lower + self.k * s

    def thickened(self, by: float) -> Frustum:
        """The same wall with both radii larger by `by`: where the middle of a film on it lies."""
        return Frustum(self.radius_lower + by, self.radius_upper + by, self.slant,
                       self.error_lower, self.error_upper, self.error_slant)  # fmt: skip


@dataclass(frozen=True)
class Panel:
    """A flat rectangle, mm."""

    width: float
    height: float
    error_width: float = 0.0
    error_height: float = 0.0


Body = Frustum | Panel


def radius_from(dimension: Dimension, reading: Reading, tape_thickness: float, field: str) -> tuple[float, float]:
    """Radius and its standard error from a circumference (`r = C / 2 pi - tau / 2`) or a diameter (`r = D / 2`).

    Raises BadReading where the tape leaves nothing of the radius.
    """
    if dimension.reads == "diameter":
        return reading.mean / 2, reading.error / 2
    if dimension.reads != "circumference":
        raise BadReading(f"A {dimension.reads} says nothing of how far it is round.", field=f"{field}.reads",
                         hint="Give a circumference or a diameter.")  # fmt: skip
    tau = tape_thickness if dimension.instrument == "tape" else 0.0
    radius = reading.mean / (2 * math.pi) - tau / 2
    if radius <= tau / 2:
        raise BadReading(
            f"A circumference of {reading.mean:.2f} mm taken with a tape {tau:g} mm thick leaves no cup inside the tape.",
            field=field,
            hint=f"Measure again: it must be well over {2 * math.pi * tau:.1f} mm, or the tape is thinner.",
        )
    return radius, reading.error / (2 * math.pi)


def frustum_from(blank: CupBlank) -> Frustum:
    """The measured wall of a cup. Raises BadReading where no wall can have those readings."""
    r1, e1 = radius_from(blank.upper, read_dimension(blank.upper), blank.tape_thickness_mm, "blank.upper.readings.0")
    r0, e0 = radius_from(blank.lower, read_dimension(blank.lower), blank.tape_thickness_mm, "blank.lower.readings.0")
    side = read_dimension(blank.side)
    step = r1 - r0
    if blank.side.reads == "upright":
        slant = math.hypot(side.mean, step)
        error = math.hypot(side.mean * side.error, step * math.hypot(e0, e1)) / slant
    elif blank.side.reads == "slant":
        slant, error = side.mean, side.error
        if slant <= abs(step) * (1 + 1e-9):
            raise BadReading(
                f"{slant:.1f} mm along the side is not longer than the step of {abs(step):.1f} mm between the two radii: "
                "no wall can join them.",
                field="blank.side.readings.0",
                hint="Measure along the side again, and check that round and across were not mixed up.",
            )
    else:
        raise BadReading(f"A {blank.side.reads} says nothing of the side.", field="blank.side.reads",
                         hint="Give the distance along the side (slant) or upright.")  # fmt: skip
    if slant > LONGEST_SLANT_MM:
        raise BadReading(f"A side of {slant:.0f} mm is longer than any cup's.", field="blank.side.readings.0",
                         hint="Check the unit of the distance along the side.")  # fmt: skip
    return Frustum(r0, r1, slant, e0, e1, error)


def panel_from(blank: PanelBlank) -> Panel:
    """The measured rectangle of a flat panel."""
    width, height = read_dimension(blank.width), read_dimension(blank.height)
    return Panel(width.mean, height.mean, width.error, height.error)
