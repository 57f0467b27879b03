"""Errors of the server, in the same shape as the core's."""

from __future__ import annotations


def error_body(code: str, message: str, hint: str, field: str = "") -> dict[str, object]:
    """The one JSON shape of an error."""
    fault = {"field": field, "message": message, "hint": hint}
    return {"code": code, **fault, "faults": [fault]}


class Conflict(Exception):
    """A save against a revision that is no longer the newest."""

    def __init__(self, message: str, hint: str, revision: int) -> None:
        super().__init__(message)
        self.message, self.hint, self.revision = message, hint, revision
