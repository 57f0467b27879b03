"""Contours to cut and their order: inner before outer, short travel between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..arrays import Array
from ..cuts import ROLES, Cuts
from .travel import shorten


@dataclass(frozen=True)
class Contour:
    """A path to cut: points (n, 2) mm, of a closed one the first not repeated; `depth` how many contours lie round
    it, `role` what it is in `cuts.ROLES`; `family` tells those that lie in one outermost contour from others."""

    points: Array
    depth: int
    role: int = 0
    closed: bool = True
    family: int = 0


def contours_of(cuts: Cuts) -> list[Contour]:
    """The contours of cuts: the outer edges at even depth, holes at odd depth; lines lie as deep as what they cut."""
    if not len(cuts):
        return []
    hole = cuts.roles == ROLES.index("hole")
    outer = np.flatnonzero(cuts.closed & ~hole)
    paths = cuts.paths()
    depth = np.zeros(len(cuts), dtype=np.int64)
    family = np.arange(len(cuts))
    if len(outer):
        shells = shapely.polygons([shapely.LinearRing(paths[i]) for i in outer])
        tree = shapely.STRtree(shells)
        region = shapely.get_parts(cuts.region)
        inner, round_ = tree.query(shapely.point_on_surface(region), predicate="within")
        # A place in the midst of a frame may lie in what the frame is round: only what is larger lies round another.
        area = shapely.area(shells)
        larger = (area[round_] > area[inner]) | (round_ == inner)
        inner, round_ = inner[larger], round_[larger]
        depth[outer] = 2 * (np.bincount(inner, minlength=len(outer)) - 1)
        outermost = depth[outer[round_]] == 0
        family[outer[inner[outermost]]] = outer[round_[outermost]]
        owner = np.searchsorted(outer, np.flatnonzero(hole), side="right") - 1
        depth[hole] = depth[outer[owner]] + 1
        family[hole] = family[outer[owner]]
        lines = np.flatnonzero(~cuts.closed)
        if len(lines):
            middles = shapely.points([paths[i].mean(axis=0) for i in lines])
            inner, round_ = tree.query(middles, predicate="within")
            depth[lines] = 2 * np.bincount(inner, minlength=len(lines))
            outermost = depth[outer[round_]] == 0
            family[lines[inner[outermost]]] = outer[round_[outermost]]
    told = zip(paths, depth.tolist(), cuts.roles.tolist(), cuts.closed.tolist(), family.tolist(), strict=True)
    return [Contour(*one) for one in told]


CORNER = np.radians(25.0)
"""What turns by more at one place is a corner: there a start and an overcut show least (common practice, no source)."""
MOST_ENTRIES = 12
"""A contour without corners may be begun at so many places."""
FEW = 20_000
"""So many points are looked through faster than a tree is asked."""


class _Nearest:
    """Of many points, the nearest that has not been dropped yet: a tree, built again when half of it is gone, or all of
    them where they are few."""

    def __init__(self, points: Array) -> None:
        self.points = points
        self.alive = np.ones(len(points), dtype=bool)
        self._grow()

    def _grow(self) -> None:
        self.index = np.flatnonzero(self.alive)
        self.there = self.points[self.index]
        self.tree = cKDTree(self.there) if len(self.index) > FEW else None

    def find(self, at: Array) -> int:
        """The nearest one to a place; of several as near the first."""
        if 2 * int(self.alive.sum()) < len(self.index):
            self._grow()
        if self.tree is None:
            away = ((self.there - at) ** 2).sum(axis=1)
            away[~self.alive[self.index]] = np.inf
            return int(self.index[away.argmin()])
        k = 8
        while True:
            far, found = self.tree.query(at, k=min(k, len(self.index)))
            far, found = np.atleast_1d(far), self.index[np.atleast_1d(found)]
            living = self.alive[found]
            if living.any():
                least = far[living].min()
                return int(found[living & (far == least)].min())
            k *= 4

    def drop(self, first: int, last: int) -> None:
        self.alive[first:last] = False


def order_contours(
    contours: list[Contour], start: tuple[float, float] = (0.0, 0.0), feed_mm: float | None = None
) -> list[Contour]:
    """What lies in one outermost contour together, the deepest first, and those by short travel from a place and back
    to it. Each is entered where its start shows least, at a corner, where it has one; a line at the nearer of its ends.

    On a roll they are taken in bands so many mm wide along the feed (y), so that it is not fed to and fro.
    """
    families: dict[int, list[Contour]] = {}
    for c in contours:
        families.setdefault(c.family, []).append(c)
    groups = list(families.values())
    bands = [0] * len(groups)
    if feed_mm is not None:
        bands = [int(min(c.points[:, 1].min() for c in some) // feed_mm) for some in groups]
    out: list[Contour] = []
    at = np.asarray(start, dtype=np.float64)
    last = max(bands, default=0)
    for band in sorted(set(bands)):
        mine = [some for some, b in zip(groups, bands, strict=True) if b == band]
        for n in _short_round(mine, at, np.asarray(start) if band == last else None):
            made, at = _inside_out(mine[n], at)
            out += made
    return out


def _entries(c: Contour) -> Array:
    """Where a contour may be begun: its corners, or anywhere where it has none."""
    if not c.closed:
        return c.points[[0, -1]]
    legs = np.diff(np.concatenate([c.points[-1:], c.points, c.points[:1]]), axis=0)
    heading = np.arctan2(legs[:, 1], legs[:, 0])
    turn = np.abs((np.diff(heading) + np.pi) % (2 * np.pi) - np.pi)
    corners: Array = c.points[turn > CORNER]
    if len(corners):
        return corners
    some: Array = c.points[:: max(1, len(c.points) // MOST_ENTRIES)]
    return some


def _short_round(groups: list[list[Contour]], at: Array, end: Array | None) -> list[int]:
    """A short order of groups, each met at its outermost contour, from one place to another, if there is one."""
    entries = [_entries(min(some, key=lambda c: c.depth)) for some in groups]
    points, owner, first = _joined(entries)
    nearest = _Nearest(points)
    order: list[int] = []
    met = np.empty((len(groups), 2))
    here = at
    for _ in groups:
        i = nearest.find(here)
        n = int(owner[i])
        here = met[n] = points[i]
        order.append(n)
        nearest.drop(int(first[n]), int(first[n + 1]))
    ends = [at] if end is None else [at, end]
    places = np.concatenate([met, ends])
    way = np.array([len(groups), *order, *([len(groups) + 1] if end is not None else [])])
    if end is None:
        # It ends wherever: the last stays where it is.
        return [int(n) for n in shorten(places, way)[1:]]
    return [int(n) for n in shorten(places, way)[1:-1]]


def _joined(entries: list[Array]) -> tuple[Array, NDArray[np.int64], NDArray[np.int64]]:
    """All places of some, whose each is, and where each one's begin."""
    counts = [len(e) for e in entries]
    return np.concatenate(entries), np.repeat(np.arange(len(entries)), counts), np.concatenate([[0], np.cumsum(counts)])


