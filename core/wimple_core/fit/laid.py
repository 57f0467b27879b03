"""A drawing laid on a surface: at its front, from there to its place, in copies, parted where it lies over the seam."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import mended
from ..artwork import ColourRegion, lay_over
from ..artwork.pieces import names_after
from ..cache import Key
from ..errors import DoesNotFit
from ..figures import carried
from ..job.document import Placement, Way
from ..overlay import intersection, together
from ..surface import Surface, Template
from ..surface.extent import extent_of
from ..surface.pieces import Pieces
from .separated import Separated
from .turns import SAME_ANGLE, on_turn, on_turns
from .ways import lay, longest_edge

RUNS_OVER_MM2 = 0.05
"""What a drawing may lie over itself by, from the cutting of its curves alone."""
Back = Callable[[np.ndarray], np.ndarray]


@dataclass(frozen=True)
class Placing:
    """One placement of an element: its id, its name, and which of its placements it is; `of` tells what was
    read of it."""

    element: str
    name: str
    number: int
    placement: Placement
    of: Key = ()

    @property
    def at(self) -> str:
        """Where the element names it."""
        return f"placements.{self.number}"


def _laid(
    region: BaseGeometry, matrix: np.ndarray, middle: np.ndarray, way: Way, surface: Surface, s_c: float, longest: float
) -> tuple[BaseGeometry, float]:
    """A region of a drawing laid at the front of the surface, and the area by which it then lies over itself."""
    flat = shapely.transform(region, lambda p: (p - middle) @ matrix.T)
    if math.isfinite(longest):
        flat = shapely.segmentize(flat, longest)
    return mended(shapely.transform(flat, lambda p: np.column_stack(lay(p[:, 0], p[:, 1], way, surface, 0.0, s_c))))


def moved(region: BaseGeometry, surface: Surface, by: float) -> BaseGeometry:
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
class Laid:
    """A drawing laid at the front: its colours, what it covers, and the surface it was laid on."""

    colours: tuple[ColourRegion, ...]
    span_a: tuple[float, float]
    span_s: tuple[float, float]
    surface: Surface

    def raised(self, by: float) -> Laid:
        """The same laid `by` mm higher, where nothing bends."""
        up = (0.0, by)
        span = (self.span_s[0] + by, self.span_s[1] + by)
        raised = each(self.colours, lambda g: shapely.transform(g, lambda c: c + up))
        return replace(self, colours=raised, span_s=span)


def parted_by_seam(local: Laid, at: float, middle: float) -> list[tuple[ColourRegion, ...]]:
    """One copy laid at the angle `at` in the parts the seam makes of it: what lies beyond goes to the other end."""
    out = []
    (left, right), surface = local.span_a, local.surface
    for n in (-1, 0, 1):
        turn = middle + 2 * math.pi * n - at
        a, b = max(turn - math.pi, left - 0.01), min(turn + math.pi, right + 0.01)
        if b - a > SAME_ANGLE:
            wedge = _wedge(surface, a, b, local.span_s)
            by = at - 2 * math.pi * n
            cut = each(local.colours, lambda g, w=wedge: intersection(g, w))  # type: ignore[misc]
            out.append(each(cut, lambda g, by=by: moved(g, surface, by)))  # type: ignore[misc]
    return out


def lay_at_front(
    what: Placing,
    separated: Separated,
    surface: Surface,
    s_c: float,
    matrix: np.ndarray,
    middle: np.ndarray,
    way: Way,
    half_h: float,
) -> Laid:
    """Lay a drawing at the front of a surface, its middle (`middle`, mm of the drawing) at the height `s_c`; `matrix`
    (2, 2) sizes and turns it. Raises DoesNotFit, as the placement sees it, where it would lie over itself, or nothing
    of it is left."""
    longest = longest_edge(surface, s_c - half_h, s_c + half_h, way)
    colours, runs_over = [], [0.0]

    def put(region: BaseGeometry) -> BaseGeometry:
        laid, over = _laid(region, matrix, middle, way, surface, s_c, longest)
        runs_over.append(over)
        return laid

    for c in separated.colours:
        seen, painted = c.regions(put)
        if not seen.is_empty:
            colours.append(_named(ColourRegion(c.colour, seen, painted), c, None))
    over = max(runs_over)
    if over > RUNS_OVER_MM2:
        where = "taper" if surface.k else "surface" if surface.closed else "panel"
        raise DoesNotFit(
            f"Laid on this {where}, “{what.name}” would lie over itself by {carried(over, 'mm2')}.",
            field="width_mm",
            hint="Make it smaller, or place it nearer the wide end." if surface.k else "Make it smaller.",
        )
    if not colours:
        raise DoesNotFit(
            f"At {carried(what.placement.width_mm)} wide nothing of “{what.name}” is left to cut.",
            field="width_mm",
            hint="Make it larger.",
        )
    reach = extent_of([c.seen for c in colours], surface)
    assert reach is not None
    return Laid(tuple(colours), (reach.left, reach.right), (reach.low, reach.high), surface)


def angles_of(p: Placement, a_c: float, template: Template) -> list[float]:
    """Where the middles of all copies lie, each on the turn the template shows."""
    middle = (template.left + template.right) / 2
    return [on_turn(a_c + 2 * math.pi * i / p.repeat, middle) for i in range(p.repeat)]


def parted_of(local: Laid, angles: list[float], template: Template) -> tuple[float, ...]:
    """The middles of the copies that the seam parts."""
    if not template.limits.all_round:
        return ()
    middle, (left, right) = (template.left + template.right) / 2, local.span_a
    return tuple(a for a in angles if max(a + right - middle, middle - a - left) > math.pi + 1e-6)


def copies_round(
    local: Laid, angles: list[float], template: Template, parted: tuple[float, ...] = ()
) -> tuple[ColourRegion, ...]:
    """What was laid at the front in copies with their middles at those angles, those in `parted` parted by the seam."""
    whole = template.surface
    laid: list[tuple[ColourRegion, ...]] = []
    for n, at in enumerate(angles, start=1):
        if isinstance(whole, Pieces):
            copy = [_in_pieces(local, at, whole)]
        elif at in parted:
            copy = parted_by_seam(local, at, (template.left + template.right) / 2)
        else:
            copy = [each(local.colours, lambda g, at=at: moved(g, local.surface, at))]  # type: ignore[misc]
        laid += [called(colours, "", f"#{n}" if n > 1 else "") for colours in copy]
    if len(laid) == 1:
        return laid[0]
    if local.span_a[1] - local.span_a[0] > 2 * math.pi / len(angles):
        return lay_over(laid)
    by_colour: dict[str, list[ColourRegion]] = {}
    for colours in laid:
        for c in colours:
            by_colour.setdefault(c.colour, []).append(c)
    return tuple(_beside(by_colour[c.colour]) for c in local.colours if c.colour in by_colour)


def _beside(copies: list[ColourRegion]) -> ColourRegion:
    """Copies of one colour that lie apart, as one."""
    seen = together(c.seen for c in copies)
    hidden = any(c.painted is not c.seen for c in copies)
    painted = together(c.painted for c in copies) if hidden else seen
    return ColourRegion(copies[0].colour, seen, painted, tuple(name for c in copies for name in c.pieces[1]))


def each(colours: tuple[ColourRegion, ...], move: Callable[[BaseGeometry], BaseGeometry]) -> tuple[ColourRegion, ...]:
    """Colours whose regions were moved, or cut where they lie."""
    out = []
    for c in colours:
        seen, painted = c.regions(move)
        if not seen.is_empty:
            out.append(_named(ColourRegion(c.colour, seen, painted), c, None))
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


def _in_pieces(local: Laid, a_c: float, whole: Pieces) -> tuple[ColourRegion, ...]:
    def to_surface(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        a, s = local.surface.wrap(x, y)
        return a + a_c, s

    def back(p: np.ndarray) -> np.ndarray:
        a, s = whole.wrap(p[:, 0], p[:, 1])
        a = on_turns(a - a_c) if whole.closed else a - a_c
        return np.column_stack(local.surface.develop(a, s))

    laid = ((c, ColourRegion(c.colour, *c.regions(lambda g: whole.lay_out(g, to_surface)))) for c in local.colours)
    return tuple(_named(after, c, back) for c, after in laid if not after.seen.is_empty)
