"""The recipe of an insert on a blank that is one: its words go by the blank's measures, and nothing is cut twice."""

from __future__ import annotations

from typing import Any

import pytest
import shapely
from samples import dimension
from wimple_core.built import Build
from wimple_core.job import load_job
from wimple_core.pipeline import build


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
