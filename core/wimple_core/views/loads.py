"""Loads and what the blade does on them, for the screens."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from ..cuts import Role, together
from ..cutting import CutPlan, Cutting
from ..figures import LengthStyle, format_length, format_quantity
from ..job.stock import StockPiece, Turns
from ..pricing.price import film_cost, to_cents
from ..sheets import Load, Loads, Patch, Way
from ..sheets.panels import Parted
from ..sheets.supply import OnFilm
from .drawn import Ring, View, rings_of
from .stock import PieceView, piece_view, piece_words

MOST_NUMBERED = 1500
"""Of more loose pieces on a film the rest bear no number on the screen."""
MOST_BY_HAND = 200
"""A film with more sets on a load is not laid by hand."""


class ItemView(View):
    """A set as it lies: its outline on the load, the lower left of that from where its patch's work begins (mm), its
    turn, and which of the hand's places it has (-1: none)."""

    outline: Ring
    x: float
    y: float
    turn: float
    by_hand: int


class PatchView(View):
    """A piece of film on the medium: its box (left, low, right, high, mm), its size to cut it to, and the contours of
    what is cut of it."""

    name: str
    colour: str
    box: tuple[float, float, float, float]
    size: str
    place: str
    """Where its lower left corner lies, by the mat's own rule."""
    sets: int
    directional: bool
    rings: list[Ring]
    items: list[ItemView]
    """The sets on it, each as the hand may move it; none where it cannot."""
    numbers: list[tuple[int, float, float, float]]
    """Of loose pieces the number of each in its set, a place on it, and the shorter side of its box (mm)."""
    turns: Turns
    """How they may be turned on their film."""


class OnFilmView(View):
    """Film taken for one copy of a patch of a load: from which piece (its id), and where on it (left, low, right,
    high, mm)."""

    copy_of: int
    patch: int
    piece: str
    box: tuple[float, float, float, float]
    turned: bool
    words: str


class LoadView(View):
    """One load: its patches of film, weed frames, and slits and lines that part the waste as open lines."""

    name: str
    colour: str
    sets: int
    times: int
    turned: bool
    fits: bool
    width: float
    height: float
    film_area: str
    minutes: float
    patches: list[PatchView]
    frames: list[Ring]
    slits: list[Ring]
    parting: list[Ring]
    digest: str
    taken: list[OnFilmView]


class InkView(View):
    """A colour of a printed face, in the frame of its page."""

    colour: str
    rings: list[Ring]


class PageView(View):
    """A printed face as a load: what is printed, the lowest colour first, its marks, and the line it is cut along."""

    load: LoadView
    size: str
    inks: list[InkView]
    marks: list[Ring]
    contour: list[Ring]


class PanelView(View):
    """A panel of a layer: where its number stands, and its box (left, low, right, high, mm)."""

    number: int
    at: tuple[float, float]
    box: tuple[float, float, float, float]


class PartedView(View):
    """A layer in panels: its contours, its guide bars, its panels, and its joints, of which the first so many run up
    and can be moved; each with its place from the left edge of the work, mm."""

    name: str
    colour: str
    rings: list[Ring]
    bars: list[Ring]
    panels: list[PanelView]
    joints: list[Ring]
    from_left: list[float]
    crossed: list[str]


class WayView(View):
    """What one way of loading takes."""

    loads: int
    minutes: int
    film_area: str
    placements: int


class WaysView(View):
    """What ways of laying a batch take: a film to a load and several films on a mat, sets as they are drawn and their
    pieces loose; null where that cannot be."""

    one_film: WayView | None
    shared: WayView | None
    drawn: WayView | None
    loose: WayView | None


