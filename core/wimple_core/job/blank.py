"""What every blank has, as a job document holds it."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import Field

from .fields import Colour, Model, Title
from .zones import Zones


class BlankBase(Model):
    name: Title = "Blank"
    colour: Colour = "#ffffff"
    behind: Colour | None = None
    """What is seen behind it where it is clear: the drink, a table, a room."""
    note: Annotated[str, Field(max_length=2000)] = ""
    zones: Zones = ()
    drinkware: ClassVar[bool] = False
    """Is it drunk from, so that nothing comes near lips or food?"""

    @property
    def grounds(self) -> tuple[str, ...]:
        """The colours that films must stand out from."""
        return (self.colour,) if self.behind is None else (self.colour, self.behind)

    @property
    def cut_out(self) -> str | None:
        """Is it a sheet itself, cut out with what is on it: of which film (empty: the default one)? None where it is
        not."""
        return None

    @property
    def tape_mm(self) -> float:
        """How thick a tape is that was laid round it."""
        return 0.0

    @property
    def margin(self) -> float:
        """What is kept free along its edges, mm."""
        return 0.0

    @property
    def beyond(self) -> tuple[float, float]:
        """How far its wall goes on along the side above what was read, and below it, mm."""
        return 0.0, 0.0

    @property
    def vehicle(self) -> bool:
        """Is it part of a vehicle?"""
        return False

    @property
    def burns(self) -> bool:
        """Does it cover a candle?"""
        return False
