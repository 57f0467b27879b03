"""Film taken of what a workshop has: out of the smallest remnant that holds it, else a sheet, else off a roll.

What comes off a roll comes off at its full width, and as long as what is left beside it must be to be kept; that is a
remnant for what is taken next.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..job.shipped import Film
from ..job.stock import StockPiece, Turns
from ..overlay import difference

EVEN_MM = 1e-3
"""What is as large as its place goes in."""
HAND_MM = 0.5
"""Narrower film is cut by no hand (common practice, no source)."""
LEAST_MM2 = 1e-3
ENDLESS = "to-buy"
"""The roll that would have to be bought."""
_RANK = {"remnant": 0, "offcut": 0, "sheet": 1, "roll": 2}
Form = Literal["roll", "sheet", "remnant", "offcut"]
Box = tuple[float, float, float, float]


@dataclass(frozen=True, eq=False)
class Bit:
    """Film that can be cut from: a piece of the stock, or what is left beside what was cut off its roll; `region` in mm
    from the piece's lower left."""

    piece: str
    form: Form
    region: BaseGeometry

    @property
    def box(self) -> Box:
        left, low, right, high = self.region.bounds
        return (left, low, right, high)


@dataclass(frozen=True)
class Taken:
    """Film as it is taken: out of which piece, where on it (left, low, right, high, mm from its lower left), turned a
    quarter or not, and how much (mm) of its roll is cut off for it."""

    piece: str
    form: Form
    box: Box
    turned: bool
    cut_off: float = 0.0


def as_a_hand_cuts(part: BaseGeometry) -> list[BaseGeometry]:
    """What is left of film (one polygon) in pieces that a hand can cut apart: what is narrower than HAND_MM is no
    film, and two pieces that hang together by so little are two."""
    half = HAND_MM / 2
    inner = shapely.buffer(part, -half, join_style="mitre")
    wide = shapely.intersection(shapely.buffer(inner, half, join_style="mitre"), part)
    found = [p for p in shapely.get_parts(wide) if p.geom_type == "Polygon" and p.area > LEAST_MM2]
    if len(found) == 1 and part.area - found[0].area < LEAST_MM2:
        return [part]
    return found


@lru_cache(maxsize=4096)
def _place_in(wkb: bytes, wide: float, tall: float) -> tuple[float, float] | None:
    region = shapely.from_wkb(wkb)
    left, low, right, high = region.bounds
    wide, tall = wide - EVEN_MM, tall - EVEN_MM
    if wide > right - left or tall > high - low:
        return None
    # Where its lower left cannot be: where it would meet what is outside, which is outside grown to the left and down.
    outside = shapely.difference(shapely.box(left - 1, low - 1, right + 1, high + 1), region)
    rings = shapely.get_rings(shapely.get_parts(outside))
    edges = np.concatenate([np.stack([p[:-1], p[1:]], axis=1) for p in map(shapely.get_coordinates, rings)])
    corners = np.array([(0.0, 0.0), (-wide, 0.0), (-wide, -tall), (0.0, -tall)])
    swept = shapely.convex_hull(shapely.multipoints((edges[:, :, None, :] + corners).reshape(-1, 8, 2)))
    barred = shapely.union_all([outside, *swept], grid_size=1e-6)
    free = shapely.difference(shapely.box(left, low, right - wide, high - tall), barred, grid_size=1e-6)
    some = shapely.get_coordinates(free)
    some = some[np.lexsort((some[:, 0], some[:, 1]))]
    # On the grid a place may come out where none is.
    there = shapely.box(some[:, 0], some[:, 1], some[:, 0] + wide, some[:, 1] + tall)
    held = np.flatnonzero(shapely.covers(shapely.buffer(region, EVEN_MM), there))
    return (float(some[held[0], 0]), float(some[held[0], 1])) if len(held) else None


def place_in(region: BaseGeometry, wide: float, tall: float) -> tuple[float, float] | None:
    """Where a rectangle goes into a region lowest, and of such places furthest left (mm, its lower left corner); None
    where it does not. What is as large as its place goes in."""
    if region.is_empty:
        return None
    left, low, right, high = region.bounds
    if abs(region.area - (right - left) * (high - low)) < 1e-6:
        fits = wide <= right - left + EVEN_MM and tall <= high - low + EVEN_MM
        return (left, low) if fits else None
    return _place_in(shapely.to_wkb(region), wide, tall)


