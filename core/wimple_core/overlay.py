"""Set operations on regions that no drawing can make fail.

Parts that meet nothing are left as they are; those that meet are overlaid group by group, by the library on a precision
grid, and where that gives up by the faces of their arrangement. Lengths are mm wherever the caller's are.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.errors import GEOSException
from shapely.geometry.base import BaseGeometry

from .arrangement import EMPTY, GRID_MM, areas, arrange, as_one, clusters, mended, polygons_only, prepared

Inside = NDArray[np.bool_]
BLUNT = 1.03
"""Offsets of two legs are prolonged to where they meet, no further than this many times the offset: at the 10 degrees
of a flattened curve they need 1.004, at a corner they are cut off there."""


def _or_by_faces(
    quick: Callable[[], BaseGeometry], regions: Sequence[BaseGeometry], keep: Callable[[Inside], Inside], grid: float
) -> BaseGeometry:
    """What the library makes, or where it gives up the faces chosen by `keep` of (m, n) whether a face lies in a
    region."""
    try:
        return polygons_only(quick())
    except GEOSException:
        found = arrange(regions, grid)
        inside = np.zeros((len(found.faces), len(regions)), dtype=bool)
        inside[found.face, found.region] = True
        return found.joined(keep(inside))


MANY = 32
"""From so many on joining them on the grid costs several times what it does off it."""


def _all_joined(parts: NDArray[np.object_], grid: float) -> BaseGeometry:
    """Parts (n,) joined, on the grid; many of them first off it, and what comes of that is laid on it."""
    if len(parts) >= MANY:
        try:
            joined: BaseGeometry = shapely.set_precision(shapely.union_all(parts), grid)
            if joined.is_valid:
                return joined
        except GEOSException:
            pass
    return shapely.union_all(parts, grid_size=grid)


def union(regions: Iterable[BaseGeometry], grid: float = GRID_MM) -> BaseGeometry:
    """What any of the regions covers."""
    every = [r for r in regions if not r.is_empty]
    if len(every) == 1 and every[0].is_valid:
        return every[0]
    parts = areas(np.array(every, dtype=object))
    valid = shapely.is_valid(parts)
    out: list[BaseGeometry] = []
    for group in clusters(parts, grid):
        if len(group) == 1 and valid[group[0]]:
            out.append(parts[group[0]])
            continue
        some = parts[group]
        out.append(
            _or_by_faces(
                lambda some=some: _all_joined(some, grid),  # type: ignore[misc]
                list(some),
                lambda i: np.any(i, axis=1),
                grid,
            )
        )
    return together(out)


Overlay = Callable[[Any, Any], Any]
"""An overlay of two regions, or of each of an array (n,) with its fellow."""


def _by_groups(
    a: BaseGeometry, b: BaseGeometry, quick: Overlay, keep: Callable[[Inside], Inside], alone: bool, grid: float
) -> BaseGeometry:
    """An overlay of two regions, group by group of their parts that meet; parts of the first that meet none of the
    second stay if `alone`."""
    if a.is_empty or b.is_empty:
        return a if alone else EMPTY
    first, second = areas(np.array([a], dtype=object)), areas(np.array([b], dtype=object))
    n = len(first)
    out: list[BaseGeometry] = []
    if n == len(second) == 1:
        if shapely.dwithin(first[0], second[0], 2 * grid):
            return _or_by_faces(lambda: quick(first[0], second[0]), (first[0], second[0]), keep, grid)
        return first[0] if alone else EMPTY
    pairs: list[tuple[BaseGeometry, BaseGeometry]] = []
    for group in clusters(np.concatenate([first, second]), grid):
        if len(group) == 1:
            # What meets nothing is asked for at once: there may be very many of it.
            if alone and group[0] < n:
                out.append(first[group[0]])
            continue
        mine, theirs = first[group[group < n]], second[group[group >= n] - n]
        if len(mine) and len(theirs):
            pairs.append((as_one(mine), as_one(theirs)))
        elif alone:
            out.extend(mine)
    try:
        mine, theirs = np.array(pairs, dtype=object).reshape(-1, 2).T
        out.extend(areas(quick(mine, theirs)))
    except GEOSException:
        out += [_or_by_faces(lambda pair=pair: quick(*pair), pair, keep, grid) for pair in pairs]  # type: ignore[misc]
    return together(out)


def intersection(a: BaseGeometry, b: BaseGeometry, grid: float = GRID_MM) -> BaseGeometry:
    """What both regions cover."""
    return _by_groups(
        a, b, lambda x, y: shapely.intersection(x, y, grid_size=grid), lambda i: np.all(i, axis=1), False, grid
    )


MANY_HOLES = 40
"""What has so many holes is not cut with each of many small regions as a whole."""


def commons(a: NDArray[np.object_], b: NDArray[np.object_], grid: float = GRID_MM) -> NDArray[np.object_]:
    """What each of the regions (n,) and its fellow (n,) both cover; not yet on the grid where the library needs
    none."""
    other = shapely.get_num_interior_rings(a) > MANY_HOLES
    if other.any():
        a, b = np.where(other, b, a), np.where(other, a, b)
    holed = shapely.get_num_interior_rings(b) > MANY_HOLES
    if holed.any() and not (holed & (shapely.get_num_interior_rings(a) > MANY_HOLES)).any():
        out = np.empty(len(a), dtype=object)
        out[~holed] = commons(a[~holed], b[~holed], grid)
        which = np.array([id(g) if h else 0 for g, h in zip(b, holed, strict=True)])
        for one in np.unique(which[holed]):
            mine = np.flatnonzero(which == one)
            out[mine] = _in_holed(a[mine], b[mine[0]], grid)
        return out
    try:
        both = shapely.intersection(a, b)
    except GEOSException:
        both = [intersection(x, y, grid) for x, y in zip(a, b, strict=True)]
    return np.array([polygons_only(g) for g in both], dtype=object)


def _in_holed(a: NDArray[np.object_], holed: BaseGeometry, grid: float) -> NDArray[np.object_]:
    """What each of the regions (n,) covers of one with many holes: what of it lies within the outermost ring, without
    the holes that it meets."""
    rings = shapely.get_rings(holed)
    shell, holes = shapely.polygons(rings[0]), shapely.polygons(rings[1:])
    out = a.copy()
    beyond = ~shapely.contains(prepared(shell), a)
    out[beyond] = commons(a[beyond], np.full(int(beyond.sum()), shell, dtype=object), grid)
    one, hole = shapely.STRtree(holes).query(out, predicate="intersects")
    ends = np.searchsorted(one, np.arange(len(a) + 1))
    met = np.flatnonzero(np.diff(ends))
    cut = [
        holes[hole[ends[n]]] if ends[n + 1] - ends[n] == 1 else union(holes[hole[ends[n] : ends[n + 1]]]) for n in met
    ]
    if len(met):
        out[met] = differences(out[met], np.array(cut, dtype=object))
    return out


def overlaps(a: NDArray[np.object_], b: NDArray[np.object_], grid: float = GRID_MM) -> list[BaseGeometry]:
    """What each of the polygons (n,) and each of the others (m,) that it meets have both, pair by pair; not yet on the
    grid where the library needs none."""
    if not len(a) or not len(b):
        return []
    other, one = shapely.STRtree(a).query(b)
    both = commons(a[one], b[other], grid)
    return list(both[shapely.area(both) > 0])


def difference(a: BaseGeometry, b: BaseGeometry, grid: float = GRID_MM) -> BaseGeometry:
    """What the first region covers and the second does not."""
    return _by_groups(
        a, b, lambda x, y: shapely.difference(x, y, grid_size=grid), lambda i: i[:, 0] & ~i[:, 1], True, grid
    )


def differences(a: NDArray[np.object_], b: NDArray[np.object_], grid: float | None = None) -> NDArray[np.object_]:
    """What each of the regions (n,) covers and its fellow (n,) does not; without a `grid` not yet on one where the
    library needs none."""
    try:
        left = shapely.difference(a, b, grid_size=grid)
    except GEOSException:
        left = [difference(x, y, grid or GRID_MM) for x, y in zip(a, b, strict=True)]
    return np.array([polygons_only(g) for g in left], dtype=object)


def grown(region: BaseGeometry, by: float) -> BaseGeometry:
    """The region grown by `by` mm all round, or shrunk where that is negative.

    A flattened curve keeps one place of its offset for each of its own, so that it leaves as a curve again; a corner is
    cut off blunt, BLUNT times `by` away from it.
    """
    if region.is_empty or by == 0:
        return region
    try:
        return polygons_only(shapely.buffer(region, by, join_style="mitre", mitre_limit=BLUNT))
    except GEOSException:
        safe = union([mended(region)[0]])
        return polygons_only(shapely.buffer(safe, by, join_style="mitre", mitre_limit=BLUNT))


def grown_each(regions: NDArray[np.object_], by: float) -> NDArray[np.object_]:
    """Each of the regions (n,) grown so."""
    try:
        wide = shapely.buffer(regions, by, join_style="mitre", mitre_limit=BLUNT)
    except GEOSException:
        wide = np.array([grown(g, by) for g in regions], dtype=object)
    return np.asarray(wide)


def together(regions: Iterable[BaseGeometry]) -> BaseGeometry:
    """Regions that lie apart, as one."""
    return as_one(shapely.get_parts(np.array([r for r in regions if not r.is_empty], dtype=object)))


FINE = 1e-9
"""A grid for regions whose coordinates are not all mm."""


def plain_union(regions: Sequence[BaseGeometry]) -> BaseGeometry:
    """The union of few plain regions, in any unit: by the library off any grid, and safely where that gives up."""
    try:
        return polygons_only(shapely.union_all(np.array(list(regions), dtype=object)))
    except GEOSException:
        return union(regions, FINE)


def plain_intersection(a: BaseGeometry, b: BaseGeometry) -> BaseGeometry:
    """The same for what both cover."""
    try:
        return polygons_only(shapely.intersection(a, b))
    except GEOSException:
        return intersection(a, b, FINE)


def plain_difference(a: BaseGeometry, b: BaseGeometry) -> BaseGeometry:
    """The same for what the first covers and the second does not."""
    try:
        return polygons_only(shapely.difference(a, b))
    except GEOSException:
        return difference(a, b, FINE)
