"""Which way each letter of a line runs, and the order in which they are seen (Unicode's bidirectional algorithm, UAX 9,
by a library; its rule N0 for brackets is added here)."""

from __future__ import annotations

import unicodedata
from typing import Any

from bidi import algorithm

FROM_RIGHT = ("R", "AL", "AN", "RLE", "RLO", "LRO", "RLI", "LRI", "FSI")
"""Directions of what may stand from right to left, or makes others stand so."""
STANDS_FOR = {"BN": "NSM", "LRI": "ON", "RLI": "ON", "FSI": "ON", "PDI": "ON"}
"""Signs that are not seen go with the letter before them; isolates are not kept apart."""
BRACKETS = {"(": ")", "[": "]", "{": "}"}
MOST_OPEN = 63


def visual_order(text: str) -> list[tuple[int, bool]]:
    """The letters of one line from left to right as they are seen, by their places in the text, and whether each is
    read from right to left."""
    if not any(unicodedata.bidirectional(c) in FROM_RIGHT for c in text):
        return [(i, False) for i in range(len(text))]
    storage: dict[str, Any] = algorithm.get_empty_storage()
    storage["base_level"] = algorithm.get_base_level(text)
    storage["base_dir"] = ("L", "R")[storage["base_level"]]
    algorithm.get_embedding_levels(text, storage)
    for i, letter in enumerate(storage["chars"]):
        letter["at"] = i
        letter["type"] = STANDS_FOR.get(letter["type"], letter["type"])
    algorithm.explicit_embed_and_overrides(storage)
    algorithm.resolve_weak_types(storage)
    for run in storage["runs"]:
        some = storage["chars"][run["start"] : run["start"] + run["length"]]
        _resolve_brackets(some, run["sor"])
    algorithm.resolve_neutral_types(storage, False)
    algorithm.resolve_implicit_levels(storage, False)
    algorithm.reorder_resolved_levels(storage, False)
    return [(c["at"], c["level"] % 2 == 1) for c in storage["chars"]]


def _pairs(some: list[dict[str, Any]]) -> list[tuple[int, int]]:
    """Brackets that belong together, by where they open (rule BD16)."""
    opened: list[tuple[str, int]] = []
    out = []
    for i, letter in enumerate(some):
        sign = letter["ch"]
        if letter["type"] != "ON":
            continue
        if sign in BRACKETS:
            if len(opened) >= MOST_OPEN:
                break
            opened.append((BRACKETS[sign], i))
        elif any(sign == close for close, _ in opened):
            while True:
                close, at = opened.pop()
                if close == sign:
                    out.append((at, i))
                    break
    return sorted(out)


def _strong(letter: dict[str, Any]) -> str:
    """L or R, numbers counting as R; empty for others."""
    kind = str(letter["type"])
    return "R" if kind in ("R", "EN", "AN") else "L" if kind == "L" else ""


def _resolve_brackets(some: list[dict[str, Any]], before: str) -> None:
    """Brackets take the direction of their line where something between them has it, else that of what stands before
    them, where something between has the other (rule N0)."""
    for start, end in _pairs(some):
        line = "R" if some[start]["level"] % 2 else "L"
        other = "L" if line == "R" else "R"
        within = {_strong(c) for c in some[start + 1 : end]}
        way = ""
        if line in within:
            way = line
        elif other in within:
            ahead = next((s for c in reversed(some[:start]) if (s := _strong(c))), before)
            way = other if ahead == other else line
        if way:
            for at in (start, end):
                some[at]["type"] = way
                for mark in some[at + 1 :]:
                    # Marks upon a bracket go with it.
                    if mark["orig"] not in ("NSM", "BN"):
                        break
                    mark["type"] = way
