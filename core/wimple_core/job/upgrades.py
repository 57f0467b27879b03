"""Documents of earlier versions, brought up to this one, a step at a time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from ..errors import BadDocument

VERSION: Literal[1] = 1

_STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}
"""From version n to n + 1."""


def upgrade(raw: dict[str, Any]) -> dict[str, Any]:
    """Bring a raw document up to the present version. Raises BadDocument for a version it cannot know."""
    if raw.get("format", "wimple.job") != "wimple.job":
        raise BadDocument(
            f"The format “{raw['format']}” is not a job's.", field="format", hint="It must be “wimple.job”."
        )
    version = raw.get("version", VERSION)
    if not isinstance(version, int) or isinstance(version, bool) or not 1 <= version <= VERSION:
        raise BadDocument(
            f"Version “{version}” of the job document is not known here.",
            field="version",
            hint=f"This program reads versions 1 to {VERSION}; a newer document needs a newer program.",
        )
    while version < VERSION:
        raw = _STEPS[version](raw)
        version += 1
    return {**raw, "version": VERSION}
