"""Places of the template found in the drawing, and drawings and pieces brought to where they belong."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from samples import cup, example, svg
from wimple_core.errors import DoesNotFit
from wimple_core.fit.matched import brought, matched
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole

BODY = (
    '<rect width="60" height="30"/><circle cx="14" cy="15" r="6" fill="#fff"/>'
    '<rect x="34" y="8" width="20" height="9" fill="#a00"/>'
)
FILES = {"a.svg": svg(BODY)}
WAYS = ("level", "even", "conformal", "flat")
PANEL = {
    "blank": {
        "kind": "panel",
        "width": {"reads": "width", "instrument": "ruler", "readings": [300]},
        "height": {"reads": "height", "instrument": "ruler", "readings": [200]},
    }
}


def laid(blank: dict[str, Any], *edits: dict[str, Any], **placement: Any) -> tuple[Any, Any, Any]:
    """The placed drawing, what it is made from, and the build."""
    one = {"source": {"kind": "file", "file": "a.svg"}, "placements": [placement], "edits": list(edits)}
    raw = {k: v for k, v in blank.items() if k in ("blank", "wrap")}
    b = build_whole(load_job({**raw, "elements": [one]}), FILES, "artwork")
    return b.fit.drawings[0], b.drawings["e1"], b  # type: ignore[union-attr, index]


BLANKS = {
    "cone": cup(270, 200, 110),
    "straight": cup(260, 260, 110),
    "widening": cup(200, 270, 110),
    "stack": example("two-section-bottle"),
    "panel": PANEL,
}


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("blank", BLANKS)
@pytest.mark.parametrize("at", [20, 176])
def test_places_of_the_template_are_found_in_the_drawing(blank: str, way: str, at: float) -> None:
    """There and back, turned, mirrored, and where it reaches over the seam."""
    where = {"across_mm": at} if blank == "panel" else {"centre_deg": at}
    d, made, _ = laid(BLANKS[blank], width_mm=50, up_mm=52, turn_deg=25, mirrored=True, way=way, **where)
    left, low, right, high = made.frame
    drawn = np.random.default_rng(3).uniform((left, low), (right, high), (40, 2))
    assert d.carry.drawn(d.carry.of(drawn)) == pytest.approx(drawn, abs=1e-4)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("blank", ["cone", "straight", "panel"])
@pytest.mark.parametrize("two", [False, True])
def test_a_drawing_is_brought_to_where_it_lay(blank: str, way: str, two: bool) -> None:
    """Laid elsewhere, turned and sized, it comes back by one place of it, or by two."""
    across = "across_mm" if blank == "panel" else "centre_deg"
    wanted = {"width_mm": 46, "up_mm": 58, "turn_deg": -12, across: 24, "way": way}
    now = {**wanted, "up_mm": 44, across: -10} | ({"width_mm": 30, "turn_deg": 40} if two else {})
    there, made, _ = laid(BLANKS[blank], **wanted)
    here, _, b = laid(BLANKS[blank], **now)
    left, low, right, high = made.frame
    drawn = np.array([[left + 5, low + 4], [right - 8, high - 3]])[: 2 if two else 1]
    pairs = list(zip(here.carry.of(drawn).tolist(), there.carry.of(drawn).tolist(), strict=True))
    sets = matched(here, b.elements[0].placements[0], made, b.template, pairs)
    assert sets == pytest.approx({f: wanted[f] for f in sets}, abs=2e-3)
    assert set(sets) == {across, "up_mm"} | ({"width_mm", "turn_deg"} if two else set())


@pytest.mark.parametrize("blank", ["cone", "panel"])
def test_pieces_are_brought_to_where_they_belong(blank: str) -> None:
    """Two places of a piece come to two others, on the template, once it is moved as said."""
    where = {"width_mm": 60, "up_mm": 55, "turn_deg": 15, "mirrored": True}
    d, made, _ = laid(BLANKS[blank], **where)
    (name,) = (n for c in made.colours if c.colour == "#aa0000" for n in c.pieces[1])
    ends = d.carry.of(np.array([[34.0, 92.0], [54.0, 92.0]]))
    goal = d.carry.of(np.array([[20.0, 78.0], [20.0 + 20 * np.cos(0.6), 78 + 20 * np.sin(0.6)]]))
    by = brought(d.carry, made, [name], list(zip(ends.tolist(), goal.tolist(), strict=True)))
    assert by.larger == pytest.approx(1, abs=1e-4) and by.turn == pytest.approx(np.degrees(0.6), abs=1e-3)
    move = {"kind": "move", "pieces": [name], "across_mm": by.across, "up_mm": by.up, "turn_deg": by.turn}
    after, _, _ = laid(BLANKS[blank], move, **where)
    (moved,) = (g for c in after.colours if c.colour == "#aa0000" for g in shapely.get_parts(c.seen))
    for place in goal:
        assert moved.exterior.dwithin(shapely.Point(place), 0.05)
    one = brought(d.carry, made, [name], [(tuple(ends[0]), tuple(goal[0]))])
    assert one.turn == 0 and one.larger == 1 and (one.across, one.up) == pytest.approx((-14, -14), abs=1e-4)
    twice = d.carry.of(np.array([[20.0, 78.0], [60.0, 78.0]]))
    assert brought(
        d.carry, made, [name], list(zip(ends.tolist(), twice.tolist(), strict=True))
    ).larger == pytest.approx(2)


def test_what_cannot_be_brought_is_said() -> None:
    d, made, b = laid(PANEL, width_mm=60, up_mm=100)
    placement = b.elements[0].placements[0]
    same = [((0.0, 100.0), (5.0, 5.0)), ((0.1, 100.0), (50.0, 5.0))]
    with pytest.raises(DoesNotFit, match="too near"):
        matched(d, placement, made, b.template, same)
    with pytest.raises(DoesNotFit, match="not there any more"):
        brought(d.carry, made, ["nobody"], [((0.0, 100.0), (5.0, 5.0))])
