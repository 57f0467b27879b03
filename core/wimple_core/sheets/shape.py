"""What is nested: shapes, and where one of a shape lies."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..job.stock import Turns


@dataclass(frozen=True)
class Shape:
    """An outline (n, 2) mm, how many of it are wanted, and how it may be turned."""

    outline: Array
    count: int
    turns: Turns = "any"


@dataclass(frozen=True)
class Place:
    """Where one of a shape lies: turned by degrees about its own origin, then moved (mm)."""

    shape: int
    turn: float
    at: tuple[float, float]

    def of(self, points: Array) -> Array:
        """Places (n, 2) of the shape where it lies."""
        a = np.radians(self.turn)
        c, s = np.cos(a), np.sin(a)
        there: Array = points @ np.array([[c, s], [-s, c]]) + self.at
        return there

    def carried(self, by: Place) -> Place:
        """The same place where it is counted from something that lies there itself."""
        x, y = by.of(np.array([self.at]))[0]
        return Place(self.shape, (by.turn + self.turn) % 360, (float(x), float(y)))


def stacked(rings: Sequence[Array]) -> Array:
    """Rings (k, 2) of different lengths as one array (n, most, 2): the last corner is said again."""
    most = max(map(len, rings))
    return np.stack([np.concatenate([r, np.repeat(r[-1:], most - len(r), axis=0)]) for r in rings])
