"""Film taken of a workshop's stock, by hand: remnants first, rolls at their full width, and what a cut leaves."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import board, cup, element, svg
from wimple_core.built import Build
from wimple_core.errors import BadDocument
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.job.stock import COLOURS
from wimple_core.job.tables import SHIPPED, load_tables
from wimple_core.pipeline import build_whole as build
from wimple_core.sheets.allot import Stock, _remnant, undone, when_cut
from wimple_core.sheets.batch import Batch
from wimple_core.sheets.supply import as_a_hand_cuts, place_in

BAR = svg('<rect width="60" height="40" fill="#101010"/>')
L_SHAPE = [(0, 0), (200, 0), (200, 80), (100, 80), (100, 300), (0, 300)]


def piece(id: str, form: str, width: float, length: float, **more: Any) -> dict[str, Any]:
    return {
        "id": id,
        "film": "calendered-gloss",
        "name": "black",
        "form": form,
        "width_mm": width,
        "length_mm": length,
        **more,
    }


def planned(pieces: list[dict[str, Any]], quantity: int = 1, colour: Any = None, **sheets: Any) -> Build:
    """Bars of 60 x 40 mm with 10 mm kept round them: boxes of 80 x 60 for one, in rows 2 mm apart for more."""
    colours = [c.model_dump(mode="json") for c in SHIPPED.colours if (c.film, c.name) != ("calendered-gloss", "black")]
    colours.append({"film": "calendered-gloss", "name": "black", "colour": "#101010", **(colour or {})})
    raw = {
        "blank": board(1000, 1000),
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": 60, "up_mm": 500})],
        "layers": {"marks": {"kind": "none"}},
        "sheets": {"weed_box": False, "margin_mm": 10, "lay": "boxes", **sheets},
    }
    tables = load_tables({"stock": pieces, "colours": colours})
    return build(load_job(raw), {"a.svg": BAR}, tables=tables)


def said(b: Build) -> Any:
    return next(v for v in b.verdicts if v.code == "sheets.stock")


def test_the_smallest_remnant_that_holds_it_comes_first() -> None:
    pieces = [piece("roll", "roll", 610, 5000), piece("big", "remnant", 200, 200), piece("small", "remnant", 90, 70)]
    one = planned([*pieces, piece("tiny", "remnant", 79, 100)]).sheets.allotted.taken[0].taken  # type: ignore[union-attr]
    assert (one.piece, one.turned, one.cut_off) == ("small", False, 0.0)
    assert one.box == pytest.approx((0, 0, 80, 60))
    # A sheet comes before a roll, however long either is.
    for long in (300, 9000):
        two = planned([piece("roll", "roll", 300, long), piece("sheet", "sheet", 280, 310)])
        assert two.sheets.allotted.taken[0].taken.piece == "sheet"  # type: ignore[union-attr]
    # What is left of a remnant and too small to be kept is lost with it.
    small = planned([piece("small", "remnant", 100, 90)]).sheets.allotted  # type: ignore[union-attr]
    assert small.all_lost == pytest.approx(100 * 90 - 80 * 60)
    # Stood on end it goes into one of 65 by 85, unless the film must not be turned.
    stood = piece("stood", "remnant", 65, 85)
    assert planned([pieces[0], stood]).sheets.allotted.taken[0].taken.turned  # type: ignore[union-attr]
    for turns in ("never", "half"):
        kept = planned([pieces[0], stood], colour={"turns": turns}).sheets.allotted.taken[0].taken  # type: ignore[union-attr]
        assert kept.piece == "roll" and not kept.turned


def test_a_roll_is_cut_off_at_its_full_width_and_what_is_beside_it_used_or_lost() -> None:
    """80 x 60 turned to stand along a roll of 150: 60 off it. The second goes beside it; 150 - 80 = 70 is too narrow
    for 80, so another 60 comes off. What is left beside each, 70 x 60, is smaller than 80 each way, and lost."""
    b = planned([piece("roll", "roll", 150, 1000)], 2, cutter="desktop-mat", margin_mm=10, lay="boxes")
    # Both on one load: 122 x 40 with 10 round it, 142 x 60.
    taken = b.sheets.allotted.taken  # type: ignore[union-attr]
    assert len(taken) == 1 and taken[0].taken.cut_off == pytest.approx(60)
    assert b.sheets.film_area == pytest.approx(150 * 60)  # type: ignore[union-attr]
    use = make_report(b).film_use
    assert use is not None and use.lost_mm2 == pytest.approx(8 * 60)
    assert use.work_mm2 + use.between_mm2 + use.round_mm2 + use.lost_mm2 == pytest.approx(use.whole_mm2)
    line = next(x for x in b.price.lines if x.name.startswith("Film"))  # type: ignore[union-attr]
    assert line.exact == Decimal("0.15") * Decimal("0.06") * Decimal("4.43") / 2
    # With 30 mm kept round them, 182 x 100, what lies beside on a roll of 400 is a remnant, and nothing is lost.
    wide = planned([piece("roll", "roll", 400, 1000)], 2, margin_mm=30)
    assert wide.sheets.film_area == pytest.approx(182 * 100)  # type: ignore[union-attr]


def test_a_colour_has_a_price_and_a_cap_sheet_of_its_own() -> None:
    b = planned([piece("roll", "roll", 150, 1000)], colour={"price_per_m2": "10", "cap_sheet": True})
    line = next(x for x in b.price.lines if x.name.startswith("Film"))  # type: ignore[union-attr]
    # 70 x 60 lie beside it, and are lost.
    assert line.exact == Decimal("0.15") * Decimal("0.06") * 10
    assert "cap sheet off first" in next(s for s in b.layup.steps if s.title == "Cut").text  # type: ignore[union-attr]


def test_film_that_may_be_turned_end_for_end_only() -> None:
    """Of one colour it is written down so: its layers know it, and no patch of it lies across a roll."""
    for turns, directional in (("never", True), ("half", True), ("any", False)):
        b = planned([piece("roll", "roll", 300, 1000)], colour={"turns": turns})
        film = b.layers.layers[0].film  # type: ignore[union-attr]
        assert film.directional is directional and film.turns == turns
    # Other colours of the family are as they were.
    assert SHIPPED.film("calendered-gloss").turns == "any"


def test_a_batch_goes_on_remnants_as_far_as_they_hold() -> None:
    """Eight bars. A remnant of 145 x 62 holds two side by side (142 x 60), another of 85 x 145 two on top of each other
    (80 x 102) and none three; four, 102 x 142, go on the end of a roll. A roll that holds them all saves two loads."""
    pieces = [piece("a", "remnant", 145, 62), piece("b", "remnant", 85, 110), piece("roll", "roll", 130, 150)]
    long = planned([*pieces[:2], piece("roll", "roll", 130, 900)], 8)
    assert [x.taken.piece for x in long.sheets.allotted.taken] == ["roll"]  # type: ignore[union-attr]
    b = planned(pieces, 8)
    got = [(x.taken.piece, b.sheets.loads[x.load].sets) for x in b.sheets.allotted.taken]  # type: ignore[union-attr]
    assert sorted(got) == [("a", 2), ("b", 2), ("roll", 4)]
    assert sum(load.sets * load.times for load in b.sheets.loads) == 8  # type: ignore[union-attr]
    assert said(b).level == "ok" and "2 of its 3 pieces" in said(b).sentence()


def test_what_is_missing_is_said_with_the_length_to_buy() -> None:
    short = planned([piece("roll", "roll", 150, 50)], 1)
    assert said(short).level == "stop" and said(short).value == pytest.approx(60)
    assert said(short).sentence().startswith("black: 60.0 mm of a roll 150.0 mm wide are missing.")
    sold_out = planned([piece("roll", "roll", 300, 0)], 1)
    assert "is sold out" in said(sold_out).sentence() and said(sold_out).value == pytest.approx(60)
    narrow = planned([piece("roll", "roll", 50, 3000)], 1)
    assert "no film of it holds 80.0 mm by 60.0 mm: the widest there is has 50.0 mm" in said(narrow).sentence()
    never = planned([piece("roll", "roll", 70, 3000)], 1, colour={"turns": "never"})
    assert "must not be turned" in said(never).sentence()
    assert said(planned([piece("roll", "roll", 70, 3000)], 1)).level == "ok"
    # A film that nobody counts is taken to be there.
    assert not [v for v in planned([]).verdicts if v.code == "sheets.stock"]


def test_a_way_there_is_film_for_comes_before_a_quicker_one() -> None:
    b = planned([piece("roll", "roll", 150, 50)])
    load, short = b.sheets.loads[0], b.sheets.allotted  # type: ignore[union-attr]
    assert short.missing
    assert Batch((replace(load, times=3),)).cost < Batch((load,), short).cost


def test_nothing_is_cut_out_of_a_bare_edge() -> None:
    bare = planned([piece("s", "sheet", 100, 65, sheets=3, bare_edge_mm=10)], 1)
    assert said(bare).level == "stop"  # 55 mm of film are left
    room = planned([piece("s", "sheet", 100, 80, sheets=3, bare_edge_mm=10)], 1)
    assert room.sheets.allotted.taken[0].taken.box == pytest.approx((0, 10, 80, 70))  # type: ignore[union-attr]


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.floats(5, 70), st.floats(5, 70))
def test_a_rectangle_goes_lowest_into_any_outline(seed: int, wide: float, tall: float) -> None:
    """Against all places of a grid of 2 mm (shapely)."""
    outline = shapely.concave_hull(shapely.MultiPoint(np.random.default_rng(seed).uniform(0, 200, (9, 2))), 0.3)
    grid = np.stack(np.meshgrid(np.arange(0, 200, 2.0), np.arange(0, 200, 2.0)), -1).reshape(-1, 2)
    held = grid[shapely.covers(outline, shapely.box(*grid.T, grid[:, 0] + wide, grid[:, 1] + tall))]
    at = place_in(outline, wide, tall)
    if at is None:
        assert not len(held)
        return
    assert shapely.box(at[0], at[1], at[0] + wide, at[1] + tall).difference(outline).area < 0.5
    if len(held):
        assert at[1] <= held[:, 1].min() + 0.01


def test_what_is_an_l_holds_what_its_legs_hold() -> None:
    leg = shapely.Polygon(L_SHAPE)
    assert place_in(leg, 90, 90) == pytest.approx((0, 0)) and place_in(leg, 200, 80) == pytest.approx((0, 0))
    assert place_in(leg, 150, 90) is None and place_in(leg, 100, 300) == pytest.approx((0, 0))


def changed(b: Build, load: int = 0) -> Any:
    return when_cut(b.sheets.loads[load], Stock(b.tables), 304.8)  # type: ignore[union-attr]


def test_what_a_cut_leaves_of_a_roll_a_sheet_and_a_remnant() -> None:
    roll = changed(planned([piece("roll", "roll", 400, 1000, bare_edge_mm=5)]))
    # 60 mm would leave 320 x 60 beside it, too narrow to keep; so 80 come off, and all but the work is kept.
    assert roll.after["roll"].length_mm == pytest.approx(1000 - 80 - 5) and roll.after["roll"].bare_edge_mm == 0
    assert [shapely.Polygon(r.outline).area for r in roll.remnants] == [pytest.approx(400 * 80 - 80 * 60)]
    narrow = changed(planned([piece("roll", "roll", 150, 1000)]))
    assert narrow.after["roll"].length_mm == pytest.approx(1000 - 60) and narrow.remnants == ()
    tall = changed(planned([piece("roll", "roll", 400, 1000)], colour={"turns": "never"}, margin_mm=30))
    # 120 x 100 off a roll of 400 leaves 280 x 100.
    assert [(r.width_mm, r.length_mm, r.outline) for r in tall.remnants] == [(280, 100, ())]
    sheets = changed(planned([piece("s", "sheet", 200, 300, sheets=2)]))
    assert sheets.after["s"].sheets == 1
    left = shapely.Polygon(sheets.remnants[0].outline)
    assert left.area == pytest.approx(200 * 300 - 80 * 60) and len(sheets.remnants) == 1
    out = changed(planned([piece("x", "remnant", 200, 300, outline=L_SHAPE)]))
    assert out.after["x"] is None and out.before["x"].id == "x"
    assert shapely.Polygon(out.remnants[0].outline).area == pytest.approx(shapely.Polygon(L_SHAPE).area - 80 * 60)


def test_only_what_was_cut_is_taken_off() -> None:
    """Loads cut in turn leave what all of them at once would."""
    pieces = [piece("roll", "roll", 300, 5000)]
    b = planned(pieces, 60)
    assert len(b.sheets.loads) == 2  # type: ignore[union-attr]
    stock = {p["id"]: load_tables({"stock": [p]}).stock[0] for p in pieces}
    for load in b.sheets.loads:  # type: ignore[union-attr]
        for _ in range(load.times):
            tables = b.tables.model_copy(update={"stock": tuple(stock.values())})
            change = when_cut(load, Stock(tables), 304.8)
            assert not change.missing
            stock = {k: v for k, v in {**stock, **change.after}.items() if v is not None}
    cut = sum(x.taken.cut_off for x in b.sheets.allotted.taken)  # type: ignore[union-attr]
    assert stock["roll"].length_mm == pytest.approx(5000 - cut)


def test_what_was_not_cut_is_in_the_stock_again() -> None:
    """Taken back, a roll, sheets and a remnant are as they were; and what another load took meanwhile stays taken."""
    for one in (
        piece("roll", "roll", 400, 1000, bare_edge_mm=5),
        piece("s", "sheet", 200, 300, sheets=7),
        piece("x", "remnant", 200, 300, outline=L_SHAPE),
    ):
        b = planned([one])
        change = changed(b)
        left = tuple(p for p in change.after.values() if p is not None)
        assert undone(left, change.before, change.after) == b.tables.stock
        if one["form"] != "remnant":
            field = "length_mm" if one["form"] == "roll" else "sheets"
            now = left[0].model_copy(update={field: getattr(left[0], field) - 2})
            (back,) = undone((now,), change.before, change.after)
            assert getattr(back, field) == pytest.approx(getattr(b.tables.stock[0], field) - 2)


@pytest.mark.parametrize(
    ("bad", "field", "words"),
    [
        ({"outline": [[0, 0], [90, 70], [90, 0], [0, 70]]}, "stock.0", "crosses itself"),
        ({"outline": [[0, 0], [95, 0], [90, 70]]}, "stock.0", "reaches out"),
        ({"form": "roll", "outline": L_SHAPE}, "stock.0", "Only a remnant"),
        ({"width_mm": 0}, "stock.0.width_mm", "too small"),
        ({"length_mm": -1}, "stock.0.length_mm", "too small"),
        ({"bare_edge_mm": 70}, "stock.0", "bare edge"),
        ({"name": "nought"}, "", "no such colour"),
        ({"width_mm": "wide"}, "stock.0.width_mm", "wide"),
    ],
)
def test_bad_film_is_refused_in_words(bad: dict[str, Any], field: str, words: str) -> None:
    with pytest.raises(BadDocument) as found:
        load_tables({"stock": [{**piece("r", "remnant", 90, 70), **bad}]})
    assert found.value.field == field and words in f"{found.value.message} {found.value.hint}"
    with pytest.raises(BadDocument, match="Two pieces of film have the id"):
        load_tables({"stock": [piece("r", "roll", 90, 70), piece("r", "roll", 90, 70)]})


def test_what_a_film_asks_for_hangs_on_what_it_is_and_not_on_its_id() -> None:
    """A shop's own copies of films, under other ids, are treated as those are; what the shop states goes before."""
    from wimple_core.cutting.advice import believe
    from wimple_core.job.shipped import FILMS
    from wimple_core.job.tables import Tables

    mine = {id: FILMS[id].model_copy(update={"id": f"own-{id}", "name": f"Our {id}"}) for id in FILMS}
    for id in ("glitter", "holographic", "brushed", "reflective", "calendered-gloss"):
        assert believe([], mine[id]).usual == believe([], FILMS[id]).usual
    assert believe([], mine["glitter"]).usual == pytest.approx(
        1.4 * believe([], mine["glitter"].model_copy(update={"finish": "gloss"})).usual
    )
    soft = mine["glitter"].model_copy(update={"force_factor": 1.0})
    assert believe([], soft).usual == pytest.approx(believe([], mine["glitter"]).usual / 1.4)
    tables = Tables(films=(*FILMS.values(), *mine.values()))
    drawing = {"a.svg": svg('<rect width="100" height="100" fill="#1c3d7a"/>')}
    for id in FILMS:
        said = []
        for film in (id, f"own-{id}"):
            raw = {**cup(), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 45})]}
            raw["layers"] = {"films": [{"colour": "#1c3d7a", "film": film}]}
            layup = build(load_job(raw), drawing, tables=tables).layup
            assert layup is not None
            said.append(
                [s.words().replace("our ", "") for s in layup.steps if s.title == "Tape"]
                + [c.text for c in layup.cautions]
            )
        assert [w.partition(", for ")[0] for w in said[0]] == [w.partition(", for ")[0] for w in said[1]], id
        assert ("Burnish longer" in str(said[1])) == ("Burnish longer" in str(said[0]))


