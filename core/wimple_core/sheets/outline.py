"""The outline by which work is nested: one closed line round all that is cut of it."""

from __future__ import annotations

import hashlib

import numpy as np
import shapely
from scipy.sparse.csgraph import minimum_spanning_tree
from shapely.geometry.base import BaseGeometry

from ..arrangement import areas, prepared
from ..arrays import Array

FINE_MM = 0.2
"""An outline stands off what it goes round by no more than this beyond its bays, so that it has few corners."""
WIDER = 1.25
"""By so much more than half the widest gap between its parts work is closed, so that what joins them is no thread."""
TIMES = 6
FEW = 24
"""So many parts are joined by closing; more, whose closing would take long, by a concave hull."""
BAY_MM = 15.0
EVERY_MM = 2.0
POINTS_MM = 0.5
ALIKE_MM = 1e-5
MOST_KNOWN = 200
_KNOWN: dict[bytes, Array] = {}
"""The outlines of work that was looked at, each counted from its left and low."""


def outline_of(region: BaseGeometry) -> Array:
    """One closed line (n, 2) mm, its first corner not repeated, round all parts of a region; it crosses none of them.

    Parts that lie apart are joined by closing: grown until they are one, and shrunk by as much again. Bays wider than
    twice that stay open, so that other work may lie in them. What lies in holes lies in the outline. What differs in
    where it lies only is looked at once.
    """
    parts = areas(np.array([region], dtype=object))
    shells = shapely.polygons(shapely.get_exterior_ring(parts))
    points, part = shapely.get_coordinates(shells, return_index=True)
    low = points.min(axis=0)
    steps = np.round((points - low) / ALIKE_MM).astype(np.int64)
    key = hashlib.blake2b(steps.tobytes() + part.tobytes(), digest_size=16).digest()
    known = _KNOWN.get(key)
    if known is None:
        # Made of what is known of it, not of where it lay when it was first looked at: the same whatever came before.
        known = _round_all(_valid(shapely.set_coordinates(shells.copy(), steps * ALIKE_MM)))
        if len(_KNOWN) >= MOST_KNOWN:
            _KNOWN.clear()
        _KNOWN[key] = known
    out: Array = known + low
    return out


def _valid(shells: np.ndarray) -> np.ndarray:
    """The same shells, and of one whose rounding met itself what it holds."""
    if shapely.is_valid(shells).all():
        return shells
    found: np.ndarray = areas(shapely.make_valid(shells, method="structure"))
    return np.asarray(shapely.polygons(shapely.get_exterior_ring(found)))


def _round_all(shells: np.ndarray) -> Array:
    """The same for the shells (n,) of all parts."""
    whole = _closed(shells) if len(shells) > 1 else shells[0]
    wide = shapely.buffer(whole, 0.75 * FINE_MM, quad_segs=4)
    plain = shapely.simplify(wide, 0.5 * FINE_MM)
    if not shapely.covers(plain, whole) or plain.geom_type != "Polygon":
        plain = wide
    return np.asarray(shapely.get_coordinates(plain.exterior)[:-1])


def _closed(shells: np.ndarray) -> BaseGeometry:
    """Polygons (n,) with what lies between them, as one without holes."""
    if len(shells) > FEW:
        return _hulled(shells)
    plain = shapely.simplify(shells, 0.25 * FINE_MM)
    every = shapely.multipolygons(plain)
    by = WIDER * max(_widest_gap(plain) / 2, FINE_MM)
    for _ in range(TIMES):
        wide = shapely.polygons(shapely.get_exterior_ring(shapely.buffer(every, by, quad_segs=8)))
        closed = shapely.buffer(wide, -by * 0.999, quad_segs=8)
        # Simplified a little they may stick out: all of them are in.
        whole = shapely.union_all([closed, *shells])
        if whole.geom_type == "Polygon":
            return shapely.polygons(whole.exterior)
        by *= 1.5
    return shapely.convex_hull(every)


def _widest_gap(shells: np.ndarray) -> float:
    """What must be bridged at most, mm, so that all parts hang together: the longest edge of their least tree."""
    one, other = np.triu_indices(len(shells), 1)
    # Parts that touch are no gap, but a tree needs an edge there.
    apart = np.zeros((len(shells), len(shells)))
    apart[one, other] = np.maximum(shapely.distance(shells[one], shells[other]), 1e-9)
    return float(minimum_spanning_tree(apart).data.max(initial=0.0))


def _hulled(shells: np.ndarray) -> BaseGeometry:
    """The same for many, quickly: their concave hull, with bays of BAY_MM and more across its mouth."""
    plain = shapely.simplify(shells, 0.25 * FINE_MM)
    points = shapely.get_coordinates(shapely.segmentize(plain, EVERY_MM))
    points = points[np.unique(np.round(points / POINTS_MM).astype(np.int64), axis=0, return_index=True)[1]]
    across = float(np.hypot(*np.ptp(points, axis=0)))
    hull = shapely.concave_hull(shapely.multipoints(points), ratio=min(1.0, BAY_MM / across))
    wide = shapely.buffer(hull, POINTS_MM)
    out = ~shapely.covers(prepared(wide), shells)
    whole = shapely.union_all([wide, *shells[out]])
    if whole.geom_type != "Polygon":
        whole = shapely.convex_hull(shapely.multipolygons(shells))
    return shapely.polygons(whole.exterior)
