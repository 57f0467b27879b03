"""How the simulated cutter's drive moves: it looks at what it was told, stretch by stretch, and brakes in time."""

from __future__ import annotations

import math

from ...arrays import Array

STOPS_DEG = 15.0
SAME_MM = 1e-9


def along(path: Array, speed: float, acceleration: float) -> float:
    """Seconds for one stroke (n, 2) mm from rest to rest."""
    lengths: list[float] = []
    headings: list[float] = []
    for (x0, y0), (x1, y1) in zip(path[:-1].tolist(), path[1:].tolist(), strict=True):
        far = math.hypot(x1 - x0, y1 - y0)
        if far > SAME_MM:
            lengths.append(far)
            headings.append(math.degrees(math.atan2(y1 - y0, x1 - x0)))
    turns = [abs(math.remainder(b - a, 360.0)) for a, b in zip(headings, headings[1:], strict=False)]
    return drive(lengths, turns, speed, acceleration)


def drive(lengths: list[float], turns: list[float], speed: float, acceleration: float) -> float:
    """Seconds for stretches (n,) mm with those turns (n - 1,) degrees between them: it stops where it turns sharply,
    holds the bend where it turns a little, and never runs faster than it can brake for what lies ahead."""
    if not lengths:
        return 0.0
    at = [0.0]
    for before, after, turn in zip(lengths, lengths[1:], turns, strict=False):
        if turn > STOPS_DEG:
            at.append(0.0)
        else:
            radius = min(before, after) / max(math.radians(turn), 1e-9)
            at.append(min(speed, math.sqrt(acceleration * radius)))
    at.append(0.0)
    for n in range(len(lengths) - 1, -1, -1):
        at[n] = min(at[n], math.sqrt(at[n + 1] ** 2 + 2 * acceleration * lengths[n]))
    seconds = 0.0
    for n, far in enumerate(lengths):
        begin = at[n]
        end = at[n + 1] = min(at[n + 1], math.sqrt(begin**2 + 2 * acceleration * far))
        fastest = min(speed, math.sqrt((begin**2 + end**2) / 2 + acceleration * far))
        speeding, braking = (fastest**2 - begin**2) / (2 * acceleration), (fastest**2 - end**2) / (2 * acceleration)
        seconds += (fastest - begin + fastest - end) / acceleration
        seconds += max(far - speeding - braking, 0.0) / max(fastest, 1e-12)
    return seconds
