"""Documents of earlier versions, brought up to this one, a step at a time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from ..errors import BadDocument

VERSION: Literal[3] = 3


def _elements_with_sources(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 2: drawings became elements, each with an id, a source and one or several placements."""
    out = {key: value for key, value in raw.items() if key != "drawings"}
    drawings = raw.get("drawings", [])
    if not isinstance(drawings, (list, tuple)):
        return {**out, "elements": drawings}
    elements: list[Any] = []
    for n, drawing in enumerate(drawings, start=1):
        if not isinstance(drawing, dict):
            elements.append(drawing)
            continue
        rest = {k: v for k, v in drawing.items() if k not in ("file", "shades", "placement")}
        source = {"kind": "file", **{k: drawing[k] for k in ("file", "shades") if k in drawing}}
        placements = {"placements": [drawing["placement"]]} if "placement" in drawing else {}
        elements.append({"id": f"e{n}", "source": source, **placements, **rest})
    return {**out, "elements": elements}


def _piece_work(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 3: an element may be lettering, and an edit names several pieces."""
    elements = raw.get("elements")
    if not isinstance(elements, (list, tuple)):
        return raw
    return {**raw, "elements": [_with_pieces(e) for e in elements]}


def _with_pieces(element: Any) -> Any:
    """An element of version 2 whose edits each left out one piece."""
    edits = element.get("edits") if isinstance(element, dict) else None
    if not isinstance(edits, (list, tuple)):
        return element
    several = [
        {**{k: v for k, v in e.items() if k != "piece"}, "pieces": [e["piece"]]}
        if isinstance(e, dict) and "piece" in e
        else e
        for e in edits
    ]
    return {**element, "edits": several}


_STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _elements_with_sources, 2: _piece_work}
"""From version n to n + 1."""


def upgrade(raw: dict[str, Any]) -> dict[str, Any]:
    """Bring a raw document up to the present version. Raises BadDocument for a version it cannot know."""
    if raw.get("format", "wimple.job") != "wimple.job":
        raise BadDocument(
            f"The format “{raw['format']}” is not a job's.", field="format", hint="It must be “wimple.job”."
        )
    # One that says nothing of its version is of the first, if it has what only that one had.
    version = raw.get("version", 1 if "drawings" in raw else VERSION)
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
