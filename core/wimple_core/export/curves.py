"""Flattened contours fitted again with few cubic curves.

A ring is split at its corners; each smooth run is fitted by least squares with end tangents held (Schneider,
"An algorithm for automatically fitting digitized curves", Graphics Gems, 1990) and halved where it misses.
"""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..arrays import Array

FIT_TOLERANCE_MM = 0.02
SAME_PLACE_MM = 1e-7
"""Corners nearer than this are one: set operations leave such pairs behind, and they have no direction."""
CORNER = math.radians(18)
"""Curves are flattened with steps of at most 10 degrees, so a sharper turn is a corner."""

Segment = Array
"""A cubic as four points (4, 2), or a straight line as two (2, 2)."""


def _turns(ring: Array) -> Array:
    legs = np.roll(ring, -1, axis=0) - ring
    heading = np.arctan2(legs[:, 1], legs[:, 0])
    turn: Array = (heading - np.roll(heading, 1) + math.pi) % (2 * math.pi) - math.pi
    return turn


def _unit(v: Array) -> Array:
    n = math.hypot(v[0], v[1])
    return v / n if n else v


def _end_tangent(p: Array) -> Array:
    """Direction at the first point: the derivative of the parabola through three points, by chord length."""
    if len(p) < 3:
        return _unit(p[1] - p[0])
    a, b = math.dist(p[0], p[1]), math.dist(p[1], p[2])
    return _unit((p[1] - p[0]) * (a + b) / a - (p[2] - p[0]) * a / (a + b))


def _bezier(c: Array, t: Array) -> Array:
    u = 1 - t
    out: Array = (
        (u**3)[:, None] * c[0]
        + (3 * u * u * t)[:, None] * c[1]
        + (3 * u * t * t)[:, None] * c[2]
        + (t**3)[:, None] * c[3]
    )
    return out


def _solve(p: Array, t: Array, start: Array, end: Array) -> Array:
    u = 1 - t
    b1, b2 = 3 * u * u * t, 3 * u * t * t
    fixed = (u**3 + b1)[:, None] * p[0] + (b2 + t**3)[:, None] * p[-1]
    a1, a2 = b1[:, None] * start, b2[:, None] * end
    rest = p - fixed
    c11, c12, c22 = float((a1 * a1).sum()), float((a1 * a2).sum()), float((a2 * a2).sum())
    x1, x2 = float((a1 * rest).sum()), float((a2 * rest).sum())
    det = c11 * c22 - c12 * c12
    chord = math.dist(p[0], p[-1])
    l1 = (x1 * c22 - x2 * c12) / det if abs(det) > 1e-12 * c11 * c22 else chord / 3
    l2 = (c11 * x2 - c12 * x1) / det if abs(det) > 1e-12 * c11 * c22 else chord / 3
    reach = float(np.hypot(*np.diff(p, axis=0).T).sum())
    if min(l1, l2) < 1e-6 * chord or max(l1, l2) > reach:
        l1 = l2 = chord / 3
    return np.array([p[0], p[0] + start * l1, p[-1] + end * l2, p[-1]])


def _closer(c: Array, p: Array, t: Array) -> Array:
    """One Newton step of each parameter towards the nearest place on the curve."""
    d1 = 3 * np.diff(c, axis=0)
    d2 = 2 * np.diff(d1, axis=0)
    u = 1 - t
    first = (u * u)[:, None] * d1[0] + (2 * u * t)[:, None] * d1[1] + (t * t)[:, None] * d1[2]
    second = u[:, None] * d2[0] + t[:, None] * d2[1]
    off = _bezier(c, t) - p
    below = (first * first).sum(1) + (off * second).sum(1)
    step = np.where(np.abs(below) > 1e-12, (off * first).sum(1) / np.where(below == 0, 1, below), 0.0)
    return np.clip(t - step, 0.0, 1.0)


def _fit(p: Array, start: Array, end: Array, tolerance: float, out: list[Segment]) -> None:
    if len(p) == 2:
        out.append(p)
        return
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    t = length / length[-1]
    split = len(p) // 2
    for round_ in range(4):
        c = _solve(p, t, start, end)
        missed = np.hypot(*(_bezier(c, t) - p).T)
        split = int(np.argmax(missed))
        worst = float(missed[split])
        if worst <= tolerance:
            out.append(c)
            return
        if worst > 30 * tolerance or round_ == 3:
            break
        t = _closer(c, p, t)
    # Split at a point of the contour itself, where the direction is known from both sides.
    split = min(max(round(split / 3) * 3, 3), len(p) - 4) if len(p) > 6 else min(max(split, 1), len(p) - 2)
    reach = 3 if 3 <= split <= len(p) - 4 else 1
    middle = _unit(p[split + reach] - p[split - reach])
    _fit(p[: split + 1], start, -middle, tolerance, out)
    _fit(p[split:], middle, end, tolerance, out)


