"""What the blade does: where its pivot runs, how long it takes, what a load holds; tables a shop brings itself."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import EXAMPLES, example, files_of, svg
from wimple_core.artwork import read_svg
from wimple_core.command import main
from wimple_core.cutting.compensation import pivot_path
from wimple_core.cutting.seconds import cutting_seconds, seconds_for, stretch_seconds
from wimple_core.cutting.simulated.machine import Machine, Sheet
from wimple_core.errors import BadDocument
from wimple_core.fit.separated import as_bytes, from_bytes, prepare
from wimple_core.job import load_job
from wimple_core.job.tables import SHIPPED, load_tables
from wimple_core.layers.layers import count_weeded
from wimple_core.overlay import EMPTY, difference, intersection, union
from wimple_core.pipeline import build_whole


def trailed(pivot: np.ndarray, offset: float) -> np.ndarray:
    """Where the tip of a blade goes that trails its pivot by `offset` mm: the tractrix of the pivot's path (Lawrence,
    A Catalog of Special Plane Curves, 1972), in short steps."""
    fine = shapely.get_coordinates(shapely.segmentize(shapely.LineString(pivot), offset / 50))
    first = fine[1] - fine[0]
    tip = fine[0] - offset * first / np.hypot(*first)
    out = [tip]
    for p in fine[1:]:
        away = tip - p
        tip = p + offset * away / np.hypot(*away)
        out.append(tip)
    return np.array(out)


@pytest.mark.parametrize("turn", [30, 90, -90, 150])
def test_a_trailing_blade_cuts_the_corner_it_is_led_round(turn: float) -> None:
    a = math.radians(turn)
    path = np.array([[0, 0], [20, 0], [20 + 20 * math.cos(a), 20 * math.sin(a)]], dtype=float)
    wanted = shapely.LineString(path)
    led = shapely.LineString(trailed(pivot_path(path, 0.25), 0.25))
    assert shapely.hausdorff_distance(led, wanted, densify=0.01) < 0.01
    left = shapely.LineString(trailed(path, 0.25))
    assert shapely.distance(left, shapely.Point(20, 0)) > 5 * shapely.distance(led, shapely.Point(20, 0))


def test_no_offset_no_compensation() -> None:
    path = np.array([[0.0, 0], [5, 0], [5, 5]])
    assert pivot_path(path, 0.0) is path


def test_seconds_are_those_of_uniform_acceleration() -> None:
    """Worked by hand: 100 mm at 50 mm/s with 1000 mm/s2 are 2 s and 0.05 s of speeding up and slowing down; 1 mm never
    reaches its speed: half of it in sqrt(2 * 0.5 / 1000) s, and as long again."""
    found = stretch_seconds(np.array([100.0, 1.0, 2.5]), 50.0, 1000.0)
    assert found == pytest.approx([2.05, 2 * math.sqrt(0.001), 0.1])
    machine = SHIPPED.cutters[0].model_copy(
        update={"speed_mm_s": 50.0, "travel_mm_s": 100.0, "acceleration_mm_s2": 1000.0, "lift_s": 0.3}
    )
    there_and_back = 2 * (30 / 100 + 0.1) - 0.0
    line = np.array([[30.0, 0], [30, 100], [30, 0]])
    # Where the line turns back it stops.
    assert seconds_for([line], machine) == pytest.approx(2 * (100 / 50 + 0.05) + there_and_back + 0.3)


def test_at_corners_it_stops_and_in_bends_it_is_held() -> None:
    """Worked by hand: a square of 10 mm has four stretches from rest to rest; a ring of 20 mm is run at sqrt(a r), and
    speeding up to that and slowing down cost half of v / a each; a straight line in many points is one."""
    square = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10], [0, 0]])
    assert cutting_seconds([square], 100.0, 2000.0) == pytest.approx(4 * (10 / 100 + 100 / 2000))
    t = np.linspace(0, 2 * math.pi, 721)
    ring = 20 * np.column_stack([np.cos(t), np.sin(t)])
    held = math.sqrt(100 * 20)
    assert cutting_seconds([ring], 400.0, 100.0) == pytest.approx(2 * math.pi * 20 / held + held / 100, rel=0.01)
    line = np.column_stack([np.linspace(0, 300, 301), np.zeros(301)])
    assert cutting_seconds([line], 100.0, 1000.0) == pytest.approx(300 / 100 + 0.1)
    # Paths are cut one after the other, each from rest.
    assert cutting_seconds([line, square, line], 100.0, 2000.0) == pytest.approx(2 * (3 + 0.05) + 0.6)


@pytest.mark.parametrize("name", ["star-atlas-mug", "perihelion-cup", "ring-words"])
def test_the_blade_takes_as_long_as_the_simulated_cutters_own_clock_says(name: str) -> None:
    raw = example(name)
    b = build_whole(load_job(raw), files_of(raw), "sheets")
    cutter = b.sheets.cutter
    for plan in b.cutting.plans[:2]:
        machine = Machine(
            speed_mm_s=cutter.speed_mm_s,
            travel_mm_s=cutter.travel_mm_s,
            acceleration_mm_s2=cutter.acceleration_mm_s2,
            lift_s=cutter.lift_s,
        )
        machine.load(Sheet(film_um=70.0))
        machine.take(b"IN;PA;")
        for path in plan.paths:
            at = np.rint(path.points * 40).astype(int)
            machine.take(b"PU%d,%d;PD" % tuple(at[0]))
            told = b",".join(b"%d,%d" % tuple(p) for p in at[1:].tolist()) + b";PU;"
            for k in range(0, len(told), 500):
                machine.take(told[k : k + 500])
        machine.take(b"PU0,0;")
        assert plan.seconds == pytest.approx(machine.seconds, rel=0.05), plan.load.name


def _shapes(numbers: list[tuple[float, float, float, bool]]) -> Any:
    out = EMPTY
    for x, y, r, ring in numbers:
        disc = shapely.Point(x, y).buffer(r, quad_segs=6)
        out = shapely.union(out, disc.difference(shapely.Point(x, y).buffer(0.6 * r, quad_segs=6)) if ring else disc)
    return out


regions = st.lists(
    st.tuples(st.floats(0, 40), st.floats(0, 30), st.floats(1, 7), st.booleans()), min_size=1, max_size=9
).map(_shapes)


@settings(max_examples=60, deadline=None)
@given(regions, regions)
def test_overlays_by_groups_are_those_of_the_whole(a: Any, b: Any) -> None:
    """Against the library's own overlay of everything at once; waste against what is left of a box round the work."""
    for ours, theirs in (
        (union, shapely.union),
        (intersection, shapely.intersection),
        (difference, shapely.difference),
    ):
        found = ours([a, b]) if ours is union else ours(a, b)
        assert found.is_valid
        assert shapely.symmetric_difference(found, theirs(a, b)).area < 1e-2
    box = shapely.box(*shapely.buffer(a, 3).bounds)
    waste = shapely.area(shapely.get_parts(shapely.difference(box, a)))
    # Slivers of waste too small to see may be counted or not.
    assert np.count_nonzero(waste > 1e-3) <= count_weeded(a, EMPTY) <= len(waste)


