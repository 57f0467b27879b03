"""A pattern laid: the motif once for each row, and copies of it moved to all its places."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..arrays import Array
from ..artwork import ColourRegion
from ..errors import DoesNotFit
from ..figures import carried
from ..job.pattern import Pattern
from ..overlay import difference, intersection, together
from ..surface import Surface, Template
from ..surface.layout import band
from ..surface.pieces import Pieces
from ..surface.surface import RoundWall
from .lattice import Field, Places, joined, places_of, spaced_by
from .motif import Drawn, Motif, copies

MOST_PIECES = 40_000
LIES_OVER_MM2 = 0.05
PAIRS_LOOKED_AT = 60


@dataclass(frozen=True, eq=False)
class Patterned:
    """A pattern on the template: its colours, the places its motifs have, and how many found no room whole."""

    colours: tuple[ColourRegion, ...]
    places: Places
    left_out: int

    @property
    def change_percent(self) -> float:
        """By how much the pitch was changed to meet itself."""
        return 100 * (self.places.pitch / self.places.wanted - 1)


@dataclass(frozen=True, eq=False)
class Row:
    """Copies of a motif: where each lies (`p @ matrix + added`), of which place it is (those that reach over the seam
    are there twice), whether it must be cut, which places are kept, and how many that reach in are not."""

    drawn: Drawn
    matrix: Array
    added: Array
    of: NDArray[np.int64]
    cut: NDArray[np.bool_]
    places: Places
    lost: int


def _moves(wall: Surface, places: Places, still: bool) -> tuple[Array, Array]:
    """For each place a matrix (n, 2, 2) and what is added (n, 2), of a motif about 0, 0 where it lies `still`; else of
    one laid at the front, which is turned about the cone's point and grown from there."""
    k = wall.k
    turn = -k * places.a + (places.turn if still else 0.0)
    c, s, flip = np.cos(turn), np.sin(turn), np.where(places.mirrored, -1.0, 1.0)
    matrix = np.stack([np.stack([c * flip, s * flip], axis=1), np.stack([-s, c], axis=1)], axis=1)
    matrix = matrix * places.size[:, None, None]
    if still:
        return matrix, np.column_stack(wall.develop(places.a, places.s))
    point = np.array([0.0, -wall.scale_at(0.0) / k])
    return matrix, point - np.einsum("j,njk->nk", point, matrix)


def _over_the_seam(places: Places, wide: float, template: Template) -> tuple[Places, NDArray[np.int64]]:
    """The places, each on the turn the template shows, and again at the other end those that reach over the seam; and
    of which place each is."""
    n, surface = np.arange(len(places)), template.surface
    if not (surface.closed and template.limits.all_round):
        return places, n
    middle = (template.left + template.right) / 2
    a = middle + np.remainder(places.a - middle + math.pi, 2 * math.pi) - math.pi
    half = 0.6 * wide * places.size / np.maximum(surface.scale_at(0.0) + surface.k * places.s, 1e-6)
    on = replace(places, a=a)
    over, under = np.flatnonzero(a + half > template.right), np.flatnonzero(a - half < template.left)
    beyond = [replace(on.only(m), a=a[m] + turn) for m, turn in ((over, -2 * math.pi), (under, 2 * math.pi))]
    return joined([on, *beyond]), np.concatenate([n, over, under])


def _room(pattern: Pattern, template: Template, tall: float) -> tuple[BaseGeometry, BaseGeometry]:
    """What lies between the template's sides, well beyond its edges, and what of it motifs may cover."""
    surface, outline, free = template.surface, template.outline, template.free
    if not (surface.closed and template.limits.all_round):
        side = outline.buffer(4 * tall + 1, join_style="mitre")
        grown = outline.buffer(pattern.bleed_mm) if pattern.bleed_mm else outline
    else:
        tip = -surface.scale_at(0.0) / surface.k if surface.k else math.inf

        def between(margin: float) -> BaseGeometry:
            low, high = template.low - margin, template.high + margin
            if surface.k > 0:
                low = max(low, tip + 0.5)
            elif surface.k < 0:
                high = min(high, tip - 0.5)
            return band(surface, template.left, template.right, low, high)

        side, grown = between(2 * tall + 1), between(pattern.bleed_mm)
    room = free if pattern.edge == "whole" else difference(grown, difference(outline, free))
    return prepared(side), prepared(room)


