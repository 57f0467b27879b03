"""Words set: each letter an outline in its place, in mm, y up."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ...arrays import Array
from ...errors import BadDrawing
from ...job.lettering import Baseline, LetterChange, Lettering
from ..artwork import Artwork, Gap, Note, Paint
from ..limits import check_reach
from ..svg.paths import flatten_path
from ..svg.regions import fill_of_rings, rings_of
from .fonts import Face
from .shaping import Glyph, Line, lacking_of, shape

FINEST = 1 / 50_000
"""Curves of letters larger than half a metre are cut no finer than this share of their size."""
NEAR = 6
"""Glyphs are told apart by their places to so many digits of a font unit."""
LONGEST_MM, WAVE_STEPS = 2000.0, 40_000
"""How far to each side a wave is followed, and in how many steps."""
Place = Callable[[float, float], tuple[float, float, float]]
"""From a place along a line (mm from its middle) and the line's rise over the first (mm) to x, y and the turn there."""


@dataclass(frozen=True)
class Letter:
    """One letter of a line as it is set: its glyphs, and where its middle stands along the line, mm from the line's
    start."""

    first: int
    glyphs: tuple[Glyph, ...]
    middle: float


def set_words(words: Lettering, face: Face, tolerance: float = 0.01) -> Artwork:
    """Words as painted regions, one for each letter, called by line and letter ("1-3"), so that an edit finds its
    letter again in another size or font.

    `tolerance` (mm) is the largest distance between a curve and its chords. Raises BadDrawing where nothing of it can
    be drawn, naming the letters the font lacks.
    """
    tolerance = max(tolerance, words.size_mm * FINEST)
    lines = _shaped(words, face)
    lacking = lacking_of(lines)
    scale = _scale(words, face, lines)
    paints: list[Paint] = []
    gaps: list[Gap] = []
    widest = max((_ink(line)[1] - _ink(line)[0]) * scale for line in lines)
    for n, line in enumerate(lines):
        left, right = _ink(line)
        if right <= left:
            continue
        stretch = widest / ((right - left) * scale) if words.lines == "fitted" else 1.0
        made = _set_line(words, n, line, scale * stretch, widest, face, tolerance)
        paints += made[0]
        gaps += made[1]
    if not paints:
        said = f"The font {face.name} has no {_listed(lacking)}." if lacking else "These words have no outlines."
        raise BadDrawing(said, field="text", hint="Take another font, or other letters.")
    notes = []
    if lacking:
        notes.append(
            Note("artwork.letters", _listed(lacking), f"not in {face.name}, so not drawn", "stop", "source.text")
        )
    if not face.may_be_embedded:
        notes.append(
            Note(
                "artwork.font",
                face.name,
                "its flags forbid embedding; cutting is none, but look at its licence",
                field="source.font",
            )
        )
    box = shapely.total_bounds(np.array([p.region for p in paints], dtype=object))
    check_reach(box.reshape(2, 2), "lettering")
    wide, tall = float(box[2] - box[0]), float(box[3] - box[1])
    return Artwork(tuple(paints), wide, tall, True, tuple(notes), tolerance, face.cap_height * scale, tuple(gaps))


def straight_extent(words: Lettering, face: Face) -> tuple[float, float, float] | None:
    """How tall capitals are, and how wide and tall all is (mm), of words whose lines stand straight and whose letters
    are as they are set; None for others. Nothing is drawn for it."""
    if words.baseline.kind != "straight" or words.letters or words.lines == "fitted":
        return None
    lines = _shaped(words, face)
    scale = _scale(words, face, lines)
    cap = face.cap_height * scale
    widest = max((_ink(line)[1] - _ink(line)[0]) * scale for line in lines)
    low, high = math.inf, -math.inf
    for n, line in enumerate(lines):
        foot = -n * words.line_distance / 100 * cap
        for g in line.glyphs:
            box = g.part.box(g.number)
            if box:
                low = min(low, foot + (g.y + box[1] * g.unit) * scale)
                high = max(high, foot + (g.y + box[3] * g.unit) * scale)
    return (cap, widest, high - low) if widest > 0 and high > low else None


def _listed(letters: tuple[str, ...]) -> str:
    more = f" and {len(letters) - 8} more" if len(letters) > 8 else ""
    return "“" + "”, “".join(letters[:8]) + "”" + more


def _shaped(words: Lettering, face: Face) -> list[Line]:
    features = {f.lstrip("-"): not f.startswith("-") for f in words.features}
    out = []
    for n, text in enumerate(words.text.split("\n")):
        kerning = {k.letter: k.by for k in words.kerns if k.line == n}
        out.append(shape(text, face, features, words.tracking, kerning))
    return out


def _ink(line: Line) -> tuple[float, float]:
    """From where to where a line is seen, font units: its optical edges."""
    left, right = math.inf, -math.inf
    for g in line.glyphs:
        found = g.part.ink(g.number)
        if found:
            k = g.unit
            left, right = min(left, g.x + found[0] * k), max(right, g.x + found[1] * k)
    return (left, right) if left < right else (0.0, 0.0)


def _scale(words: Lettering, face: Face, lines: list[Line]) -> float:
    """Millimetres to a font unit."""
    if words.sized == "width":
        widest = max((_ink(line)[1] - _ink(line)[0]) for line in lines)
        return words.size_mm / widest if widest > 0 else 1.0
    return words.size_mm / (face.cap_height if words.sized == "capitals" else face.x_height)


def _letters(line: Line) -> list[Letter]:
    """The letters of a line: glyphs that belong together move and turn together."""
    groups: dict[int, list[Glyph]] = {}
    for g in line.glyphs:
        groups.setdefault(g.first, []).append(g)
    out = []
    for first, glyphs in groups.items():
        left, right = min(g.x for g in glyphs), max(g.x + g.advance for g in glyphs)
        out.append(Letter(first, tuple(glyphs), (left + right) / 2))
    return out