class LoadsView(View):
    cutter: str
    medium: str
    width: float
    length: float
    safe_width: float
    safe_length: float
    film_area: str
    film_cost: str
    minutes: float
    loads: list[LoadView]
    is_shared: bool
    is_loose: bool
    movable: bool
    """May the hand lay its sets? Those of a list and work in panels lie by themselves."""
    pieces: list[PieceView]
    """The film they are cut out of."""
    parted: list[PartedView]
    pages: list[PageView]
    """What is printed and cut."""
    held: list[tuple[float, float, float, float]]
    """Corners held free on every load (left, low, right, high, mm)."""


def _patch(load: Load, patch: Patch, edge: tuple[float, float], style: LengthStyle) -> PatchView:
    left, low, right, high = patch.box
    from_left, from_low = format_length(left + edge[0], style), format_length(low + edge[1], style)
    return PatchView(
        name=patch.name,
        colour=patch.film_colour,
        box=patch.box,
        size=f"{format_length(right - left, style)} by {format_length(high - low, style)}",
        place=f"{from_left} in, {from_low} up",
        sets=sum(i.item.sets for i in load.items if i.item.name == patch.name),
        directional=patch.film.directional,
        rings=rings_of(load.on(patch).only("piece", "hole", "mark").region, 0.05),
        items=_items(load, patch),
        numbers=_numbers(load, patch),
        turns=patch.film.turns,
    )


def _numbers(load: Load, patch: Patch) -> list[tuple[int, float, float, float]]:
    numbers, pieces = load.numbered(patch)
    if not numbers:
        return []
    some = pieces[:MOST_NUMBERED]
    at = shapely.get_coordinates(shapely.point_on_surface(some)).round(2)
    boxes = shapely.bounds(some)
    side = (boxes[:, 2:] - boxes[:, :2]).min(axis=1).round(2)
    return [(n, *place) for n, place in zip(numbers, np.column_stack([at, side]).tolist(), strict=False)]


def _items(load: Load, patch: Patch) -> list[ItemView]:
    some = [i for i in load.items if i.item.name == patch.name]
    if len(some) > MOST_BY_HAND or any(i.item.sets > 1 or i.item.panel[1] > 1 or i.item.row for i in some):
        return []
    return [
        ItemView(
            outline=i.of(i.item.outline).round(3).ravel().tolist(),
            x=i.outlined[0] - patch.corner[0],
            y=i.outlined[1] - patch.corner[1],
            turn=i.turn,
            by_hand=i.by_hand,
        )
        for i in some
    ]


def _way(way: Way | None, style: LengthStyle) -> WayView | None:
    if way is None:
        return None
    return WayView(
        loads=way.loads,
        minutes=math.ceil(way.minutes),
        film_area=format_quantity(way.film_area, "mm2", style),
        placements=way.placements,
    )


def _lines(load: Load, role: Role) -> list[Ring]:
    return [path.round(3).ravel().tolist() for path in load.cuts.only(role).paths()]


def _taken(load: Load, one: OnFilm, pieces: Mapping[str, StockPiece], style: LengthStyle) -> OnFilmView:
    taken, piece = one.taken, pieces[one.taken.piece]
    if taken.form == "roll":
        words = f"{format_length(taken.cut_off, style)} off the {piece_words(piece, style)}"
    elif taken.form == "offcut":
        words = f"beside it, of what came off the {piece_words(piece, style)}"
    else:
        words = f"out of the {piece_words(piece, style)}"
    return OnFilmView(
        copy_of=one.copy,
        patch=one.patch,
        piece=taken.piece,
        box=taken.box,
        turned=taken.turned,
        words=f"{load.patches[one.patch].name}: {words}",
    )


def _load(
    load: Load, seconds: float, edge: tuple[float, float], taken: list[OnFilmView], style: LengthStyle
) -> LoadView:
    return LoadView(
        name=load.name,
        colour=load.patches[0].film_colour,
        sets=load.sets,
        times=load.times,
        turned=load.turned,
        fits=load.fits,
        width=load.width,
        height=load.height,
        film_area=format_quantity(load.film_area, "mm2", style),
        minutes=seconds / 60,
        patches=[_patch(load, patch, edge, style) for patch in load.patches],
        frames=rings_of(load.cuts.only("frame").region),
        slits=_lines(load, "slit"),
        parting=_lines(load, "weed"),
        digest=load.digest,
        taken=taken,
    )


