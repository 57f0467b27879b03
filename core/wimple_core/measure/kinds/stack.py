"""Straight, tapered and shouldered sections on one axis, from the foot upward."""

from __future__ import annotations

import math

import numpy as np

from ...figures import LengthStyle, format_length
from ...job.turned import StackBlank
from ..body import Frustum, Stacked
from ..drawing import DimensionLine, Sketch
from ..measured import Measured, Readings
from ..turned import radius_from, slant_from
from .side_view import side_sketch
from .starting import read
from .turned import ROUND_WRAPS, TurnedKind


def stack_from(blank: StackBlank, readings: Readings) -> Stacked:
    """The sections of a stack joined into one side line. Raises BadReading where one of them cannot be.

    A tape at a joint lies on the section below, one at the foot on the lowest.
    """
    cosines = [1.0] * (len(blank.sections) + 1)
    parts: list[Frustum] = []
    for _ in range(2):
        tau = blank.tape_thickness_mm
        r, e = radius_from(blank.base, readings["base"], tau * cosines[0], "base")
        radii, errors, s, z, parts = [r], [e], [0.0], [0.0], []
        for i, section in enumerate(blank.sections):
            path = f"sections.{i}"
            upper = readings[f"{path}.upper"]
            r1, e1 = radius_from(section.upper, upper, tau * cosines[i + 1], f"{path}.upper")
            step = math.hypot(e, e1)
            slant, error = slant_from(section.side, readings[f"{path}.side"], r1 - r, step, f"{path}.side")
            part = Frustum(r, r1, slant, e, e1, error)
            parts.append(part)
            s.append(s[-1] + slant)
            z.append(z[-1] + part.upright)
            radii.append(r1)
            errors.append(e1)
            r, e = r1, e1
        cosines = [parts[0].cosine, *(p.cosine for p in parts)]
    return Stacked(np.array(s), np.array(z), np.array(radii), np.array(s), np.array(errors), parts=tuple(parts))


class Stack(TurnedKind[StackBlank]):
    """A bottle: sections, each its own frustum."""

    blank = StackBlank
    wraps = (*ROUND_WRAPS, "joint_overlap_mm")
    starts = {
        "stack": {
            "kind": "stack",
            "name": "Bottle",
            "base": read("circumference", "tape", 210.0),
            "sections": [
                {"name": "body", "upper": read("circumference", "tape", 220.0), "side": read("slant", "ruler", 120.0)},
                {"name": "shoulder", "upper": read("diameter", "calliper", 40.0), "side": read("slant", "ruler", 42.0)},
            ],
        }
    }

    def body(self, blank: StackBlank, readings: Readings) -> Stacked:
        return stack_from(blank, readings)

    def rings(self, blank: StackBlank) -> list[str]:
        return ["base", *(f"sections.{i}.upper" for i in range(len(blank.sections)))]

    def step_at(self, blank: StackBlank, readings: Readings, path: str) -> float:
        i = int(path.split(".")[1])
        rings = self.rings(blank)
        read_as = [blank.base, *(s.upper for s in blank.sections)]
        above, below = (
            radius_from(read_as[n], readings[rings[n]], blank.tape_thickness_mm, rings[n])[0] for n in (i + 1, i)
        )
        return above - below

    def sketch(self, blank: StackBlank, measured: Measured, style: LengthStyle) -> Sketch:
        body = measured.body
        assert isinstance(body, Stacked)
        joints_r, joints_z = body.radii_at(body.joints), body.heights_at(body.joints)
        top = float(body.z[-1])
        dims = []

        def say(mm: float) -> str:
            return format_length(mm, style)

        for i, section in enumerate(blank.sections):
            a, b = (float(joints_r[i]), float(joints_z[i])), (float(joints_r[i + 1]), float(joints_z[i + 1]))
            long = math.hypot(b[0] - a[0], b[1] - a[1])
            normal = ((b[1] - a[1]) / long, -(b[0] - a[0]) / long)
            upright = section.side.reads == "upright"
            text = f"{say(b[1] - a[1])} upright" if upright else f"{say(long)} along the side"
            if long > 0.12 * top:
                dims.append(DimensionLine(f"sections.{i}.side", a, b, text, normal, 1.0))
            else:
                dims.append(
                    DimensionLine(f"sections.{i}.side", ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b, text, leader="right")
                )
        return side_sketch(measured, body, self.rings(blank), dims, style)
