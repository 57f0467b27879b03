"""Names: a list, each line of which is a decal of its own in the same frame."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from .fields import Count, Length, Model

MOST_ROWS = 100
"""So many are laid on sheets while somebody waits."""
Cell = Annotated[str, Field(max_length=200)]


class Room(Model):
    """The room words have: they are made smaller until they fit, but their capitals not below `least_mm`; then they go
    on in the next line, in `most_lines` of them."""

    wide_mm: Length = 60.0
    tall_mm: Length = 30.0
    least_mm: Length = 5.0
    most_lines: Annotated[Count, Field(ge=1, le=4)] = 2


class Column(Model):
    """What varies from line to line: a field of an element's source, by its path there: its words ("text", "upper"),
    its "colour", its drawing's "file", or any measure it has ("size_mm", "form.points")."""

    title: Annotated[str, Field(max_length=60)] = ""
    element: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")]
    field: Annotated[str, Field(pattern=r"^[a-z_]{1,40}(\.[a-z_]{1,40})?$")] = "text"
    room: Room = Room()
    """For words that have a size of their own."""


class Names(Model):
    """A list with a cell for each column; every line is cut as often as the job says. `shown` is the line that lies on
    the blank now, the first being 0."""

    columns: Annotated[tuple[Column, ...], Field(min_length=1, max_length=8)]
    rows: Annotated[tuple[tuple[Cell, ...], ...], Field(min_length=1, max_length=MOST_ROWS)]
    shown: Annotated[Count, Field(ge=0)] = 0

    @model_validator(mode="after")
    def _in_columns(self) -> Self:
        n = next((n for n, row in enumerate(self.rows) if len(row) != len(self.columns)), None)
        if n is not None:
            raise ValueError(
                f"Line {n + 1} of the list has {len(self.rows[n])} cells.|It has {len(self.columns)} columns: give each"
                " a cell, an empty one where nothing changes."
            )
        if self.shown >= len(self.rows):
            raise ValueError(f"There is no line {self.shown + 1} of the list.|It has {len(self.rows)}.")
        return self
