"""Outlines of many kinds laid close at once: each, the largest first, where it raises the skyline of what lies already
the least (after the bottom-left rule of Baker, Coffman and Rivest, 1980, along the outlines' own edges)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from ..arrays import Array
from ..job.stock import Turns
from .nest import Nested, beyond, grown
from .shape import Place, Shape

FINE_MM, COARSE_MM = 0.5, 1.0
MANY = 60
"""More outlines are laid in coarser bins and in one order only: it is to be there while a hand moves."""
TURNED: dict[Turns, tuple[float, ...]] = {"never": (0.0,), "half": (0.0, 180.0), "any": (0.0, 90.0, 180.0, 270.0)}
EVEN_MM = 1e-6
WASTE = 0.5
"""What lies shut in under an outline counts so much against how high its top comes."""


@dataclass(frozen=True, eq=False)
class Profile:
    """An outline turned: how high it reaches over each bin with its gap, and how low, (n,) mm, and how low on average.
    The first bin begins `beyond` mm to the left of the outline itself, whose left and low are at `corner`."""

    turn: float
    top: Array
    bottom: Array
    mean: float
    corner: tuple[float, float]
    size: tuple[float, float]


def _profile(outline: Array, turn: float, gap: float, bin_mm: float) -> Profile:
    lying = Place(0, turn, (0.0, 0.0)).of(outline)
    low = lying.min(axis=0)
    lying = lying - low
    w, h = lying.max(axis=0).tolist()
    points = shapely.get_coordinates(grown(lying, gap).exterior)
    points[:, 0] += beyond(gap)
    bins = np.floor(points[:, 0] / bin_mm).astype(np.int64)
    count = int(bins.max()) + 1
    top, bottom = np.full(count, -np.inf), np.full(count, np.inf)
    np.maximum.at(top, bins, points[:, 1])
    np.minimum.at(bottom, bins, points[:, 1])
    # In a bin it reaches furthest at one of its corners, or where it crosses the bin's edges.
    a, b = points[:-1], points[1:]
    edges = np.arange(1, count)[:, None] * bin_mm
    crossed = (np.minimum(a[:, 0], b[:, 0]) <= edges) & (edges <= np.maximum(a[:, 0], b[:, 0])) & (a[:, 0] != b[:, 0])
    edge, leg = np.nonzero(crossed)
    y = a[leg, 1] + (edges[edge, 0] - a[leg, 0]) * (b[leg, 1] - a[leg, 1]) / (b[leg, 0] - a[leg, 0])
    for beside in (edge, edge + 1):
        np.maximum.at(top, beside, y)
        np.minimum.at(bottom, beside, y)
    return Profile(turn, top, bottom, float(bottom.mean()), (float(low[0]), float(low[1])), (w, h))


@lru_cache(maxsize=1024)
def profiles(outline: bytes, turns: Turns, gap: float, bin_mm: float) -> tuple[Profile, ...]:
    """An outline (n, 2), as bytes, turned in every way it may be."""
    points = np.frombuffer(outline).reshape(-1, 2)
    return tuple(_profile(points, turn, gap, bin_mm) for turn in TURNED[turns])


class _Strip:
    """What lies on one strip so far: the skyline over each bin of its width, and of what sticks out beside it."""

    def __init__(self, width: float, gap: float, bin_mm: float) -> None:
        self.width, self.bin = width, bin_mm
        # What has a gap round it sticks out over the strip's edges.
        self.sky = np.full(math.ceil((width + 2 * beyond(gap)) / bin_mm) + 2, -np.inf)
        self.places: list[Place] = []

    def best(self, some: Sequence[Profile]) -> tuple[float, float, int, Profile] | None:
        """Where one comes to lie lowest: what that costs, how high, at which bin, and turned how."""
        best: tuple[float, float, int, Profile] | None = None
        floor = np.concatenate([[0.0], np.cumsum(np.maximum(self.sky, 0.0))])
        for one in some:
            room = math.floor((self.width - one.size[0]) / self.bin + 1e-9) + 1
            if room < 1:
                continue
            n = len(one.bottom)
            # Every window of the skyline that it may lie over, none of them copied.
            under: Array = np.ndarray((room, n), buffer=self.sky, strides=(8, 8))
            rise = np.maximum((under - one.bottom).max(axis=1), 0.0)
            below = (floor[n : n + room] - floor[:room]) / n
            cost = rise + one.size[1] + WASTE * (rise + one.mean - below)
            # Of places that are as good the one furthest left.
            at = int((cost < cost.min() + EVEN_MM).argmax())
            if best is None or cost[at] < best[0] - EVEN_MM:
                best = (float(cost[at]), float(rise[at]), at, one)
        return best

    def lay(self, shape: int, rise: float, at: int, one: Profile) -> None:
        taken = self.sky[at : at + len(one.top)]
        np.maximum(taken, rise + one.top, out=taken)
        x, y = one.corner
        self.places.append(Place(shape, one.turn, (at * self.bin - x, rise - y)))


def lay_many(shapes: Sequence[Shape], width: float, gap: float) -> Nested | None:
    """Lay all shapes on a strip so wide (mm) with at least `gap` mm between them, low and left. None where one is too
    wide for it."""
    return _tried(
        tuple((np.asarray(s.outline, dtype=np.float64).tobytes(), s.count, s.turns) for s in shapes), width, gap
    )


@lru_cache(maxsize=64)
def _tried(shapes: tuple[tuple[bytes, int, Turns], ...], width: float, gap: float) -> Nested | None:
    count = sum(n for _, n, _ in shapes)
    bin_mm = FINE_MM if count <= MANY else COARSE_MM
    every = [profiles(outline, turns, gap, bin_mm) for outline, _, turns in shapes]
    orders = (
        lambda n: -max(every[n][0].size),
        lambda n: -every[n][0].size[1],
        lambda n: -every[n][0].size[0] * every[n][0].size[1],
    )
    best: Nested | None = None
    tried: list[list[int]] = []
    for by in orders[: 1 if count > MANY else None]:
        order = sorted(range(len(every)), key=by)
        if order in tried:
            continue
        tried.append(order)
        strip, high = _Strip(width, gap, bin_mm), 0.0
        for n in order:
            for _ in range(shapes[n][1]):
                found = strip.best(every[n])
                if found is None:
                    return None
                _, rise, at, one = found
                strip.lay(n, rise, at, one)
                high = max(high, rise + one.size[1])
        if best is None or high < best.length:
            best = Nested(high, tuple(strip.places))
    return best
