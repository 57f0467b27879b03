"""Arrangements: edges of regions noded on a precision grid and cut into faces, each told by a point inside it.

Snap rounding (Hobby, "Practical segment intersection with finite precision output", Computational Geometry 13, 1999)
takes any linework whatever. Parts that meet no other go through none of it: they are their own faces. Lengths are mm
wherever the caller's are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from shapely import STRtree
from shapely.geometry.base import BaseGeometry

from .arrays import Array

GRID_MM = 1e-5
"""Places nearer than this are one: a thousandth of the tolerance to which curves are drawn."""
EMPTY = shapely.Polygon()
Regions = TypeVar("Regions", BaseGeometry, NDArray[np.object_])
_CHUNK = 4_000_000
FELLOWS = 3
FEW_LINKS = 200
"""So few links are followed one by one sooner than a matrix is set up."""


def prepared(regions: Regions) -> Regions:
    """Copies of a region, or of an array of them, made ready to be asked often.

    Never the regions themselves: those are kept and shared, and the library fills in what it prepared as it is asked,
    which no two threads may have it do at once.
    """
    copies = shapely.from_wkb(shapely.to_wkb(regions))
    shapely.prepare(copies)
    return copies  # type: ignore[no-any-return]


def polygons_only(geometry: BaseGeometry) -> BaseGeometry:
    """The areal parts of a geometry: lines and points that set operations leave behind are dropped."""
    if geometry.geom_type in ("Polygon", "MultiPolygon"):
        return geometry
    parts = shapely.get_parts(geometry)
    return shapely.multipolygons(shapely.get_parts(parts[shapely.get_dimensions(parts) == 2]))


def areas(regions: NDArray[np.object_]) -> NDArray[np.object_]:
    """The single polygons (n,) of all regions."""
    parts = shapely.get_parts(regions)
    if (shapely.get_type_id(parts) != 3).any():
        parts = shapely.get_parts(np.array([polygons_only(p) for p in parts], dtype=object))
    found: NDArray[np.object_] = parts[~shapely.is_empty(parts)]
    return found


def _linked(one: NDArray[np.int64], other: NDArray[np.int64], n: int) -> NDArray[np.int64]:
    """The number of the group each of n things is in, linked pair by pair; groups are numbered by their first."""
    if len(one) <= FEW_LINKS and n <= 4 * FEW_LINKS:
        root = list(range(n))
        for a, b in zip(one.tolist(), other.tolist(), strict=True):
            while root[a] != a:
                a = root[a]
            while root[b] != b:
                b = root[b]
            root[max(a, b)] = min(a, b)
        for k in range(n):
            root[k] = root[root[k]]
        return np.unique(root, return_inverse=True)[1]
    label: NDArray[np.int64] = connected_components(coo_matrix((np.ones(len(one)), (one, other)), shape=(n, n)))[1]
    return label


def clusters(parts: NDArray[np.object_], grid: float = GRID_MM) -> list[NDArray[np.int64]]:
    """Which parts (n,) meet, directly or one through another: their places in groups, every part in one."""
    if not len(parts):
        return []
    n, near = len(parts), 2 * grid
    left, low, right, high = shapely.bounds(parts).T
    one, other = STRtree(parts).query(shapely.box(left - near, low - near, right + near, high + near))
    one, other = one[one < other], other[one < other]
    # A few fellows of each first: where much lies over each other that joins nearly all.
    turn = np.arange(len(one)) - np.searchsorted(one, one)
    first = turn < FELLOWS
    met = first.copy()
    met[first] = shapely.intersects(parts[one[first]], parts[other[first]])
    label = _linked(one[met], other[met], n)
    for test in (shapely.intersects, lambda a, b: shapely.dwithin(a, b, near)):
        open_ = np.flatnonzero(label[one] != label[other])
        if not len(open_):
            continue
        asked, of = np.unique(one[open_], return_inverse=True)
        met[open_] = test(prepared(parts[asked])[of], parts[other[open_]])
        label = _linked(one[met], other[met], n)
    order = np.argsort(label, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)


def holes_in(parts: NDArray[np.object_]) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """The holes (h,) of parts (n,) as areas, and which part each belongs to."""
    rings, part = shapely.get_rings(parts, return_index=True)
    inner = np.concatenate([[False], part[1:] == part[:-1]])[: len(part)]
    return np.asarray(shapely.polygons(rings[inner]), dtype=object), part[inner]


def _with_holes_filled(parts: NDArray[np.object_]) -> NDArray[np.object_]:
    """The faces of holed parts that meet no other: themselves, and what their holes enclose."""
    return np.concatenate([parts, holes_in(parts)[0]]) if len(parts) else parts


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


def as_one(parts: NDArray[np.object_]) -> BaseGeometry:
    """Polygons (n,) that lie apart as one region."""
    parts = parts[~shapely.is_empty(parts)]
    if not len(parts):
        return EMPTY
    return parts[0] if len(parts) == 1 else shapely.multipolygons(parts)


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
    region, as pairs (n,) each; `alone` (m,) tells which faces share an edge with no other."""

    faces: NDArray[np.object_]
    inside: NDArray[np.object_]
    face: NDArray[np.int64]
    region: NDArray[np.int64]
    alone: NDArray[np.bool_]

    def joined(self, chosen: NDArray[np.bool_]) -> BaseGeometry:
        """Chosen faces (m,) as one region."""
        met = dissolved(self.faces[chosen & ~self.alone])
        return as_one(np.concatenate([shapely.get_parts(met), self.faces[chosen & self.alone]]))

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
    parts = areas(every)
    filled = shapely.polygons(shapely.get_exterior_ring(parts))
    groups = clusters(filled, grid)
    alone = np.array([g[0] for g in groups if len(g) == 1], dtype=np.int64)
    noded = [shapely.union_all(shapely.boundary(parts[g]), grid_size=grid) for g in groups if len(g) > 1]
    met = shapely.get_parts(shapely.polygonize(shapely.get_parts(np.array(noded, dtype=object))))
    holed = shapely.get_num_interior_rings(parts[alone]) > 0
    shared = np.concatenate([met, _with_holes_filled(parts[alone[holed]])])
    faces = np.concatenate([shared, parts[alone[~holed]]])
    by_itself = np.arange(len(faces)) >= len(shared)
    if not len(faces):
        none = np.empty(0, dtype=np.int64)
        return Arrangement(faces, faces, none, none, by_itself)
    inside = np.asarray(shapely.point_on_surface(faces), dtype=object)
    region, face = STRtree(inside).query(prepared(every), predicate="contains")
    return Arrangement(faces, inside, face.astype(np.int64), region.astype(np.int64), by_itself)
