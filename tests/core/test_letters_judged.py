"""Letters judged: from how far they are read, and counters that close."""

from __future__ import annotations

import math
from typing import Any

import pytest
from samples import cup
from wimple_core.artwork.lettering import set_words, shipped_face
from wimple_core.fit.letters import read_from
from wimple_core.job import load_job
from wimple_core.job.lettering import Baseline, Kern, Lettering
from wimple_core.pipeline import build_whole


def verdicts(code: str, source: dict[str, Any], *edits: dict[str, Any]) -> list[Any]:
    one = {"source": source, "placements": [{"up_mm": 45}], "edits": list(edits)}
    b = build_whole(load_job({**cup(), "elements": [one]}), {}, "artwork")
    return [v for v in b.verdicts if v.code == code]


def words(text: str, **more: Any) -> dict[str, Any]:
    return {"kind": "lettering", "text": text, "font": "heebo", "size_mm": 10, **more}


def test_from_how_far_letters_are_read() -> None:
    """30 ft for each inch (Manual on Uniform Traffic Control Devices, 2009, 2A.13; from memory): 9.144 m."""
    assert read_from(25.4) == pytest.approx(9.144)
    (said,) = verdicts("artwork.legible", words("Wenna"))
    assert said.value == pytest.approx(3.6) and said.level == "ok" and "10.0 mm" in said.sentence()
    assert "12 ft" in said.sentence("in_fraction")
    # By the height of small letters they are read from further: their capitals are taller.
    (small,) = verdicts("artwork.legible", words("Wenna", sized="small"))
    assert 4.2 < small.value < 5.6
    (tiny,) = verdicts("artwork.legible", words("Wenna", size_mm=1.5))
    assert tiny.level == "look" and "1.9 mm" in tiny.sentence() and tiny.field == "elements.0.source.size_mm"
    insert = {"kind": "jar_insert", "inside_mm": 60, "face_mm": 5, "caution_mm": 2.0, "tab_mm": 0}
    (least,) = verdicts("artwork.legible", insert)
    assert least.value == pytest.approx(0.72)


def test_a_counter_that_closes_is_named() -> None:
    narrow = {"kind": "outline", "by_mm": 0.5, "colour": "#ffffff"}
    wide = {"kind": "outline", "by_mm": 2.5, "colour": "#ffffff"}
    assert not verdicts("artwork.counter", words("Bean"))
    assert not verdicts("artwork.counter", words("Bean"), narrow)
    (said,) = verdicts("artwork.counter", words("Bean"), wide)
    assert said.level == "look" and "1-1, 1-2, 1-3" in said.sentence() and "1-4" not in said.sentence()
    # Filled on purpose is no fault, nor is what lies beneath words from the start.
    assert not verdicts("artwork.counter", words("Bean"), {**wide, "filled": True})
    assert not verdicts("artwork.counter", {"kind": "jar_insert", "inside_mm": 70, "face": "Bean"})
    # A shadow swept across small letters fills what is as narrow as it is long.
    swept = {"kind": "shadow", "across_mm": 3, "up_mm": 0, "swept": True}
    (by_shadow,) = verdicts("artwork.counter", words("ee", size_mm=4), swept)
    assert "1-1, 1-2" in by_shadow.sentence()
    assert not verdicts("artwork.counter", words("ee", size_mm=40), {**swept, "across_mm": 1})


@pytest.mark.parametrize("baseline", [Baseline(), Baseline(kind="over", radius_mm=60)])
def test_the_space_between_two_letters_is_what_is_bare_between_them(baseline: Baseline) -> None:
    """Set upright at its place on the line, each pair is as far apart as its outlines are; by hand it grows by that."""
    words = Lettering(text="HOLE", font="barlow-condensed", size_mm=20, baseline=baseline, tracking=40)
    made = set_words(words, shipped_face(words.font))
    assert [(g.line, g.letter, g.words) for g in made.gaps] == [(0, 0, "HO"), (0, 1, "OL"), (0, 2, "LE")]
    for gap, left, right in zip(made.gaps, made.paints[:-1], made.paints[1:], strict=True):
        if baseline.kind == "straight":
            bare = right.region.bounds[0] - left.region.bounds[2]
            assert gap.bare == pytest.approx(bare, abs=0.02) and gap.y == 0
            assert gap.x == pytest.approx((right.region.bounds[0] + left.region.bounds[2]) / 2, abs=0.02)
        else:
            assert math.hypot(gap.x, gap.y + 60) == pytest.approx(60) and math.sin(gap.turn) == pytest.approx(
                -gap.x / 60
            )
    wider = set_words(words.model_copy(update={"kerns": (Kern(line=0, letter=1, by=80),)}), shipped_face(words.font))
    grown = [b.bare - a.bare for a, b in zip(made.gaps, wider.gaps, strict=True)]
    assert grown == pytest.approx([0, 80 * made.gaps[1].unit, 0], abs=1e-9)
    assert made.gaps[1].tall == pytest.approx(20) and all(g.unit > 0 for g in made.gaps)


def test_a_name_from_right_to_left_is_kept_apart_from_the_figures_beside_it() -> None:
    (said,) = verdicts("artwork.legible", words("\u05d9\u05e8\u05d7 12"))
    assert "\u201c\u2068\u05d9\u05e8\u05d7 12\u2069\u201d is read from" in said.sentence()
    (plain,) = verdicts("artwork.legible", words("Moon 12"))
    assert "\u2068" not in plain.sentence()
