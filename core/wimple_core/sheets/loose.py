"""Loose pieces: what is cut of a layer laid as close as goes, its arrangement given up to save film. Every piece of it
is then placed by hand by itself, and marks have nothing to line up."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from ..arrays import Array
from ..cuts import ROLES, Cuts, together
from ..job.stock import Turns
from .holes import Filled, Holed, filled
from .loads import Item
from .nest import Nested
from .outline import outline_of
from .shape import Place, Shape
from .skyline import lay_many

MOST = 240
"""So many pieces are laid among each other; more lie set by set, as blocks of one set's pieces."""
SHARES = 1.0, 0.5
"""The shares of a load's width that a block is tried in."""


@dataclass(frozen=True, eq=False)
class Piece:
    """One piece with its holes and slits, its lower left corner at the origin, the outline it is laid by, and its holes
    for others to lie in."""

    cuts: Cuts
    outline: Array
    holes: tuple[Array, ...] = ()


def pieces_of(cuts: Cuts) -> list[Piece]:
    """The pieces of a layer's cuts, each by itself; marks, frames and lines that part the waste are left out."""
    rings = cuts.only("piece", "hole")
    if not len(rings):
        return []
    owner = np.cumsum(rings.roles == ROLES.index("piece")) - 1
    slits = cuts.only("slit")
    shells = shapely.get_parts(rings.region)
    of_slit = np.full(len(slits), -1)
    if len(slits):
        middles = shapely.line_interpolate_point([shapely.LineString(p) for p in slits.paths()], 0.5, normalized=True)
        slit, shell = shapely.STRtree(shells).query(middles, predicate="dwithin", distance=1e-6)
        of_slit[slit] = shell
    # A piece's ring stands before those of its holes: what is of one piece lies together.
    first = np.flatnonzero(np.diff(owner, prepend=-1))
    out = []
    for n, (i, j) in enumerate(zip(first.tolist(), [*first[1:].tolist(), len(rings)], strict=True)):
        mine = rings.between(i, j)
        if (of_slit == n).any():
            mine = together([mine, slits.where(of_slit == n)])
        moved = _to_corner(mine)
        left, low, _, _ = mine.bounds
        paths = [path - (left, low) for path in rings.between(i, j).paths()]
        out.append(Piece(moved, outline_of(shapely.Polygon(paths[0])), tuple(_closed(path) for path in paths[1:])))
    return out


def _closed(path: Array) -> Array:
    """A ring's points with the first of them once more at the end."""
    return np.concatenate([path, path[:1]])


def _to_corner(cuts: Cuts) -> Cuts:
    """Cuts with their lower left at the origin."""
    left, low, _, _ = cuts.bounds
    return cuts.transform(lambda p: p - (left, low))


def shapes_of(pieces: Sequence[Piece], turns: Turns, sets: int, gap: float) -> tuple[list[Shape], Filled]:
    """What is laid of so many sets, and what of them lies in holes meanwhile."""
    in_holes = filled(tuple(Holed.of(p.outline, p.holes) for p in pieces), turns, sets, gap)
    return in_holes.shapes([Shape(piece.outline, sets, turns) for piece in pieces]), in_holes


def _laid(pieces: Sequence[Piece], turns: Turns, sets: int, width: float, gap: float) -> Nested | None:
    """So many sets of pieces at once, on a strip so wide."""
    shapes, in_holes = shapes_of(pieces, turns, sets, gap)
    found = lay_many(shapes, width, gap)
    return found and Nested(found.length, in_holes.whole(found.places))


def block(item: Item, pieces: Sequence[Piece], places: Sequence[Place], sets: int) -> Item:
    """So many sets of an item as one whose pieces lie as they are laid."""
    cuts = together([pieces[p.shape].cuts.transform(p.of) for p in places])
    left, low, right, high = cuts.bounds
    size = (right - left, high - low)
    return replace(
        item,
        cuts=_to_corner(cuts),
        size=size,
        area=item.area * sets,
        sets=sets,
        loose=len(pieces) * sets,
        numbers=tuple(item.numbers[p.shape] for p in places),
    )


def blocks(item: Item, pieces: Sequence[Piece], sets: int, room: tuple[float, float], gap: float) -> list[Item]:
    """So many sets of an item as blocks that go into a room (mm), wide ones and narrow ones."""
    found = (_laid(pieces, item.turns, sets, room[0] * share, gap) for share in SHARES)
    made = [
        block(item, pieces, laid.places, sets) for laid in found if laid is not None and laid.length <= room[1] + 1e-9
    ]
    return sorted(made, key=lambda one: one.size[0] * one.size[1])


def fewer(item: Item, pieces: Sequence[Piece], sets: int, of: int, room: tuple[float, float], gap: float) -> Item:
    """So many sets of an item out of a block of more that has room: what is left away leaves gaps, and no more room is
    taken."""
    laid = _laid(pieces, item.turns, of, room[0], gap)
    left = [sets] * len(pieces)
    kept = []
    for place in laid.places if laid is not None else ():
        left[place.shape] -= 1
        if left[place.shape] >= 0:
            kept.append(place)
    return block(item, pieces, kept, sets)


def most_sets(item: Item, pieces: Sequence[Piece], quantity: int, room: tuple[float, float], gap: float) -> int:
    """How many sets, of so many, have room with their pieces among each other; no more than MOST pieces."""
    sets = min(quantity, max(MOST // len(pieces), 1))
    while sets:
        laid = _laid(pieces, item.turns, sets, room[0], gap)
        if laid is None:
            return 0
        if laid.length <= room[1] + 1e-9:
            break
        sets = min(sets - 1, math.floor(sets * room[1] / laid.length))
    return sets
