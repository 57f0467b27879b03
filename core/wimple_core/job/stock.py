"""The film at hand: its colours, as shipped until a workshop writes down its own, and pieces of it that are counted."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal, Self

import shapely
from pydantic import Field, model_validator

from .fields import Colour, Count, Distance, Length, Model, Money, Offset
from .shipped import Film

Turns = Literal["never", "half", "any"]
"""How work may be turned on its film: not at all, end for end, or freely."""


class FilmColour(Model):
    """One colour of a film that a workshop has: the film by its id, what they call the colour, and how it looks."""

    film: Annotated[str, Field(min_length=1, max_length=60)]
    name: Annotated[str, Field(min_length=1, max_length=40)]
    colour: Colour
    price_per_m2: Money | None = None
    """What was paid for it; null: as its family's."""
    turns: Turns | None = None
    """How work may be turned on it; null: as on its family."""
    cap_sheet: bool | None = None
    """Does a clear sheet lie on it that comes off before it is cut? null: as on its family."""

    @property
    def says_more(self) -> bool:
        """Is anything written down of it that is not as its family's?"""
        return (self.price_per_m2, self.turns, self.cap_sheet) != (None, None, None)

    def of(self, family: Film) -> Film:
        """The family with what is written down of this colour."""
        more: dict[str, object] = {}
        if self.price_per_m2 is not None:
            more["price_per_m2"] = self.price_per_m2
        if self.turns is not None:
            more |= {"directional": self.turns != "any", "half_turn": self.turns == "half"}
        if self.cap_sheet is not None:
            more["cap_sheet"] = self.cap_sheet
        return family.model_copy(update=more) if more else family


class StockPiece(Model):
    """A roll, sheets alike, or a remnant of one colour of film, which runs up its length. A colour of which no piece is
    written down is not counted; one of which all pieces are used up is sold out."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")]
    film: Annotated[str, Field(min_length=1, max_length=60)]
    name: Annotated[str, Field(min_length=1, max_length=40)]
    """The colour, as it is called among those at hand."""
    form: Literal["roll", "sheet", "remnant"]
    width_mm: Length
    length_mm: Distance
    """What is left of a roll; 0: it is used up."""
    sheets: Annotated[Count, Field(ge=0, le=1000)] = 1
    """How many there are, where they are sheets."""
    outline: Annotated[tuple[tuple[Offset, Offset], ...], Field(max_length=400)] = ()
    """A remnant's, mm from its lower left; none: a rectangle."""
    bare_edge_mm: Distance = 0.0
    """Liner without film along its beginning, below which nothing is cut."""
    bought_on: dt.date | None = None
    note: Annotated[str, Field(max_length=200)] = ""

    @model_validator(mode="after")
    def _of_film(self) -> Self:
        if self.outline and self.form != "remnant":
            raise ValueError("Only a remnant has an outline.|Leave it out, or call it a remnant.")
        if self.outline:
            round_ = shapely.Polygon(self.outline) if len(self.outline) > 2 else shapely.Polygon()
            if not round_.is_valid or round_.area < 1:
                raise ValueError(
                    "The outline of the remnant crosses itself or holds nothing.|Give its corners in order round it."
                )
            left, low, right, high = round_.bounds
            if left < -0.01 or low < -0.01 or right > self.width_mm + 0.01 or high > self.length_mm + 0.01:
                raise ValueError("The outline reaches out of the remnant.|Count it from the remnant's lower left.")
        if self.bare_edge_mm >= self.length_mm > 0:
            raise ValueError("The bare edge is as long as the film.|Measure the film without it, or leave it out.")
        return self

    @property
    def region(self) -> shapely.Polygon:
        """What of it (one sheet of several) can be cut, mm from its lower left; empty where it is used up."""
        if self.outline:
            return shapely.Polygon(self.outline)
        if self.length_mm <= self.bare_edge_mm or (self.form == "sheet" and not self.sheets):
            return shapely.Polygon()
        return shapely.box(0.0, self.bare_edge_mm, self.width_mm, self.length_mm)


NAMED = {
    "white": "#ffffff",
    "cream": "#efe6c8",
    "silver": "#c4c9cf",
    "grey": "#808790",
    "charcoal": "#3c4048",
    "black": "#101010",
    "midnight": "#1c3d7a",
    "blue": "#2a5bb8",
    "sky": "#86b8e6",
    "teal": "#1f7d80",
    "green": "#2f8a4a",
    "leaf": "#7fa37a",
    "lime": "#9ccc3c",
    "olive": "#77752f",
    "yellow": "#f2d22e",
    "gold": "#b98a2f",
    "orange": "#e8822a",
    "rust": "#c9683a",
    "red": "#c22a2a",
    "wine": "#6e1e33",
    "pink": "#ee9ab2",
    "violet": "#6b3f94",
    "lilac": "#b9a2dc",
    "brown": "#6d4428",
    "sand": "#cdb38b",
}
"""Names of colours a maker would say, ours."""
_AT_HAND = {
    "calendered-gloss": tuple(NAMED),
    "calendered-matt": ("white", "cream", "grey", "black", "midnight", "green", "red"),
    "removable": ("white", "black", "midnight", "red"),
    "cast": ("white", "cream", "black", "midnight", "sky", "gold", "red"),
    "wrap-cast": ("white", "cream", "silver", "charcoal", "black", "midnight", "sky", "red"),
    "glitter": ("silver", "gold", "midnight", "violet", "red"),
    "metallic": ("silver", "gold"),
    "holographic": ("silver",),
    "brushed": ("silver", "gold"),
    "reflective": ("white", "sky", "yellow", "red"),
    "heat-change": ("blue", "red"),
    "clear-printable": ("white",),
    "heat-transfer": ("white", "black", "midnight", "gold", "red"),
}
COLOURS = tuple(
    FilmColour(film=film, name=name, colour=NAMED[name]) for film, names in _AT_HAND.items() for name in names
)
"""Invented; where a new workshop starts."""
