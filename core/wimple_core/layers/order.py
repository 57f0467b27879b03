"""Which film must lie on which, from what covers what in the drawing; and the fewest layers in which each piece can lie
as it is drawn, whole beneath what covers it."""

from __future__ import annotations

import heapq
import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from shapely import STRtree

from ..arrangement import prepared
from ..arrays import Array, Whole
from ..artwork import ColourRegion
from ..overlay import commons
from .joints import BESIDE_MM, near

NARROW_MM = 0.02
"""What two pieces have in common no wider than this comes of their edges, which should be one."""
MOST_IN_A_KNOT = 12
MOST_TRIED = 4000
"""So many piles are looked at for the fewest layers; then the best found stands."""


@dataclass(frozen=True, eq=False)
class Lying:
    """What lies on what: `pieces` (u,) as they are seen, each of a `colour` and in a `whole` one: the number of all
    that hangs together of its colour, what others hide of it too, among `wholes` (w,). Whole pieces `below` (k,) lie in
    part beneath pieces `above` (k,) of another colour, by `area` (k,) mm2."""

    count: int
    pieces: NDArray[np.object_]
    colour: Whole
    whole: Whole
    wholes: NDArray[np.object_]
    owner: Whole
    below: Whole
    above: Whole
    area: Array

    @cached_property
    def over(self) -> Array:
        """How much (mm2) of each colour lies on each other one: (c, c), the upper one first."""
        out = np.zeros((self.count, self.count))
        np.add.at(out, (self.colour[self.above], self.owner[self.below]), self.area)
        return out

    def where(self, upper: int, lower: int) -> Array:
        """The places (m, 2) where a colour lies on another."""
        here = (self.colour[self.above] == upper) & (self.owner[self.below] == lower)
        return np.asarray(shapely.get_coordinates(shapely.point_on_surface(self.pieces[self.above[here]])))

    @cached_property
    def pairs(self) -> tuple[Whole, Whole]:
        """Pieces `lower` (m,) and `upper` (m,) of which the one lies on the other.

        That a piece is seen within another's colour, as a crater is on a moon before a sky of the crater's colour,
        tells two things: the moon lies on the sky, and the crater on the moon. What lies beneath the moon is of the
        sky, not of the crater: so where a hidden piece has several that are seen of it, those that lie themselves on
        what hides it are not meant, if there are others; and of those that are, the ones that border on it.
        """
        pieces, colour, whole, below, above = self.pieces, self.colour, self.whole, self.below, self.above
        if not len(below):
            return below, above
        lies = np.zeros((len(pieces), self.count))
        np.add.at(lies, (above, self.owner[below]), self.area)
        itself = lies >= 0.5 * shapely.area(pieces)[:, None]
        largest = _largest(pieces, whole, len(self.wholes), itself)
        meant = ~itself | (largest[whole] < 0)
        hidden = np.zeros((len(self.wholes), self.count), dtype=bool)
        hidden[below, colour[above]] = True
        may = np.flatnonzero((meant & hidden[whole]).any(axis=1))
        one, other = near(pieces[may], pieces, BESIDE_MM)
        one = may[one]
        key = below * len(pieces) + above
        keep = meant[one, colour[other]] & np.isin(whole[one] * len(pieces) + other, key)
        keep &= colour[one] != colour[other]
        one, other = one[keep], other[keep]
        # Where none borders on it, the largest of the same hidden piece stands for all.
        bare = ~np.isin(key, whole[one] * len(pieces) + other)
        stands = largest[below[bare], colour[above[bare]]]
        lower, upper = np.concatenate([one, stands]), np.concatenate([other, above[bare]])
        some = lower >= 0
        return lower[some], upper[some]


def lying(colours: Sequence[ColourRegion]) -> Lying:
    """What lies on what in a drawing: what is seen of one colour where another was painted as well."""
    count = len(colours)
    seen = [shapely.get_parts(c.seen) for c in colours]
    painted = [shapely.get_parts(c.painted) for c in colours]
    pieces, wholes = (np.concatenate([np.empty(0, dtype=object), *some]) for some in (seen, painted))
    colour, owner = (np.repeat(np.arange(count), [len(p) for p in some]) for some in (seen, painted))
    none = np.empty(0, dtype=np.int64)
    hides = np.array([c.painted is not c.seen for c in colours], dtype=bool)
    if count < 2 or not hides.any():
        return Lying(count, pieces, colour, np.arange(len(pieces)), pieces, colour, none, none, np.empty(0))
    inside = shapely.point_on_surface(pieces)
    whole = _whole_of(wholes, owner, inside, colour)
    return Lying(count, pieces, colour, whole, wholes, owner, *_covered(wholes, owner, pieces, colour, inside, hides))


