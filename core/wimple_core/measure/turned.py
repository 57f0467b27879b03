"""From readings to bodies turned on an axis: cups, stacks of sections, bellied bodies, domes."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from scipy.interpolate import CubicSpline

from ..errors import BadReading
from ..figures import carried
from ..job.blanks import CupBlank, DomeBlank, RevolutionBlank, StackBlank
from ..job.dimension import Check, Dimension
from .body import Array, Cap, Frustum, Profile
from .readings import Reading

LONGEST_SLANT_MM = 5000.0
PROFILE_POINTS = 400
"""Places on a curved side line: on a mug some 0.3 mm apart, where its chord leaves it by less than a thousandth."""
Readings = Mapping[str, Reading]


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


def frustum_from(blank: CupBlank, readings: Readings) -> Frustum:
    """The measured wall of a cup. Raises BadReading where no wall can have those readings.

    After a trial fit `C_true = C_template + g` at each edge, the gap g by the ruler's own spread; the side stays as
    read.
    """
    if blank.trials:
        n = len(blank.trials) - 1
        radii = []
        for edge in ("top_mm", "bottom_mm"):
            r = readings[f"trials.{n}.{edge}"]
            template = getattr(blank.trials[-1], f"template_{edge}")
            if template + r.mean <= 0:
                raise BadReading(
                    f"An overlap of {carried(-r.mean)} leaves nothing of a template of {carried(template)}.",
                    field=f"blank.trials.{n}.{edge}",
                    hint="Type the gap; an overlap is negative and a few mm at most.",
                )
            radii.append(((template + r.mean) / (2 * math.pi), r.error / (2 * math.pi)))
        (r1, e1), (r0, e0) = radii
    else:
        (r1, e1), (r0, e0) = _ends(blank, readings, 1.0)
        slant, _ = slant_from(blank.side, readings["side"], r1 - r0, math.hypot(e0, e1), "blank.side")
        (r1, e1), (r0, e0) = _ends(blank, readings, Frustum(r0, r1, slant).cosine)
    slant, error = slant_from(blank.side, readings["side"], r1 - r0, math.hypot(e0, e1), "blank.side")
    return Frustum(r0, r1, slant, e0, e1, error)


def _ends(blank: CupBlank, readings: Readings, cosine: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """Upper and lower radius of a cup whose wall leans so that the tape stands out by that share of its thickness."""
    tau = blank.tape_thickness_mm * cosine
    return (
        radius_from(blank.upper, readings["upper"], tau, "blank.upper"),
        radius_from(blank.lower, readings["lower"], tau, "blank.lower"),
    )


def stack_from(blank: StackBlank, readings: Readings) -> Profile:
    """The sections of a stack joined into one side line. Raises BadReading where one of them cannot be.

    A tape at a joint lies on the section below, one at the foot on the lowest.
    """
    cosines = [1.0] * (len(blank.sections) + 1)
    parts: list[Frustum] = []
    for _ in range(2):
        tau = blank.tape_thickness_mm
        r, e = radius_from(blank.base, readings["base"], tau * cosines[0], "blank.base")
        radii, errors, s, z, parts = [r], [e], [0.0], [0.0], []
        for i, section in enumerate(blank.sections):
            path = f"sections.{i}"
            upper = readings[f"{path}.upper"]
            r1, e1 = radius_from(section.upper, upper, tau * cosines[i + 1], f"blank.{path}.upper")
            step = math.hypot(e, e1)
            slant, error = slant_from(section.side, readings[f"{path}.side"], r1 - r, step, f"blank.{path}.side")
            part = Frustum(r, r1, slant, e, e1, error)
            parts.append(part)
            s.append(s[-1] + slant)
            z.append(z[-1] + part.upright)
            radii.append(r1)
            errors.append(e1)
            r, e = r1, e1
        cosines = [parts[0].cosine, *(p.cosine for p in parts)]
    return Profile(np.array(s), np.array(z), np.array(radii), np.array(s), np.array(errors), tuple(parts))


def revolution_from(blank: RevolutionBlank, readings: Readings) -> Profile:
    """A body by its girths at several heights: a cubic spline through them (not-a-knot; through three, one parabola).

    Raises BadReading where heights do not grow, or where the side line between them would cross the axis or itself.
    """
    foot = readings["rings.0.height"].mean
    if foot < 0:
        raise BadReading(
            f"The lowest ring stands {carried(-foot)} below the bench.",
            field="blank.rings.0.height.readings.0",
            hint="Give heights above the bench, from the foot upward.",
        )
    z: list[float] = []
    for i in range(len(blank.rings)):
        path = f"rings.{i}"
        height = readings[f"{path}.height"].mean - foot
        if z and height <= z[-1] + 1e-6:
            raise BadReading(
                f"Ring {i + 1} stands {carried(height + foot)} up, not above the one before it at"
                f" {carried(z[-1] + foot)}: the side line would cross itself.",
                field=f"blank.{path}.height.readings.0",
                hint="Give the rings from the foot upward, each with its own height.",
            )
        z.append(height)
    r, e = ring_radii(blank, readings, np.ones(len(z)))
    # The tape stands square to the wall: its lean is read off the side line it gives at first.
    lean = CubicSpline(np.array(z), r)(np.array(z), 1)
    r, e = ring_radii(blank, readings, 1 / np.sqrt(1 + lean**2))
    profile = replace(spline_profile(np.array(z), r, e), foot=foot)
    low = int(np.argmin(profile.r))
    if profile.r[low] <= 0.05 * r.max() and profile.r[low] < r.min() * 0.5:
        between = int(np.searchsorted(z, profile.z[low]))
        raise BadReading(
            f"Between ring {between} and ring {between + 1} the side line would fall to {carried(profile.r[low])} from"
            " the axis.",
            field=f"blank.rings.{min(between, len(z) - 1)}.girth.readings.0",
            hint="Check those two girths, or read one more between them.",
        )
    if profile.length > LONGEST_SLANT_MM:
        raise BadReading(
            f"A side of {carried(profile.length)} is longer than any cup's.",
            field="blank.rings.0.height.readings.0",
            hint="Check the unit of the heights.",
        )
    return profile


def ring_radii(blank: RevolutionBlank, readings: Readings, cosines: Array) -> tuple[Array, Array]:
    """Radii and their standard errors (n,) at the rings of a body whose wall leans there by angles of those cosines."""
    found = [
        radius_from(ring.girth, readings[f"rings.{i}.girth"], blank.tape_thickness_mm * c, f"blank.rings.{i}.girth")
        for i, (ring, c) in enumerate(zip(blank.rings, cosines.tolist(), strict=True))
    ]
    return np.array([r for r, _ in found]), np.array([e for _, e in found])


def spline_profile(z: Array, r: Array, errors: Array, points: int = PROFILE_POINTS) -> Profile:
    """The side line through radii `r` at growing heights `z` from 0 (n,): a cubic spline, drawn at `points` places
    and the rings."""
    zs = np.sort(np.concatenate([np.linspace(0.0, z[-1], points)[1:-1], z]))
    zs = zs[np.concatenate([[True], np.diff(zs) > 1e-9 * z[-1]])]
    rs = CubicSpline(z, r)(zs)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(zs), np.diff(rs)))])
    return Profile(s, zs, rs, np.interp(z, zs, s), errors)


def cap_from(blank: DomeBlank, readings: Readings) -> Cap:
    """A dome by the way round its rim and its rise: `R = a^2 / (2 h) + h / 2` with the rim's radius a.

    Raises BadReading for more than half a ball, whose rim is not its widest place.
    """
    a, e = radius_from(blank.base, readings["base"], blank.tape_thickness_mm, "blank.base")
    h, eh = readings["rise"].mean, readings["rise"].error
    if h > a * (1 + 1e-9):
        raise BadReading(
            f"A rise of {carried(h)} over a rim of radius {carried(a)} is more than half a ball.",
            field="blank.rise.readings.0",
            hint=f"It is at most {carried(a)}; a deeper body is a turned one: give its girths at several heights.",
        )
    radius = a * a / (2 * h) + h / 2
    error = math.hypot(a / h * e, (0.5 - a * a / (2 * h * h)) * eh)
    return Cap(radius, a, h, error, e, eh)
