"""Sheets: sets laid close, patches on mats, nesting of true outlines, against known optima and exact gaps."""

from __future__ import annotations

import itertools
import math
import re
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, element, svg
from shapely import affinity
from wimple_core.cutting import CutPath, plotter_file
from wimple_core.export.files import all_files
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.job.document import SheetPlan
from wimple_core.job.stock import Turns
from wimple_core.layup.choice import layer_costs
from wimple_core.pipeline import build_whole
from wimple_core.sheets import Load, film_by_cause
from wimple_core.sheets import outline as outlines
from wimple_core.sheets.batch import outlined
from wimple_core.sheets.fitted import fittings
from wimple_core.sheets.loads import Medium
from wimple_core.sheets.mats import ORDERS, RULES, laid_in_order, share_mats
from wimple_core.sheets.nest import Nested, gaps_hold, nest
from wimple_core.sheets.outline import outline_of
from wimple_core.sheets.search import Searched
from wimple_core.sheets.shape import Place, Shape
from wimple_core.sheets.stack import Laid, lay, most, ways

PANEL = board(2000, 2000)


def blob(g: np.random.Generator, least: float = 5, most_: float = 20) -> shapely.Polygon:
    """A star-shaped piece, ragged."""
    k = int(g.integers(5, 14))
    a, r = np.sort(g.uniform(0, 2 * math.pi, k)), g.uniform(least, most_, k)
    piece = shapely.Polygon(np.column_stack([r * np.cos(a), r * np.sin(a)]))
    return piece if piece.is_valid else piece.convex_hull


def lying(shapes: list[Shape], places: Any) -> np.ndarray:
    return np.array([shapely.Polygon(p.of(shapes[p.shape].outline)) for p in places], dtype=object)


@pytest.mark.parametrize("seed", range(10))
def test_an_outline_is_the_same_whatever_was_looked_at_before(seed: int) -> None:
    """The same work was looked at first where it lies otherwise, and differs by a rounding."""
    g = np.random.default_rng(seed)
    piece = shapely.union_all([blob(g), affinity.translate(blob(g, 2, 6), 40, 25)])
    outlines._KNOWN.clear()
    alone = outline_of(piece)
    outlines._KNOWN.clear()
    outline_of(shapely.transform(piece, lambda c: c + (7.25, -1.5) + 1e-9 * np.sin(1e3 * c)))
    assert np.array_equal(outline_of(piece), alone)


