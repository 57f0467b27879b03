"""Large work in panels: put together again they are the whole, and no piece is crossed where a line goes round."""

from __future__ import annotations

import itertools
import json
import math
from pathlib import Path
from types import SimpleNamespace
from typing import Any, cast

import numpy as np
import pytest
import shapely
from samples import board, element, svg
from wimple_core.cuts import cuts_round
from wimple_core.export import all_files
from wimple_core.job import load_job
from wimple_core.job.document import PanelPlan
from wimple_core.layers import Layer
from wimple_core.pipeline import build_whole as build
from wimple_core.sheets.panels import BAR_MM, Parted, fewest, part
from wimple_core.sheets.seams import CENTRED, STEP, Window, cheapest, covered, line_through

ROOM = (560.0, 3000.0)


def layer(shapes: list[shapely.Polygon]) -> Layer:
    """A layer of those pieces."""
    ids = [f"a:{n}" for n in range(len(shapes))]
    return cast(Layer, SimpleNamespace(cuts=cuts_round(shapely.multipolygons(shapes), "piece", ids)))


def scattered(seed: int, wide: float, tall: float, count: int) -> list[shapely.Polygon]:
    """Pieces of many forms, six millimetres apart at least."""
    rng = np.random.default_rng(seed)
    out: list[shapely.Polygon] = []
    taken: list[tuple[float, float, float]] = []
    while len(out) < count:
        r = float(rng.uniform(6, 40))
        x, y = float(rng.uniform(r, wide - r)), float(rng.uniform(r, tall - r))
        if any(math.hypot(x - a, y - b) < r + c + 6 for a, b, c in taken):
            continue
        taken.append((x, y, r))
        corners = int(rng.integers(3, 9))
        a = rng.uniform(0, 6) + 2 * np.pi * np.arange(corners) / corners
        out.append(shapely.Polygon(np.column_stack([x + r * np.cos(a), y + r * np.sin(a)])))
    return out


def pieces_of(made: Parted) -> list[Any]:
    return [panel.cuts.only("piece", "hole").region for panel in made.panels]


def held(made: Parted, room: tuple[float, float]) -> bool:
    boxes = [panel.cuts.bounds for panel in made.panels]
    return all(r - a <= room[0] + 1e-6 and t - b <= room[1] + 1e-6 for a, b, r, t in boxes)


def test_two_hundred_layouts_are_parted_and_put_together_again() -> None:
    for seed in range(200):
        rng = np.random.default_rng(seed + 5000)
        wide, tall = float(rng.uniform(700, 2400)), float(rng.uniform(250, 1500))
        shapes = scattered(seed, wide, tall, int(wide * tall / 14_000))
        whole = shapely.multipolygons(shapes)
        room = (560.0, float(rng.choice([600.0, 3000.0])))
        one = layer(shapes)
        assert fewest(one, room, 4.0)
        made = part(one, PanelPlan(part=True, first=str(rng.choice(["left", "right"]))), room, 4.0)  # type: ignore[arg-type]
        assert made.crossed == () and held(made, room), seed
        ids = [i for panel in made.panels for i in np.array(panel.cuts.ids)[np.unique(panel.cuts.only("piece").pieces)]]
        assert sorted(ids) == sorted(f"a:{n}" for n in range(len(shapes))), seed
        assert shapely.union_all(pieces_of(made)).symmetric_difference(whole).area < 1e-6
        # Each guide bar is cut on the panels on both sides of its joint, in one place, and lies on no piece.
        bars = [b for panel in made.panels for b in shapely.get_parts(panel.cuts.only("mark").region)]
        assert not shapely.intersects(whole, np.array(bars)).any()
        centres = [tuple(np.round(shapely.get_coordinates(b.centroid)[0], 3)) for b in bars]
        assert all(centres.count(c) >= 2 for c in centres) and len(set(centres)) >= len(made.joints)


