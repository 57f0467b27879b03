"""Loose pieces in the holes of others: nothing overlaps, every gap holds, and all of them are there."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Sequence

import numpy as np
import pytest
import shapely
from samples import EXAMPLES, board, element, svg
from wimple_core.arrays import Array
from wimple_core.job import load_job
from wimple_core.job.document import SheetPlan
from wimple_core.job.stock import Turns
from wimple_core.pipeline import StageCache, build
from wimple_core.sheets.holes import Filled, Holed, filled
from wimple_core.sheets.items import item_of
from wimple_core.sheets.loads import Medium
from wimple_core.sheets.search import SoFar, search, told_apart
from wimple_core.sheets.shape import Place, Shape
from wimple_core.sheets.skyline import lay_many
from wimple_core.views.so_far import lay_view

Ring = tuple[Array, tuple[Array, ...]]


def box(width: float, height: float, *holes: tuple[float, float, float, float]) -> Ring:
    """A rectangle from the origin, with boxes (left, low, right, high) as holes."""
    return _ring(shapely.box(0, 0, width, height)), tuple(_ring(shapely.box(*h)) for h in holes)


def _ring(region: shapely.Polygon) -> Array:
    return np.asarray(shapely.get_coordinates(region.exterior)[:-1])


def ring(outer: float, inner: float) -> Ring:
    middle = shapely.Point(outer, outer)
    return _ring(middle.buffer(outer)), (_ring(middle.buffer(inner)),) if inner else ()


def fill(some: Sequence[Ring], turns: Turns, sets: int, gap: float) -> Filled:
    return filled(tuple(Holed.of(o, h) for o, h in some), turns, sets, gap)


def laid(some: Sequence[Ring], turns: Turns, sets: int, gap: float) -> tuple[tuple[Place, ...], np.ndarray]:
    """All of them on a strip of 300 mm, and the polygons that they are there."""
    in_holes = fill(some, turns, sets, gap)
    found = lay_many(in_holes.shapes([Shape(o, sets, turns) for o, _ in some]), 300.0, gap)
    assert found is not None
    places = in_holes.whole(found.places)
    return places, standing(some, places)


def standing(some: Sequence[Ring], places: Sequence[Place]) -> np.ndarray:
    every = [(some[p.shape], p) for p in places]
    return np.array([shapely.Polygon(p.of(o), [p.of(h) for h in holes]) for (o, holes), p in every], dtype=object)


@pytest.mark.parametrize("seed", range(30))
def test_what_lies_in_holes_keeps_its_gap(seed: int) -> None:
    """Rings and ragged frames of all sizes: exact distances by shapely, holes and all."""
    g = np.random.default_rng(seed)
    turns: Turns = ("never", "half", "any")[seed % 3]
    gap, sets = (0.5, 3.0)[seed % 2], int(g.integers(1, 4))
    some = [ring(r, r * g.uniform(0.5, 0.95)) for r in g.uniform(8, 60, 4)] + [ring(r, 0) for r in g.uniform(1, 6, 9)]
    for _ in range(3):
        k = int(g.integers(5, 12))
        a, r = 2 * np.pi * (np.arange(k) + g.uniform(0, 0.9, k)) / k, g.uniform(20, 60, k)[:, None]
        star = r * np.column_stack([np.cos(a), np.sin(a)])
        some.append((star, (0.8 * star,)))
    places, lying = laid(some, turns, sets, gap)
    assert Counter(p.shape for p in places) == {n: sets for n in range(len(some))}
    one, other = np.triu_indices(len(lying), 1)
    assert shapely.distance(lying[one], lying[other]).min() >= gap
    allowed = {"never": {0}, "half": {0, 180}, "any": {0, 90, 180, 270}}[turns]
    assert {round(p.turn, 6) for p in places} <= allowed
    left, low, right, _ = shapely.total_bounds(lying)
    assert left > -1e-6 and low > -1e-6 and right < 300 + 1e-6
    assert len(fill(some, turns, sets, gap).inside) > 0


def test_as_many_go_into_a_hole_as_there_is_room_for() -> None:
    """Squares of 8 mm, 2 mm from each other and from all round them, each in whole cells of 1/4 mm: ten in a row."""
    some = [box(116, 20, (3, 3, 109, 16.7)), box(8, 8)]
    in_holes = fill(some, "any", 24, 2.0)
    assert [len(those) for those in in_holes.inside.values()] == [10, 10, 4] and in_holes.outside[1] == ()
    # A millimetre too low for them.
    assert fill([box(116, 20, (3, 3, 109, 14.9)), box(8, 8)], "any", 24, 2.0).inside == {}


def test_of_a_hole_with_a_bar_in_it_the_wider_side_is_filled() -> None:
    """A bar from the left parts a hole of 60 by 24 mm into 13 mm below and 5 mm above, as far as it goes."""
    hole = shapely.box(3, 3, 63, 27).difference(shapely.box(0, 16, 50, 22))
    some = [(box(66, 30)[0], (_ring(hole),)), box(8, 8)]
    in_holes = fill(some, "never", 4, 1.5)
    assert len(in_holes.inside[0, 0]) == 4
    lying = standing(some, in_holes.whole([Place(0, 0.0, (0.0, 0.0)), *(Place(0, 0.0, (0.0, 0.0)),) * 3]))
    assert all(hole.buffer(-1.5).contains(one) for one in lying[lying != lying[0]] if one.area < 100)


def test_what_lies_in_a_hole_takes_along_what_lies_in_its_own() -> None:
    """A bar in a frame in a frame, the inner one on its side: each lies in the next, wherever the outer one is."""
    some = [box(60, 40, (5, 5, 55, 35)), box(24, 40, (5, 5, 19, 35)), box(10, 26)]
    in_holes = fill(some, "any", 1, 1.0)
    assert [len(copies) for copies in in_holes.outside] == [1, 0, 0]
    places = in_holes.whole([Place(0, 90.0, (100.0, 10.0))])
    assert [p.shape for p in places] == [0, 1, 2]
    lying = standing(some, places)
    assert lying[0].bounds == pytest.approx((60, 10, 100, 70))
    assert all(shapely.Polygon(a.interiors[0]).contains(b) for a, b in zip(lying, lying[1:], strict=False))
    # Of film that is not turned the frame does not go in: it is as tall as its hole.
    assert 1 not in {c[0] for those in fill(some, "never", 1, 1.0).inside.values() for (c, _) in those}


def test_rings_of_the_mug_hold_its_stars() -> None:
    """The film of the demo's mug: loose, it takes a fifth less than as it is drawn."""
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir() if p.is_file()}
    raw = json.loads((EXAMPLES / "star-atlas-mug.wimple.json").read_text())
    cache = StageCache()
    area: dict[str, float] = {}
    pieces_of: dict[str, list[float]] = {}
    for pieces in ("as_drawn", "loose"):
        raw["sheets"] = {**raw.get("sheets", {}), "pieces": pieces}
        made = build(load_job(raw), files, "sheets", cache=cache).sheets
        assert made
        area[pieces] = made.film_area
        work = np.concatenate([shapely.get_parts(load.cuts.only("piece", "hole").region) for load in made.loads])
        pieces_of[pieces] = sorted(shapely.area(work).tolist())
    assert pieces_of["loose"] == pytest.approx(pieces_of["as_drawn"], abs=1e-3)
    assert area["loose"] < 0.8 * area["as_drawn"]


