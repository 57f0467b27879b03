"""One drawing laid on the surface: where it sits, in how many copies, and parted where it lies over the seam."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import mended
from ..artwork import Artwork, ColourRegion, lay_over, separate
from ..artwork.edit import leave_out
from ..artwork.pieces import names_after
from ..errors import DoesNotFit
from ..figures import carried
from ..job.document import Edit, Placement, Way
from ..overlay import intersection, together
from ..surface import Surface, Template
from ..surface.pieces import Pieces
from ..surface.surface import RoundWall
from .ways import WAYS, WayFigures, figures_for, lay, longest_edge, suggest

RUNS_OVER_MM2 = 0.05
"""What a drawing may lie over itself by, from the cutting of its curves alone."""
SAME_ANGLE = 1e-9
Back = Callable[[np.ndarray], np.ndarray]
SEEN_MM, SEEN_LEAN = 0.02, math.radians(0.05)
"""Less than the blade's own unit, and a lean nobody sees."""


@dataclass(frozen=True)
class Separated:
    """A drawing read and separated, with the figures placing it needs."""

    artwork: Artwork
    colours: tuple[ColourRegion, ...]
    roundness: float
    """Area-weighted 4 pi A / P^2 of its pieces: 1 for discs."""


def prepare(artwork: Artwork) -> Separated:
    """Separate a drawing into its colours and note how round its pieces are."""
    colours = separate(artwork.paints, artwork.tolerance)
    pieces = np.concatenate([shapely.get_parts(c.painted) for c in colours])
    hulls = shapely.convex_hull(pieces)
    area, around = shapely.area(hulls), shapely.length(hulls)
    return Separated(artwork, colours, float(np.average(4 * math.pi * area / around**2, weights=area)))


def edited(whole: Separated, edits: tuple[Edit, ...]) -> Separated:
    """A drawing with pieces left out: what lies beneath them is seen. Raises BadDrawing for a piece it has not."""
    paints, colours = leave_out(whole.artwork.paints, whole.colours, [e.piece for e in edits], whole.artwork.tolerance)
    return replace(whole, artwork=replace(whole.artwork, paints=paints), colours=colours)


@dataclass(frozen=True)
class Placing:
    """One placement of an element: its id, its name, and which of its placements it is."""

    element: str
    name: str
    number: int
    placement: Placement

    @property
    def at(self) -> str:
        """Where the element names it."""
        return f"placements.{self.number}"


@dataclass(frozen=True)
class PlacedDrawing:
    """One drawing on the surface: `element` is its element's id, `at` which of its placements this is.

    `colours` on the template, copies included; `outline` the box of its first copy, laid the same way, four edges of
    points (m, 2); `a_c`, `s_c` its middle in surface coordinates, on the turn the template shows; `span_a`, `span_s`
    what it covers there; `parted` the middles of the copies that the seam parts.
    """

    element: str
    name: str
    at: str
    colours: tuple[ColourRegion, ...]
    outline: np.ndarray
    width: float
    height: float
    a_c: float
    s_c: float
    span_a: tuple[float, float]
    span_s: tuple[float, float]
    way: Way
    suggested: Way
    ways: tuple[WayFigures, ...]
    parted: tuple[float, ...] = ()

    @property
    def tapered(self) -> bool:
        """Do the ways of laying it differ by anything that could be seen?"""
        return any(max(w.sag, w.width_change) > SEEN_MM or w.lean > SEEN_LEAN for w in self.ways)


def tolerance_for(natural_width: float, placed_width: float) -> float:
    """Tolerance in mm at which to read a drawing so that it is drawn to 0.01 mm where it is placed: a power of two,
    so that a drawing being sized by hand is not read anew each time."""
    wanted = 0.01 * natural_width / placed_width
    return float(2.0 ** math.floor(math.log2(min(max(wanted, 1e-7), 1.0))))


