"""Placed from another element, mirrored, over a joint, behind glass: where it lies then, and what is said."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, cup, element, example, svg
from wimple_core.built import Build
from wimple_core.errors import BadDocument
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole
from wimple_core.views.placed import placed_view

FILES = {
    "flag.svg": svg('<path d="M10 20H70V30H80V60H10z" fill="#1c3d7a"/>'),
    "dot.svg": svg('<circle cx="50" cy="50" r="5" fill="#1c3d80"/>'),
}
PANEL = board(300, 200)


def pair(blank: dict[str, Any], first: dict[str, Any], second: dict[str, Any], **more: Any) -> Build:
    elements = [{"id": "a", **element("flag.svg", first)}, {"id": "b", **element("dot.svg", second)}]
    return build_whole(load_job({"blank": blank, "elements": elements, **more}), FILES, "layers")


def middles(b: Build) -> list[tuple[float, float]]:
    return [(d.a_c, d.s_c) for d in b.fit.drawings]  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("blank", "field", "unit"), [(cup()["blank"], "centre_deg", math.radians(1)), (PANEL, "across_mm", 1)]
)
def test_what_is_placed_from_another_stays_so_to_it(blank: dict[str, Any], field: str, unit: float) -> None:
    second = {"width_mm": 8, field: 30, "up_mm": -12, "beside": "a"}
    for across, up in ((0.0, 60.0), (-25.0, 48.5)):
        b = pair(blank, {"width_mm": 30, field: across, "up_mm": up}, second)
        assert middles(b)[1] == pytest.approx(((across + 30) * unit, up - 12))
        first, other = placed_view(b.fit, b.elements, b.drawings, b.template, "mm", b.named.row.bases)
        assert other.beside == "a" and other.at == pytest.approx({field: across + 30, "up_mm": up - 12})
        # What is offered, set where it is counted from the other, leads where it says.
        half = next(s.sets["up_mm"] for s in other.spots if s.words == "Half way up")
        limits = b.template.limits
        assert half + up == pytest.approx((limits.low + limits.high) / 2, abs=0.02)
        level = next(g for g in other.guides if g.words == "level with “flag.svg”")
        assert level.value == pytest.approx(0) and level.field == "up_mm"
        assert next(g for g in first.guides if g.words.startswith("level")).value == pytest.approx(up - 12)
    far = pair(blank, {"width_mm": 30, field: 0, "up_mm": 60}, {**second, "up_mm": 500 if field == "across_mm" else 45})
    (out,) = [v for v in far.verdicts if v.code in ("artwork.keep_out", "artwork.beside") and v.level == "stop"]
    mended = pair(blank, {"width_mm": 30, field: 0, "up_mm": 60}, {**second, out.field.rpartition(".")[2]: out.fix})
    assert not [v for v in mended.verdicts if v.level == "stop" and v.step == "artwork"]


@pytest.mark.parametrize("beside", ["b", "zz"])
def test_none_is_placed_from_itself_or_from_what_is_not_there(beside: str) -> None:
    with pytest.raises(BadDocument) as bad:
        pair(PANEL, {"beside": "b"}, {"beside": beside if beside != "b" else "a"})
    assert bad.value.field == "elements" and "from the blank" in bad.value.hint


@pytest.mark.parametrize("turn", [0, 90, 33])
def test_mirrored_is_left_for_right_before_it_is_turned(turn: float) -> None:
    plain, flipped = (
        pair(PANEL, {"width_mm": 70, "up_mm": 90, "turn_deg": turn, "mirrored": m}, {"width_mm": 5, "up_mm": 20}).fit
        for m in (False, True)
    )
    t = math.radians(turn)
    back = np.array([[math.cos(t), -math.sin(t)], [math.sin(t), math.cos(t)]])

    def upright(fit: Any) -> Any:
        return shapely.transform(fit.drawings[0].colours[0].seen, lambda p: (p - (0, 90)) @ back)

    mirrored = shapely.transform(upright(plain), lambda p: p * (-1, 1))
    assert upright(flipped).symmetric_difference(mirrored).area < 1e-6
    assert upright(flipped).symmetric_difference(upright(plain)).area > 100


def words(text: str = "Wenna", **more: Any) -> dict[str, Any]:
    source = {"kind": "lettering", "text": text, "size_mm": 9, **more.pop("source", {})}
    return {
        **cup(),
        "elements": [{"source": source, "placements": [{"up_mm": 45, **more.pop("placement", {})}]}],
        **more,
    }


def said(raw: dict[str, Any], code: str) -> list[Any]:
    return [v for v in build_whole(load_job(raw), {}, "sheets").verdicts if v.code == code]


def test_letters_that_read_backwards_are_said_and_put_right() -> None:
    raw = words(placement={"mirrored": True})
    (backwards,) = said(raw, "artwork.mirrored")
    assert backwards.field == "elements.0.placements.0.mirrored" and backwards.fix is False
    assert not said(words(), "artwork.mirrored")


def test_seen_through_glass_all_is_cut_mirrored_and_heat_is_not_for_it() -> None:
    plain, glass = (
        build_whole(load_job(words(layers={"seen": seen})), {}, "sheets") for seen in ("from_outside", "through_glass")
    )
    one, other = (b.sheets.loads[0].items[0].item.cuts.only("piece").region for b in (plain, glass))
    wide = one.bounds[0] + one.bounds[2]
    mirrored = shapely.transform(one, lambda p: np.column_stack([wide - p[:, 0], p[:, 1]]))
    assert mirrored.symmetric_difference(other).area < 1e-6
    assert one.symmetric_difference(other).area > 1
    assert [v.level for v in glass.verdicts if v.code == "layers.glass"] == ["ok"]
    (hot,) = said(words(layers={"seen": "through_glass", "default_film": "heat-transfer"}), "layers.glass")
    assert hot.level == "stop" and hot.fix == "from_outside"


def test_cut_from_behind_and_seen_through_is_mirrored_twice_and_so_not() -> None:
    def work(**layers: Any) -> Any:
        b = build_whole(load_job(words(layers=layers)), {}, "sheets")
        return b.sheets.loads[0].items[0].item.cuts.only("piece").region  # type: ignore[union-attr]

    plain, hot = work(), work(default_film="heat-transfer")
    assert plain.symmetric_difference(hot).area > 1
    both = work(default_film="heat-transfer", seen="through_glass")
    assert plain.symmetric_difference(both).area < 1e-6


def test_letters_too_thin_are_said_with_the_size_at_which_they_hold() -> None:
    raw = words(source={"font": "barlow-condensed", "size_mm": 4})
    (thin,) = said(raw, "artwork.stroke")
    assert thin.limit == 1.0 and thin.value < 1.0 and thin.field == "elements.0.source.size_mm"
    raw["elements"][0]["source"]["size_mm"] = thin.fix
    assert not said(raw, "artwork.stroke") and not said(raw, "layers.thin")
    raw["elements"][0]["source"]["size_mm"] = 0.85 * thin.fix
    assert said(raw, "artwork.stroke") and said(raw, "layers.thin")


def test_two_colours_nearly_one_become_one_on_a_click() -> None:
    first, second = {"width_mm": 30, "up_mm": 60}, {"width_mm": 8, "up_mm": 30}
    b = pair(PANEL, first, second)
    (near,) = [v for v in b.verdicts if v.code == "layers.near"]
    assert near.value < 5 and near.field == "layers.merge_near" and near.fix is True and len(b.layers.layers) == 2
    assert len(pair(PANEL, first, second, layers={"merge_near": True}).layers.layers) == 1


def test_on_clear_glass_what_is_behind_counts_too() -> None:
    raw = words(source={"colour": "#18202e"})
    assert said(raw, "layers.contrast")[0].level == "ok"
    raw["blank"]["behind"] = "#202838"
    (dark,) = said(raw, "layers.contrast")
    assert dark.level == "look" and "behind" in dark.reason


def test_over_a_joint_it_is_said_and_moved_off_it() -> None:
    raw = example("lettered-bottle")
    raw["elements"][0]["placements"][0]["up_mm"] = 160
    (joint,) = said(raw, "artwork.joint")
    assert joint.level == "look" and joint.value > 5
    raw["elements"][0]["placements"][0]["up_mm"] = joint.fix
    assert not said(raw, "artwork.joint")
    assert len(said({**example("two-section-bottle"), "elements": raw["elements"]}, "artwork.joint")) == 0
