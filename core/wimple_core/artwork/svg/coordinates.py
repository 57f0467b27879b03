"""Lengths, transforms and viewports of SVG."""

from __future__ import annotations

import math
import re
from functools import lru_cache

from ...figures import MM_PER_INCH

PX_PER_INCH = 96.0
MM_PER_PX = MM_PER_INCH / PX_PER_INCH

Affine = tuple[float, float, float, float, float, float]
"""x' = a x + c y + e, y' = b x + d y + f."""
IDENTITY: Affine = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)

_LENGTH = re.compile(r"\s*+([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*+(%|[a-zA-Z]*+)\s*+$")
_PX = {
    "": 1.0,
    "px": 1.0,
    "pt": 4 / 3,
    "pc": 16.0,
    "mm": PX_PER_INCH / MM_PER_INCH,
    "cm": PX_PER_INCH / 2.54,
    "in": PX_PER_INCH,
    "q": PX_PER_INCH / 101.6,
}
_CALL = re.compile(r"([a-zA-Z]++)\s*+\(([^()]*+)\)")
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")


def read_px(text: str | None, reference: float, font_size: float = 16.0) -> float | None:
    """A length in user units (px), percentages of `reference`; None where it is not one."""
    if text is None:
        return None
    found = _LENGTH.match(text)
    if not found:
        return None
    value, unit = float(found.group(1)), found.group(2).lower()
    if unit == "%":
        return value / 100 * reference
    if unit == "em":
        return value * font_size
    if unit in ("ex", "ch"):
        return value * font_size / 2
    return value * _PX[unit] if unit in _PX and math.isfinite(value) else None


def multiply(m: Affine, n: Affine) -> Affine:
    """First `n`, then `m`."""
    return (
        m[0] * n[0] + m[2] * n[1],
        m[1] * n[0] + m[3] * n[1],
        m[0] * n[2] + m[2] * n[3],
        m[1] * n[2] + m[3] * n[3],
        m[0] * n[4] + m[2] * n[5] + m[4],
        m[1] * n[4] + m[3] * n[5] + m[5],
    )


def _one(name: str, v: list[float]) -> Affine | None:
    if name == "matrix" and len(v) == 6:
        return v[0], v[1], v[2], v[3], v[4], v[5]
    if name == "translate" and len(v) in (1, 2):
        return 1.0, 0.0, 0.0, 1.0, v[0], v[1] if len(v) == 2 else 0.0
    if name == "scale" and len(v) in (1, 2):
        return v[0], 0.0, 0.0, v[-1], 0.0, 0.0
    if name == "rotate" and len(v) in (1, 3):
        c, s = math.cos(math.radians(v[0])), math.sin(math.radians(v[0]))
        x, y = (v[1], v[2]) if len(v) == 3 else (0.0, 0.0)
        return c, s, -s, c, x - c * x + s * y, y - s * x - c * y
    if name == "skewX" and len(v) == 1:
        return 1.0, 0.0, math.tan(math.radians(v[0])), 1.0, 0.0, 0.0
    if name == "skewY" and len(v) == 1:
        return 1.0, math.tan(math.radians(v[0])), 0.0, 1.0, 0.0, 0.0
    return None


def read_transform(text: str | None) -> Affine | None:
    """A transform list; None where it is damaged."""
    if not text or text.strip() == "none":
        return IDENTITY
    out, rest = IDENTITY, _CALL.sub("", text)
    if rest.strip(" ,\t\r\n"):
        return None
    for name, inside in _CALL.findall(text):
        inside = re.sub(r"(deg|px)\b", "", inside)
        if _NUMBER.sub("", inside).strip(" ,\t\r\n"):
            return None
        m = _one(name, [float(x) for x in _NUMBER.findall(inside)])
        if m is None or not all(map(math.isfinite, m)):
            return None
        out = multiply(out, m)
    return out


@lru_cache(maxsize=1024)
def largest_scale(m: Affine) -> float:
    """The largest factor by which the transform lengthens anything."""
    a, b, c, d = m[0], m[1], m[2], m[3]
    one, other = a * a + b * b, c * c + d * d
    return math.sqrt((one + other + math.hypot(one - other, 2 * (a * c + b * d))) / 2)


def fit_view_box(
    view_box: tuple[float, float, float, float], x: float, y: float, w: float, h: float, aspect: str | None
) -> Affine:
    """From a view box into the rectangle (x, y, w, h), by `preserveAspectRatio` (SVG 2, 8.6)."""
    vx, vy, vw, vh = view_box
    sx, sy = w / vw, h / vh
    words = (aspect or "xMidYMid meet").split()
    align = words[0] if words and words[0] != "defer" else "xMidYMid"
    if align != "none":
        sx = sy = max(sx, sy) if "slice" in words else min(sx, sy)
    share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    ax, ay = share.get(align[1:4], 0.5), share.get(align[5:8], 0.5)
    tx = x - vx * sx + ((w - vw * sx) * ax if align != "none" else 0.0)
    ty = y - vy * sy + ((h - vh * sy) * ay if align != "none" else 0.0)
    return sx, 0.0, 0.0, sy, tx, ty


def read_view_box(text: str | None) -> tuple[float, float, float, float] | None:
    """Four numbers with a positive width and height, or None."""
    if not text:
        return None
    n = [float(v) for v in _NUMBER.findall(text)]
    if len(n) != 4 or n[2] <= 0 or n[3] <= 0 or "nan" in text.lower():
        return None
    return n[0], n[1], n[2], n[3]
