"""Drawings on the template, for the screens, and by what they are moved."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely

from ..artwork import ColourRegion
from ..artwork.edits.stack import Piece
from ..errors import WimpleError
from ..figures import LengthStyle, format_quantity
from ..fit import Fit, PlacedDrawing, Separated
from ..fit.beside import NOWHERE, Base, from_base
from ..fit.laid import Placing
from ..fit.place import place
from ..fit.suggest import filling, guides_for, rooms_on, spots_on
from ..fit.ways import WayFigures
from ..job.document import Element, Placement
from ..job.lettering import Lettering
from ..surface import Template
from .drawn import DRAWN_TOLERANCE_MM, Ring, View, flat, rings_by_part

STEP_OF_PLACE = 1e-4
"""How far a middle is moved to see how it moves on the template."""


class PaintView(View):
    colour: str
    rings: list[Ring]


class PiecesView(PaintView):
    """A colour with the names of its pieces, and for each of its rings the piece it belongs to."""

    names: list[str]
    of: list[int]


class WayView(View):
    way: str
    figure: str


class MoveView(View):
    """One way in which a drawing may be moved: the field of its placement, how its middle goes on the template (mm)
    for one unit of it, its unit, between which values it turns over or ends, and to what it is rounded. What is `held`
    stays where it is: the blank, or its seam, says where."""

    field: str
    along: tuple[float, float]
    unit: Literal["deg", "mm"]
    on_surface: float
    """One unit of it in the surface's own coordinates."""
    least: float | None
    most: float | None
    turns: bool
    step: float
    held: bool


MANY_PLACES, COARSE_MM = 50_000, 0.03
"""A drawing of so many corners is thinned to that for the screen."""
PAINT_DIGITS = 2
"""Hundredths of a mm: finer than what contours are thinned to for the screen."""


class RoomView(View):
    """A place offered for a drawing: in words, and the fields of its placement that it sets."""

    words: str
    sets: dict[str, float]


class GuideView(View):
    """A line that a drawing falls in with: the field of its placement, its value there, and what it is."""

    field: str
    value: float
    words: str


class GapView(View):
    """The space between two letters on the template: its line and letter, the two letters, its foot, what one
    thousandth of the em along the line is there (mm), how the line stands (`up`, as tall as capitals are), how much is
    bare between the two (mm), and by how much (thousandths of the em) it was set by hand."""

    line: int
    letter: int
    words: str
    foot: tuple[float, float]
    along: tuple[float, float]
    up: tuple[float, float]
    bare: float
    by: float


class PageView(View):
    """Where the picture comes to lie that a drawing was traced from: the corners of its fields, `across` of them in
    each row (x0, y0, x1, y1, ...), the lowest row first."""

    across: int
    places: Ring


PAGE_FIELDS = 10
"""On a wall that bends flat things, a picture is shown in so many fields each way."""


class PlacedView(View):
    """A drawing on the template: the path of its placement in the document, its box (`outline`), its middle, and by
    what it is moved sideways and up (`across`, `up`). `tapered` tells that the ways of laying it differ where it lies.
    """

    element: str
    path: str
    name: str
    outline: Ring
    moved: tuple[float, float]
    """By how much (mm) its paints are moved to where it lies."""
    centre: tuple[float, float]
    across: MoveView
    up: MoveView
    width: float
    height: float
    way: str
    suggested: str
    ways: list[WayView]
    knocks_out: bool
    sized_by: list[str]
    """The lengths of its source, by their paths, that grow with it; none where its width does."""
    colours: int
    pieces: int
    tapered: bool
    rooms: list[RoomView]
    spots: list[RoomView]
    guides: list[GuideView]
    gaps: list[GapView]
    """The spaces between its letters, where they can be set."""
    at: dict[str, float]
    """Where it is, counted from the blank."""
    stands: bool
    """Does it stand where the blank's own measures say, and nowhere else?"""
    given: list[str]
    """The fields of its source that the blank says instead."""
    beside: str | None
    """The element it is placed from, if that is not the blank."""
    page: PageView | None


