"""Piece work: what is done to the pieces of an element, in order. Pieces are called by their names."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from .fields import Colour, Distance, Length, Model, Number, Offset

PieceName = Annotated[str, Field(min_length=1, max_length=60)]
Pieces = Annotated[tuple[PieceName, ...], Field(min_length=1, max_length=20_000)]
SomeOrAll = Annotated[tuple[PieceName, ...], Field(max_length=20_000)]
"""None named: all of them."""
Turn = Annotated[Number, Field(ge=-360, le=360)]


class _Edit(Model):
    """Base of all edits."""

    on_blank: ClassVar[bool] = False
    """Are its lengths mm on the blank, and so what it makes other where the drawing is laid in another size?"""


class LeaveOut(_Edit):
    """Pieces that are not cut: what lies beneath them is seen."""

    kind: Literal["leave_out"] = "leave_out"
    pieces: Pieces


class Give(_Edit):
    """Pieces given another colour."""

    kind: Literal["give"] = "give"
    pieces: Pieces
    colour: Colour


class Join(_Edit):
    """Pieces made one, with what of them lies hidden, in the colour of the first."""

    kind: Literal["join"] = "join"
    pieces: Pieces


class CutOut(_Edit):
    """The shape of some pieces cut out of others, with a gap round it; they stay, or have done their work."""

    on_blank = True
    kind: Literal["cut_out"] = "cut_out"
    pieces: Pieces
    of: Pieces
    gap_mm: Annotated[Distance, Field(le=20)] = 0.0
    stay: bool = True


class Common(_Edit):
    """Only what all of some pieces cover stays of them, in the colour of the first."""

    kind: Literal["common"] = "common"
    pieces: Pieces


class Divide(_Edit):
    """Pieces parted along a straight line, with a gap that keeps the parts from being one again; the line goes through
    two places of the drawing's own mm."""

    on_blank = True
    kind: Literal["divide"] = "divide"
    pieces: Pieces
    start: tuple[Offset, Offset]
    end: tuple[Offset, Offset]
    gap_mm: Annotated[Length, Field(ge=0.02, le=20)] = 0.3

    @model_validator(mode="after")
    def _goes_somewhere(self) -> Self:
        if math.dist(self.start, self.end) < 1e-6:
            raise ValueError("The line goes nowhere: it ends where it starts.|Let it go through two places.")
        return self


class Move(_Edit):
    """Pieces moved by the drawing's own mm, turned about their common middle and mirrored there, so that they stand as
    before to the rest in any size."""

    kind: Literal["move"] = "move"
    pieces: Pieces
    across_mm: Offset = 0.0
    up_mm: Offset = 0.0
    turn_deg: Turn = 0.0
    mirrored: bool = False


class Align(_Edit):
    """Pieces moved to stand even with the first: at an edge of its box, or at its middle."""

    kind: Literal["align"] = "align"
    pieces: Pieces
    at: Literal["left", "middle", "right", "top", "half_way", "bottom", "concentric"]


class Spread(_Edit):
    """Pieces between the two outermost moved so that all gaps between them are alike."""

    kind: Literal["spread"] = "spread"
    pieces: Pieces
    along: Literal["across", "up"] = "across"


class Group(_Edit):
    """Pieces that are picked, made even and spread as one from here on, and not as part of another group any more."""

    kind: Literal["group"] = "group"
    pieces: Pieces


class Outline(_Edit):
    """A rim round pieces, in a colour of its own: beneath them outward, upon them where it goes inward (below zero).
    Lengths are mm on the blank, where the element's first placement lays it."""

    on_blank = True
    kind: Literal["outline"] = "outline"
    pieces: SomeOrAll = ()
    by_mm: Annotated[Offset, Field(ge=-50, le=50)] = 2.0
    corners: Literal["round", "mitred", "blunt"] = "round"
    filled: bool = False
    """Are the islands within it filled?"""
    colour: Colour = "#ffffff"


class Shadow(_Edit):
    """The shape of pieces beneath them, moved by mm on the blank; swept: with all that lies between."""

    on_blank = True
    kind: Literal["shadow"] = "shadow"
    pieces: SomeOrAll = ()
    across_mm: Annotated[Offset, Field(ge=-100, le=100)] = 1.5
    up_mm: Annotated[Offset, Field(ge=-100, le=100)] = -1.5
    swept: bool = False
    colour: Colour = "#596273"


class Background(_Edit):
    """One shape beneath pieces that joins what would fall apart: close round them, their hull, or their box; mm on the
    blank."""

    on_blank = True
    kind: Literal["background"] = "background"
    pieces: SomeOrAll = ()
    shape: Literal["close", "hull", "box"] = "close"
    margin_mm: Annotated[Distance, Field(le=100)] = 3.0
    reach_mm: Annotated[Distance, Field(le=200)] = 8.0
    """Close: gaps up to twice as wide are bridged."""
    colour: Colour = "#ffffff"


class Bridges(_Edit):
    """Strips that hold what lies within a counter when a piece is cut as a stencil: above and below each hole, moved
    sideways and turned where that is stronger; mm on the blank."""

    on_blank = True
    kind: Literal["bridges"] = "bridges"
    pieces: SomeOrAll = ()
    width_mm: Annotated[Length, Field(le=50)] = 1.5
    across_mm: Annotated[Offset, Field(ge=-200, le=200)] = 0.0
    turn_deg: Turn = 0.0


Edit = Annotated[
    LeaveOut
    | Give
    | Join
    | CutOut
    | Common
    | Divide
    | Move
    | Align
    | Spread
    | Group
    | Outline
    | Shadow
    | Background
    | Bridges,
    Field(discriminator="kind"),
]
"""What is done to the pieces of an element, told apart by `kind`."""
