"""Shapes drawn by their measures, mm, their middle at 0, 0, y up."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..errors import BadDrawing
from ..job.shapes import ArcBand, Arrow, Banner, Disc, Polygon, Rectangle, Ring, Shape, Slot, Star, Tab
from .artwork import Artwork, Paint
from .edits.around import offset, segments_for

BANNER_STEPS = 200


def arc(radius: float, start: float, end: float, tolerance: float) -> Array:
    """Points (n, 2) of an arc about 0, 0 from one angle to another, in turns of the clock's opposite; no chord leaves
    it by more than the tolerance."""
    n = max(math.ceil(segments_for(radius, tolerance) * abs(end - start) / (math.pi / 2)), 1)
    a = np.linspace(start, end, n + 1)
    return radius * np.column_stack([np.cos(a), np.sin(a)])


def disc(radius: float, tolerance: float) -> shapely.Polygon:
    """A full circle."""
    return shapely.Polygon(arc(radius, 0.0, 2 * math.pi, tolerance)[:-1])


def rounded(region: BaseGeometry, radius: float, tolerance: float) -> BaseGeometry:
    """A region with its corners rounded, outer and inner: shrunk, grown twice as far, shrunk again. Raises BadDrawing
    where nothing is left."""
    if radius <= 0:
        return region
    inner = offset(region, -radius, tolerance, "mitred")
    if inner.is_empty:
        raise BadDrawing(
            "The corners are rounder than the shape is large.",
            field="form.corner_mm",
            hint="Make their radius smaller.",
        )
    return offset(offset(inner, 2 * radius, tolerance), -radius, tolerance)


def _regular(n: int, radius: float) -> Array:
    """Corners of a regular polygon, one of them at the top."""
    a = math.pi / 2 + 2 * math.pi * np.arange(n) / n
    return radius * np.column_stack([np.cos(a), np.sin(a)])


def _polygon(f: Polygon, t: float) -> BaseGeometry:
    return rounded(shapely.Polygon(_regular(f.corners, f.across_mm / 2)), f.corner_mm, t)


def _rectangle(f: Rectangle, t: float) -> BaseGeometry:
    if 2 * f.corner_mm > min(f.across_mm, f.tall_mm) * (1 + 1e-9):
        raise BadDrawing(
            "The corners are rounder than the shape is large.",
            field="form.corner_mm",
            hint="Make their radius smaller.",
        )
    r = f.corner_mm
    x, y = f.across_mm / 2 - r, f.tall_mm / 2 - r
    quarter = math.pi / 2
    corners = [(x, y), (-x, y), (-x, -y), (x, -y)]
    if not r:
        return shapely.Polygon(corners)
    return shapely.Polygon(
        np.concatenate([arc(r, n * quarter, (n + 1) * quarter, t) + c for n, c in enumerate(corners)])
    )


def _star(f: Star, t: float) -> BaseGeometry:
    points = np.empty((2 * f.points, 2))
    points[::2] = _regular(f.points, f.outside_mm / 2)
    a = math.pi / 2 + 2 * math.pi * (np.arange(f.points) + 0.5) / f.points
    points[1::2] = f.inside_mm / 2 * np.column_stack([np.cos(a), np.sin(a)])
    return rounded(shapely.Polygon(points), f.corner_mm, t)


def _banner(f: Banner, t: float) -> BaseGeometry:
    if 2 * f.notch_mm >= f.across_mm:
        raise BadDrawing("The notches meet.", field="form.notch_mm", hint="Make them less deep.")
    x, y = f.across_mm / 2, f.tall_mm / 2
    u = np.linspace(-1, 1, BANNER_STEPS + 1)
    edge = f.sag_mm * u**2
    upper, lower = np.column_stack([u * x, y + edge]), np.column_stack([u * x, -y + edge])
    end = f.sag_mm * ((x - f.notch_mm) / x) ** 2
    return shapely.Polygon(np.concatenate([lower, [(x - f.notch_mm, end)], upper[::-1], [(f.notch_mm - x, end)]]))


def _arrow(f: Arrow, t: float) -> BaseGeometry:
    if f.head_long_mm >= f.long_mm:
        raise BadDrawing("The head is as long as the arrow.", field="form.head_long_mm", hint="Make it shorter.")
    x, neck = f.long_mm / 2, f.long_mm / 2 - f.head_long_mm
    s, h = f.shaft_mm / 2, f.head_mm / 2
    return shapely.Polygon([(-x, -s), (neck, -s), (neck, -h), (x, 0), (neck, h), (neck, s), (-x, s)])


def _arc_band(f: ArcBand, t: float) -> BaseGeometry:
    inner, outer = f.radius_mm - f.wide_mm / 2, f.radius_mm + f.wide_mm / 2
    if inner <= 0:
        raise BadDrawing("The band is wider than its circle.", field="form.wide_mm", hint="Make it narrower.")
    half = math.radians(f.span_deg) / 2
    start, end = math.pi / 2 - half, math.pi / 2 + half
    band: BaseGeometry = shapely.Polygon(np.concatenate([arc(outer, start, end, t), arc(inner, end, start, t)]))
    if f.round_ends:
        ends = [disc(f.wide_mm / 2, t)] * 2
        places = f.radius_mm * np.array([[math.cos(a), math.sin(a)] for a in (start, end)])
        moved = [shapely.transform(d, lambda p, m=m: p + m) for d, m in zip(ends, places, strict=True)]  # type: ignore[misc]
        band = shapely.union_all([band, *moved])
    # Its own middle, and not its circle's, is where it lies.
    return shapely.transform(band, lambda p: p - (0, f.radius_mm))


def slot(long: float, wide: float, tolerance: float) -> BaseGeometry:
    """A rectangle with half-round ends; as wide as long, a disc."""
    long, wide = max(long, wide), min(long, wide)
    x, r = (long - wide) / 2, wide / 2
    right = arc(r, -math.pi / 2, math.pi / 2, tolerance) + (x, 0)
    return shapely.Polygon(np.concatenate([right, -right]))


def tab(wide: float, long: float, tolerance: float) -> BaseGeometry:
    """A strip upward from 0, 0 with a half-round end, `long` in all."""
    r = wide / 2
    top = max(long - r, 0.0)
    return shapely.Polygon(np.concatenate([[(-r, 0.0), (r, 0.0)], arc(r, 0.0, math.pi, tolerance) + (0.0, top)]))


MAKE: Mapping[type, Callable[[Any, float], BaseGeometry]] = {
    Disc: lambda f, t: disc(f.across_mm / 2, t),
    Ring: lambda f, t: shapely.Polygon(
        arc(f.outside_mm / 2, 0, 2 * math.pi, t)[:-1], [arc(f.inside_mm / 2, 0, 2 * math.pi, t)[:-1]]
    ),
    Rectangle: _rectangle,
    Polygon: _polygon,
    Star: _star,
    Banner: _banner,
    Arrow: _arrow,
    ArcBand: _arc_band,
    Slot: lambda f, t: slot(f.long_mm, f.wide_mm, t),
    Tab: lambda f, t: tab(f.wide_mm, f.long_mm, t),
}


def region_of(form: Any, tolerance: float = 0.01) -> BaseGeometry:
    """The region of a form. Raises BadDrawing for measures that make none."""
    return MAKE[type(form)](form, tolerance)


def draw_shape(shape: Shape, tolerance: float = 0.01) -> Artwork:
    """A shape as artwork, one piece. Raises BadDrawing for measures that make none."""
    tolerance = max(tolerance, max(shape.sizes.values()) / 50_000)
    region = region_of(shape.form, tolerance)
    return painted([Paint(region, shape.colour, shape.form.form)], tolerance)


def painted(paints: list[Paint], tolerance: float) -> Artwork:
    """Paints as a whole drawing that says its size."""
    left, low, right, high = shapely.total_bounds(np.array([p.region for p in paints], dtype=object)).tolist()
    return Artwork(tuple(paints), right - left, high - low, True, (), tolerance)
