"""Where the pivot of a drag knife runs so that its tip, which trails, runs where it should."""

from __future__ import annotations

import math

import numpy as np

from ..arrays import Array

SWING = math.radians(4)
"""Corners are swung round in steps of no more than this: chords of a blade's swing then stay within 0.001 mm of it."""
LEAST_CORNER = math.radians(3)
"""Below this the path goes on as a curve: the blade follows by itself."""


def pivot_path(path: Array, offset: float, heading: float | None = None) -> Array:
    """The path (m, 2) of the pivot for a wanted path (n, 2) of the tip: `p + d T` along each leg, and an arc of radius
    `d` about each corner; `offset` d in mm, T the unit tangent. A blade that points along `heading` (radians) when it
    comes down is first swung about the start. A path that is not followed is given back as it is."""
    legs = np.diff(path, axis=0)
    length = np.hypot(legs[:, 0], legs[:, 1])
    long = length > 1e-9
    if offset <= 0 or not long.any():
        return path
    starts, stops = path[:-1][long], path[1:][long]
    tangent = legs[long] / length[long, None]
    ways = np.arctan2(tangent[:, 1], tangent[:, 0])
    turn = (np.diff(ways) + math.pi) % (2 * math.pi) - math.pi
    before = starts[:1] + offset * tangent[:1]
    if heading is not None:
        first = (ways[:1] - heading + math.pi) % (2 * math.pi) - math.pi
        if abs(first[0]) > LEAST_CORNER:
            before = np.concatenate([_swung(starts[:1], np.array([heading]), first, offset), before])
    # After the last leg nothing is left to turn for.
    return np.concatenate([before, _swung(stops, ways, np.append(turn, 0.0), offset)])


def _swung(about: Array, heading: Array, turn: Array, offset: float) -> Array:
    """The pivot (m, 2) about places of the tip (n, 2), which points along `heading` and turns by `turn` (n,), radians:
    where it is, and where that is a corner an arc from there on."""
    steps = np.where(np.abs(turn) > LEAST_CORNER, 1 + (np.abs(turn) / SWING).astype(np.int64), 0)
    at = np.repeat(np.arange(len(about)), 1 + steps)
    step = np.arange(len(at)) - np.repeat(np.cumsum(1 + steps) - 1 - steps, 1 + steps)
    angle = heading[at] + turn[at] * step / np.maximum(steps[at], 1)
    out: Array = about[at] + offset * np.column_stack([np.cos(angle), np.sin(angle)])
    return out


def end_heading(path: Array) -> float:
    """Where the blade points (radians) once it was drawn along a path (n, 2)."""
    legs = np.diff(path, axis=0)
    last = legs[np.hypot(legs[:, 0], legs[:, 1]) > 1e-9][-1]
    return float(np.arctan2(last[1], last[0]))
