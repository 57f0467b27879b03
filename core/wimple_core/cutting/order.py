"""Contours to cut and their order: inner before outer, short travel between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree

from ..arrays import Array
from ..cuts import ROLES, Cuts


@dataclass(frozen=True)
class Contour:
    """A path to cut: points (n, 2) mm, of a closed one the first not repeated; `depth` how many contours lie round
    it, `role` what it is in `cuts.ROLES`."""

    points: Array
    depth: int
    role: int = 0
    closed: bool = True


def contours_of(cuts: Cuts) -> list[Contour]:
    """The contours of cuts: the outer edges at even depth, holes at odd depth; lines lie as deep as what they cut."""
    if not len(cuts):
        return []
    hole = cuts.roles == ROLES.index("hole")
    outer = np.flatnonzero(cuts.closed & ~hole)
    paths = cuts.paths()
    depth = np.zeros(len(cuts), dtype=np.int64)
    if len(outer):
        shells = shapely.polygons([shapely.LinearRing(paths[i]) for i in outer])
        tree = shapely.STRtree(shells)
        region = shapely.get_parts(cuts.region)
        inner, _ = tree.query(shapely.point_on_surface(region), predicate="within")
        depth[outer] = 2 * (np.bincount(inner, minlength=len(outer)) - 1)
        owner = np.searchsorted(outer, np.flatnonzero(hole), side="right") - 1
        depth[hole] = depth[outer[owner]] + 1
        lines = np.flatnonzero(~cuts.closed)
        if len(lines):
            middles = shapely.points([paths[i].mean(axis=0) for i in lines])
            inner, _ = tree.query(middles, predicate="within")
            depth[lines] = 2 * np.bincount(inner, minlength=len(lines))
    return [
        Contour(p, d, r, c)
        for p, d, r, c in zip(paths, depth.tolist(), cuts.roles.tolist(), cuts.closed.tolist(), strict=True)
    ]


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


def order_contours(contours: list[Contour], start: tuple[float, float] = (0.0, 0.0)) -> list[Contour]:
    """Deepest first, and among those of one depth always the nearest next, entered at its nearest point; a line at the
    nearer of its ends."""
    out: list[Contour] = []
    at = np.asarray(start, dtype=np.float64)
    for depth in sorted({c.depth for c in contours}, reverse=True):
        left = [c for c in contours if c.depth == depth]
        entries = [c.points if c.closed else c.points[[0, -1]] for c in left]
        points = np.concatenate(entries)
        owner = np.repeat(np.arange(len(left)), [len(e) for e in entries])
        first = np.concatenate([[0], np.cumsum([len(e) for e in entries])])
        nearest = _Nearest(points)
        for _ in range(len(left)):
            i = nearest.find(at)
            n = int(owner[i])
            c = left[n]
            if c.closed:
                path = np.roll(c.points, -(i - int(first[n])), axis=0)
                at = path[0]
            else:
                path = c.points if i == first[n] else c.points[::-1]
                at = path[-1]
            out.append(Contour(path, depth, c.role, c.closed))
            nearest.drop(int(first[n]), int(first[n + 1]))
    return out


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
