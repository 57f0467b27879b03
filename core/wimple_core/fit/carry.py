"""From a drawing's own places to the template and back."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..errors import DoesNotFit
from ..job.document import Way
from ..surface import Surface
from ..surface.pieces import Pieces
from .ways import lay

NEWTON_STEP, NEAR_MM, LEAST_SLOPE, MOST_STEPS = 1e-4, 1e-6, 1e-9, 40


@dataclass(frozen=True, eq=False)
class Carry:
    """How places of a drawing come to lie on the template, for its first copy."""

    matrix: Array
    middle: Array
    way: Way
    surface: Surface
    whole: Surface
    a_c: float
    s_c: float

    @property
    def bends(self) -> bool:
        """Does what is straight in the drawing not stay so?"""
        return self.whole.k != 0 or isinstance(self.whole, Pieces)

    def _at_front(self, flat: Array) -> Array:
        return np.column_stack(lay(flat[:, 0], flat[:, 1], self.way, self.surface, 0.0, self.s_c))

    def laid(self, flat: Array) -> Array:
        """Places (n, 2) about the drawing's middle, sized and turned, mm, on the template."""
        out = self._at_front(flat)
        if isinstance(self.whole, Pieces):
            a, s = self.surface.wrap(out[:, 0], out[:, 1])
            return np.column_stack(self.whole.develop(a + self.a_c, s))
        return np.asarray(self.surface.turned(out, self.a_c))

    def of(self, drawn: Array) -> Array:
        """Places (n, 2) of the drawing, mm, on the template."""
        return self.laid((drawn - self.middle) @ self.matrix.T)

    def drawn(self, places: Array) -> Array:
        """Where in the drawing (n, 2) places (n, 2) on the template are, mm: the other way round, by Newton's method
        with differences for slopes.

        Raises DoesNotFit for a place that nothing of the drawing could come to lie on.
        """
        a, s = self.whole.wrap(places[:, 0], places[:, 1])
        away = a - self.a_c
        if self.whole.closed:
            # What reaches over the seam lies at the template's other end.
            away = np.remainder(away + math.pi, 2 * math.pi) - math.pi
        front = np.column_stack(self.surface.develop(away, s))
        flat = np.zeros((len(places), 2))
        step = NEWTON_STEP * np.eye(2)
        for _ in range(MOST_STEPS):
            here = self._at_front(np.concatenate([flat, flat + step[0], flat + step[1]])).reshape(3, -1, 2)
            off = here[0] - front
            if np.abs(off).max(initial=0.0) < NEAR_MM:
                return np.asarray(self.middle + flat @ np.linalg.inv(self.matrix).T)
            slopes = np.stack([here[1] - here[0], here[2] - here[0]], axis=2) / NEWTON_STEP
            if not np.isfinite(here).all() or (np.abs(np.linalg.det(slopes)) < LEAST_SLOPE).any():
                break
            flat = flat - np.linalg.solve(slopes, off[:, :, None])[:, :, 0]
        raise DoesNotFit("That place is too far from the drawing.", hint="Choose one on it, or near it.")
