"""Any body turned on an axis, by its girths at several heights."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from scipy.interpolate import CubicSpline

from ...arrays import Array
from ...errors import BadReading
from ...figures import LengthStyle, carried, format_length
from ...job.turned import RevolutionBlank
from ..bodies import RoundBody
from ..body import Profile
from ..drawing import DimensionLine, Sketch
from ..measured import Measured, Readings
from ..turned import LONGEST_SLANT_MM, radius_from
from .offers import rings_off
from .side_view import side_sketch
from .starting import read
from .turned import ROUND_WRAPS, TurnedKind

RINGS_OFF_PHOTO = (7, 13)
RING_ABOVE_MM = 10.0
PROFILE_POINTS = 400
"""Places on a curved side line: on a mug some 0.3 mm apart, where its chord leaves it by less than a thousandth."""
_PROPAGATED_POINTS = 120
"""A side line is drawn coarser where it is built once for every reading."""


def revolution_from(blank: RevolutionBlank, readings: Readings) -> Profile:
    """A body by its girths at several heights: a cubic spline through them (not-a-knot; through three, one parabola).

    Raises BadReading where heights do not grow, or where the side line between them would cross the axis or itself.
    """
    foot = readings["rings.0.height"].mean
    if foot < 0:
        raise BadReading(
            f"The lowest ring stands {carried(-foot)} below the bench.",
            field="rings.0.height.readings.0",
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
                field=f"{path}.height.readings.0",
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
            field=f"rings.{min(between, len(z) - 1)}.girth.readings.0",
            hint="Check those two girths, or read one more between them.",
        )
    if profile.length > LONGEST_SLANT_MM:
        raise BadReading(
            f"A side of {carried(profile.length)} is longer than any cup's.",
            field="rings.0.height.readings.0",
            hint="Check the unit of the heights.",
        )
    return profile


def ring_radii(blank: RevolutionBlank, readings: Readings, cosines: Array) -> tuple[Array, Array]:
    """Radii and their standard errors (n,) at the rings of a body whose wall leans there by angles of those cosines."""
    found = [
        radius_from(ring.girth, readings[f"rings.{i}.girth"], blank.tape_thickness_mm * c, f"rings.{i}.girth")
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


class Revolution(TurnedKind[RevolutionBlank]):
    """A bellied body: a spline through its rings."""

    blank = RevolutionBlank
    wraps = (*ROUND_WRAPS, "relief")
    reliefs = ("none", "slits", "gores")
    edges = ("lower", "upper")
    starts = {
        "revolution": {
            "kind": "revolution",
            "name": "Bellied mug",
            "rings": [
                {"height": read("upright", "ruler", h), "girth": read("diameter", "calliper", d)}
                for h, d in ((1.0, 64.0), (30.0, 82.0), (60.0, 84.0), (92.0, 74.0))
            ],
        }
    }

    def body(self, blank: RevolutionBlank, readings: Readings) -> Profile:
        return revolution_from(blank, readings)

    def rings(self, blank: RevolutionBlank) -> list[str]:
        return [f"rings.{i}.girth" for i in range(len(blank.rings))]

    def again_and_again(self, blank: RevolutionBlank, readings: Readings) -> Callable[[Readings], RoundBody]:
        """The body from readings, over and over: radii of rings are straight in their readings, so only that line is
        kept."""
        n = len(blank.rings)
        girths, heights = [f"rings.{i}.girth" for i in range(n)], [f"rings.{i}.height" for i in range(n)]
        scale = np.array([0.5 if ring.girth.reads == "diameter" else 1 / (2 * math.pi) for ring in blank.rings])
        # Where the tape leans with the wall its share is taken as it is on the body as read.
        nominal = revolution_from(blank, readings)
        offset = nominal.radii_at(nominal.joints) - scale * np.array([readings[p].mean for p in girths])
        none = np.zeros(n)

        def build(r: Readings) -> RoundBody:
            z = np.array([r[p].mean for p in heights])
            return spline_profile(
                z - z[0], scale * np.array([r[p].mean for p in girths]) + offset, none, _PROPAGATED_POINTS
            )

        return build

    def offers(self, blank: RevolutionBlank, measured: Measured) -> dict[str, Any]:
        out = super().offers(blank, measured)
        if measured.photo is not None:
            for count in RINGS_OFF_PHOTO:
                out[f"rings.{count}"] = rings_off(measured.photo, count)
        highest = measured.readings[f"rings.{len(blank.rings) - 1}.height"].mean
        ring = blank.rings[-1].model_dump(mode="json")
        ring["height"]["readings"] = [round(highest + RING_ABOVE_MM, 1)]
        return {**out, "rings.above": ring}

    def sketch(self, blank: RevolutionBlank, measured: Measured, style: LengthStyle) -> Sketch:
        body = measured.body
        assert isinstance(body, Profile)
        r, z = body.radii_at(body.joints), body.heights_at(body.joints)
        heights = [
            DimensionLine(
                f"rings.{i}.height",
                (float(r[i]), float(z[i])),
                (0, 0),
                f"{format_length(measured.readings[f'rings.{i}.height'].mean, style)} up",
                leader="right",
            )
            for i in range(len(r))
        ]
        return side_sketch(measured, body, self.rings(blank), heights, style)
