"""Recipes: things makers make again and again, each one element with its own few numbers."""

from __future__ import annotations

import re
from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from .fields import Colour, Count, Distance, Length, Number
from .lettering import Lines, LinesOrNone, OneLineOrNone
from .source import FontName, Lettered, SourceBase, called

CAUTION = "Burn within sight · keep from things that catch fire · keep from children and pets"
"""The usual caution for candles, common practice, no source; local rules come first."""


class RingWords(Lettered):
    """Words round a band: above read from outside, below from inside, standing in it or knocked out of it."""

    kind: Literal["ring_words"] = "ring_words"
    outside_mm: Annotated[Length, Field(title="Outside diameter")] = 80.0
    band_mm: Annotated[Length, Field(title="Width of the band")] = 16.0
    rim_mm: Annotated[Distance, Field(title="Width of its rims", description="0: none")] = 1.2
    upper: Annotated[OneLineOrNone, Field(max_length=200, title="Words above")] = "Fernhallow"
    lower: Annotated[OneLineOrNone, Field(max_length=200, title="Words below")] = "open night"
    font: FontName = "barlow-condensed"
    letters_mm: Annotated[Length, Field(title="Height of capitals")] = 8.0
    tracking: Annotated[Number, Field(ge=-500, le=2000, title="Between letters")] = 60.0
    knocked_out: Annotated[bool, Field(title="Knocked out of the band")] = False
    colour: Annotated[Colour, Field(title="Colour")] = "#1c3d7a"

    @model_validator(mode="after")
    def _fits(self) -> Self:
        if not self.upper and not self.lower:
            raise ValueError("There are no words.|Type what is to be read.")
        if 2 * self.band_mm >= self.outside_mm:
            raise ValueError("The band is wider than the ring has room.|Make it narrower, or the ring larger.")
        if self.letters_mm + 2 * self.rim_mm > self.band_mm:
            raise ValueError("The letters are taller than the band between its rims.|Make them smaller.")
        return self

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return called(self.upper or self.lower)


class JarInsert(Lettered):
    """A round insert for a jar: as large as its inside less the clearance, with a hole or slot for the wick, a tab to
    pull it by, words on its face, and the caution round it. On a blank that is an insert itself only the words are made
    of it: how large that is, and what is cut out of it, is measured there."""

    of_blank = True
    given = ("inside_mm", "clearance_mm", "opening", "opening_mm", "tab_mm", "colour")
    kind: Literal["jar_insert"] = "jar_insert"
    inside_mm: Annotated[Length, Field(title="Inside diameter of the jar")] = 76.0
    clearance_mm: Annotated[Distance, Field(le=20, title="Clearance all round")] = 1.0
    opening: Annotated[Literal["none", "hole", "slot"], Field(title="For the wick")] = "hole"
    opening_mm: Annotated[Length, Field(title="Width of that opening")] = 6.0
    tab_mm: Annotated[Distance, Field(le=200, title="Width of its pull tab", description="0: none")] = 12.0
    face: Annotated[LinesOrNone, Field(max_length=200, title="Words on its face")] = "Fernhallow"
    face_mm: Annotated[Length, Field(title="Height of their capitals")] = 7.0
    caution: Annotated[OneLineOrNone, Field(max_length=200, title="Caution round it")] = CAUTION
    caution_mm: Annotated[Length, Field(title="Height of its capitals")] = 2.2
    font: FontName = "barlow-condensed"
    colour: Annotated[Colour, Field(title="Colour of the insert")] = "#f4ecd8"
    words_colour: Annotated[Colour, Field(title="Colour of the words")] = "#18202e"

    @model_validator(mode="after")
    def _fits(self) -> Self:
        if self.inside_mm - 2 * self.clearance_mm <= 2 * self.opening_mm:
            raise ValueError("Nothing is left of the insert.|Make the clearance or the opening smaller.")
        return self

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return "jar insert"


