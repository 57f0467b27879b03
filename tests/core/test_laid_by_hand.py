"""Sets laid by hand and pieces laid loose: nothing overlaps, what the hand laid stays, and what it costs is told."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, element, svg
from wimple_core.built import Build
from wimple_core.cache import StageCache
from wimple_core.cuts import cuts_along, cuts_round, together
from wimple_core.job import load_job
from wimple_core.job.document import HandPlace, HeldFree, SheetPlan
from wimple_core.pipeline import build_whole as build
from wimple_core.sheets import film_by_cause
from wimple_core.sheets import search as searching
from wimple_core.sheets.batch import boxed, laid_by_hand, loosened, outlined
from wimple_core.sheets.by_hand import HandLaid, held_boxes, lay_by_hand
from wimple_core.sheets.loads import Medium
from wimple_core.sheets.loose import block, fewer, pieces_of
from wimple_core.sheets.shape import Place, Shape
from wimple_core.sheets.skyline import lay_many
from wimple_core.views.loads import loads_view

RANDOM = np.random.default_rng(20)
CORNERS = ["low_left", "low_right", "high_left", "high_right"]
RINGS = svg(
    '<path fill="#1c3d7a" d="M0 0H60V40H0ZM5 5V35H55V5Z"/><path fill="#1c3d7a" d="M15 12H30V28H15ZM18 15V25H27V15Z"/>'
    '<rect x="38" y="12" width="6" height="16" fill="#1c3d7a"/>'
)


def blob(least: float, most: float) -> np.ndarray:
    """A ragged outline round the origin."""
    corners = int(RANDOM.integers(5, 15))
    angle = 2 * np.pi * (np.arange(corners) + RANDOM.uniform(0, 0.9, corners)) / corners
    return RANDOM.uniform(least, most, corners)[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])


def lying(places: Sequence[Place], outlines: Sequence[np.ndarray]) -> np.ndarray:
    return np.array([shapely.Polygon(p.of(outlines[p.shape])) for p in places])


def nearest(regions: np.ndarray) -> float:
    """The least distance between any two."""
    one, other = np.triu_indices(len(regions), 1)
    return float(shapely.distance(regions[one], regions[other]).min(initial=np.inf))


def inside(regions: np.ndarray, width: float, length: float) -> bool:
    left, low, right, high = shapely.total_bounds(regions)
    return min(left, low) >= -1e-6 and right <= width + 1e-6 and high <= length + 1e-6


@pytest.mark.parametrize("gap", [1.0, 3.0, 20.0])
def test_outlines_of_many_kinds_keep_their_gaps(gap: float) -> None:
    for count in (*[9] * 20, 70):
        outlines = [blob(4, 30) for _ in range(count)]
        turns: Any = ["any", "half", "never"][count % 3]
        laid = lay_many([Shape(o, 1 + n % 2, turns) for n, o in enumerate(outlines)], 200, gap)
        assert laid is not None
        regions = lying(laid.places, outlines)
        assert sorted(p.shape for p in laid.places) == sorted(n for n in range(count) for _ in range(1 + n % 2))
        assert nearest(regions) >= gap and inside(regions, 200, laid.length)
    assert lay_many([Shape(np.array([(0, 0), (201, 0), (201, 300), (0, 300)]), 1, "half")], 200, gap) is None


def test_squares_come_to_lie_in_full_rows() -> None:
    """20 mm squares 2 mm apart on 300 mm: 13 to a row, so 100 of them make 8 rows of 22 less one gap."""
    square = Shape(np.array([(0, 0), (20, 0), (20, 20), (0, 20)], dtype=float), 100, "any")
    laid = lay_many([square], 300, 2)
    assert laid is not None and laid.length == pytest.approx(8 * 22 - 2, abs=0.5)


def by_hand(outline: np.ndarray, wanted: list[HandPlace], **more: Any) -> HandLaid:
    given = {"turns": "any", "gap": 3.0, "room": (300.0, 400.0), "held": [], "count": 8, **more}
    return lay_by_hand(outline, wanted=wanted, **given)


def test_nothing_laid_by_hand_overlaps_and_the_first_stays_where_it_was_left() -> None:
    for n in range(60):
        outline = blob(12, 40)
        gap, turns = (1.0, 3.0, 12.0)[n % 3], ("any", "half", "never")[n // 3 % 3]
        some = RANDOM.uniform((-60, -60, -180), (320, 420, 180), (n % 6, 3))
        wanted = [HandPlace(film="a", x_mm=x, y_mm=y, turn_deg=t) for x, y, t in some.tolist()]
        corner: Any = CORNERS[n % 4]
        held = held_boxes([HeldFree(corner=corner, width_mm=70, height_mm=90)], 300, 400) if n % 2 else []
        laid = by_hand(outline, wanted, gap=gap, turns=turns, held=held)
        regions = lying(laid.places, [outline])
        assert nearest(regions) >= gap - 1e-6 and inside(regions, *laid.size) and inside(regions, 300, 400)
        assert all(shapely.distance(r, shapely.box(*box)) >= gap / 2 - 1e-6 for r in regions for box in held)
        turned = {round(p.turn) for p in laid.places}
        assert turns == "any" or turned <= ({0, 180} if turns == "half" else {0})
        by = [h for h in laid.by_hand if h >= 0]
        assert len(by) == len(set(by))
        if wanted and not held and laid.by_hand[0] == 0:
            # Kept inside the room, it lies just where it was left.
            left, low, right, high = regions[0].bounds
            assert left == pytest.approx(min(max(wanted[0].x_mm, 0), 300 - right + left), abs=1e-6)
            assert low == pytest.approx(min(max(wanted[0].y_mm, 0), 400 - high + low), abs=1e-6)


def test_corners_and_turns_are_as_they_are_called() -> None:
    held = [HeldFree(corner=c, width_mm=20, height_mm=900) for c in CORNERS]  # type: ignore[arg-type]
    left, right = (0, 0, 20, 100), (180, 0, 200, 100)
    assert held_boxes(held, 200, 100) == [left, right, left, right]
    assert held_boxes([HeldFree(corner="high_right", width_mm=20, height_mm=30)], 200, 100) == [(180, 70, 200, 100)]
    wedge = np.array([(0, 0), (40, 0), (0, 20)], dtype=float)
    for turns, want, had in (("half", 170, 180), ("half", -80, 0), ("never", 170, 0), ("any", -90, 270)):
        laid = by_hand(wedge, [HandPlace(film="a", x_mm=50, y_mm=50, turn_deg=want)], turns=turns, count=1)
        assert laid.places[0].turn == had


def test_a_loose_piece_takes_its_holes_and_slits_with_it() -> None:
    frame = shapely.box(0, 0, 60, 40).difference(shapely.box(5, 5, 55, 35))
    work = cuts_round(shapely.multipolygons([frame, shapely.box(70, 0, 90, 40)]), "piece")
    slit = cuts_along([np.array([(80.0, 0.0), (80.0, 15.0)])], "slit")
    first, second = pieces_of(together([slit, work]))
    assert (first.cuts.region.area, second.cuts.region.area) == (900, 800)
    assert not len(first.cuts.only("slit")) and second.cuts.only("slit").points.tolist() == [[10, 0], [10, 15]]


def test_what_has_no_room_where_it_was_left_lies_as_near_as_goes() -> None:
    """A square left half over another one moves aside by what is missing, and by no more than two cells."""
    square = np.array([(0, 0), (40, 0), (40, 40), (0, 40)], dtype=float)
    two = [HandPlace(film="a", x_mm=100, y_mm=100), HandPlace(film="a", x_mm=110, y_mm=102)]
    laid = by_hand(square, two, count=2)
    (_, first), (x, y) = (p.at for p in laid.places), laid.places[1].at
    assert (laid.places[0].at, first) == ((100, 100), (x, y))
    # 43 mm from the first's left edge is where it is just free.
    assert x == pytest.approx(143, abs=3) and x >= 143 - 1e-6 and y == pytest.approx(102, abs=2)


def test_the_rest_lie_round_what_the_hand_laid_as_many_as_without() -> None:
    square = np.array([(0, 0), (40, 0), (40, 40), (0, 40)], dtype=float)
    alone = by_hand(square, [], count=100)
    corner = by_hand(square, [HandPlace(film="a")], count=100)
    middle = by_hand(square, [HandPlace(film="a", x_mm=63, y_mm=70)], count=100)
    # Six to a row of 300 and nine rows of 400, less what cells cost: the last of a row is 3 mm short of room.
    assert 48 <= len(alone.places) <= 54 and len(corner.places) >= 48
    assert len(alone.places) - 8 <= len(middle.places) < len(alone.places)


def planned(
    quantity: int = 6, drawing: bytes = RINGS, wide: float = 60, cache: StageCache | None = None, **sheets: Any
) -> Build:
    raw = {
        "blank": board(1000, 1000),
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": wide, "up_mm": 500})],
        "layers": {"marks": {"kind": "squares"}},
        "sheets": {"cutter": "desktop-mat", "margin_mm": 10, **sheets},
    }
    return build(load_job(raw), {"a.svg": drawing}, cache=cache)


def verdict(b: Build, code: str) -> Any:
    return next((v for v in b.sheets.verdicts if v.code == code), None)  # type: ignore[union-attr]


def test_sets_lie_on_the_load_where_the_hand_left_them() -> None:
    alone = planned()
    name = alone.sheets.loads[0].patches[0].name  # type: ignore[union-attr]
    b = planned(
        by_hand=[{"film": name, "x_mm": 150, "y_mm": 100}, {"film": name, "x_mm": 10, "y_mm": 120, "turn_deg": 90}]
    )
    load = b.sheets.loads[0]  # type: ignore[union-attr]
    first = next(i for i in load.items if i.by_hand == 0)
    corner = load.patches[0].corner
    assert np.subtract(first.outlined[:2], corner) == pytest.approx([150, 100])
    assert next(i for i in load.items if i.by_hand == 1).turn == 90
    # The screen is told the same places: what it sends back leaves each where it is.
    shown = loads_view(b.sheets, b.cutting, (), "mm").loads[0].patches[0].items  # type: ignore[arg-type]
    assert [(round(i.x, 6), round(i.y, 6), i.turn) for i in shown if i.by_hand == 0] == [(150, 100, 0)]
    assert shown[0].outline[:2] == pytest.approx(load.items[0].of(load.items[0].item.outline)[0], abs=1e-3)
    assert len(load.items) == 6 and len(load.cuts.only("piece")) == 6 * 3
    told = verdict(b, "sheets.by_hand")
    assert told.figures["more"][0] == pytest.approx(b.sheets.film_area - alone.sheets.film_area)  # type: ignore[union-attr]
    assert told.fixes == {"sheets.by_hand": [], "sheets.held": []} and verdict(alone, "sheets.by_hand") is None


def test_a_corner_that_is_held_stays_free_on_every_mat() -> None:
    held = [
        {"corner": "low_left", "width_mm": 100, "height_mm": 60},
        {"corner": "high_right", "width_mm": 140, "height_mm": 30},
    ]
    free = shapely.multipolygons([shapely.box(0, 0, 99.99, 59.99), shapely.box(139.41, 249.41, 279.4, 279.4)])
    two = RINGS.replace(b'fill="#1c3d7a"/>', b'fill="#c8102e"/>')
    kinds = set()
    for mats, (quantity, wide) in itertools.product(("one_film", "shared"), ((9, 60), (29, 60), (5, 150), (6, 150))):
        b = planned(quantity, two, wide, held=held, mats=mats)
        for load in b.sheets.loads:  # type: ignore[union-attr]
            assert load.fits and not load.cuts.outlines.intersects(free)
            kinds.add((mats, load.shared))
    # What is left in the middle of a held corner gives way to beside it.
    films = {p.name for load in b.sheets.loads for p in load.patches}  # type: ignore[union-attr]
    there = [{"film": name, "x_mm": 250, "y_mm": 250} for name in films]
    for load in planned(9, two, held=held, mats="one_film", by_hand=there).sheets.loads:  # type: ignore[union-attr]
        assert any(i.by_hand >= 0 for i in load.items) and not load.cuts.outlines.intersects(free)
    # Full loads of one film beside shared ones as well.
    assert kinds == {("one_film", False), ("shared", False), ("shared", True)}
    more = verdict(b, "sheets.by_hand")
    assert more is not None and more.level in ("ok", "look")


def test_loose_pieces_are_all_there_on_less_film_and_counted() -> None:
    """A frame, one of its holes' frames and a bar: three pieces to a set, the inner ones out of the frame."""
    drawn, loose = planned(), planned(pieces="loose")
    for b in (drawn, loose):
        regions = shapely.get_parts(shapely.union_all([x.cuts.only("piece", "hole").region for x in b.sheets.loads]))  # type: ignore[union-attr]
        assert len(regions) == 18 and nearest(regions) >= 3 - 1e-6
        assert sorted(shapely.area(regions).round(3)) == sorted([600.0 + 300] * 6 + [150.0] * 6 + [96.0] * 6)
    assert loose.sheets.film_area != drawn.sheets.film_area  # type: ignore[union-attr]
    sheets = loose.sheets
    assert sheets is not None and sheets.loose is not None and sheets.drawn is not None
    assert (sheets.drawn.placements, sheets.loose.placements) == (6, 18)
    work = [film_by_cause(b.sheets.loads)[0] for b in (drawn, loose)]  # type: ignore[union-attr]
    assert work == pytest.approx([6 * (900 + 150 + 96)] * 2)
    told = verdict(loose, "sheets.loose")
    assert told.figures["saved"][0] == pytest.approx(sheets.drawn.film_area - sheets.film_area)
    assert told.level == ("ok" if sheets.film_area < sheets.drawn.film_area else "look")
    titles = [step.title for step in loose.layup.steps]  # type: ignore[union-attr]
    assert "Set the pieces" in titles and "Trim the marks" not in titles
    assert "Set the pieces" not in [step.title for step in drawn.layup.steps]  # type: ignore[union-attr]
    # Film of one layer for one piece: it is shared by all sets that it holds.
    assert float(loose.layup.choices[0].film_cost) == pytest.approx(sheets.film_area / 6e6 * 4.43)  # type: ignore[union-attr]


