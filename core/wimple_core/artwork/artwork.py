"""What a drawing is to the stages after it: painted regions, lowest first, and what is seen of each colour."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry.base import BaseGeometry

from ..arrangement import Arrangement, arrange
from ..slivers import without_slivers
from ..verdict import Level
from .pieces import least_in_each, lower_corners, told_apart

SLIVER = 2.0
"""What is narrower than this many tolerances is where two flattened curves that should be one lie beside each other."""
SMALL = 12.0
"""A piece smaller than a square of this many tolerances (0.1 mm and less on the blank) that no one drew is none."""


@dataclass(frozen=True)
class Note:
    """Something in a drawing that was not taken as it stood: a stable code, what it was, why, how bad that is, the
    element's field where it can be mended, and how."""

    code: str
    what: str
    reason: str
    level: Level = "look"
    field: str = "source.file"
    remedy: str = ""


@dataclass(frozen=True)
class Paint:
    """One painted region, mm, y up; `name` tells what painted it, however finely it was read."""

    region: BaseGeometry
    colour: str
    name: str = ""


@dataclass(frozen=True)
class Gap:
    """The space between two letters of a line: the line's number and that of the letter before it, both letters, its
    middle at the foot of the line (mm), the line's turn there (rad), how much is bare between the two (mm; below zero
    they overlap), how tall capitals are there, and mm to a thousandth of the em."""

    line: int
    letter: int
    words: str
    x: float
    y: float
    turn: float
    bare: float
    tall: float
    unit: float


