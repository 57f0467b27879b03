"""Short travel: the order of places that a head visits, by moves that shorten a path until none does.

Reversing a stretch (2-opt: Croes, 1958) and moving a short stretch elsewhere (Or-opt: Or, 1976), the best of all such
moves each time; then kicks that swap two stretches (Martin, Otto and Felten, 1991), kept where they lead to less.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array

Order = NDArray[np.int64]
LONGEST = 3
"""Stretches of so many places at most are moved elsewhere."""
WINDOW = 36
"""Longer paths are shortened in windows of so many places, each half over the one before it."""
KICKS = 12
MOST_KICKED = 110
EPS = 1e-9


def path_length(points: Array, order: Order) -> float:
    """How long the way through places (n, 2) is in an order, mm."""
    there = points[order]
    return float(np.hypot(*np.diff(there, axis=0).T).sum())


def shorten(points: Array, order: Order) -> Order:
    """A shorter order of places (n, 2), the first and the last of it kept."""
    if len(order) < 4:
        return order
    if len(order) <= MOST_KICKED:
        return _kicked(points, order)
    out = order.copy()
    for begin in range(0, len(out) - 3, WINDOW // 2):
        end = min(begin + WINDOW, len(out))
        out[begin:end] = _shortened(points, out[begin:end])
    return out


def _kicked(points: Array, order: Order) -> Order:
    """The same for few places, with kicks."""
    best = _shortened(points, order)
    if len(order) < 9:
        return best
    length = path_length(points, best)
    g = np.random.default_rng(len(order))
    for _ in range(KICKS):
        a, b, c = np.sort(g.choice(np.arange(1, len(best) - 1), 3, replace=False)).tolist()
        now = _shortened(points, np.concatenate([best[:a], best[b:c], best[a:b], best[c:]]))
        new = path_length(points, now)
        if new < length - EPS:
            best, length = now, new
    return best


def _shortened(points: Array, order: Order) -> Order:
    """An order that no such move shortens."""
    there = points[order]
    away = np.hypot(there[:, None, 0] - there[None, :, 0], there[:, None, 1] - there[None, :, 1])
    now = np.arange(len(order))
    for _ in range(20 * len(order)):
        gain, after = _best_reversal(away, now)
        moved, elsewhere = _best_move(away, now)
        if max(gain, moved) <= EPS:
            break
        now = after if gain >= moved else elsewhere
    return order[now]


def _best_reversal(away: Array, now: Order) -> tuple[float, Order]:
    """By how much the best reversal of a stretch shortens an order, and what it becomes."""
    p = away[np.ix_(now, now)]
    leg = np.diagonal(p, 1)
    change = p[:-1, :-1] + p[1:, 1:] - leg[:, None] - leg[None, :]
    change[np.tril_indices(len(leg), 1)] = 0.0
    i, j = np.unravel_index(int(change.argmin()), change.shape)
    gain = -float(change[i, j])
    if gain <= EPS:
        return 0.0, now
    return gain, np.concatenate([now[: i + 1], now[i + 1 : j + 1][::-1], now[j + 1 :]])


def _best_move(away: Array, now: Order) -> tuple[float, Order]:
    """The same for the best move of a short stretch to elsewhere, either way round."""
    p = away[np.ix_(now, now)]
    leg = np.diagonal(p, 1)
    n, best, out = len(now), EPS, now
    for size in range(1, min(LONGEST, n - 3) + 1):
        first = np.arange(1, n - size)
        last = first + size - 1
        saved = leg[first - 1] + leg[last] - p[first - 1, last + 1]
        k = np.arange(n - 1)
        outside = (k[None, :] < first[:, None] - 1) | (k[None, :] > last[:, None])
        for head, tail, turned in ((first, last, False), (last, first, True)):
            cost = p[k[None, :], head[:, None]] + p[tail[:, None], k[None, :] + 1] - leg[None, :]
            gain = np.where(outside, saved[:, None] - cost, -np.inf)
            i, j = np.unravel_index(int(gain.argmax()), gain.shape)
            if gain[i, j] > best:
                best = float(gain[i, j])
                a, b = int(first[i]), int(last[i]) + 1
                stretch = now[a:b][::-1] if turned else now[a:b]
                rest = np.concatenate([now[:a], now[b:]])
                at = int(j) + 1 if j < a else int(j) + 1 - size
                out = np.concatenate([rest[:at], stretch, rest[at:]])
    return (best, out) if out is not now else (0.0, now)