def test_a_solid_piece_is_crossed_with_a_lap_on_the_panel_laid_later() -> None:
    """2000 x 400 mm in rooms of 560: four panels of 500 or less, and three laps of 10 x 400."""
    solid = shapely.box(0, 0, 2000, 400)
    for first in ("left", "right"):
        made = part(layer([solid]), PanelPlan(part=True, lap_mm=10, first=first), ROOM, 4.0)  # type: ignore[arg-type]
        regions = pieces_of(made)
        assert len(regions) == 4 and made.crossed == ("a:0",) and held(made, ROOM)
        assert sum(r.area for r in regions) == pytest.approx(2000 * 400 + 3 * 10 * 400)
        assert shapely.union_all(regions).symmetric_difference(solid).area < 1e-6
        starts = [r.bounds[0] for r in regions]
        assert starts == sorted(starts, reverse=first == "right")
        # The one laid later reaches over the joint, the one before it ends there.
        joint = sorted(float(j[0, 0]) for j in made.joints)
        if first == "left":
            assert regions[1].bounds[0] == pytest.approx(joint[0] - 10) and regions[0].bounds[2] == pytest.approx(
                joint[0]
            )
        else:
            assert regions[1].bounds[2] == pytest.approx(joint[2] + 10) and regions[0].bounds[0] == pytest.approx(
                joint[2]
            )


def test_letters_are_never_crossed_where_a_plain_piece_can_be() -> None:
    """A letter fills the left half of the window, a plain bar the right: the joint goes through the bar."""
    touching = np.array([shapely.box(0, 0, 50, 100), shapely.box(50, 0, 100, 100)])
    letters = np.array([True, False])
    for letter, other in ((0, 1), (1, 0)):
        line, _ = line_through(touching, letters[[letter, other]], Window(10, 90, 0, 100))
        crossed = shapely.intersection(shapely.LineString(line), touching)
        assert shapely.length(crossed[letter]) < 1 and shapely.length(crossed[other]) > 99
    # Between the two there is room: it goes there, straight.
    parts = np.array([shapely.box(0, 0, 50, 100), shapely.box(52.5, 0, 100, 100)])
    line, cost = line_through(parts, letters, Window(45, 58, 0, 100))
    assert len(line) == 2 and 50 < line[0, 0] < 52.5 and cost < 150


def test_a_line_steps_round_what_stands_in_its_way() -> None:
    parts = np.array([shapely.box(-40, 0, 5, 45), shapely.box(-5, 60, 40, 100)])
    line, cost = line_through(parts, np.zeros(2, dtype=bool), Window(-20, 20, 0, 100))
    assert not shapely.intersects(shapely.LineString(line), parts).any()
    assert cost < 3 * STEP and len(line) == 4


def test_the_cheapest_line_is_the_cheapest() -> None:
    """Against every line there is on grids of 4 x 5."""
    rng = np.random.default_rng(1)
    for _ in range(40):
        cost = rng.choice([0.01, 1.0, 40.0], (4, 5), p=[0.5, 0.2, 0.3]) + CENTRED
        columns, spent = cheapest(cost)

        def price(line: tuple[int, ...], cost: np.ndarray = cost) -> float:
            # Each row's cell, and for a step aside all cells up to where it leads.
            out = cost[range(4), line].sum()
            for row in range(1, 4):
                a, b = sorted((line[row - 1], line[row]))
                out += STEP + cost[row, a + 1 : b + 1].sum() if a != b else 0.0
            return float(out)

        best = min(price(line) for line in itertools.product(range(5), repeat=4))
        assert spent == pytest.approx(best) == price(tuple(columns.tolist()))


def test_cells_are_covered_as_shapely_says() -> None:
    shapes = np.array(scattered(3, 200, 150, 14))
    holed = shapes[0].difference(shapes[0].centroid.buffer(3))
    shapes[0] = holed
    window = Window(13.5, 171.25, -4.0, 160.0)
    found = covered(shapes, window)
    x = window.left + 0.5 + np.arange(found.shape[1])
    y = window.low + 0.5 + np.arange(found.shape[0])
    told = shapely.contains_xy(shapely.multipolygons(list(shapes)), *(g.ravel() for g in np.meshgrid(x, y)))
    assert (found.ravel() == told).mean() > 0.9995


WORDS = svg(
    '<rect width="900" height="60" fill="#1c3d7a"/><rect y="80" width="900" height="60" fill="#1c3d7a"/>',
    'width="900mm" height="140mm" viewBox="0 0 900 140"',
)


def wall(**panels: Any) -> Any:
    raw = {
        "blank": board(2000, 2000),
        "elements": [element("a.svg", {"width_mm": 900, "up_mm": 1000})],
        "layers": {"marks": {"kind": "none"}},
        "sheets": {"cutter": "desktop-mat", "panels": panels},
    }
    return build(load_job(raw), {"a.svg": WORDS})