def _way_figure(w: WayFigures, style: LengthStyle) -> str:
    if w.way == "flat":
        return f"nothing bends · sags {format_quantity(w.sag, 'mm', style)} at the ends"
    if w.way == "even":
        return f"widths true · verticals lean {math.degrees(w.lean):.1f}°"
    if w.way == "conformal":
        return f"circles stay round · size ± {w.width_change_percent:.1f} %"
    return f"horizontals level · width ± {w.width_change_percent:.1f} %"


def _moves(
    d: PlacedDrawing, placement: Placement, stands: bool, template: Template
) -> tuple[tuple[float, float], MoveView, MoveView]:
    """Where a drawing's middle is, and how it goes for one unit of each of the fields that move it."""
    h, surface = STEP_OF_PLACE, template.surface
    a, s = d.a_c, d.s_c
    x, y = surface.develop(np.array([a, a - h, a + h, a, a]), np.array([s, s, s, s - h, s + h]))
    unit = math.radians(1) if surface.closed else 1.0
    across = MoveView(
        field="centre_deg" if surface.closed else "across_mm",
        along=(float(x[2] - x[1]) / (2 * h) * unit, float(y[2] - y[1]) / (2 * h) * unit),
        unit="deg" if surface.closed else "mm",
        on_surface=unit,
        least=-180.0 if surface.closed else None,
        most=180.0 if surface.closed else None,
        turns=surface.closed,
        step=0.1,
        held=placement.once_round_mm is not None or (stands and not surface.closed),
    )
    up = MoveView(
        field="up_mm",
        along=(float(x[4] - x[3]) / (2 * h), float(y[4] - y[3]) / (2 * h)),
        unit="mm",
        on_surface=1.0,
        least=None,
        most=None,
        turns=False,
        step=0.1,
        held=stands,
    )
    return (float(x[0]), float(y[0])), across, up


MOST_GAPS = 300


def _gaps(d: PlacedDrawing, element: Element) -> list[GapView]:
    if not isinstance(element.source, Lettering):
        return []
    by = {(k.line, k.letter): k.by for k in element.source.kerns}
    out = []
    for gap, places in d.gaps[:MOST_GAPS]:
        foot, along, up = places[0], (places[1] - places[0]) * gap.unit, (places[2] - places[0]) * gap.tall
        out.append(
            GapView(
                line=gap.line,
                letter=gap.letter,
                words=gap.words,
                foot=(round(float(foot[0]), 3), round(float(foot[1]), 3)),
                along=(round(float(along[0]), 6), round(float(along[1]), 6)),
                up=(round(float(up[0]), 3), round(float(up[1]), 3)),
                bare=round(gap.bare, 3),
                by=by.get((gap.line, gap.letter), 0.0),
            )
        )
    return out


def _guides(d: PlacedDrawing, others: list[PlacedDrawing], template: Template, base: Base) -> list[GuideView]:
    """What it falls in with: faces, seam, centre lines and edges of the free area, and other drawings."""
    lines = guides_for(d.span_a, d.span_s, (d.a_c, d.s_c), template)
    for o in others:
        lines.append(("across", o.a_c, f"over “{o.name}”"))
        lines.append(("up", o.s_c, f"level with “{o.name}”"))
    closed = template.surface.closed
    names = {"across": "centre_deg" if closed else "across_mm", "up": "up_mm"}
    out = []
    for which, value, words in lines:
        name = names[which]
        shown = math.degrees(value) if name == "centre_deg" else value
        out.append(GuideView(field=name, value=round(shown - base[name], 3), words=words))
    return out


def _page(d: PlacedDrawing, drawing: Separated) -> PageView | None:
    art = drawing.original.artwork
    if not art.traced or d.carry is None:
        return None
    n = PAGE_FIELDS if d.carry.bends else 1
    y, x = np.meshgrid(np.linspace(0, art.height, n + 1), np.linspace(0, art.width, n + 1), indexing="ij")
    return PageView(across=n, places=flat(d.carry.of(np.column_stack([x.ravel(), y.ravel()]))))


