"""Recipes made: each from its own few numbers to painted pieces, mm, its middle at 0, 0, y up."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..errors import BadDrawing
from ..figures import carried
from ..job.lettering import Baseline, Lettering
from ..job.recipes import FilledWords, JarInsert, OutlinedWords, RingWords, Tally
from ..overlay import difference, union
from .artwork import Artwork, Note, Paint
from .edits.around import offset
from .lettering import Face, Faces, set_words
from .shapes import arc, disc, painted, slot, tab

TURNED = 0.92
"""Upper and lower words of a ring together may take this share of it; more, and they run into each other."""
CAUTION_AWAY = 1.5
"""From the edge of an insert to the caution round it, in heights of its capitals."""
BELOW = 1.0
"""So far below the middle of capitals the longest letters reach, in heights of the capitals."""
FACE_GAP = 0.6
"""From the words on its face to its opening, in heights of their capitals."""
HeightOf = Callable[[float], float]
"""From a volume (ml) to how high its level stands along the side, mm from the lower line."""


@dataclass(frozen=True)
class Disc:
    """An insert: its radius, mm, how high above its middle what is cut out of it reaches (None where nothing is), and
    how much is kept free along its edges."""

    radius: float
    opening: float | None = None
    margin: float = 0.0


@dataclass(frozen=True)
class OfBlank:
    """What a blank says of what is drawn by its measures: how high a volume stands in it, where it holds any, and its
    disc, where it is an insert."""

    height_of: HeightOf | None = None
    disc: Disc | None = None


NOTHING_SAID = OfBlank()


def _ring(outside: float, inside: float, tolerance: float) -> BaseGeometry:
    return shapely.Polygon(arc(outside, 0, 2 * math.pi, tolerance)[:-1], [arc(inside, 0, 2 * math.pi, tolerance)[:-1]])


@contextmanager
def _words_at(field: str) -> Iterator[None]:
    """Faults of words stand at the recipe's own field for them."""
    try:
        yield
    except BadDrawing as bad:
        raise BadDrawing(bad.message, field=field if bad.field == "text" else bad.field, hint=bad.hint) from None


def _round(text: str, over: bool, radius: float, capitals: float, face: Face, tracking: float, colour: str) -> Artwork:
    """Words whose capitals lie with their middle on a circle about 0, 0: above read from outside, below from inside."""
    foot = radius - capitals / 2 if over else radius + capitals / 2
    words = Lettering(
        text=text,
        size_mm=capitals,
        tracking=tracking,
        colour=colour,
        baseline=Baseline(kind="over" if over else "under", radius_mm=foot),
    )
    made = set_words(words, face)
    # Set with the circle's top, or its bottom, at 0, 0.
    up = foot if over else -foot
    return replace(
        made, paints=tuple(replace(p, region=shapely.transform(p.region, lambda c: c + (0.0, up))) for p in made.paints)
    )


def _span(art: Artwork) -> float:
    """How much of the circle about 0, 0 words take, as an angle."""
    p = np.concatenate([shapely.get_coordinates(x.region) for x in art.paints])
    a = np.arctan2(p[:, 0], p[:, 1] if p[:, 1].mean() > 0 else -p[:, 1])
    return float(a.max() - a.min())


def _named(paints: Sequence[Paint], before: str) -> list[Paint]:
    return [replace(p, name=f"{before}-{p.name}") for p in paints]


def _at(field: str, notes: Sequence[Note]) -> tuple[Note, ...]:
    """Notes of words as seen from the recipe: those at their text stand at that field."""
    return tuple(replace(n, field=f"source.{field}" if n.field == "source.text" else n.field) for n in notes)


def ring_words(r: RingWords, faces: Faces) -> Artwork:
    """Words round a band. Raises BadDrawing where they are longer than it has room for."""
    outside, inside = r.outside_mm / 2, r.outside_mm / 2 - r.band_mm
    tolerance = max(0.01, r.outside_mm / 50_000)
    middle = (outside + inside) / 2
    taken = 0.0
    words: list[Paint] = []
    notes: list[Note] = []
    for text, over, field in ((r.upper, True, "upper"), (r.lower, False, "lower")):
        if text:
            with _words_at(field):
                made = _round(text, over, middle, r.letters_mm, faces(r.font), r.tracking, r.colour)
            taken += _span(made)
            words += _named(made.paints, field)
            notes += _at(field, made.notes)
    if taken > TURNED * 2 * math.pi:
        raise BadDrawing(
            f"The words take {taken / (2 * math.pi):.0%} of the ring.",
            field="letters_mm",
            hint="Make the letters smaller, or the ring larger.",
        )
    if r.knocked_out:
        band = difference(_ring(outside, inside, tolerance), union([p.region for p in words]))
        out = painted([Paint(band, r.colour, "band")], tolerance)
    else:
        rims = []
        if r.rim_mm:
            rims = [
                Paint(_ring(outside, outside - r.rim_mm, tolerance), r.colour, "outer rim"),
                Paint(_ring(inside + r.rim_mm, inside, tolerance), r.colour, "inner rim"),
            ]
        out = painted([*rims, *words], tolerance)
    return replace(out, notes=tuple(notes), capitals=r.letters_mm)