class FilledWords(Lettered):
    """Words that fill a rectangle: every line as wide as it, as tall as its width asks for, with even gaps."""

    kind: Literal["filled_words"] = "filled_words"
    text: Annotated[Lines, Field(title="Words")] = "look\nup at night\nstars"
    font: FontName = "bebas-neue"
    across_mm: Annotated[Length, Field(title="Wide")] = 70.0
    tall_mm: Annotated[Length, Field(title="Tall")] = 70.0
    colour: Annotated[Colour, Field(title="Colour")] = "#18202e"

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return called(self.text)


class OutlinedWords(Lettered):
    """Words with an outline round them, or two: each a film of its own beneath them."""

    kind: Literal["outlined_words"] = "outlined_words"
    text: Annotated[Lines, Field(title="Words")] = "Fernhallow"
    font: FontName = "pacifico"
    letters_mm: Annotated[Length, Field(title="Height of capitals")] = 14.0
    outline_mm: Annotated[Length, Field(le=60, title="Outline")] = 1.6
    second_mm: Annotated[Distance, Field(le=60, title="Second outline", description="0: none")] = 0.0
    filled: Annotated[bool, Field(title="Counters filled in the outline")] = True
    colour: Annotated[Colour, Field(title="Colour of the words")] = "#f4ecd8"
    outline_colour: Annotated[Colour, Field(title="Colour of the outline")] = "#1c3d7a"
    second_colour: Annotated[Colour, Field(title="Colour of the second")] = "#18202e"

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return called(self.text)


MOST_TALLIES = 60


class Tally(Lettered):
    """Marks up a bottle or cup from what it holds: a line and its figure for each quantity, smaller lines between."""

    of_blank = True
    kind: Literal["tally"] = "tally"
    quantities: Annotated[str, Field(max_length=400, title="Quantities", description="with blanks between")] = (
        "100 200 300"
    )
    unit: Annotated[Literal["ml", "cl", "fl oz", "cups"], Field(title="In")] = "ml"
    between: Annotated[Count, Field(ge=0, le=9, title="Smaller lines between two")] = 1
    long_mm: Annotated[Length, Field(title="Length of a line")] = 12.0
    thick_mm: Annotated[Length, Field(title="Thickness of a line")] = 1.0
    letters_mm: Annotated[Length, Field(title="Height of figures")] = 5.0
    said: Annotated[Literal["figures and unit", "figures"], Field(title="Beside a line")] = "figures and unit"
    font: FontName = "barlow-condensed"
    colour: Annotated[Colour, Field(title="Colour")] = "#18202e"

    @field_validator("quantities")
    @classmethod
    def _numbers(cls, text: str) -> str:
        found = text.replace(";", " ").split()
        for word in found:
            if not re.fullmatch(r"\d{1,6}([.,]\d{1,3})?", word):
                raise ValueError(
                    f"“{word[:20]}” is no quantity.|Write numbers with blanks between, such as 100 200 300."
                )
        if not 1 <= len(found) <= MOST_TALLIES:
            raise ValueError(f"There are {len(found)} quantities.|Give from 1 to {MOST_TALLIES}.")
        if len({w.replace(",", ".") for w in found}) < len(found) or any(
            float(w.replace(",", ".")) <= 0 for w in found
        ):
            raise ValueError("A quantity is nought, or stands there twice.|Each is written once.")
        return " ".join(sorted(found, key=lambda w: float(w.replace(",", "."))))

    @property
    def amounts(self) -> tuple[tuple[str, float], ...]:
        """Each quantity as it was typed, and in ml, the least first."""
        return tuple((w, float(w.replace(",", ".")) * ML_PER[self.unit]) for w in self.quantities.split())

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return "tally marks"


ML_PER = {"ml": 1.0, "cl": 10.0, "fl oz": 29.5735295625, "cups": 236.5882365}
"""Millilitres to each unit; ounces and cups are those of the United States (NIST Handbook 44, appendix C)."""

RECIPES: dict[type[SourceBase], str] = {
    RingWords: "words round a ring",
    FilledWords: "words that fill a rectangle",
    OutlinedWords: "words with an outline",
    Tally: "tally marks by what it holds",
    JarInsert: "jar insert",
}
