"""The parts of a dimensioned drawing of a blank: strokes, dimension lines tied to their fields, and marks; mm, y up."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import Literal, TypeVar

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import mended
from ..arrays import Array
from .bodies import RoundBody
from .free import FreeArea

StrokeKind = Literal["body", "edge", "fine", "centre", "free", "zone", "section", "found", "level"]
Place = tuple[float, float]


@dataclass(frozen=True, eq=False)
class Stroke:
    """Lines or areas of one kind: `body` heavy, `edge` what stands beside it, `fine` thin, `centre` dash-dot, `free`
    dashed over a wash, `zone` hatched,
    `section` a side line drawn apart, `found` what a photograph gave, `level` where water would stand."""

    kind: StrokeKind
    lines: tuple[Array, ...]
    closed: bool = True


@dataclass(frozen=True)
class DimensionLine:
    """From place to place, moved `row` steps along `out` (a unit vector), its figure in words; `field` is what it
    dimensions.

    `leader` is set for a figure that stands beside the drawing, with a line to `start`.
    """

    field: str
    start: Place
    end: Place
    text: str
    out: Place = (0.0, 0.0)
    row: float = 0.0
    leader: Literal["left", "right"] | None = None


@dataclass(frozen=True)
class Mark:
    """A figure at a place of the drawing."""

    field: str
    at: Place
    text: str


Named = TypeVar("Named", DimensionLine, Mark)


@dataclass(frozen=True, eq=False)
class Sketch:
    """One view of a blank."""

    title: str
    strokes: tuple[Stroke, ...]
    dimensions: tuple[DimensionLine, ...]
    marks: tuple[Mark, ...] = ()
    note: str = ""
    reach: tuple[float, float, float, float] = field(default=(0.0, 0.0, 1.0, 1.0))

    def within(self, path: str) -> Sketch:
        """The same as seen from further out: what it dimensions lies below `path`."""

        def below(part: Named) -> Named:
            return replace(part, field=f"{path}.{part.field}") if part.field else part

        return replace(
            self, dimensions=tuple(below(d) for d in self.dimensions), marks=tuple(below(m) for m in self.marks)
        )


def rings_of(region: BaseGeometry, tolerance: float = 0.02) -> tuple[Array, ...]:
    if region.is_empty:
        return ()
    parts = shapely.get_parts(shapely.simplify(region, tolerance))
    return tuple(shapely.get_coordinates(r)[:-1] for r in shapely.get_rings(parts[~shapely.is_empty(parts)]))


def box_ring(box: tuple[float, float, float, float]) -> Array:
    l, b, r, t = box  # noqa: E741
    return np.array([[l, b], [r, b], [r, t], [l, t]])


def zone_strokes(free: FreeArea) -> list[Stroke]:
    rings = tuple(r for z in free.zones for r in rings_of(z.region))
    return [Stroke("zone", rings)] if rings else []


def seen_from_front(region: BaseGeometry, body: RoundBody, turns: bool = True) -> BaseGeometry:
    """What of a region in (angle, side) coordinates is seen from the front, in the elevation: `x = r sin a`, y the
    height."""
    copies = (
        [shapely.transform(region, lambda p, n=n: p + (2 * math.pi * n, 0)) for n in (-1, 0, 1)] if turns else [region]
    )  # type: ignore[misc]
    front = shapely.intersection(shapely.union_all(copies), shapely.box(-math.pi / 2, 0, math.pi / 2, body.length))
    if front.is_empty:
        return front
    fine = shapely.segmentize(shapely.transform(front, lambda p: p * (60.0, 1.0)), 4.0)

    def lay(p: Array) -> Array:
        r, z = body.radii_at(p[:, 1]), body.heights_at(p[:, 1])
        return np.column_stack([r * np.sin(p[:, 0] / 60.0), z])

    out = shapely.transform(fine, lay)
    return mended(out)[0]


def front_strokes(free: FreeArea, body: RoundBody) -> tuple[Stroke, ...]:
    """Zones the maker drew and the faces' largest free rectangles, as the front of a round body shows them."""
    out = []
    zones = [seen_from_front(z.region, body) for z in free.zones]
    rings = tuple(r for z in zones for r in rings_of(z))
    if rings:
        out.append(Stroke("zone", rings))
    boxes = [seen_from_front(shapely.box(*f.box), body) for f in free.faces if abs(f.centre) <= math.pi / 2 + 1e-6]
    faces = tuple(r for b in boxes for r in rings_of(b))
    if faces:
        out.append(Stroke("free", faces))
    return tuple(out)
