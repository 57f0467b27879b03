"""Set operations on regions that no drawing can make fail.

Lines are noded on a precision grid (snap rounding: Hobby, "Practical segment intersection with finite precision
output", Computational Geometry 13, 1999), which takes any linework whatever; regions are then faces of that
arrangement, chosen by where a point inside each of them lies. The library's own overlay, on the same grid, is tried
first, since it is quicker. Lengths are mm wherever the caller's are.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from shapely import STRtree
from shapely.errors import GEOSException
from shapely.geometry.base import BaseGeometry

Array = NDArray[np.float64]
Inside = NDArray[np.bool_]
GRID_MM = 1e-5
"""Places nearer than this are one: a thousandth of the tolerance to which curves are drawn."""
EMPTY = shapely.Polygon()
_CHUNK = 4_000_000
BLUNT = 1.03
"""Offsets of two legs are prolonged to where they meet, no further than this many times the offset: at the 10 degrees
of a flattened curve they need 1.004, at a corner they are cut off there."""


def polygons_only(geometry: BaseGeometry) -> BaseGeometry:
    """The areal parts of a geometry: lines and points that set operations leave behind are dropped."""
    if geometry.geom_type in ("Polygon", "MultiPolygon"):
        return geometry
    parts = shapely.get_parts(geometry)
    return shapely.multipolygons(shapely.get_parts(parts[shapely.get_dimensions(parts) == 2]))


def winding_numbers(points: Array, rings: Sequence[Array]) -> NDArray[np.int64]:
    """Winding number of each of (m, 2) points about all rings together, by signed crossings of a ray to the right.

    `rings` are (n, 2) each, the first point not repeated.
    """
    start = np.concatenate(rings)
    end = np.concatenate([np.roll(r, -1, axis=0) for r in rings])
    out = np.zeros(len(points), dtype=np.int64)
    step = max(1, _CHUNK // max(1, len(start)))
    for i in range(0, len(points), step):
        x, y = points[i : i + step, 0:1], points[i : i + step, 1:2]
        up = (start[:, 1] <= y) & (end[:, 1] > y)
        down = (start[:, 1] > y) & (end[:, 1] <= y)
        side = (end[:, 0] - start[:, 0]) * (y - start[:, 1]) - (x - start[:, 0]) * (end[:, 1] - start[:, 1])
        out[i : i + step] = (up & (side > 0)).sum(1) - (down & (side < 0)).sum(1)
    return out


def faces_of(lines: NDArray[np.object_], grid: float) -> NDArray[np.object_]:
    """The faces (m,) of the arrangement of lines (n,), noded on a grid."""
    noded = shapely.union_all(lines, grid_size=grid)
    return np.asarray(shapely.get_parts(shapely.polygonize(shapely.get_parts(noded))), dtype=object)


def faces_by_winding(rings: Sequence[Array], grid: float) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """The faces of closed rings (n, 2), first point not repeated, and the winding number of each face about them."""
    lengths = [len(r) + 1 for r in rings]
    closed = np.concatenate([np.concatenate([r, r[:1]]) for r in rings])
    faces = faces_of(shapely.linestrings(closed, indices=np.repeat(np.arange(len(rings)), lengths)), grid)
    if not len(faces):
        return faces, np.empty(0, dtype=np.int64)
    inside = shapely.get_coordinates(shapely.point_on_surface(faces))
    return faces, winding_numbers(inside, rings)


def dissolved(faces: NDArray[np.object_]) -> BaseGeometry:
    """Faces of one arrangement joined into a region: the edges that two of them share go."""
    if not len(faces):
        return EMPTY
    if len(faces) == 1:
        return faces[0]
    return polygons_only(shapely.coverage_union_all(faces))


def _signed_area(ring: Array) -> float:
    x, y = ring[:, 0] - ring[0, 0], ring[:, 1] - ring[0, 1]
    return 0.5 * float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))


def mended(region: BaseGeometry, grid: float = GRID_MM) -> tuple[BaseGeometry, float]:
    """The region with whatever moving it broke put right, and the area (mm2) by which it runs over itself.

    Outer rings wind once round what is inside, holes once back: what they wind round just once is inside, what they
    wind round twice, or backwards, is where the region was laid over itself. A valid region comes back as it is.
    """
    if region.is_empty or region.is_valid:
        return region, 0.0
    rings = []
    for part in shapely.get_parts(polygons_only(region)):
        for i, ring in enumerate((part.exterior, *part.interiors)):
            points = np.asarray(shapely.get_coordinates(ring)[:-1])
            if len(points) > 2:
                # By its area: the library tells a ring's sense by one corner, which a broken ring may have anywhere.
                outward = _signed_area(points) > 0
                rings.append(points if outward == (i == 0) else points[::-1])
    if not rings:
        return EMPTY, 0.0
    faces, winding = faces_by_winding(rings, grid)
    if not len(faces):
        return EMPTY, 0.0
    area = shapely.area(faces)
    over = float((area * np.maximum(winding - 1, 0)).sum() + (area * np.maximum(-winding, 0)).sum())
    return dissolved(faces[winding > 0]), over


@dataclass(frozen=True, eq=False)
class Arrangement:
    """Faces (m,) of the edges of several regions together with a point inside each, and which face lies in which
    region, as pairs (n,) each."""

    faces: NDArray[np.object_]
    inside: NDArray[np.object_]
    face: NDArray[np.int64]
    region: NDArray[np.int64]

    @property
    def area(self) -> Array:
        """Area of each face."""
        return np.asarray(shapely.area(self.faces), dtype=np.float64)

    def edges(self) -> tuple[NDArray[np.int64], NDArray[np.int64], Array]:
        """Stretches of edge: the face on one side (n,), the one on the other (n,; -1 outside), and their lengths."""
        rings, owner = shapely.get_rings(self.faces, return_index=True)
        points, ring = shapely.get_coordinates(rings, return_index=True)
        same = ring[1:] == ring[:-1]
        complex_ = points[:, 0] + 1j * points[:, 1]
        _, number = np.unique(complex_, return_inverse=True)
        a, b = number[:-1][same], number[1:][same]
        length = np.abs(complex_[1:] - complex_[:-1])[same]
        of = owner[ring[:-1][same]]
        key = np.minimum(a, b) * (int(number.max()) + 1 if len(number) else 1) + np.maximum(a, b)
        order = np.argsort(key, kind="stable")
        key, of, length = key[order], of[order], length[order]
        twin = np.concatenate([key[1:] == key[:-1], [False]]) if len(key) else np.zeros(0, dtype=bool)
        second = np.concatenate([[False], twin[:-1]]) if len(key) else np.zeros(0, dtype=bool)
        first = ~second
        other = np.full(len(key), -1, dtype=np.int64)
        other[twin] = of[1:][twin[:-1]]
        return of[first], other[first], length[first]


def arrange(regions: Sequence[BaseGeometry] | NDArray[np.object_], grid: float = GRID_MM) -> Arrangement:
    """All regions laid over one another, cut into faces none of which an edge crosses."""
    every = np.array(list(regions), dtype=object)
    every = np.array([g if g.is_valid else mended(g, grid)[0] for g in every], dtype=object)
    faces = faces_of(shapely.get_parts(shapely.boundary(every)), grid)
    if not len(faces):
        none = np.empty(0, dtype=np.int64)
        return Arrangement(faces, faces, none, none)
    shapely.prepare(every)
    inside = np.asarray(shapely.point_on_surface(faces), dtype=object)
    region, face = STRtree(inside).query(every, predicate="contains")
    return Arrangement(faces, inside, face.astype(np.int64), region.astype(np.int64))


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
        return dissolved(found.faces[keep(inside)])


def union(regions: Iterable[BaseGeometry], grid: float = GRID_MM) -> BaseGeometry:
    """What any of the regions covers."""
    every = [r for r in regions if not r.is_empty]
    if len(every) == 1 and every[0].is_valid:
        return every[0]
    return _or_by_faces(
        lambda: shapely.union_all(np.array(every, dtype=object), grid_size=grid),
        every,
        lambda i: np.any(i, axis=1),
        grid,
    )


def intersection(a: BaseGeometry, b: BaseGeometry, grid: float = GRID_MM) -> BaseGeometry:
    """What both regions cover."""
    if a.is_empty or b.is_empty:
        return EMPTY
    return _or_by_faces(lambda: shapely.intersection(a, b, grid_size=grid), [a, b], lambda i: np.all(i, axis=1), grid)


def difference(a: BaseGeometry, b: BaseGeometry, grid: float = GRID_MM) -> BaseGeometry:
    """What the first region covers and the second does not."""
    if a.is_empty or b.is_empty:
        return a
    return _or_by_faces(lambda: shapely.difference(a, b, grid_size=grid), [a, b], lambda i: i[:, 0] & ~i[:, 1], grid)


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


def together(regions: Iterable[BaseGeometry]) -> BaseGeometry:
    """Regions that lie apart, as one."""
    parts = [shapely.get_parts(r) for r in regions if not r.is_empty]
    if not parts:
        return EMPTY
    every = np.concatenate(parts)
    return every[0] if len(every) == 1 else shapely.multipolygons(every)


def _by_length(rows: NDArray[np.int64], labels: NDArray[np.int64], length: Array) -> dict[int, int]:
    """For each row the label with the greatest length in all."""
    order = np.lexsort((labels, rows))
    rows, labels, length = rows[order], labels[order], length[order]
    starts = np.flatnonzero(np.concatenate([[True], (np.diff(rows) != 0) | (np.diff(labels) != 0)]))
    total = np.add.reduceat(length, starts)
    best: dict[int, tuple[float, int]] = {}
    for row, label, much in zip(rows[starts].tolist(), labels[starts].tolist(), total.tolist(), strict=True):
        if row not in best or much > best[row][0]:
            best[row] = (much, label)
    return {row: label for row, (_, label) in best.items()}


def without_slivers(
    found: Arrangement, label: NDArray[np.int64], drawn: NDArray[np.bool_], width: float, area: float
) -> NDArray[np.int64]:
    """Labels (m,) of the faces (-1: nothing) in which slivers have gone to what they lie along.

    A sliver is a face narrower than `width` (mm), or a piece of one label smaller than `area` (mm2); faces that are
    `drawn` (m,) so small stay. Each goes to the label with which it shares most of its edge.
    """
    if not len(label):
        return label
    label = label.copy()
    one, other, length = found.edges()
    narrow = (2 * found.area < width * shapely.length(found.faces)) & ~drawn
    if narrow.any():
        from_ = np.concatenate([one, other[other >= 0]])
        to = np.concatenate([other, one[other >= 0]])
        much = np.concatenate([length, length[other >= 0]])
        for _ in range(4):
            # What lies beyond another sliver is not asked for until that one has gone somewhere.
            ask = narrow[from_] & ((to < 0) | ~narrow[np.maximum(to, 0)])
            if not ask.any():
                break
            there = np.where(to[ask] < 0, -1, label[np.maximum(to[ask], 0)])
            goes = _by_length(from_[ask], there, much[ask])
            rows = np.fromiter(goes.keys(), dtype=np.int64)
            label[rows] = np.fromiter(goes.values(), dtype=np.int64)
            narrow[rows] = False
    inner = other >= 0
    joined = inner & (label[one] == label[np.maximum(other, 0)])
    n = len(label)
    _, piece = connected_components(
        coo_matrix((np.ones(int(joined.sum())), (one[joined], other[joined])), shape=(n, n)), directed=False
    )
    small = np.bincount(piece, found.area) < area
    small &= np.bincount(piece, drawn) == 0
    small &= np.bincount(piece, label >= 0) > 0
    if small.any():
        a, b = piece[one], np.where(inner, piece[np.maximum(other, 0)], -1)
        label_of = np.full(len(small), -1, dtype=np.int64)
        label_of[piece] = label
        ends = ((a, b), (b, a))
        rows = np.concatenate([p[(p >= 0) & (p != q) & small[np.maximum(p, 0)]] for p, q in ends])
        to = np.concatenate([q[(p >= 0) & (p != q) & small[np.maximum(p, 0)]] for p, q in ends])
        much = np.concatenate([length[(p >= 0) & (p != q) & small[np.maximum(p, 0)]] for p, q in ends])
        large = (to < 0) | ~small[np.maximum(to, 0)]
        if large.any():
            there = np.where(to[large] < 0, -1, label_of[np.maximum(to[large], 0)])
            for p, goes_to in _by_length(rows[large], there, much[large]).items():
                label[piece == p] = goes_to
    return label
