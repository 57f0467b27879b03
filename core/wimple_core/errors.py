"""What the program says when it is given something it cannot use."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class FieldFault:
    """One field that cannot be used: where it is, what is wrong, what would be right."""

    field: str
    message: str
    hint: str = ""


class WimpleError(Exception):
    """Base of every error a user can cause.

    Attributes: `code` (stable, for programs), `message` (what is wrong, with the value), `field` (path in the
    job document, or empty), `hint` (what would be right), `faults` (all fields at fault, the first being this one).
    """

    code = "error"

    def __init__(self, message: str, *, field: str = "", hint: str = "", faults: Sequence[FieldFault] = ()) -> None:
        super().__init__(message)
        self.message = message
        self.field = field
        self.hint = hint
        self.places: tuple[tuple[float, float, float], ...] = ()
        """Where on the body it is wrong, mm, where that can be shown."""
        self.faults: tuple[FieldFault, ...] = tuple(faults) or (FieldFault(field, message, hint),)

    def as_dict(self) -> dict[str, object]:
        """The one JSON shape of an error."""
        return {
            "code": self.code,
            "message": self.message,
            "field": self.field,
            "hint": self.hint,
            "faults": [{"field": f.field, "message": f.message, "hint": f.hint} for f in self.faults],
        }


class BadDocument(WimpleError):
    """A job document that does not hold what it must."""

    code = "bad_document"


class BadReading(WimpleError):
    """A reading, or a set of readings, no blank can have."""

    code = "bad_reading"


class BadDrawing(WimpleError):
    """A drawing that cannot be read or must not be."""

    code = "bad_drawing"


class NotFlattened(WimpleError):
    """A large patch of a mesh that waits to be flattened, which takes a while."""

    code = "not_flattened"


class DoesNotFit(WimpleError):
    """Something laid where there is no room for it."""

    code = "does_not_fit"
