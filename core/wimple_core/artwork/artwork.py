"""What a drawing is to the stages after it: painted regions, lowest first, and what is seen of each colour."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

import numpy as np
import shapely
from shapely import STRtree
from shapely.geometry.base import BaseGeometry


@dataclass(frozen=True)
class Note:
    """Something in a drawing that was not taken as it stood: a stable code, what it was, and why."""

    code: str
    what: str
    reason: str
    level: str = "look"


@dataclass(frozen=True)
class Paint:
    """One painted region, mm, y up."""

    region: BaseGeometry
    colour: str


@dataclass(frozen=True)
class Artwork:
    """A drawing read: its paints from the lowest to the uppermost, the size of its page (mm), and notes.

    `sized` tells whether the file itself said how large it is.
    """

    paints: tuple[Paint, ...]
    width: float
    height: float
    sized: bool
    notes: tuple[Note, ...]

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, low, right, high of what is painted, mm."""
        box = shapely.total_bounds(np.array([p.region for p in self.paints], dtype=object))
        return float(box[0]), float(box[1]), float(box[2]), float(box[3])


@dataclass(frozen=True)
class ColourRegion:
    """All of one colour: `seen` what shows of it, `painted` all that was painted, under others too (mm, y up)."""

    colour: str
    seen: BaseGeometry
    painted: BaseGeometry


def polygons_only(geometry: BaseGeometry) -> BaseGeometry:
    """The areal parts of a geometry: lines and points that set operations leave behind are dropped."""
    if geometry.geom_type in ("Polygon", "MultiPolygon"):
        return geometry
    parts = shapely.get_parts(geometry)
    return shapely.multipolygons(shapely.get_parts(parts[shapely.get_dimensions(parts) == 2]))


def separate(paints: tuple[Paint, ...]) -> tuple[ColourRegion, ...]:
    """What is seen of each colour, from the colour that lies lowest to the one that lies uppermost.

    The regions seen are disjoint and together cover what the paints cover. A colour lies above another where it is
    painted over it more than the other way round.
    """
    runs = [
        (colour, shapely.union_all([p.region for p in run])) for colour, run in groupby(paints, key=lambda p: p.colour)
    ]
    if not runs:
        return ()
    regions = np.array([r for _, r in runs], dtype=object)
    shapely.prepare(regions)
    # One arrangement of all edges: each face shows the uppermost region it lies in. This costs what the edges cost,
    # where subtracting every region from those below costs their square.
    edges = shapely.union_all(shapely.get_parts(shapely.boundary(regions)))
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(edges)))
    region_of, face_of = STRtree(shapely.point_on_surface(faces)).query(regions, predicate="contains")
    top = np.full(len(faces), -1)
    np.maximum.at(top, face_of, region_of)
    names = list(dict.fromkeys(c for c, _ in runs))
    name_of = np.array([names.index(c) for c, _ in runs])
    shown = top >= 0
    area = shapely.area(faces)
    over = np.zeros((len(names), len(names)))
    np.add.at(over, (name_of[top[face_of]], name_of[region_of]), area[face_of])
    out = []
    for n in _bottom_up(over):
        mine = faces[shown & (name_of[np.maximum(top, 0)] == n)]
        if len(mine):
            seen = shapely.coverage_union_all(mine)
            painted = shapely.union_all(regions[name_of == n])
            out.append(ColourRegion(names[n], polygons_only(seen), polygons_only(painted)))
    return tuple(out)


def _bottom_up(over: np.ndarray) -> list[int]:
    """Colours by repeated choice of the one that covers least of those still to come.

    `over[a, b]` is the area where colour a is seen over colour b.
    """
    excess = over - over.T
    left, order = list(range(len(over))), []
    while left:
        least = left[int(np.argmin(excess[np.ix_(left, left)].sum(axis=1)))]
        order.append(least)
        left.remove(least)
    return order