def test_loose_pieces_of_two_films_have_no_marks() -> None:
    two = RINGS.replace(b'fill="#1c3d7a"/>', b'fill="#c8102e"/>')
    for pieces, marked in (("as_drawn", True), ("loose", False)):
        b = planned(1, two, pieces=pieces)
        assert any(len(load.cuts.only("mark")) for load in b.sheets.loads) == marked  # type: ignore[union-attr]


def test_where_all_is_held_free_it_is_said() -> None:
    held = [{"corner": "high_right", "width_mm": 260, "height_mm": 900}]
    told = verdict(planned(held=held), "sheets.by_hand")
    assert told.level == "stop" and told.fixes == {"sheets.held": []}


def test_a_closer_lay_of_loose_pieces_holds_and_is_as_large_as_it_says(monkeypatch: pytest.MonkeyPatch) -> None:
    item = planned(1).sheets.loads[0].items[0].item  # type: ignore[union-attr]
    medium, plan = Medium("mat", 279.4, 279.4), SheetPlan(pieces="loose", weed_box=False)
    monkeypatch.setattr(searching, "SECONDS", 1)
    # Whatever is found is to be better than nothing.
    monkeypatch.setattr(searching, "blocks", lambda *_: [])
    found = searching.search([item], plan, medium, 5, lambda what, share: None).films[0][5]
    pieces = pieces_of(item.cuts)
    regions = np.array(
        [shapely.Polygon(p.of(pieces[p.shape].outline), [p.of(h) for h in pieces[p.shape].holes]) for p in found.places]
    )
    assert len(regions) == 15 and nearest(regions) >= plan.gap_mm
    assert shapely.total_bounds(regions) == pytest.approx([0, 0, *found.size], abs=1e-6)
    one = block(item, pieces, found.places, 5)
    assert one.cuts.region.area == pytest.approx(5 * item.cuts.only("piece", "hole").region.area)


