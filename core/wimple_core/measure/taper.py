"""What an unsure taper does to the ends of a template, and how wide is read from the front."""

from __future__ import annotations

import math

import numpy as np

from .bodies import RoundBody
from .body import Frustum
from .free import READABLE_HALF_ANGLE


def off_level(radius: float, k: float, turn: float) -> float:
    """By how many mm an edge stands off level for each unit of error in the taper, at the angle `turn` (rad) from where
    the wrap was begun: `(r turn^2 / 2) sinc(k turn / 2)^2`, which is `x^2 / (2 r)` for small tapers (x the arc length).

    It is what the development's `y` loses where its taper is wrong.
    """
    return radius * turn**2 / 2 * float(np.sinc(k * turn / 2 / math.pi)) ** 2


def edge_drift(frustum: Frustum) -> float:
    """Standard error in mm of how far the ends of a template laid from the front stand off level: both, half a turn
    away, to the same side, so that they still meet."""
    return off_level(frustum.widest, frustum.k, math.pi) * frustum.error_k


def edge_miss(frustum: Frustum) -> float:
    """Standard error in mm of how far the far end misses the first where the wrap was begun at one edge: a whole turn
    away, so four times as much on all but steep walls."""
    return off_level(frustum.widest, frustum.k, 2 * math.pi) * frustum.error_k


def readable_width(body: RoundBody, s: float) -> float:
    """Width in mm, round the cup at `s`, that is readable from the front: 60 degrees each side."""
    return 2 * READABLE_HALF_ANGLE * body.radius_at(s)
