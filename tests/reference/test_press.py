"""Pieces pressed together on a strip, against known optima and exact gaps; polygons as convex parts."""

from __future__ import annotations

import math
import time
from collections.abc import Sequence

import numpy as np
import pytest
import shapely
from test_nesting import blob, jigsaw, lying
from wimple_core.job.stock import Turns
from wimple_core.sheets.convex import convex_parts
from wimple_core.sheets.nest import gaps_hold, nest
from wimple_core.sheets.press import Press
from wimple_core.sheets.shape import Place, Shape


def pressed(shapes: list[Shape], places: Sequence[Place], width: float, gap: float = 0.0) -> tuple[Place, ...]:
    *_, last = Press(shapes, places, width, gap).steps(time.monotonic() + 60)
    assert last is not None
    return last


def long(shapes: list[Shape], places: Sequence[Place]) -> float:
    there = lying(shapes, places)
    return float(np.ptp(shapely.total_bounds(there)[1::2]))


def strewn(g: np.random.Generator, pieces: list[shapely.Polygon], turns: Turns, width: float, apart: float):
    """Pieces in rows that do not touch: the shapes, and where each lies."""
    shapes = [Shape(shapely.get_coordinates(p.exterior)[:-1], 1, turns) for p in pieces]
    cell = apart + 2 * max(math.hypot(*s.outline.T.max(1)) for s in (Shape(abs(s.outline), 1) for s in shapes))
    per = int(width // cell)
    turned = {"never": np.zeros(len(pieces)), "half": 180.0 * g.integers(0, 2, len(pieces))}.get(
        turns, g.uniform(0, 360, len(pieces))
    )
    at = [(cell * (n % per + 0.5), cell * (n // per + 0.5)) for n in range(len(pieces))]
    return shapes, [Place(n, float(t), p) for n, (t, p) in enumerate(zip(turned, at, strict=True))]


@pytest.mark.parametrize("gap", [0.0, 2.0])
def test_a_rectangle_pulled_apart_closes_again(gap: float) -> None:
    """Known optimum: twelve pieces of 100 by 200 mm, 4 % farther from each other than they were and each a little
    turned, lie as they did."""
    g = np.random.default_rng(2)
    whole = np.array(jigsaw(g, 100, 200, 3, 4), dtype=object)
    cut = shapely.buffer(whole, -gap / 2, join_style="mitre")
    middles = shapely.get_coordinates(shapely.centroid(cut))
    shapes = [Shape(shapely.get_coordinates(p)[:-1] - m, 1, "any") for p, m in zip(cut, middles, strict=True)]
    loose = [Place(n, float(g.uniform(-0.6, 0.6)), (1.04 * x, 1.04 * y)) for n, (x, y) in enumerate(middles)]
    assert gaps_hold(lying(shapes, loose), gap)
    left = float(shapely.total_bounds(lying(shapes, loose))[0])
    loose = [Place(p.shape, p.turn, (p.at[0] - left, p.at[1])) for p in loose]
    lie = pressed(shapes, loose, 100.0 - gap + 4, gap)
    # Four millimetres of width are over: a little less than the rectangle is long.
    assert 200 * 100 / 104 - gap < long(shapes, lie) < 200 - gap + 0.5
    assert gaps_hold(lying(shapes, lie), gap)


def test_discs_on_a_strip_one_and_a_half_times_as_wide_lie_in_a_zigzag() -> None:
    """Discs of radius r on a strip 3 r wide: each rises by sqrt(3) r over the one before (their middles are 2 r apart,
    r of it across)."""
    r, n = 10.0, 7
    disc = shapely.get_coordinates(shapely.Point(0, 0).buffer(r, quad_segs=32).exterior)[:-1]
    shapes = [Shape(disc, n, "never")]
    loose = [Place(0, 0.0, (10.0 + 8 * (k % 2), 10 + 23.0 * k)) for k in range(n)]
    lie = pressed(shapes, loose, 3 * r)
    assert long(shapes, lie) == pytest.approx(2 * r + (n - 1) * math.sqrt(3) * r, rel=2e-3)


@pytest.mark.parametrize("seed", range(12))
def test_what_is_pressed_keeps_its_gap_its_direction_and_its_strip(seed: int) -> None:
    g = np.random.default_rng(seed)
    turns: Turns = ("never", "half", "any")[seed % 3]
    gap, width = (0.0, 2.5)[seed % 2], float(g.uniform(130, 200))
    shapes, loose = strewn(g, [blob(g) for _ in range(24)], turns, width, gap + 1)
    assert gaps_hold(lying(shapes, loose), gap)
    lie = pressed(shapes, loose, width, gap)
    there = lying(shapes, lie)
    assert sorted(p.shape for p in lie) == list(range(24)) and gaps_hold(there, gap)
    one, other = np.triu_indices(24, 1)
    assert gap == 0 or shapely.distance(there[one], there[other]).min() >= gap
    left, low, right, _ = shapely.total_bounds(there)
    assert left > -1e-5 and low > -1e-5 and right < width + 1e-5
    # Rows of cells that hold a piece however it is turned: pressed, no piece could be a third as far from the next.
    assert long(shapes, lie) < 0.75 * long(shapes, loose)
    if turns != "any":
        assert [p.turn for p in lie] == [p.turn for p in loose]
    else:
        assert any(abs(a.turn - b.turn) > 1 for a, b in zip(lie, loose, strict=True))


def test_turning_lays_flat_what_stands_askew() -> None:
    """A bar that leans: in the end it lies, or stands, along an edge of the strip."""
    bar = Shape(np.array([[0, 0], [60, 0], [60, 10], [0, 10]], float), 1, "any")
    lie = pressed([bar], [Place(0, 20.0, (20.0, 5.0))], 90.0)
    assert long([bar], lie) == pytest.approx(10, abs=1e-3)


def test_time_that_is_over_leaves_what_holds() -> None:
    g = np.random.default_rng(1)
    shapes, loose = strewn(g, [blob(g) for _ in range(30)], "any", 200.0, 2.0)
    press = Press(shapes, loose, 200.0, 1.0)
    began = time.monotonic()
    *steps, lie = press.steps(began)
    assert time.monotonic() - began < 5 and lie is not None and len(steps) <= 4
    assert gaps_hold(lying(shapes, lie), 1.0) and long(shapes, lie) <= long(shapes, loose)


def test_turning_that_cannot_be_undone_costs_a_step_and_not_all(monkeypatch: pytest.MonkeyPatch) -> None:
    """The last moves, without turning, fail once: what lay a step before is freed instead, and is shorter too."""
    g = np.random.default_rng(1)
    shapes, loose = strewn(g, [blob(g) for _ in range(30)], "any", 200.0, 2.0)
    step, turned, failed = Press._step, [0.0], []

    def failing(self: Press, size: float, turning: bool, left: float, until: float) -> float | None:
        if not turning and not failed:
            failed.append(self.length)
            return None
        short = step(self, size, turning, left, until)
        turned.extend([self.length] * turning)
        return short

    monkeypatch.setattr(Press, "_step", failing)
    lie = pressed(shapes, loose, 200.0, 1.0)
    assert failed == turned[-1:]
    assert gaps_hold(lying(shapes, lie), 1.0) and long(shapes, lie) < 0.75 * long(shapes, loose)


def test_what_was_found_a_moment_before_the_end_is_not_lost(monkeypatch: pytest.MonkeyPatch) -> None:
    """However seldom it is looked whether what is found holds, the last of it counts."""
    monkeypatch.setattr("wimple_core.sheets.nest.PRESSING", 0.0)
    monkeypatch.setattr("wimple_core.sheets.nest.CHECKING", 1e-9)
    g = np.random.default_rng(4)
    shapes = [Shape(shapely.get_coordinates(blob(g).exterior)[:-1], 1, "any") for _ in range(40)]
    told: list[float] = []
    found = nest(shapes, 120.0, 1.0, 4, lambda best, share: told.append(best.length) if best else None)
    assert found is not None and found.length < 0.98 * min(told[: len(told) // 2])


def test_what_is_nested_is_pressed(monkeypatch: pytest.MonkeyPatch) -> None:
    """Pressed again it is next to no shorter; what the search alone finds is, by one to three in a hundred."""
    # A busy machine has time for it as well.
    monkeypatch.setattr("wimple_core.sheets.nest.PRESSING", 0.8)
    monkeypatch.setattr("wimple_core.sheets.nest.PIECE_S", 1.0)
    g = np.random.default_rng(4)
    shapes = [Shape(shapely.get_coordinates(blob(g).exterior)[:-1], 1, "any") for _ in range(40)]
    found = nest(shapes, 120.0, 1.0, 10)
    assert found is not None
    assert long(shapes, pressed(shapes, found.places, 120.0, 1.0)) > 0.996 * found.length


def test_pieces_that_lie_over_each_other_are_parted() -> None:
    square = Shape(np.array([[0, 0], [10, 0], [10, 10], [0, 10]], float), 2, "never")
    lie = pressed([square], [Place(0, 0.0, (0.0, 0.0)), Place(0, 0.0, (0.3, 9.8))], 10.5)
    assert gaps_hold(lying([square], lie), 0.0) and long([square], lie) == pytest.approx(20, abs=1e-3)


def star(points: int) -> np.ndarray:
    a = np.pi * np.arange(2 * points) / points
    r = np.where(np.arange(2 * points) % 2, 8.0, 20.0)
    return np.column_stack([r * np.sin(a), r * np.cos(a)])


@pytest.mark.parametrize("most", [4, 12, 99])
def test_convex_parts_are_the_whole(most: int) -> None:
    g = np.random.default_rng(most)
    disc = shapely.get_coordinates(shapely.Point(3, 4).buffer(30, quad_segs=20).exterior)[:-1]
    some = [star(5), star(9), disc, *(shapely.get_coordinates(blob(g).exterior)[:-1] for _ in range(40))]
    for outline in some:
        parts = np.array([shapely.Polygon(p) for p in convex_parts(outline, most)], dtype=object)
        whole = shapely.Polygon(outline)
        assert shapely.area(parts).sum() == pytest.approx(whole.area)
        assert shapely.union_all(parts).symmetric_difference(whole).area < 1e-9 * whole.area
        assert shapely.area(shapely.convex_hull(parts)) == pytest.approx(shapely.area(parts))
        assert max(len(p.exterior.coords) - 1 for p in parts) <= most


def test_convex_parts_are_few() -> None:
    """A star of five points has five corners that turn the wrong way: no fewer than three parts (one for two of them,
    and one), and by Hertel and Mehlhorn's theorem no more than eleven. What is convex is one."""
    assert 3 < len(convex_parts(star(5), 99)) <= 11
    assert len(convex_parts(np.array([[0, 0], [9, 0], [9, 4], [4, 8], [0, 4]], float), 99)) == 1
