"""The job document: what the API takes and gives, what the database keeps, what `wimple build` reads."""

from __future__ import annotations

import datetime as dt
import itertools
from collections.abc import Mapping
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError, field_validator, model_validator

from ..errors import BadDocument, FieldFault
from .blanks import BLANK_KINDS, Blank
from .fields import Colour, Count, Distance, FileName, Length, Model, Money, Note, Number, Offset, Title
from .tables import TRANSFER_TAPE_PRICE_PER_M2
from .upgrades import VERSION, upgrade


class PatchChoice(Model):
    """Which part of a scanned body is wrapped, and which line of it stays true."""

    mode: Literal["whole", "grow", "loop"] = "whole"
    seed: tuple[Offset, Offset, Offset] = (0.0, 0.0, 0.0)
    """`grow`: the place it grows from, mm as the body stands (x right, y up, z toward the eye)."""
    radius_mm: Length = 60.0
    """`grow`: how far along the surface."""
    loop: Annotated[tuple[tuple[Offset, Offset], ...], Field(max_length=400)] = ()
    """`loop`: corners of an outline drawn on the front view (x, y)."""
    line: Literal["across", "up"] = "across"
    """The line through its middle that keeps its length: level, or upright."""


class Wrap(Model):
    """How the surface is unrolled."""

    extent: Literal["full", "free"] = "full"
    """`full`: all round, from line to line; `free`: the area the keep-out zones leave."""
    overlap_mm: Offset = 0.0
    """Film beyond the closing edge of a full wrap; below zero it is a gap."""
    seam_deg: Annotated[Number, Field(ge=-360, le=360)] = 180.0
    """Where round the body the template begins and ends, from the front, positive to the right."""
    film_thickness_um: Annotated[Number, Field(ge=0, le=2000)] | None = None
    """Thickness of the film; null: the default film's own."""
    joint_overlap_mm: Annotated[Distance, Field(le=20)] = 0.0
    """Between the sections of a stack: how far the upper piece reaches under its joint."""
    relief: Literal["none", "slits", "gores"] = "none"
    """What is done where the film must give: nothing, slits from the edge, or gores."""
    gores: Annotated[Count, Field(ge=0, le=60)] = 0
    """How many; 0: as few as the film's limit allows."""
    slit_overlap_mm: Annotated[Length, Field(le=5)] = 0.5
    """How far the lips of one slit may lap over each other, or gape."""
    slit_edge: Literal["both", "lower", "upper"] = "both"
    patch: PatchChoice = PatchChoice()


Way = Literal["level", "even", "conformal", "flat"]


class Placement(Model):
    """Where one drawing sits on the surface."""

    width_mm: Length = 60.0
    """Width of what the drawing paints, round the surface at the height of its middle."""
    centre_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0
    """On a cup: the angle of its middle from the front, positive to the right."""
    across_mm: Offset = 0.0
    """On a panel: its middle, from the middle of the panel, positive to the right."""
    up_mm: Offset = 40.0
    """Its middle above the lower line (on a panel: above the lower edge)."""
    turn_deg: Annotated[Number, Field(ge=-360, le=360)] = 0.0
    way: Way | Literal["suggested"] = "suggested"
    repeat: Annotated[Count, Field(ge=1, le=60)] = 1
    """Copies evenly round the cup."""


class FileSource(Model):
    """A drawing in a file, which travels beside the document, in `drawings/`."""

    kind: Literal["file"] = "file"
    file: FileName
    shades: Annotated[Count, Field(ge=1, le=8)] = 1
    """Into how many flat steps a gradient is cut; 1: its mean colour stands for it."""


Source = FileSource
"""What an element is made from, told apart by `kind`."""


class LeaveOut(Model):
    """A piece that is not cut: what lies beneath it is seen."""

    kind: Literal["leave_out"] = "leave_out"
    piece: Annotated[str, Field(min_length=1, max_length=60)]


Edit = LeaveOut
"""What is done to the pieces of an element, told apart by `kind`; pieces are called by their names."""


class Element(Model):
    """Something laid on the blank: what it is made from, what is done to its pieces, and where it lies."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")] = ""
    """Its own for good; pieces on the cut files are called after it. Left out, it is given."""
    source: Source
    edits: Annotated[tuple[Edit, ...], Field(max_length=2000)] = ()
    placements: Annotated[tuple[Placement, ...], Field(min_length=1, max_length=40)] = (Placement(),)

    @property
    def name(self) -> str:
        """What a maker calls it."""
        return self.source.file


class FilmChoice(Model):
    """The film that stands for one colour of the artwork."""

    colour: Colour
    film: str
    film_colour: Colour | None = None
    """The colour of the film itself, where it is not the drawing's."""


