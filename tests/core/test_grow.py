"""As large as is free by the true outline: against sizes in closed form, and what is laid never leaves its room."""

from __future__ import annotations

import math
from typing import Any

import pytest
from samples import board, cup, dimension, svg
from wimple_core.built import Build
from wimple_core.errors import DoesNotFit
from wimple_core.fit.grow import grown
from wimple_core.fit.laid import Placing
from wimple_core.fit.place import place
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole

FILES = {
    "bar.svg": svg('<rect x="0" y="0" width="80" height="8"/>'),
    "disc.svg": svg('<circle cx="50" cy="50" r="20"/>'),
    "triangle.svg": svg('<path d="M0 60H60L30 8.0385z"/>'),
    "corner.svg": svg('<path d="M0 0H60V10H10V60H0z"/>'),
}


def panel(width: float, height: float) -> dict[str, Any]:
    return board(width, height)


def built(blank: dict[str, Any], file: str, **placement: Any) -> Build:
    one = {"source": {"kind": "file", "file": file}, "placements": [placement]}
    return build_whole(load_job({"blank": blank, "elements": [one]}), FILES, "artwork")


def grow(b: Build, margin: float, turning: bool) -> tuple[dict[str, float], Any]:
    """The fields it sets, and the drawing laid by them."""
    drawing = b.drawings["e1"]
    p = b.job.elements[0].placements[0]

    def lay(where: Any) -> Any:
        return place(Placing("e1", "it", 0, where), drawing, b.template)

    sets = grown(lay(p), p, b.template, lay, margin, turning)
    return sets, lay(p.model_copy(update=sets))


def test_a_disc_grows_to_the_panels_inscribed_circle() -> None:
    b = built(panel(300, 120), "disc.svg", width_mm=10, up_mm=30, across_mm=-40)
    free = b.template.free.bounds
    sets, laid = grow(b, 2, False)
    assert sets["width_mm"] == pytest.approx(free[3] - free[1] - 4, rel=0.01)
    assert sets["up_mm"] == pytest.approx((free[1] + free[3]) / 2, abs=0.6)
    assert b.template.free.buffer(-2).covers(laid.colours[0].seen)


def test_turned_a_bar_lies_along_the_diagonal() -> None:
    """A bar of w by w / 10 in a square of side a: turned by 45 degrees w = a sqrt(2) / 1.1; upright w = a."""
    b = built(panel(200, 200), "bar.svg", width_mm=20, up_mm=90)
    free = b.template.free.bounds
    side = free[3] - free[1]
    flat, _ = grow(b, 0, False)
    assert flat["width_mm"] == pytest.approx(side, rel=0.01)
    turned, laid = grow(b, 0, True)
    assert turned["width_mm"] == pytest.approx(side * math.sqrt(2) / 1.1, rel=0.02)
    assert abs(abs(turned["turn_deg"]) - 45) < 3 and b.template.free.buffer(1e-6).covers(laid.colours[0].seen)


def test_an_outline_uses_what_a_rectangle_could_not() -> None:
    """An equilateral triangle in a circle of radius R has sides of R sqrt(3); its box alone would end at 1.51 R."""
    round_ = {"kind": "panel", "shape": "circle", "width": dimension("diameter", 200, instrument="ruler")}
    b = built(round_, "triangle.svg", width_mm=20, up_mm=90)
    across = b.template.free.bounds[2] - b.template.free.bounds[0]
    sets, laid = grow(b, 1, False)
    assert sets["width_mm"] == pytest.approx(math.sqrt(3) * (across - 2) / 2, rel=0.01)
    assert b.template.free.buffer(-0.99).covers(laid.colours[0].seen)


@pytest.mark.parametrize("turning", [False, True])
@pytest.mark.parametrize("centre", [0, 75, -110])
def test_on_a_taper_what_is_laid_keeps_its_distance(turning: bool, centre: float) -> None:
    blank = cup(300, 200, 110)["blank"]
    b = built(blank, "corner.svg", width_mm=20, up_mm=50, centre_deg=centre, way="flat")
    sets, laid = grow(b, 3, turning)
    room = b.template.free.buffer(-3 + 1e-6)
    assert room.covers(laid.colours[0].seen) and sets["width_mm"] > 40
    larger = place(
        Placing(
            "e1",
            "it",
            0,
            b.job.elements[0].placements[0].model_copy(update={**sets, "width_mm": 1.08 * sets["width_mm"]}),
        ),
        b.drawings["e1"],
        b.template,
    )
    assert not room.covers(larger.colours[0].seen)


def test_over_the_seam_it_is_said() -> None:
    with pytest.raises(DoesNotFit) as bad:
        grow(built(cup()["blank"], "disc.svg", width_mm=30, up_mm=45, centre_deg=180), 2, False)
    assert "seam" in bad.value.message and bad.value.hint


def test_without_room_it_is_said() -> None:
    with pytest.raises(DoesNotFit) as bad:
        grow(built(panel(60, 40), "disc.svg", width_mm=10, up_mm=20), 30, False)
    assert "free" in bad.value.message and bad.value.hint
