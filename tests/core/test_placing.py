"""Where a drawing lies, by hand: its box, what each way costs, its words, and where it goes first."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, cup, element, example, svg
from wimple_core.built import Build
from wimple_core.errors import DoesNotFit
from wimple_core.fit import first_placement, first_reference
from wimple_core.fit.suggest import filling, rooms_on, spots_on
from wimple_core.fit.ways import figures_for
from wimple_core.job import load_job
from wimple_core.measure.free import Face, FreeArea
from wimple_core.pipeline import build_whole as build
from wimple_core.surface.surface import RoundWall

FLAG = {"flag.svg": svg('<path d="M10 20H70V30H80V60H10z" fill="#1c3d7a"/>')}
PANEL = board(300, 200)


def placed(blank: dict[str, Any], **placement: Any) -> Build:
    raw = {"blank": blank, "elements": [element("flag.svg", placement)]}
    return build(load_job(raw), FLAG, "layers")


@pytest.mark.parametrize("turn", [0, 90, 30, -135])
def test_the_box_is_the_drawings_own_turned(turn: float) -> None:
    """70 x 40 drawn, 105 wide laid: the box is 105 x 60 about the placement's point, counter-clockwise by the turn."""
    d = placed(PANEL, width_mm=105, up_mm=90, across_mm=12, turn_deg=turn).fit.drawings[0]  # type: ignore[union-attr]
    t = math.radians(turn)
    corners = np.array([[-52.5, -30], [52.5, -30], [52.5, 30], [-52.5, 30]]) @ np.array(
        [[math.cos(t), math.sin(t)], [-math.sin(t), math.cos(t)]]
    )
    assert shapely.Polygon(d.outline).symmetric_difference(shapely.Polygon(corners + (12, 90))).area < 1e-6
    assert (d.width, d.height) == (105, 60)
    region = d.colours[0].seen
    # The missing corner is the upper right one of the drawing.
    notch = np.array([[47, 25]]) @ np.array([[math.cos(t), math.sin(t)], [-math.sin(t), math.cos(t)]]) + (12, 90)
    assert region.area == pytest.approx(105 * 60 - 15 * 15) and not region.covers(shapely.Point(notch[0]))


def test_what_each_way_costs_in_closed_form() -> None:
    """k = 0.1 at r = 40, half a width of 30 and half a height of 20: sag k w^2 / 2 r = 1.125; level k h / r = 5 %;
    conformal exp(k h / r) - 1 = 5.127 %; even leans by atan(w k / r) = 4.29 degrees."""
    wall = RoundWall(40.0, 0.1)
    flat, level, conformal, even = (
        figures_for(w, wall, 0.0, 30.0, 20.0) for w in ("flat", "level", "conformal", "even")
    )
    assert (flat.sag, flat.width_change, flat.lean) == (pytest.approx(1.125), 0, 0)
    assert level.width_change_percent == pytest.approx(5) and level.width_change == pytest.approx(3) and level.sag == 0
    assert conformal.width_change_percent == pytest.approx(100 * math.expm1(0.05)) and conformal.lean == 0
    assert math.degrees(even.lean) == pytest.approx(4.289, abs=1e-3) and even.width_change == 0


@pytest.mark.parametrize(
    ("way", "says"),
    [
        ("level", "its width changes by"),
        ("conformal", "its size changes by"),
        ("even", "its verticals lean"),
        ("flat", "its horizontals sag"),
    ],
)
def test_the_way_is_said_with_what_it_changes(way: str, says: str) -> None:
    b = placed(cup()["blank"], width_mm=60, up_mm=45, way=way)
    said = [v.sentence() for v in b.verdicts if v.step == "artwork"]
    assert any(s.startswith(f"“flag.svg” is laid {way}: {says}") for s in said), said


