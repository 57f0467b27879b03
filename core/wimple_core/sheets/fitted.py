"""Pieces fitted edge to edge: into the lowest corner that is free goes what touches most of what is there.

A search over shapes that may lie anywhere comes near, but seldom closes a joint. Work that was cut from one piece, or
has straight edges, goes together again when a corner of it is laid into a corner of the free film, along its edge.
The touching perimeter as a measure follows Lodi, Martello and Vigo, "Heuristic and metaheuristic approaches for a
class of two-dimensional bin packing problems", 1999; several of the best lays are followed at once (a beam).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from scipy.spatial import KDTree

from ..arrays import Array
from ..job.stock import Turns
from .shape import Place, Shape, stacked

MOST_PIECES = 60
MOST_CORNERS = 24
"""More pieces, or outlines with more corners, are not fitted."""
ROUNDS = (1, 4, 16, 48)
"""So many lays are followed at once, more every time."""
EACH = 6
"""Of one lay, so many of the best next pieces are looked at."""
NEAR_MM = 1e-6
"""Pieces may be nearer to each other by so much than they must: floating point is no finer."""
HAIR_MM = 1e-9
"""Half a gap is more by so much, so that the whole one holds to the last digit."""
SLIT_MM = 2e-3
"""A slit narrower than that is closed."""
ALONG_MM = 1e-3
"""Edges, and ends of edges, nearer than that touch."""
ENDS = 0.5
"""What it counts that ends of edges meet, against that edges touch."""
MITRE = 4.0
"""A corner's gap reaches no farther than so many times the gap."""
ANGLE = 1e-6
"""Radians by which a corner may be sharper than what goes into it."""
TURNS: dict[Turns, tuple[float, ...] | None] = {"never": (0.0,), "half": (0.0, math.pi), "any": None}
"""Radians; None is any."""
FULL = 0.9995
"""A strip as full as that is as good as it gets."""


@dataclass(frozen=True)
class Fitted:
    """All shapes where they lie, half the gap away from the strip's edges, and whether next to nothing is lost between
    them."""

    places: tuple[Place, ...]
    full: bool


@dataclass(frozen=True)
class _Grown:
    """Pieces with half the gap round them, against the clock's sense: each lies to the left of its edges.

    Of every way to lay a corner of one into a corner of what is free there is a row: of which piece (m,), the corner
    (m, 2), how wide the piece is there (m,), how it is turned (m,), not a number where an edge is laid along another;
    the direction of that edge (m,), and whether it is the one back from the corner (m,).
    """

    points: Array
    """(k, v, 2) mm; of one with fewer corners the last is said again."""
    areas: Array
    lengths: Array
    which: np.ndarray
    pins: Array
    sharp: Array
    turn: Array
    edge: Array
    back: np.ndarray

    @classmethod
    def of(cls, outlines: np.ndarray, turns: Sequence[tuple[float, ...] | None], gap: float) -> _Grown:
        """Of polygons (k,) that may be turned so, that far apart (mm)."""
        away = gap / 2 + HAIR_MM if gap > 0 else 0.0
        wide = shapely.buffer(outlines, away, join_style="mitre", mitre_limit=MITRE)
        rings = [shapely.get_coordinates(one.exterior)[:-1] for one in shapely.orient_polygons(wide)]
        rows = []
        for k, (points, allowed) in enumerate(zip(rings, turns, strict=True)):
            on, back = np.roll(points, -1, axis=0) - points, np.roll(points, 1, axis=0) - points
            there, then = np.arctan2(on[:, 1], on[:, 0]), np.arctan2(back[:, 1], back[:, 0])
            sharp = (then - there) % (2 * np.pi)
            ways = (
                [(np.nan, there, 0.0), (np.nan, then, 1.0)] if allowed is None else [(t, there, 0.0) for t in allowed]
            )
            for turn, edge, side in ways:
                rows.append(
                    np.column_stack(
                        [
                            np.full(len(points), k),
                            points,
                            sharp,
                            np.full(len(points), turn),
                            edge,
                            np.full(len(points), side),
                        ]
                    )
                )
        all_of = np.concatenate(rows)
        return cls(
            stacked(rings),
            shapely.area(wide),
            shapely.length(wide),
            all_of[:, 0].astype(int),
            all_of[:, 1:3],
            all_of[:, 3],
            all_of[:, 4],
            all_of[:, 5],
            all_of[:, 6].astype(int),
        )

    def into(self, corner: Array, left: np.ndarray) -> tuple[np.ndarray, Array, Array, np.ndarray]:
        """What goes into a corner of what is free, were there nothing else, of the pieces of which some are left:
        which (m,), turned by (m,), moved by (m, 2), and as polygons (m,)."""
        angles = np.arctan2(corner[3::2], corner[2::2])
        some = np.flatnonzero(left[self.which] & (self.sharp <= (angles[1] - angles[0]) % (2 * np.pi) + ANGLE))
        turn = np.where(np.isnan(self.turn[some]), angles[self.back[some]] - self.edge[some], self.turn[some])
        c, s = np.cos(turn), np.sin(turn)
        round_to = np.stack([np.stack([c, s], axis=-1), np.stack([-s, c], axis=-1)], axis=1)
        moves = corner[:2] - np.einsum("mi,mij->mj", self.pins[some], round_to)
        there = np.matmul(self.points[self.which[some]], round_to) + moves[:, None, :]
        return self.which[some], turn, moves, shapely.polygons(there)