def jar_insert(r: JarInsert, faces: Faces, blank: Disc | None = None) -> Artwork:
    """A round insert with its opening, its tab and its words; where the blank is one, the words on that, y up from its
    disc's lowest place. Raises BadDrawing where they have no room on it."""
    tolerance = max(0.01, r.inside_mm / 50_000)
    if blank is None:
        radius = r.inside_mm / 2 - r.clearance_mm
        insert = Disc(radius, r.opening_mm / 2 if r.opening != "none" else None)
        return _on_insert(r, faces, insert, [Paint(_insert(r, radius, tolerance), r.colour, "insert")])
    if not r.face and not r.caution:
        raise BadDrawing("There are no words on it.", field="face", hint="The insert itself is the blank: write some.")
    made = _on_insert(r, faces, blank, [])
    up = tuple(replace(p, region=shapely.transform(p.region, lambda c: c + (0.0, blank.radius))) for p in made.paints)
    return replace(made, paints=up, box=(-blank.radius, 0.0, blank.radius, 2 * blank.radius), stands=True)


def _insert(r: JarInsert, radius: float, tolerance: float) -> BaseGeometry:
    """The insert itself."""
    body: BaseGeometry = disc(radius, tolerance)
    if r.tab_mm:
        # From well within the disc to as far beyond its edge as it is wide.
        strip = shapely.transform(tab(r.tab_mm, radius / 2 + r.tab_mm, tolerance), lambda p: p + (0.0, radius / 2))
        body = union([body, strip])
    hole: BaseGeometry | None = None
    if r.opening == "hole":
        hole = disc(r.opening_mm / 2, tolerance)
    elif r.opening == "slot":
        # From the middle to the edge below, so that the insert goes round a wick that stands.
        long = radius + r.opening_mm
        hole = shapely.transform(slot(long + r.opening_mm / 2, r.opening_mm, tolerance), lambda p: p[:, ::-1])
        hole = shapely.transform(hole, lambda p: p - (0.0, long / 2 - r.opening_mm / 4))
    return difference(body, hole) if hole is not None else body


def _on_insert(r: JarInsert, faces: Faces, on: Disc, paints: list[Paint]) -> Artwork:
    """Paints, and over them the words on an insert."""
    radius = on.radius
    tolerance = max(0.01, r.inside_mm / 50_000)
    notes: list[Note] = []
    edge = radius - on.margin
    if r.caution:
        away = max(CAUTION_AWAY * r.caution_mm, on.margin + BELOW * r.caution_mm)
        with _words_at("caution"):
            made = _round(r.caution, False, radius - away, r.caution_mm, faces(r.font), 40.0, r.words_colour)
        if _span(made) > TURNED * 2 * math.pi:
            raise BadDrawing(
                "The caution is longer than the insert is round.",
                field="caution_mm",
                hint="Make its letters smaller, or the words fewer.",
            )
        paints += _named(made.paints, "caution")
        notes += _at("caution", made.notes)
        edge = radius - away - r.caution_mm
    if r.face:
        words_in = Lettering(text=r.face, size_mm=r.face_mm, colour=r.words_colour)
        with _words_at("face"):
            face = set_words(words_in, faces(r.font))
        left, low, right, high = face.bounds
        # In the middle, or above the opening.
        foot = -(high - low) / 2
        if on.opening is not None:
            foot = max(foot, on.opening + max(FACE_GAP * r.face_mm, on.margin))
        move = (-(left + right) / 2, foot - low)
        words = [replace(p, region=shapely.transform(p.region, lambda c: c + move)) for p in face.paints]
        corner = math.hypot((right - left) / 2, max(abs(foot), abs(foot + high - low)))
        if corner > edge:
            raise BadDrawing(
                "The words on its face reach beyond it.", field="face_mm", hint="Make them smaller, or fewer."
            )
        paints += _named(words, "face")
        notes += _at("face", face.notes)
    sizes = [mm for text, mm in ((r.face, r.face_mm), (r.caution, r.caution_mm)) if text]
    return replace(painted(paints, tolerance), notes=tuple(notes), capitals=min(sizes, default=None))


