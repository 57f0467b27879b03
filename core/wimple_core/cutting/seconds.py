"""How long a machine takes: a trapezoidal speed profile for each stretch, and a lift for each contour."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..arrays import Array
from ..job.shipped import Cutter


def stretch_seconds(length: Array, speed: float, acceleration: float) -> Array:
    """Seconds for stretches (n,) mm from rest to rest: `l / v + v / a`, or `2 sqrt(l / a)` where they are too short to
    reach the speed v."""
    whole = length / speed + speed / acceleration
    short = 2 * np.sqrt(length / acceleration)
    return np.asarray(np.where(length >= speed * speed / acceleration, whole, short), dtype=np.float64)


def path_length(path: Array) -> float:
    """Length of a path (n, 2), mm."""
    return float(np.hypot(*np.diff(path, axis=0).T).sum())


def seconds_for(paths: Sequence[Array], cutter: Cutter) -> float:
    """Seconds to cut those paths (n, 2) in their order, from the origin and back to it."""
    if not paths:
        return 0.0
    cut = np.array([path_length(p) for p in paths])
    ends = np.array([[0.0, 0.0], *(p[-1] for p in paths)])
    starts = np.array([*(p[0] for p in paths), [0.0, 0.0]])
    travel = np.hypot(*(starts - ends).T)
    a = cutter.acceleration_mm_s2
    return (
        float(stretch_seconds(cut, cutter.speed_mm_s, a).sum())
        + float(stretch_seconds(travel, cutter.travel_mm_s, a).sum())
        + len(paths) * cutter.lift_s
    )
