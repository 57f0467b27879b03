"""Angles are angles: one place has one place on the template, and what crosses the seam is parted there."""

from __future__ import annotations

import math
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
import shapely
from samples import EXAMPLES, board, cup, dimension, element, example, svg
from wimple_core.built import Build
from wimple_core.fit.round import free_angles
from wimple_core.fit.turns import on_turn
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.surface.surface import RoundWall

PART = {
    "a.svg": svg(
        '<rect x="30" y="40" width="40" height="20" fill="#1c3d7a"/><circle cx="62" cy="50" r="6" fill="#b98a2f"/>'
    )
}
ZONE = {"form": "sector", "kind": "other", "centre_deg": 0.0, "width_mm": 30.0, "low_mm": 20.0, "high_mm": 80.0}
STEEP = {"upper": 420.0, "lower": 150.0, "side": 60.0}
"""Half of it leans some 46 degrees."""


def laid(*placements: dict[str, Any], wrap: dict[str, Any] | None = None, steep: bool = False, **blank: Any) -> Build:
    raw = cup(**(STEEP if steep else {}), **blank)
    up = 30.0 if steep else 45.0
    drawings = [element("a.svg", {"width_mm": 40, "up_mm": up, **p}) for p in placements]
    return build(load_job({**raw, "wrap": wrap or {}, "elements": drawings}), PART, "layers")


def on_the_cup(b: Build) -> dict[str, Any]:
    """What is cut of each colour, in angles from -180 to 180 and heights: where it ends up, however it lies flat."""
    out = {}
    for layer in b.layers.layers:  # type: ignore[union-attr]
        points = shapely.get_coordinates(shapely.segmentize(layer.seen, 0.5))
        a, s = b.template.surface.wrap(points[:, 0], points[:, 1])  # type: ignore[union-attr]
        out[layer.colour] = (layer.seen.area, np.degrees(a), s)
    return out


@pytest.mark.parametrize(
    ("angle", "middle", "wanted"),
    [
        (math.tau, 0, 0),
        (-1.5 * math.pi, 0, math.pi / 2),
        (-math.pi, 0, math.pi),
        (math.pi, 0, math.pi),
        (0.1, 3.0, 0.1),
        (-0.2, 3.0, math.tau - 0.2),
    ],
)
def test_an_angle_has_one_place_on_the_turn(angle: float, middle: float, wanted: float) -> None:
    assert on_turn(angle, middle) == pytest.approx(wanted)


@pytest.mark.parametrize("steep", [False, True])
@pytest.mark.parametrize(("first", "again"), [(0, 360), (90, -270), (180, -180), (-100, 260), (350, -10)])
def test_the_same_angle_is_the_same_place(first: float, again: float, steep: bool) -> None:
    a, b = (laid({"centre_deg": c}, steep=steep) for c in (first, again))
    for one, other in zip(a.layers.layers, b.layers.layers, strict=True):  # type: ignore[union-attr]
        assert shapely.symmetric_difference(one.region, other.region).area < 1e-6
    assert [v.sentence() for v in a.verdicts] == [v.sentence() for v in b.verdicts]


@pytest.mark.parametrize("steep", [False, True])
@pytest.mark.parametrize(
    ("drawing", "zone"), [(0, 0), (360, 0), (-270, 90), (180, 180), (-180, 180), (185, -170), (-350, 10), (170, -180)]
)
def test_a_zone_is_seen_wherever_its_angle_is_written(drawing: float, zone: float, steep: bool) -> None:
    """The part of the drawing on the zone is the same 30 mm of the wall, whatever whole turns are added."""
    b = laid(
        {"centre_deg": drawing},
        steep=steep,
        zones=[{**ZONE, "centre_deg": zone, **({"low_mm": 10.0, "high_mm": 55.0} if steep else {})}],
    )
    hit = next(v for v in b.verdicts if v.code == "artwork.zone")
    whole = laid(
        {"centre_deg": drawing - zone},
        steep=steep,
        zones=[{**ZONE, **({"low_mm": 10.0, "high_mm": 55.0} if steep else {})}],
    )
    alike = next(v for v in whole.verdicts if v.code == "artwork.zone")
    assert hit.level == "stop" and hit.value == pytest.approx(alike.value, rel=1e-3)
    assert hit.value > 250


