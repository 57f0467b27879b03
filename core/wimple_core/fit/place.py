"""One drawing where its placement says: what of it lies there, in how many copies, and what that does to it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely

from ..arrays import Array
from ..artwork import ColourRegion, Gap
from ..cache import Keep, Key, keep_nothing
from ..errors import DoesNotFit, seen_from
from ..figures import carried
from ..job.document import Placement, Way
from ..surface import Template
from ..surface.pieces import Pieces
from ..surface.surface import RoundWall
from .carry import Carry
from .laid import Laid, Placing, angles_of, copies_round, each, lay_at_front, parted_of
from .patterned import Patterned
from .separated import Separated
from .turns import on_turn
from .ways import WAYS, WayFigures, figures_for, suggest

SEEN_MM, SEEN_LEAN = 0.02, math.radians(0.05)
"""Less than the blade's own unit, and a lean nobody sees."""
MOST_TURNS, MOST_TIMES = 3.0, 20.0
"""What goes round more often, or is so much larger than its room, is a slip of the hand or of a unit."""


@dataclass(frozen=True, eq=False)
class Still:
    """A drawing that moves rigidly: its `colours` where they lie with the first copy's middle at the front and on the
    lower line, and by how much (mm) it is moved from there. `key` tells what the colours were made of."""

    colours: tuple[ColourRegion, ...]
    key: Key
    move: tuple[float, float]


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
    still: Still | None = None
    pattern: Patterned | None = None
    carry: Carry | None = None
    """How places of its drawing come to lie there, of its first copy."""
    gaps: tuple[tuple[Gap, Array], ...] = ()
    """The spaces between its letters, each with three places (3, 2) on the template: its middle at the foot of the
    line, a mm further along the line, and a mm higher."""

    @property
    def tapered(self) -> bool:
        """Do the ways of laying it differ by anything that could be seen?"""
        return any(max(w.sag, w.width_change) > SEEN_MM or w.lean > SEEN_LEAN for w in self.ways)


def _carried(separated: Separated, carry: Carry) -> tuple[tuple[Gap, Array], ...]:
    """The spaces between its letters where they lie; none of words whose pieces were worked on."""
    gaps = separated.artwork.gaps
    if not gaps or separated.edits:
        return ()
    foot = np.array([(g.x, g.y) for g in gaps])
    turn = np.array([g.turn for g in gaps])
    along = np.column_stack([np.cos(turn), np.sin(turn)])
    higher = np.column_stack([-np.sin(turn), np.cos(turn)])
    places = carry.of(np.concatenate([foot, foot + along, foot + higher])).reshape(3, -1, 2)
    return tuple((g, places[:, n]) for n, g in enumerate(gaps))


def _box_outline(half_w: float, half_h: float) -> np.ndarray:
    n = 24
    t = np.linspace(-1, 1, n, endpoint=False)
    one = np.ones(n)
    edges = [(t, -one), (one, t), (-t, one), (-one, -t)]
    return np.concatenate([np.column_stack([x * half_w, y * half_h]) for x, y in edges])


def _check_size(what: Placing, template: Template, wide: float, high: float, per: float) -> None:
    """Raises DoesNotFit for a box (mm) so large that laying it would only cost time: `per` mm lie in a radian."""
    room = template.limits
    tall = room.high - room.low
    if template.surface.closed:
        turns = wide / (2 * math.pi * per)
        if turns <= MOST_TURNS and high <= MOST_TIMES * tall:
            return
        said = (
            f"goes {turns:.0f} times round"
            if turns > MOST_TURNS
            else f"is {high / tall:.0f} times as tall as there is room"
        )
    else:
        times = max(wide, high) / max(room.right - room.left, tall)
        if times <= MOST_TIMES:
            return
        said = f"is {times:.0f} times as large as there is room"
    raise DoesNotFit(
        f"“{what.name}” {said}.", field=f"{what.at}.width_mm", hint="Make it smaller: check the unit of its size."
    )


