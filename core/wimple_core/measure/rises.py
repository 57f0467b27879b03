"""A panel curved both ways: the tensor spline through rises read on a grid."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache

import numpy as np
from scipy.interpolate import RectBivariateSpline, make_interp_spline

from ..errors import BadReading
from ..figures import carried
from ..job.blanks import RisePanelBlank
from .body import Array, RiseSurface
from .readings import Reading


def grid_of(blank: RisePanelBlank) -> None:
    """Check that the grid is whole and grows. Raises BadReading naming the place that is missing."""
    for name, axis, noun in (("across_mm", blank.across_mm, "columns"), ("up_mm", blank.up_mm, "rows")):
        for i in range(1, len(axis)):
            if axis[i] <= axis[i - 1] + 1e-6:
                raise BadReading(
                    f"The {noun} must grow: {carried(axis[i])} follows {carried(axis[i - 1])}.",
                    field=f"blank.{name}.{i}",
                    hint="Give their places from the left or lower edge, in order.",
                )
    if len(blank.rises) != len(blank.up_mm):
        raise BadReading(
            f"There are {len(blank.rises)} rows of rises for {len(blank.up_mm)} places up.",
            field="blank.rises",
            hint="One row of rises belongs to each place up.",
        )
    for j, row in enumerate(blank.rises):
        if len(row) != len(blank.across_mm):
            raise BadReading(
                f"Row {j + 1} has {len(row)} rises for {len(blank.across_mm)} places across.",
                field=f"blank.rises.{j}",
                hint="One rise belongs to each place across.",
            )
        for i, cell in enumerate(row):
            if not cell:
                raise BadReading(
                    f"The rise at {carried(blank.across_mm[i])} across and {carried(blank.up_mm[j])} up is missing.",
                    field=f"blank.rises.{j}.{i}.0",
                    hint="Read it too, or leave out the whole row or column.",
                )


def surface_from(blank: RisePanelBlank, readings: Mapping[str, Reading]) -> RiseSurface:
    """The grid as read, rises positive toward the eye."""
    grid_of(blank)
    sign = 1.0 if blank.reads == "rise" else -1.0
    shape = (len(blank.up_mm), len(blank.across_mm))
    rises, errors = np.empty(shape), np.empty(shape)
    for j in range(shape[0]):
        for i in range(shape[1]):
            r = readings[f"rises.{j}.{i}"]
            rises[j, i], errors[j, i] = sign * r.mean, r.error
    x, y = np.array(blank.across_mm), np.array(blank.up_mm)
    return RiseSurface(x, y, rises, errors, rises - _fairest(x, y, rises, errors))


def _fairest(x: Array, y: Array, rises: Array, errors: Array) -> Array:
    """What a smoothing spline says at each place: the one of fewest bends whose squared misses sum to what the
    errors foretell
    (Reinsch's condition, as in FITPACK)."""
    degree = (min(3, len(y) - 1), min(3, len(x) - 1))
    spline = RectBivariateSpline(y, x, rises, kx=degree[0], ky=degree[1], s=float((errors**2).sum()))
    return np.asarray(spline(y, x), dtype=np.float64)


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