def test_a_job_in_panels_has_loads_files_and_steps_for_each() -> None:
    plain = wall()
    fits = next(v for v in plain.verdicts if v.code == "sheets.fits")
    assert fits.level == "stop" and len(plain.sheets.loads) == 1
    made = wall(part=True, lap_mm=8)
    loads = made.sheets.loads
    assert all(load.fits for load in loads) and len(loads) == 4
    assert [load.name for load in loads] == [f"midnight, panel {n} of 4" for n in (1, 2, 3, 4)]
    said = next(v for v in made.verdicts if v.code == "sheets.panels")
    assert said.level == "look" and "cross 2 pieces: there the panel laid later laps over by 8.0 mm" in said.sentence()
    names = [f.path for f in all_files(made, {"a.svg": WORDS})]
    assert "sheets/03-midnight-panel-3-of-4-x1.plt" in names
    step = next(s for s in made.layup.steps if s.title == "Lay the panels")
    assert "4 panels" in step.words() and "8.0 mm" in step.words()
    # A mistake in the last step costs the film of all panels.
    every = sum(load.film_area for load in loads) / 1e6 * 4.43
    assert float(made.layup.choices[0].film_cost) == pytest.approx(every)
    # Film for one piece of the batch: all four panels.
    film = next(line for line in made.price.lines if line.name.startswith("Film"))
    area = sum(load.film_area for load in loads) / 1e6
    assert float(film.exact) == pytest.approx(area * 4.43)


def test_a_joint_stands_where_a_hand_wants_it() -> None:
    left = np.array(
        [v for v in wall(part=True, moved_mm=[200]).sheets.loads[0].items[0].item.cuts.only("piece").bounds]
    )
    assert left[2] - left[0] == pytest.approx(200, abs=2.5)
    # Too far: the panel has no room, which is said and not mended in silence.
    far = wall(part=True, moved_mm=[500])
    assert any(v.code == "sheets.fits" and v.level == "stop" for v in far.verdicts) and not far.sheets.loads[0].fits


def test_a_joint_that_is_moved_stays_upright_whatever_it_crosses() -> None:
    """Words for a wall, in panels beside each other: a joint moved across letters does not part them into rows."""
    examples = Path(__file__).parents[2] / "examples"
    raw = json.loads((examples / "wall-words.wimple.json").read_text())
    names = load_job(raw).drawings
    files = {name: (examples / "drawings" / name).read_bytes() for name in names}
    raw["sheets"]["panels"] = {**raw["sheets"].get("panels", {}), "part": True, "moved_mm": [380]}
    moved = build(load_job(raw), files)
    first = moved.sheets.parted["midnight"].joints[0]
    assert np.ptp(first[:, 1]) > 10 * np.ptp(first[:, 0])


def test_bars_tell_joints_apart() -> None:
    made = part(layer([shapely.box(0, 0, 2000, 400)]), PanelPlan(part=True), ROOM, 0.0)
    bars = {round(b.area, 3) for p in made.panels for b in shapely.get_parts(p.cuts.only("mark").region)}
    assert len(bars) == len(made.joints) == 3 and ROOM[0] > BAR_MM


def test_where_nothing_of_a_film_lies_there_is_no_panel() -> None:
    """Two boards apart on a wide panel: between them, and where marks stand alone, there is nothing to lay."""
    two = svg(
        '<rect x="22" y="36.1" width="40.6" height="16.7" fill="#2f8a4a"/>'
        '<rect x="70.7" y="59.5" width="24.7" height="18.2" fill="#2f8a4a"/>',
        'width="100mm" height="80mm" viewBox="0 0 100 80"',
    )
    raw = {
        "blank": board(900, 700),
        "elements": [element("a.svg", {"width_mm": 800, "up_mm": 350, "across_mm": 0})],
        "sheets": {"cutter": "desktop-mat", "panels": {"part": True}},
    }
    b = build(load_job(raw), {"a.svg": two}, "sheets")
    items = [p.item for load in b.sheets.loads for p in load.items]
    assert len(items) > 1 and all(len(item.cuts.only("piece")) for item in items)
    (layer,) = b.layers.layers
    assert sum(item.area for item in items) >= layer.area - 1
    assert sorted(item.panel for item in items) == [(n, len(items)) for n in range(1, len(items) + 1)]
