"""What every surface can do for the stages after it: lay points flat, wrap them back, say how wide it is."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from ..arrays import Array
from ..measure.body import Frustum
from .frustum import LEAST_TAPER, develop, undevelop


class Surface(Protocol):
    """A surface with coordinates (a, s): `a` an angle in rad on a body of revolution, mm on a panel; `s` mm upward."""

    def develop(self, a: Array, s: Array) -> tuple[Array, Array]:
        """To the template, mm."""
        ...

    def wrap(self, x: Array, y: Array) -> tuple[Array, Array]:
        """From the template back."""
        ...

    def turned(self, points: Array, by: float) -> Array:
        """Points (n, 2) of the template moved round the surface by `by` units of `a`, rigidly."""
        ...

    def scale_at(self, s: float) -> float:
        """mm of width for each unit of `a` at height `s`."""
        ...

    @property
    def k(self) -> float:
        """Change of `scale_at` with `s`: the taper; 0 where there is none."""
        ...

    @property
    def closed(self) -> bool:
        """Does it go all the way round?"""
        ...


@dataclass(frozen=True)
class RoundWall:
    """A cylinder or cone; `r0` mm at the lower line, `k` the sine of the half apex angle.

    `middle` is the angle round which its template is laid out: places up to half a turn from it are told apart.
    """

    r0: float
    k: float
    closed: bool = True
    middle: float = 0.0

    def develop(self, a: Array, s: Array) -> tuple[Array, Array]:
        return develop(a, s, self.r0, self.k)

    def wrap(self, x: Array, y: Array) -> tuple[Array, Array]:
        if self.middle == 0.0:
            return undevelop(x, y, self.r0, self.k)
        back = self.turned(np.column_stack([x, y]), -self.middle)
        a, s = undevelop(back[:, 0], back[:, 1], self.r0, self.k)
        return a + self.middle, s

    def turned(self, points: Array, by: float) -> Array:
        """The template turned about the point of its cone by `k` times the angle: `(r0 / k) sin(k b)` and
        `(r0 / k) (1 - cos(k b))` in the forms that lose nothing at small k."""
        turn = self.k * by
        cos, sin = math.cos(turn), math.sin(turn)
        half = float(np.sinc(turn / 2 / math.pi))
        out: Array = points @ np.array([[cos, -sin], [sin, cos]])
        return out + (self.r0 * by * float(np.sinc(turn / math.pi)), -self.r0 * self.k * by * by / 2 * half * half)

    def scale_at(self, s: float) -> float:
        return self.r0 + self.k * s


@dataclass(frozen=True)
class Flat:
    """A flat panel: the template is the panel, `a` from its middle."""

    k: float = 0.0
    closed: bool = False

    def turned(self, points: Array, by: float) -> Array:
        return points + (by, 0.0)

    def develop(self, a: Array, s: Array) -> tuple[Array, Array]:
        return np.asarray(a, dtype=np.float64), np.asarray(s, dtype=np.float64)

    def wrap(self, x: Array, y: Array) -> tuple[Array, Array]:
        return np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)

    def scale_at(self, s: float) -> float:
        return 1.0


def wall_of_film(frustum: Frustum, film_thickness_mm: float = 0.0) -> RoundWall:
    """The wall on which the middle of a film of that thickness lies: its radius grows by half of it."""
    thick = frustum.thickened(film_thickness_mm / 2)
    return RoundWall(thick.radius_lower, 0.0 if abs(thick.k) < LEAST_TAPER else thick.k)