@dataclass(frozen=True)
class _Lay:
    """Some pieces laid: what is free, how good it is (less is better), how many of each are left, how high it is."""

    free: shapely.Polygon | shapely.MultiPolygon
    cost: float
    left: tuple[int, ...]
    places: tuple[Place, ...] = ()
    top: float = 0.0
    dead: frozenset[tuple[float, float]] = frozenset()
    """Corners into which nothing goes any more."""


@dataclass(frozen=True)
class _Next:
    """A lay and the piece to follow in it."""

    cost: float
    lay: _Lay = field(repr=False)
    place: Place
    there: shapely.Polygon = field(repr=False)
    dead: frozenset[tuple[float, float]] = field(repr=False)

    def told(self) -> tuple[tuple[object, ...], ...]:
        """The same for lays that only came about in another order."""
        return tuple(
            sorted((p.shape, round(p.turn, 2), *np.round(p.at, 2).tolist()) for p in (*self.lay.places, self.place))
        )


def fittings(shapes: Sequence[Shape], width: float, gap: float) -> Iterator[Fitted | None]:
    """What is found of shapes on a strip `width` mm wide, at least `gap` mm apart: better every time, and None in
    between while it is looked for. It ends by itself; nothing comes where they are too many, have too many corners,
    cross themselves or do not go in.
    """
    if not 0 < sum(s.count for s in shapes) <= MOST_PIECES or max(len(s.outline) for s in shapes) > MOST_CORNERS:
        return
    outlines = np.array([shapely.Polygon(s.outline) for s in shapes], dtype=object)
    if not shapely.is_valid(outlines).all():
        return
    grown = _Grown.of(outlines, [TURNS[s.turns] for s in shapes], gap)
    counts = tuple(s.count for s in shapes)
    area = float(grown.areas @ counts)
    best: _Lay | None = None
    for beam in ROUNDS:
        for made in _beam(grown, counts, width + gap, beam):
            if made is None or (best is not None and made.top >= best.top):
                yield None
                continue
            best = made
            full = made.top * (width + gap) * FULL <= area
            yield Fitted(made.places, full)
            if full:
                return


def _beam(pieces: _Grown, counts: tuple[int, ...], width: float, beam: int) -> Iterator[_Lay | None]:
    """The best lay of all, so many followed at once; None in between."""
    tall = 2 * float(pieces.areas @ counts) / width + float(np.hypot(*np.ptp(pieces.points, axis=1).T).max())
    lays = [_Lay(shapely.box(0, 0, width, tall), 0.0, counts)]
    for _ in range(sum(counts)):
        some: list[_Next] = []
        for lay in lays:
            yield None
            some += _follow(lay, pieces)
        then: list[_Lay] = []
        known: set[tuple[tuple[object, ...], ...]] = set()
        for one in sorted(some, key=lambda s: s.cost):
            if (told := one.told()) in known:
                continue
            known.add(told)
            then.append(_laid(one, pieces))
            if len(then) >= 2 * beam:
                break
        if not then:
            return
        lays = sorted(then, key=lambda lay: lay.cost)[:beam]
    yield min(lays, key=lambda lay: lay.top)


