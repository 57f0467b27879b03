"""A pattern: one element repeated on a lattice all over its blank."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .fields import Count, Distance, Length, Model, Number

Lattice = Literal["square", "brick", "half_drop", "hexagonal", "mirrored", "scatter"]


class Pattern(Model):
    """The element of its first placement, repeated from there: round what goes round, over what is flat."""

    turns_with: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")] | None = None
    """The element on whose lattice it lies, the two (or more) taking turns from place to place; all else that says
    where motifs lie is that one's."""
    lattice: Annotated[Lattice, Field(title="Set")] = "half_drop"
    by: Annotated[Literal["pitch", "number", "coverage"], Field(title="Spaced by")] = "pitch"
    pitch_mm: Annotated[Length, Field(title="From middle to middle")] = 20.0
    number: Annotated[Count, Field(ge=1, le=2000, title="Number in a row")] = 12
    coverage_percent: Annotated[Number, Field(ge=0.1, le=95, title="Of the area is covered")] = 20.0
    row_mm: Annotated[Distance, Field(title="From row to row", description="0: as the lattice has it")] = 0.0
    taper: Annotated[Literal["conformal", "rings"], Field(title="Round a taper")] = "conformal"
    """Conformal: as many in every row, growing with the wall; rings: all of one size, every row its own number."""
    anchor: Annotated[Literal["middle", "corner", "here"], Field(title="Begins")] = "middle"
    """On a panel: a motif in its middle, in its lower left corner, or where the placement says."""
    edge: Annotated[Literal["whole", "cut"], Field(title="At the edges")] = "whole"
    """Whole motifs only, or cut off."""
    bleed_mm: Annotated[Distance, Field(le=50, title="Beyond the edge", description="to be trimmed in place")] = 0.0
    turned: Annotated[Literal["upright", "outward", "random"], Field(title="Motifs stand")] = "upright"
    """Outward: on a panel, away from its middle."""
    least_mm: Annotated[Length, Field(title="Middles at least apart")] = 15.0
    seed: Annotated[Count, Field(ge=0, le=1_000_000, title="Throw of the dice")] = 1