def _row(
    pattern: Pattern, drawn: Drawn, places: Places, wall: Surface, template: Template, wide: float, still: bool,
    side: BaseGeometry, room: BaseGeometry,
) -> Row:  # fmt: skip
    """The copies of a row that have room."""
    at, of = _over_the_seam(places, wide, template)
    matrix, added = _moves(wall, at, still)
    hulls = copies(np.array([drawn.hull], dtype=object), matrix, added)
    doubtful = np.flatnonzero(~shapely.covers(room, hulls))
    cut = np.zeros(len(at), dtype=bool)
    cut[doubtful] = True
    keep = np.ones(len(places), dtype=bool)
    reaches = np.zeros(len(places), dtype=bool)
    reaches[of[shapely.intersects(room, hulls)]] = True
    if pattern.edge == "whole":
        beyond = [difference(intersection(h, side), room).area for h in hulls[doubtful]]
        keep[of[doubtful[np.array(beyond) > 1e-4]]] = False
    else:
        keep = reaches
    use = np.flatnonzero(keep[of] & shapely.intersects(side, hulls))
    number = np.cumsum(keep) - 1
    return Row(
        drawn, matrix[use], added[use], number[of[use]], cut[use], places.only(keep), int((reaches & ~keep).sum())
    )


def _no_room() -> DoesNotFit:
    return DoesNotFit(
        "No motif of this pattern has room whole.",
        field="pattern.edge",
        hint="Make it smaller, or let it be cut off at the edges.",
    )


def lay_pattern(
    pattern: Pattern, motif: Motif, template: Template, among: Sequence[Motif] = (), turn: int = 0
) -> Patterned:
    """Lay a motif in a pattern from its first placement. Where several take turns, `among` are all of them, the first
    being the one whose lattice it is, and this one has the places of number `turn`. Raises DoesNotFit at fields of the
    element."""
    surface = template.surface
    if isinstance(surface, Pieces):
        raise DoesNotFit(
            "A pattern goes round one wall, and this blank has several.",
            field="pattern",
            hint="Lay the motif in copies, one section at a time.",
        )
    wall = replace(surface, middle=0.0) if isinstance(surface, RoundWall) else surface
    wide, tall = motif.box
    free, colours = template.limits, motif.drawing.colours
    first = among[0] if among else motif
    area = sum(c.seen.area for c in first.drawing.colours) * first.scale**2
    left, right = (template.left, template.right) if wall.closed and free.all_round else (free.left, free.right)
    box = max(m.box[0] for m in (motif, *among)), max(m.box[1] for m in (motif, *among))
    field = Field(wall, left, right, free.low, free.high, first.a, first.s, *box, area, max(1, len(among)))
    places = places_of(pattern, field)
    if among:
        places = places.only(places.order % len(among) == turn)
    pieces = sum(len(c.pieces[0]) for c in colours)
    if len(places) * pieces > MOST_PIECES:
        raise DoesNotFit(
            f"That pattern has {len(places):,} motifs of {pieces} pieces, {len(places) * pieces:,} in all;"
            f" at most {MOST_PIECES:,} are laid.",
            field=spaced_by(pattern),
            hint="Set them further apart, make the motif larger, or take pieces out of it.",
        )
    across = (right - left) * (wall.scale_at(free.high if wall.k > 0 else free.low) if wall.closed else 1.0)
    if pattern.edge == "whole" and pattern.turned != "random" and (tall > free.high - free.low or wide > across):
        raise _no_room()
    side, room = _room(pattern, template, tall)
    still = wall.k == 0 or pattern.turned == "random" or pattern.lattice == "scatter"
    if still:
        rows = [(motif.still(), places)]
    elif pattern.taper == "conformal":
        rows = [(motif.laid(wall, first.s), places)]
    else:
        each = [places.only(places.row == n) for n in np.unique(places.row)]
        rows = [(motif.laid(wall, float(p.s[0])), p) for p in each]
    laid = [_row(pattern, drawn, p, wall, template, wide, still, side, room) for drawn, p in rows]
    kept = joined([r.places for r in laid])
    if not len(kept):
        raise _no_room()
    _check_apart(laid, pattern, wide, kept.pitch)
    edge = room if pattern.edge == "cut" else side
    return Patterned(_coloured(laid, edge), kept, sum(r.lost for r in laid))


