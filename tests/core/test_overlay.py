"""Set operations that no drawing makes fail, and moved regions mended by what they wind round."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import svg
from wimple_core.arrangement import arrange, mended
from wimple_core.artwork import read_svg, separate
from wimple_core.artwork.artwork import Paint, lay_over
from wimple_core.overlay import commons, difference, grown, intersection, union

HALVES = (
    '<circle cx="44" cy="50" r="38" fill="#c22a2a"/>'
    '<path d="M6 50a38 38 0 0 0 76 0q-38 -3 -76 0z" fill="#2f8a4a"/>'
    '<ellipse cx="44" cy="40" rx="6" ry="9" fill="#2a5bb8"/>'
)


def test_a_valid_region_is_left_as_it_is() -> None:
    square = shapely.box(0, 0, 4, 4)
    assert mended(square) == (square, 0.0)


def test_a_bow_tie_keeps_the_lobe_it_winds_round_and_tells_the_other() -> None:
    """Two triangles that meet in a point, of 12 and 3 mm2, wound opposite ways: the larger is inside, the other is the
    region laid over backwards."""
    region, over = mended(shapely.Polygon([(0, 0), (4, 0), (2, 6), (1, 9), (3, 9)]))
    assert region.is_valid and region.area == pytest.approx(12) and over == pytest.approx(3)


def test_what_lies_over_itself_is_measured() -> None:
    """A strip wound one turn and a quarter round a ring covers a quarter of it twice."""
    t = np.linspace(0, 2.5 * math.pi, 400)
    points = np.concatenate(
        [10 * np.column_stack([np.cos(t), np.sin(t)]), 8 * np.column_stack([np.cos(t), np.sin(t)])[::-1]]
    )
    region, over = mended(shapely.Polygon(points))
    assert region.is_valid and region.area == pytest.approx(math.pi * 36, rel=1e-3)
    assert over == pytest.approx(math.pi * 36 / 4, rel=1e-3)


def test_a_hole_that_crosses_the_edge_stays_a_hole() -> None:
    """Filled and empty are never turned over: 100 less the 8 of the hole that lie inside."""
    broken = shapely.Polygon([(0, 0), (10, 0), (10, 10), (0, 10)], [[(8, 4), (12, 4), (12, 8), (8, 8)]])
    region, over = mended(broken)
    assert not broken.is_valid and region.is_valid and region.area == pytest.approx(92)
    assert over == pytest.approx(8)


corners = st.lists(st.tuples(st.integers(0, 12), st.integers(0, 12)), min_size=3, max_size=9)


@settings(max_examples=150, deadline=None)
@given(st.lists(corners, min_size=2, max_size=4))
def test_areas_of_any_scribbles_add_up(scribbles: list[list[tuple[int, int]]]) -> None:
    """|A or B| = |A| + |B| - |A and B|, |A - B| = |A| - |A and B|, and all of it valid, for any rings whatever."""
    a, b = (mended(shapely.Polygon(s))[0] for s in scribbles[:2])
    both, either, less = intersection(a, b), union([a, b]), difference(a, b)
    assert all(g.is_valid for g in (a, b, both, either, less))
    assert either.area == pytest.approx(a.area + b.area - both.area, abs=1e-3)
    assert less.area == pytest.approx(a.area - both.area, abs=1e-3)
    faces = arrange([a, b])
    assert faces.area.sum() >= either.area - 1e-3


def test_an_overlay_the_library_gives_up_on(monkeypatch: pytest.MonkeyPatch) -> None:
    """Where GEOS raises, the faces of the arrangement answer the same."""
    a, b = shapely.Point(0, 0).buffer(5), shapely.box(1, -9, 9, 9)
    wanted = [union([a, b]).area, intersection(a, b).area, difference(a, b).area]

    def fails(*_: object, **__: object) -> None:
        raise shapely.errors.GEOSException("TopologyException: side location conflict")

    monkeypatch.setattr(shapely, "intersection", fails)
    monkeypatch.setattr(shapely, "difference", fails)
    plain = shapely.union_all
    monkeypatch.setattr(
        shapely, "union_all", lambda g, **k: fails() if len(g) and g[0].geom_type == "Polygon" else plain(g, **k)
    )
    assert [union([a, b]).area, intersection(a, b).area, difference(a, b).area] == pytest.approx(wanted, abs=1e-3)


def test_growing_keeps_one_place_for_each_of_a_curve() -> None:
    disc = shapely.Polygon(5 * np.column_stack([np.cos(t := np.linspace(0, 2 * math.pi, 73)[:-1]), np.sin(t)]))
    wider = grown(disc, 2.0)
    assert len(shapely.get_coordinates(wider)) == len(shapely.get_coordinates(disc))
    assert np.hypot(*shapely.get_coordinates(wider).T) == pytest.approx(7.0, abs=0.01)


@pytest.mark.parametrize("scale", [0.37, 0.61, 0.9, 1.0])
@pytest.mark.parametrize("turn", [0, 13, 90])
def test_shapes_that_share_an_arc_leave_no_slivers(scale: float, turn: float) -> None:
    """A disc and the half disc on its lower arc, drawn each in its own way: one piece a colour, edges shared."""
    found = separate(read_svg(svg(f'<g transform="rotate({turn} 50 50) scale({scale})">{HALVES}</g>'), 0.01).paints)
    assert [len(shapely.get_parts(c.seen)) for c in found] == [1, 1, 1]
    assert all(c.seen.is_valid and c.painted.is_valid for c in found)
    whole = union([c.seen for c in found])
    assert sum(c.seen.area for c in found) == pytest.approx(whole.area, abs=1e-3)


def test_small_things_that_somebody_drew_stay() -> None:
    """A dot of 0.06 mm and a hair of 0.015 mm are what was drawn; a crack of 0.01 mm between two shapes is not."""
    body = (
        '<rect width="50" height="50" fill="#1c3d7a"/><rect x="50.01" width="40" height="50" fill="#b98a2f"/>'
        '<rect width="90.01" height="3"/><rect y="47" width="90.01" height="3"/>'
        '<circle cx="25" cy="25" r="0.03" fill="#fff"/><rect x="5" y="40" width="30" height="0.015" fill="#0a0"/>'
    )
    found = {c.colour: c for c in separate(read_svg(svg(body), 0.01).paints)}
    assert found["#ffffff"].seen.area == pytest.approx(math.pi * 0.0009, rel=0.05)
    assert found["#00aa00"].seen.area == pytest.approx(0.45, rel=0.01)
    total = union([c.seen for c in found.values()])
    assert len(shapely.get_parts(total)) == 1 and total.area == pytest.approx(90.01 * 50, abs=0.01)


def test_drawings_laid_over_one_another_keep_what_was_painted_beneath() -> None:
    """The film beneath goes on under what the same drawing and the next one lay on it."""
    lower = separate((Paint(shapely.box(0, 0, 40, 20), "#1c3d7a"), Paint(shapely.box(10, 5, 20, 15), "#b98a2f")))
    upper = separate((Paint(shapely.box(25, 0, 60, 20), "#c22a2a"),))
    blue, gold, red = sorted(lay_over([lower, upper]), key=lambda c: ["#1c3d7a", "#b98a2f", "#c22a2a"].index(c.colour))
    assert blue.painted.area == pytest.approx(800) and blue.seen.area == pytest.approx(25 * 20 - 100)
    assert gold.seen.area == pytest.approx(100) and red.seen.area == pytest.approx(700)


@pytest.mark.parametrize("seed", range(4))
def test_what_lies_in_a_ground_of_many_holes_is_cut_as_if_it_were_cut_whole(seed: int) -> None:
    """Small shapes within its film, in one hole, over several and over its edge, either way round, against the
    library's own intersection."""
    rng = np.random.default_rng(seed)
    at = np.stack(np.meshgrid(np.arange(10) * 10.0 + 5, np.arange(10) * 10.0 + 5), axis=-1).reshape(-1, 2)
    holes = shapely.buffer(shapely.points(at), rng.uniform(1, 4.5, 100))
    ground = shapely.difference(shapely.box(0, 0, 100, 100), shapely.union_all(holes))
    small = shapely.buffer(shapely.points(rng.uniform(-3, 103, (300, 2))), rng.uniform(0.5, 9, 300))
    wanted = shapely.intersection(small, ground)
    every = np.full(300, ground, dtype=object)
    for found in (commons(small, every), commons(every, small)):
        assert shapely.area(shapely.symmetric_difference(found, wanted)).max() < 1e-9
    assert (shapely.area(wanted) == 0).any() and not shapely.within(small, shapely.box(0, 0, 100, 100)).all()
