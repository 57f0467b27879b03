"""True areas on bodies, and the largest upright rectangles in them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import singledispatch

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from .bodies import Body, RoundBody
from .body import Cap, Frustum, Profile
from .flat_bodies import Panel, RiseSurface
from .free import READABLE_HALF_ANGLE
from .rectangle import Box, largest_rectangle
from .rises import evaluate
from .zones import _STEP_MM


def equal_area(body: RoundBody) -> tuple[Array, Array]:
    """`s` and the integral of r ds up to it: the map that makes areas in (angle, side) true."""
    s = body.fine
    r = body.radii_at(s)
    return s, np.concatenate([[0.0], np.cumsum((r[1:] + r[:-1]) / 2 * np.diff(s))])


@singledispatch
def true_area(body: Body, region: BaseGeometry) -> float:
    """Area in mm2 on a body of a region in its surface coordinates."""
    raise TypeError(type(body).__name__)


@true_area.register
def _(body: Panel, region: BaseGeometry) -> float:
    return float(region.area)


@true_area.register
def _(body: Cap, region: BaseGeometry) -> float:
    def equal(p: Array) -> Array:
        rho = np.hypot(p[:, 0], p[:, 1])
        share = 2 * body.radius * np.sin(rho / (2 * body.radius)) / np.maximum(rho, 1e-12)
        return p * np.where(rho > 1e-9, share, 1.0)[:, None]

    return float(shapely.transform(region, equal).area)


@true_area.register
def _(body: RiseSurface, region: BaseGeometry) -> float:
    if region.is_empty:
        return 0.0
    left, low, right, high = region.bounds
    x = left + (right - left) * (np.arange(64) + 0.5) / 64
    y = low + (high - low) * (np.arange(64) + 0.5) / 64
    gx, gy = np.meshgrid(x, y)
    inside = shapely.contains_xy(region, gx, gy)
    at_x = x + body.x[0] + body.width / 2
    element = np.sqrt(
        1 + evaluate(body, at_x, y + body.y[0], 1, 0) ** 2 + evaluate(body, at_x, y + body.y[0], 0, 1) ** 2
    )
    return float(region.area) * (float(element[inside].mean()) if inside.any() else 1.0)


@true_area.register
def _(body: Frustum, region: BaseGeometry) -> float:
    return _by_heights(region, lambda s: body.radius_lower * s + body.k * s**2 / 2)


@true_area.register
def _(body: Profile, region: BaseGeometry) -> float:
    s, total = equal_area(body)
    return _by_heights(region, lambda at: np.interp(at, s, total))


def _by_heights(region: BaseGeometry, total: Callable[[Array], Array]) -> float:
    """Area of a region of angles and heights, `total` being the integral of the radius up to a height."""
    fine = shapely.segmentize(region, _STEP_MM)
    return float(shapely.transform(fine, lambda p: np.column_stack([p[:, 0], total(p[:, 1])])).area)


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle on a surface: `box` in its coordinates, its size and how much of its width is read, mm."""

    box: Box
    width: float
    height: float
    readable: float


@singledispatch
def rectangle_in(body: Body, region: BaseGeometry) -> Rectangle:
    """The largest upright rectangle in a region of a body's surface."""
    found = largest_rectangle(region) or (0.0, 0.0, 0.0, 0.0)
    wide = found[2] - found[0]
    return Rectangle(found, wide, found[3] - found[1], wide)


@rectangle_in.register(Frustum)
@rectangle_in.register(Profile)
def _(body: RoundBody, region: BaseGeometry) -> Rectangle:
    middle = body.radius_at((region.bounds[1] + region.bounds[3]) / 2)
    found = largest_rectangle(affinity.scale(region, middle, 1, origin=(0, 0))) or (0.0, 0.0, 0.0, 0.0)
    box = (found[0] / middle, found[1], found[2] / middle, found[3])
    narrow = float(body.radii_at(np.linspace(box[1], box[3], 25)).min())
    width = (box[2] - box[0]) * narrow
    seen = 2 * READABLE_HALF_ANGLE * body.radius_at((box[1] + box[3]) / 2)
    return Rectangle(box, width, box[3] - box[1], min(width, seen))
