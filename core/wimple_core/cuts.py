"""What the blade does: rings and lines in the plane, each with its role and the piece it belongs to. Mm, y up."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, get_args

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from .arrangement import EMPTY
from .arrays import Array, Whole

Role = Literal["piece", "hole", "mark", "weed", "frame", "slit", "guide"]
ROLES: tuple[Role, ...] = get_args(Role)
"""`piece` the edge of film that stays, `hole` an edge inside one, `mark` a registration mark, `weed` a line that parts
the waste, `frame` a line round work to weed along, `slit` a cut into a piece, `guide` a line that is drawn, not cut."""
NO_PIECE = -1


@dataclass(frozen=True, eq=False)
class Cuts:
    """Rings and lines, and what each of them is.

    `points` (n, 2) mm, those of path i from `ends[i - 1]` to `ends[i]`; `closed` (m,) tells a ring, whose first point
    is not repeated, from a line; `roles` (m,) are places in ROLES, `pieces` (m,) places in `ids`, or NO_PIECE. A hole
    follows the ring it lies in.
    """

    points: Array
    ends: Whole
    closed: NDArray[np.bool_]
    roles: Whole
    pieces: Whole
    ids: tuple[str, ...] = ()

    def __len__(self) -> int:
        return len(self.ends)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, low, right, high of everything, mm; not numbers where there is nothing."""
        if not len(self.points):
            return (np.nan, np.nan, np.nan, np.nan)
        (left, low), (right, high) = self.points.min(axis=0), self.points.max(axis=0)
        return float(left), float(low), float(right), float(high)

    def paths(self) -> list[Array]:
        """The points (k, 2) of each path."""
        return np.split(self.points, self.ends[:-1]) if len(self) else []

    def transform(self, move: Callable[[Array], Array]) -> Cuts:
        """The same with every point moved: `move` takes points (n, 2) and gives as many."""
        return replace(self, points=move(self.points) if len(self.points) else self.points)

    def only(self, *wanted: Role) -> Cuts:
        """What has one of those roles."""
        return self.where(np.isin(self.roles, [ROLES.index(r) for r in wanted]))

    def of_piece(self, id: str) -> Cuts:
        """What belongs to one piece."""
        return self.where(self.pieces == (self.ids.index(id) if id in self.ids else -2))

    def where(self, keep: NDArray[np.bool_]) -> Cuts:
        """The paths (m,) that are to be kept."""
        lengths = np.diff(self.ends, prepend=0)
        return Cuts(
            self.points[np.repeat(keep, lengths)],
            np.cumsum(lengths[keep]),
            self.closed[keep],
            self.roles[keep],
            self.pieces[keep],
            self.ids,
        )

    def between(self, first: int, end: int) -> Cuts:
        """The paths from one on, as far as before another, by their numbers."""
        at = int(self.ends[first - 1]) if first else 0
        return Cuts(
            self.points[at : int(self.ends[end - 1])],
            self.ends[first:end] - at,
            self.closed[first:end],
            self.roles[first:end],
            self.pieces[first:end],
            self.ids,
        )

    @cached_property
    def region(self) -> BaseGeometry:
        """The areas that the rings go round, their holes left out. Lines have none."""
        rings = self.where(self.closed)
        if not len(rings):
            return EMPTY
        lengths = np.diff(rings.ends, prepend=0)
        every = shapely.linearrings(rings.points, indices=np.repeat(np.arange(len(rings)), lengths))
        hole = rings.roles == ROLES.index("hole")
        owner = np.cumsum(~hole) - 1
        polygons = shapely.polygons(every[~hole])
        if hole.any():
            polygons = _with_holes(polygons, every[~hole], every[hole], owner[hole])
        return polygons[0] if len(polygons) == 1 else shapely.multipolygons(polygons)

    @cached_property
    def outlines(self) -> BaseGeometry:
        """Every path as a line, rings closed."""
        lines = [
            shapely.LinearRing(p) if ring else shapely.LineString(p)
            for p, ring in zip(self.paths(), self.closed.tolist(), strict=True)
        ]
        return shapely.geometrycollections(lines)


def _with_holes(
    polygons: NDArray[np.object_], shells: NDArray[np.object_], holes: NDArray[np.object_], owner: Whole
) -> NDArray[np.object_]:
    """Polygons with those of their shells that have holes made anew; `owner` (h,) names the shell of each hole, and
    grows."""
    with_some, first = np.unique(owner, return_index=True)
    out = polygons.copy()
    for n, some in zip(with_some.tolist(), np.split(holes, first[1:]), strict=True):
        out[n] = shapely.polygons(shells[n], some)
    return out


NOTHING = Cuts(
    np.empty((0, 2)),
    np.empty(0, dtype=np.int64),
    np.empty(0, dtype=bool),
    np.empty(0, dtype=np.int64),
    np.empty(0, dtype=np.int64),
)


def cuts_round(region: BaseGeometry, role: Role = "piece", ids: Sequence[str] = ()) -> Cuts:
    """The edges of a region: each of its parts as `role`, holes after it. `ids` names the parts in their order; without
    them the edges belong to no piece."""
    parts = shapely.get_parts(region)
    parts = parts[~shapely.is_empty(parts)]
    if not len(parts):
        return NOTHING
    rings, part = shapely.get_rings(parts, return_index=True)
    coordinates, ring = shapely.get_coordinates(rings, return_index=True)
    last = np.concatenate([ring[1:] != ring[:-1], [True]])
    counts = np.bincount(ring[~last], minlength=len(rings))
    hole = np.concatenate([[False], part[1:] == part[:-1]])
    roles = np.where(hole, ROLES.index("hole"), ROLES.index(role))
    return Cuts(
        coordinates[~last],
        np.cumsum(counts),
        np.ones(len(rings), dtype=bool),
        roles.astype(np.int64),
        part.astype(np.int64) if len(ids) else np.full(len(rings), NO_PIECE, dtype=np.int64),
        tuple(ids),
    )


def cuts_along(lines: Iterable[Array], role: Role, ids: Sequence[str] = ()) -> Cuts:
    """Open lines (k, 2) each as `role`; `ids` names the piece that each belongs to."""
    every = [np.asarray(line, dtype=np.float64) for line in lines]
    if not every:
        return NOTHING
    names = tuple(dict.fromkeys(ids))
    number = {name: n for n, name in enumerate(names)}
    return Cuts(
        np.concatenate(every),
        np.cumsum([len(line) for line in every]).astype(np.int64),
        np.zeros(len(every), dtype=bool),
        np.full(len(every), ROLES.index(role), dtype=np.int64),
        np.array([number[i] for i in ids] if ids else [NO_PIECE] * len(every), dtype=np.int64),
        names,
    )


def together(every: Iterable[Cuts]) -> Cuts:
    """All of them as one, in their order."""
    some = [c for c in every if len(c)]
    if len(some) < 2:
        return some[0] if some else NOTHING
    ids = tuple(dict.fromkeys(i for c in some for i in c.ids))
    number = {name: n for n, name in enumerate(ids)}
    renamed = [np.array([*(number[i] for i in c.ids), NO_PIECE], dtype=np.int64)[c.pieces] for c in some]
    shift = np.cumsum([0, *(len(c.points) for c in some[:-1])])
    return Cuts(
        np.concatenate([c.points for c in some]),
        np.concatenate([c.ends + by for c, by in zip(some, shift.tolist(), strict=True)]),
        np.concatenate([c.closed for c in some]),
        np.concatenate([c.roles for c in some]),
        np.concatenate(renamed),
        ids,
    )