@dataclass(frozen=True, eq=False)
class Supply:
    """All film of one colour: the bits it can be cut from. What is left is kept where a square of `keep_mm` goes in."""

    bits: tuple[Bit, ...]
    keep_mm: float

    @classmethod
    def of(cls, pieces: Iterable[StockPiece], keep_mm: float) -> Supply:
        """What there is of some pieces of one colour."""
        bits = []
        for p in pieces:
            count = p.sheets if p.form == "sheet" else 1
            bits += [Bit(p.id, p.form, p.region) for _ in range(count) if not p.region.is_empty]
        return cls(tuple(bits), keep_mm)

    def take(self, wide: float, tall: float, turns: Turns = "any") -> tuple[Taken, Supply] | None:
        """Take a rectangle of film, what it is taken from and what is left; None where no bit holds it."""
        sizes = [(wide, tall, False), *([(tall, wide, True)] if turns == "any" else [])]
        for bit in sorted(self.bits, key=lambda b: (_RANK[b.form], b.region.area)):
            # Of two ways the one that takes less off a roll, or lies lower.
            found = [(at[1] + h, at, w, h, turned) for w, h, turned in sizes if (at := place_in(bit.region, w, h))]
            if found:
                _, at, w, h, turned = min(found, key=lambda one: (one[0], one[4]))
                return self._without(bit, (at[0], at[1], at[0] + w, at[1] + h), turned)
        return None

    def _without(self, bit: Bit, box: Box, turned: bool) -> tuple[Taken, Supply]:
        others = [b for b in self.bits if b is not bit]
        left, low, right, high = bit.box
        if bit.form == "roll":
            top = min(box[3], high)
            # What is left beside it is a remnant where the strip is cut off as wide as one must be.
            if top - low < self.keep_mm <= min(right - box[2], high - low):
                top = low + self.keep_mm
            beside = difference(shapely.box(left, low, right, top), shapely.box(left, low, box[2], box[3]))
            left_over = shapely.box(left, top, right, high)
            others += [Bit(bit.piece, "offcut", beside)] if beside.area > 1e-6 else []
            others += [Bit(bit.piece, "roll", left_over)] if left_over.area > 1e-6 else []
            return Taken(bit.piece, "roll", box, turned, top - low), replace(self, bits=tuple(others))
        rest = difference(bit.region, shapely.box(*box))
        parts = [p for part in shapely.get_parts(rest) for p in as_a_hand_cuts(part)]
        others += [Bit(bit.piece, "offcut" if bit.form == "offcut" else "remnant", p) for p in parts]
        return Taken(bit.piece, bit.form, box, turned), replace(self, bits=tuple(others))

    def keeps(self, region: BaseGeometry) -> bool:
        """Is so much of film kept as a remnant?"""
        return place_in(region, self.keep_mm, self.keep_mm) is not None

    def lost(self) -> float:
        """Of what is left beside what was cut off or out, so much is too small to be kept, mm2."""
        return float(
            sum(b.region.area for b in self.bits if b.form in ("offcut", "remnant") and not self.keeps(b.region))
        )


def endless(width: float) -> Supply:
    """A roll as long as it must be, of which nothing beside the work is looked after."""
    return Supply((Bit(ENDLESS, "roll", shapely.box(0, 0, width, 1e7)),), 0.0)


@dataclass(frozen=True)
class OnFilm:
    """A patch of one copy of a load, and the film that is taken for it."""

    load: int
    copy: int
    patch: int
    taken: Taken


@dataclass(frozen=True)
class Missing:
    """Film of a layer that is not there: how much of a roll would have to be bought (mm, so wide), and whether a patch
    is wider than any film of it; `widest` is what there is (mm), 0 where it is sold out."""

    name: str
    film: Film
    length: float
    width: float
    widest: float
    too_large: tuple[float, float] | None = None


@dataclass(frozen=True)
class Allotted:
    """The film of all loads as it is taken of what is counted; `lost` is what is left beside it too small to be kept
    (mm2), by the layer's name."""

    taken: tuple[OnFilm, ...] = ()
    missing: tuple[Missing, ...] = ()
    lost: Mapping[str, float] | None = None

    def lost_of(self, name: str) -> float:
        """What of a layer's film is lost, mm2."""
        return (self.lost or {}).get(name, 0.0)

    @property
    def all_lost(self) -> float:
        return sum((self.lost or {}).values())


NOTHING_TAKEN = Allotted()