def on_turn(angle: float, middle: float) -> float:
    """An angle on the turn that has `middle` in its middle: 0 and 360 degrees are one place."""
    turned = (angle - middle + math.pi) % (2 * math.pi) - math.pi + middle
    return turned + 2 * math.pi if turned < middle - math.pi + SAME_ANGLE else turned


def on_turns(angles: np.ndarray) -> np.ndarray:
    """Angles (n,) on the turn that has the front in its middle."""
    out: np.ndarray = (angles + math.pi) % (2 * math.pi) - math.pi
    return out


def _laid(
    region: BaseGeometry, matrix: np.ndarray, middle: np.ndarray, way: Way, surface: Surface, s_c: float, longest: float
) -> tuple[BaseGeometry, float]:
    """A region of a drawing laid at the front of the surface, and the area by which it then lies over itself."""
    flat = shapely.transform(region, lambda p: (p - middle) @ matrix.T)
    if math.isfinite(longest):
        flat = shapely.segmentize(flat, longest)
    return mended(shapely.transform(flat, lambda p: np.column_stack(lay(p[:, 0], p[:, 1], way, surface, 0.0, s_c))))


def _moved(region: BaseGeometry, surface: Surface, by: float) -> BaseGeometry:
    """The region moved round the surface, rigidly."""
    return region if by == 0 else shapely.transform(region, lambda p: surface.turned(p, by))


def _wedge(surface: Surface, left: float, right: float, span_s: tuple[float, float]) -> BaseGeometry:
    """What of the template lies between two angles, at heights well beyond `span_s`."""
    low, high = span_s[0] - 2.0, span_s[1] + 2.0
    a = np.linspace(left, right, 181)
    ends = [np.column_stack(surface.develop(a, np.full(181, s))) for s in (low, high)]
    if surface.k:
        # The chords of the outer edge are pushed out to where they clear what lies within.
        far = np.array([0.0, -surface.scale_at(0.0) / surface.k])
        outer = 1 if surface.k > 0 else 0
        ends[outer] = far + (ends[outer] - far) / math.cos(abs(surface.k) * (right - left) / 180 / 2)
    return shapely.Polygon(np.concatenate([ends[0], ends[1][::-1]]))


@dataclass(frozen=True)
class _Local:
    """A drawing laid at the front: its colours, what it covers from its middle, and the surface it was laid on."""

    colours: tuple[ColourRegion, ...]
    span_a: tuple[float, float]
    span_s: tuple[float, float]
    surface: Surface


def _parted(local: _Local, at: float, middle: float) -> list[tuple[ColourRegion, ...]]:
    """One copy laid at the angle `at` in the parts the seam makes of it: what lies beyond goes to the other end."""
    out = []
    (left, right), surface = local.span_a, local.surface
    for n in (-1, 0, 1):
        turn = middle + 2 * math.pi * n - at
        a, b = max(turn - math.pi, left - 0.01), min(turn + math.pi, right + 0.01)
        if b - a > SAME_ANGLE:
            wedge = _wedge(surface, a, b, local.span_s)
            by = at - 2 * math.pi * n
            cut = _each(local.colours, lambda g, w=wedge: intersection(g, w))  # type: ignore[misc]
            out.append(_each(cut, lambda g, by=by: _moved(g, surface, by)))  # type: ignore[misc]
    return out


def _box_outline(half_w: float, half_h: float) -> np.ndarray:
    n = 24
    t = np.linspace(-1, 1, n, endpoint=False)
    one = np.ones(n)
    edges = [(t, -one), (one, t), (-t, one), (-one, -t)]
    return np.concatenate([np.column_stack([x * half_w, y * half_h]) for x, y in edges])


