"""Registration marks: two crosses above the work, the same on every layer, the right one with a foot, so that a
layer turned round or over is seen at once."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import shapely
from shapely.geometry.base import BaseGeometry

from ..overlay import together, union

ARM_SHARE = 0.14
"""Width of a cross's arm, as a share of its height."""


@dataclass(frozen=True)
class Placed:
    """Marks where they stand: their region, the middle between them, and how far they are apart, mm."""

    region: BaseGeometry
    middle: tuple[float, float]
    apart: float


@lru_cache(maxsize=32)
def _cross(size: float, footed: bool) -> BaseGeometry:
    """A cross about 0, 0."""
    half, arm = size / 2, size * ARM_SHARE / 2
    bars = [shapely.box(-half, -arm, half, arm), shapely.box(-arm, -half, arm, half)]
    if footed:
        bars.append(shapely.box(-arm, -half, half * 0.7, -half + 2 * arm))
    return union(bars)


def crosses_above(bounds: tuple[float, float, float, float], size: float, away: float) -> Placed:
    """Two crosses `size` mm tall, their feet `away` mm above the work whose left, low, right, high are `bounds`."""
    left, _, right, high = bounds
    middle = (left + right) / 2
    half = max(right - left, 3 * size) / 2 - size / 2
    y = high + away + size / 2
    crosses = [
        shapely.transform(_cross(size, footed), lambda c, x=x: c + (x, y))  # type: ignore[misc]
        for x, footed in ((middle - half, False), (middle + half, True))
    ]
    return Placed(together(crosses), (middle, y), 2 * half)
