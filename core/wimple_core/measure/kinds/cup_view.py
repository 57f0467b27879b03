"""The side view of a cup, to scale, its dimensions tied to their fields."""

from __future__ import annotations

import math

import numpy as np

from ...arrays import Array
from ...figures import LengthStyle, format_length
from ...job.turned import CupBlank
from ..body import Frustum
from ..drawing import DimensionLine, Place, Sketch, Stroke, front_strokes
from ..free import READABLE_HALF_ANGLE
from ..measured import Measured
from ..taper import readable_width

HANDLE_SEEN = 2.5
"""A handle further round than that (rad) is hidden by the cup."""


def _slab(body: Frustum, low: float, high: float, share: float = 1.0) -> Array:
    """The wall between two places along the side as it is seen, or the middle share of it."""
    s = np.array([low, high])
    r, z = share * body.radii_at(s), body.heights_at(s)
    return np.array([[-r[0], z[0]], [r[0], z[0]], [r[1], z[1]], [-r[1], z[1]]])


def _handle(body: Frustum, m: Measured) -> Stroke | None:
    """The handle beside the wall, where it is seen from the front."""
    angle = m.free.handle
    if angle is None or abs(angle) >= HANDLE_SEEN:
        return None
    sign = 1.0 if angle > 0 else -1.0
    low, high = (m.free.low + (m.free.high - m.free.low) * share for share in (0.15, 0.85))
    wide = body.widest
    t = np.linspace(0, 1, 33)[:, None]
    lines = []
    for reach, inset in ((0.75, 0.0), (0.56, 0.16)):
        top = np.array([sign * body.radius_at(high), float(body.heights_at(np.array(high))) - inset * wide])
        foot = np.array([sign * body.radius_at(low), float(body.heights_at(np.array(low))) + inset * wide])
        out = np.array([sign * reach * wide, 0.0])
        lines.append(
            (1 - t) ** 3 * top + 3 * (1 - t) ** 2 * t * (top + out) + 3 * (1 - t) * t**2 * (foot + out) + t**3 * foot
        )
    return Stroke("edge", tuple(lines), False)


def _strokes(blank: CupBlank, m: Measured, body: Frustum, foot: float, rim: float) -> list[Stroke]:
    free, share = m.free, math.sin(READABLE_HALF_ANGLE)
    bands = [
        _slab(body, max(rim - blank.lip_band_mm, foot), rim),
        _slab(body, foot, min(foot + blank.base_band_mm, rim)),
    ]
    at_lines = [
        np.array([[-body.radius_at(s), z], [body.radius_at(s), z]]) for s, z in _levels(body, (0.0, body.slant))
    ]
    handle = _handle(body, m)
    out = [handle] if handle else []
    out += [
        Stroke("body", (_slab(body, foot, rim),)),
        Stroke("free", (_slab(body, free.low, free.high, share),)),
        Stroke("zone", tuple(b for b in bands if abs(b[2, 1] - b[0, 1]) > 0.01)),
        *front_strokes(free, body),
        Stroke("section", tuple(at_lines), False),
        Stroke("centre", (np.array([[0.0, _up(body, foot) - 6], [0.0, _up(body, rim) + 6]]),), False),
    ]
    if m.photo is not None:
        p, up = m.photo.profile, _up(body, foot)
        out.append(Stroke("found", tuple(np.column_stack([sign * p.r[::4], p.z[::4] + up]) for sign in (1, -1)), False))
    if m.level is not None:
        (_, z), r = _levels(body, (m.level.along_mm,))[0], body.radius_at(m.level.along_mm)
        out.append(Stroke("level", (np.array([[-r, z], [r, z]]),), False))
    return out


def _up(body: Frustum, s: float) -> float:
    return float(body.heights_at(np.array(s)))


def _levels(body: Frustum, places: tuple[float, ...]) -> list[tuple[float, float]]:
    return [(s, _up(body, s)) for s in places]


def _dimensions(
    blank: CupBlank, m: Measured, body: Frustum, foot: float, rim: float, style: LengthStyle
) -> list[DimensionLine]:
    def say(mm: float) -> str:
        return format_length(mm, style)

    def at(s: float, sign: float = 1.0) -> Place:
        return sign * body.radius_at(s), _up(body, s)

    free, upright = m.free, body.upright
    lean = body.k
    beside: Place = (upright / body.slant, -lean)
    handle_right = free.handle is not None and 0 < free.handle < HANDLE_SEEN
    handle_left = free.handle is not None and -HANDLE_SEEN < free.handle < 0
    side_sign = -1.0 if handle_right else 1.0
    left = -body.widest * (1.62 if handle_left else 1.0)
    right = body.widest * (1.62 if handle_right else 1.0)
    up_x = right if side_sign < 0 else left
    up_out: Place = (1.0, 0.0) if side_sign < 0 else (-1.0, 0.0)
    rings = [(body.slant, "upper", (0.0, 1.0)), (0.0, "lower", (0.0, -1.0))]
    dims = [
        DimensionLine(
            path,
            at(s, -1.0),
            at(s),
            f"round {say(2 * math.pi * body.radius_at(s))} · across {say(2 * body.radius_at(s))}",
            out,
            1.0,
        )
        for s, path, out in rings
    ]
    dims += [
        DimensionLine(
            "side",
            at(0.0, side_sign),
            at(body.slant, side_sign),
            f"{say(body.slant)} along the side",
            (side_sign * beside[0], beside[1]),
            1.0,
        ),
        DimensionLine("", (up_x, 0.0), (up_x, upright), f"{say(upright)} upright", up_out, 1.0),
        DimensionLine(
            "",
            at(free.high, -math.sin(READABLE_HALF_ANGLE)),
            at(free.high, math.sin(READABLE_HALF_ANGLE)),
            f"readable {say(readable_width(body, free.high))} round",
            (0.0, -1.0),
            0.45,
        ),
    ]
    for field, low, high, name in (
        ("lip_band_mm", rim - blank.lip_band_mm, rim, "lip"),
        ("base_band_mm", foot, foot + blank.base_band_mm, "base"),
    ):
        if high - low > 0:
            dims.append(
                DimensionLine(
                    field, (up_x, _up(body, low)), (up_x, _up(body, high)), f"{name} {say(high - low)}", up_out, 1.7
                )
            )
    middle = free.low + (free.high - free.low) * 0.42
    if "handle.free_width" in m.readings:
        text = f"{say(m.readings['handle.free_width'].mean)} free beside the handle"
        dims.append(DimensionLine("handle.free_width", at(middle, -1.0), at(middle), text))
    if "handle.free_height" in m.readings:
        x = 0.62 * min(body.radius_lower, body.radius_upper)
        text = f"{say(m.readings['handle.free_height'].mean)} free"
        dims.append(DimensionLine("handle.free_height", (x, _up(body, free.low)), (x, _up(body, free.high)), text))
    return dims


def cup_sketch(blank: CupBlank, m: Measured, body: Frustum, style: LengthStyle) -> Sketch:
    """The cup from its foot to its rim, bands and free area on it."""
    foot, rim = -blank.foot_mm, body.slant + blank.rim_mm
    strokes = _strokes(blank, m, body, foot, rim)
    reach = np.concatenate([line for s in strokes if s.kind in ("body", "edge") for line in s.lines])
    low, high = reach.min(axis=0), reach.max(axis=0)
    return Sketch(
        "Side view",
        tuple(strokes),
        tuple(_dimensions(blank, m, body, foot, rim, style)),
        note="water stands at the dotted line" if m.level else "",
        reach=(float(low[0]), float(low[1]), float(high[0]), float(high[1])),
    )