class Marks(Model):
    """Registration marks, outside the artwork and the same on every layer."""

    kind: Literal["crosses", "none"] = "crosses"
    size_mm: Annotated[Length, Field(ge=3, le=30)] = 10.0
    away_mm: Annotated[Distance, Field(le=200)] = 6.0


class LayerPlan(Model):
    """How colours become layers."""

    joint: Literal["auto", "stacked", "knocked_out"] = "auto"
    overlap_mm: Annotated[Distance, Field(le=10)] = 0.7
    accuracy_mm: Annotated[Length, Field(le=10)] = 0.3
    """How far a hand misses in laying one layer on another (one standard deviation, each way)."""
    merge_near: bool = False
    merge_delta_e: Annotated[Number, Field(ge=0, le=50)] = 5.0
    """Colours closer than this (CIEDE2000) become one, where `merge_near` is set."""
    films: Annotated[tuple[FilmChoice, ...], Field(max_length=64)] = ()
    default_film: str = "calendered-gloss"
    marks: Marks = Marks()


class SheetPlan(Model):
    """What the layers are cut from."""

    cutter: str = "desktop-mat"
    setting: Annotated[str, Field(max_length=200)] = ""
    """The maker's own setting of that cutter for this film, in their words."""
    margin_mm: Annotated[Distance, Field(le=100)] = 12.7
    """Film kept round the work, each side (a 6 x 6 in design uses about 7 x 7 in)."""
    weed_box: bool = True
    weed_box_away_mm: Annotated[Distance, Field(le=50)] = 4.0
    overcut_mm: Annotated[Distance, Field(le=5)] = 0.5


class LayupPlan(Model):
    """How the layers come together."""

    order: Literal["auto", "tape", "blank", "mat"] = "auto"
    apply_on: dt.datetime | None = None
    cure_hours: Annotated[Number, Field(ge=0, le=1000)] = 72.0


class PricePlan(Model):
    """What it costs and what it is sold for, for one piece."""

    currency: Annotated[str, Field(max_length=3)] = ""
    blank_cost: Money = Decimal("3.99")
    labour_minutes: Annotated[Number, Field(ge=0, le=100_000)] = 8.0
    rate_per_hour: Money = Decimal("12.00")
    overhead: Money = Decimal("0")
    tape_per_m2: Money = TRANSFER_TAPE_PRICE_PER_M2
    price_from: Literal["margin", "markup", "price"] = "margin"
    margin_percent: Annotated[Number, Field(ge=0, lt=100)] = 60.0
    markup_percent: Annotated[Number, Field(ge=0, le=10_000)] = 150.0
    price: Money = Decimal("0")


class Job(Model):
    """A whole job, from the readings to the price. Lengths mm, angles in fields named `_deg` degrees."""

    format: Literal["wimple.job"] = "wimple.job"
    version: Literal[2] = VERSION
    title: Title = "New job"
    customer: Title = ""
    due: dt.date | None = None
    quantity: Annotated[Count, Field(ge=1, le=10_000)] = 1
    note: Note = ""
    blank: Blank
    wrap: Wrap = Wrap()
    elements: Annotated[tuple[Element, ...], Field(max_length=40)] = ()
    layers: LayerPlan = LayerPlan()
    sheets: SheetPlan = SheetPlan()
    layup: LayupPlan = LayupPlan()
    price: PricePlan = PricePlan()

    @model_validator(mode="before")
    @classmethod
    def _named(cls, raw: Any) -> Any:
        """Elements without an id get the first that is free."""
        elements = raw.get("elements") if isinstance(raw, dict) else None
        if not isinstance(elements, (list, tuple)):
            return raw
        taken = {e.get("id") for e in elements if isinstance(e, dict)}
        free = (i for i in (f"e{n}" for n in itertools.count(1)) if i not in taken)
        named = [{"id": next(free), **e} if isinstance(e, dict) and "id" not in e else e for e in elements]
        return {**raw, "elements": named}

    @field_validator("elements")
    @classmethod
    def _told_apart(cls, elements: tuple[Element, ...]) -> tuple[Element, ...]:
        ids = [e.id for e in elements]
        twice = next((i for i in ids if ids.count(i) > 1), None)
        if twice is not None:
            raise ValueError(f"Two elements have the id “{twice}”.|Give each its own, such as e{len(ids) + 1}.")
        return elements

    @property
    def drawings(self) -> tuple[str, ...]:
        """The files its elements are made from, each once."""
        return tuple(dict.fromkeys(e.source.file for e in self.elements))


_FORMS = {"band", "sector", "polygon", "round", "slot"}
_UNIONS = set(BLANK_KINDS) | _FORMS


_KINDS_OF_VALUE = {
    "string": "words",
    "float": "a number",
    "int": "a whole number",
    "bool": "yes or no",
    "tuple": "a list",
    "date": "a date such as 2026-12-04",
    "datetime": "a date and time such as 2026-12-04T10:00",
    "decimal": "an amount such as 3.99",
    "model": "a group of fields",
    "dict": "a group of fields",
}