def _largest(pieces: NDArray[np.object_], whole: Whole, count: int, itself: NDArray[np.bool_]) -> Whole:
    """Of each whole piece (w,) and each colour (c,) the largest piece seen of it that does not lie on that colour
    itself; -1 where there is none."""
    out = np.full((count, itself.shape[1]), -1, dtype=np.int64)
    for n in np.argsort(shapely.area(pieces), kind="stable").tolist():
        out[whole[n], ~itself[n]] = n
    return out


def _covered(
    wholes: NDArray[np.object_],
    owner: Whole,
    pieces: NDArray[np.object_],
    colour: Whole,
    inside: NDArray[np.object_],
    hides: NDArray[np.bool_],
) -> tuple[Whole, Whole, Array]:
    """Which whole pieces (k,) lie in part beneath which pieces that are seen (k,) of another colour, and by how
    much."""
    low = np.flatnonzero(hides[owner])
    made = prepared(wholes[low])
    one, other = STRtree(pieces).query(made, predicate="intersects")
    apart = colour[other] != owner[low[one]]
    one, other = one[apart], other[apart]
    # What has its middle in another lies on it; what only meets its edge may do so in part.
    area = np.where(shapely.contains(made[one], inside[other]), shapely.area(pieces[other]), 0.0)
    unsure = np.flatnonzero(area == 0)
    if len(unsure):
        both = shapely.area(commons(pieces[other[unsure]], wholes[low[one[unsure]]]))
        area[unsure] = np.where(both > NARROW_MM * shapely.length(pieces[other[unsure]]) / 2, both, 0.0)
    on = area > 0
    return low[one[on]], other[on], area[on]


def _whole_of(wholes: NDArray[np.object_], owner: Whole, inside: NDArray[np.object_], colour: Whole) -> Whole:
    """For each place (n,) inside what is seen of a `colour` (n,) the whole piece of that colour it lies in."""
    out = np.zeros(len(inside), dtype=np.int64)
    place, piece = STRtree(wholes).query(inside, predicate="within")
    same = colour[place] == owner[piece]
    out[place[same]] = piece[same]
    return out


def _knots(count: int, lower: Whole, upper: Whole) -> NDArray[np.int64]:
    """The number of the knot each of `count` things is in: those of one knot lie on each other in a circle."""
    pairs = coo_matrix((np.ones(len(lower)), (lower, upper)), shape=(count, count))
    label: NDArray[np.int64] = connected_components(pairs, connection="strong")[1]
    return label


def pile(over: Array, prefer: Sequence[float]) -> list[int]:
    """The films (n,) from the lowest up, so that as little as can be lies the wrong way: `over` (n, n) says how much of
    one film, first, is to lie on each other. Of those that may come next the least of `prefer` does.

    Where films lie on each other in a circle, that is tried out for up to MOST_IN_A_KNOT of them (by the best pile of
    every subset: Held and Karp 1962); of more the one that is least on the others comes first.
    """
    upper, lower = np.nonzero(over > 0)
    knot = _knots(len(over), lower, upper)
    left, out = set(range(len(over))), list[int]()
    while left:
        waits = {int(knot[f]) for f, g in zip(upper, lower, strict=True) if knot[f] != knot[g] and {f, g} <= left}
        free = min((f for f in left if int(knot[f]) not in waits), key=lambda f: (prefer[f], f))
        some = sorted((f for f in left if knot[f] == knot[free]), key=lambda f: (prefer[f], f))
        out += _untied(over[np.ix_(some, some)], some) if len(some) > 1 else some
        left -= set(some)
    return out


def _untied(over: Array, films: Sequence[int]) -> list[int]:
    """The films of a knot with the least area lying the wrong way."""
    n = len(films)
    if n > MOST_IN_A_KNOT:
        rest, found = list(range(n)), []
        while rest:
            first = min(rest, key=lambda f: (over[f, rest].sum() - over[rest, f].sum(), f))
            found.append(first)
            rest.remove(first)
        return [films[f] for f in found]
    # best[s]: the least that lies wrong where the films of s are the lowest; each next one lies wrong by what of it is
    # to be beneath them: that is, by what of them is to lie on it.
    best = np.full(1 << n, np.inf)
    last = np.zeros(1 << n, dtype=np.int64)
    best[0] = 0.0
    bits = (np.arange(1 << n)[:, None] >> np.arange(n)) & 1
    wrong = bits @ over
    for s in range(1, 1 << n):
        some = np.flatnonzero(bits[s])
        before = s ^ (1 << some)
        cost = best[before] + wrong[before, some]
        k = int(np.argmin(cost))
        best[s], last[s] = cost[k], some[k]
    found, s = [], (1 << n) - 1
    while s:
        found.append(films[int(last[s])])
        s ^= 1 << int(last[s])
    return found[::-1]


def woven(found: Lying) -> NDArray[np.bool_]:
    """Which of the pairs (k,) are of pieces that lie on each other in a circle: no pile of whole pieces can show
    them."""
    lower, upper = found.pairs
    knot = _knots(len(found.pieces), lower, upper)
    same: NDArray[np.bool_] = knot[lower] == knot[upper]
    return same


