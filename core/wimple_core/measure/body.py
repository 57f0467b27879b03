"""Bodies as measured, each with its spread: a frustum, a profile turned on an axis, a cap, a panel, a fair surface,
a mesh."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array

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
    closed: ClassVar[bool] = True

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
    def widest(self) -> float:
        """Its greatest radius."""
        return max(self.radius_lower, self.radius_upper)

    @property
    def extent(self) -> tuple[float, float]:
        """How wide and how high it is."""
        return 2 * self.widest, self.upright

    @property
    def sections(self) -> tuple[Frustum, ...]:
        """Its straight parts: itself."""
        return (self,)

    @property
    def straight(self) -> bool:
        """Is it as wide everywhere?"""
        return self.k == 0

    @property
    def fine(self) -> Array:
        """Places along the side (n,) close enough to add up what changes with its radius."""
        return np.linspace(0, self.slant, 241)

    def heights_at(self, s: Array) -> Array:
        """Heights above the lower line, along the axis, of places along the side."""
        return np.asarray(s) * (self.upright / self.slant)

    def outside(self, rim: float = 0.0, foot: float = 0.0) -> tuple[Array, Array]:
        """Heights above the bench and radii (n,) of the whole outside, prolonged along the side by `rim` mm above and
        `foot` mm below."""
        return (
            np.array([0.0, (self.slant + rim + foot) * (self.upright / self.slant)]),
            np.array([max(self.radius_at(-foot), 0.0), max(self.radius_at(self.slant + rim), 0.0)]),
        )

    def outside_to(self, height: float, foot: float = 0.0) -> tuple[Array, Array, float]:
        """The outside up to beyond a height along the side, and how high that is above the bench; nothing where the
        wall comes to a point before."""
        upward = self.upright / self.slant
        top = max(height, -foot) + 1.0
        z, r = np.array([0.0, (top + foot) * upward]), np.array([self.radius_at(-foot), self.radius_at(top)])
        return z, r, (height + foot) * upward

    def stands(self, foot: float = 0.0) -> float:
        """How far its lowest line is from the bench along the side, mm."""
        return foot

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
    side at which the way round was read, `errors` the standard errors of the radii there.
    """

    s: Array
    z: Array
    r: Array
    joints: Array
    errors: Array
    foot: float = 0.0
    """How high above the bench the lowest ring was read, mm; `z` and `s` count from that ring."""

    closed: ClassVar[bool] = True

    @property
    def length(self) -> float:
        return float(self.s[-1])

    @property
    def widest(self) -> float:
        """Its greatest radius."""
        return float(self.r.max())

    @property
    def extent(self) -> tuple[float, float]:
        """How wide and how high it is."""
        return 2 * self.widest, self.upright

    @property
    def sections(self) -> tuple[Frustum, ...]:
        """Its straight parts: none."""
        return ()

    @property
    def upright(self) -> float:
        return float(self.z[-1])

    def radius_at(self, s: float) -> float:
        return float(np.interp(s, self.s, self.r))

    def radii_at(self, s: Array) -> Array:
        return np.interp(s, self.s, self.r)

    def height_at(self, s: float) -> float:
        return float(np.interp(s, self.s, self.z))

    @property
    def straight(self) -> bool:
        """Is it as wide everywhere?"""
        return False

    @property
    def fine(self) -> Array:
        """Places along the side (n,) close enough to add up what changes with its radius."""
        return self.s

    def heights_at(self, s: Array) -> Array:
        """Heights above its lowest ring, along the axis, of places along the side."""
        return np.interp(s, self.s, self.z)

    def outside(self, rim: float = 0.0, foot: float = 0.0) -> tuple[Array, Array]:
        """Heights above the bench and radii (n,) of the whole outside, from its lowest ring straight down to the
        bench; it was read from foot to rim, so nothing is prolonged."""
        if self.foot <= 0:
            return self.z, self.r
        lean = (self.r[1] - self.r[0]) / (self.z[1] - self.z[0])
        at_bench = min(max(self.r[0] - lean * self.foot, 0.0), 2 * self.r[0])
        return np.concatenate([[0.0], self.z + self.foot]), np.concatenate([[at_bench], self.r])

    def outside_to(self, height: float, foot: float = 0.0) -> tuple[Array, Array, float]:
        """The outside, and how high above the bench a place along the side is."""
        return *self.outside(), self.height_at(height) + self.foot

    def stands(self, foot: float = 0.0) -> float:
        """How far its lowest ring is from the bench along the side, mm."""
        if self.foot <= 0:
            return 0.0
        z, r = self.outside()
        return math.hypot(z[1] - z[0], r[1] - r[0])


@dataclass(frozen=True, eq=False)
class Stacked(Profile):
    """A side line made of straight parts, from the foot up."""

    parts: tuple[Frustum, ...] = ()

    @property
    def sections(self) -> tuple[Frustum, ...]:
        """Its straight parts."""
        return self.parts


@dataclass(frozen=True)
class Cap:
    """A spherical cap: radius of the sphere and of the rim, rise, all mm with the error of the radius."""

    radius: float
    rim: float
    rise: float
    error_radius: float = 0.0
    error_rim: float = 0.0
    error_rise: float = 0.0
    closed: ClassVar[bool] = False

    @property
    def extent(self) -> tuple[float, float]:
        """How wide and how high it is."""
        return 2 * self.rim, self.rise

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
