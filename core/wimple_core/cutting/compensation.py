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
    out = []
    if heading is not None:
        first = (ways[0] - heading + math.pi) % (2 * math.pi) - math.pi
        if abs(first) > LEAST_CORNER:
            out.append(_swing(starts[0], heading, first, offset))
    out.append(starts[:1] + offset * tangent[0])
    for i in range(len(stops)):
        out.append(stops[i : i + 1] + offset * tangent[i])
        if i < len(turn) and abs(turn[i]) > LEAST_CORNER:
            out.append(_swing(stops[i], ways[i], turn[i], offset)[1:])
    return np.concatenate(out)


def _swing(about: Array, heading: float, turn: float, offset: float) -> Array:
    """An arc of the pivot (n, 2) about a place of the tip."""
    steps = heading + np.linspace(0, turn, 2 + int(abs(turn) / SWING))
    out: Array = about + offset * np.column_stack([np.cos(steps), np.sin(steps)])
    return out


def end_heading(path: Array) -> float:
    """Where the blade points (radians) once it was drawn along a path (n, 2)."""
    legs = np.diff(path, axis=0)
    last = legs[np.hypot(legs[:, 0], legs[:, 1]) > 1e-9][-1]
    return float(np.arctan2(last[1], last[0]))
