"""The blade: travel against brute force and a public solver, compensation against the tractrix in closed form."""

from __future__ import annotations

import itertools
import math

import elkai
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from wimple_core.cuts import cuts_round
from wimple_core.cutting.compensation import pivot_path
from wimple_core.cutting.order import Contour, contours_of, order_contours, with_overcut
from wimple_core.cutting.plotter import UNITS_PER_MM
from wimple_core.cutting.trailing import tip_path
from wimple_core.cutting.travel import path_length, shorten


def discs(g: np.random.Generator, n: int, room: float = 300.0) -> list[Contour]:
    """Small round contours of their own."""
    ring = shapely.get_coordinates(shapely.Point(0, 0).buffer(0.5, quad_segs=8).exterior)[:-1]
    return [Contour(ring + at, 0, 0, True, k) for k, at in enumerate(g.uniform(0, room, (n, 2)))]


def travel_of(order: list[Contour]) -> float:
    ends = np.array([[0.0, 0.0], *(c.points[0] for c in order), [0.0, 0.0]])
    return float(np.hypot(*np.diff(ends, axis=0).T).sum())


@pytest.mark.parametrize("seed", range(6))
def test_travel_among_a_hundred_is_within_five_per_cent_of_a_solvers(seed: int) -> None:
    """elkai (Lin-Kernighan-Helsgaun) on the middles; discs of 1 mm give and take half of that at each end."""
    made = discs(np.random.default_rng(seed), 100)
    middles = np.array([[0.0, 0.0], *(c.points.mean(axis=0) for c in made)])
    away = np.hypot(*(middles[:, None] - middles[None]).transpose(2, 0, 1))
    tour = elkai.DistanceMatrix(np.rint(away * 1000).astype(int).tolist()).solve_tsp()
    best = sum(away[a, b] for a, b in itertools.pairwise(tour))
    found = order_contours(made)
    assert len({c.family for c in found}) == 100
    assert travel_of(found) <= 1.05 * best


@pytest.mark.parametrize("seed", range(8))
def test_travel_among_eight_is_the_least_there_is(seed: int) -> None:
    g = np.random.default_rng(100 + seed)
    n = int(g.integers(3, 9))
    points = np.concatenate([g.uniform(0, 100, (n, 2)), [[0.0, 0.0], [0.0, 0.0]]])
    order = np.array([n, *range(n), n + 1])
    least = min(path_length(points, np.array([n, *p, n + 1])) for p in itertools.permutations(range(n)))
    found = shorten(points, order)
    assert sorted(found.tolist()) == sorted(order.tolist()) and found[0] == n and found[-1] == n + 1
    assert path_length(points, found) <= 1.02 * least


def test_many_are_all_cut_once_and_never_for_longer() -> None:
    made = discs(np.random.default_rng(3), 700)
    found = order_contours(made)
    assert sorted(c.family for c in found) == list(range(700))
    # In a large square about 0.7124 sqrt(n A) (Beardwood, Halton and Hammersley, 1959), and more by its edge.
    assert travel_of(found) <= 1.25 * 0.7124 * math.sqrt(700) * 300


def test_what_lies_in_one_contour_is_cut_before_it_and_with_it() -> None:
    """Two rings far apart, a dot in each: each ring's dot and hole before its outside, one ring after the other."""
    rings = [shapely.Point(x, 20).buffer(15).difference(shapely.Point(x, 20).buffer(10)) for x in (20, 300)]
    dots = [shapely.Point(x, 20).buffer(2) for x in (20, 300)]
    order = order_contours(contours_of(cuts_round(shapely.multipolygons([*rings, *dots]))))
    assert [c.depth for c in order] == [2, 1, 0, 2, 1, 0]
    assert [c.points[:, 0].mean() < 150 for c in order] == [True] * 3 + [False] * 3


