"""The largest upright rectangle inside a region."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..arrays import Array

COARSE, FINE, ROUNDS = 10, 4, 6
Box = tuple[float, float, float, float]


def _lines(values: Array, low: float, high: float) -> Array:
    """Grid lines: through the corners where they are few, and even ones besides."""
    corners = np.unique(np.round(values, 6))
    if len(corners) > COARSE:
        corners = corners[np.linspace(0, len(corners) - 1, COARSE).astype(int)]
    return np.unique(np.concatenate([corners, np.linspace(low, high, COARSE)]))


def _largest_of_grid(inside: np.ndarray, xs: Array, ys: Array) -> Box | None:
    """The largest rectangle of whole cells; `inside` (rows, columns).

    For every lower row at once: how far up each column stays open, and for every pair of columns the least of that
    between
    them; all pairs of columns and all lower rows are whole arrays.
    """
    rows, columns = inside.shape
    open_up = np.zeros((rows + 1, columns), dtype=np.int64)
    for row in range(rows - 1, -1, -1):
        open_up[row] = np.where(inside[row], open_up[row + 1] + 1, 0)
    best, found = 0.0, None
    low = np.arange(rows)[:, None]
    least = open_up[:rows].copy()
    for width in range(1, columns + 1):
        if width > 1:
            least = np.minimum(least[:, :-1], open_up[:rows, width - 1 :])
        tall = ys[np.minimum(low + least, rows)] - ys[low]
        area = tall * (xs[width:] - xs[:-width])[None, :]
        at = int(np.argmax(area))
        j, i = divmod(at, area.shape[1])
        if area[j, i] > best:
            best = float(area[j, i])
            found = (float(xs[i]), float(ys[j]), float(xs[i + width]), float(ys[j + least[j, i]]))
    return found


def largest_rectangle(region: BaseGeometry) -> Box | None:
    """(left, low, right, high) of the largest upright rectangle that lies wholly inside, to about a thousandth of
    its size.

    Found on a coarse grid through the region's corners, then again on finer lines round each of its four sides. None
    where the
    region is empty.
    """
    if region.is_empty or region.area <= 0:
        return None
    left, low, right, high = region.bounds
    if region.area >= (right - left) * (high - low) * (1 - 1e-9):
        return (left, low, right, high)
    size = max(right - left, high - low)
    region = shapely.simplify(region, size * 3e-4)
    coords = shapely.get_coordinates(region)
    slightly = prepared(region.buffer(size * 1e-7))
    region = prepared(region)
    xs, ys = _lines(coords[:, 0], left, right), _lines(coords[:, 1], low, high)
    best: Box | None = None
    reach_x, reach_y = (right - left) / COARSE, (high - low) / COARSE
    for _ in range(ROUNDS):
        gx0, gy0 = np.meshgrid(xs[:-1], ys[:-1])
        gx1, gy1 = np.meshgrid(xs[1:], ys[1:])
        inside = shapely.covers(slightly, shapely.box(gx0, gy0, gx1, gy1))
        found = _largest_of_grid(inside, xs, ys)
        if found is None:
            return best
        if best is None or (found[2] - found[0]) * (found[3] - found[1]) >= (best[2] - best[0]) * (best[3] - best[1]):
            best = found

        def near(at: float, reach: float, least: float, most: float) -> Array:
            return np.clip(at + np.linspace(-reach, reach, 2 * FINE + 1), least, most)

        xs = np.unique(np.concatenate([near(best[0], reach_x, left, right), near(best[2], reach_x, left, right)]))
        ys = np.unique(np.concatenate([near(best[1], reach_y, low, high), near(best[3], reach_y, low, high)]))
        reach_x, reach_y = reach_x / FINE * 1.2, reach_y / FINE * 1.2
    return best