@pytest.mark.parametrize(("drawing", "zone"), [(0, 60), (150, -150), (-150, 150)])
def test_clear_is_clear_of_the_nearest_zone(drawing: float, zone: float) -> None:
    """60 degrees apart on a wall of some 37 mm, less half of 40 mm and half of 30: by some 4 mm, round the seam too."""
    b = laid({"centre_deg": drawing}, zones=[{**ZONE, "centre_deg": zone, "low_mm": 6.0, "high_mm": 84.0}])
    said = next(v for v in b.verdicts if v.code == "artwork.keep_out")
    radius = b.template.surface.scale_at(45.0)  # type: ignore[union-attr]
    assert said.level == "ok" and said.value == pytest.approx(radius * math.radians(60) - 35, abs=0.7)


def test_a_far_angle_on_a_steep_cup_lies_on_the_handle() -> None:
    """270 and -90 degrees are where the handle of a right-handed owner stands, seen from the front."""
    for angle in (-90, 270):
        b = laid({"centre_deg": angle}, steep=True, handle={"width_mm": 40.0}, wrap={"extent": "free"})
        verdict = next(v for v in b.verdicts if v.code == "artwork.keep_out")
        assert verdict.level == "stop" and "handle" in verdict.sentence(), angle


def test_two_drawings_on_one_place_are_one_over_the_other() -> None:
    """At 180 and -180 degrees: the upper hides the lower, and only once is either cut."""
    both, one = laid({"centre_deg": 180}, {"centre_deg": -180}), laid({"centre_deg": 180})
    for a, b in zip(both.layers.layers, one.layers.layers, strict=True):  # type: ignore[union-attr]
        assert a.seen.area == pytest.approx(b.seen.area, abs=1e-3)


@pytest.mark.parametrize("steep", [False, True])
@pytest.mark.parametrize(("centre", "seam"), [(180, 180), (170, 180), (40, 30), (-150, -160), (0, 0)])
def test_the_seam_parts_a_drawing_and_loses_nothing(centre: float, seam: float, steep: bool) -> None:
    """Both parts lie within the one turn the template shows, with the area of the whole, each where its angle says."""
    parted, whole = (
        laid({"centre_deg": centre}, wrap={"seam_deg": seam}, steep=steep),
        laid({"centre_deg": 0}, steep=steep),
    )
    t = parted.template
    assert (
        t is not None
        and t.right - t.left == pytest.approx(math.tau)
        and math.isclose(math.cos(t.right), math.cos(math.radians(seam)))
    )
    assert len(shapely.get_parts(parted.layers.layers[0].seen)) == 2  # type: ignore[union-attr]
    for (area, a, s), (area_0, a_0, s_0) in zip(on_the_cup(parted).values(), on_the_cup(whole).values(), strict=True):
        assert area == pytest.approx(area_0, abs=1e-3)
        assert a.min() >= math.degrees(t.left) - 1e-4 and a.max() <= math.degrees(t.right) + 1e-4
        around = (a - centre + 180) % 360 - 180
        assert (around.min(), around.max()) == pytest.approx((a_0.min(), a_0.max()), abs=5e-4)
        assert (s.min(), s.max()) == pytest.approx((s_0.min(), s_0.max()), abs=5e-4)
    said = next(v for v in parted.verdicts if v.code == "artwork.seam")
    assert said.level == "look" and said.field == "wrap.seam_deg"
    assert said.sentence().startswith("“a.svg” lies over the seam")
    d = parted.fit.drawings[0]  # type: ignore[union-attr]
    assert t.left - 1e-9 <= d.a_c <= t.right + 1e-9
    moved = laid({"centre_deg": centre}, wrap={"seam_deg": said.fix}, steep=steep)
    assert not [v for v in moved.verdicts if v.code == "artwork.seam"]
    assert len(shapely.get_parts(moved.layers.layers[0].seen)) == 1  # type: ignore[union-attr]


