"""What the program says when it is given something it cannot use."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Self

from .figures import LengthStyle, worded


@dataclass(frozen=True)
class FieldFault:
    """One field that cannot be used: where it is, what is wrong, what would be right.

    Its figures travel in the text (`figures.carried`) and are written out in a workshop's units by `in_units`.
    """

    field: str
    message: str
    hint: str = ""

    def in_units(self, style: LengthStyle) -> FieldFault:
        """The same with its figures written out."""
        return FieldFault(self.field, worded(self.message, style), worded(self.hint, style))


class WimpleError(Exception):
    """Base of every error a user can cause.

    Attributes: `code` (stable, for programs), `message` (what is wrong, with the value), `field` (path in the
    job document, or empty), `hint` (what would be right), `faults` (all fields at fault, the first being this one).
    Figures in them are in mm; `as_dict` writes them in a workshop's units.
    """

    code = "error"

    def __init__(self, message: str, *, field: str = "", hint: str = "", faults: Sequence[FieldFault] = ()) -> None:
        super().__init__(message)
        self.carried: tuple[FieldFault, ...] = tuple(faults) or (FieldFault(field, message, hint),)
        self._first = FieldFault(field, message, hint)
        self.places: tuple[tuple[float, float, float], ...] = ()
        """Where on the body it is wrong, mm, where that can be shown."""

    @classmethod
    def of(cls, faults: Sequence[FieldFault]) -> Self:
        """All that is wrong at once, the first of them for all."""
        return cls(faults[0].message, field=faults[0].field, hint=faults[0].hint, faults=faults)

    @property
    def message(self) -> str:
        return self._first.in_units("mm").message

    @property
    def hint(self) -> str:
        return self._first.in_units("mm").hint

    @property
    def field(self) -> str:
        return self._first.field

    @property
    def faults(self) -> tuple[FieldFault, ...]:
        return tuple(f.in_units("mm") for f in self.carried)

    def __str__(self) -> str:
        return self.message

    def within(self, path: str, subject: str = "") -> Self:
        """The same error as seen from further out: its fields below `path`, its subject named before its words."""
        faults = [
            FieldFault(".".join(part for part in (path, f.field) if part), f"{subject}{f.message}", f.hint)
            for f in self.carried
        ]
        out = self.of(faults)
        out.places = self.places
        return out

    def as_dict(self, style: LengthStyle = "mm") -> dict[str, object]:
        """The one JSON shape of an error, its figures in those units."""
        first = self._first.in_units(style)
        faults = [f.in_units(style) for f in self.carried]
        return {
            "code": self.code,
            "message": first.message,
            "field": first.field,
            "hint": first.hint,
            "faults": [{"field": f.field, "message": f.message, "hint": f.hint} for f in faults],
        }


@contextmanager
def seen_from(path: str, subject: str = "") -> Iterator[None]:
    """Errors raised inside are passed on as seen from further out: their fields below `path`."""
    try:
        yield
    except WimpleError as bad:
        raise bad.within(path, subject) from None


class BadDocument(WimpleError):
    """A job document that does not hold what it must."""

    code = "bad_document"


class BadReading(WimpleError):
    """A reading, or a set of readings, no blank can have."""

    code = "bad_reading"


class BadDrawing(WimpleError):
    """A drawing that cannot be read or must not be."""

    code = "bad_drawing"


class NotMade(WimpleError):
    """Something that takes a while, and waits to be made."""

    code = "not_made"


class DoesNotFit(WimpleError):
    """Something laid where there is no room for it."""

    code = "does_not_fit"


class CannotTell(WimpleError):
    """A fault of ours: a step that could not be worked out."""

    code = "our_fault"


class TooMuch(WimpleError):
    """A file that takes more time or memory to read than one is given."""

    code = "too_much"


class Busy(WimpleError):
    """Nothing wrong with what was sent: its turn did not come in time."""

    code = "busy"