@dataclass(frozen=True, eq=False)
class _Tied:
    """Pieces that may lie together in any pile: all of one colour that lie on and beneath the same ones."""

    colour: Whole
    needs: NDArray[np.bool_]
    """(m, m): what must be there before each."""
    of: Whole
    """Which each piece is in."""


def _tied(colour: Whole, lower: Whole, upper: Whole) -> _Tied:
    """Pieces (u,) that need not be told apart, as one."""
    label = colour.copy()
    while True:
        pairs = np.unique(np.column_stack([lower, label[upper], upper, label[lower]]), axis=0)
        below: list[set[int]] = [set() for _ in colour]
        above: list[set[int]] = [set() for _ in colour]
        for low, of_up, up, of_low in pairs.tolist():
            above[low].add(of_up)
            below[up].add(of_low)
        keys = {
            key: n
            for n, key in enumerate(
                dict.fromkeys((int(c), frozenset(b), frozenset(a)) for c, b, a in zip(label, below, above, strict=True))
            )
        }
        again = np.array(
            [keys[(int(c), frozenset(b), frozenset(a))] for c, b, a in zip(label, below, above, strict=True)],
            dtype=np.int64,
        )
        if len(keys) == len(np.unique(label)):
            break
        label = again
    count = int(label.max()) + 1 if len(label) else 0
    needs = np.zeros((count, count), dtype=bool)
    needs[label[upper], label[lower]] = True
    first = np.zeros(count, dtype=np.int64)
    first[label] = colour
    return _Tied(first, needs, label)


def fewest(found: Lying, prefer: Sequence[float]) -> list[tuple[int, NDArray[np.int64]]]:
    """The fewest layers in which all pieces lie as they are drawn, the lowest first: of each its colour, and its
    pieces. Pieces that are woven into each other are left as they fall.

    A colour all of whose pieces can be laid now is laid: no pile is shorter for waiting. Else all that can be laid of
    one colour is, and which is best is found by looking at the most promising piles first (A*: Hart, Nilsson and
    Raphael 1968; what is left needs at least a layer of each of its colours). After MOST_TRIED the best so far is
    filled up.
    """
    sound = ~woven(found)
    lower, upper = found.pairs
    tied = _tied(found.colour, lower[sound], upper[sound])
    colours = sorted({int(c) for c in tied.colour}, key=lambda c: (prefer[c], c))
    of = {c: tied.colour == c for c in colours}
    full = len(tied.colour)

    def settled(laid: NDArray[np.bool_], steps: tuple[int, ...]) -> tuple[NDArray[np.bool_], tuple[int, ...]]:
        going = True
        while going:
            going = False
            ready = ~laid & ~(tied.needs & ~laid).any(axis=1)
            for c in colours:
                rest = of[c] & ~laid
                if rest.any() and not (rest & ~ready).any():
                    laid, steps, going = laid | rest, (*steps, c), True
                    break
        return laid, steps

    tie = itertools.count()
    begin, steps = settled(np.zeros(full, dtype=bool), ())
    heap = [(0, 0, next(tie), begin, steps)]
    known: set[bytes] = set()
    for _ in range(MOST_TRIED):
        _, _, _, laid, steps = heapq.heappop(heap)
        if laid.all():
            break
        if laid.tobytes() in known:
            continue
        known.add(laid.tobytes())
        ready = ~laid & ~(tied.needs & ~laid).any(axis=1)
        for c in colours:
            mine = ready & of[c]
            if mine.any():
                then, way = settled(laid | mine, (*steps, c))
                left = len({int(x) for x in tied.colour[~then]})
                heapq.heappush(heap, (len(way) + left, int((~then).sum()), next(tie), then, way))
    else:
        while not laid.all():
            ready = ~laid & ~(tied.needs & ~laid).any(axis=1)
            c = max(colours, key=lambda c: int((ready & of[c]).sum()))
            laid, steps = settled(laid | (ready & of[c]), (*steps, c))
    return laid_out(found, steps)


def laid_out(found: Lying, steps: Sequence[int]) -> list[tuple[int, NDArray[np.int64]]]:
    """Which pieces lie in each layer of a pile of colours, the lowest first, of which some may come more than once: all
    that have by then what they lie on, and in the last of its colour all that are left."""
    sound = ~woven(found)
    lower, upper = (some[sound] for some in found.pairs)
    laid = np.zeros(len(found.pieces), dtype=bool)
    out = []
    for n, c in enumerate(steps):
        mine = ~laid & (found.colour == c)
        if c in steps[n + 1 :]:
            waits = np.zeros(len(laid), dtype=bool)
            waits[upper[~laid[lower]]] = True
            mine &= ~waits
        laid |= mine
        out.append((c, np.flatnonzero(mine)))
    return out
