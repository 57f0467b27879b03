"""Cubics fitted to contours: close, few, closed, corners kept."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from wimple_core.export.curves import fit_ring


def drawn(segments: list[np.ndarray], steps: int = 60) -> np.ndarray:
    t = np.linspace(0, 1, steps)[:, None]
    out = []
    for s in segments:
        if len(s) == 4:
            out.append((1 - t) ** 3 * s[0] + 3 * (1 - t) ** 2 * t * s[1] + 3 * (1 - t) * t**2 * s[2] + t**3 * s[3])
        else:
            out.append(s)
    return np.concatenate(out)


def check(ring: np.ndarray, tolerance: float = 0.02) -> list[np.ndarray]:
    segments = fit_ring(ring, tolerance)
    for a, b in zip(segments, [*segments[1:], segments[0]], strict=True):
        assert np.array_equal(a[-1], b[0])
    line, fitted = shapely.LinearRing(ring), shapely.LinearRing(drawn(segments))
    assert shapely.distance(shapely.points(ring), fitted).max() <= tolerance * 1.15
    assert shapely.distance(shapely.points(drawn(segments)), line).max() <= tolerance * 1.6
    return segments


def circle(r: float, n: int) -> np.ndarray:
    a = 2 * math.pi * np.arange(n) / n
    return np.column_stack([r * np.cos(a), r * np.sin(a)])


@pytest.mark.parametrize(("r", "n", "most"), [(0.5, 36, 4), (5, 60, 6), (40, 200, 12), (200, 700, 16)])
def test_circles_take_few_cubics(r: float, n: int, most: int) -> None:
    assert len(check(circle(r, n))) <= most


def test_polygons_stay_as_they_are() -> None:
    star = np.array([[math.sin(i * math.pi / 5) * r, math.cos(i * math.pi / 5) * r] for i, r in enumerate([10, 4] * 5)])
    segments = check(star)
    assert len(segments) == 10 and all(len(s) == 2 for s in segments)
    assert {tuple(s[0]) for s in segments} == {tuple(p) for p in star}


def test_rounded_rectangle_has_four_lines_and_four_corners() -> None:
    ring = shapely.get_coordinates(shapely.box(0, 0, 60, 30).buffer(8, quad_segs=16).exterior)[:-1]
    segments = check(ring)
    assert sum(len(s) == 2 for s in segments) == 4 and len(segments) <= 12


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(-0.25, 0.25), min_size=6, max_size=12), st.floats(0.5, 80))
def test_wavy_rings(waves: list[float], size: float) -> None:
    a = np.linspace(0, 2 * math.pi, 720, endpoint=False)
    r = 1 + sum(w / (k + 1) * np.sin((k + 1) * a + k) for k, w in enumerate(waves))
    check(size * np.column_stack([r * np.cos(a), r * np.sin(a)]))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(0, 50), st.floats(0, 50)), min_size=3, max_size=12), st.floats(0.3, 6))
def test_unions_with_corners_and_curves(points: list[tuple[float, float]], r: float) -> None:
    region = shapely.union_all(
        [shapely.Point(p).buffer(r, quad_segs=16) for p in points] + [shapely.box(10, 10, 30, 14)]
    )
    for part in shapely.get_parts(region):
        for ring in (part.exterior, *part.interiors):
            coords = shapely.get_coordinates(ring)[:-1]
            if len(coords) > 2 and shapely.Polygon(coords).area > 0.01:
                check(coords)


@pytest.mark.parametrize("gap", [0.0, 1e-14, 1e-9])
def test_corners_on_one_place_are_one(gap: float) -> None:
    """What set operations leave behind: corners on top of each other, which have no direction; no number is lost
    over them."""
    square = np.array([[0, 0], [10, 0], [10, gap], [10, 10], [0, 10], [0, 10 - gap]], float)
    segments = fit_ring(square, 0.02)
    assert all(np.isfinite(s).all() for s in segments) and len(segments) == 4
    assert fit_ring(np.zeros((5, 2)), 0.02) == []
