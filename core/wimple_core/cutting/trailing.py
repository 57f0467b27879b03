"""Where the tip of a drag knife goes when its pivot is drawn along a path.

On a straight stretch the angle between blade and travel decays as `tan(theta / 2) = tan(theta_0 / 2) exp(-l / d)`: the
tip draws a tractrix (Lockwood, A Book of Curves, 1961).
"""

from __future__ import annotations

import math

import numpy as np

from ..arrays import Array

STEP_MM = 0.05


def tip_path(pivot: Array, offset: float, heading: float | None = None, step: float = STEP_MM) -> tuple[Array, float]:
    """The path (m, 2) of the tip for a path (n, 2) of the pivot, `offset` mm ahead of it, and where the blade points in
    the end (radians). It points along `heading` at first, or along the first stretch where none is given."""
    legs = np.diff(pivot, axis=0)
    length = np.hypot(*legs.T)
    long = length > 1e-12
    if offset <= 0 or not long.any():
        return pivot, heading or 0.0
    starts, length = pivot[:-1][long], length[long]
    travel = np.arctan2(legs[long][:, 1], legs[long][:, 0])
    points = float(travel[0]) if heading is None else heading
    count = np.maximum(1, np.ceil(length / step)).astype(np.int64)
    first = np.empty(len(travel))
    # How far the blade lags at each stretch's start hangs on all before it.
    for n, (way, far) in enumerate(zip(travel.tolist(), length.tolist(), strict=True)):
        lag = (points - way + math.pi) % (2 * math.pi) - math.pi
        first[n] = math.tan(lag / 2)
        points = way + 2 * math.atan(first[n] * math.exp(-far / offset))
    of = np.repeat(np.arange(len(travel)), count)
    part = (np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count) + 1) / count[of]
    run = part * length[of]
    unit = np.column_stack([np.cos(travel), np.sin(travel)])
    there = starts[of] + run[:, None] * unit[of]
    pointing = travel[of] + 2 * np.arctan(first[of] * np.exp(-run / offset))
    tip = there - offset * np.column_stack([np.cos(pointing), np.sin(pointing)])
    begin = travel[0] if heading is None else heading
    start = pivot[:1] - offset * np.array([[math.cos(begin), math.sin(begin)]])
    return np.concatenate([start, tip]), points
