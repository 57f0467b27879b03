"""Lettering: words in a font, their size, spacing and the line they stand on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from .fields import Colour, Length, Model, Number, Offset
from .source import FontName, Lettered, called


@dataclass(frozen=True)
class ShippedFont:
    """A font that comes with the program: its name, and what it is like."""

    name: str
    character: str


SHIPPED_FONTS = {
    "pacifico": ShippedFont("Pacifico", "script, joined"),
    "great-vibes": ShippedFont("Great Vibes", "script, fine"),
    "caveat": ShippedFont("Caveat", "hand"),
    "fredoka": ShippedFont("Fredoka", "rounded"),
    "bebas-neue": ShippedFont("Bebas Neue", "block, capitals"),
    "barlow-condensed": ShippedFont("Barlow Condensed", "condensed"),
    "zilla-slab": ShippedFont("Zilla Slab", "slab"),
    "saira-stencil-one": ShippedFont("Saira Stencil One", "stencil"),
    "eb-garamond": ShippedFont("EB Garamond", "book"),
    "limelight": ShippedFont("Limelight", "poster"),
    "heebo": ShippedFont("Heebo", "plain, with Hebrew"),
    "amiri": ShippedFont("Amiri", "book, with Arabic"),
}
MOST_LINES = 12
Thousandths = Annotated[Number, Field(ge=-500, le=2000)]
"""Of the em, the size a font is drawn in."""


class Kern(Model):
    """The space behind one letter changed, in thousandths of the em."""

    line: Annotated[int, Field(ge=0, lt=MOST_LINES)]
    letter: Annotated[int, Field(ge=0, le=600)]
    by: Thousandths


class LetterChange(Model):
    """One letter moved, turned or coloured by itself."""

    line: Annotated[int, Field(ge=0, lt=MOST_LINES)]
    letter: Annotated[int, Field(ge=0, le=600)]
    across_mm: Offset = 0.0
    up_mm: Offset = 0.0
    turn_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0
    colour: Colour | None = None


class Baseline(Model):
    """What the letters stand on: a straight line, a circle from outside (over: it bows up) or from inside (under: it
    bows down), or a wave of a height and a length."""

    kind: Literal["straight", "over", "under", "wave"] = "straight"
    radius_mm: Length = 40.0
    height_mm: Length = 6.0
    length_mm: Length = 60.0


def clean_words(text: str, most_lines: int) -> str:
    """Words as they are set: their lines without blanks at the ends. Raises ValueError for none, for too many lines and
    for signs that cannot be drawn."""
    text = "\n".join(line.strip("\r\t ") for line in text.replace("\r\n", "\n").split("\n"))
    if not text.strip():
        raise ValueError("There are no words.|Type what is to be read.")
    if text.count("\n") >= most_lines:
        raise ValueError(f"There are {text.count(chr(10)) + 1} lines.|At most {most_lines} are set at once.")
    odd = next((c for c in text if not c.isprintable() and c not in "\n\u200c\u200d\ufe0e\ufe0f"), None)
    if odd is not None:
        raise ValueError(f"The sign of code {ord(odd)} cannot be drawn.|Take it out.")
    return text


Lines = Annotated[str, Field(max_length=600), AfterValidator(lambda text: clean_words(text, MOST_LINES))]
"""Words in one line or several."""
LinesOrNone = Annotated[str, AfterValidator(lambda text: clean_words(text, MOST_LINES) if text.strip() else "")]
OneLineOrNone = Annotated[str, AfterValidator(lambda text: clean_words(text, 1) if text.strip() else "")]


class Lettering(Lettered):
    """Words, set in a font."""

    kind: Literal["lettering"] = "lettering"
    text: Lines
    font: FontName = "barlow-condensed"
    sized: Literal["capitals", "small", "width"] = "capitals"
    """What `size_mm` is: the height of capitals, of small letters, or the width of the longest line."""
    size_mm: Length = 12.0
    tracking: Thousandths = 0.0
    kerns: Annotated[tuple[Kern, ...], Field(max_length=400)] = ()
    features: Annotated[tuple[Annotated[str, Field(pattern=r"^-?[a-z0-9]{4}$")], ...], Field(max_length=20)] = ()
    """OpenType features switched on besides those that are on anyway, or off with a minus: "swsh", "-liga"."""
    lines: Literal["free", "fitted"] = "free"
    """Fitted: every line as wide as the widest."""
    line_distance: Annotated[Number, Field(ge=50, le=500)] = 160.0
    """From line to line, in per cent of the height of capitals."""
    align: Literal["left", "middle", "right"] = "middle"
    baseline: Baseline = Baseline()
    colour: Colour = "#18202e"
    letters: Annotated[tuple[LetterChange, ...], Field(max_length=400)] = ()

    @property
    def name(self) -> str:
        """What a maker calls it: its first words."""
        return called(self.text)

    @property
    def sizes(self) -> dict[str, float]:
        """The one length that says how large it is."""
        return {"size_mm": self.size_mm}
