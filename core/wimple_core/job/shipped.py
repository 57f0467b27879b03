"""Films, tapes and cutters as shipped; every figure can be changed by the user.

Film figures are typical values from memory. Prices are invented for the demo workshop, but for the two of
common practice (no source): a 7 x 7 in piece costs 0.14 in plain film and 0.80 in glitter.
"""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from .fields import Colour, Distance, Length, Model, Number

TapeStrength = Literal["light", "medium", "strong", "carrier"]


LINER_UM = 150.0
"""How thick the liner under a film is (common practice, no source)."""


HARDER = {"glitter": 1.4, "holographic": 1.2, "reflective": 1.3, "brushed": 1.1}
"""Finishes that ask for more force than a film's thickness tells (common practice, no source)."""


class Film(Model):
    """A family of film: what it is, what it takes, what it costs."""

    id: str
    name: str
    thickness_um: float
    takes_strain_percent: float | None
    tape: TapeStrength
    price_per_m2: Decimal
    least_stroke_mm: float
    least_dot_mm: float
    directional: bool = False
    half_turn: bool = False
    """One with a direction: may work be turned end for end on it?"""
    microwave_never: bool = False
    cap_sheet: bool = False
    mirrored: bool = False
    heat_applied: bool = False
    finish: Literal["gloss", "matt", "glitter", "metal", "holographic", "brushed", "clear", "reflective"] = "gloss"
    changes_at_c: Annotated[float, Field(ge=-20, le=120)] | None = None
    """At how many degrees its colour has half changed; null: it does not."""
    warm_colour: Colour = "#f3efe6"
    """What becomes of its colour in the warmth, where a job says nothing else."""
    force_factor: Annotated[float, Field(gt=0, le=10)] | None = None
    """How many times the force of a plain film of its thickness it asks for; null: as films of its finish do."""
    burnish_longer: bool | None = None
    """Does it lift from its liner less readily? Null: as a matt film that medium tape is for does."""
    note: str = ""

    @property
    def lifts_slowly(self) -> bool:
        """The same, stated or not."""
        return (self.finish == "matt" and self.tape == "medium") if self.burnish_longer is None else self.burnish_longer

    @property
    def harder(self) -> float:
        """The same, stated or not."""
        return HARDER.get(self.finish, 1.0) if self.force_factor is None else self.force_factor

    @property
    def turns(self) -> Literal["never", "half", "any"]:
        """How work may be turned on it."""
        if not self.directional:
            return "any"
        return "half" if self.half_turn else "never"


def _film(
    id: str,
    name: str,
    um: float,
    strain: float | None,
    tape: TapeStrength,
    price: str,
    stroke: float,
    dot: float,
    **more: object,
) -> Film:
    return Film.model_validate(
        {
            "id": id,
            "name": name,
            "thickness_um": um,
            "takes_strain_percent": strain,
            "tape": tape,
            "price_per_m2": Decimal(price),
            "least_stroke_mm": stroke,
            "least_dot_mm": dot,
            **more,
        }
    )


FILMS: dict[str, Film] = {
    f.id: f
    for f in (
        _film(
            "calendered-gloss",
            "Permanent, calendered, gloss",
            70,
            2,
            "medium",
            "4.43",
            1.0,
            2.0,
            note="5 to 6 years outdoors; the usual film for drinkware",
        ),
        _film(
            "calendered-matt",
            "Permanent, calendered, matt",
            70,
            2,
            "medium",
            "4.60",
            1.0,
            2.0,
            finish="matt",
            note="burnish longer: it lifts from the liner less readily",
        ),
        _film(
            "removable", "Removable, calendered", 75, 2, "light", "4.10", 1.0, 2.0, finish="matt", note="walls, indoors"
        ),
        _film("cast", "Cast", 50, 10, "medium", "11.50", 0.8, 1.8, note="double curves, vehicles"),
        _film(
            "wrap-cast",
            "Wrap film, cast, air channels",
            90,
            15,
            "medium",
            "16.80",
            1.5,
            3.0,
            cap_sheet=True,
            note="large panels; the strain is with heat",
        ),
        _film(
            "glitter",
            "Glitter, metal flake",
            140,
            0.5,
            "strong",
            "25.31",
            1.5,
            2.5,
            finish="glitter",
            microwave_never=True,
            note="more force",
        ),
        _film(
            "metallic",
            "Metallic, chrome",
            60,
            0.5,
            "light",
            "14.20",
            1.0,
            2.2,
            finish="metal",
            directional=True,
            microwave_never=True,
        ),
        _film(
            "holographic",
            "Holographic",
            90,
            1,
            "medium",
            "15.60",
            1.2,
            2.2,
            finish="holographic",
            directional=True,
            cap_sheet=True,
            note="more force",
        ),
        _film(
            "brushed",
            "Brushed, textured",
            100,
            1,
            "strong",
            "13.90",
            1.2,
            2.5,
            finish="brushed",
            directional=True,
            note="never turn pieces on the sheet",
        ),
        _film(
            "reflective",
            "Reflective",
            150,
            0.5,
            "strong",
            "21.00",
            1.5,
            3.0,
            finish="reflective",
            note="more force, slower",
        ),
        _film(
            "heat-change",
            "Temperature-changing",
            120,
            1,
            "medium",
            "19.50",
            1.2,
            2.2,
            changes_at_c=31.0,
            note="keep hands off while lining up: the colour depends on heat",
        ),
        _film("clear-printable", "Clear, printable", 75, 2, "light", "7.20", 1.0, 2.0, finish="clear"),
        _film(
            "heat-transfer",
            "Heat-transfer",
            90,
            None,
            "carrier",
            "12.40",
            0.8,
            1.2,
            finish="matt",
            burnish_longer=False,
            mirrored=True,
            heat_applied=True,
            note="cut mirrored; holds small lettering better",
        ),
    )
}


