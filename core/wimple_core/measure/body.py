"""Bodies as measured, each with its spread: a frustum, a profile turned on an axis, a cap, a panel, a fair surface,
a mesh."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

Array = NDArray[np.float64]
Triangles = NDArray[np.int64]
"""(m, 3) corners by their number, counter-clockwise seen from outside."""


def grid_triangles(rows: int, columns: int) -> Triangles:
    """Triangles (m, 3) of a grid of places, row by row."""
    i = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = i[:-1, :-1], i[:-1, 1:], i[1:, :-1], i[1:, 1:]
    return np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([c, b, d], -1).reshape(-1, 3)]).astype(
        np.int64
    )


@dataclass(frozen=True)
class Frustum:
    """A straight or tapered wall between a lower and an upper line.

    Radii and slant in mm with their standard errors; `k` is the sine of the half apex angle, positive where the
    wall widens upward.
    """

    radius_lower: float
    radius_upper: float
    slant: float
    error_lower: float = 0.0
    error_upper: float = 0.0
    error_slant: float = 0.0

    @property
    def k(self) -> float:
        return (self.radius_upper - self.radius_lower) / self.slant

    @property
    def error_k(self) -> float:
        """Standard error of `k`, to first order (JCGM 100:2008, 5.1.2)."""
        return math.hypot(self.error_lower, self.error_upper, self.k * self.error_slant) / self.slant

    @property
    def upright(self) -> float:
        """Height between the two lines, along the axis."""
        return math.sqrt(self.slant**2 - (self.radius_upper - self.radius_lower) ** 2)

    @property
    def length(self) -> float:
        """How far it goes up along the side."""
        return self.slant

    def radius_at(self, s: float) -> float:
        """Radius at distance `s` along the side above the lower line."""
        return self.radius_lower + self.k * s

    def radii_at(self, s: Array) -> Array:
        """The same for many places."""
        return self.radius_lower + self.k * s

    @property
    def cosine(self) -> float:
        """Cosine of the half apex angle: what stands square to the wall reaches that share of itself outward."""
        return math.sqrt(max(0.0, 1 - self.k**2))

    def thickened(self, by: float) -> Frustum:
        """The same wall with `by` mm laid on it, square to it: where the middle of a film on it lies."""
        return Frustum(
            self.radius_lower + by * self.cosine,
            self.radius_upper + by * self.cosine,
            self.slant,
            self.error_lower,
            self.error_upper,
            self.error_slant,
        )


@dataclass(frozen=True, eq=False)
class Profile:
    """A side line turned on an axis, from the foot up.

    `s` along the side, `z` upright, `r` from the axis: (n,) mm, `s` growing. `joints` are the distances along the
    side at which
    the way round was read, `errors` the standard errors of the radii there. `sections` are its straight parts, if it
    has them.
    """

    s: Array
    z: Array
    r: Array
    joints: Array
    errors: Array
    sections: tuple[Frustum, ...] = ()
    foot: float = 0.0
    """How high above the bench the lowest ring was read, mm; `z` and `s` count from that ring."""

    @property
    def length(self) -> float:
        return float(self.s[-1])

    @property
    def upright(self) -> float:
        return float(self.z[-1])

    def radius_at(self, s: float) -> float:
        return float(np.interp(s, self.s, self.r))

    def radii_at(self, s: Array) -> Array:
        return np.interp(s, self.s, self.r)

    def height_at(self, s: float) -> float:
        return float(np.interp(s, self.s, self.z))


@dataclass(frozen=True)
class Cap:
    """A spherical cap: radius of the sphere and of the rim, rise, all mm with the error of the radius."""

    radius: float
    rim: float
    rise: float
    error_radius: float = 0.0
    error_rim: float = 0.0
    error_rise: float = 0.0

    @property
    def angle(self) -> float:
        """From the middle to the rim, seen from the centre of the sphere, rad."""
        return math.atan2(self.rim, self.radius - self.rise)

    @property
    def area(self) -> float:
        """`2 pi R h` (CRC Standard Mathematical Tables)."""
        return 2 * math.pi * self.radius * self.rise

    @property
    def arc(self) -> float:
        """From the middle to the rim along the surface."""
        return self.radius * self.angle


@dataclass(frozen=True)
class Panel:
    """A flat outline, or one bent as a cylinder is; mm.

    `outline` lies in the panel's own coordinates: x from its middle, y up from its lower edge, measured along the
    surface.
    `bend_radius` is None on a flat panel; `bend` says which way a bent one goes round, `hollow` that it bends away.
    """

    width: float
    height: float
    error_width: float = 0.0
    error_height: float = 0.0
    outline: shapely.Polygon = field(default_factory=shapely.Polygon)
    bend_radius: float | None = None
    error_bend_radius: float = 0.0
    bend: Literal["across", "up"] = "across"
    hollow: bool = False


@dataclass(frozen=True, eq=False)
class RiseSurface:
    """A panel curved both ways: rises on a grid and the tensor spline through them.

    `x` (nx,), `y` (ny,) where they were read, `rises` (ny, nx), `errors` (ny, nx), mm; x from the left edge, y from
    the lower one.
    """

    x: Array
    y: Array
    rises: Array
    errors: Array
    residuals: Array
    """By how much each reading stands off the fairest surface its spread allows (ny, nx), mm."""

    @property
    def width(self) -> float:
        return float(self.x[-1] - self.x[0])

    @property
    def height(self) -> float:
        return float(self.y[-1] - self.y[0])


@dataclass(frozen=True, eq=False)
class MeshBody:
    """Triangles in mm: `vertices` (n, 3), x to the right, y up, z toward the eye; `triangles` (m, 3).

    `loops` counts the open edges' loops (0 for a closed body), `shells` the parts that hang together; `front` is
    what is
    seen of it from the front.
    """

    vertices: Array
    triangles: Triangles
    loops: int
    shells: int
    area: float
    volume_ml: float | None
    front: shapely.MultiPolygon

    @cached_property
    def size(self) -> tuple[float, float, float]:
        """Width, height and depth, mm."""
        w, h, d = np.ptp(self.vertices, axis=0)
        return float(w), float(h), float(d)

    @property
    def width(self) -> float:
        return self.size[0]

    @property
    def height(self) -> float:
        return self.size[1]


RoundBody = Frustum | Profile
Body = Frustum | Profile | Cap | Panel | RiseSurface | MeshBody
