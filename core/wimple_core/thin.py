"""Where regions are thinner than a blade or a film can take."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from .arrangement import prepared
from .overlay import differences, union

LEAST_CUT_MM = 0.25
"""What is nowhere so wide is no contour: a drag knife's tip trails by as much (common practice, no source)."""
LONG_TIP = 3.0
"""A point that goes on for more than this many half strokes beyond where it gets too thin tears; a corner of more than
about 29 degrees does not go on for so long."""
SLACK = 0.02
"""By this share of the half stroke rounding may leave an edge without its being thin."""
ALIKE = 1e-6
"""Pieces whose corners differ by no more (mm) are of one shape."""
BULGES = 0.9995
"""What fills so much of its hull has no notch."""
MOST_KNOWN = 20_000
Found = tuple[np.ndarray, np.ndarray, np.ndarray]
Look = Callable[[np.ndarray, float], Found]
Places = Callable[[np.ndarray, float], np.ndarray]
Place = tuple[BaseGeometry, bool]
"""A thin place, and whether it is a neck: whether two stretches of its piece hang together by it."""
NOWHERE: tuple[Place, ...] = ()
_KNOWN: dict[bytes, tuple[Place, ...]] = {}
"""The thin places of shapes that were looked at, each counted from its piece's left and low."""


def thin_places(parts: np.ndarray, stroke: float) -> np.ndarray:
    """Where pieces (n,) are thinner than `stroke` mm: regions (m,), one for each place.

    What vanishes when a piece is shrunk by half of that and grown again is thinner. A rest that joins two stretches of
    what is left is a neck, one that touches nothing is thin altogether, and one that touches it once is an end: thin
    where it goes on for long, else the tip of a corner. None of it depends on how the piece is turned, or on where it
    lies: pieces of one shape are looked at once.
    """
    return _remembered(parts, stroke, _looked_at)[0]


def thin_places_and_necks(parts: np.ndarray, stroke: float) -> tuple[np.ndarray, np.ndarray]:
    """The same, and which (m,) of them are necks, by which a part of a piece hangs."""
    return _remembered(parts, stroke, _looked_at)


def least_width(parts: np.ndarray, below: float, places: Places = thin_places) -> tuple[float, np.ndarray]:
    """How wide the thinnest of the `places` of pieces (n,) is, mm, where that is less than `below`, to a twentieth of
    it, and where (m,); else infinite."""
    found = places(parts, below)
    if not len(found):
        return math.inf, found
    low, high = 0.0, below
    while high - low > max(0.05 * high, 0.01 * below):
        middle = (low + high) / 2
        some = places(parts, middle)
        if len(some):
            high, found = middle, some
        else:
            low = middle
    return low, found


def hair_thin(parts: np.ndarray, width: float) -> np.ndarray:
    """Which pieces (n,) are nowhere as wide as `width` mm. No piece whose area is more than half of that by its length
    of edge is so."""
    thin = shapely.area(parts) < width / 2 * shapely.length(parts)
    some = np.flatnonzero(thin)
    thin[some] = shapely.is_empty(shapely.buffer(parts[some], -width / 2, quad_segs=4))
    found: np.ndarray = thin
    return found


def narrow_gaps(parts: np.ndarray, gap: float) -> np.ndarray:
    """Where what lies between pieces (n,), or in a notch or a hole of one, is narrower than `gap` mm: places (m,),
    where two pieces are nearest, or a region of one. A notch is a thin place of the waste round its piece."""
    if not len(parts):
        return parts
    between = shapely.line_interpolate_point(gaps_between(parts, gap), 0.5, normalized=True)
    return np.concatenate([between, narrow_notches(parts, gap)])


def gaps_between(parts: np.ndarray, gap: float) -> np.ndarray:
    """Of those the ones between two pieces: the shortest lines (m,) across."""
    one, other = shapely.STRtree(parts).query(parts, predicate="dwithin", distance=gap)
    apart = one < other
    return np.asarray(shapely.shortest_line(parts[one[apart]], parts[other[apart]]))


def narrow_notches(parts: np.ndarray, gap: float) -> np.ndarray:
    """Of those the ones in a notch or a hole of a single piece: regions (m,)."""
    # What bulges all round has no notch.
    notched = shapely.area(parts) <= BULGES * shapely.area(shapely.convex_hull(parts))
    return _remembered(parts[notched], gap, _waste_looked_at)[0]


def _waste_looked_at(parts: np.ndarray, gap: float) -> Found:
    """The thin places (m,) of the waste round each piece (n,), of which piece, and which are necks."""
    left, low, right, high = shapely.bounds(parts).T
    round_ = shapely.box(left - 2 * gap, low - 2 * gap, right + 2 * gap, high + 2 * gap)
    waste, of = shapely.get_parts(differences(round_, parts), return_index=True)
    places, part, necks = _looked_at(waste, gap)
    order = np.argsort(of[part], kind="stable")
    return places[order], of[part][order], necks[order]


