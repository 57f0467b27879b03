"""The workshop's film for the screens: each piece drawn to one scale, and what cutting a load takes off it."""

from __future__ import annotations

from typing import Literal

from ..figures import LengthStyle, format_length, format_quantity
from ..job.stock import FilmColour, StockPiece
from ..job.tables import Tables
from ..sheets.allot import Change
from .drawn import Ring, View, rings_of


class PieceView(View):
    """A piece of film: as it is written down, its size in words, and what of it can be cut (mm from its lower left)."""

    piece: StockPiece
    words: str
    rings: list[Ring]
    used_up: bool


class StockFilmView(View):
    """One colour of film, and the pieces of it that are counted."""

    film: str
    family: str
    name: str
    colour: str
    finish: str
    turns: Literal["never", "half", "any"]
    left: str
    price_per_m2: str
    pieces: list[PieceView]


class StockView(View):
    """All film that is counted."""

    films: list[StockFilmView]
    remnant_mm: float
    worth: str
    """What is left of it is worth, at what was paid."""


def piece_words(p: StockPiece, style: LengthStyle) -> str:
    """A piece and its size in a few words."""
    width, length = format_length(p.width_mm, style), format_quantity(p.length_mm / 1000, "m", style)
    if p.form == "roll":
        return f"roll, {width} wide, {length} left"
    size = f"{width} by {format_length(p.length_mm, style)}"
    return f"{p.sheets} sheet{'' if p.sheets == 1 else 's'}, {size}" if p.form == "sheet" else f"remnant, {size}"


def piece_view(p: StockPiece, style: LengthStyle) -> PieceView:
    """A piece as it is drawn."""
    region = p.region
    return PieceView(piece=p, words=piece_words(p, style), rings=rings_of(region, 0.0), used_up=region.is_empty)


def _area(p: StockPiece) -> float:
    return float(p.region.area) * (p.sheets if p.form == "sheet" else 1)


def stock_view(tables: Tables, style: LengthStyle) -> StockView:
    """The stock of a workshop."""
    of: dict[tuple[str, str], list[StockPiece]] = {}
    for p in tables.stock:
        of.setdefault((p.film, p.name), []).append(p)
    colours = {(c.film, c.name): c for c in tables.colours}
    films, worth = [], 0.0
    for key, pieces in of.items():
        own: FilmColour = colours[key]
        family = own.of(tables.film(own.film))
        area = sum(_area(p) for p in pieces)
        worth += area / 1e6 * float(family.price_per_m2)
        films.append(
            StockFilmView(
                film=own.film,
                family=family.name,
                name=own.name,
                colour=own.colour,
                finish=family.finish,
                turns=family.turns,
                left=format_quantity(area, "mm2", style),
                price_per_m2=str(family.price_per_m2),
                pieces=[piece_view(p, style) for p in pieces],
            )
        )
    return StockView(films=films, remnant_mm=tables.remnant_mm, worth=f"{worth:.2f}")


class OfferedView(View):
    """A remnant that would be left."""

    id: str
    words: str
    rings: list[Ring]


class OfferView(View):
    """What cutting a load takes off the stock, in words, the remnants it leaves, and what of it is not there."""

    off: list[str]
    remnants: list[OfferedView]
    missing: list[str]


def offer_view(change: Change, style: LengthStyle) -> OfferView:
    """What marking a load as cut does."""
    off = []
    for id, was in change.before.items():
        left = change.after[id]
        if was is None:
            continue
        if was.form == "roll" and left is not None:
            gone = format_length(was.length_mm - left.length_mm, style)
            off.append(f"{gone} off the roll {was.name}, {format_quantity(left.length_mm / 1000, 'm', style)} left")
        elif was.form == "sheet" and left is not None:
            off.append(f"{was.sheets - left.sheets} of {was.sheets} sheets {was.name}")
        else:
            off.append(f"out of the {piece_words(was, style)}, {was.name}")
    return OfferView(
        off=off,
        remnants=[
            OfferedView(id=p.id, words=piece_words(p, style), rings=rings_of(p.region, 0.0)) for p in change.remnants
        ],
        missing=[f"{one.name}: {format_length(one.length, style)} are missing" for one in change.missing],
    )