def placed_view(
    fit: Fit,
    elements: tuple[Element, ...],
    drawings: Mapping[str, Separated],
    template: Template,
    style: LengthStyle,
    bases: Mapping[tuple[int, int], Base] = {},
) -> list[PlacedView]:
    """All drawings as they are placed; `bases` tell from where the document counts those that are not counted from the
    blank."""
    out = []
    closed = template.surface.closed
    rooms = rooms_on(template.limits, template.surface.closed)
    where = [(i, n) for i, e in enumerate(elements) for n in range(len(e.placements))]
    for d, (i, n) in zip(fit.drawings, where, strict=True):
        base = bases.get((i, n), NOWHERE)
        across_at = math.degrees(d.a_c) if closed else d.a_c
        stands, source = drawings[d.element].artwork.stands, elements[i].source
        centre, across, up = _moves(d, elements[i].placements[n], stands, template)
        held = {move.field for move in (across, up) if move.held}
        out.append(
            PlacedView(
                element=d.element,
                path=f"elements.{i}.{d.at}",
                name=d.name,
                outline=flat(d.outline),
                moved=d.still.move if d.still else (0.0, 0.0),
                centre=centre,
                across=across,
                up=up,
                width=d.width,
                height=d.height,
                way=d.way,
                suggested=d.suggested,
                ways=[WayView(way=w.way, figure=_way_figure(w, style)) for w in d.ways],
                knocks_out=elements[i].knocks_out,
                sized_by=[f"elements.{i}.source.{f}" for f in source.sizes if not (stands and f in source.given)],
                colours=len(d.colours),
                pieces=sum(int(shapely.get_num_geometries(c.seen)) for c in d.colours),
                tapered=template.surface.closed and d.tapered,
                rooms=[
                    RoomView(words=r.words, sets=from_base(filling(r, d.width, d.height), base))
                    for r in rooms
                    if not stands
                ],
                spots=[
                    RoomView(words=words, sets=from_base(sets, base))
                    for words, sets in spots_on(template.limits, closed, d.span_s, d.s_c)
                    if not held & set(sets)
                ],
                guides=_guides(d, [o for o in fit.drawings if o is not d], template, base),
                gaps=_gaps(d, elements[i]),
                at={"centre_deg" if closed else "across_mm": round(across_at, 3), "up_mm": round(d.s_c, 3)},
                stands=stands,
                given=list(source.given) if stands else [],
                beside=elements[i].placements[n].beside,
                page=_page(d, drawings[d.element]),
            )
        )
    return out


def _pieces(c: ColourRegion, tolerance: float) -> PiecesView:
    parts, names = c.pieces
    rings, of = rings_by_part(shapely.geometrycollections(parts), tolerance, PAINT_DIGITS)
    return PiecesView(colour=c.colour, rings=rings, names=list(names), of=of)


def paints_view(fit: Fit) -> list[list[PiecesView]]:
    """What each drawing shows, colour by colour, on the template; what moves rigidly, where it lies still."""
    shown = [d.still.colours if d.still else d.colours for d in fit.drawings]
    places = sum(int(shapely.get_num_coordinates(c.pieces[0]).sum()) for colours in shown for c in colours)
    tolerance = DRAWN_TOLERANCE_MM if places < MANY_PLACES else COARSE_MM
    return [[_pieces(c, tolerance) for c in colours] for colours in shown]


def gone_view(
    fit: Fit, elements: tuple[Element, ...], drawings: Mapping[str, Separated], template: Template
) -> list[list[PiecesView]]:
    """The pieces that were left out of each drawing, where its first copy would show them."""
    return [
        [_pieces(c, DRAWN_TOLERANCE_MM) for c in _gone(d, p, drawings[d.element], template)]
        for d, p in zip(fit.drawings, (p for e in elements for p in e.placements), strict=True)
    ]


def _gone(d: PlacedDrawing, placement: Placement, drawing: Separated, template: Template) -> tuple[ColourRegion, ...]:
    by_colour: dict[str, list[Piece]] = {}
    for piece in drawing.gone:
        by_colour.setdefault(piece.colour, []).append(piece)
    if not by_colour:
        return ()
    colours = []
    for colour, pieces in by_colour.items():
        region = shapely.multipolygons(shapely.get_parts(np.array([p.region for p in pieces], dtype=object)))
        colours.append(ColourRegion(colour, region, region, tuple(p.name for p in pieces)))
    where = placement.model_copy(update={"width_mm": d.width, "repeat": 1, "way": d.way})
    try:
        return place(Placing(d.element, d.name, 0, where), replace(drawing, colours=tuple(colours)), template).colours
    except WimpleError:
        # They overlap where they lie now; the bill still names them.
        return ()