def test_copies_that_cross_the_seam() -> None:
    """Six copies, one of them at the back: it alone is parted, and a seam between two copies parts none."""
    b = laid({"repeat": 6, "width_mm": 25})
    said = next(v for v in b.verdicts if v.code == "artwork.seam")
    assert said.sentence().startswith("A copy of “a.svg” lies over the seam")
    assert abs(float(str(said.fix)) - 180) == pytest.approx(
        30, abs=0.1
    )  # halfway to the next copy, the nearest there is
    assert len(b.fit.drawings[0].parted) == 1 and len(shapely.get_parts(b.layers.layers[0].seen)) == 7  # type: ignore[union-attr]
    moved = laid({"repeat": 6, "width_mm": 25}, wrap={"seam_deg": said.fix})
    assert len(shapely.get_parts(moved.layers.layers[0].seen)) == 6  # type: ignore[union-attr]


def test_the_seam_is_moved_to_where_nothing_lies_at_all() -> None:
    """Opposite of a drawing at the back lies another, so the seam goes between it and a third; where copies leave no
    place free it stays."""
    some = [{"centre_deg": 180, "width_mm": 25}, {"centre_deg": 0}, {"centre_deg": 95}]
    (said,) = [v for v in laid(*some).verdicts if v.code == "artwork.seam"]
    assert "where nothing lies" in said.sentence() and 125 < float(str(said.fix)) < 162
    assert not [v for v in laid(*some, wrap={"seam_deg": said.fix}).verdicts if v.code == "artwork.seam"]
    six = {"width_mm": 25, "repeat": 6}
    full = [v for v in laid(six, six | {"centre_deg": 30}).verdicts if v.code == "artwork.seam"]
    assert full and all(v.fix is None and "Leave a place free" in v.sentence() for v in full)


def test_what_goes_on_beyond_the_turn_is_in_the_way_at_its_beginning() -> None:
    """One from 320 to 390 degrees, one within that, two copies opposite each other; what goes all round is left out."""
    some = [((320, 390), 1), ((10, 20), 1), ((100, 110), 2), ((0, 360), 1)]
    every = [(SimpleNamespace(span_a=np.radians(span)), copies) for span, copies in some]
    assert np.degrees(free_angles(every)) == pytest.approx([65, 195, 305])  # type: ignore[arg-type]


@pytest.mark.parametrize("k", [0.0, 1e-9, 0.07, -0.3, 0.85])
def test_turning_the_template_is_turning_the_cup(k: float) -> None:
    """Laid and then turned is turned and then laid: one rigid move about the point of the cone."""
    wall = RoundWall(40.0, k)
    a, s = np.linspace(-1.2, 1.2, 9), np.linspace(0, 30, 9)
    laid_flat = np.column_stack(wall.develop(a, s))
    assert wall.turned(laid_flat, 0.9) == pytest.approx(np.column_stack(wall.develop(a + 0.9, s)), abs=1e-11)
    far = RoundWall(40.0, k, middle=4.0)
    back = far.wrap(*far.develop(a + 4.0, s))
    assert back[0] == pytest.approx(a + 4.0, abs=1e-9) and back[1] == pytest.approx(s, abs=1e-9)


def test_copies_on_a_panel_are_said() -> None:
    raw = {"blank": board(200, 100)}
    job = load_job({**raw, "elements": [element("a.svg", {"width_mm": 30, "up_mm": 50, "repeat": 3})]})
    said = next(v for v in build(job, PART, "artwork").verdicts if v.code == "artwork.copies")
    assert said.level == "look" and "one is laid" in said.sentence() and said.fix == 1


def test_a_drawing_beside_the_pieces_is_a_verdict() -> None:
    """On a stack a drawing above the brim is judged, not refused, and its remedy brings it back."""
    raw = {
        "blank": {
            "kind": "stack",
            "base": dimension("circumference", 220),
            "sections": [{"upper": dimension("circumference", 220), "side": dimension("slant", 80)}],
        }
    }

    def at(up: float) -> Build:
        return build(load_job({**raw, "elements": [element("a.svg", {"width_mm": 30, "up_mm": up})]}), PART, "layers")

    for up in (140, -70):
        said = next(v for v in at(up).verdicts if v.code == "artwork.beside")
        assert said.level == "stop" and "a.svg" in said.sentence() and said.value > 50
        assert not [v for v in at(float(str(said.fix))).verdicts if v.level == "stop"]