def _page(plan: CutPlan, edge: tuple[float, float], style: LengthStyle) -> PageView:
    face = plan.load.face
    assert face is not None
    width, height = face.size
    return PageView(
        load=_load(plan.load, plan.seconds, edge, [], style),
        size=f"{format_length(width, style)} by {format_length(height, style)}",
        inks=[InkView(colour=colour, rings=rings_of(region, 0.05)) for colour, region in face.inks],
        marks=[ring for mark in face.mark_regions for ring in rings_of(mark)],
        contour=rings_of(face.contour, 0.05),
    )


def _parted(name: str, one: Parted, loads: Loads) -> PartedView:
    every = together([p.cuts for p in one.panels])
    work = every.only("piece", "hole")
    boxes = [p.cuts.only("piece", "hole").bounds for p in one.panels]
    left = work.bounds[0]
    upright = [j for j in one.joints if abs(j[-1, 1] - j[0, 1]) >= abs(j[-1, 0] - j[0, 0])]
    colour = next(p.film_colour for load in loads.loads for p in load.patches if p.name == name)
    return PartedView(
        name=name,
        colour=colour,
        rings=rings_of(work.region, 0.2),
        bars=rings_of(every.only("mark").region),
        panels=[
            PanelView(number=p.number, at=((b[0] + b[2]) / 2, (b[1] + b[3]) / 2), box=b)
            for p, b in zip(one.panels, boxes, strict=True)
        ],
        joints=[j.round(3).ravel().tolist() for j in one.joints],
        from_left=[float(j[:, 0].mean()) - left for j in upright],
        crossed=list(one.crossed),
    )


def loads_view(
    loads: Loads, cutting: Cutting, stock: Sequence[StockPiece], style: LengthStyle, listed: bool = False
) -> LoadsView:
    """All loads of a batch, or of a list of names."""
    c = loads.cutter
    edge = ((c.width_mm - c.safe_width_mm) / 2, (c.length_mm - c.safe_length_mm) / 2)
    pieces = {p.id: p for p in stock}
    taken: list[list[OnFilmView]] = [[] for _ in loads.loads]
    for one in loads.allotted.taken:
        taken[one.load].append(_taken(loads.loads[one.load], one, pieces, style))
    used = dict.fromkeys(one.taken.piece for one in loads.allotted.taken)
    return LoadsView(
        cutter=c.name,
        medium=c.medium,
        width=c.width_mm,
        length=c.length_mm,
        safe_width=c.safe_width_mm,
        safe_length=c.safe_length_mm,
        film_area=format_quantity(loads.film_area, "mm2", style),
        film_cost=str(to_cents(film_cost(loads))),
        minutes=cutting.seconds / 60,
        loads=[_load(p.load, p.seconds, edge, taken[n], style) for n, p in enumerate(cutting.plans)],
        is_loose=any(i.item.loose for p in cutting.plans for i in p.load.items),
        is_shared=any(p.load.shared for p in cutting.plans),
        movable=bool(loads.loads) and not listed and not loads.parted,
        pieces=[piece_view(pieces[id], style) for id in used],
        pages=[_page(p, edge, style) for p in cutting.pages],
        held=list(loads.held),
        parted=[_parted(name, one, loads) for name, one in loads.parted.items()],
    )


def ways_view(loads: Loads, style: LengthStyle) -> WaysView:
    """What the ways of laying them would take."""
    return WaysView(
        one_film=_way(loads.one_film, style),
        shared=_way(loads.shared, style),
        drawn=_way(loads.drawn, style),
        loose=_way(loads.loose, style),
    )
