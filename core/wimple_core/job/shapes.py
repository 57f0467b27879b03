"""Shapes drawn by their measures: what a maker would otherwise construct with a compass and a square."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from .fields import Colour, Count, Distance, Length, Model, Number
from .source import SourceBase


class _Form(Model):
    """Base of all forms; `words` is what a maker calls it, a field's title what its measure is."""

    words: ClassVar[str]


class Disc(_Form):
    words = "disc"
    form: Literal["disc"] = "disc"
    across_mm: Annotated[Length, Field(title="Diameter")] = 40.0


class Ring(_Form):
    words = "ring"
    form: Literal["ring"] = "ring"
    outside_mm: Annotated[Length, Field(title="Outside diameter")] = 50.0
    inside_mm: Annotated[Length, Field(title="Inside diameter")] = 42.0

    @model_validator(mode="after")
    def _hollow(self) -> Self:
        if self.inside_mm >= self.outside_mm:
            raise ValueError("The inside is as large as the outside.|Make the inside diameter smaller.")
        return self


class Rectangle(_Form):
    words = "rectangle"
    form: Literal["rectangle"] = "rectangle"
    across_mm: Annotated[Length, Field(title="Wide")] = 60.0
    tall_mm: Annotated[Length, Field(title="Tall")] = 40.0
    corner_mm: Annotated[Distance, Field(title="Radius of its corners")] = 4.0


class Polygon(_Form):
    words = "polygon"
    form: Literal["polygon"] = "polygon"
    corners: Annotated[Count, Field(ge=3, le=60, title="Corners")] = 6
    across_mm: Annotated[Length, Field(title="Circle through its corners")] = 50.0
    corner_mm: Annotated[Distance, Field(title="Radius of its corners")] = 0.0


class Star(_Form):
    words = "star"
    form: Literal["star"] = "star"
    points: Annotated[Count, Field(ge=3, le=60, title="Points")] = 5
    outside_mm: Annotated[Length, Field(title="Circle through its points")] = 50.0
    inside_mm: Annotated[Length, Field(title="Circle through its inner corners")] = 20.0
    corner_mm: Annotated[Distance, Field(title="Radius of its corners")] = 0.0


class Banner(_Form):
    words = "banner"
    form: Literal["banner"] = "banner"
    across_mm: Annotated[Length, Field(title="Wide")] = 80.0
    tall_mm: Annotated[Length, Field(title="Tall")] = 18.0
    notch_mm: Annotated[Distance, Field(title="Depth of its notched ends")] = 8.0
    sag_mm: Annotated[Number, Field(ge=-1000, le=1000, title="Its middle hangs by")] = 6.0


class Arrow(_Form):
    words = "arrow"
    form: Literal["arrow"] = "arrow"
    long_mm: Annotated[Length, Field(title="Long")] = 60.0
    shaft_mm: Annotated[Length, Field(title="Width of its shaft")] = 8.0
    head_mm: Annotated[Length, Field(title="Width of its head")] = 22.0
    head_long_mm: Annotated[Length, Field(title="Length of its head")] = 18.0


class ArcBand(_Form):
    words = "arc band"
    form: Literal["arc_band"] = "arc_band"
    radius_mm: Annotated[Length, Field(title="Radius of its middle")] = 40.0
    wide_mm: Annotated[Length, Field(title="Width of the band")] = 8.0
    span_deg: Annotated[Number, Field(ge=1, le=359, title="Reaches over")] = 120.0
    round_ends: Annotated[bool, Field(title="Round ends")] = False


class Slot(_Form):
    words = "slot"
    form: Literal["slot"] = "slot"
    long_mm: Annotated[Length, Field(title="Long")] = 20.0
    wide_mm: Annotated[Length, Field(title="Wide")] = 4.0


class Tab(_Form):
    words = "tab"
    form: Literal["tab"] = "tab"
    wide_mm: Annotated[Length, Field(title="Wide")] = 12.0
    long_mm: Annotated[Length, Field(title="Long")] = 16.0


FORMS: tuple[type[_Form], ...] = (Disc, Ring, Rectangle, Polygon, Star, Banner, Arrow, ArcBand, Slot, Tab)
Form = Annotated[
    Disc | Ring | Rectangle | Polygon | Star | Banner | Arrow | ArcBand | Slot | Tab, Field(discriminator="form")
]


class Shape(SourceBase):
    """A shape by its measures, in one colour."""

    kind: Literal["shape"] = "shape"
    form: Form
    colour: Colour = "#1c3d7a"

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return self.form.words