def _lay_at_front(
    what: Placing,
    separated: Separated,
    surface: Surface,
    matrix: np.ndarray,
    middle: np.ndarray,
    way: Way,
    half_h: float,
) -> _Local:
    s_c = what.placement.up_mm
    longest = longest_edge(surface, s_c - half_h, s_c + half_h, way)
    colours, over = [], 0.0
    for c in separated.colours:
        seen, seen_over = _laid(c.seen, matrix, middle, way, surface, s_c, longest)
        painted, painted_over = _laid(c.painted, matrix, middle, way, surface, s_c, longest)
        over = max(over, seen_over, painted_over)
        if not seen.is_empty:
            colours.append(_named(ColourRegion(c.colour, seen, painted), c, None))
    if over > RUNS_OVER_MM2:
        where = "taper" if surface.k else "surface" if surface.closed else "panel"
        raise DoesNotFit(
            f"Laid on this {where}, “{what.name}” would lie over itself by {carried(over, 'mm2')}.",
            field=f"{what.at}.width_mm",
            hint="Make it smaller, or place it nearer the wide end." if surface.k else "Make it smaller.",
        )
    if not colours:
        raise DoesNotFit(
            f"At {carried(what.placement.width_mm)} wide nothing of “{what.name}” is left to cut.",
            field=f"{what.at}.width_mm",
            hint="Make it larger.",
        )
    points = np.concatenate([shapely.get_coordinates(c.seen) for c in colours])
    a, s = surface.wrap(points[:, 0], points[:, 1])
    return _Local(tuple(colours), (float(a.min()), float(a.max())), (float(s.min()), float(s.max())), surface)


def _copies(
    what: Placing, local: _Local, a_c: float, template: Template
) -> tuple[tuple[ColourRegion, ...], tuple[float, ...]]:
    """All copies round the surface, each on the turn the template shows, and the middles of those the seam parts."""
    whole, p = template.surface, what.placement
    if not whole.closed:
        if isinstance(whole, Pieces):
            return _in_pieces(local, a_c, whole), ()
        return _each(local.colours, lambda g: _moved(g, local.surface, a_c)), ()
    middle = (template.left + template.right) / 2
    angles = [on_turn(a_c + 2 * math.pi * i / p.repeat, middle) for i in range(p.repeat)]
    over = [a for a in angles if max(a + local.span_a[1] - middle, middle - a - local.span_a[0]) > math.pi + 1e-6]
    parted = tuple(over) if template.limits.all_round else ()
    laid: list[tuple[ColourRegion, ...]] = []
    for n, at in enumerate(angles, start=1):
        if isinstance(whole, Pieces):
            copy = [_in_pieces(local, at, whole)]
        elif at in parted:
            copy = _parted(local, at, middle)
        else:
            copy = [_each(local.colours, lambda g, at=at: _moved(g, local.surface, at))]  # type: ignore[misc]
        laid += [called(colours, "", f"#{n}" if n > 1 else "") for colours in copy]
    if local.span_a[1] - local.span_a[0] > 2 * math.pi / p.repeat:
        return lay_over(laid), parted
    by_colour: dict[str, list[ColourRegion]] = {}
    for colours in laid:
        for c in colours:
            by_colour.setdefault(c.colour, []).append(c)
    order = [c.colour for c in local.colours if c.colour in by_colour]
    return tuple(
        ColourRegion(
            n,
            together(c.seen for c in by_colour[n]),
            together(c.painted for c in by_colour[n]),
            tuple(name for c in by_colour[n] for name in c.pieces[1]),
        )
        for n in order
    ), parted


def _each(colours: tuple[ColourRegion, ...], move: Callable[[BaseGeometry], BaseGeometry]) -> tuple[ColourRegion, ...]:
    """Colours whose regions were moved, or cut where they lie."""
    out = []
    for c in colours:
        seen = move(c.seen)
        if not seen.is_empty:
            out.append(_named(ColourRegion(c.colour, seen, move(c.painted)), c, None))
    return tuple(out)


def _named(after: ColourRegion, before: ColourRegion, back: Back | None) -> ColourRegion:
    """The colour with its pieces named as they were before: in their order where there are as many, else by where
    they lie (`back` brings their places to where they lay)."""
    parts = after.pieces[0]
    was, names = before.pieces
    if len(parts) != len(was) or back is not None:
        names = names_after(parts, was, names, back)
    return replace(after, names=names)