def test_a_roll_is_not_fed_to_and_fro() -> None:
    """A column of far things beside a column of near ones: in bands of 100 mm each is done before the next."""
    g = np.random.default_rng(9)
    made = discs(g, 120, 1000.0)
    order = order_contours(made, feed_mm=100.0)
    bands = [int(c.points[:, 1].min() // 100) for c in order]
    assert bands == sorted(bands)
    assert sorted(c.family for c in order) == list(range(120))


def test_contours_start_at_a_corner_where_they_have_one() -> None:
    """A drop: round but for its point, where a start shows least."""
    touch = math.acos(10 / 25)
    a = np.linspace(touch, 2 * math.pi - touch, 80)
    drop = np.concatenate([np.column_stack([10 * np.cos(a), 10 * np.sin(a)]), [[25.0, 0.0]]])
    for turn in (0, 20, 55):
        (found,) = order_contours([Contour(np.roll(drop, turn, axis=0) + 40, 0)])
        assert found.points[0] == pytest.approx((65, 40))


def test_a_blade_drawn_sideways_draws_a_tractrix() -> None:
    """Closed form: pivot along the x axis, the tip a blade's length off it: x = t - d tanh(t / d), y = d / cosh(t / d)
    (Lockwood, A Book of Curves, 1961)."""
    d = 0.7
    t = np.linspace(0, 5, 101)
    pivot = np.column_stack([t, np.zeros_like(t)])
    tip, heading = tip_path(pivot, d, heading=-math.pi / 2, step=1.0)
    # A step on each stretch: one tip for each place of the pivot.
    assert len(tip) == len(t)
    wanted = np.column_stack([t - d * np.tanh(t / d), d / np.cosh(t / d)])
    assert tip == pytest.approx(wanted, abs=1e-9)
    assert np.hypot(*(pivot - tip).T) == pytest.approx(np.full(len(t), d), abs=1e-12)
    assert heading == pytest.approx(-2 * math.atan(math.exp(-5 / d)), abs=1e-12)


def off(path: np.ndarray, wanted: np.ndarray) -> float:
    """How far (mm) a path strays from a wanted one."""
    line = shapely.LineString(wanted)
    return float(shapely.distance(shapely.points(path), line).max())


shapes = st.lists(st.tuples(st.floats(6, 40), st.floats(0.35, 1.2)), min_size=4, max_size=12)


@settings(max_examples=60, deadline=None)
@given(shapes, st.floats(0.1, 0.9))
def test_the_tip_of_a_compensated_blade_runs_where_it_should(spokes: list[tuple[float, float]], d: float) -> None:
    """Within 0.05 mm of the drawing all along, corners and all, rounded to the plotter's steps as well."""
    angles = np.cumsum([a for _, a in spokes])
    angles *= 2 * math.pi / (angles[-1] + 0.5)
    star = np.array([[r * math.cos(a), r * math.sin(a)] for (r, _), a in zip(spokes, angles, strict=True)])
    path = with_overcut(star, 0.5)
    pivot = np.rint(pivot_path(path, d) * UNITS_PER_MM) / UNITS_PER_MM
    tip, _ = tip_path(pivot, d)
    assert off(tip, path) < 0.05
    # Every corner is reached.
    assert float(shapely.distance(shapely.points(star), shapely.LineString(tip)).max()) < 0.05


@pytest.mark.parametrize(("turn", "d"), [(90, 0.25), (60, 0.5), (120, 0.9)])
def test_uncompensated_a_corner_is_cut_as_the_closed_form_says(turn: float, d: float) -> None:
    """Past a corner the tip lags by the turn and comes in by tan(theta / 2) = tan(theta_0 / 2) exp(-l / d): it strays
    from the wanted leg by d sin(theta), at the corner itself by d sin of the whole turn, or d past a right angle."""
    a = math.radians(turn)
    legs = np.array([[-20.0, 0.0], [0.0, 0.0], [20 * math.cos(a), 20 * math.sin(a)]])
    tip, _ = tip_path(legs, d, step=0.01)
    second = tip[2001:]
    along = np.array([math.cos(a), math.sin(a)])
    beside = second @ np.array([-along[1], along[0]])
    most = d * math.sin(a) if turn <= 90 else d
    assert np.abs(beside).max() == pytest.approx(most, rel=2e-2)
    far = 3.0
    lag = 2 * math.atan(math.tan(a / 2) * math.exp(-far / d))
    pivot_there = far * along
    wanted = pivot_there - d * np.array([math.cos(a - lag), math.sin(a - lag)])
    assert float(np.hypot(*(tip - wanted).T).min()) < 0.01