def _inside_out(some: list[Contour], at: Array) -> tuple[list[Contour], Array]:
    """What lies in one outermost contour, the deepest first, always the nearest next; and where that ends."""
    out: list[Contour] = []
    for depth in sorted({c.depth for c in some}, reverse=True):
        left = [c for c in some if c.depth == depth]
        points, owner, first = _joined([_entries(c) for c in left])
        nearest = _Nearest(points)
        for _ in range(len(left)):
            i = nearest.find(at)
            c = left[int(owner[i])]
            begin = int(np.hypot(*(c.points - points[i]).T).argmin())
            path = np.roll(c.points, -begin, axis=0) if c.closed else c.points if begin == 0 else c.points[::-1]
            at = path[0] if c.closed else path[-1]
            out.append(Contour(path, depth, c.role, c.closed, c.family))
            nearest.drop(int(first[owner[i]]), int(first[owner[i] + 1]))
    return out, at


def with_overcut(points: Array, overcut: float) -> Array:
    """A closed contour's path, run on past its start by `overcut` mm."""
    path = np.concatenate([points, points[:1]])
    if overcut <= 0:
        return path
    length = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    reach = min(overcut, float(length[-1]))
    inner = path[(length > 0) & (length < reach)]
    end = [np.interp(reach, length, path[:, i]) for i in (0, 1)]
    return np.concatenate([path, inner, [end]])
