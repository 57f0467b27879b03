"""Loads, cut order, plotter files and lay-up of small jobs counted by hand."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, cup, element, example, files_of, svg
from wimple_core.built import Build
from wimple_core.cuts import cuts_round, together
from wimple_core.cutting import CutPath, contours_of, order_contours, ordered_paths, plotter_file
from wimple_core.cutting.order import with_overcut
from wimple_core.job import load_job
from wimple_core.job.shipped import CUTTERS
from wimple_core.pipeline import build_whole as build
from wimple_core.sheets import Load

BAR = svg('<rect width="60" height="40" fill="#1c3d7a"/>')


def work_of(load: Load):  # type: ignore[no-untyped-def]
    """The pieces and marks on a load."""
    return load.cuts.only("piece", "hole", "mark").region


def loaded(
    width: float = 60, quantity: int = 1, blank: Any = None, film: str = "calendered-gloss", **sheets: Any
) -> Build:
    raw = {
        "blank": blank or board(2000, 2000),
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": width, "up_mm": 1000 if blank is None else 45})],
        "layers": {"marks": {"kind": "none"}, "default_film": film},
        "sheets": sheets,
    }
    return build(load_job(raw), {"a.svg": BAR})


def test_sets_stand_in_rows_with_room_between() -> None:
    """68 x 48 mm with its frame, 2 mm between: on 279.4 mm four columns of 68 and five rows of 48."""
    b = loaded(quantity=23, weed_box=True, weed_box_away_mm=4, lay="boxes")
    full, rest = b.sheets.loads  # type: ignore[union-attr]
    assert (full.sets, full.times, rest.sets, rest.times) == (20, 1, 3, 1)
    assert (full.width, full.height) == pytest.approx((4 * 70 - 2, 5 * 50 - 2))
    assert (rest.width, rest.height) == pytest.approx((3 * 70 - 2, 48))
    parts = shapely.get_parts(work_of(full))
    assert len(parts) == 20 and len(shapely.get_parts(full.cuts.only("frame").region)) == 20
    tree = shapely.STRtree(parts)
    near = tree.query(parts, predicate="dwithin", distance=9.99)
    assert near.shape[1] == 20  # each only itself
    assert work_of(full).bounds == pytest.approx((4, 4, 4 + 3 * 70 + 60, 4 + 4 * 50 + 40))


@pytest.mark.parametrize(
    ("width", "cutter", "fits", "turned", "field"),
    [
        (270, "desktop-mat", True, False, ""),
        (300, "desktop-mat", False, False, "sheets.cutter"),
        (300, "roll-24", True, False, ""),
        (620, "roll-24", True, True, ""),
        (1300, "roll-24", False, False, "sheets.panels.part"),
    ],
)
def test_what_fits_and_what_is_turned(width: float, cutter: str, fits: bool, turned: bool, field: str) -> None:
    b = loaded(width, cutter=cutter, weed_box=False)
    sheet = b.sheets.loads[0]  # type: ignore[union-attr]
    verdict = next(v for v in b.verdicts if v.code == "sheets.fits")
    assert (sheet.fits, sheet.turned) == (fits, turned) and verdict.level == ("ok" if fits else "stop")
    if turned:
        assert (sheet.width, sheet.height) == pytest.approx((width * 2 / 3, width))
    if field:
        assert verdict.field == field and verdict.value > 0
        assert (verdict.fix == "roll-24") is (cutter == "desktop-mat")


def test_film_with_a_direction_is_not_turned() -> None:
    sheet = loaded(620, cutter="roll-24", film="brushed", weed_box=False).sheets.loads[0]  # type: ignore[union-attr]
    assert not sheet.turned and not sheet.fits


def test_a_turned_load_is_the_work_turned_not_mirrored() -> None:
    """A flag with a notch on its upper right: turned by a quarter to the left the notch lies upper left."""
    flag = svg('<path d="M0 0H50V10H60V40H0z" fill="#1c3d7a"/>')
    raw = {
        "blank": board(2000, 2000),
        "elements": [element("a.svg", {"width_mm": 600, "up_mm": 1000})],
        "layers": {"marks": {"kind": "none"}},
        "sheets": {"cutter": "roll-24", "weed_box": False},
    }
    sheet = build(load_job(raw), {"a.svg": flag}).sheets.loads[0]  # type: ignore[union-attr]
    assert sheet.turned
    work = work_of(sheet)
    left, low, right, high = work.bounds
    assert not work.covers(shapely.Point(left + 5, high - 5)) and work.covers(shapely.Point(right - 5, high - 5))
    assert work.covers(shapely.Point(left + 5, low + 5))


def test_inner_contours_come_before_outer_ones() -> None:
    """Three nested rings and a dot inside: cut from the inside out, near before far."""
    nest = shapely.union_all(
        [shapely.Point(0, 0).buffer(r + 2).difference(shapely.Point(0, 0).buffer(r)) for r in (30, 20, 10)]
    )
    region = shapely.union(nest, shapely.Point(0, 0).buffer(3))
    depths = [c.depth for c in order_contours(contours_of(cuts_round(region)))]
    assert depths == sorted(depths, reverse=True) and sorted(depths) == list(range(7))
    row = shapely.MultiPolygon([shapely.box(x, 0, x + 5, 5) for x in (40, 0, 80, 20, 60)])
    starts = [float(c.points[:, 0].min()) for c in order_contours(contours_of(cuts_round(row)))]
    assert starts == [0, 20, 40, 60, 80]


def test_overcut_runs_on_past_the_start() -> None:
    square = np.array([[0, 0], [10, 0], [10, 10], [0, 10]], float)
    path = with_overcut(square, 0.5)
    assert path[-2] == pytest.approx((0, 0)) and path[-1] == pytest.approx((0.5, 0))
    assert with_overcut(square, 0)[-1] == pytest.approx((0, 0))
    longer = with_overcut(square, 12.0)
    assert longer[-1] == pytest.approx((10, 2))


def test_plotter_frames_come_last_and_nothing_lies_below_zero() -> None:
    both = together([cuts_round(shapely.box(5, 5, 15, 15)), cuts_round(shapely.box(0, 0, 20, 20), "frame")])
    text = plotter_file(ordered_paths(both, 0))
    strokes = re.findall(r"PU(\d+),(\d+);PD([\d,]+);", text)
    assert [(int(x), int(y)) for x, y, _ in strokes] == [(200, 200), (0, 0)]
    moved = plotter_file(ordered_paths(cuts_round(shapely.box(-10, -4, 0, 6)), 0))
    numbers = [int(n) for n in re.findall(r"-?\d+", " ".join(re.findall(r"P[UD][-\d,]+", moved)))]
    assert max(numbers) == 400 and min(numbers) == 0


LAYUP = [
    ("tape", "Lay up on the tape", "Top layer first: gold, then midnight."),
    ("mat", "Lay up on the mat", "Lowest layer first: midnight, then gold."),
    ("blank", "Lay layer on layer", "On the blank, lowest first: midnight, then gold."),
]


@pytest.mark.parametrize(("order", "title", "words"), LAYUP)
def test_layers_are_laid_in_the_order_that_was_chosen(order: str, title: str, words: str) -> None:
    two = svg(
        '<rect width="60" height="40" fill="#1c3d7a"/><rect x="20" y="10" width="20" height="20" fill="#b98a2f"/>'
    )
    raw = {**cup(), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45})], "layup": {"order": order}}
    b = build(load_job(raw), {"a.svg": two})
    assert b.layup is not None
    steps = {s.title: s.words() for s in b.layup.steps}
    assert title in steps and steps[title].startswith(words)
    assert len([t for t in steps if t.startswith("Lay ")]) == 1
    assert "midnight 1 stay, 1 go; gold 1 stay, 1 go" in steps["Weed"]
    assert list(steps)[:3] == ["Cut", "Weed", "Clean"] and list(steps)[-1] == "Cure"


@pytest.mark.parametrize(
    ("films", "tape"),
    [
        (["calendered-gloss", "glitter"], "strong"),
        (["removable", "calendered-gloss"], "medium"),
        (["heat-transfer", "glitter"], "strong"),
        (["heat-transfer", "heat-transfer"], "carrier"),
    ],
)
def test_the_film_that_holds_least_decides_the_tape(films: list[str], tape: str) -> None:
    two = svg(
        '<rect width="60" height="40" fill="#1c3d7a"/><rect x="20" y="10" width="20" height="20" fill="#b98a2f"/>'
    )
    chosen = [{"colour": c, "film": f} for c, f in zip(("#1c3d7a", "#b98a2f"), films, strict=True)]
    raw = {**cup(), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45})], "layers": {"films": chosen}}
    b = build(load_job(raw), {"a.svg": two})
    assert b.layup is not None and b.layup.tape == tape
    codes = {c.code for c in b.layup.cautions}
    assert ("microwave" in codes) is ("glitter" in films) and ("heat" in codes) is ("heat-transfer" in films)
    assert {"blades", "alcohol", "food", "wash"} <= codes


@pytest.mark.parametrize(("film", "longer"), [("calendered-matt", True), ("calendered-gloss", False)])
def test_matt_film_is_burnished_longer(film: str, longer: bool) -> None:
    b = build(
        load_job(
            {**cup(), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45})], "layers": {"default_film": film}}
        ),
        {"a.svg": BAR},
    )
    steps = {s.title: s.text for s in b.layup.steps}  # type: ignore[union-attr]
    assert ("Burnish longer" in steps["Tape"]) is longer


@pytest.mark.parametrize(("wall", "poured"), [("single", True), ("double", False)])
def test_level_by_water_or_by_a_gauge(wall: str, poured: bool) -> None:
    """Poured to the lowest edge of the decal where one wall lets the level be seen: 262.5 and 205 round, 96 along."""
    raw = {**cup(wall=wall, wall_mm=1.0), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45})]}
    b = build(load_job(raw), {"a.svg": BAR})
    step = next(s for s in b.layup.steps if s.title == "Find level")  # type: ignore[union-attr]
    edge = b.fit.drawings[0].span_s[0]  # type: ignore[union-attr]
    assert ("pour" in step.text) is poured and step.figures["height"][0] == pytest.approx(edge, abs=0.01)
    if poured:
        from wimple_core.measure.capacity import level_volume_ml

        assert step.figures["volume"][0] == pytest.approx(level_volume_ml(b.measured.body, edge, 1.0), rel=1e-3)  # type: ignore[arg-type]


def test_curing_for_too_short_a_time_is_said() -> None:
    raw = {**cup(), "layup": {"cure_hours": 40, "apply_on": "2026-12-01T10:00"}}
    b = build(load_job(raw), {})
    said = next(v for v in b.verdicts if v.code == "layup.cure")
    assert said.level == "look" and said.fix == 72 and b.layup is not None
    assert b.layup.wash_from is not None and b.layup.wash_from.isoformat().startswith("2026-12-03T02:00")


def test_many_contours_are_cut_in_the_order_of_few(monkeypatch: pytest.MonkeyPatch) -> None:
    """Few points are looked through, of many a tree is asked: the blade goes the same way."""
    from wimple_core.cutting import order

    g = np.random.default_rng(3)
    places = g.uniform(0, 200, (300, 2))
    region = shapely.union_all(shapely.buffer(shapely.points(places), g.uniform(0.5, 4, 300), quad_segs=5))
    contours = contours_of(cuts_round(region))
    looked_through = order_contours(contours)
    monkeypatch.setattr(order, "FEW", 0)
    asked = order_contours(contours)
    assert len(asked) == len(contours) > 80
    assert all(np.array_equal(a.points, b.points) for a, b in zip(looked_through, asked, strict=True))


@pytest.mark.parametrize(
    ("machine", "corner"),
    [
        ({}, (10.0, 20.0)),
        ({"origin": "lower_right"}, (90.0, 20.0)),
        ({"origin": "upper_left"}, (10.0, 180.0)),
        ({"origin": "upper_right"}, (90.0, 180.0)),
        ({"x_along_feed": True}, (20.0, 10.0)),
        ({"origin": "upper_right", "x_along_feed": True}, (180.0, 90.0)),
    ],
)
def test_a_file_counts_as_its_machine_does(machine: dict[str, Any], corner: tuple[float, float]) -> None:
    """A place 10 mm in and 20 mm up on a safe area of 100 by 200, by hand; and on a machine of 100 units to the mm."""
    mat = CUTTERS["desktop-mat"].model_copy(update={"safe_width_mm": 100.0, "safe_length_mm": 200.0, **machine})
    path = CutPath(np.array([[10.0, 20.0], [15.0, 20.0]]), 0)
    x, y = corner
    assert f"PU{40 * x:.0f},{40 * y:.0f};" in plotter_file([path], (), mat, 200.0)
    fine = mat.model_copy(update={"steps_per_mm": 100.0})
    assert f"PU{100 * x:.0f},{100 * y:.0f};" in plotter_file([path], (), fine, 200.0)


@pytest.mark.parametrize("name", ["case-lid-stars", "perihelion-cup", "six-films", "jar-insert"])
def test_what_lies_in_another_contour_is_cut_before_it(name: str) -> None:
    """Frames and pieces alike: of two closed contours, one within the other, the inner comes first."""
    raw = example(name)
    b = build(load_job(raw), files_of(raw))
    assert b.cutting is not None
    pairs = 0
    for one in (p for plan in b.cutting.every for p in plan.passes):
        wanted = [p.points if p.wanted is None else p.wanted for p in one.paths]
        rings = [(n, w) for n, w in enumerate(wanted) if len(w) > 3 and np.hypot(*(w[0] - w[-1])) < 1.5]
        shells = shapely.buffer(np.array([shapely.Polygon(w) for _, w in rings], dtype=object), 0)
        inner, outer = shapely.STRtree(shells).query(shapely.buffer(shells, -0.3), predicate="within")
        apart = (inner != outer) & (shapely.area(shells[outer]) > 1.02 * shapely.area(shells[inner]))
        pairs += int(apart.sum())
        assert (inner[apart] < outer[apart]).all(), one.film.id
    assert pairs
