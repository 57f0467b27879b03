"""The four ways to lay a flat drawing on a tapered wall.

A point `(u, v)` of the drawing, mm from its middle, is placed at `(a_c, s_c)` where one unit of angle is `r_c` mm:

    level      a = a_c + u / r_c       s = s_c + v                               horizontals level, verticals upright
    even       a = a_c + u / r(s)      s = s_c + v                               widths true at every height
    conformal  a = a_c + u / r_c       s = s_c + (r_c / k) expm1(k v / r_c)      every angle kept
    flat       laid rigidly into the template at the point, turned by k a_c      no distortion
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..errors import DoesNotFit
from ..figures import carried
from ..job.document import Way
from ..surface import Surface

WAYS: tuple[Way, ...] = ("level", "conformal", "even", "flat")
CHORD_TOLERANCE_MM = 0.01


def lay(u: Array, v: Array, way: Way, surface: Surface, a_c: float, s_c: float) -> tuple[Array, Array]:
    """Points of a drawing on the template: `u`, `v` (n,) mm to `x`, `y` (n,) mm.

    Raises DoesNotFit where a point would lie beyond the tip of the cone.
    """
    r_c, k = surface.scale_at(s_c), surface.k
    if r_c <= 0:
        raise DoesNotFit(
            f"At {carried(s_c)} up the wall has come to a point.", field="up_mm", hint="Place the drawing on the cup."
        )
    if way == "flat":
        x0, y0 = surface.develop(np.array([a_c]), np.array([s_c]))
        cos, sin = math.cos(k * a_c), math.sin(k * a_c)
        return x0 + u * cos + v * sin, y0 - u * sin + v * cos
    if way == "conformal" and k:
        s = s_c + r_c / k * np.expm1(k * v / r_c)
    else:
        s = s_c + v
    r = r_c + k * (s - s_c)
    if np.any(r <= 1e-6):
        raise DoesNotFit(
            "The drawing reaches beyond the point in which the cone ends.",
            field="width_mm",
            hint="Make it smaller, or place it nearer the wide end.",
        )
    a = a_c + u / (r if way == "even" else r_c)
    return surface.develop(a, s)


def longest_edge(surface: Surface, low: float, high: float, way: Way) -> float:
    """Longest edge (mm) that may be mapped by its ends alone: its image is a curve of at most `2 |k| / r`, and a
    chord of length `l` leaves a curve of curvature `c` by `c l^2 / 8`."""
    if surface.k == 0 or way == "flat":
        return math.inf
    narrow = max(min(surface.scale_at(low), surface.scale_at(high)), 1.0)
    return math.sqrt(8 * CHORD_TOLERANCE_MM / (2 * abs(surface.k) / narrow))


@dataclass(frozen=True)
class WayFigures:
    """What one way costs on one drawing: sag and width change mm, size change and lean in per cent and rad."""

    way: Way
    sag: float
    width_change: float
    width_change_percent: float
    lean: float


def figures_for(way: Way, surface: Surface, s_c: float, half_width: float, half_height: float) -> WayFigures:
    """Sag, width change and lean of a drawing of that half size, laid `way`.

    Sag `k w^2 / (2 r_c)`; width of level at the far edge `k h / r_c`; size of conformal `expm1(k h / r_c)`; lean of
    even `atan(w k / r_c)`.
    """
    r_c, k = surface.scale_at(s_c), surface.k
    sag = abs(k) * half_width**2 / (2 * r_c) if way == "flat" else 0.0
    share = 0.0
    if way == "level":
        share = abs(k) * half_height / r_c
    elif way == "conformal":
        share = math.expm1(abs(k) * half_height / r_c)
    lean = math.atan(half_width * abs(k) / r_c) if way == "even" else 0.0
    return WayFigures(way, sag, share * 2 * half_width, 100 * share, lean)


def suggest(surface: Surface, s_c: float, half_width: float, half_height: float, roundness: float) -> Way:
    """The way a maker would take: flat where the sag stays below 0.5 mm, conformal for round motifs and for
    drawings about as wide as tall, level for lettering and bands."""
    if figures_for("flat", surface, s_c, half_width, half_height).sag < 0.5:
        return "flat"
    if roundness > 0.7 or half_width < 1.8 * half_height:
        return "conformal"
    return "level"
