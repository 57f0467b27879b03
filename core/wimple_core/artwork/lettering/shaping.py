"""A line of text shaped: which glyphs stand where, as HarfBuzz sets them."""

from __future__ import annotations

import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import uharfbuzz as hb

from .directions import visual_order
from .fonts import Face, Part

NONE: Mapping[Any, Any] = {}
JOINERS = "\u200c\u200d\ufe0e\ufe0f"
"""Signs that shape and are not seen: joiners, and choices of how an emoji is drawn."""


@dataclass(frozen=True)
class Glyph:
    """One glyph of a line, in font units from the line's start: its file, number, place and advance, and the first
    letter of the line it stands for."""

    part: Part
    number: int
    x: float
    y: float
    advance: float
    first: int
    unit: float = 1.0
    """Units of the font to one of the file's."""


@dataclass(frozen=True)
class Line:
    """A shaped line: its glyphs from left to right, its advance in font units, and the letters the font lacks."""

    text: str
    glyphs: tuple[Glyph, ...]
    advance: float
    lacking: tuple[str, ...] = ()


@dataclass(frozen=True)
class Run:
    """A stretch of a line in one file of its font and one direction: from letter, to letter."""

    start: int
    end: int
    part: Part
    from_right: bool


def _parts(text: str, face: Face) -> list[Part]:
    """The file of the font that serves each letter; a mark stays with its letter."""
    out: list[Part] = []
    for letter in text:
        last = out[-1] if out else face.parts[0]
        joined = bool(out) and (unicodedata.combining(letter) > 0 or letter in JOINERS or letter == " ")
        has = [p for p in (last, *face.parts) if ord(letter) in p.letters]
        out.append(last if joined or not has else has[0])
    return out


def _runs(text: str, face: Face) -> list[Run]:
    """The line cut where another file of the font must serve, or the direction turns; from left to right."""
    parts = _parts(text, face)
    out: list[Run] = []
    for at, from_right in visual_order(text):
        last = out[-1] if out else Run(at, at, parts[at], from_right)
        goes_on = at == (last.start - 1 if from_right else last.end)
        if out and goes_on and last.part is parts[at] and last.from_right == from_right:
            out[-1] = replace(last, start=min(at, last.start), end=max(at + 1, last.end))
        else:
            out.append(Run(at, at + 1, parts[at], from_right))
    return out


def shape(
    text: str,
    face: Face,
    features: Mapping[str, bool | int] = NONE,
    tracking: float = 0.0,
    kerning: Mapping[int, float] = NONE,
) -> Line:
    """Shape one line. `tracking` (thousandths of the em) is added behind each letter but the last; `kerning[i]`
    besides, between the letter that begins at i and the next one.

    Each run is shaped in its own direction, and the runs stand side by side in the order in which they are seen.
    """
    glyphs: list[Glyph] = []
    lacking: list[str] = []
    pen = 0.0
    for run in _runs(text, face):
        start, end, part = run.start, run.end, run.part
        buffer = hb.Buffer()
        buffer.add_str(text[start:end])
        buffer.guess_segment_properties()
        buffer.direction = "rtl" if run.from_right else "ltr"
        hb.shape(part.font, buffer, dict(features))
        scale = face.upem / part.upem
        infos, places = buffer.glyph_infos, buffer.glyph_positions
        clusters = sorted({info.cluster for info in infos}) + [end - start]
        size = {c: clusters[n + 1] - c for n, c in enumerate(clusters[:-1])}
        for n, (info, place) in enumerate(zip(infos, places, strict=True)):
            first = start + info.cluster
            if info.codepoint == 0:
                lacking += [c for c in text[first : first + size[info.cluster]] if c not in JOINERS]
                # What stands for a letter that is not there is no letter.
                pen += place.x_advance * scale
                continue
            advance = place.x_advance * scale
            # Behind the last glyph of a letter, not between a letter and its mark.
            if n + 1 == len(infos) or infos[n + 1].cluster != info.cluster:
                advance += tracking * face.upem / 1000 + kerning.get(first, 0.0) * face.upem / 1000
            glyphs.append(
                Glyph(part, info.codepoint, pen + place.x_offset * scale, place.y_offset * scale, advance, first, scale)
            )
            pen += advance
    last = tracking * face.upem / 1000 if glyphs else 0.0
    return Line(text, tuple(glyphs), pen - last, tuple(dict.fromkeys(lacking)))


def lacking_of(lines: Sequence[Line]) -> tuple[str, ...]:
    """The letters a font lacks, in the order they are met."""
    return tuple(dict.fromkeys(c for line in lines for c in line.lacking))
