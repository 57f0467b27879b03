"""One dimension of a blank as read, and the same one read another way."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .fields import Distance, Length, Model
from .tables import Instrument

Reads = Literal[
    "circumference",
    "diameter",
    "slant",
    "upright",
    "width",
    "height",
    "across_flats",
    "across_corners",
    "side",
    "radius",
    "chord",
    "arc",
    "rise",
]
Readings = Annotated[tuple[Length, ...], Field(min_length=1, max_length=50)]


class Check(Model):
    """The same dimension taken another way, to hold the first against: a diameter beside a circumference, an upright
    height beside a slant."""

    reads: Reads
    instrument: Instrument = "calliper"
    readings: Readings


class Dimension(Model):
    """One dimension of a blank: what was read, with what, how often (all readings in mm)."""

    reads: Reads
    instrument: Instrument = "tape"
    readings: Readings
    check: Check | None = None


class Height(Dimension):
    """A height above the bench: zero for what stands on it."""

    readings: Annotated[tuple[Distance, ...], Field(min_length=1, max_length=50)]
