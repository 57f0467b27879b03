"""How film was cut and how it came out, in physical units, or on a machine's own scale with the machine's name."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal, Self

from pydantic import BeforeValidator, Field, model_validator

from .fields import Count, Length, Model, Number, Title
from .shipped import Cutter

Corner = Literal["right", "not_through", "into_liner"]
"""What a lifted corner showed: through the film and not the liner, film that hangs on, a liner cut as well."""
Weeded = Literal["clean", "tore"]


def _bare(unit: str) -> BeforeValidator:
    """Takes a number with its unit behind it for the number."""
    return BeforeValidator(lambda typed: typed.strip().removesuffix(unit) if isinstance(typed, str) else typed)


Force = Annotated[Number, _bare("gf"), Field(gt=0, le=5000)]
"""Grams-force."""
Speed = Annotated[Number, _bare("mm/s"), Field(gt=0, le=5000)]
"""Millimetres a second."""


class Setting(Model):
    """How a machine cuts a film. A value on a machine's own scale means nothing on another, and goes with its name."""

    force_gf: Force | None = None
    on_scale: Annotated[Number, Field(ge=-1e6, le=1e6)] | None = None
    """On the machine's own scale, where it has no force in grams-force."""
    speed_mm_s: Speed | None = None
    blade_out_mm: Annotated[Length, Field(le=5)] | None = None
    passes: Annotated[Count, Field(ge=1, le=9)] = 1

    def of(self, cutter: Cutter) -> Self:
        """Itself, for that machine. Raises ValueError where the machine has no such scale, or does not reach so far."""
        scale = cutter.scale
        if self.on_scale is not None:
            if scale is None:
                raise ValueError(f"{cutter.name} has no scale of its own.|Write the scale down with the machine first.")
            if not scale.least <= self.on_scale <= scale.most:
                span = f"from {scale.least:g} to {scale.most:g}"
                raise ValueError(
                    f"“{scale.name}” of {cutter.name} goes {span}, not to {self.on_scale:g}.|Choose within."
                )
        most = cutter.most_force_gf
        if self.force_gf is not None and most is not None and self.force_gf > most:
            raise ValueError(f"{cutter.name} presses with {most:g} gf at most, not {self.force_gf:g}.|Choose less.")
        return self

    def begun(self, cutter: Cutter) -> None:
        """Raises ValueError where a machine is not told how hard it presses: it would cut as it did last."""
        if cutter.scale is None and self.force_gf is None:
            raise ValueError("No force is given.|Type it in gf: a test cut on a scrap tells how much.")
        if cutter.scale is not None and self.on_scale is None:
            name, span = cutter.scale.name, f"from {cutter.scale.least:g} to {cutter.scale.most:g}"
            raise ValueError(f"“{name}” is not given.|Type what {cutter.name} is set to, {span}.")

    def words(self, cutter: Cutter) -> str:
        """As a maker says it."""
        parts = []
        if self.force_gf is not None:
            parts.append(f"{self.force_gf:g} gf")
        if self.on_scale is not None:
            parts.append(f"{cutter.scale.name if cutter.scale else 'its scale'} {self.on_scale:g} on {cutter.name}")
        if self.speed_mm_s is not None:
            parts.append(f"{self.speed_mm_s:g} mm/s")
        if self.passes > 1:
            parts.append(f"{self.passes} passes")
        return ", ".join(parts)


class CutEntry(Model):
    """A film that was cut: on what, with which blade (m it had cut by then), so deep a film, so set, and how it came
    out."""

    at: dt.datetime
    cutter: str
    blade: str = ""
    blade_m: Annotated[Number, Field(ge=0)] = 0.0
    film: str
    colour: str = ""
    film_um: Annotated[Number, Field(gt=0, le=2000)]
    setting: Setting
    metres: Annotated[Number, Field(ge=0)] = 0.0
    corner: Corner | None = None
    weeded: Weeded | None = None
    tore: Annotated[str, Field(max_length=200)] = ""


class Blade(Model):
    """A blade of the workshop's: on which machine, since when, metres it had cut before it was written down here, and
    whether it is worn out."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")]
    name: Title
    cutter: str
    since: dt.date | None = None
    before_m: Annotated[Number, Field(ge=0, le=1e6)] = 0.0
    worn_out: bool = False

    @model_validator(mode="after")
    def _named(self) -> Self:
        if not self.name.strip():
            raise ValueError("The blade has no name.|Call it something, such as “blade 3”.")
        return self