def test_a_drawing_kept_is_the_drawing_read() -> None:
    data = svg(
        '<circle cx="50" cy="50" r="40" fill="#d8a21b"/><path d="M30 30h40v40h-40z" fill="#b3262e"/><text>x</text>'
    )
    made = prepare(read_svg(data))
    again = from_bytes(as_bytes(made))
    assert again.artwork.notes == made.artwork.notes and again.artwork.tolerance == made.artwork.tolerance
    assert (again.roundness, again.artwork.bounds) == (made.roundness, made.artwork.bounds)
    for a, b in zip(made.colours, again.colours, strict=True):
        assert (a.colour, a.names) == (b.colour, b.names)
        assert a.seen.equals_exact(b.seen, 0) and a.painted.equals_exact(b.painted, 0)


OWN = {**SHIPPED.films[0].model_dump(mode="json"), "id": "own-roll", "name": "Our own roll", "price_per_m2": "20.00"}


def test_a_shops_own_film_is_cut_and_priced(tmp_path: Path) -> None:
    raw = json.loads((EXAMPLES / "comet-door.wimple.json").read_text(encoding="utf-8"))
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir()}
    raw["layers"]["default_film"], raw["layers"]["films"] = "own-roll", []
    with pytest.raises(BadDocument) as bad:
        build_whole(load_job(raw), files)
    assert bad.value.faults[0].field == "layers.default_film" and "calendered-gloss" in str(bad.value.faults[0].hint)
    dear, cheap = (
        build_whole(load_job(raw), files, tables=load_tables({"films": [{**OWN, "price_per_m2": p}]}))
        for p in ("20.00", "10.00")
    )
    assert dear.price and cheap.price and dear.sheets
    assert {item.item.film.id for load in dear.sheets.loads for item in load.items} == {"own-roll"}
    films = [sum(line.exact for line in b.price.lines if line.name.startswith("Film")) for b in (dear, cheap)]
    assert films[0] == 2 * films[1] > 0
    job, tables = tmp_path / "job.wimple.json", tmp_path / "tables.json"
    job.write_text(json.dumps(raw), encoding="utf-8")
    (tmp_path / "drawings").mkdir()
    for name, data in files.items():
        (tmp_path / "drawings" / name).write_bytes(data)
    tables.write_text(json.dumps({"films": [OWN]}), encoding="utf-8")
    assert main([str(job), "--out", str(tmp_path / "out")]) == 1
    assert main([str(job), "--tables", str(tables), "--out", str(tmp_path / "out")]) == 0
    report = json.loads((tmp_path / "out" / "report.json").read_text(encoding="utf-8"))
    assert {la["film"] for la in report["layers"]} == {"own-roll"}


@pytest.mark.parametrize(
    ("words", "field"), [("{", "tables"), ('{"films": [{"id": "x"}]}', "films.0"), ('{"film": []}', "film")]
)
def test_tables_that_are_none_are_refused(
    words: str, field: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "t.json").write_text(words, encoding="utf-8")
    job = EXAMPLES / "comet-door.wimple.json"
    assert main([str(job), "--tables", str(tmp_path / "t.json"), "--out", str(tmp_path / "o")]) == 1
    assert f"wimple: {field}" in capsys.readouterr().err
