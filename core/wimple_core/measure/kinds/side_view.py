"""The side view of bodies turned on an axis."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from ...figures import LengthStyle, format_length
from ..body import Profile
from ..drawing import DimensionLine, Sketch, Stroke, front_strokes, rings_of
from ..measured import Measured


def side_strokes(m: Measured, body: Profile) -> list[Stroke]:
    """The side view of a turned body: outline, bands, zones, joints, level and what a photograph gave."""
    r, z = body.r, body.z
    outline = np.concatenate([np.column_stack([r, z]), np.column_stack([-r, z])[::-1]])
    strokes = [Stroke("body", (outline,))]
    joints_r, joints_z = body.radii_at(body.joints), np.interp(body.joints, body.s, body.z)
    whole = shapely.Polygon(outline)
    for low, high in ((0.0, m.free.low), (m.free.high, body.length)):
        z0, z1 = body.height_at(low), body.height_at(high)
        if z1 - z0 > 0.01:
            strokes.append(Stroke("zone", rings_of(shapely.intersection(whole, shapely.box(-1e4, z0, 1e4, z1)))))
    strokes += front_strokes(m.free, body)
    strokes.append(
        Stroke("fine", tuple(np.array([[-a, b], [a, b]]) for a, b in zip(joints_r, joints_z, strict=True)), False)
    )
    top = float(z[-1])
    strokes.append(Stroke("centre", (np.array([[0.0, -0.06 * top], [0.0, 1.06 * top]]),), False))
    if m.level is not None:
        at = m.level.height_mm
        half = float(np.interp(at, z, r))
        strokes.append(Stroke("level", (np.array([[-half, at], [half, at]]),), False))
    if m.photo is not None:
        p = m.photo.profile
        strokes.append(Stroke("found", (np.column_stack([p.r, p.z]), np.column_stack([-p.r, p.z])), False))
    return strokes


def side_sketch(
    m: Measured, body: Profile, rings: Sequence[str], sides: Sequence[DimensionLine], style: LengthStyle
) -> Sketch:
    """The side view with the ways round at its joints (`rings` by their path), the dimensions `sides` of its kind, and
    what is free beside a handle."""

    def say(mm: float) -> str:
        return format_length(mm, style)

    joints_r, joints_z = body.radii_at(body.joints), body.heights_at(body.joints)
    top = float(body.z[-1])
    dims = list(sides)
    for i, path in enumerate(rings):
        radius = float(joints_r[i])
        dims.append(
            DimensionLine(
                path,
                (-radius, float(joints_z[i])),
                (radius, float(joints_z[i])),
                f"round {say(2 * math.pi * radius)} · across {say(2 * radius)}",
                leader="left",
            )
        )
    middle = (m.free.low + m.free.high) / 2
    if "handle.free_width" in m.readings:
        beside = (body.radius_at(middle) * 0.5, body.height_at(middle) + 0.03 * top)
        text = f"{say(m.readings['handle.free_width'].mean)} free beside the handle"
        dims.append(DimensionLine("handle.free_width", beside, (0, 0), text, leader="right"))
    if "handle.free_height" in m.readings:
        beside = (body.radius_at(m.free.high) * 0.5, body.height_at(m.free.high))
        dims.append(
            DimensionLine(
                "handle.free_height",
                beside,
                (0, 0),
                f"{say(m.readings['handle.free_height'].mean)} free up to here",
                leader="right",
            )
        )
    widest = body.widest
    dims.append(DimensionLine("", (-widest, 0.0), (widest, 0.0), f"widest {say(2 * widest)}", (0.0, -1.0), 1.0))
    return Sketch("Side view", tuple(side_strokes(m, body)), tuple(dims), reach=(-widest, 0.0, widest, top))
