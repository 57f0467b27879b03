"""Flat outlines of known form."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..arrays import Array
from .flat_bodies import Panel

CHORD_TOLERANCE_MM = 0.001


def _arc_points(radius: float, turn: float) -> int:
    step = 2 * math.acos(max(0.0, 1 - CHORD_TOLERANCE_MM / max(radius, 2 * CHORD_TOLERANCE_MM)))
    return max(8, math.ceil(turn / step))


def ellipse(half_width: float, half_height: float) -> Array:
    """Corners (n, 2) of an ellipse round the origin, within CHORD_TOLERANCE_MM and of the ellipse's own area.

    A polygon inside a circle is short of area by `sin(t) / t` with the step t; the corners stand out by its root.
    """
    n = _arc_points(max(half_width, half_height), 2 * math.pi)
    t = np.arange(n) * (2 * math.pi / n)
    grow = 1 / math.sqrt(math.sin(2 * math.pi / n) / (2 * math.pi / n))
    return np.column_stack([half_width * np.cos(t), half_height * np.sin(t)]) * grow


def regular_polygon(sides: int, circumradius: float) -> Array:
    """Corners (n, 2) of a regular polygon round the origin, one side level and lowest."""
    t = -math.pi / 2 + math.pi / sides + np.arange(sides) * (2 * math.pi / sides)
    return circumradius * np.column_stack([np.cos(t), np.sin(t)])


def circumradius_from(reads: str, size: float, sides: int) -> float:
    """Radius of the circle through the corners of a regular polygon.

    `across_corners` is that circle's diameter; `across_flats` from one side to the opposite one (with an odd number
    of sides
    to the opposite corner); on a hexagon `across_corners = 2 across_flats / sqrt(3)`.
    """
    if reads == "across_corners":
        return size / 2
    if reads == "side":
        return size / (2 * math.sin(math.pi / sides))
    apothem = math.cos(math.pi / sides)
    return size / (2 * apothem) if sides % 2 == 0 else size / (1 + apothem)


def rounded_rectangle(width: float, height: float, corner: float) -> Array:
    """Corners (n, 2) of a rectangle round the origin whose corners are rounded to a radius."""
    if corner <= 0:
        return np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * (width / 2, height / 2)
    n = _arc_points(corner, math.pi / 2)
    t = np.linspace(0, math.pi / 2, n + 1)
    quarter = corner * np.column_stack([np.cos(t), np.sin(t)])
    out = []
    for i, (cx, cy) in enumerate(((1, 1), (-1, 1), (-1, -1), (1, -1))):
        c, s = ((1, 0), (0, 1), (-1, 0), (0, -1))[i]
        turned = quarter @ np.array([[c, s], [-s, c]])
        out.append(turned + (cx * (width / 2 - corner), cy * (height / 2 - corner)))
    return np.concatenate(out)


def on_lower_edge(points: Array | shapely.Polygon) -> shapely.Polygon:
    """A polygon whose lower edge lies at y = 0 and whose middle lies at x = 0."""
    shape = points if isinstance(points, shapely.Polygon) else shapely.Polygon(points)
    left, low, right, _ = shape.bounds
    moved: shapely.Polygon = shapely.transform(shape, lambda p: p - ((left + right) / 2, low))
    return moved


def panel_of(outline: shapely.Polygon, error_width: float, error_height: float) -> Panel:
    left, low, right, high = outline.bounds
    return Panel(right - left, high - low, error_width, error_height, outline)
