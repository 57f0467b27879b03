"""The recipe of an insert on a blank that is one: its words go by the blank's measures, and nothing is cut twice."""

from __future__ import annotations

from typing import Any

import pytest
import shapely
from samples import cup, dimension, element, svg
from wimple_core.built import Build
from wimple_core.job import load_job
from wimple_core.pipeline import build
from wimple_core.views.placed import placed_view


def insert(inside: float = 90.0, source: dict[str, Any] | None = None, **blank: Any) -> Build:
    raw = {
        "blank": {"kind": "insert", "inside": dimension("diameter", inside, instrument="calliper"), **blank},
        "elements": [{"id": "e1", "source": {"kind": "jar_insert", **(source or {})}, "placements": [{}]}],
    }
    return build(load_job(raw), {}, "layers")


@pytest.mark.parametrize("tab", [None, {"width_mm": 9, "height_mm": 12}])
@pytest.mark.parametrize("at", [{}, {"up_mm": 3, "across_mm": 20, "turn_deg": 30}])
def test_its_words_lie_round_the_middle_of_the_blank(tab: object, at: dict[str, float]) -> None:
    """The caution runs about the blank's own centre, wherever the placement says, and as far from its edge for every
    size; the insert itself is the blank, cut once."""
    for inside, away in ((70.0, 0.5), (110.0, 2.0)):
        b = insert(
            inside, {"inside_mm": 300, "clearance_mm": 9, "tab_mm": 40, "caution": "HOT"}, tab=tab, clearance_mm=away
        )
        raw = b.job.model_dump(mode="json")
        raw["elements"][0]["placements"] = [at]
        b = build(load_job(raw), {}, "layers")
        assert b.fit is not None and b.layers is not None and b.stopped is None
        radius = inside / 2 - away
        (words,) = b.fit.colours
        letters = shapely.get_coordinates(words.seen)
        far = shapely.distance(shapely.points(letters), shapely.Point(0, radius)).max()
        # From its edge to the middle of the caution are 1.5 heights of its capitals, which are 2.2 mm tall.
        assert radius - far == pytest.approx(2.2, abs=0.3)
        disc = max(b.layers.layers[0].cuts.only("piece").bounds[2::2])
        assert disc == pytest.approx(radius, abs=0.02) and len(b.layers.layers) == 2


def test_its_words_stand_over_the_blanks_own_hole() -> None:
    hole = {"form": "round", "width_mm": 20, "up_mm": 4}
    b = insert(110, {"caution": "", "opening": "none", "face_mm": 6}, hole=hole)
    assert b.fit is not None
    assert shapely.total_bounds(b.fit.colours[0].seen)[1] == pytest.approx(109 / 2 + 4 + 10 + 0.6 * 6, abs=0.8)


def test_what_has_no_room_or_no_words_is_told_at_its_field() -> None:
    small, bare = insert(20), insert(90, {"face": "", "caution": ""})
    assert small.stopped is not None and small.stopped.error.field.endswith("_mm")
    assert bare.stopped is not None and bare.stopped.error.field == "elements.0.source.face"


@pytest.mark.parametrize("margin", [0, 2, 4])
def test_its_words_keep_clear_of_the_margin_the_blank_asks_for(margin: float) -> None:
    """Letters below the line too: all lie in the disc shrunk by the margin, and as far above the hole."""
    hole = {"form": "slot", "width_mm": 12, "height_mm": 3}
    b = insert(80, {"caution": "gypsy quays jag", "face": "Quay", "face_mm": 5}, hole=hole, margin_mm=margin)
    assert b.fit is not None and b.template is not None
    seen, radius = b.fit.colours[0].seen, 40 - 0.5
    assert shapely.Point(0, radius).buffer(radius - margin + 1e-3, quad_segs=64).covers(seen)
    assert seen.distance(shapely.box(-6, radius - 1.5, 6, radius + 1.5)) >= margin - 1e-6
    assert [v.level for v in b.verdicts if v.code == "artwork.keep_out"] == ["ok"]


def test_the_hand_moves_what_the_blank_leaves_free_and_nothing_else_is_offered() -> None:
    """What stands on an insert is held both ways, marks up a bottle only up, and what goes once round only round it."""
    words = insert(80)
    tally = build(load_job({**cup(), "elements": [{"source": {"kind": "tally"}, "placements": [{}]}]}), {}, "artwork")
    once = build(
        load_job({**cup(), "elements": [element("a.svg", {"up_mm": 45, "once_round_mm": 0})]}),
        {"a.svg": svg('<rect width="90" height="10" fill="#1c3d7a"/>')},
        "artwork",
    )
    for b, across, up in ((words, True, True), (tally, False, True), (once, True, False)):
        assert b.fit is not None and b.drawings is not None and b.template is not None
        (view,) = placed_view(b.fit, b.elements, b.drawings, b.template, "mm")
        assert (view.across.held, view.up.held) == (across, up)
        held = {move.field for move in (view.across, view.up) if move.held}
        assert not [s for s in view.spots if held & set(s.sets)] and (not view.stands or not view.rooms)
        assert bool(view.given) == (b is words) and not [p for p in view.sized_by if p.endswith("inside_mm")]