def _laid(one: _Next, pieces: _Grown) -> _Lay:
    left = tuple(n - (k == one.place.shape) for k, n in enumerate(one.lay.left))
    least = float(pieces.areas[np.array(left) > 0].min(initial=np.inf))
    free, lost = _less(one.lay.free, one.there, least)
    return _Lay(
        free,
        one.cost + lost,
        left,
        (*one.lay.places, one.place),
        max(one.lay.top, float(one.there.bounds[3])),
        one.dead,
    )


def _less(
    free: shapely.Polygon | shapely.MultiPolygon, there: shapely.Polygon, least: float
) -> tuple[shapely.Polygon | shapely.MultiPolygon, float]:
    """What stays free, without slits and without pockets smaller than `least` mm2; and how long the pockets' edges
    are, mm."""
    opened = shapely.difference(free, there)
    for by in (-SLIT_MM / 2, SLIT_MM / 2):
        opened = shapely.buffer(opened, by, join_style="mitre", mitre_limit=100.0)
    parts = shapely.get_parts(opened)
    if len(parts) < 2:
        return opened, 0.0
    size = shapely.area(parts)
    kept = parts[size >= min(0.999 * least, float(size.max()))]
    return shapely.multipolygons(kept), float(shapely.length(parts).sum() - shapely.length(kept).sum())


def _corners(free: shapely.Polygon | shapely.MultiPolygon) -> Array:
    """Corners (n, 6) of what is free, the lowest first: where, and how its edges go on and back, free to their left."""
    out = []
    for ring in shapely.get_rings(shapely.orient_polygons(shapely.get_parts(free))):
        points = shapely.get_coordinates(ring)[:-1]
        out.append(np.column_stack([points, np.roll(points, -1, axis=0) - points, np.roll(points, 1, axis=0) - points]))
    corners: Array = np.concatenate(out)
    return corners[np.lexsort((corners[:, 0], np.round(corners[:, 1], 3)))]


def _follow(lay: _Lay, pieces: _Grown) -> list[_Next]:
    """The best pieces to follow in a lay, in the lowest corner into which one goes at all."""
    corners = _corners(lay.free)
    room = shapely.buffer(lay.free, NEAR_MM, join_style="mitre")
    shapely.prepare(room)
    left, dead = np.array(lay.left) > 0, set(lay.dead)
    for corner in corners:
        here = (round(float(corner[0]), 3), round(float(corner[1]), 3))
        if here in dead:
            continue
        which, turn, moves, there = pieces.into(corner, left)
        good = np.flatnonzero(shapely.contains(room, there))
        if not len(good):
            dead.add(here)
            continue
        length = pieces.lengths[which[good]]
        touch = _touch(there[good], length, lay, corners)
        first = np.argsort(-touch / length)[:EACH]
        return [
            _Next(
                float(lay.cost + length[k] - 2 * touch[k]),
                lay,
                Place(int(which[n]), math.degrees(turn[n]), (float(moves[n, 0]), float(moves[n, 1]))),
                there[n],
                frozenset(dead),
            )
            for k, n in zip(first, good[first], strict=True)
        ]
    return []


def _touch(there: np.ndarray, length: Array, lay: _Lay, corners: Array) -> Array:
    """How much of the edge of polygons (m,) touches the edge of what is free, mm, and more where ends meet ends."""
    band = shapely.buffer(shapely.boundary(lay.free), ALONG_MM, cap_style="flat")
    along = shapely.length(shapely.intersection(shapely.boundary(there), band))
    points, owner = shapely.get_coordinates(there, return_index=True)
    meets = np.isfinite(KDTree(corners[:, :2]).query(points, distance_upper_bound=ALONG_MM)[0])
    share = np.bincount(owner, meets, minlength=len(there)) / np.bincount(owner, minlength=len(there))
    touch: Array = along + ENDS * share * length
    return touch
