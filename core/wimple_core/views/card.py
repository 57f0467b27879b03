"""A job or a blank small enough for a card."""

from __future__ import annotations

import numpy as np
import shapely

from ..built import Build
from ..figures import carried
from ..measure import Measured, sketch_of
from ..measure.body import Frustum
from ..verdict import worst
from .drawn import Box, Ring, View, box, flat, rings_of
from .judged import LevelName
from .placed import PaintView


class CardView(View):
    """A blank on a card: its size in words whose figures are still to be written out, and its outline."""

    size: str
    outline: list[Ring]
    bounds: Box


class TicketView(View):
    """A job on a ticket: its drawing, and its worst verdict in words whose figures are still to be written out."""

    outline: list[Ring]
    paints: list[PaintView]
    bounds: Box
    worst: LevelName
    step: str
    sentence: str


def side_rings(m: Measured) -> list[np.ndarray]:
    """The body's outline from the side or the front."""
    body = m.body
    if isinstance(body, Frustum):
        z, r = body.outside(*m.beyond)
        return [np.concatenate([np.column_stack([r, z]), np.column_stack([-r, z])[::-1]])]
    return [line for s in sketch_of(m).strokes if s.kind == "body" for line in s.lines]


def _outline(m: Measured) -> tuple[list[Ring], Box]:
    rings = side_rings(m)
    places = np.concatenate(rings)
    low, high = places.min(axis=0), places.max(axis=0)
    size = float((high - low).max())
    shapes = [shapely.simplify(shapely.LinearRing(r), size / 4000) for r in rings if len(r) > 2]
    return [flat(shapely.get_coordinates(s)[:-1], 2) for s in shapes], box((*low, *high))


def size_words(m: Measured) -> str:
    """The size of a blank in a few words, its figures still to be written out."""
    figures = {c.name: c.value for c in m.consequences}

    def say(name: str) -> str:
        return carried(figures[name])

    if "seam_top" in figures:
        tall = "side" if "height" not in figures else "height"
        return f"{say('seam_bottom')} to {say('seam_top')} round, {say(tall)}"
    if "insert_diameter" in figures:
        return f"{say('insert_diameter')} across"
    if "arc" in figures:
        return f"{say('rim')} across, {say('arc')} over it"
    wide, tall_mm = m.body.extent
    return f"{carried(wide)} × {carried(tall_mm)}"


def card_view(m: Measured) -> CardView:
    """A blank for the Shelf."""
    outline, bounds = _outline(m)
    return CardView(size=size_words(m), outline=outline, bounds=bounds)


def ticket_view(b: Build) -> TicketView:
    """A job for the Bench, as far as it could be built."""
    outline: list[Ring] = []
    paints: list[PaintView] = []
    bounds: Box = (0.0, 0.0, 1.0, 1.0)
    if b.template is not None:
        layers = b.layers.layers if b.layers else ()
        prints = b.fit.prints if b.fit else []
        lying = [*(la.region for la in layers), *(seen for _, seen in prints)]
        reach = shapely.total_bounds(np.array([b.template.outline, *lying], dtype=object))
        size = float(max(reach[2] - reach[0], reach[3] - reach[1]))
        bounds = box(tuple(np.round(reach, 2)))
        outline = rings_of(b.template.outline, size / 4000)
        seen = [*((la.film_colour, la.seen) for la in layers), *prints]
        paints = [PaintView(colour=colour, rings=rings_of(region, size / 2000)) for colour, region in seen]
    elif b.measured is not None:
        outline, bounds = _outline(b.measured)
    level = worst(b.verdicts) or "ok"
    bad = next((v for v in b.verdicts if v.level == level), None)
    if b.stopped:
        first = b.stopped.error.carried[0]
        sentence = f"{first.message} {first.hint}".strip()
        return TicketView(
            outline=outline, paints=paints, bounds=bounds, worst="stop", step=b.stopped.step, sentence=sentence
        )
    return TicketView(
        outline=outline,
        paints=paints,
        bounds=bounds,
        worst=level,
        step=bad.step if bad else "measure",
        sentence=bad.carried() if bad else "",
    )
