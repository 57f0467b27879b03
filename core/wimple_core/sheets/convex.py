"""A polygon as convex parts."""

from __future__ import annotations

import numpy as np
import shapely

from ..arrays import Array

STRAIGHT = 1e-9
"""A corner turns the wrong way by no more than this (mm2) and still is none."""


def convex_parts(outline: Array, most: int) -> list[Array]:
    """Convex parts of a simple polygon (n, 2), each (k, 2) against the clock with at most so many corners.

    Its triangles are joined over the edges they share as long as what comes of it is convex (Hertel and Mehlhorn,
    "Fast triangulation of simple polygons", 1983: never more than four times as many parts as are needed).
    """
    triangles = shapely.get_parts(shapely.constrained_delaunay_triangles(shapely.Polygon(outline)))
    corners = shapely.get_coordinates(shapely.orient_polygons(triangles)).reshape(-1, 4, 2)[:, :3]
    points, named = np.unique(corners.reshape(-1, 2), axis=0, return_inverse=True)
    rings: list[list[int]] = named.reshape(-1, 3).tolist()
    part = list(range(len(rings)))
    at = {(r[k], r[(k + 1) % 3]): n for n, r in enumerate(rings) for k in range(3)}

    def of(n: int) -> int:
        while part[n] != n:
            n = part[n]
        return n

    for (u, v), n in at.items():
        if u > v or (v, u) not in at:
            continue
        one, other = of(n), of(at[v, u])
        joined = _joined(rings[one], rings[other], u, v)
        if one != other and len(joined) <= most and _turn_left(points, joined, u) and _turn_left(points, joined, v):
            rings[one], part[other] = joined, one
    return [points[rings[n]] for n in range(len(rings)) if part[n] == n]


def _joined(one: list[int], other: list[int], u: int, v: int) -> list[int]:
    """The ring of both, of which the first has the edge from u to v, and the other that from v to u."""
    a, b = one.index(v), other.index(u)
    return one[a:] + one[:a] + (other[b:] + other[:b])[1:-1]


def _turn_left(points: Array, ring: list[int], corner: int) -> bool:
    k = ring.index(corner)
    before, here, after = (points[ring[i % len(ring)]] for i in (k - 1, k, k + 1))
    (ax, ay), (bx, by) = here - before, after - here
    return bool(ax * by - ay * bx >= -STRAIGHT)