class MachineScale(Model):
    """A scale of a machine's own, as the workshop wrote it down: what it is called, its least and its most. What stands
    on it means nothing on another machine."""

    name: Annotated[str, Field(min_length=1, max_length=40)]
    least: Number
    most: Number

    @model_validator(mode="after")
    def _runs_up(self) -> Self:
        if self.most <= self.least:
            raise ValueError("The scale's most is not more than its least.|Write the smaller one first.")
        return self


Origin = Literal["lower_left", "lower_right", "upper_left", "upper_right"]


class Cutter(Model):
    """A cutting machine and the area it cuts safely."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
    name: Annotated[str, Field(min_length=1, max_length=60)]
    medium: Literal["mat", "roll"]
    width_mm: Length
    length_mm: Length
    safe_width_mm: Length
    safe_length_mm: Length
    blade_offset_mm: Annotated[Distance, Field(le=5)] = 0.0
    """How far the blade's tip trails its pivot; 0 where the machine makes up for it by itself."""
    speed_mm_s: Annotated[Number, Field(gt=0, le=5000)] = 100.0
    travel_mm_s: Annotated[Number, Field(gt=0, le=5000)] = 200.0
    acceleration_mm_s2: Annotated[Number, Field(gt=0, le=100_000)] = 2000.0
    lift_s: Annotated[Number, Field(ge=0, le=10)] = 0.08
    """To lift the blade and set it down again."""
    origin: Origin = "lower_left"
    """Which corner of the safe area it counts from, as one stands before it."""
    x_along_feed: bool = False
    """Does its first axis run along the feed?"""
    steps_per_mm: Annotated[Number, Field(ge=1, le=5000)] = 40.0
    """Units of its language to the mm; HP-GL has 40."""
    most_force_gf: Annotated[Number, Field(gt=0, le=5000)] | None = None
    scale: MachineScale | None = None
    """Where it is not set in grams-force: the scale it has instead."""
    address: Annotated[str, Field(pattern=r"^([A-Za-z0-9.-]{1,120}:[0-9]{1,5})?$")] = ""
    """Where it takes HP-GL over the network, host:port; empty: it is given files."""
    simulated: bool = False
    """It is the stand-in that ships with Wimple, whose hand is told over its next port."""

    @model_validator(mode="after")
    def _cuts_within(self) -> Self:
        if self.safe_width_mm > self.width_mm or self.safe_length_mm > self.length_mm:
            raise ValueError("The safe area is larger than what the machine takes.|Make it as large or smaller.")
        return self


CUTTERS: dict[str, Cutter] = {
    c.id: c
    for c in (
        Cutter(
            id="desktop-mat",
            name="Mat cutter, 12 in",
            medium="mat",
            width_mm=304.8,
            length_mm=304.8,
            safe_width_mm=279.4,
            safe_length_mm=279.4,
        ),
        Cutter(
            id="roll-24",
            name="Roll cutter, 24 in",
            medium="roll",
            width_mm=609.6,
            length_mm=3048.0,
            safe_width_mm=584.2,
            safe_length_mm=3022.6,
            speed_mm_s=300.0,
            travel_mm_s=600.0,
            acceleration_mm_s2=4000.0,
        ),
    )
}
"""Safe areas: common practice, no source (11 in on a 12 in mat; 120 in longest on a roll feed). Speeds and
accelerations: usual values from memory, no source; times that follow from them are estimates."""


TRANSFER_TAPE_PRICE_PER_M2 = Decimal("3.16")
"""Invented for the demo workshop."""


class Tape(Model):
    """Transfer tape of one tack."""

    id: TapeStrength
    name: str
    price_per_m2: Decimal


TAPES: tuple[Tape, ...] = (
    Tape(id="light", name="light", price_per_m2=TRANSFER_TAPE_PRICE_PER_M2),
    Tape(id="medium", name="medium", price_per_m2=TRANSFER_TAPE_PRICE_PER_M2),
    Tape(id="strong", name="strong", price_per_m2=TRANSFER_TAPE_PRICE_PER_M2),
    Tape(id="carrier", name="its own carrier", price_per_m2=Decimal(0)),
)
"""From the lightest tack to the strongest; the carrier comes with the film."""
