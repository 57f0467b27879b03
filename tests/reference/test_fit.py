"""The four ways of laying artwork on a taper, each against what defines it."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from samples import cup, element, svg
from wimple_core.fit.ways import lay
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.surface.surface import RoundWall

WALLS = [RoundWall(33, 0.0716), RoundWall(45, -0.09), RoundWall(40, 0.0)]


def grid(n: int = 25, size: float = 22.0) -> tuple[np.ndarray, np.ndarray]:
    u, v = np.meshgrid(np.linspace(-size, size, n), np.linspace(-size, size, n))
    return u.ravel(), v.ravel()


@pytest.mark.parametrize("wall", WALLS)
def test_conformal_obeys_cauchy_riemann(wall: RoundWall) -> None:
    """x_u = y_v and x_v = -y_u, by central differences: every angle is kept."""
    u, v = grid()
    h = 1e-4
    (xr, yr), (xl, yl) = lay(u + h, v, "conformal", wall, 0.4, 50), lay(u - h, v, "conformal", wall, 0.4, 50)
    (xu, yu), (xd, yd) = lay(u, v + h, "conformal", wall, 0.4, 50), lay(u, v - h, "conformal", wall, 0.4, 50)
    assert np.abs((xr - xl) - (yu - yd)).max() / (2 * h) < 1e-6
    assert np.abs((xu - xd) + (yr - yl)).max() / (2 * h) < 1e-6


@pytest.mark.parametrize("wall", WALLS)
@pytest.mark.parametrize("way", ["level", "even"])
def test_horizontals_stay_level(wall: RoundWall, way: str) -> None:
    """Level and even: a horizontal line of the drawing lies at one height of the cup, s = s_c + v."""
    u, v = grid()
    _, s = wall.wrap(*lay(u, v, way, wall, -0.3, 45))  # type: ignore[arg-type]
    assert np.abs(s - (45 + v)).max() < 1e-9


@pytest.mark.parametrize("wall", WALLS)
def test_even_keeps_widths_and_level_keeps_verticals(wall: RoundWall) -> None:
    u, v = grid()
    a, s = wall.wrap(*lay(u, v, "even", wall, 0.0, 50))
    assert np.abs(a * (wall.r0 + wall.k * s) - u).max() < 1e-9
    a, _ = wall.wrap(*lay(u, v, "level", wall, 0.0, 50))
    assert np.abs(a - u / wall.scale_at(50)).max() < 1e-12


@pytest.mark.parametrize("wall", WALLS)
def test_flat_is_a_congruence(wall: RoundWall) -> None:
    """All distances kept; and at the middle it agrees with the level way to first order: same turn, not mirrored."""
    u, v = grid(9)
    x, y = lay(u, v, "flat", wall, 0.7, 40)
    d0 = np.hypot(u[:, None] - u, v[:, None] - v)
    assert np.abs(np.hypot(x[:, None] - x, y[:, None] - y) - d0).max() < 1e-9
    e = 1e-5
    for du, dv in ((e, 0.0), (0.0, e)):
        flat = np.concatenate(lay(np.array([du]), np.array([dv]), "flat", wall, 0.7, 40))
        level = np.concatenate(lay(np.array([du]), np.array([dv]), "level", wall, 0.7, 40))
        assert np.abs(flat - level).max() < 1e-9


def test_flat_sags_as_stated() -> None:
    """A flat line of half width w sags by about k w^2 / (2 r): measured on the wall as the drop in s at its ends."""
    wall = RoundWall(40, 0.08)
    w, s_c = 25.0, 30.0
    _, s = wall.wrap(*lay(np.array([w]), np.array([0.0]), "flat", wall, 0.0, s_c))
    assert s[0] - s_c == pytest.approx(0.08 * w * w / (2 * wall.scale_at(s_c)), rel=0.01)


@pytest.mark.parametrize("way", ["level", "even", "conformal", "flat"])
def test_edges_are_split_finely_enough(way: str) -> None:
    """A plain square laid on a cone: points between those that were mapped lie within 0.01 mm of the true curves."""
    d = {
        **cup(290, 180, 90, tape_thickness_mm=0),
        "wrap": {"film_thickness_um": 0},
        "elements": [element("a.svg", {"width_mm": 50, "up_mm": 45, "centre_deg": 20, "way": way})],
    }
    drawings = {"a.svg": svg('<rect x="20" y="20" width="60" height="60"/>')}
    b = build(load_job(d), drawings, "artwork")
    assert b.fit is not None and b.template is not None
    t = np.linspace(-25, 25, 4001)
    edge = np.full_like(t, 25.0)
    for u, v in ((t, edge), (t, -edge), (edge, t), (-edge, t)):
        true = np.column_stack(lay(u, v, way, b.template.surface, math.radians(20), 45))  # type: ignore[arg-type]
        outline = shapely.boundary(b.fit.colours[0].seen)
        assert shapely.distance(shapely.points(true), outline).max() < 0.0105