def _wanted(error: Mapping[str, Any]) -> str:
    """What would be right, in plain words, of an error pydantic found by itself."""
    kind, about = str(error["type"]), error.get("ctx", {})
    if kind == "literal_error":
        return f"Choose one of: {str(about['expected']).replace(' or ', ', ').replace(chr(39), '')}."
    bounds = {
        "greater_than": ("more than", "gt"),
        "greater_than_equal": ("at least", "ge"),
        "less_than": ("less than", "lt"),
        "less_than_equal": ("at most", "le"),
    }
    if kind in bounds:
        word, name = bounds[kind]
        return (
            f"It must be {word} {about[name]:g}."
            if isinstance(about[name], (int, float))
            else f"It must be {word} {about[name]}."
        )
    if kind == "string_too_long":
        return f"At most {about['max_length']} letters are taken."
    if kind in ("too_long", "too_short"):
        most, name = ("most", "max_length") if kind == "too_long" else ("least", "min_length")
        return f"Give at {most} {about[name]}."
    for start, words in _KINDS_OF_VALUE.items():
        if kind.startswith(start):
            return f"It wants {words}."
    return "docs/file-format.md says what belongs here."


def _fault(error: Mapping[str, Any]) -> FieldFault:
    path = ".".join(str(part) for part in error["loc"] if part not in _UNIONS)
    message = str(error["msg"]).removeprefix("Value error, ")
    message, _, hint = message.partition("|")
    value = error.get("input")
    if error["type"] == "extra_forbidden":
        message, hint = f"“{error['loc'][-1]}” is not part of a job document.", "Take it out, or check its spelling."
    elif error["type"] == "missing":
        message, hint = f"“{error['loc'][-1]}” is missing.", "Every job needs it."
    elif error["type"] == "int_from_float":
        message, hint = f"{value} is not a whole number.", "Write it as 12."
    elif error["type"] == "string_pattern_mismatch" and path.endswith(".file"):
        message, hint = f"“{value}” is not a file name.", "It has no folders in it and does not start with a dot."
    elif error["type"] == "too_short":
        least = error.get("ctx", {}).get("min_length", 1)
        message, hint = "There is nothing here.", "At least one reading is needed."
        if least > 1:
            message, hint = (
                f"There are too few of these: {error['ctx'].get('actual_length', 0)}.",
                f"At least {least} are needed.",
            )
    elif error["type"] == "too_long":
        message, hint = f"{message}.", "Take some out."
    elif error["type"].startswith("union_tag"):
        what, known = ("blank", BLANK_KINDS) if path == "blank" else ("zone", ("band", "sector", "polygon"))
        message, hint = f"There is no {what} of that kind ({message}).", f"It must be one of: {', '.join(known)}."
    elif not hint:
        said, shown = message, str(value) if len(str(value)) < 60 else f"{str(value)[:57]}…"
        message = "Nothing is given here." if value is None else "This cannot stand here."
        if isinstance(value, (str, int, float)):
            message = f"“{shown}” cannot stand here."
        hint = f"{said[0].upper()}{said[1:]}." if error["type"] == "value_error" else _wanted(error)
    return FieldFault(
        path,
        message[0].upper() + message[1:] if message else "It cannot be read.",
        hint or "docs/file-format.md says what belongs here.",
    )


def load_job(raw: object, unit: Literal["mm", "in"] = "mm") -> Job:
    """Read a job document (any version), bare typed lengths being in `unit`.

    Raises BadDocument naming every field at fault.
    """
    if not isinstance(raw, Mapping):
        raise BadDocument("This is not a job document.", hint="It must be a JSON object with “format”: “wimple.job”.")
    try:
        return Job.model_validate(upgrade(dict(raw)), context={"unit": unit})
    except ValidationError as bad:
        raise refusal(bad) from None


def refusal(bad: ValidationError, prefix: str = "") -> BadDocument:
    """What pydantic refused, in words, naming every field at fault; `prefix` goes before each path."""
    errors = bad.errors(include_url=False)
    inner = {tuple(e["loc"][:-1]) for e in errors}
    faults = [
        _fault({**e, "loc": (*([prefix] if prefix else []), *e["loc"])})
        for e in errors
        if not (e["type"] == "too_short" and tuple(e["loc"]) in inner)
    ]
    return BadDocument(faults[0].message, field=faults[0].field, hint=faults[0].hint, faults=faults)


_BLANK: TypeAdapter[Any] = TypeAdapter(Blank)


def load_blank(raw: object, unit: Literal["mm", "in"] = "mm") -> Blank:
    """Read the blank of a document by itself. Raises BadDocument naming every field at fault."""
    try:
        blank: Blank = _BLANK.validate_python(raw, context={"unit": unit})
    except ValidationError as bad:
        raise refusal(bad, "blank") from None
    return blank