@pytest.mark.parametrize("seed", range(200))
def test_sets_laid_close_keep_their_gap_and_their_room(seed: int) -> None:
    """200 random outlines: exact distances by shapely; no turn that the film does not take."""
    g = np.random.default_rng(seed)
    piece = blob(g)
    outline = outline_of(shapely.union_all([piece, affinity.translate(blob(g, 2, 6), 30 * g.random(), 25)]))
    turns = ("never", "half", "any")[seed % 3]
    gap, width, length = float(g.uniform(1, 6)), float(g.uniform(60, 280)), float(g.uniform(60, 280))
    some = list(ways(outline, turns, gap, width))  # type: ignore[arg-type]
    count = most(some, length)
    for n in {1, count // 2, count} - {0}:
        found = lay(some, length, n)
        assert found and all(len(one.places) == n for one in found)
        for one in found:
            there = lying([Shape(outline, n)], one.places)
            assert gaps_hold(there, gap)
            left, low, right, high = shapely.total_bounds(there)
            assert (left, low) == pytest.approx((0, 0), abs=1e-6)
            assert (right, high) == pytest.approx(one.size, abs=1e-6)
            assert right <= width + 1e-6 and high <= length + 1e-6
            allowed = {"never": {0.0}, "half": {0.0, 180.0}, "any": {0.0, 90.0, 180.0, 270.0}}[turns]
            assert {p.turn for p in one.places} <= allowed


def test_boxes_lie_as_many_as_fit_by_division() -> None:
    """10 by 20 mm, 2 mm apart, in 100 by 100: 8 columns of 12 and 4 rows of 22, the outline's own hair apart."""
    outline = np.array([[0, 0], [10, 0], [10, 20], [0, 20]], float)
    assert most(list(ways(outline, "never", 2.0, 100.0)), 100.0) == 8 * 4
    # On its side there are 4 columns of 22 and 8 rows of 12.
    assert most(list(ways(outline, "any", 2.0, 100.0)), 94.0) == 4 * 8


def test_discs_lie_like_the_cells_of_a_honeycomb() -> None:
    """The density of the hexagonal packing is pi / sqrt(12) (Fejes Tóth, 1940): on a field of 30 by 30 discs no less
    than nine tenths of it, and never more."""
    disc = shapely.get_coordinates(shapely.Point(0, 0).buffer(5, quad_segs=32).exterior)[:-1]
    some = list(ways(disc, "never", 0.0, 300.0))
    n = most(some, 300.0)
    density = n * math.pi * 25 / 300**2
    assert 0.9 * math.pi / math.sqrt(12) < density < math.pi / math.sqrt(12)


def test_a_triangle_and_its_fellow_end_for_end_fill_a_row() -> None:
    """Turned end for end every other one, rows of triangles interlock: half the height of rows all one way."""
    triangle = np.array([[0, 0], [100, 0], [0, 60]], float)
    one_way = lay(list(ways(triangle, "never", 0.0, 110.0)), 1000.0, 10)[0]
    both = lay(list(ways(triangle, "half", 0.0, 110.0)), 1000.0, 10)[0]
    assert both.size[1] == pytest.approx(5 * 60, rel=0.03) and one_way.size[1] > 1.5 * both.size[1]


def jigsaw(g: np.random.Generator, wide: float, tall: float, across: int, up: int) -> list[shapely.Polygon]:
    """A rectangle cut into ragged pieces, none of which is a rectangle."""
    x, y = np.meshgrid(np.linspace(0, wide, across + 1), np.linspace(0, tall, up + 1))
    dx, dy = wide / across * 0.25, tall / up * 0.25
    inner_x, inner_y = slice(1, -1), slice(1, -1)
    x[:, inner_x] += g.uniform(-dx, dx, x[:, inner_x].shape)
    y[inner_y, :] += g.uniform(-dy, dy, y[inner_y, :].shape)
    out = []
    for j, i in itertools.product(range(up), range(across)):
        out.append(shapely.Polygon([(x[b, a], y[b, a]) for b, a in ((j, i), (j, i + 1), (j + 1, i + 1), (j + 1, i))]))
    return out


def cells(g: np.random.Generator, wide: float, tall: float, count: int) -> list[shapely.Polygon]:
    """A rectangle cut into what is nearest to each of so many points."""
    whole = shapely.box(0, 0, wide, tall)
    seeds = shapely.multipoints(g.uniform((0, 0), (wide, tall), (count, 2)))
    return list(shapely.intersection(shapely.get_parts(shapely.voronoi_polygons(seeds, extend_to=whole)), whole))


@pytest.mark.parametrize("turns", ["never", "half", "any"])
@pytest.mark.parametrize("cut", ["6", "12", "24", "cells", "apart"])
def test_a_rectangle_cut_apart_goes_together_again(cut: str, turns: Turns) -> None:
    """Known optimum: pieces of a rectangle of 100 by 200 mm, in any order and, where that is allowed, turned,
    fill no less than 95 % of a strip as wide. "apart" are pieces that were shrunk by half a gap of 2 mm each."""
    gap = 2.0 if cut == "apart" else 0.0
    g = np.random.default_rng(len(cut))
    pieces = cells(g, 100, 200, 9) if cut == "cells" else jigsaw(g, 100, 200, 3, 4 if gap else int(cut) // 3)
    shrunk = shapely.buffer(np.array(pieces, dtype=object), -gap / 2, join_style="mitre")
    outlines = [shapely.get_coordinates(p.exterior)[:-1] for p in shrunk]
    turned = {"never": np.zeros(99), "half": 180.0 * g.integers(0, 2, 99), "any": g.uniform(0, 360, 99)}[turns]
    outlines = [Place(0, turn, (0, 0)).of(o) for o, turn in zip(outlines, turned, strict=False)]
    shapes = [Shape(outlines[n], 1, turns) for n in g.permutation(len(outlines))]
    found = nest(shapes, 100.0 - gap, gap, 10)
    assert found is not None and 200 - gap - 1e-3 <= found.length <= (200 - gap) / 0.95
    there = lying(shapes, found.places)
    assert gaps_hold(there, gap)
    assert shapely.union_all(there).area == pytest.approx(float(shapely.area(shrunk).sum()), rel=1e-6)
    assert {p.turn for p in found.places} <= {"never": {0.0}, "half": {0.0, 180.0}}.get(
        turns, {p.turn for p in found.places}
    )


def test_what_lies_over_another_holds_no_gap_at_all() -> None:
    one = shapely.box(0, 0, 10, 10)
    for by, holds in ((10.0, True), (9.99, False), (5.0, False), (0.0, False)):
        assert gaps_hold(np.array([one, affinity.translate(one, by, 0)], dtype=object), 0.0) is holds
    for by, holds in ((12.0, True), (11.99, False), (5.0, False)):
        assert gaps_hold(np.array([one, affinity.translate(one, by, 0)], dtype=object), 2.0) is holds


@pytest.mark.parametrize("turns", ["half", "any"])
def test_the_gap_of_what_is_fitted_holds_to_the_last_digit(turns: Turns) -> None:
    g = np.random.default_rng(3)
    for gap in (0.1, 3.0, 7.3):
        shapes = [Shape(shapely.get_coordinates(blob(g).exterior)[:-1], 2, turns) for _ in range(4)]
        found = next(found for found in fittings(shapes, 90.0, gap) if found is not None)
        there = lying(shapes, found.places)
        one, other = np.triu_indices(len(there), 1)
        assert len(there) == 8 and shapely.distance(there[one], there[other]).min() >= gap


def test_what_is_not_fitted_is_passed_over() -> None:
    """An outline that crosses itself, one with too many corners, too many pieces: nothing comes, and nothing breaks."""
    square = np.array([[0, 0], [10, 0], [10, 10], [0, 10]], float)
    round_ = shapely.get_coordinates(shapely.Point(0, 0).buffer(5).exterior)[:-1]
    for outline, count in ((square[[0, 2, 1, 3]], 1), (round_, 1), (square, 61), (square, 0)):
        assert list(fittings([Shape(outline, count, "any")], 50.0, 1.0)) == []
    wide = [found for found in fittings([Shape(square * 10, 1, "never")], 50.0, 1.0) if found is not None]
    assert wide == []


def test_a_piece_as_wide_as_the_strip_breaks_nothing_off() -> None:
    """The library's search gives up on those: they lie all the same, a full strip of four."""
    bars = [Shape(np.array([[0, 0], [100, 0], [100, 20], [0, 20]], float), 4, "never")]
    found = nest(bars, 100.0, 0.0, 2)
    assert found is not None and found.length == pytest.approx(80, abs=1e-3)


@pytest.mark.parametrize("seed", range(4))
def test_nested_pieces_keep_their_gap_and_their_direction(seed: int) -> None:
    g = np.random.default_rng(seed)
    turns = ("never", "half", "any", "any")[seed]
    shapes = [Shape(outline_of(blob(g)), int(g.integers(1, 4)), turns) for _ in range(6)]  # type: ignore[arg-type]
    found = nest(shapes, 90.0, 2.5, 1)
    assert found is not None
    there = lying(shapes, found.places)
    assert len(there) == sum(s.count for s in shapes) and gaps_hold(there, 2.5)
    left, low, right, high = shapely.total_bounds(there)
    assert (left, low) == pytest.approx((0, 0), abs=1e-6) and right <= 90 + 1e-6
    assert high == pytest.approx(found.length)
    allowed = {"never": {0}, "half": {0, 180}}.get(turns)
    assert allowed is None or {round(abs(p.turn)) % 360 for p in found.places} <= allowed


def test_what_is_wider_than_the_film_is_not_nested() -> None:
    bar = Shape(np.array([[0, 0], [120, 0], [120, 5], [0, 5]], float), 1, "half")
    assert nest([bar], 100.0, 1.0, 1) is None
    assert nest([Shape(bar.outline, 2, "any")], 100.0, 1.0, 1) is not None


def test_a_search_that_is_stopped_keeps_the_best_so_far() -> None:
    class Enough(Exception):
        pass

    seen: list[Nested | None] = []

    def watch(best: Nested | None, share: float) -> None:
        seen.append(best)
        if best is not None:
            raise Enough

    g = np.random.default_rng(5)
    shapes = [Shape(outline_of(blob(g)), 2, "any") for _ in range(10)]
    found = nest(shapes, 100.0, 1.0, 20, watch)
    assert found is not None and len(found.places) == 20 and found is seen[-1] and len(seen) < 60


@pytest.mark.parametrize("seed", range(40))
def test_patches_share_mats_without_lying_over_each_other(seed: int) -> None:
    g = np.random.default_rng(seed)
    sizes = [[(float(w), float(h)), (float(h), float(w))] for w, h in g.uniform(60, 260, (int(g.integers(1, 20)), 2))]
    mats = share_mats(sizes, 290.0, 280.0, 3.0)
    assert mats is not None and sorted(on.patch for mat in mats for on in mat) == list(range(len(sizes)))
    for mat in mats:
        size = [sizes[on.patch][on.size] for on in mat]
        boxes = np.array(
            [shapely.box(*on.at, on.at[0] + w, on.at[1] + h) for on, (w, h) in zip(mat, size, strict=True)]
        )
        assert gaps_hold(boxes, 3.0)
        left, low, right, high = shapely.total_bounds(boxes)
        assert left >= 0 and low >= 0 and right <= 290 + 1e-6 and high <= 280 + 1e-6
    # No fewer mats than the area asks for, and of all that is tried the fewest.
    assert len(mats) >= sum(w * h for (w, h), _ in sizes) / (290 * 280)
    empty, orders = (
        [(0.0, 0.0, 293.0, 283.0)],
        [sorted(range(len(sizes)), key=lambda n: -by(sizes[n])) for by in ORDERS],
    )
    tried = [laid_in_order(sizes, order, rule, empty, 3.0) for rule in RULES for order in orders]
    assert len(mats) == min(len(one) for one in tried if one)


def test_four_quarters_fill_a_mat_and_a_fifth_takes_another() -> None:
    quarter = [[(100.0, 100.0)]]
    assert len(share_mats(quarter * 4, 203.0, 203.0, 3.0) or []) == 1
    assert len(share_mats(quarter * 5, 203.0, 203.0, 3.0) or []) == 2
    assert share_mats([[(204.0, 10.0)]], 203.0, 203.0, 3.0) is None


@pytest.mark.parametrize(("across", "up"), [(2, 3), (3, 3), (4, 3), (4, 4)])
def test_patches_that_are_nearly_alike_fill_a_mat(across: int, up: int) -> None:
    """As many as go in a grid go on one mat, whichever of them is a hair wider or taller than its fellows."""
    g = np.random.default_rng(across * up)
    cell = (292 - 3 * (across - 1)) / across, (285 - 3 * (up - 1)) / up
    for _ in range(30):
        sides = np.array(cell) * g.uniform(0.98, 1, (across * up, 2)) * g.uniform(0.9, 1)
        sizes = [[(w, h), (h, w)] for w, h in sides.tolist()]
        mats = share_mats(sizes, 292.0, 285.0, 3.0)
        assert mats is not None and len(mats) == 1 and len(mats[0]) == across * up


def test_a_mat_cut_apart_goes_on_it_again() -> None:
    """Parted by lines from edge to edge, 3 mm of film lost in each: nine of ten such go on the one mat."""
    g = np.random.default_rng(4)

    def parted(w: float, h: float, often: int) -> list[tuple[float, float]]:
        if not often:
            return [(w, h)]
        share = g.uniform(0.3, 0.7)
        if w > h:
            return parted(share * (w - 3), h, often - 1) + parted((1 - share) * (w - 3), h, often - 1)
        return parted(w, share * (h - 3), often - 1) + parted(w, (1 - share) * (h - 3), often - 1)

    some = [parted(292, 285, int(g.integers(2, 4))) for _ in range(50)]
    laid = [
        share_mats([[(0.98 * w, 0.98 * h), (0.98 * h, 0.98 * w)] for w, h in one], 292.0, 285.0, 3.0) for one in some
    ]
    assert sum(mats is not None and len(mats) == 1 for mats in laid) >= 45
    assert all(mats is not None and len(mats) <= 2 for mats in laid)


THREE = svg(
    '<rect width="60" height="20" fill="#1c3d7a"/><rect y="25" width="60" height="15" fill="#b98a2f"/>'
    '<rect y="45" width="60" height="15" fill="#efe6c8"/>'
)


def three_films(quantity: int, **sheets: Any):  # type: ignore[no-untyped-def]
    raw = {
        "blank": PANEL,
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": 60, "up_mm": 1000})],
        "layers": {"marks": {"kind": "none"}},
        "sheets": sheets,
    }
    return build_whole(load_job(raw), {"a.svg": THREE})


def cut_boxes(load: Load) -> list[tuple[float, float, float, float]]:
    return [load.on(patch).bounds for patch in load.patches]


@pytest.mark.parametrize(("grid", "step"), [("none", 0.0), ("cm", 10.0), ("half_inch", 12.7), ("inch", 25.4)])
def test_several_films_share_a_mat_each_cut_on_its_own_patch(grid: str, step: float) -> None:
    one = three_films(2, mats="one_film").sheets
    assert (one and [load.name for load in one.loads] == ["cream", "gold", "midnight"]) or len(one.loads) == 3
    shared = three_films(2, mats="shared", liner_grid=grid, patch_room_mm=4).sheets
    assert shared and len(shared.loads) == 1 and shared.shared and shared.one_film
    (load,) = shared.loads
    assert len(load.patches) == 3 and load.fits
    boxes = np.array([shapely.box(*p.box) for p in load.patches])
    assert gaps_hold(boxes, 4.0)
    for patch, cut in zip(load.patches, cut_boxes(load), strict=True):
        # What is cut of a film lies on it, and no nearer its edge than the frame lets it.
        assert shapely.box(*patch.box).contains(shapely.box(*cut))
        assert min(cut[0], cut[1]) >= -1e-9 and cut[2] <= 279.4 + 1e-9 and cut[3] <= 279.4 + 1e-9
        if step:
            for side in (patch.box[2] - patch.box[0], patch.box[3] - patch.box[1]):
                assert side / step == pytest.approx(round(side / step), abs=1e-6)
    assert {i.item.name for i in load.items} == {p.name for p in load.patches}


def test_a_roll_is_not_shared_and_time_decides_which_way() -> None:
    """2.5 minutes a load and 1.5 a patch: three films on a load of their own take 12, on one mat 7."""
    both = three_films(2).sheets
    assert both and both.one_film and both.shared
    assert (both.one_film.loads, both.one_film.minutes) == (3, 12.0)
    assert (both.shared.loads, both.shared.minutes) == (1, 7.0)
    assert len(both.loads) == 1
    roll = three_films(2, cutter="roll-24").sheets
    assert roll and roll.shared is None and len(roll.loads) == 3


def test_the_passes_of_a_shared_mat_are_cut_film_by_film_on_one_origin() -> None:
    built = three_films(2, mats="shared")
    assert built.cutting
    (plan,) = built.cutting.plans
    # Three plain films of one kind are one pass: they take the same setting.
    assert len(plan.passes) == 1
    where = np.concatenate([p.points for p in plan.paths])
    load = plan.load
    assert where.max(axis=0) == pytest.approx(np.array(load.size), abs=0.6)


def test_film_is_told_by_cause_and_adds_up() -> None:
    for mats in ("one_film", "shared"):
        made = three_films(5, mats=mats).sheets
        assert made
        work, between, round_ = film_by_cause(made.loads)
        assert work + between + round_ == pytest.approx(made.film_area)
        assert work == pytest.approx(5 * 60 * 50, rel=1e-6) and min(between, round_) > 0


def test_marks_at_the_sides_are_offered_where_those_above_keep_sets_apart() -> None:
    """An arch of two films: crosses in its bay keep the next arch out."""
    arch = "M0 60A100 100 0 0 1 200 60L190 60A100 100 0 0 0 10 60z"
    body = svg(
        f'<path d="{arch}" fill="#1c3d7a"/><path transform="translate(0 12)" d="{arch}" fill="#b98a2f"/>',
        'width="200mm" height="80mm" viewBox="0 0 200 80"',
    )
    raw = {
        "blank": PANEL,
        "quantity": 24,
        "elements": [element("a.svg", {"width_mm": 200, "up_mm": 1000})],
        "layers": {"marks": {"kind": "crosses"}},
    }
    built = build_whole(load_job(raw), {"a.svg": body})
    (said,) = [v for v in built.verdicts if v.code == "sheets.marks"]
    assert said.fix == "squares" and said.value > (said.limit or 0) > 0
    raw["layers"]["marks"]["kind"] = "squares"  # type: ignore[index]
    after = build_whole(load_job(raw), {"a.svg": body})
    assert after.sheets and built.sheets
    assert sum(x.times for x in after.sheets.loads) < sum(x.times for x in built.sheets.loads)
    assert not [v for v in after.verdicts if v.code == "sheets.marks"]


def test_the_report_says_where_everything_lies() -> None:
    """Sets put back by `at_mm` and `turn_deg` cover what the load cuts."""
    built = three_films(3, mats="shared")
    report = make_report(built)
    (load,) = built.sheets.loads  # type: ignore[union-attr]
    (said,) = report.loads
    assert said.films == [p.name for p in load.patches] and said.times == 1 and len(said.places) == 9
    for place, item in zip(said.places, load.items, strict=True):
        work = item.item.cuts.only("piece").region
        put = affinity.translate(affinity.rotate(work, place.turn_deg, origin=(0, 0)), *place.at_mm)
        assert put.symmetric_difference(item.cuts.only("piece").region).area < 1e-6
    assert report.film_use and report.film_use.whole_mm2 == pytest.approx(load.film_area)
    assert report.one_film and report.shared_mats and report.shared_mats.loads == 1
    assert said.seconds == pytest.approx(sum(p.seconds for p in said.passes))


def test_films_of_other_settings_on_one_mat_are_passes_of_their_own_on_one_origin() -> None:
    raw = {
        "blank": PANEL,
        "elements": [element("a.svg", {"width_mm": 60, "up_mm": 1000})],
        "layers": {"marks": {"kind": "none"}, "films": [{"colour": "#b98a2f", "film": "glitter"}]},
        "sheets": {"mats": "shared"},
    }
    built = build_whole(load_job(raw), {"a.svg": THREE})
    (plan,) = built.cutting.plans  # type: ignore[union-attr]
    assert sorted(p.film.id for p in plan.passes) == ["calendered-gloss", "glitter"]
    files = {f.path: f.data for f in all_files(built, {"a.svg": THREE})}
    passes = sorted(n for n in files if n.startswith("sheets/") and n.endswith(".plt"))
    assert [n.split("-pass-")[1] for n in passes] == [f"{k}-{p.film.id}.plt" for k, p in enumerate(plan.passes, 1)]
    for name, one in zip(passes, plan.passes, strict=True):
        strokes = re.findall(rb"P[UD]([\d,]+);", files[name].encode() if isinstance(files[name], str) else files[name])
        there = np.concatenate([np.array(s.split(b","), dtype=float).reshape(-1, 2) for s in strokes]) / 40
        patches = [p for p in plan.load.patches if p.film.id == one.film.id]
        boxes = shapely.union_all([shapely.box(*p.box) for p in patches])
        inside = shapely.covers(boxes.buffer(0.02), shapely.points(there[:-1]))
        assert inside.all(), "each pass cuts on its own film, where that lies on the mat"


def test_loads_cut_several_times_count_as_often() -> None:
    """170 sets: full loads more than once, and a rest."""
    built = three_films(170, mats="one_film")
    sheets = built.sheets
    assert sheets and built.layers and max(load.times for load in sheets.loads) > 1
    alone = [film_by_cause([replace(load, times=1)]) for load in sheets.loads]
    every = np.array([load.times for load in sheets.loads]) @ np.array(alone)
    assert film_by_cause(sheets.loads) == pytest.approx(every)
    spent = sum(p.area * load.times * float(p.film.price_per_m2) for load in sheets.loads for p in load.patches) / 1e6
    assert 170 * float(sum(layer_costs(sheets, built.layers))) == pytest.approx(spent)


def test_lines_that_part_the_waste_of_one_set_cross_no_other() -> None:
    """Arches that lie in each other: a line of one would run through the next if it went on to its own box."""
    arch = "M0 60A100 100 0 0 1 200 60L190 60A100 100 0 0 0 10 60z"
    body = svg(f'<path d="{arch}" fill="#1c3d7a"/>', 'width="200mm" height="80mm" viewBox="0 0 200 80"')
    raw = {
        "blank": PANEL,
        "quantity": 6,
        "elements": [element("a.svg", {"width_mm": 200, "up_mm": 1000})],
        "layers": {"weeding": {"largest_mm": 30}},
    }
    built = build_whole(load_job(raw), {"a.svg": body})
    load = built.sheets.loads[0]  # type: ignore[union-attr]
    lines = load.cuts.only("weed").paths()
    assert len(lines) > 2 and len(load.items) > 1
    work = shapely.buffer(load.cuts.only("piece").region, -0.01)
    assert not shapely.intersects(shapely.multilinestrings([shapely.LineString(p) for p in lines]), work)


def test_what_the_search_finds_is_what_is_laid() -> None:
    """A closer lay of one more than goes on a load at once, and of a rest, is taken; a wider one is not."""
    item = three_films(2, mats="one_film").sheets.loads[0].items[0].item  # type: ignore[union-attr]
    plan, medium = SheetPlan(), Medium("mat", 279.4, 279.4)
    plain = outlined(item, plan, medium, {})
    more, rest = plain.capacity + 1, 5
    tight = Laid(tuple(Place(0, 0.0, (0.0, 0.0)) for _ in range(rest)), (1.0, 1.0))
    wide = Laid(tuple(Place(0, 0.0, (0.0, 0.0)) for _ in range(more)), (270.0, 270.0))
    found = outlined(item, plan, medium, {more: wide, rest: tight})
    assert (plain.capacity, found.capacity) == (more - 1, more)
    assert found.lay(more)[0].size == wide.size and found.lay(rest)[0].size == tight.size
    assert [one.size for one in found.lay(4)] == [one.size for one in plain.lay(4)]
    loose = Laid(tight.places, (270.0, 270.0))
    assert outlined(item, plan, medium, {rest: loose}).lay(rest)[0].size == plain.lay(rest)[0].size


def test_passes_keep_one_origin_where_the_pivot_runs_below_it() -> None:
    one = CutPath(np.array([[-0.3, 0.0], [10.0, 0.0]]), 0)
    other = CutPath(np.array([[20.0, 5.0], [30.0, 5.0]]), 0)
    assert "PU812,200;" in plotter_file([other], [one, other]), "20.3 mm, 40 units each"


def test_what_was_found_is_kept_as_it_was() -> None:
    laid = Laid((Place(0, 180.0, (3.0, 4.5)), Place(0, 0.0, (70.25, 1.0))), (80.0, 9.0))
    found = Searched(({2: laid}, {}))
    assert Searched.from_bytes(found.as_bytes()) == found


@pytest.mark.parametrize("seed", range(20))
def test_patches_keep_off_corners_that_are_held(seed: int) -> None:
    """Rectangles by chance, two corners of 30 mm held free: none comes nearer to one than the room between patches."""
    some = np.random.default_rng(seed).uniform(15, 110, (12, 2))
    held = [(0.0, 0.0, 30.0, 30.0), (260.0, 250.0, 290.0, 280.0)]
    mats = share_mats([[(w, h), (h, w)] for w, h in some.tolist()], 290.0, 280.0, 4.0, held)
    assert mats is not None
    for on in mats:
        for p in on:
            w, h = some[p.patch][:: 1 if p.size == 0 else -1]
            laid = shapely.box(*p.at, p.at[0] + w, p.at[1] + h)
            assert min(laid.distance(shapely.box(*box)) for box in held) >= 4.0 - 1e-6