def test_a_load_is_planned_anew_when_its_overcut_changes() -> None:
    cache = StageCache()
    far = {}
    for overcut in (0.0, 3.0, 0.0):
        strokes = planned(1, cache=cache, overcut_mm=overcut).cutting.plans[0].paths  # type: ignore[union-attr]
        far.setdefault(overcut, set()).add(round(sum(shapely.LineString(p.points).length for p in strokes), 3))
    # Five rings and a frame, each run on for 3 mm.
    assert len(far[0.0]) == len(far[3.0]) == 1
    assert min(far[3.0]) - min(far[0.0]) == pytest.approx(6 * 3, abs=0.5)


def test_where_corners_cannot_be_held_it_is_said() -> None:
    held = [{"corner": "low_left", "width_mm": 40, "height_mm": 40}]
    parted = planned(1, wide=900, held=held, panels={"part": True})
    told = verdict(parted, "sheets.by_hand")
    assert parted.sheets.parted and "Work in panels is laid over the corners" in told.sentence()  # type: ignore[union-attr]
    # A place for a film that is not there any more is no reason to say anything.
    assert verdict(planned(1, by_hand=[{"film": "puce"}]), "sheets.by_hand") is None


def test_every_way_lays_as_many_sets_as_it_is_asked_for() -> None:
    """However many of what a load takes: none is lost, none overlaps, all are inside."""
    load = planned(1).sheets.loads[0]  # type: ignore[union-attr]
    item, plan = load.items[0].item, SheetPlan(weed_box=False)
    bare = replace(item, cuts=item.cuts.only("piece", "hole"))
    small = Medium("mat", 150, 110)
    for layout in (
        boxed(bare, plan, small),
        outlined(bare, plan, small, {}),
        loosened(bare, plan, small, 40),
        loosened(bare, plan, small, 40, among=False),
        laid_by_hand(bare, plan, small, 40, [(0, HandPlace(film=item.name, x_mm=30, y_mm=20))], False),
    ):
        assert 1 <= layout.capacity < 40
        for count in range(1, layout.capacity + 1):
            for lying_so in layout.lay(count)[:1]:
                work = shapely.get_parts(shapely.union_all([i.cuts.region for i in lying_so.items]))
                assert sum(i.item.sets for i in lying_so.items) == count and len(work) == 3 * count
                assert nearest(work) >= 2 - 1e-6 and inside(work, 150.5, 110.5)