def filled_words(r: FilledWords, faces: Faces) -> Artwork:
    """Words that fill a rectangle: each line stretched to its width keeping its shape, then all heights and gaps in one
    proportion so that together they are as tall as it."""
    face, lines = faces(r.font), []
    notes: list[Note] = []
    for n, text in enumerate(t for t in r.text.split("\n") if t.strip()):
        made = set_words(Lettering(text=text, sized="width", size_mm=r.across_mm, colour=r.colour), face)
        notes += _at("text", made.notes)
        lines.append((n, made))
    heights = [m.bounds[3] - m.bounds[1] for _, m in lines]
    gap = 0.12 * sum(heights) / len(heights) if len(lines) > 1 else 0.0
    stretch = r.tall_mm / (sum(heights) + gap * (len(lines) - 1))
    top, paints = r.tall_mm / 2, []
    for (n, made), height in zip(lines, heights, strict=True):
        left, low, right, high = made.bounds
        by = np.array([r.across_mm / (right - left), stretch])
        at = np.array([-r.across_mm / 2 - left * by[0], top - high * stretch])
        paints += [
            replace(
                p,
                region=shapely.transform(p.region, lambda c, by=by, at=at: c * by + at),  # type: ignore[misc]
                name=f"{n + 1}-{p.name.partition('-')[2]}",
            )
            for p in made.paints
        ]
        top -= (height + gap) * stretch
    smallest = min(made.capitals or 0.0 for _, made in lines) * stretch
    return replace(painted(paints, 0.01), notes=tuple(notes), capitals=smallest or None)


def outlined_words(r: OutlinedWords, faces: Faces) -> Artwork:
    """Words over their outline, and that over a second."""
    made = set_words(Lettering(text=r.text, size_mm=r.letters_mm, colour=r.colour), faces(r.font))
    tolerance = made.tolerance
    letters = union([p.region for p in made.paints])
    paints: list[Paint] = []
    for by, colour, name in (
        (r.outline_mm + r.second_mm if r.second_mm else 0.0, r.second_colour, "second outline"),
        (r.outline_mm, r.outline_colour, "outline"),
    ):
        if by:
            around = offset(letters, by, tolerance)
            if r.filled:
                around = union([shapely.Polygon(g.exterior) for g in shapely.get_parts(around)])
            paints.append(Paint(around, colour, name))
    return replace(painted([*paints, *made.paints], tolerance), notes=_at("text", made.notes), capitals=made.capitals)


SMALLER = 0.5
"""A line between two is so long."""
AWAY = 0.5
"""From a line to its figure, in heights of the figures."""


def tally(r: Tally, faces: Faces, height_of: HeightOf) -> Artwork:
    """Lines as high as their quantities stand, y along the side from the blank's lower line, x from the lines' left
    end. Raises BadDrawing where one would run over, or lines lie on each other."""
    face = faces(r.font)
    notes: list[Note] = []
    amounts = r.amounts
    lines = [(ml, r.long_mm, f"line {said}") for said, ml in amounts]
    below = 0.0
    for said, ml in amounts:
        steps = [below + (ml - below) * n / (r.between + 1) for n in range(1, r.between + 1)]
        lines += [(s, SMALLER * r.long_mm, f"line {n} under {said}") for n, s in enumerate(steps, start=1)]
        below = ml
    with _words_at("quantities"):
        heights = sorted((height_of(ml), long, name) for ml, long, name in lines)
    close = min((b[0] - a[0] for a, b in zip(heights, heights[1:], strict=False)), default=math.inf)
    if close < 1.5 * r.thick_mm:
        raise BadDrawing(
            f"Two lines would stand {carried(close)} apart, and they are {carried(r.thick_mm)} thick.",
            field="between" if r.between else "quantities",
            hint="Take fewer of them, or thinner lines.",
        )
    half = r.thick_mm / 2
    out = [Paint(shapely.box(0, h - half, long, h + half), r.colour, name) for h, long, name in heights]
    for said, ml in amounts:
        text = f"{said} {r.unit}" if r.said == "figures and unit" else said
        made = set_words(Lettering(text=text, size_mm=r.letters_mm, colour=r.colour), face)
        left, *_ = made.bounds
        at = (r.long_mm + AWAY * r.letters_mm - left, height_of(ml) - r.letters_mm / 2)
        out += [
            replace(p, region=shapely.transform(p.region, lambda c, at=at: c + at), name=f"{said}-{p.name}")  # type: ignore[misc]
            for p in made.paints
        ]
        notes += _at("quantities", made.notes)
    notes.append(
        Note(
            "artwork.tally",
            "Tally marks",
            "reckoned from the outside, the wall and its floor, for the kitchen and no legal measure: check one with"
            " water before you cut them all",
            "ok",
            "source.quantities",
        )
    )
    return replace(painted(out, 0.01), notes=tuple(notes), capitals=r.letters_mm, stands=True)