def called(colours: tuple[ColourRegion, ...], before: str, behind: str) -> tuple[ColourRegion, ...]:
    """Colours whose pieces' names have something before and behind them."""
    return tuple(replace(c, names=tuple(f"{before}{n}{behind}" for n in c.pieces[1])) for c in colours)


def _in_pieces(local: _Local, a_c: float, whole: Pieces) -> tuple[ColourRegion, ...]:
    def to_surface(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        a, s = local.surface.wrap(x, y)
        return a + a_c, s

    def back(p: np.ndarray) -> np.ndarray:
        a, s = whole.wrap(p[:, 0], p[:, 1])
        a = on_turns(a - a_c) if whole.closed else a - a_c
        return np.column_stack(local.surface.develop(a, s))

    laid = (
        (c, ColourRegion(c.colour, whole.lay_out(c.seen, to_surface), whole.lay_out(c.painted, to_surface)))
        for c in local.colours
    )
    return tuple(_named(after, c, back) for c, after in laid if not after.seen.is_empty)


def place(what: Placing, separated: Separated, template: Template) -> PlacedDrawing:
    """Lay one drawing on the template where its placement says. Fields of errors are the element's own."""
    p: Placement = what.placement
    whole = template.surface
    left, low, right, high = separated.artwork.bounds
    if right - left <= 0 or high - low <= 0:
        raise DoesNotFit(
            f"“{what.name}” has no width or no height.", field="source.file", hint="Draw something that covers an area."
        )
    scale = p.width_mm / (right - left)
    height = (high - low) * scale
    turn = math.radians(p.turn_deg)
    matrix = scale * np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    middle = np.array([(left + right) / 2, (low + high) / 2])
    s_c = p.up_mm
    # In pieces: laid on the one it stands on as if that went on, then cut along the joints.
    surface = whole.locally(s_c) if isinstance(whole, Pieces) else whole
    # Laid at the front and turned to its place as one: so no angle is ever too far round to be told from another.
    if isinstance(surface, RoundWall):
        surface = replace(surface, middle=0.0)
    a_c = on_turn(math.radians(p.centre_deg), (template.left + template.right) / 2) if whole.closed else p.across_mm
    half_w = abs(math.cos(turn)) * p.width_mm / 2 + abs(math.sin(turn)) * height / 2
    half_h = abs(math.sin(turn)) * p.width_mm / 2 + abs(math.cos(turn)) * height / 2
    if surface.scale_at(s_c) <= 0:
        raise DoesNotFit(
            f"At {carried(s_c)} up the wall has come to a point.",
            field=f"{what.at}.up_mm",
            hint="Place the drawing on the cup.",
        )
    suggested = suggest(surface, s_c, half_w, half_h, separated.roundness)
    way: Way = suggested if p.way == "suggested" else p.way
    local = _lay_at_front(what, separated, surface, matrix, middle, way, half_h)
    colours, parted = _copies(what, local, a_c, template)
    box = _box_outline(p.width_mm / 2, height / 2) @ (matrix.T / scale)
    outline = np.column_stack(lay(box[:, 0], box[:, 1], way, surface, 0.0, s_c))
    if isinstance(whole, Pieces):
        a, s = surface.wrap(outline[:, 0], outline[:, 1])
        outline = np.column_stack(whole.develop(a + a_c, s))
    else:
        outline = surface.turned(outline, a_c)
    span_a = (local.span_a[0] + a_c, local.span_a[1] + a_c)
    ways = tuple(figures_for(w, surface, s_c, half_w, half_h) for w in WAYS)
    return PlacedDrawing(
        what.element,
        what.name,
        what.at,
        colours,
        outline,
        p.width_mm,
        height,
        a_c,
        s_c,
        span_a,
        local.span_s,
        way,
        suggested,
        ways,
        parted,
    )
