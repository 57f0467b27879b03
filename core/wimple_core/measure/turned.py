"""From readings to radii and lengths along the side of bodies turned on an axis."""

from __future__ import annotations

import math

from ..errors import BadReading
from ..figures import carried
from ..job.dimension import Check, Dimension
from .readings import Reading

LONGEST_SLANT_MM = 5000.0


def radius_from(
    dimension: Dimension | Check, reading: Reading, tape_thickness: float, field: str
) -> tuple[float, float]:
    """Radius and its standard error from a circumference (`r = C / 2 pi - tau / 2`) or a diameter (`r = D / 2`).

    `tape_thickness` is what the tape's stands outward by: on a wall that leans its thickness times the lean's cosine.
    Raises BadReading where the tape leaves nothing of the radius.
    """
    if dimension.reads == "diameter":
        return reading.mean / 2, reading.error / 2
    if dimension.reads != "circumference":
        raise BadReading(
            f"A {dimension.reads} says nothing of how far it is round.",
            field=f"{field}.reads",
            hint="Give a circumference or a diameter.",
        )
    tau = tape_thickness if dimension.instrument == "tape" else 0.0
    radius = reading.mean / (2 * math.pi) - tau / 2
    if radius <= tau / 2:
        raise BadReading(
            f"A circumference of {carried(reading.mean)} taken with a tape {carried(tau)} thick leaves no cup inside"
            " the tape.",
            field=f"{field}.readings.0",
            hint=f"Measure again: it must be well over {carried(2 * math.pi * tau)}, or the tape is thinner.",
        )
    return radius, reading.error / (2 * math.pi)


def slant_from(
    side: Dimension | Check, reading: Reading, step: float, error_step: float, field: str
) -> tuple[float, float]:
    """Length along the side and its error, from a slant or from an upright height (`L = sqrt(H^2 + (r1 - r0)^2)`).

    Raises BadReading where no wall can join the two lines.
    """
    if side.reads == "upright":
        slant = math.hypot(reading.mean, step)
        error = math.hypot(reading.mean * reading.error, step * error_step) / slant
    elif side.reads == "slant":
        slant, error = reading.mean, reading.error
        if slant <= abs(step) * (1 + 1e-9):
            raise BadReading(
                f"{carried(slant)} along the side is not longer than the step of {carried(abs(step))} between the two"
                " radii: no wall can join them.",
                field=f"{field}.readings.0",
                hint="Measure along the side again, and check that round and across were not mixed up.",
            )
    else:
        raise BadReading(
            f"A {side.reads} says nothing of the side.",
            field=f"{field}.reads",
            hint="Give the distance along the side (slant) or upright.",
        )
    if slant > LONGEST_SLANT_MM:
        raise BadReading(
            f"A side of {carried(slant)} is longer than any cup's.",
            field=f"{field}.readings.0",
            hint="Check the unit of the distance along the side.",
        )
    return slant, error
