"""Shipped tables: instruments, films, tapes, cutters. Every figure can be changed by the user.

Film figures are typical values from memory. Prices are invented for the demo workshop, but for the two of
common practice (no source): a 7 x 7 in piece costs 0.14 in plain film and 0.80 in glitter.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from typing import Annotated, Literal, Protocol, Self, TypeVar

from pydantic import Field, ValidationError, model_validator

from ..errors import BadDocument, FieldFault
from .cut_log import Blade
from .fields import Length, Model
from .log import HandLog
from .shipped import CUTTERS, FILMS, TAPES, Cutter, Film, Tape
from .stock import COLOURS, FilmColour, StockPiece

Instrument = Literal["tape", "calliper", "ruler", "gauge", "photo"]


SPREAD_OF_ONE_READING: dict[str, float] = {"tape": 0.5, "calliper": 0.1, "ruler": 0.5, "gauge": 0.1, "photo": 0.4}
"""Standard deviation in mm of a single reading, by instrument (common practice, no source)."""


class Font(Model):
    """A typeface: its name, and the file that holds it."""

    id: str
    name: str
    file: str


class Tables(Model):
    """What a shop has: its films, tapes, cutters and fonts. The shipped ones are where a new workshop starts."""

    films: tuple[Film, ...] = tuple(FILMS.values())
    tapes: tuple[Tape, ...] = TAPES
    cutters: tuple[Cutter, ...] = tuple(CUTTERS.values())
    fonts: tuple[Font, ...] = ()
    colours: Annotated[tuple[FilmColour, ...], Field(max_length=400)] = COLOURS
    """The colours of film at hand; none: nothing is said of them."""
    stock: Annotated[tuple[StockPiece, ...], Field(max_length=400)] = ()
    """The pieces of film that are counted."""
    remnant_mm: Length = 80.0
    """What is left of film is kept where a square of that side goes into it."""
    log: HandLog = HandLog()
    blades: Annotated[tuple[Blade, ...], Field(max_length=200)] = ()

    @model_validator(mode="after")
    def _of_films(self) -> Self:
        known = {f.id for f in self.films}
        lost = next((c for c in self.colours if c.film not in known), None)
        # Films of their own with colours as shipped: those of films they have not are none of theirs.
        if lost is not None and "colours" in self.model_fields_set:
            said = f"“{lost.name}” is of a film “{lost.film}” that there is none of."
            raise ValueError(f"{said}|Choose one of: {', '.join(sorted(known))}.")
        return self

    @model_validator(mode="after")
    def _of_colours(self) -> Self:
        known = {(c.film, c.name) for c in self.colours}
        lost = next((p for p in self.stock if (p.film, p.name) not in known), None)
        if lost is not None:
            said = f"There is a {lost.form} of “{lost.name}” in stock, and no such colour of “{lost.film}”."
            raise ValueError(f"{said}|Write the colour down among those at hand, or take the {lost.form} off first.")
        if not self.cutters:
            raise ValueError("There is no cutter left.|Keep one: sheets are planned for a machine.")
        for what, some in (("cutters", [c.id for c in self.cutters]), ("blades", [b.id for b in self.blades])):
            again = next((i for i in some if some.count(i) > 1), None)
            if again is not None:
                raise ValueError(f"Two {what} have the id “{again}”.|Give each its own.")
        ids = [p.id for p in self.stock]
        twice = next((i for i in ids if ids.count(i) > 1), None) if len(set(ids)) < len(ids) else None
        if twice is not None:
            raise ValueError(f"Two pieces of film have the id “{twice}”.|Give each its own.")
        return self

    def film(self, film_id: str, field: str = "") -> Film:
        """The film of that id. Raises BadDocument, naming those there are."""
        return _found(self.films, film_id, "film", field)

    def tape(self, tape_id: str, field: str = "") -> Tape:
        """The tape of that id. Raises BadDocument, naming those there are."""
        return _found(self.tapes, tape_id, "tape", field)

    def cutter(self, cutter_id: str, field: str = "") -> Cutter:
        """The cutter of that id. Raises BadDocument, naming those there are."""
        return _found(self.cutters, cutter_id, "cutter", field)

    @property
    def digest(self) -> str:
        """What tells one set of tables from another."""
        return hashlib.sha256(self.model_dump_json().encode()).hexdigest()


class _Named(Protocol):
    @property
    def id(self) -> str: ...


N = TypeVar("N", bound=_Named)


def _found(rows: Sequence[N], wanted: str, what: str, field: str) -> N:
    for row in rows:
        if row.id == wanted:
            return row
    known = ", ".join(r.id for r in rows)
    raise BadDocument(f"There is no {what} “{wanted}”.", field=field, hint=f"Choose one of: {known}.")


SHIPPED = Tables()
"""What a new workshop starts with."""


def _fault(field: str, said: str) -> FieldFault:
    message, _, hint = said.removeprefix("Value error, ").partition("|")
    whole = message if message.endswith(".") else f"{message}."
    return FieldFault(field, whole, hint or "docs/file-format.md says what belongs here.")


def _refused(bad: ValidationError) -> BadDocument:
    faults = [_fault(".".join(map(str, e["loc"])), e["msg"]) for e in bad.errors(include_url=False)]
    return BadDocument.of(faults)


def load_piece(raw: object, unit: Literal["mm", "in"] = "mm") -> StockPiece:
    """Read a piece of film as it was typed; bare lengths are in `unit`. Raises BadDocument naming every field at
    fault."""
    try:
        return StockPiece.model_validate(raw, context={"unit": unit})
    except ValidationError as bad:
        raise _refused(bad) from None


def load_tables(raw: object) -> Tables:
    """Read a shop's tables; what is left out is as shipped. Raises BadDocument naming every field at fault."""
    try:
        return Tables.model_validate(raw)
    except ValidationError as bad:
        raise _refused(bad) from None
