"""A region and what is added outside it, joined hole by hole.

A ground with five thousand holes is one piece, and joining it at once with something in each hole costs what all its
edges cost together. What lies in one hole meets nothing that lies in another: so each hole is joined by itself, and
the piece put together from its rings. Lengths are mm.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from shapely.errors import GEOSException
from shapely.geometry.base import BaseGeometry

from .arrangement import GRID_MM, areas, as_one, holes_in, polygons_only
from .overlay import differences, union

Whole = NDArray[np.int64]
Shapes = NDArray[np.object_]
OUTSIDE = -1
SAME_MM2 = 1e-9
"""Areas that differ by less are one: a hair of the grid's width along a tenth of a millimetre."""


@dataclass(frozen=True, eq=False)
class _Holes:
    """The holes (h,) of all parts as areas, and which part each belongs to."""

    areas: Shapes
    owner: Whole

    @classmethod
    def of(cls, parts: Shapes) -> _Holes:
        return cls(*holes_in(parts))

    def homes(self, elements: Shapes) -> Whole:
        """The innermost hole each element (n,) lies in, OUTSIDE where it lies in none."""
        out = np.full(len(elements), OUTSIDE, dtype=np.int64)
        if len(self.areas):
            hole, element = shapely.STRtree(shapely.point_on_surface(elements)).query(self.areas, predicate="contains")
            inward = np.argsort(-shapely.area(self.areas)[hole], kind="stable")
            out[element[inward]] = hole[inward]
        return out


def _groups(shapes: Shapes, homes: Whole) -> list[Whole]:
    """Which shapes (n,) of one home meet, directly or one through another."""
    one, other = shapely.STRtree(shapes).query(shapes)
    same = (homes[one] == homes[other]) & (one < other)
    one, other = one[same], other[same]
    meet = shapely.dwithin(shapes[one], shapes[other], 2 * GRID_MM)
    graph = coo_matrix((np.ones(int(meet.sum())), (one[meet], other[meet])), shape=(len(shapes),) * 2)
    label = connected_components(graph, directed=False)[1]
    order = np.argsort(label, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)


FEW = 8
"""So few shapes of a group are joined by the library at once; what that makes is looked at."""


def _joined(shapes: Shapes) -> BaseGeometry:
    """The shapes (n,) of a group as one."""
    if len(shapes) == 1:
        return shapes[0]
    if len(shapes) <= FEW:
        try:
            one = shapely.union_all(shapes, grid_size=GRID_MM)
            if one.is_valid:
                return polygons_only(one)
        except GEOSException:
            pass
    return union(shapes)


def with_added(region: BaseGeometry, added: list[BaseGeometry]) -> BaseGeometry:
    """What a region and areas that lie outside it cover together; those may overlap one another."""
    more = areas(np.array(added, dtype=object))
    if not len(more):
        return region
    parts = areas(np.array([region], dtype=object))
    holes = _Holes.of(parts)
    homes = holes.homes(np.concatenate([parts, more]))
    filled = np.concatenate([shapely.polygons(shapely.get_exterior_ring(parts)), more])
    joined: list[BaseGeometry] = []
    home: list[int] = []
    became = np.full(len(parts), -1, dtype=np.int64)
    for group in _groups(filled, homes):
        met = areas(np.array([_joined(filled[group])], dtype=object))
        mine = group[group < len(parts)]
        if len(met) == 1:
            became[mine] = len(joined)
        elif len(mine):
            # Nearly met: each part is in the one piece that holds it.
            piece, part = shapely.STRtree(shapely.point_on_surface(filled[mine])).query(met, predicate="contains")
            became[mine[part]] = len(joined) + piece
        joined += met.tolist()
        home += [int(homes[group[0]])] * len(met)
    if (became >= 0).all():
        out = as_one(_put_together(np.array(joined, dtype=object), np.array(home), holes, became))
        if out.is_valid:
            return out
    return union([region, *added])


def _put_together(joined: Shapes, home: Whole, holes: _Holes, became: Whole) -> Shapes:
    """Pieces (m,) with the holes that are left: `joined` are filled, each in a hole (`home`); what touches the hole's
    edge is one with the part whose hole it is, which `became` one of the joined."""
    touching = home != OUTSIDE
    edges = shapely.boundary(holes.areas[home[touching]])
    touching[touching] = shapely.dwithin(joined[touching], edges, 2 * GRID_MM)
    narrowed = _narrowed(joined, home, touching, holes)
    rings: list[list[BaseGeometry]] = [[] for _ in joined]
    for hole in np.argsort(shapely.area(holes.areas), kind="stable").tolist():
        mine = rings[int(became[holes.owner[hole]])]
        left, grown = narrowed.get(hole, ([shapely.get_exterior_ring(holes.areas[hole])], []))
        mine += left
        for n in grown:
            mine += rings[n]
    alone = np.flatnonzero(~touching).tolist()
    return np.array([_holed(joined[n], rings[n]) for n in alone], dtype=object)


def _narrowed(
    joined: Shapes, home: Whole, touching: NDArray[np.bool_], holes: _Holes
) -> dict[int, tuple[list[BaseGeometry], list[int]]]:
    """For each hole into which pieces grew: what rings are left of it, and which pieces. One that touches the edge at a
    point only is not `touching` after all."""
    order = np.flatnonzero(touching)
    order = order[np.argsort(home[order], kind="stable")]
    if not len(order):
        return {}
    groups = np.split(order, np.flatnonzero(np.diff(home[order])) + 1)
    whole = holes.areas[[home[group[0]] for group in groups]]
    left, of = _left_of(whole, np.array([as_one(joined[group]) for group in groups], dtype=object))
    out: dict[int, tuple[list[BaseGeometry], list[int]]] = {int(home[group[0]]): ([], []) for group in groups}
    for ring, n in zip(shapely.get_exterior_ring(left), of.tolist(), strict=True):
        out[int(home[groups[n][0]])][0].append(ring)
    islands, part = holes_in(left)
    for island, n in zip(islands, of[part].tolist(), strict=True):
        some = groups[n]
        touching[some[shapely.contains(island, shapely.point_on_surface(joined[some]))]] = False
    for group in groups:
        out[int(home[group[0]])][1].extend(group[touching[group]].tolist())
    return out


def _left_of(whole: Shapes, grown: Shapes) -> tuple[Shapes, Whole]:
    """What is left (m,) of each hole (n,) beside what grew into it, and of which."""
    filled = np.zeros(len(whole), dtype=np.float64)
    single = shapely.get_type_id(grown) == shapely.GeometryType.POLYGON
    filled[single] = shapely.area(shapely.polygons(shapely.get_exterior_ring(grown[single])))
    # What grew in from the whole edge leaves the holes it has itself.
    rimmed = np.abs(filled - shapely.area(whole)) < SAME_MM2
    own, part = holes_in(grown[rimmed])
    rest, of = shapely.get_parts(differences(whole[~rimmed], grown[~rimmed], GRID_MM), return_index=True)
    seen = shapely.area(rest) > 0
    return (
        np.concatenate([own, rest[seen]]),
        np.concatenate([np.flatnonzero(rimmed)[part], np.flatnonzero(~rimmed)[of[seen]]]),
    )


def _holed(piece: BaseGeometry, rings: list[BaseGeometry]) -> BaseGeometry:
    """A filled piece with holes besides those it has."""
    if not rings:
        return piece
    every = shapely.get_rings(piece)
    return shapely.polygons(every[0], [*every[1:], *rings])