def place_on(baseline: Baseline, distance: float) -> Place:
    """Where a place along a line is. Lengths along the line stay: a letter's middle is as far along a circle or a wave
    as along the straight line. `distance` (mm) lies between two lines."""
    if baseline.kind == "straight":
        return lambda along, line: (along, -line * distance, 0.0)
    if baseline.kind in ("over", "under"):
        out = 1.0 if baseline.kind == "over" else -1.0

        def on_circle(along: float, line: float) -> tuple[float, float, float]:
            # Further lines lie inside the first where letters stand over the circle, outside it where under.
            radius = baseline.radius_mm - out * line * distance
            if radius <= 0:
                raise BadDrawing(
                    "The lines below have no room inside the circle.",
                    field="baseline.radius_mm",
                    hint="Make it larger, or set fewer lines.",
                )
            turn = along / radius
            return radius * math.sin(turn), out * (radius * math.cos(turn) - baseline.radius_mm), -out * turn

        return on_circle
    rise, wave = baseline.height_mm / 2, 2 * math.pi / baseline.length_mm
    # Simpson's rule over short steps, so that a length is true to a hundredth of the blade's.
    steps = np.linspace(-LONGEST_MM, LONGEST_MM, 2 * WAVE_STEPS + 1)
    growth = np.hypot(1.0, rise * wave * np.cos(wave * steps))
    length = np.concatenate([[0.0], np.cumsum(growth[:-2:2] + 4 * growth[1:-1:2] + growth[2::2])])
    length *= (steps[1] - steps[0]) / 3
    steps = steps[::2]
    length -= np.interp(0.0, steps, length)

    def on_wave(along: float, line: float) -> tuple[float, float, float]:
        if not length[0] <= along <= length[-1]:
            raise BadDrawing(
                f"The words are longer than the {2 * LONGEST_MM / 1000:.0f} m that a wave is followed.",
                field="size_mm",
                hint="Make them smaller, or set them on a straight line.",
            )
        x = float(np.interp(along, length, steps))
        return x, rise * math.sin(wave * x) - line * distance, math.atan(rise * wave * math.cos(wave * x))

    return on_wave


def _set_line(
    words: Lettering, n: int, line: Line, scale: float, widest: float, face: Face, tolerance: float
) -> tuple[list[Paint], list[Gap]]:
    """One line's letters, and the spaces between them."""
    left, right = _ink(line)
    wide = (right - left) * scale
    shift = {"left": -widest / 2, "middle": -wide / 2, "right": widest / 2 - wide}[words.align] - left * scale
    cap = face.cap_height * scale if words.lines == "free" else words.size_mm
    place = place_on(words.baseline, words.line_distance / 100 * cap)
    changes = {c.letter: c for c in words.letters if c.line == n}
    letters = _letters(line)
    gaps = [_gap(words, n, line, (one, other), scale, shift, place, face) for one, other in itertools.pairwise(letters)]
    out = []
    for letter in letters:
        shape_ = _outline(letter, scale, tolerance)
        if shape_.is_empty:
            continue
        change = changes.get(letter.first, LetterChange(line=n, letter=letter.first))
        if change.turn_deg:
            # By itself a letter turns about the middle of a capital, and not about its foot.
            half = face.cap_height * scale / 2
            about = math.radians(change.turn_deg)
            shape_ = _turned(shape_, about, half * math.sin(about), half * (1 - math.cos(about)))
        x, y, turn = place(letter.middle * scale + shift, n)
        moved = _turned(shape_, turn, x + change.across_mm, y + change.up_mm)
        out.append(Paint(moved, change.colour or words.colour, f"{n + 1}-{letter.first + 1}"))
    return out, [g for g in gaps if g is not None]


def _gap(
    words: Lettering,
    n: int,
    line: Line,
    pair: tuple[Letter, Letter],
    scale: float,
    shift: float,
    place: Place,
    face: Face,
) -> Gap | None:
    """The space between two letters; None where one of them is not seen."""
    ends = [_ink(replace(line, glyphs=letter.glyphs)) for letter in pair]
    if any(right <= left for left, right in ends):
        return None
    # From right to left the letter behind stands before.
    (_, a), (b, _) = ends
    x, y, turn = place((a + b) / 2 * scale + shift, n)
    said = "".join(line.text[letter.first] for letter in pair)
    tall = face.cap_height * scale
    return Gap(n, pair[0].first, said, x, y, turn, (b - a) * scale, tall, face.upem * scale / 1000)


def _outline(letter: Letter, scale: float, tolerance: float) -> BaseGeometry:
    """A letter's outline, mm, its middle on the line at 0, 0; made once for each size."""
    seen = [(g, round(g.x - letter.middle, NEAR), round(g.y, NEAR)) for g in letter.glyphs]
    key = (scale, tolerance, *((id(g.part), g.number, x, y) for g, x, y in seen))

    def made() -> BaseGeometry:
        rings: list[Array] = []
        for g, x, y in seen:
            path = g.part.path(g.number)
            if path:
                unit = scale * g.unit
                lines, _ = flatten_path(path, tolerance / unit)
                rings += [ring * unit + np.array([x, y]) * scale for ring in rings_of(lines)]
        return fill_of_rings(rings, "nonzero", tolerance / 1024)

    return letter.glyphs[0].part.outline(key, made)


def _turned(shape_: BaseGeometry, turn: float, x: float, y: float) -> BaseGeometry:
    c, s = math.cos(turn), math.sin(turn)
    matrix = np.array([[c, s], [-s, c]])
    moved: BaseGeometry = shapely.transform(shape_, lambda p: p @ matrix + (x, y))
    return moved
