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

    def rise(self, above: _Edges, aside: float) -> float:
        """How far up (mm) another must lie, moved aside by so many mm, to lie above this one; 0 where it lies beside
        it."""
        shift = above.start + round(aside / BIN_MM) - self.start
        a, b = max(0, shift), min(len(self.top), shift + len(above.bottom))
        if a >= b:
            return 0.0
        return max(0.0, float((self.top[a:b] - above.bottom[a - shift : b - shift]).max()))


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
        aside = max(side.rise(side, 0.0), BIN_MM)
        room = width - wide
        columns = 1 + math.floor((room + 1e-9) / aside)
        edges = _Edges.of(lying, gap)
        for second in (0.0, 180.0) if turns != "never" else (0.0,):
            other = _turned(lying, second)
            moved = other + (lying.min(axis=0) - other.min(axis=0))
            above = _Edges.of(moved, gap)
            for used in {1, max(1, columns - 1), columns}:
                spare = min(room - (used - 1) * aside, wide)
                for step in range(steps + 1) if spare > BIN_MM else (0,):
                    shift = math.floor(spare * step / steps / BIN_MM) * BIN_MM
                    beside = [k * aside for k in range(-used + 1, used)]
                    up = max(edges.rise(above, shift + k) for k in beside)
                    down = max(above.rise(edges, -shift + k) for k in beside)
                    over = max(edges.rise(edges, k) for k in beside)
                    again = max(above.rise(above, k) for k in beside)
                    twice = max(up + down, over, again)
                    if twice > 0:
                        yield Rows(
                            lying, moved, first, second, used, aside, shift, up, twice, float(np.ptp(lying[:, 1]))
                        )


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
        out = []
        low = self.lying.min(axis=0)
        for n in range(count):
            row, column = divmod(n, self.columns)
            even = row % 2
            x = column * self.aside + (self.shift if even else 0.0)
            turned = (self.first + self.second) % 360 if even else self.first
            # Turned about its origin it lies elsewhere than `moved`, which lies over the first.
            corner = self._low(turned)
            out.append((turned, x + low[0] - corner[0], self.at(row) + low[1] - corner[1]))
        boxes = np.array([self._box(turn, (x, y)) for turn, x, y in out])
        left, bottom = boxes[:, :2].min(axis=0)
        right, top = boxes[:, 2:].max(axis=0)
        places = tuple(Place(0, turn, (x - left, y - bottom)) for turn, x, y in out)
        return Laid(places, (float(right - left), float(top - bottom)))

    def _outline(self, turn: float) -> Array:
        return _turned(self.lying, turn - self.first)

    def _low(self, turn: float) -> Array:
        return np.asarray(self._outline(turn).min(axis=0))

    def _box(self, turn: float, at: tuple[float, float]) -> Array:
        points = self._outline(turn)
        return np.concatenate([points.min(axis=0) + at, points.max(axis=0) + at])


def most(some: Sequence[Rows], length: float) -> int:
    """How many copies go into a length, mm, in the best of some ways."""
    return max((w.columns * w.rows(length) for w in some), default=0)


def lay(some: Sequence[Rows], length: float, count: int) -> list[Laid]:
    """So many copies in a length, mm, as far as they go in: one of the ways for each number of columns, that of the
    least area first."""
    best: dict[int, tuple[float, Rows]] = {}
    for w in some:
        high = w.at(math.ceil(count / w.columns) - 1)
        if w.columns * w.rows(length) >= count and (w.columns not in best or high < best[w.columns][0]):
            best[w.columns] = (high, w)
    laid = [w.lay(count) for _, w in best.values()]
    return sorted(laid, key=lambda one: one.area)