def test_fewer_sets_out_of_a_block_of_more_are_all_there() -> None:
    item = planned(1).sheets.loads[0].items[0].item  # type: ignore[union-attr]
    pieces = pieces_of(item.cuts)
    one = fewer(item, pieces, 4, 7, (150.0, 400.0), 3.0)
    work = shapely.get_parts(one.cuts.region)
    assert (one.sets, one.loose, len(work)) == (4, 12, 12) and nearest(work) >= 3 - 1e-6
    assert sorted(shapely.area(work).round()) == sorted([900.0] * 4 + [150.0] * 4 + [96.0] * 4)


def test_what_was_laid_of_a_film_that_has_another_name_now_is_said() -> None:
    name = planned().sheets.loads[0].patches[0].name  # type: ignore[union-attr]
    there = [{"film": name, "x_mm": 60, "y_mm": 40}, {"film": "what it was called", "x_mm": 1, "y_mm": 2}]
    told = verdict(planned(by_hand=there), "sheets.gone")
    assert told is not None and told.level == "look" and "what it was called" in told.reason
    (left,) = told.fixes["sheets.by_hand"]  # type: ignore[misc]
    assert left["film"] == name and left["x_mm"] == 60
    assert verdict(planned(by_hand=[left]), "sheets.gone") is None