def test_a_remnant_that_hangs_together_by_a_hair_can_be_written_down() -> None:
    """A cut a thousandth from the edge of a typed outline: what it leaves is two pieces, each of which is itself."""
    neck = shapely.Polygon([(0, 0), (100, 0), (100, 80), (60, 80), (60, 0.001), (40, 0.001), (40, 80), (0, 80)])
    parts = as_a_hand_cuts(neck)
    assert sorted(round(p.area) for p in parts) == [3200, 3200]
    assert as_a_hand_cuts(shapely.box(0, 0, 100, 0.4)) == []
    square = shapely.box(0, 0, 30, 20)
    assert as_a_hand_cuts(square) == [square]


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 200), st.floats(0, 150), st.floats(0.001, 90), st.floats(0.001, 90)), max_size=6),
    st.lists(st.floats(-0.002, 0.002), min_size=6, max_size=6),
)
def test_whatever_a_cut_leaves_can_be_written_down(boxes: list[tuple[float, ...]], off: list[float]) -> None:
    """Boxes taken out of a piece, off its edges by thousandths: every remnant is taken, lies in what was there, and
    loses next to nothing of it."""
    left = shapely.box(0, 0, 200, 150)
    for (x, y, w, h), e in zip(boxes, off, strict=False):
        x, y = (e if x < 60 else x), (e if y < 40 else y)
        left = shapely.difference(left, shapely.box(x, y, x + w, y + h))
    own = COLOURS[0]
    for part in shapely.get_parts(left):
        if part.geom_type != "Polygon":
            continue
        for piece in as_a_hand_cuts(part):
            made = _remnant("r1", own, piece)
            at = shapely.transform(made.region, lambda c, p=piece: c + p.bounds[:2])
            assert made.region.is_valid and shapely.difference(at, piece.buffer(0.01)).area < 1e-6
            assert made.region.area > 0.97 * piece.area - 1
