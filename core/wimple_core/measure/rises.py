"""A panel curved both ways: the tensor spline through rises read on a grid."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from scipy.interpolate import make_interp_spline

from ..arrays import Array
from .flat_bodies import RiseSurface


@lru_cache(maxsize=64)
def _basis(knots: tuple[float, ...], at: tuple[float, ...], derivative: int) -> Array:
    """(len(at), len(knots)): what each reading adds at each place, by the interpolating spline of degree 3 (2 for
    three places)."""
    spline = make_interp_spline(knots, np.eye(len(knots)), k=3 if len(knots) > 3 else 2)
    return np.asarray(spline(at, nu=derivative), dtype=np.float64)


def evaluate(surface: RiseSurface, x: Array, y: Array, dx: int = 0, dy: int = 0) -> Array:
    """Rise, or its derivative, on the grid of places `x` (m,) and `y` (n,): (n, m) mm (per mm for each derivative)."""
    across = _basis(tuple(surface.x), tuple(x), dx)
    up = _basis(tuple(surface.y), tuple(y), dy)
    return np.asarray(up @ surface.rises @ across.T)


def area_of(surface: RiseSurface, places: int = 48) -> float:
    """True area of the whole surface, mm2: the integral of `sqrt(1 + f_x^2 + f_y^2)` by Gauss-Legendre."""
    return area_rule(surface, places)(surface.rises)


def area_rule(surface: RiseSurface, places: int = 48) -> Callable[[Array], float]:
    """The same as a function of the rises (ny, nx) alone, its matrices made once."""
    nodes, weights = np.polynomial.legendre.leggauss(places)
    x = tuple(surface.x[0] + surface.width * (nodes + 1) / 2)
    y = tuple(surface.y[0] + surface.height * (nodes + 1) / 2)
    bx, bx1 = _basis(tuple(surface.x), x, 0), _basis(tuple(surface.x), x, 1)
    by, by1 = _basis(tuple(surface.y), y, 0), _basis(tuple(surface.y), y, 1)
    scale = surface.width * surface.height / 4

    def area(rises: Array) -> float:
        element = np.sqrt(1 + (by @ rises @ bx1.T) ** 2 + (by1 @ rises @ bx.T) ** 2)
        return float(weights @ element @ weights) * scale

    return area


def bends_rule(surface: RiseSurface) -> Callable[[Array], tuple[float, float]]:
    """A function from the rises (ny, nx) to the curvature across and up in the middle, 1 / mm, positive where it
    bulges toward the
    eye: `-f'' / (1 + f'^2)^(3/2)`."""
    x, y = (surface.x[0] + surface.width / 2,), (surface.y[0] + surface.height / 2,)
    bx = [_basis(tuple(surface.x), x, n)[0] for n in range(3)]
    by = [_basis(tuple(surface.y), y, n)[0] for n in range(3)]

    def bends(rises: Array) -> tuple[float, float]:
        fx, fy = float(by[0] @ rises @ bx[1]), float(by[1] @ rises @ bx[0])
        fxx, fyy = float(by[0] @ rises @ bx[2]), float(by[2] @ rises @ bx[0])
        return -fxx / (1 + fx * fx) ** 1.5, -fyy / (1 + fy * fy) ** 1.5

    return bends


def bends_in_middle(surface: RiseSurface) -> tuple[float, float]:
    """Curvature across and up in the middle of a surface, 1 / mm."""
    return bends_rule(surface)(surface.rises)