@pytest.mark.parametrize(
    ("blank", "placement", "where", "field"),
    [
        (PANEL, {"width_mm": 40, "up_mm": 100, "across_mm": 145}, "side of the panel", "across_mm"),
        (PANEL, {"width_mm": 40, "up_mm": 5}, "over the edge", "up_mm"),
        ({**PANEL, "margin_mm": 8}, {"width_mm": 40, "up_mm": 15}, "into the margin", "up_mm"),
        (cup()["blank"], {"width_mm": 40, "up_mm": 92}, "lip band", "up_mm"),
        (cup()["blank"], {"width_mm": 40, "up_mm": 4}, "base band", "up_mm"),
        (
            cup(handle={"width_mm": 40})["blank"],
            {"width_mm": 40, "up_mm": 45, "centre_deg": -70},
            "handle",
            "centre_deg",
        ),
    ],
)
def test_where_it_runs_into_is_named_and_mended(
    blank: dict[str, Any], placement: dict[str, Any], where: str, field: str
) -> None:
    bad = next(v for v in placed(blank, **placement).verdicts if v.code == "artwork.keep_out")
    assert bad.level == "stop" and where in bad.sentence() and bad.field == f"elements.0.placements.0.{field}"
    again = next(v for v in placed(blank, **{**placement, field: bad.fix}).verdicts if v.code == "artwork.keep_out")
    assert again.level == "ok" and again.value < 0.5


def test_a_drawing_goes_first_where_it_is_seen() -> None:
    """No larger than it is and than 90 % of the face; in its middle; on angles where the area goes round."""
    face = Face("others", 0.5, (0.2, 10.0, 0.8, 50.0), 60.0, 40.0)
    area = FreeArea(-3, 3, 0, 80, faces=(face,))
    small = first_placement(area, True, 20, 10)
    assert (small.width_mm, small.up_mm, small.centre_deg) == (20, 30, pytest.approx(math.degrees(0.5), abs=0.01))
    assert first_placement(area, True, 200, 10).width_mm == 54 and first_placement(area, True, 100, 100).width_mm == 36
    flat = first_placement(FreeArea(-50, 30, 0, 40), False, 500, 100)
    assert (flat.across_mm, flat.up_mm, flat.width_mm) == (-10, 20, 72)


@pytest.mark.parametrize(("pixels", "wide"), [((900, 900), 160.0), ((900, 300), 240.0), ((300, 900), 53.3)])
def test_a_picture_to_work_by_goes_first_in_the_middle(pixels: tuple[int, int], wide: float) -> None:
    """Four fifths of a panel of 300 by 200 mm, whichever side comes first, and as tall to its width as it is."""
    template = placed(PANEL, up_mm=100).template
    assert template
    left, low, right, high = template.outline.bounds
    first = first_reference(template, "it.jpg", *pixels)
    assert (first.x_mm, first.y_mm) == ((left + right) / 2, (low + high) / 2) and (right - left, high - low) == (
        300,
        200,
    )
    assert first.width_mm == wide and first.ratio == pixels[1] / pixels[0] and first.lies == "under"
    assert first_reference(None, "it.jpg", *pixels).width_mm > 10


@pytest.mark.parametrize(
    ("placement", "largest"),
    [
        # 7 : 4 drawn, in 300 x 200: as large as fits where it stands.
        ({"width_mm": 500, "up_mm": 100}, 300.0),
        ({"width_mm": 500, "up_mm": 100, "across_mm": 50}, 200.0),
        ({"width_mm": 320, "up_mm": 100, "across_mm": -20}, 260.0),
        ({"width_mm": 240, "up_mm": 90, "turn_deg": 90}, 180.0),
    ],
)
def test_what_is_too_large_is_offered_the_size_that_fits_there(placement: dict[str, Any], largest: float) -> None:
    width = placement["width_mm"]
    for _ in range(3):
        bad = next(
            v for v in placed(PANEL, **{**placement, "width_mm": width}).verdicts if v.code == "artwork.keep_out"
        )
        if bad.level == "ok":
            break
        assert bad.field == "elements.0.placements.0.width_mm" and isinstance(bad.fix, float)
        width = bad.fix
    assert bad.level == "ok" and 0.9 * largest < width <= largest


@pytest.mark.parametrize(("up", "across", "by"), [(100, 145, 15.0), (5, 0, 80 / 7 - 5), (5, 132, 80 / 7 - 5)])
def test_how_far_it_runs_over_is_the_worse_of_both_ways(up: float, across: float, by: float) -> None:
    """40 x 22.86 laid on 300 x 200: over the side by x + 20 - 150, over the lower edge by 11.43 - y."""
    found = placed(PANEL, width_mm=40, up_mm=up, across_mm=across).verdicts
    assert next(v for v in found if v.code == "artwork.keep_out").value == pytest.approx(by, abs=0.01)


