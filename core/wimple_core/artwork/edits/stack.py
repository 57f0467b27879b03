"""A drawing while its pieces are worked on: its paints in their order, and pieces lifted out of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry.base import BaseGeometry

from ...arrangement import EMPTY
from ...overlay import commons, difference, together
from ..artwork import SLIVER, ColourRegion, Paint, separate
from ..pieces import lower_corners, origins, told_apart

Shapes = np.ndarray
"""Regions (n,) of objects."""


@dataclass(frozen=True)
class Piece:
    """A piece as it is seen: its name, its colour and its region, mm."""

    name: str
    colour: str
    region: BaseGeometry


@dataclass(frozen=True)
class Lift:
    """What was lifted of one paint for one piece: the piece's number among those asked for, the paint's level, and the
    region, with what of it lies hidden."""

    piece: int
    level: int
    region: BaseGeometry


@dataclass(frozen=True)
class Stack:
    """Paints from the lowest to the uppermost, and what is seen of them; `tolerance` (mm) as they were read; `groups`
    names pieces that go as one."""

    paints: tuple[Paint, ...]
    colours: tuple[ColourRegion, ...]
    tolerance: float = 0.01
    groups: tuple[frozenset[str], ...] = ()

    @cached_property
    def pieces(self) -> dict[str, Piece]:
        """All pieces seen, by their names."""
        return {name: Piece(name, c.colour, part) for c in self.colours for part, name in zip(*c.pieces, strict=True)}

    def named(self, names: Sequence[str]) -> tuple[list[Piece], list[str]]:
        """The pieces of those names, each once and in that order, and the names there is no piece of."""
        there = [self.pieces[n] for n in dict.fromkeys(names) if n in self.pieces]
        return there, [n for n in dict.fromkeys(names) if n not in self.pieces]

    def lift(self, pieces: Sequence[Piece]) -> tuple[Lifted, tuple[Lift, ...]]:
        """What is left of the paints without some pieces, and what was lifted of each: whole, with what lies hidden,
        where the paint shows nowhere else; else as far as it is seen."""
        every = list(self.pieces.values())
        parts, level = shapely.get_parts(np.array([p.region for p in self.paints], dtype=object), return_index=True)
        colour = np.array([p.colour for p in self.paints], dtype=object)[level]
        seen = np.array([p.region for p in pieces], dtype=object)
        piece, part = _meeting(seen, np.array([p.colour for p in pieces], dtype=object), parts, colour)
        touched = np.unique(part)
        others = np.array([p.region for p in every], dtype=object)
        at, other = _meeting(parts[touched], colour[touched], others, np.array([p.colour for p in every], dtype=object))
        number = {p.name: n for n, p in enumerate(pieces)}
        owner = np.array([number.get(p.name, -1) for p in every])[other]
        gone = np.zeros(len(parts), dtype=bool)
        kept: dict[int, list[BaseGeometry]] = {}
        lifts: list[Lift] = []
        for n, p in enumerate(touched.tolist()):
            owners = owner[at == n]
            mine = piece[part == p]
            gone[p] = True
            if len(mine) == 1 and (owners >= 0).all():
                lifts.append(Lift(int(mine[0]), int(level[p]), parts[p]))
                continue
            some = commons(np.full(len(mine), parts[p], dtype=object), seen[mine])
            lifts += [Lift(int(m), int(level[p]), g) for m, g in zip(mine, some, strict=True)]
            rest = self.without_splinters(difference(parts[p], together(some)))
            if (owners >= 0).all():
                # Hidden between pieces that are all lifted: it goes with the first.
                lifts.append(Lift(int(mine[0]), int(level[p]), rest))
            else:
                kept.setdefault(int(level[p]), []).append(rest)
        regions = [together([*parts[(level == n) & ~gone], *kept.get(n, [])]) for n in range(len(self.paints))]
        return Lifted(self, regions), tuple(x for x in lifts if not x.region.is_empty)

    def without_splinters(self, region: BaseGeometry) -> BaseGeometry:
        """A region without parts so narrow that they only come of two curves cut differently."""
        parts = shapely.get_parts(region)
        narrow = 2 * shapely.area(parts) < SLIVER * self.tolerance * shapely.length(parts)
        return together(parts[~narrow])

    def seen_anew(self, paints: Sequence[Paint], expected: Sequence[Piece]) -> Stack:
        """The drawing painted so, its pieces called as those expected of their colour where they lie."""
        some = tuple(p for p in paints if not p.region.is_empty)
        if not some:
            return replace(self, paints=(), colours=())
        found = separate(some, self.tolerance)
        before: dict[str, list[Piece]] = {}
        for p in expected:
            if not p.region.is_empty:
                before.setdefault(p.colour, []).append(p)
        called: list[str] = []
        parts = [c.pieces[0] for c in found]
        for c, mine in zip(found, parts, strict=True):
            known = before.get(c.colour, [])
            of = origins(mine, np.array([p.region for p in known], dtype=object))
            called += [known[n].name if n >= 0 else "?" for n in of.tolist()]
        names = told_apart(called, lower_corners(np.concatenate(parts)), ":")
        ends = np.cumsum([0, *(len(p) for p in parts)]).tolist()
        colours = tuple(replace(c, names=names[a:b]) for c, a, b in zip(found, ends, ends[1:], strict=False))
        return replace(self, paints=some, colours=colours)


@dataclass(frozen=True)
class Lifted:
    """The paints of a drawing without what was lifted: one region for each level, empty where nothing is left."""

    stack: Stack
    regions: list[BaseGeometry]

    def with_paints(self, laid: Sequence[tuple[int, Paint]]) -> list[Paint]:
        """The paints again, with others laid directly over those of their levels."""
        above: dict[int, list[Paint]] = {}
        for level, paint in laid:
            above.setdefault(level, []).append(paint)
        out: list[Paint] = []
        for n, (paint, region) in enumerate(zip(self.stack.paints, self.regions, strict=True)):
            if not region.is_empty:
                out.append(replace(paint, region=region))
            out += above.get(n, [])
        return out


def _meeting(a: Shapes, colour_a: Shapes, b: Shapes, colour_b: Shapes) -> tuple[np.ndarray, np.ndarray]:
    """Pairs (k,), (k,) of regions of one colour that have an area in common."""
    if not len(a) or not len(b):
        return np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int64)
    i, j = STRtree(b).query(a, predicate="intersects")
    alike = colour_a[i] == colour_b[j]
    i, j = i[alike], j[alike]
    over = shapely.area(commons(a[i], b[j]))
    some = over > 1e-6 * np.minimum(shapely.area(a[i]), shapely.area(b[j]))
    return i[some], j[some]


def region_of(lifts: Sequence[Lift], piece: int) -> BaseGeometry:
    """All that was lifted for one piece."""
    return together([x.region for x in lifts if x.piece == piece]) if lifts else EMPTY