def test_a_search_for_other_pieces_within_the_same_outline_is_another() -> None:
    """A dot in a ring that has become smaller, or is gone: what was found for the old one is not laid."""
    told = set()
    for inner in ('<circle cx="50" cy="50" r="9"/>', '<circle cx="50" cy="50" r="8"/>', ""):
        body = svg('<path d="M0 0H100V100H0ZM20 20V80H80V20Z"/>' + inner)
        raw = {"blank": board(400, 400), "elements": [element("a.svg", {"width_mm": 60, "up_mm": 200})]}
        built = build(load_job(raw), {"a.svg": body}, "layers")
        assert built.layers
        for pieces in ("as_drawn", "loose"):
            plan = SheetPlan(pieces=pieces)  # type: ignore[arg-type]
            items = [item_of(layer, plan, close=True) for layer in built.layers.layers]
            told.add((pieces, told_apart(items, plan, Medium("mat", 279.4, 279.4), 4)))
    assert len([1 for pieces, _ in told if pieces == "loose"]) == 3


@pytest.mark.parametrize("pieces", ["loose", "as_drawn"])
def test_the_best_so_far_is_drawn_as_it_lies(pieces: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is sent for the screen, laid out again: as long as it says, no wider, and nothing over anything else."""
    body = svg('<path fill-rule="evenodd" d="M0 0H100V60H0ZM20 20V40H80V20Z"/><circle cx="50" cy="30" r="4"/>')
    raw = {"blank": board(400, 400), "elements": [element("a.svg", {"width_mm": 60, "up_mm": 200})]}
    layers = build(load_job(raw), {"a.svg": body}, "layers").layers
    assert layers
    plan = SheetPlan(pieces=pieces)  # type: ignore[arg-type]
    items = [item_of(layer, plan, close=True) for layer in layers.layers]
    monkeypatch.setattr("wimple_core.sheets.search.SECONDS", 2)
    shown: list[SoFar] = []
    shares: list[float] = []
    search(items, plan, Medium("mat", 150, 200), 5, lambda what, share: shares.append(share), shown.append)
    assert shown and shares == sorted(shares) and len({round(s, 1) for s in shares}) > 3
    for so_far in shown:
        view = lay_view(so_far)
        assert len(view.places) == view.sets * (2 if pieces == "loose" else 1) and view.room < 200
        lying = [
            shapely.union_all(
                [shapely.Polygon(Place(0, turn, (x, y)).of(np.reshape(r, (-1, 2)))) for r in view.rings[which][:1]]
            )
            for which, turn, x, y in view.places
        ]
        left, low, right, high = shapely.total_bounds(lying)
        assert left > -0.5 and right < view.width + 0.5 and view.width < 150
        assert (low, high) == pytest.approx((0, view.length), abs=0.6)
        one, other = np.triu_indices(len(lying), 1)
        between = shapely.distance(np.array(lying)[one], np.array(lying)[other])
        # A dot lies over the filled outline of its ring, and over nothing else.
        assert (between >= plan.gap_mm - 0.5).sum() >= len(between) - (view.sets if pieces == "loose" else 0)
