"""Contours to cut and their order: inner before outer, short travel between."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Contour:
    """A closed contour: points (n, 2) mm, the first not repeated; `depth` how many contours lie round it."""

    points: Array
    depth: int


def contours_of(region: BaseGeometry) -> list[Contour]:
    """The contours of a region: outer edges at even depth, holes at odd depth."""
    out: list[Contour] = []
    polygons = shapely.get_parts(region)
    polygons = polygons[~shapely.is_empty(polygons)]
    if not len(polygons):
        return out
    tree = shapely.STRtree(shapely.polygons(shapely.get_exterior_ring(polygons)))
    inner, outer = tree.query(shapely.point_on_surface(polygons), predicate="within")
    depth = 2 * (np.bincount(inner, minlength=len(polygons)) - 1)
    for polygon, d in zip(polygons, depth, strict=True):
        out.append(Contour(shapely.get_coordinates(polygon.exterior)[:-1], int(d)))
        out += [Contour(shapely.get_coordinates(hole)[:-1], int(d) + 1) for hole in polygon.interiors]
    return out


def order_contours(contours: list[Contour], start: tuple[float, float] = (0.0, 0.0)) -> list[Contour]:
    """Deepest first, and among those of one depth always the nearest next, entered at its nearest point."""
    out: list[Contour] = []
    at = np.asarray(start, dtype=np.float64)
    for depth in sorted({c.depth for c in contours}, reverse=True):
        left = [c for c in contours if c.depth == depth]
        points = np.concatenate([c.points for c in left])
        owner = np.repeat(np.arange(len(left)), [len(c.points) for c in left])
        first = np.concatenate([[0], np.cumsum([len(c.points) for c in left])])
        away = np.zeros(len(points))
        for _ in range(len(left)):
            distance = np.hypot(*(points - at).T) + away
            i = int(np.argmin(distance))
            n = int(owner[i])
            ring = np.roll(left[n].points, -(i - int(first[n])), axis=0)
            out.append(Contour(ring, depth))
            at = ring[0]
            away[first[n] : first[n + 1]] = np.inf
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