def carry_of(p: Placement, way: Way, separated: Separated, template: Template) -> Carry:
    """How places of a drawing come to lie where its placement says, laid in a way."""
    whole = template.surface
    left, low, right, high = separated.frame
    turn = math.radians(p.turn_deg)
    scale = p.width_mm / (right - left)
    matrix = scale * np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    if p.mirrored:
        matrix = matrix * (-1.0, 1.0)
    middle = np.array([(left + right) / 2, (low + high) / 2])
    # In pieces: laid on the one it stands on as if that went on, then cut along the joints.
    surface = whole.locally(p.up_mm) if isinstance(whole, Pieces) else whole
    # Laid at the front and turned to its place as one: so no angle is ever too far round to be told from another.
    if isinstance(surface, RoundWall):
        surface = replace(surface, middle=0.0)
    a_c = on_turn(math.radians(p.centre_deg), (template.left + template.right) / 2) if whole.closed else p.across_mm
    return Carry(matrix, middle, way, surface, whole, a_c, p.up_mm)


def place(what: Placing, separated: Separated, template: Template, keep: Keep = keep_nothing) -> PlacedDrawing:
    """Lay one drawing on the template where its placement says; `keep` may know it laid already. Fields of errors are
    the element's own."""
    p: Placement = what.placement
    whole = template.surface
    left, low, right, high = separated.frame
    if right - left <= 0 or high - low <= 0:
        raise DoesNotFit(
            f"“{what.name}” has no width or no height.", field="source.file", hint="Draw something that covers an area."
        )
    scale = p.width_mm / (right - left)
    height = (high - low) * scale
    turn = math.radians(p.turn_deg)
    carry = carry_of(p, "level", separated, template)
    matrix, middle, surface, a_c, s_c = carry.matrix, carry.middle, carry.surface, carry.a_c, carry.s_c
    half_w = abs(math.cos(turn)) * p.width_mm / 2 + abs(math.sin(turn)) * height / 2
    half_h = abs(math.sin(turn)) * p.width_mm / 2 + abs(math.cos(turn)) * height / 2
    if surface.scale_at(s_c) <= 0:
        raise DoesNotFit(
            f"At {carried(s_c)} up the wall has come to a point.",
            field=f"{what.at}.up_mm",
            hint="Place the drawing on the cup.",
        )
    _check_size(what, template, 2 * half_w, 2 * half_h, surface.scale_at(s_c))
    suggested = suggest(surface, s_c, half_w, half_h, separated.roundness)
    way: Way = suggested if p.way == "suggested" else p.way
    # Where nothing bends, what is laid does not depend on where.
    rigid = whole.k == 0 and not isinstance(whole, Pieces)
    height_laid = 0.0 if rigid else s_c
    key = ("laid", what.of, p.width_mm, p.turn_deg, p.mirrored, way, surface, height_laid)
    with seen_from(what.at):
        local = keep(key, lambda: lay_at_front(what, separated, surface, height_laid, matrix, middle, way, half_h))
    angles = angles_of(p, a_c, template) if whole.closed else [a_c]
    # What goes once round has its own ends at the seam.
    parted = parted_of(local, angles, template) if whole.closed and p.once_round_mm is None else ()
    still = None
    if rigid and not parted:
        still = _still(local, key, angles, s_c, template)
        colours = each(still.colours, lambda g: shapely.transform(g, lambda c: c + still.move))
    else:
        if rigid:
            local = local.raised(s_c)
        colours = copies_round(local, angles, template, parted)
    box = _box_outline(p.width_mm / 2, height / 2) @ (matrix.T / scale)
    carry = replace(carry, way=way)
    with seen_from(what.at):
        outline = carry.laid(box)
    gaps = _carried(separated, carry)
    span_a = (local.span_a[0] + a_c, local.span_a[1] + a_c)
    rise = s_c if still else 0.0
    span_s = (local.span_s[0] + rise, local.span_s[1] + rise)
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
        span_s,
        way,
        suggested,
        ways,
        parted,
        still,
        carry=carry,
        gaps=gaps,
    )


def _still(local: Laid, key: Key, angles: list[float], s_c: float, template: Template) -> Still:
    apart = [round(a - angles[0], 12) for a in angles]
    x, y = local.surface.develop(np.array(angles[:1]), np.array([s_c]))
    return Still(copies_round(local, apart, template), (*key, *apart), (float(x[0]), float(y[0])))
