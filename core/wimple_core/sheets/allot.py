"""What film of the workshop's goes on which load, what of it is missing, and what cutting a load leaves of it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import shapely

from ..job.shipped import Film
from ..job.stock import FilmColour, StockPiece
from ..job.tables import Tables
from ..layers.at_hand import own_colour
from .loads import Load, Patch
from .supply import Allotted, Bit, Missing, OnFilm, Supply, endless


class Stock:
    """What a workshop has, by the films of a job: asked once for each."""

    def __init__(self, tables: Tables) -> None:
        self.tables = tables
        self._found: dict[tuple[str, str], FilmColour | None] = {}

    def colour(self, film: Film, colour: str) -> FilmColour | None:
        """The colour at hand that a layer is cut from, where pieces of it are counted."""
        key = (film.id, colour)
        if key not in self._found:
            own = own_colour(film.id, colour, self.tables.colours) if self.tables.stock else None
            counted = own is not None and any((p.film, p.name) == (own.film, own.name) for p in self.tables.stock)
            self._found[key] = own if counted else None
        return self._found[key]

    def pieces(self, own: FilmColour) -> list[StockPiece]:
        """The pieces of it, in the order they were written down."""
        return [p for p in self.tables.stock if (p.film, p.name) == (own.film, own.name)]

    def of(self, own: FilmColour) -> Supply:
        """The film there is of a colour."""
        return Supply.of(self.pieces(own), self.tables.remnant_mm)

    def supply(self, film: Film, colour: str) -> Supply | None:
        """The film there is for a layer; None where it is not counted."""
        own = self.colour(film, colour)
        return None if own is None else self.of(own)


def _size(patch: Patch) -> tuple[float, float]:
    left, low, right, high = patch.box
    return right - left, high - low


class _Taking:
    """Film taken of what is counted, load by load: what is left of each colour, and what was not there."""

    def __init__(self, stock: Stock) -> None:
        self.stock = stock
        self.left: dict[FilmColour, Supply] = {}
        self.names: dict[FilmColour, str] = {}
        self.taken: list[OnFilm] = []
        self.short: dict[FilmColour, list[Patch]] = {}

    def take(self, n: int, load: Load, copy: int) -> None:
        """Take the film of one copy of a load, which is the nth."""
        for k, patch in enumerate(load.patches):
            own = self.stock.colour(patch.film, patch.film_colour)
            if own is None:
                continue
            self.names.setdefault(own, patch.name)
            found = self.left.setdefault(own, self.stock.of(own)).take(*_size(patch), patch.film.turns)
            if found is None:
                self.short.setdefault(own, []).append(patch)
            else:
                one, self.left[own] = found
                self.taken.append(OnFilm(n, copy, k, one))

    def missing(self, usual_width: float) -> tuple[Missing, ...]:
        return tuple(_missing(own, some, self.stock, usual_width) for own, some in self.short.items())


def allot(loads: Sequence[Load], stock: Stock, usual_width: float) -> Allotted:
    """Take the film of all loads, in their order, of what is counted. Where a film is missing, the roll to buy is as
    wide as the widest there is of it, or `usual_width` mm."""
    taking = _Taking(stock)
    for n, load in enumerate(loads):
        for copy in range(load.times):
            taking.take(n, load, copy)
    # What was too small before is not lost by this job.
    lost = {taking.names[own]: max(left.lost() - stock.of(own).lost(), 0.0) for own, left in taking.left.items()}
    return Allotted(tuple(taking.taken), taking.missing(usual_width), lost)


def _missing(own: FilmColour, patches: Sequence[Patch], stock: Stock, usual_width: float) -> Missing:
    pieces = stock.pieces(own)
    widest = max((p.width_mm for p in pieces if not p.region.is_empty), default=0.0)
    width = max((p.width_mm for p in pieces if p.form == "roll"), default=usual_width)
    roll, length = endless(width), 0.0
    for patch in patches:
        found = roll.take(*_size(patch), patch.film.turns)
        if found is None:
            return Missing(patches[0].name, patch.film, 0.0, width, widest, _size(patch))
        one, roll = found
        length += one.cut_off
    return Missing(patches[0].name, patches[0].film, length, width, widest)


@dataclass(frozen=True)
class Change:
    """What cutting a load does to the stock: the pieces before and after it, by id (one that is not there before or
    after is None), the remnants it leaves, and what of its film is not there."""

    before: Mapping[str, StockPiece | None]
    after: Mapping[str, StockPiece | None]
    remnants: tuple[StockPiece, ...]
    missing: tuple[Missing, ...]


def free_id(taken: Iterable[str]) -> str:
    """An id that no piece of film has."""
    used = set(taken)
    n = 1
    while f"r{n}" in used:
        n += 1
    return f"r{n}"


WRITTEN_MM = 1e-3
"""Outlines are written down to so much: rounded on that grid they stay what they are."""
MOST_OUTLINE = 400
SLIT_MM = 0.1


def _opened(part: shapely.Polygon) -> shapely.Polygon:
    """A piece without windows: each is cut open to the nearest edge, so that one outline tells what there is."""
    for _ in range(len(part.interiors)):
        if not len(part.interiors):
            break
        others = shapely.union_all([part.exterior, *part.interiors[1:]])
        slit = shapely.buffer(shapely.shortest_line(part.interiors[0], others), SLIT_MM / 2)
        part = max(shapely.get_parts(shapely.difference(part, slit)), key=lambda p: p.area)
    return part if not len(part.interiors) else shapely.Polygon()


def _remnant(id: str, own: FilmColour, part: shapely.Polygon) -> StockPiece:
    part = whole = _opened(part)
    for closely in (0.05, 0.2, 0.5, 1.0, 2.0):
        plain = shapely.simplify(part, closely)
        # Never more than there is: a piece that is said to reach further would be cut off its edge.
        plain = plain if part.covers(plain) else shapely.intersection(plain, part)
        some = [p for p in shapely.get_parts(plain) if p.geom_type == "Polygon"]
        whole = shapely.set_precision(max(some, key=lambda p: p.area), WRITTEN_MM) if some else part
        if whole.geom_type == "Polygon" and len(whole.exterior.coords) <= MOST_OUTLINE and whole.exterior.is_simple:
            break
    left, low, right, high = whole.bounds
    corners = shapely.get_coordinates(whole.exterior)[:-1] - (left, low)
    square = abs(whole.area - (right - left) * (high - low)) < 1e-6
    return StockPiece(
        id=id,
        film=own.film,
        name=own.name,
        form="remnant",
        width_mm=round(right - left, 3),
        length_mm=round(high - low, 3),
        outline=() if square else tuple((round(float(x), 3), round(float(y), 3)) for x, y in corners),
    )


def when_cut(load: Load, stock: Stock, usual_width: float) -> Change:
    """What the stock becomes when a load is cut once: its film is taken off, and what is left over of it kept as a
    remnant where a square of the workshop's stated side goes into it."""
    taking = _Taking(stock)
    taking.take(0, load, 0)
    cut = {one.taken.piece for one in taking.taken}
    before: dict[str, StockPiece | None] = {}
    after: dict[str, StockPiece | None] = {}
    remnants: list[StockPiece] = []
    used = {p.id for p in stock.tables.stock}
    for own, supply in taking.left.items():
        for piece in stock.pieces(own):
            if piece.id not in cut:
                continue
            left = [b for b in supply.bits if b.piece == piece.id]
            before[piece.id], after[piece.id] = piece, _less(piece, left)
            for bit in left:
                if bit.form in ("offcut", "remnant") and supply.keeps(bit.region):
                    made = _remnant(free_id(used), own, bit.region)
                    used.add(made.id)
                    remnants.append(made)
                    before[made.id], after[made.id] = None, made
    return Change(before, after, tuple(remnants), taking.missing(usual_width))


