"""What goes round: cups, bottles, turned bodies, domes, as a job document holds them."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from .blank import BlankBase
from .dimension import Dimension, Height
from .fields import Count, Distance, FileName, Length, Model, Number, Offset, Title, Volume

Pixel = tuple[Number, Number]
"""A place in a photograph: pixels from its left and its top edge."""


class Handle(Model):
    """The handle: how wide a strip it takes from the wall, or the free width and height read beside it."""

    width_mm: Length = 40.0
    """The strip it takes, a finger's room included; not used where `free_width` was read."""
    free_width: Dimension | None = None
    """Read round the cup from one edge of the handle's strip to the other, the way that is free."""
    free_height: Dimension | None = None
    """Height of the free area beside the handle, from its lower edge."""


class Trial(Model):
    """A paper template wrapped round the blank: how it gaped (an overlap is negative) and what it was cut from.

    The template's circumferences are those of the bare blank it was made for.
    """

    top_mm: Offset
    bottom_mm: Offset
    template_top_mm: Length
    template_bottom_mm: Length
    on: dt.date | None = None
    note: Annotated[str, Field(max_length=400)] = ""


class Level(Model):
    """Water that stands level: its height above the bench, or how much was poured."""

    given: Literal["height", "volume"] = "height"
    height_mm: Distance = 40.0
    volume_ml: Volume = 100.0


class Photo(Model):
    """A side view on a plain ground, taken level, with a known length in it."""

    file: FileName
    known_mm: Length = 85.6
    known: tuple[Pixel, Pixel]
    axis: tuple[Pixel, Pixel]
    distance_mm: Length | None = 600.0
    """From the lens to the axis of the blank; None: so far that nothing need be corrected."""
    nearer_mm: Offset = 0.0
    """How much nearer to the lens than the axis the known length stood."""
    side: Literal["both", "left", "right"] = "both"
    """Which edge is read: a handle hides the other."""


class RoundBase(BlankBase):
    wall: Literal["single", "double"] = "single"
    wall_mm: Distance = 1.0
    capacity_ml: Volume | None = None
    tape_thickness_mm: Distance = 0.2
    lip_band_mm: Distance = 12.0
    base_band_mm: Distance = 6.0
    handle: Handle | None = None
    faces: Literal["others", "holder", "both"] = "others"
    """Who sees the decal: those who face the owner, the holder, or both."""
    hand: Literal["right", "left"] = "right"
    decals: Annotated[Count, Field(ge=1, le=2)] = 1
    """Seen by both: one decal opposite the handle, or two, one on each side."""
    level: Level | None = None
    photo: Photo | None = None
    drinkware: ClassVar[bool] = True

    @property
    def tape_mm(self) -> float:
        return self.tape_thickness_mm


class CupBlank(RoundBase):
    """A straight or tapered cup, measured between a lower and an upper line round it."""

    kind: Literal["cup"] = "cup"
    name: Title = "Cup"
    upper: Dimension
    lower: Dimension
    side: Dimension
    rim_mm: Distance = 0.0
    """How far below the rim the upper line lies, along the side."""
    foot_mm: Distance = 0.0
    """How far above the foot the lower line lies, along the side."""
    trials: Annotated[tuple[Trial, ...], Field(max_length=50)] = ()

    @property
    def beyond(self) -> tuple[float, float]:
        return self.rim_mm, self.foot_mm


class Section(Model):
    """One straight or tapered part of a stack: the way round at its upper end, and its own side."""

    name: Annotated[str, Field(max_length=60)] = ""
    upper: Dimension
    side: Dimension


class StackBlank(RoundBase):
    """Straight, tapered and shouldered sections on one axis, from the foot upward."""

    kind: Literal["stack"] = "stack"
    name: Title = "Bottle"
    base: Dimension
    """Round the foot."""
    sections: Annotated[tuple[Section, ...], Field(min_length=1, max_length=20)]


class Ring(Model):
    """The way round at one height above the bench."""

    height: Height
    girth: Dimension


class RevolutionBlank(RoundBase):
    """Any body turned on an axis, by its diameters at several heights."""

    kind: Literal["revolution"] = "revolution"
    name: Title = "Bellied mug"
    rings: Annotated[tuple[Ring, ...], Field(min_length=3, max_length=32)]


class DomeBlank(BlankBase):
    """A spherical cap, by the way round its rim and its rise."""

    kind: Literal["dome"] = "dome"
    name: Title = "Dome"
    base: Dimension
    rise: Dimension
    tape_thickness_mm: Distance = 0.2
    margin_mm: Distance = 0.0

    @property
    def tape_mm(self) -> float:
        return self.tape_thickness_mm

    @property
    def margin(self) -> float:
        return self.margin_mm
