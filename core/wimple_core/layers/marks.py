"""Registration marks: two crosses above the work, the same on every layer, the right one with a foot, so that a
layer turned round or over is seen at once."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely.geometry.base import BaseGeometry

from ..overlay import union

ARM_SHARE = 0.14
"""Width of a cross's arm, as a share of its height."""


@dataclass(frozen=True)
class Placed:
    """Marks where they stand: their region, the middle between them, and how far they are apart, mm."""

    region: BaseGeometry
    middle: tuple[float, float]
    apart: float


def _cross(x: float, y: float, size: float, footed: bool) -> BaseGeometry:
    half, arm = size / 2, size * ARM_SHARE / 2
    bars = [shapely.box(x - half, y - arm, x + half, y + arm), shapely.box(x - arm, y - half, x + arm, y + half)]
    if footed:
        bars.append(shapely.box(x - arm, y - half, x + half * 0.7, y - half + 2 * arm))
    return union(bars)


def crosses_above(bounds: tuple[float, float, float, float], size: float, away: float) -> Placed:
    """Two crosses `size` mm tall, their feet `away` mm above the work whose left, low, right, high are `bounds`."""
    left, _, right, high = bounds
    if right - left < 3 * size:
        middle = (left + right) / 2
        left, right = middle - 1.5 * size, middle + 1.5 * size
    y = high + away + size / 2
    region = union([_cross(left + size / 2, y, size, False), _cross(right - size / 2, y, size, True)])
    return Placed(region, ((left + right) / 2, y), right - left - size)