def _evened(ring: Array, tolerance: float) -> Array:
    """A ring (n, 2) without what set operations and offsets leave on curves: points on a straight line between their
    neighbours, and short legs across a bend, whose ends become the place where the legs beside them meet. Nothing moves
    by more than a fifth of the tolerance."""
    ring = np.asarray(shapely.get_coordinates(shapely.simplify(shapely.LinearRing(ring), tolerance / 40))[:-1])
    for _ in range(2):
        n = len(ring)
        if n < 8:
            return ring
        legs = np.roll(ring, -1, axis=0) - ring
        length = np.hypot(legs[:, 0], legs[:, 1])
        before, after = np.roll(legs, 1, axis=0), np.roll(legs, -1, axis=0)
        cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        dot = (before * after).sum(axis=1)
        turn = np.abs(np.arctan2(cross, dot))
        beside = np.minimum(np.roll(length, 1), np.roll(length, -1))
        # The legs beside meet beyond the short one by half of it times the tangent of half their turn.
        short = (length < 0.5 * beside) & (turn < CORNER) & (turn > 1e-6)
        short &= length / 2 * np.tan(turn / 2) < tolerance / 5
        # Their turn must be the short leg's two turns together: it bends one way.
        turns = _turns(ring)
        short &= (turns * np.roll(turns, -1) >= 0) & (np.abs(turns + np.roll(turns, -1)) < CORNER)
        short &= ~np.roll(short, 1) & ~np.roll(short, 2)
        at = np.flatnonzero(short)
        if not len(at):
            return ring
        along = np.roll(ring, -1, axis=0)[at] - ring[at]
        share = (along[:, 0] * after[at, 1] - along[:, 1] * after[at, 0]) / cross[at]
        moved = ring.copy()
        moved[at] = ring[at] + share[:, None] * before[at]
        keep = np.ones(n, dtype=bool)
        keep[(at + 1) % n] = False
        ring = moved[keep]
    return ring


def fit_ring(ring: Array, tolerance: float = FIT_TOLERANCE_MM) -> list[Segment]:
    """A closed ring (n, 2), the first point not repeated, as lines and cubics that stay within `tolerance` of it."""
    legs = np.hypot(*(np.roll(ring, -1, axis=0) - ring).T)
    if (legs <= SAME_PLACE_MM).any():
        ring, legs = ring[legs > SAME_PLACE_MM], legs[legs > SAME_PLACE_MM]
    if len(ring) > 7:
        ring = _evened(ring, tolerance)
        tolerance *= 0.8
        legs = np.hypot(*(np.roll(ring, -1, axis=0) - ring).T)
    n = len(ring)
    if n < 3:
        return [ring] if n else []
    turns = np.abs(_turns(ring))
    corner = turns > CORNER
    # A leg much longer than its neighbours is a straight edge that runs smoothly into curves: it stands alone, unless
    # it bends so little that it is as good as curved (offsets of curves have long and short legs in turn).
    neighbours = np.minimum(np.roll(legs, 1), np.roll(legs, -1))
    bulge = legs * (turns + np.roll(turns, -1)) / 8
    straight = (legs > np.maximum(3 * neighbours, 0.2)) & (bulge > tolerance / 4)
    corner |= straight | np.roll(straight, 1)
    at = np.flatnonzero(corner)
    if len(at) == 0:
        loop = np.concatenate([ring, ring[:1]])
        tangent = _unit(ring[1] - ring[-1])
        out: list[Segment] = []
        half = n // 2
        middle = _unit(loop[half + 1] - loop[half - 1])
        _fit(_between(loop[: half + 1]), tangent, -middle, tolerance, out)
        _fit(_between(loop[half:]), middle, -tangent, tolerance, out)
        return out
    out = []
    loop = np.concatenate([ring, ring[: at[0] + 1]])
    ends = [*at.tolist(), n + int(at[0])]
    for a, b in zip(ends[:-1], ends[1:], strict=True):
        p = loop[a : b + 1]
        if len(p) == 2:
            out.append(p)
        else:
            _fit(_between(p), _end_tangent(p), _end_tangent(p[::-1]), tolerance, out)
    return out


def _between(p: Array) -> Array:
    """The points and two more on each leg, so that a curve cannot swing out between them unseen."""
    t = np.array([0.0, 1 / 3, 2 / 3])[None, :, None]
    inner = (p[:-1, None] * (1 - t) + p[1:, None] * t).reshape(-1, 2)
    return np.concatenate([inner, p[-1:]])
