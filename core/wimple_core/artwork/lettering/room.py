"""Words made to fit a room: smaller, and where they would be too small, in more lines."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass

from ...job.lettering import Lettering
from ...job.names import Room
from .fonts import Face
from .setting import set_words, straight_extent

STEP_MM = 0.01
MOST_WORDS = 12
"""So many words of a text are tried in all ways of breaking it; of a longer one only even breaks."""
ROUNDS = 6
ROUGH_MM = 0.05
"""So roughly letters are drawn to be measured."""


@dataclass(frozen=True)
class InRoom:
    """Words as they fit: how much smaller than wanted (1: as wanted), how tall their capitals are, how wide and tall
    all is (mm), and by how much (mm) that is more than the room."""

    words: Lettering
    shrunk: float
    capitals: float
    wide: float
    tall: float
    over: float

    @property
    def short(self) -> bool:
        """Do they not fit even at their least size?"""
        return self.over > 0


def in_room(words: Lettering, face: Face, room: Room) -> InRoom:
    """The largest size in which words fit a room, up to the size they have: first in the lines they are in, then, where
    their capitals would be under the least, in more. Where nothing fits they stand at the least size, in the lines that
    miss by least. Raises BadDrawing as setting them does."""
    best: InRoom | None = None
    for text in _broken(words.text, room.most_lines):
        tried = _fitted(words.model_copy(update={"text": text}), face, room)
        if best is None or _better(tried, best):
            best = tried
        if not tried.short and text == words.text:
            break
    assert best is not None
    return best


def _better(one: InRoom, other: InRoom) -> bool:
    return (one.over, -one.words.size_mm) < (other.over - 1e-9, -other.words.size_mm)


def _fitted(words: Lettering, face: Face, room: Room) -> InRoom:
    """The words in their own lines, as large as they may be."""
    size = words.size_mm
    for _ in range(ROUNDS):
        capitals, wide, tall = _measured(words, size, face)
        by = min(1.0, room.wide_mm / wide, room.tall_mm / tall)
        least = size * min(1.0, room.least_mm / capitals)
        # On a line that bends, size and width do not grow alike: looked at again.
        smaller = max(math.floor(size * by / STEP_MM + 1e-9) * STEP_MM, least)
        if by >= 1.0 or smaller >= size - STEP_MM / 2:
            break
        size = smaller
    capitals, wide, tall = _measured(words, size, face)
    over = max(wide - room.wide_mm, tall - room.tall_mm)
    return InRoom(
        words.model_copy(update={"size_mm": size}),
        size / words.size_mm,
        capitals,
        wide,
        tall,
        over if over > STEP_MM else 0.0,
    )


def _measured(words: Lettering, size: float, face: Face) -> tuple[float, float, float]:
    """How tall the capitals of words are in a size, and how wide and tall all of them, mm."""
    sized = words.model_copy(update={"size_mm": size})
    straight = straight_extent(sized, face)
    if straight is not None:
        return straight
    made = set_words(sized, face, ROUGH_MM)
    left, low, right, high = made.bounds
    return made.capitals or size, right - left, high - low


def _broken(text: str, most: int) -> Iterator[str]:
    """The text as it is, and broken at its blanks into up to so many lines."""
    yield text
    words = text.split()
    if "\n" in text:
        return
    for lines in range(2, min(most, len(words)) + 1):
        if len(words) > MOST_WORDS:
            yield _even(words, lines)
            continue
        ways = [
            [" ".join(words[a:b]) for a, b in itertools.pairwise((0, *cut, len(words)))]
            for cut in itertools.combinations(range(1, len(words)), lines - 1)
        ]
        # Those whose longest line is short: letters differ in width, so more than one is looked at.
        ways.sort(key=lambda way: max(map(len, way)))
        for way in ways[:3]:
            yield "\n".join(way)


def _even(words: list[str], lines: int) -> str:
    """Words in lines of about one length."""
    total, out, had = sum(map(len, words)) + len(words), [""], 0
    for word in words:
        if had >= total * len(out) / lines and len(out) < lines:
            out.append("")
        out[-1] = f"{out[-1]} {word}".strip()
        had += len(word) + 1
    return "\n".join(out)