def _less(piece: StockPiece, left: Sequence[Bit]) -> StockPiece | None:
    """A piece of which those bits are left: a shorter roll, fewer sheets, or no remnant any more."""
    if piece.form == "roll":
        rest = sum(b.box[3] - b.box[1] for b in left if b.form == "roll")
        return piece.model_copy(update={"length_mm": round(rest, 3), "bare_edge_mm": 0.0})
    if piece.form == "sheet":
        return piece.model_copy(update={"sheets": sum(b.form == "sheet" for b in left)})
    return None


def undone(
    stock: Sequence[StockPiece], before: Mapping[str, StockPiece | None], after: Mapping[str, StockPiece | None]
) -> tuple[StockPiece, ...]:
    """The stock as if a load had not been cut: what it took of a roll or of sheets is there again, whatever else was
    taken of them since; a remnant it used up is back, and one it left is gone."""
    now = {p.id: p for p in stock}
    for id, was in before.items():
        left, there = after[id], now.get(id)
        if was is None:
            now.pop(id, None)
        elif left is None or there is None:
            now.setdefault(id, was)
        else:
            now[id] = there.model_copy(
                update={
                    "length_mm": round(there.length_mm + was.length_mm - left.length_mm, 3),
                    "sheets": there.sheets + was.sheets - left.sheets,
                    "bare_edge_mm": was.bare_edge_mm if there == left else there.bare_edge_mm,
                }
            )
    return tuple(now.values())
