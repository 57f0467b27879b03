"""How long a machine takes: as fast along each path as its acceleration lets it be, stopping at corners, a trapezoidal
speed profile for each travel, and a lift for each contour."""

from __future__ import annotations

import math
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


CORNER_RAD = math.radians(15.0)
"""At a corner of more the blade stops and begins anew (common practice, no source)."""


def cutting_seconds(paths: Sequence[Array], speed: float, acceleration: float) -> float:
    """Seconds along paths (n, 2) mm, each from rest to rest: nowhere faster than `speed` mm/s, at rest at corners, in
    bends no faster than `acceleration` mm/s2 holds it on their radius (`v^2 = a r`), and between them as fast as it can
    still slow down in time. A point that turns by `t` between stretches of `l` lies on a bend of radius `l / t`."""
    points = np.concatenate(paths)
    ends = np.cumsum([len(p) for p in paths])
    step = np.diff(points, axis=0)
    # Between the end of a path and the start of the next nothing is cut.
    step[ends[:-1] - 1] = 0.0
    length = np.hypot(*step.T)
    heading = np.unwrap(np.arctan2(step[:, 1], step[:, 0]))
    turned = np.abs(np.remainder(np.diff(heading) + math.pi, 2 * math.pi) - math.pi)
    bend = np.minimum(length[:-1], length[1:]) / np.maximum(turned, 1e-9)
    most = np.zeros(len(points))
    most[1:-1] = np.where(turned > CORNER_RAD, 0.0, np.minimum(speed**2, acceleration * bend))
    most[ends[:-1]] = most[ends - 1] = 0.0
    # The square of the speed grows and falls by 2 a with each mm.
    way = 2 * acceleration * np.concatenate([[0.0], np.cumsum(length)])
    gained = way + np.minimum.accumulate(most - way)
    square = np.maximum((np.minimum.accumulate((gained + way)[::-1])[::-1]) - way, 0.0)
    u, w = np.sqrt(square[:-1]), np.sqrt(square[1:])
    peak = np.sqrt(np.minimum(speed**2, (square[:-1] + square[1:]) / 2 + acceleration * length))
    steady = np.maximum(length - (2 * peak**2 - square[:-1] - square[1:]) / (2 * acceleration), 0.0)
    took = (2 * peak - u - w) / acceleration + steady / np.maximum(peak, 1e-12)
    return float(took[length > 0].sum())


def as_told(path: Array, steps_per_mm: float) -> Array:
    """A path (n, 2) mm as a machine is told it: in whole steps, no place twice running."""
    steps = np.rint(path * steps_per_mm)
    new = np.concatenate([[True], (np.diff(steps, axis=0) != 0).any(axis=1)])
    return np.asarray(steps[new] / steps_per_mm)


def path_length(path: Array) -> float:
    """Length of a path (n, 2), mm."""
    return float(np.hypot(*np.diff(path, axis=0).T).sum())


def seconds_for(paths: Sequence[Array], cutter: Cutter) -> float:
    """Seconds to cut those paths (n, 2) in their order, from the origin and back to it."""
    if not paths:
        return 0.0
    ends = np.array([[0.0, 0.0], *(p[-1] for p in paths)])
    starts = np.array([*(p[0] for p in paths), [0.0, 0.0]])
    travel = np.hypot(*(starts - ends).T)
    a = cutter.acceleration_mm_s2
    return (
        cutting_seconds([as_told(p, cutter.steps_per_mm) for p in paths], cutter.speed_mm_s, a)
        + float(stretch_seconds(travel, cutter.travel_mm_s, a).sum())
        + len(paths) * cutter.lift_s
    )
