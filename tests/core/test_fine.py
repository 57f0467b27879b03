"""What is drawn finer than a blade goes round is set aside before anything is reckoned of it, at its laid size."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, element, svg
from wimple_core.artwork import Reading, read_drawing
from wimple_core.built import Build
from wimple_core.job import load_job
from wimple_core.pipeline import build

RED, BLUE = "#c00000", "#0000c0"
PAGE = 'width="40mm" height="40mm" viewBox="0 0 40 40"'
HAIRS = "".join(f'<path d="M{x} 0V40" stroke="{BLUE}" stroke-width=".1"/>' for x in range(5, 40, 5))
SQUARE = f'<rect width="40" height="40" fill="{RED}"/>'


def built(drawing: bytes, width: float = 40, **how: Any) -> Build:
    made = element("a.svg", {"width_mm": width, "up_mm": 45})
    made["source"].update(how.pop("source", {}))
    return build(load_job({"blank": board(300, 300), "elements": [{**made, **how}]}), {"a.svg": drawing}, "artwork")


def seen(b: Build) -> dict[str, float]:
    assert b.fit is not None
    return {c.colour: c.seen.area for d in b.fit.drawings for c in d.colours}


def said(b: Build) -> list[str]:
    return [v.sentence() for v in b.verdicts if v.code == "artwork.fine"]


def test_hairs_are_set_aside_told_and_brought_back() -> None:
    drawing = svg(SQUARE + HAIRS, PAGE)
    aside, kept, bare = (
        built(drawing), built(drawing, source={"fine": "kept"}), built(svg(SQUARE, PAGE)),
    )  # fmt: skip
    assert seen(aside) == pytest.approx(seen(bare)) and set(seen(kept)) == {RED, BLUE}
    assert seen(kept)[BLUE] == pytest.approx(7 * 40 * 0.1, rel=0.02)
    assert said(aside) == [
        "7 lines and specks too thin for a blade to go round at this size: set aside, and what lies beneath is seen"
        " there. Lay it larger, or tick “Fine lines too” to have them looked at like all else."
    ]
    assert not said(kept) and not said(bare)


def test_what_is_printed_keeps_its_hairs() -> None:
    printed = built(svg(SQUARE + HAIRS, PAGE), printed={"border_mm": 1})
    assert set(seen(printed)) == {RED, BLUE} and not said(printed)


@pytest.mark.parametrize("width", np.random.default_rng(3).uniform(8, 200, 12).tolist())
def test_it_goes_by_the_size_it_is_laid(width: float) -> None:
    """A line thinner than 0.25 mm there always goes, one of more than 0.5 mm never."""
    for line, goes in ((0.24, True), (0.51, False)):
        stroke = line * 40 / width
        b = built(svg(f'{SQUARE}<path d="M3 20H37" stroke="{BLUE}" stroke-width="{stroke}"/>', PAGE), width)
        assert (BLUE not in seen(b)) == goes


@pytest.mark.parametrize(
    ("shapes", "left"),
    [
        # A shape's own outline, and lines side by side that make one of a millimetre.
        (f'<rect x="10" y="10" width="9" height="9" fill="{BLUE}" stroke="{BLUE}" stroke-width=".2"/>', 9.2**2),
        ("".join(f'<rect x="{10 + n / 10}" width=".1001" height="30" fill="{BLUE}"/>' for n in range(10)), 30.0),
        # A hair that only ends in a shape goes, and the shape stays.
        (f'<rect x="10" y="10" width="9" height="9" fill="{BLUE}"/><path d="M18 14H38" stroke="{BLUE}"'
         ' stroke-width=".2"/>', 81.0),
    ],
)  # fmt: skip
def test_what_is_wide_together_stays(shapes: str, left: float) -> None:
    assert seen(built(svg(SQUARE + shapes, PAGE)))[BLUE] == pytest.approx(left, rel=0.01)


def test_what_lies_bare_where_a_hair_was_is_what_lay_beneath_it() -> None:
    """Under a hair the film beneath goes on: no slot is left in it."""
    (red,) = built(svg(SQUARE + HAIRS, PAGE)).fit.colours  # type: ignore[union-attr]
    assert len(shapely.get_parts(red.seen)) == 1 and not shapely.get_num_interior_rings(shapely.get_parts(red.seen)[0])


def test_a_drawing_of_nothing_else_stays_and_none_is_moved_or_resized() -> None:
    assert set(seen(built(svg(HAIRS, PAGE)))) == {BLUE}
    # A hair far out beyond the rest still counts for how wide the drawing is.
    drawing = svg(
        f'<rect width="20" height="40" fill="{RED}"/><path d="M39 0V40" stroke="{BLUE}" stroke-width=".1"/>', PAGE
    )
    assert seen(built(drawing))[RED] == pytest.approx(seen(built(drawing, source={"fine": "kept"}))[RED], rel=1e-6)
    whole, fine = (read_drawing(drawing, 0.01, Reading(fine=how)) for how in ("kept", "aside"))  # type: ignore[arg-type]
    assert fine.bounds == whole.bounds and len(fine.paints) == len(whole.paints) - 1