def test_the_seam_of_a_bottle_in_sections_is_told_of() -> None:
    """At the back it is parted and told so; moved to where the verdict says, each colour is one piece again."""
    raw = example("two-section-bottle")
    raw["elements"] = [element("a.svg", {"width_mm": 30, "up_mm": 40, "centre_deg": 180})]

    def built() -> Build:
        return build(load_job(raw), PART, "layers")

    def parts(b: Build) -> int:
        return sum(len(shapely.get_parts(c.seen)) for c in b.fit.colours)  # type: ignore[union-attr]

    (said,) = [v for v in built().verdicts if v.code == "artwork.seam"]
    assert said.level == "look" and parts(built()) == 3  # the disc lies beside it
    raw["wrap"] = {**raw.get("wrap", {}), "seam_deg": said.fix}
    assert parts(built()) == 2 and not [v for v in built().verdicts if v.code == "artwork.seam"]


LOPSIDED = {"a.svg": svg('<path d="M30 40H70V43H33V60H30Z" fill="#1c3d7a"/>')}
"""What is turned, of which the middle is not the middle of what it covers."""


@pytest.mark.parametrize(
    ("drawn", "placed"), [(PART, {"width_mm": 12}), (LOPSIDED, {"width_mm": 25, "turn_deg": 45, "centre_deg": 6})]
)
def test_what_lies_over_a_cut_between_gores_is_told(drawn: dict[str, bytes], placed: dict[str, Any]) -> None:
    """Ten gores over a cut at 0: told, and turned to the middle of a gore it is cut nowhere."""
    raw = example("bellied-mug")
    raw["blank"].pop("handle", None)
    raw["wrap"] = {"extent": "full", "relief": "gores", "gores": 10}
    raw["elements"] = [element("a.svg", {"up_mm": 45, "centre_deg": 2, **placed})]
    files = {**drawn, "bellied-mug.jpg": (EXAMPLES / "drawings" / "bellied-mug.jpg").read_bytes()}

    def built(**at: Any) -> Build:
        raw["elements"][0]["placements"][0].update(at)
        return build(load_job(raw), files, "layers")

    (said,) = [v for v in built().verdicts if v.code == "artwork.gores"]
    parts = [len(shapely.get_parts(c.seen)) for c in built().fit.colours]  # type: ignore[union-attr]
    assert said.value == 1 and max(parts) == (2 if drawn is PART else 3)
    mended = built(centre_deg=said.fix)
    assert not [v for v in mended.verdicts if v.code in ("artwork.gores", "artwork.seam")]
    assert {len(shapely.get_parts(c.seen)) for c in mended.fit.colours} == {1}  # type: ignore[union-attr]


@pytest.mark.parametrize("what", ["letters", "copies of a pattern"])
def test_what_may_not_go_once_round_is_parted_as_any_other(what: str) -> None:
    """Asked to go round all the same, it lies where it says: the seam parts it, and that is told."""
    placement = {"width_mm": 40, "up_mm": 45, "centre_deg": 180, "once_round_mm": 0}
    words = {"kind": "lettering", "text": "Fernhallow", "size_mm": 9}
    one = {"source": words, "placements": [placement]} if what == "letters" else element("a.svg", placement)
    if what != "letters":
        one["pattern"] = {"pitch_mm": 60}
    b = build(load_job({**cup(), "elements": [one]}), PART, "layers")
    plain = build(
        load_job({**cup(), "elements": [{**one, "placements": [{**placement, "once_round_mm": None}]}]}), PART
    )
    assert [c.seen.area for c in b.fit.colours] == [c.seen.area for c in plain.fit.colours]  # type: ignore[union-attr]
    codes = {v.code for v in b.verdicts}
    assert "artwork.once_round" in codes and codes - {"artwork.once_round"} >= {v.code for v in plain.fit.verdicts}  # type: ignore[union-attr]