@dataclass(frozen=True)
class Artwork:
    """A drawing read: its paints from the lowest to the uppermost, the size of its page (mm), and notes.

    `sized` tells whether the file itself said how large it is; `tolerance` (mm) how far chords may leave their curves;
    `capitals` (mm) how tall the smallest capitals are that it was set in.
    """

    paints: tuple[Paint, ...]
    width: float
    height: float
    sized: bool
    notes: tuple[Note, ...]
    tolerance: float = 0.01
    capitals: float | None = None
    gaps: tuple[Gap, ...] = ()
    """The spaces between its letters, where each can be set by itself."""
    traced: bool = False
    """Was it a picture, which its page shows whole?"""
    box: tuple[float, float, float, float] | None = None
    """Left, low, right, high, mm, of all that is drawn, where some of it was set aside or is the blank itself."""
    stands: bool = False
    """Is it drawn in the blank's own mm, so that it stands where they say and nowhere else?"""

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, low, right, high of what is painted, mm."""
        if self.box is not None:
            return self.box
        box = shapely.total_bounds(np.array([p.region for p in self.paints], dtype=object))
        return float(box[0]), float(box[1]), float(box[2]), float(box[3])


@dataclass(frozen=True)
class ColourRegion:
    """All of one colour: `seen` what shows of it, `painted` all that was painted, under others too (mm, y up), the same
    object where nothing lies over it; `names` of the pieces seen, in the order of their parts."""

    colour: str
    seen: BaseGeometry
    painted: BaseGeometry
    names: tuple[str, ...] = ()

    def regions(self, move: Callable[[BaseGeometry], BaseGeometry]) -> tuple[BaseGeometry, BaseGeometry]:
        """What is seen and what was painted, moved or cut alike; but once where they are one."""
        seen = move(self.seen)
        return seen, seen if self.painted is self.seen else move(self.painted)

    @cached_property
    def pieces(self) -> tuple[np.ndarray, tuple[str, ...]]:
        """The pieces seen (n,) and their names; pieces nobody named are counted."""
        parts = shapely.get_parts(self.seen)
        parts = parts[~shapely.is_empty(parts)]
        if len(self.names) == len(parts):
            return parts, self.names
        return parts, tuple(str(n) for n in range(1, len(parts) + 1))


def _drawn_small(found: Arrangement, paints: tuple[Paint, ...], width: float, area: float) -> np.ndarray:
    """Which faces (m,) lie within a part that somebody drew as narrow, or as small, as a sliver."""
    out = np.zeros(len(found.faces), dtype=bool)
    parts = shapely.get_parts(np.array([p.region for p in paints], dtype=object))
    size = shapely.area(parts)
    small = parts[(2 * size < width * shapely.length(parts)) | (size < area)]
    if len(small):
        out[STRtree(shapely.point_on_surface(found.faces)).query(small, predicate="contains")[1]] = True
    return out


def separate(paints: tuple[Paint, ...], tolerance: float = 0.01) -> tuple[ColourRegion, ...]:
    """What is seen of each colour, from the colour that lies lowest to the one that lies uppermost.

    The regions seen are disjoint and together cover what the paints cover. A colour lies above another where it is
    painted over it more than the other way round. Slivers between curves that were flattened to `tolerance` (mm) and
    should be one are given to what they lie along.
    """
    if not paints:
        return ()
    # One arrangement of all edges: each face shows the uppermost region it lies in. This costs what the edges cost,
    # where subtracting every region from those below costs their square.
    regions = np.array([p.region for p in paints], dtype=object)
    found = arrange(regions, tolerance / 1024)
    names = list(dict.fromkeys(p.colour for p in paints))
    colour_of = np.array([names.index(p.colour) for p in paints])
    top = np.full(len(found.faces), -1)
    np.maximum.at(top, found.face, found.region)
    label = np.where(top >= 0, colour_of[np.maximum(top, 0)], -1)
    width, area = SLIVER * tolerance, (SMALL * tolerance) ** 2
    label = without_slivers(found, label, _drawn_small(found, paints, width, area), width, area)
    origin = np.where((top >= 0) & (colour_of[np.maximum(top, 0)] == label), top, -1)
    return _stacked(found, label, names, colour_of[found.region], origin, [p.name for p in paints], ".")


def lay_over(stack: list[tuple[ColourRegion, ...]], tolerance: float = 0.01) -> tuple[ColourRegion, ...]:
    """Separated drawings laid over one another, the lowest first, as one: each hides what is seen of those below it,
    and what was painted beneath stays painted beneath."""
    every = [c for colours in stack for c in colours]
    if len(stack) < 2:
        return tuple(every)
    names = list(dict.fromkeys(c.colour for c in every))
    number = np.array([names.index(c.colour) for c in every])
    n = len(every)
    found = arrange([*(c.seen for c in every), *(c.painted for c in every)], tolerance / 1024)
    seen = found.region < n
    top = np.full(len(found.faces), -1)
    np.maximum.at(top, found.face[seen], found.region[seen])
    label = np.where(top >= 0, number[np.maximum(top, 0)], -1)
    width, area = SLIVER * tolerance, (SMALL * tolerance) ** 2
    paints = tuple(Paint(c.seen, c.colour) for c in every)
    label = without_slivers(found, label, _drawn_small(found, paints, width, area), width, area)
    parts: list[np.ndarray] = []
    called: list[str] = []
    of: list[int] = []
    for i, c in enumerate(every):
        some, theirs = c.pieces
        parts.append(some)
        called += theirs
        of += [i] * len(some)
    origin = np.full(len(found.faces), -1)
    if not len(found.faces):
        return ()
    face, part = shapely.STRtree(np.concatenate(parts)).query(found.inside, predicate="within")
    mine = (np.array(of)[part] == top[face]) & (number[np.maximum(top[face], 0)] == label[face])
    origin[face[mine]] = part[mine]
    return _stacked(found, label, names, number[found.region % n], origin, called, ":")


def _stacked(
    found: Arrangement,
    label: np.ndarray,
    names: list[str],
    painted: np.ndarray,
    origin: np.ndarray,
    called: list[str],
    sign: str,
) -> tuple[ColourRegion, ...]:
    """Colours from below: `label` (m,) the colour each face shows, `painted` the colour painted there by each pair of
    the arrangement; `origin` (m,) which of those `called` so each face is of, -1 where that is not known."""
    shown = label[found.face] >= 0
    over = np.zeros((len(names), len(names)))
    pairs = np.unique(np.column_stack([label[found.face][shown], painted[shown], found.face[shown]]), axis=0)
    np.add.at(over, (pairs[:, 0], pairs[:, 1]), found.area[pairs[:, 2]])
    lies_in = np.zeros((len(names), len(found.faces)), dtype=bool)
    lies_in[painted, found.face] = True
    out = []
    for n in _bottom_up(over):
        mine = label == n
        if mine.any():
            seen = found.joined(mine)
            parts = shapely.get_parts(seen)
            known = mine & (origin >= 0)
            least = least_in_each(parts, found.inside[known], origin[known])
            theirs = told_apart([called[i] if i >= 0 else "?" for i in least.tolist()], lower_corners(parts), sign)
            hidden = lies_in[n] & ~mine
            out.append(ColourRegion(names[n], seen, found.joined(mine | hidden) if hidden.any() else seen, theirs))
    return tuple(out)


def _bottom_up(over: np.ndarray) -> list[int]:
    """Colours by repeated choice of the one that covers least of those still to come.

    `over[a, b]` is the area where colour a is seen over colour b.
    """
    excess = over - over.T
    left, order = list(range(len(over))), []
    while left:
        least = left[int(np.argmin(excess[np.ix_(left, left)].sum(axis=1)))]
        order.append(least)
        left.remove(least)
    return order