def _remembered(parts: np.ndarray, width: float, look: Look) -> tuple[np.ndarray, np.ndarray]:
    """The places (m,) that are found in shapes (n,), and which are necks, each shape being looked at once."""
    if not len(parts):
        return np.array([], dtype=object), np.zeros(0, dtype=bool)
    low = shapely.bounds(parts)[:, :2]
    shapes = _shapes(parts, low, f"{look.__name__} {width!r}".encode())
    # Asked for once: another thread may let go of all meanwhile.
    found = {shape: known for shape in set(shapes) if (known := _KNOWN.get(shape)) is not None}
    anew = {shape: n for n, shape in enumerate(shapes) if shape not in found}
    found |= dict.fromkeys(anew, NOWHERE)
    numbers = np.array(list(anew.values()), dtype=np.int64)
    places, of, necks = look(parts[numbers], width)
    ends = np.searchsorted(of, np.arange(len(numbers) + 1))
    for shape, n, a, b in zip(anew, numbers, ends, ends[1:], strict=False):
        if b > a:
            some = shapely.transform(places[a:b], lambda c, n=n: c - low[n])  # type: ignore[misc]
            found[shape] = tuple(zip(some, necks[a:b].tolist(), strict=True))
    if len(_KNOWN) + len(anew) > MOST_KNOWN:
        _KNOWN.clear()
    _KNOWN.update({shape: found[shape] for shape in anew})
    every = [(n, g, neck) for n, shape in enumerate(shapes) for g, neck in found[shape]]
    moved = [shapely.transform(g, lambda c, n=n: c + low[n]) for n, g, _ in every]  # type: ignore[misc]
    return np.array(moved, dtype=object), np.array([neck for _, _, neck in every], dtype=bool)


def _shapes(parts: np.ndarray, low: np.ndarray, told: bytes) -> list[bytes]:
    """What tells the shapes of pieces (n,) whose left and low is (n, 2) from each other, wherever they lie."""
    rings, of = shapely.get_rings(parts, return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    steps = np.round((points - low[of[ring]]) / ALIKE).astype(np.int64)
    ends = np.searchsorted(of[ring], np.arange(len(parts) + 1)).tolist()
    # Each ring ends where it began: so its corners tell the rings apart as well.
    return [
        hashlib.blake2b(steps[a:b].tobytes() + told, digest_size=16).digest()
        for a, b in zip(ends, ends[1:], strict=False)
    ]


def _looked_at(parts: np.ndarray, stroke: float) -> Found:
    """The thin places (m,) of pieces (n,), of which piece each is, in their order, and which are necks."""
    half = stroke / 2
    number = np.arange(len(parts))
    kept = shapely.buffer(shapely.buffer(parts, -half, quad_segs=16), half * (1 + SLACK), quad_segs=16)
    bare = ~shapely.covers(prepared(kept), parts)
    parts, kept, number = parts[bare], kept[bare], number[bare]
    gone = shapely.is_empty(kept)
    out, of, neck = list(parts[gone]), number[gone].tolist(), [False] * int(gone.sum())
    left, number = prepared(kept[~gone]), number[~gone]
    rest, part = shapely.get_parts(differences(parts[~gone], left), return_index=True)
    seen = shapely.area(rest) > (SLACK * half) ** 2
    rest, part = rest[seen], part[seen]
    thin = _are_thin(rest, left[part], half)
    rest, part = rest[thin], part[thin]
    for n, one in zip(np.unique(part), np.split(rest, np.flatnonzero(np.diff(part)) + 1), strict=False):
        # The two sides of one neck are one place.
        places = shapely.get_parts(union(shapely.buffer(one, half))).tolist() if len(one) > 1 else list(one)
        stretches = shapely.get_parts(left[n])
        out += places
        of += [int(number[n])] * len(places)
        neck += [int(shapely.dwithin(stretches, p, 1e-3 * half).sum()) > 1 for p in places]
    order = np.argsort(of, kind="stable")
    return (np.array(out, dtype=object)[order], np.array(of, dtype=np.int64)[order], np.array(neck, dtype=bool)[order])


def _are_thin(rest: np.ndarray, left: np.ndarray, half: float) -> np.ndarray:
    """Of what vanished (n,), and what of its piece is left (n,): which is more than the tip of a corner?"""
    points, of = shapely.get_coordinates(shapely.get_exterior_ring(rest), return_index=True)
    at = shapely.points(points)

    def number(places: np.ndarray) -> np.ndarray:
        return np.bincount(of[places], minlength=len(rest))

    touching = shapely.dwithin(left[of], at, 1e-3 * half)
    begins = np.zeros_like(touching)
    begins[1:] = touching[1:] & ~touching[:-1] & (of[1:] == of[:-1])
    far = ~shapely.dwithin(left[of], at, LONG_TIP * half)
    thin: np.ndarray = (number(begins) != 1) | (number(far) > 0)
    return thin
