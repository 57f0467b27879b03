"""What differs between two documents of a job, in a few words, for its history."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

AREAS = {
    "title": "title",
    "customer": "customer",
    "due": "due date",
    "quantity": "quantity",
    "note": "note",
    "blank": "blank",
    "wrap": "wrap",
    "elements": "artwork",
    "names": "names",
    "reference": "picture to work by",
    "layers": "layers",
    "sheets": "sheets",
    "layup": "lay-up",
    "price": "price",
}
_UNITS = re.compile(r"_(mm|deg|um|percent|hours|minutes|e|on)$")
MOST_NAMED = 4


def _word(field: str) -> str:
    return _UNITS.sub("", field).replace("_", " ")


def _differing(before: Any, after: Any) -> list[str]:
    """The fields of two mappings that differ."""
    if not (isinstance(before, Mapping) and isinstance(after, Mapping)):
        return []
    return [key for key in {**before, **after} if before.get(key) != after.get(key)]


def _few(names: list[str]) -> str:
    more = len(names) - MOST_NAMED
    return ", ".join(names[:MOST_NAMED]) + (f" and {more} more" if more > 0 else "")


def _element(element: Mapping[str, Any]) -> str:
    source = element.get("source") or {}
    words = str(source.get("text") or "").split("\n")[0][:30]
    return str(source.get("file") or (f"“{words}”" if words else element.get("id")))


def _elements(before: Any, after: Any) -> str:
    """Drawings and words brought in, taken out, and what was changed of the others, by their ids."""
    old, new = ({e.get("id"): e for e in side or ()} for side in (before, after))
    said = [f"{_element(e)} brought in" for i, e in new.items() if i not in old]
    said += [f"{_element(e)} taken out" for i, e in old.items() if i not in new]
    for i, e in new.items():
        if i in old and old[i] != e:
            inside = _differing(old[i].get("source"), e.get("source"))
            outside = [f for f in _differing(old[i], e) if f != "source"]
            said.append(f"{_element(e)} {_few([_word(f) for f in (*inside, *outside)])}")
    return _few(said) if said else "order"


def what_changed(before: Mapping[str, Any], after: Mapping[str, Any]) -> str:
    """The areas of a job that differ, and in each the fields: "blank: upper, height; price: overhead". Empty for two
    that are alike."""
    said = []
    for area in _differing(before, after):
        name = AREAS.get(area)
        if name is None:
            continue
        one, other = before.get(area), after.get(area)
        if area == "elements":
            inner = _elements(one, other)
        elif isinstance(one, Mapping) and isinstance(other, Mapping) and one.get("kind") != other.get("kind"):
            inner = f"another kind, {_word(str(other.get('kind')))}"
        else:
            inner = _few([_word(f) for f in _differing(one, other)])
        said.append(f"{name}: {inner}" if inner else name)
    return "; ".join(said)