CUP = cup()["blank"]


def middle_of(b: Build) -> tuple[float, float]:
    """Where the drawing's middle lies on the body seen from above: its direction, and its height."""
    d = b.fit.drawings[0]  # type: ignore[union-attr]
    middle = shapely.Polygon(d.outline).centroid
    a, s = b.template.surface.wrap(np.array([middle.x]), np.array([middle.y]))  # type: ignore[union-attr]
    return float(a[0]), float(s[0])


def test_the_back_is_opposite_the_face() -> None:
    spots = dict(spots_on(placed(CUP, width_mm=20, up_mm=40).template.limits, True, (30, 50), 40))  # type: ignore[union-attr]
    front, back = (middle_of(placed(CUP, width_mm=20, up_mm=40, **spots[n]))[0] for n in ("On the face", "At the back"))
    assert math.cos(front - back) == pytest.approx(-1)


@pytest.mark.parametrize("blank", [CUP, PANEL])
def test_half_way_up_is_as_far_from_both_edges(blank: dict[str, Any]) -> None:
    limits = placed(blank, width_mm=20, up_mm=40).template.limits  # type: ignore[union-attr]
    spot = dict(spots_on(limits, blank is CUP, (0, 10), 5))["Half way up"]
    assert spot["up_mm"] - limits.low == pytest.approx(limits.high - spot["up_mm"], abs=0.02)
    assert limits.low < spot["up_mm"] < limits.high


@pytest.mark.parametrize("blank", [CUP, cup(180, 240, 110)["blank"], PANEL, example("star-atlas-mug")["blank"]])
@pytest.mark.parametrize("turn", [0.0, 35.0])
def test_a_room_filled_is_filled_and_not_left(blank: dict[str, Any], turn: float) -> None:
    """Filled, the box of what is laid is 97 % of the room one way, no more the other, upright, and keeps within what is
    free."""
    before = placed(blank, width_mm=15, up_mm=40, turn_deg=turn)
    limits = before.template.limits  # type: ignore[union-attr]
    d = before.fit.drawings[0]  # type: ignore[union-attr]
    rooms = rooms_on(limits, before.template.surface.closed)  # type: ignore[union-attr]
    assert rooms
    for room in rooms:
        fields = filling(room, d.width, d.height)
        after = placed(blank, **fields)
        laid = after.fit.drawings[0]  # type: ignore[union-attr]
        share = max(laid.width / room.width, laid.height / room.height)
        assert 0.95 < share <= 0.97 + 1e-6 and fields["turn_deg"] == 0
        assert not [v.code for v in after.verdicts if v.level == "stop" and v.step == "artwork"]
        assert laid.span_s[0] >= limits.low - 0.1 and laid.span_s[1] <= limits.high + 0.1


@pytest.mark.parametrize(
    ("blank", "goes", "slip"),
    [
        # 70 x 40 drawn. A cup of 262.5 and 205 mm round, 96 mm up: 3 turns at half way are 701 mm.
        (CUP, 690, 720),
        # 300 x 200 of room: 20 times that is 6 m, whichever way the drawing is turned.
        (PANEL, 5900, 6100),
    ],
)
def test_a_drawing_far_larger_than_its_room_is_a_slip(blank: dict[str, Any], goes: float, slip: float) -> None:
    """Laid as long as that costs nothing; beyond it, refused before it is laid, at its own width."""
    middle = 48.0 if blank is CUP else 100.0
    for turn in (0, 90) if blank is PANEL else (0,):
        assert placed(blank, width_mm=goes, up_mm=middle, turn_deg=turn).fit is not None
        with pytest.raises(DoesNotFit, match="3 times round" if blank is CUP else "20 times as large") as bad:
            placed(blank, width_mm=slip, up_mm=middle, turn_deg=turn)
        assert bad.value.field == "elements.0.placements.0.width_mm"


@pytest.mark.parametrize(("centre", "said"), [(0, "from the front"), (180, "from where it is looked at straight on")])
def test_what_is_at_the_back_is_not_read_from_the_front(centre: float, said: str) -> None:
    b = placed(cup()["blank"], width_mm=40, up_mm=45, centre_deg=centre)
    (readable,) = [v for v in b.verdicts if v.code == "artwork.readable"]
    assert readable.sentence().endswith(f"readable {said}.")
