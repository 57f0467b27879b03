"""Loose pieces laid in the holes of others: a ring's dots within the ring, and smaller rings within larger ones."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from ..arrays import Array
from ..job.stock import Turns
from .nest import SAFE_MM, beyond
from .shape import Place, Shape
from .skyline import Profile, profiles

CELL_MM = 0.25
CELLS = 200_000
"""A hole is looked at in cells of that size, or in so many."""
MOST_HOLES = 60
"""Only the largest holes are filled: it is to be there while a hand moves."""

Copy = tuple[int, int]
"""One of a shape: which, and the how manyth."""


@dataclass(frozen=True)
class Holed:
    """A shape, as bytes of its outline (n, 2) and of its holes (n, 2), mm."""

    outline: bytes
    holes: tuple[bytes, ...]

    @classmethod
    def of(cls, outline: Array, holes: Sequence[Array]) -> Holed:
        return cls(np.asarray(outline, np.float64).tobytes(), tuple(np.asarray(h, np.float64).tobytes() for h in holes))


@dataclass(frozen=True)
class Filled:
    """What lies in holes, by what it lies in, counted from where that lies; and of every shape the copies that lie in
    none."""

    inside: Mapping[Copy, tuple[tuple[Copy, Place], ...]]
    outside: tuple[tuple[int, ...], ...]

    def shapes(self, shapes: Sequence[Shape]) -> list[Shape]:
        """What is still to be laid of shapes, each under its old number; some of none."""
        return [Shape(s.outline, len(left), s.turns) for s, left in zip(shapes, self.outside, strict=True)]

    def whole(self, places: Sequence[Place]) -> tuple[Place, ...]:
        """What was laid, with all that lies in it."""
        left = [list(copies) for copies in self.outside]
        open_ = [((p.shape, left[p.shape].pop()), p) for p in places]
        out = []
        while open_:
            copy, place = open_.pop()
            out.append(place)
            open_ += [(other, there.carried(place)) for other, there in self.inside.get(copy, ())]
        return tuple(out)


@lru_cache(maxsize=64)
def filled(some: tuple[Holed, ...], turns: Turns, sets: int, gap: float) -> Filled:
    """So many of each shape: what of them goes into the holes of others, at least `gap` mm from all round it.

    The largest hole is filled first, with the largest that goes into it; of what lies in it the holes are filled in
    their turn.
    """
    outlines = [np.frombuffer(s.outline).reshape(-1, 2) for s in some]
    sizes = np.array([np.ptp(o, axis=0) for o in outlines])
    left = [list(range(sets)) for _ in some]
    inside: dict[Copy, list[tuple[Copy, Place]]] = defaultdict(list)
    holes = [(k, ring) for k, s in enumerate(some) for ring in s.holes]
    rings = [shapely.Polygon(np.frombuffer(ring).reshape(-1, 2)) for _, ring in holes]
    areas, across = shapely.area(rings), shapely.minimum_bounding_radius(rings)
    by_size = np.argsort(-sizes.prod(axis=1), kind="stable").tolist()
    every = [(n, copy) for n in np.argsort(-areas, kind="stable").tolist() for copy in range(sets)]
    for n, copy in every[:MOST_HOLES]:
        host, ring = holes[n]
        room: _Room | None = None
        for k in by_size:
            # What is as large as its hole lies round it.
            if not left[k] or sizes[k].max() / 2 > across[n]:
                continue
            room = room or _Room(ring, gap)
            lying = profiles(some[k].outline, turns, gap, room.cell)
            while left[k] and (place := room.lay(k, lying)) is not None:
                inside[host, copy].append(((k, left[k].pop()), place))
    return Filled({at: tuple(those) for at, those in inside.items()}, tuple(map(tuple, left)))


@lru_cache(maxsize=256)
def _columns(ring: bytes, gap: float) -> tuple[Array, Array, float, float]:
    """How low and how high a hole is free in columns of cells, how far left the first of them lies, and how wide they
    are, mm: the longest stretch of each whose cells are free."""
    hole = shapely.Polygon(np.frombuffer(ring).reshape(-1, 2))
    left, low, right, high = hole.bounds
    cell = max(CELL_MM, float(np.sqrt((right - left) * (high - low) / CELLS)))
    free = shapely.buffer(hole, -(gap / 2 + SAFE_MM + 0.75 * cell))
    if free.is_empty:
        return np.zeros(0), np.zeros(0), left, cell
    x, y = (np.arange(a, b + cell, cell) for a, b in ((left, right), (low, high)))
    shapely.prepare(free)
    cells = shapely.contains_xy(free, *np.meshgrid(x, y, indexing="ij"))
    edge = np.diff(np.pad(cells, ((0, 0), (1, 1))).astype(np.int8), axis=1)
    (column, first), (_, last) = np.nonzero(edge == 1), np.nonzero(edge == -1)
    order = np.lexsort((last - first, column))
    floor, top = np.full(len(x), np.inf), np.full(len(x), -np.inf)
    floor[column[order]] = y[first[order]] - cell / 2
    top[column[order]] = y[last[order] - 1] + cell / 2
    return floor, top, left - cell / 2, cell


class _Room:
    """A hole in columns of cells: how low and how high it is still free in each, mm."""

    def __init__(self, ring: bytes, gap: float) -> None:
        floor, self.top, self.left, self.cell = _columns(ring, gap)
        self.floor, self.beside = floor.copy(), beyond(gap)

    def lay(self, shape: int, some: Sequence[Profile]) -> Place | None:
        """Lay a shape, turned one of some ways, where its top comes to lie lowest; None where it does not go in."""
        best: tuple[float, int, float, Profile] | None = None
        for one in some:
            n = len(one.bottom)
            if n > len(self.floor):
                continue
            under, over = (np.lib.stride_tricks.sliding_window_view(a, n) for a in (self.floor, self.top))
            rise = (under - one.bottom).max(axis=1)
            goes = (rise[:, None] + one.top <= over).all(axis=1)
            high = np.where(goes, rise + one.size[1], np.inf)
            at = int(high.argmin())
            if goes[at] and (best is None or high[at] < best[0]):
                best = (float(high[at]), at, float(rise[at]), one)
        if best is None:
            return None
        _, at, rise, one = best
        taken = self.floor[at : at + len(one.top)]
        np.maximum(taken, rise + one.top, out=taken)
        x, y = one.corner
        return Place(shape, one.turn, (self.left + at * self.cell + self.beside - x, rise - y))
