"""Angles as places round a body: 0 and 360 degrees are one."""

from __future__ import annotations

import math

import numpy as np

SAME_ANGLE = 1e-9


def on_turn(angle: float, middle: float) -> float:
    """An angle on the turn that has `middle` in its middle: 0 and 360 degrees are one place."""
    turned = (angle - middle + math.pi) % (2 * math.pi) - math.pi + middle
    return turned + 2 * math.pi if turned < middle - math.pi + SAME_ANGLE else turned


def on_turns(angles: np.ndarray) -> np.ndarray:
    """Angles (n,) on the turn that has the front in its middle."""
    out: np.ndarray = (angles + math.pi) % (2 * math.pi) - math.pi
    return out
