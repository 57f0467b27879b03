"""A drawing grown where it lies, and moved and turned if need be, until its true outline touches what bounds it."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..arrays import Array
from ..errors import DoesNotFit
from ..job.document import Placement
from ..overlay import together
from ..surface import Surface, Template
from .place import PlacedDrawing
from .turns import on_turn

TURNS = range(-90, 90, 15)
"""Degrees from how it stands that are tried first."""
FINE_DEG = (-6.0, -2.0, 2.0, 6.0)
CORNERS = 400
"""So many corners of its outline are looked at."""
SHRUNK, TRIES = 0.985, 24
"""On a taper what was found on the flat template is made smaller by that until it fits where it is laid."""
Lay = Callable[[Placement], PlacedDrawing]


class _Room:
    """What a drawing may cover, asked often."""

    def __init__(self, room: BaseGeometry, outline: Array) -> None:
        self.room, self.outline = prepared(room), outline
        left, low, right, high = room.bounds
        self.extent = max(right - left, high - low)

    def holds(self, at: Array, size: float, turn: float) -> bool:
        c, s = math.cos(turn), math.sin(turn)
        placed = size * self.outline @ np.array([[c, s], [-s, c]]) + at
        return bool(shapely.contains_properly(self.room, shapely.linearrings(placed)))

    def largest(self, at: Array, turn: float, least: float) -> float:
        """The largest size that fits there, if that is more than `least`."""
        if not self.holds(at, least, turn):
            return least
        low, high = least, 2 * least
        while self.holds(at, high, turn):
            low, high = high, 2 * high
        while high - low > 1e-3 * high:
            middle = (low + high) / 2
            low, high = (middle, high) if self.holds(at, middle, turn) else (low, middle)
        return low

    def climbed(self, at: Array, turn: float, size: float) -> tuple[float, Array]:
        """From a place to where it may be largest: in steps that grow shorter, each way round."""
        ways = [np.array([math.cos(a), math.sin(a)]) for a in np.arange(8) * math.pi / 4]
        size, step = self.largest(at, turn, size), self.extent / 10
        while step > 1e-3 * self.extent:
            better = next((at + step * w for w in ways if self.holds(at + step * w, 1.002 * size, turn)), None)
            if better is None:
                step /= 2
            else:
                at, size = better, self.largest(better, turn, 1.002 * size)
        return size, at


def _outline(d: PlacedDrawing) -> Array:
    """The corners of the outline round all of it."""
    seen = together([c.seen for c in d.colours])
    parts, hull = shapely.get_parts(seen), shapely.convex_hull(seen)
    # One outline where it is one piece; of several their hull, which touches where they do.
    shape = shapely.Polygon(parts[0].exterior) if len(parts) == 1 else hull
    thinned = shapely.simplify(shape, math.sqrt(shape.area) / 2000)
    points = shapely.get_coordinates(shapely.get_exterior_ring(thinned))
    if len(points) > CORNERS:
        points = shapely.get_coordinates(shapely.get_exterior_ring(hull))
    return np.asarray(points)


def grown(
    d: PlacedDrawing, placement: Placement, template: Template, lay: Lay, margin: float, turning: bool
) -> dict[str, float]:
    """The fields of a placement (its places counted from the blank) with which the drawing is as large as what is free
    lets it be, `margin` mm away from its bounds: where it stands or beside, and, if `turning`, turned. `lay` lays it by
    a placement. Raises DoesNotFit where it has no room at any size."""
    if d.parted:
        raise DoesNotFit(
            "It lies over the seam, which parts it.", field="placement", hint="Move it off the seam first."
        )
    room = template.free.buffer(-margin) if margin else template.free
    parts = [g for g in shapely.get_parts(room) if g.geom_type == "Polygon" and g.area > 1]
    if not parts:
        raise DoesNotFit("Nothing is free at that distance from the edges.", field="margin_mm", hint="Take less.")
    surface = template.surface
    x, y = surface.develop(np.array([d.a_c]), np.array([d.s_c]))
    middle = np.array([float(x[0]), float(y[0])])
    mine = min(parts, key=lambda g: g.distance(shapely.Point(middle)))
    searched = _Room(mine, _outline(d) - middle)
    inner = shapely.get_coordinates(shapely.maximum_inscribed_circle(mine, 1.0))[0]
    starts = [at for at in (middle, inner) if mine.contains(shapely.Point(at))]
    best = (0.0, middle, 0.0)
    tiny = 1.0 / max(d.width, 1.0)

    def look(turns: list[float], places: list[Array]) -> None:
        nonlocal best
        for turn in turns:
            for at in places:
                size, there = searched.climbed(at, turn, tiny)
                if size > 1.001 * best[0]:
                    best = (size, there, turn)

    look([0.0], starts)
    if turning:
        look([math.radians(t) for t in TURNS if t], starts)
        for fine in FINE_DEG:
            look([best[2] + math.radians(fine)], [best[1]])
    size, at, turn = best
    if size <= tiny:
        raise DoesNotFit("It has no room there.", field="margin_mm", hint="Take less, or move it.")
    return _settled(placement, d, surface, at, size, turn, lay, mine)


def _settled(
    placement: Placement, d: PlacedDrawing, surface: Surface, at: Array, size: float, turn: float, lay: Lay,
    room: BaseGeometry,
) -> dict[str, float]:  # fmt: skip
    """What was found on the template as a placement, a little smaller where laying it bends it out of its room."""
    a, s = (float(v[0]) for v in surface.wrap(at[:1], at[1:]))
    turned = math.degrees(turn) + math.degrees(surface.k * (on_turn(a, d.a_c) - d.a_c))
    sets = {
        "up_mm": round(s, 2),
        "turn_deg": round((placement.turn_deg + turned + 180) % 360 - 180, 2),
        "width_mm": math.floor(100 * d.width * size) / 100,
    }
    sets |= {"centre_deg": round(math.degrees(a), 2)} if surface.closed else {"across_mm": round(a, 2)}
    for _ in range(TRIES):
        laid = lay(placement.model_copy(update=sets))
        if all(room.covers(c.seen) for c in laid.colours):
            break
        sets["width_mm"] = math.floor(100 * SHRUNK * sets["width_mm"]) / 100
    return sets
