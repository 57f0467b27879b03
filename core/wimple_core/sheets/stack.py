"""Copies of one outline laid close at once: in columns and rows as near as their edges let them, every other row moved
or turned end for end where that takes less. What it finds is not the best there is, but is there while a hand moves.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from ..arrays import Array
from ..job.stock import Turns
from .nest import grown
from .shape import Place

BIN_MM = 0.25
MOST_AT_ONCE = 1_000_000
"""So many bins are looked at at once."""
STEPS = 24
"""Every other row is tried moved aside by so many steps of the room there is."""


@dataclass(frozen=True)
class Laid:
    """Copies of one outline: where each lies, and the box round them (mm), which stands at the origin."""

    places: tuple[Place, ...]
    size: tuple[float, float]

    @property
    def area(self) -> float:
        return self.size[0] * self.size[1]


@dataclass(frozen=True)
class _Edges:
    """How high an outline, grown by half the gap, reaches over each bin of its width, and how low: (n,), (n,) mm. The
    first bin is at `start`."""

    top: Array
    bottom: Array
    start: int

    @classmethod
    def of(cls, outline: Array, gap: float) -> _Edges:
        wide = grown(outline, gap)
        points = shapely.get_coordinates(shapely.segmentize(wide.exterior, BIN_MM / 2))
        bins = np.floor(points[:, 0] / BIN_MM).astype(np.int64)
        start = int(bins.min()) - 1
        count = int(bins.max()) + 2 - start
        top, bottom = np.full(count, -np.inf), np.full(count, np.inf)
        np.maximum.at(top, bins - start, points[:, 1])
        np.minimum.at(bottom, bins - start, points[:, 1])
        # What lies beside a bin may reach into it.
        top = np.maximum(top, np.maximum(np.append(top[1:], -np.inf), np.append(-np.inf, top[:-1])))
        bottom = np.minimum(bottom, np.minimum(np.append(bottom[1:], np.inf), np.append(np.inf, bottom[:-1])))
        return cls(top, bottom, start)

    def rises(self, above: _Edges, asides: Array) -> Array:
        """How far up (mm) another must lie, moved aside by each of so many mm, to lie above this one; 0 where it lies
        beside it. Of any shape."""
        shifts = above.start + np.round(asides / BIN_MM).astype(np.int64) - self.start
        n, m = len(self.top), len(above.bottom)
        some, back = np.unique(shifts, return_inverse=True)
        out = np.zeros(len(some))
        over = np.flatnonzero((some > -m) & (some < n))
        top = np.full(n + 2 * m, -np.inf)
        top[m : m + n] = self.top
        step = max(MOST_AT_ONCE // m, 1)
        for part in (over[k : k + step] for k in range(0, len(over), step)):
            beside = top[(some[part] + m)[:, None] + np.arange(m)]
            out[part] = (beside - above.bottom).max(axis=1, initial=0.0)
        return out[back].reshape(shifts.shape)


def _turned(outline: Array, degrees: float) -> Array:
    return Place(0, degrees, (0.0, 0.0)).of(outline)


def ways(outline: Array, turns: Turns, gap: float, width: float, steps: int = STEPS) -> tuple[Rows, ...]:
    """The ways of laying copies of an outline (n, 2) in a width, mm: every other row moved aside in so many steps. What
    was looked at lately is known."""
    return _known_ways(np.asarray(outline, dtype=np.float64).tobytes(), turns, gap, width, steps)


@lru_cache(maxsize=64)
def _known_ways(outline: bytes, turns: Turns, gap: float, width: float, steps: int) -> tuple[Rows, ...]:
    return tuple(_ways(np.frombuffer(outline).reshape(-1, 2), turns, gap, width, steps))


def _ways(outline: Array, turns: Turns, gap: float, width: float, steps: int) -> Iterator[Rows]:
    for first in (0.0, 90.0) if turns == "any" else (0.0,):
        lying = _turned(outline, first)
        wide = float(np.ptp(lying[:, 0]))
        if wide > width + 1e-9:
            continue
        # Beside each other: the same, looked at from the side.
        side = _Edges.of(_turned(lying, 90.0), gap)
        aside = max(float(side.rises(side, np.zeros(1))[0]), BIN_MM)
        room = width - wide
        columns = 1 + math.floor((room + 1e-9) / aside)
        edges, tall = _Edges.of(lying, gap), float(np.ptp(lying[:, 1]))
        for second in (0.0, 180.0) if turns != "never" else (0.0,):
            other = _turned(lying, second)
            moved = other + (lying.min(axis=0) - other.min(axis=0))
            above = _Edges.of(moved, gap)
            tried = [(used, *_shifts(used, room, aside, wide, steps)) for used in {1, max(1, columns - 1), columns}]
            beside = np.concatenate(
                [np.repeat(b[None], len(s), axis=0).ravel() + np.repeat(s, len(b)) for _, s, b in tried]
            )
            every = [edges.rises(above, beside), above.rises(edges, -beside)]
            alone: Array = np.arange(-columns + 1, columns, dtype=np.float64) * aside
            over = np.maximum(edges.rises(edges, alone), above.rises(above, alone))
            at = 0
            for used, shifts, k in tried:
                up, down = (r[at : at + len(shifts) * len(k)].reshape(len(shifts), -1).max(axis=1) for r in every)
                at += len(shifts) * len(k)
                twice = np.maximum(up + down, over[columns - used : columns + used - 1].max())
                for n in np.flatnonzero(twice > 0):
                    way = (used, aside, float(shifts[n]), float(up[n]), float(twice[n]))
                    yield Rows(lying, moved, first, second, *way, tall)


def _shifts(used: int, room: float, aside: float, wide: float, steps: int) -> tuple[Array, Array]:
    """By how much every other row of so many copies may lie aside, and how far apart copies of a row lie, mm."""
    spare = min(room - (used - 1) * aside, wide)
    some = np.arange(steps + 1, dtype=np.float64) if spare > BIN_MM else np.zeros(1)
    beside: Array = np.arange(-used + 1, used, dtype=np.float64) * aside
    return np.floor(spare * some / steps / BIN_MM) * BIN_MM, beside


@dataclass(frozen=True, eq=False)
class Rows:
    """Copies in rows: `lying` in the odd ones, `moved` in the even ones, `shift` mm aside and `up` mm above; after
    `twice` mm it begins anew. `columns` in a row, `aside` mm apart."""

    lying: Array
    moved: Array
    first: float
    second: float
    columns: int
    aside: float
    shift: float
    up: float
    twice: float
    tall: float

    def at(self, row: int) -> float:
        """How high a row lies, mm."""
        return row // 2 * self.twice + (row % 2) * self.up

    def rows(self, length: float) -> int:
        """How many rows go into a length, mm."""
        room = length - self.tall + 1e-9
        if room < 0:
            return 0
        odd = 1 + math.floor(room / self.twice)
        even = 1 + math.floor((room - self.up) / self.twice) if room >= self.up else 0
        # One after the other: a row may lie lower than the one before it.
        return min(odd + even, 2 * even + 1)

    def lay(self, count: int) -> Laid:
        """So many copies, from the lowest row up."""
        row, column = np.divmod(np.arange(count), self.columns)
        even = row % 2
        x = column * self.aside + self.shift * even
        y = row // 2 * self.twice + self.up * even
        # Turned about its origin it lies elsewhere than `moved`, which lies over the first.
        turns = np.array([self.first, (self.first + self.second) % 360])
        ends = [self._ends(turn) for turn in turns.tolist()]
        lows, highs = np.array([low for low, _ in ends]), np.array([high for _, high in ends])
        at = np.column_stack([x, y]) + self.lying.min(axis=0) - lows[even]
        low = (lows[even] + at).min(axis=0)
        size = (highs[even] + at).max(axis=0) - low
        places = zip(turns[even].tolist(), (at - low).tolist(), strict=True)
        return Laid(tuple(Place(0, turn, (x, y)) for turn, (x, y) in places), (float(size[0]), float(size[1])))

    def _ends(self, turn: float) -> tuple[Array, Array]:
        points = _turned(self.lying, turn - self.first)
        return points.min(axis=0), points.max(axis=0)


def most(some: Sequence[Rows], length: float) -> int:
    """How many copies go into a length, mm, in the best of some ways."""
    return max((w.columns * w.rows(length) for w in some), default=0)


def lay(some: Sequence[Rows], length: float, count: int) -> list[Laid]:
    """So many copies in a length, mm, as far as they go in: one of the ways for each number of columns, that of the
    least area first. What was looked at lately is known."""
    return list(_known_lays(tuple(some), length, count))


@lru_cache(maxsize=256)
def _known_lays(some: tuple[Rows, ...], length: float, count: int) -> tuple[Laid, ...]:
    best: dict[int, tuple[float, Rows]] = {}
    for w in some:
        high = w.at(math.ceil(count / w.columns) - 1)
        if w.columns * w.rows(length) >= count and (w.columns not in best or high < best[w.columns][0]):
            best[w.columns] = (high, w)
    laid = [w.lay(count) for _, w in best.values()]
    return tuple(sorted(laid, key=lambda one: one.area))