def _trimmed(
    parts: NDArray[np.object_], names: list[str], cut: NDArray[np.bool_], edge: BaseGeometry
) -> tuple[list[BaseGeometry], list[str]]:
    """Parts with their names, those that may lie over an edge cut off there."""
    whole = ~cut
    whole[cut] = shapely.covers(edge, parts[cut])
    out, called = list(parts[whole]), [n for n, w in zip(names, whole.tolist(), strict=True) if w]
    for n in np.flatnonzero(~whole).tolist():
        some = list(shapely.get_parts(intersection(parts[n], edge)))
        out += some
        called += [names[n]] * len(some)
    return out, called


def _coloured(rows: Sequence[Row], edge: BaseGeometry) -> tuple[ColourRegion, ...]:
    """All copies of all rows, colour by colour; pieces are called as the motif's, with the number of their place."""
    out = []
    for n, (colour, *_) in enumerate(rows[0].drawn.colours):
        parts: list[BaseGeometry] = []
        names: list[str] = []
        painted: list[BaseGeometry] = []
        before = 0
        for row in rows:
            _, seen, theirs, beneath = row.drawn.colours[n]
            called = [f"{name}#{before + i + 1}" for i in row.of.tolist() for name in theirs]
            some, some_names = _trimmed(
                copies(seen, row.matrix, row.added), called, np.repeat(row.cut, len(seen)), edge
            )
            parts, names = parts + some, names + some_names
            if beneath is not None:
                every = copies(beneath, row.matrix, row.added)
                painted += _trimmed(every, [""] * len(every), np.repeat(row.cut, len(beneath)), edge)[0]
            before += len(row.places)
        if parts:
            seen_all = together(parts)
            out.append(ColourRegion(colour, seen_all, together(painted) if painted else seen_all, _apart(names)))
    return tuple(out)


def _apart(names: Sequence[str]) -> tuple[str, ...]:
    """Names of pieces that an edge parted are told apart."""
    counted: dict[str, int] = {}
    out = []
    for name in names:
        counted[name] = counted.get(name, 0) + 1
        out.append(name if counted[name] == 1 else f"{name}:{counted[name]}")
    return tuple(out)


def _check_apart(rows: Sequence[Row], pattern: Pattern, wide: float, pitch: float) -> None:
    """Raises DoesNotFit where motifs lie over each other: of many that could, a few are looked at."""
    hulls = np.concatenate([copies(np.array([r.drawn.hull], dtype=object), r.matrix, r.added) for r in rows])
    row = np.repeat(np.arange(len(rows)), [len(r.matrix) for r in rows])
    at = np.concatenate([np.arange(len(r.matrix)) for r in rows])
    one, other = shapely.STRtree(hulls).query(hulls, predicate="intersects")
    pairs = np.column_stack([one, other])[one < other][:PAIRS_LOOKED_AT]

    def there(i: int) -> BaseGeometry:
        r, n = rows[int(row[i])], int(at[i])
        parts = np.concatenate([seen for _, seen, _, _ in r.drawn.colours])
        return together(copies(parts, r.matrix[n : n + 1], r.added[n : n + 1]))

    worst = max((intersection(there(a), there(b)).area for a, b in pairs.tolist()), default=0.0)
    if worst > LIES_OVER_MM2:
        raise DoesNotFit(
            f"Motifs of this pattern lie over each other: they are {carried(wide)} wide and {carried(pitch)} apart.",
            field=spaced_by(pattern),
            hint="Set them further apart, or make the motif smaller.",
        )
