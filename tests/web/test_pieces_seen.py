"""Piece work on the screen: picked on the drawing and in the bill, taken out, put back, given, outlined, by hand and
by keys."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect
from seen import bring, start

BODY = (
    '<rect x="10" y="10" width="60" height="40" fill="#112233"/>'
    '<rect x="20" y="20" width="10" height="10" fill="#aa0000"/>'
    '<rect x="45" y="20" width="10" height="10" fill="#aa0000"/>'
    '<circle cx="85" cy="85" r="8" fill="#00aa00"/>'
)


@pytest.fixture()
def drawn(inside: Page, tmp_path: Path) -> Page:
    """A panel with a drawing of four pieces, its pieces being worked on."""
    start(inside, "flat panel")
    bring(inside, tmp_path / "four.svg", (100, 100), BODY)
    inside.get_by_role("button", name="Its pieces").click()
    expect(bill(inside)).to_have_count(3)
    return inside


def bill(page: Page) -> Locator:
    return page.get_by_role("list", name="Bill of pieces").get_by_role("button", name=re.compile(r"^\d+ #"))


def at(page: Page, colour: str, nth: int = 0) -> tuple[float, float]:
    """Where on the screen a piece of a colour lies, by the picture of it."""
    found = page.evaluate(
        """([colour, nth]) => {
          const path = [...document.querySelectorAll('svg[role=presentation] path')].find((p) => p.getAttribute('fill') === colour);
          const one = path.getAttribute('d').split('Z')[nth] + 'Z';
          const copy = path.cloneNode();
          copy.setAttribute('d', one);
          path.parentNode.append(copy);
          const box = copy.getBoundingClientRect();
          copy.remove();
          return [box.x + box.width / 2, box.y + box.height / 2];
        }""",  # noqa: E501
        [colour, nth],
    )
    return found[0], found[1]


def picked(page: Page, n: int) -> None:
    expect(page.get_by_text(f"{n} piece{'' if n == 1 else 's'} picked" if n else "None picked")).to_be_visible()


def test_pieces_are_picked_taken_out_and_put_back(drawn: Page, axe: Any) -> None:
    drawn.mouse.click(*at(drawn, "#aa0000"))
    picked(drawn, 1)
    drawn.get_by_role("button", name="shaped alike").click()
    picked(drawn, 2)
    assert axe(drawn) == []
    drawn.get_by_role("button", name="take out", exact=True).click()
    expect(bill(drawn)).to_have_count(2)
    expect(drawn.get_by_text("2 left out")).to_be_visible()
    expect(drawn.locator("[data-gone]")).to_have_attribute("d", re.compile("M.*Z.*M.*Z"))
    expect(drawn.get_by_role("status").first).to_have_text("saved")
    drawn.get_by_role("button", name="put back").click()
    expect(bill(drawn)).to_have_count(3)
    expect(drawn.get_by_role("status").first).to_have_text("saved")
    drawn.get_by_role("button", name="Undo", exact=True).click()
    expect(bill(drawn)).to_have_count(2)
    drawn.reload()
    drawn.get_by_role("button", name="Its pieces").click()
    expect(drawn.get_by_text("2 left out")).to_be_visible()
    x, y = at(drawn, "#112233")
    drawn.mouse.click(x, y)
    picked(drawn, 1)


def test_a_frame_picks_what_lies_in_it_and_colours_are_given(drawn: Page) -> None:
    (x0, y0), (x1, y1) = at(drawn, "#aa0000"), at(drawn, "#aa0000", 1)
    side = abs(x1 - x0) * 0.35
    left, right = min(x0, x1) - side, max(x0, x1) + side
    drawn.mouse.move(left, y0 - side)
    drawn.mouse.down()
    drawn.mouse.move((left + right) / 2, y0, steps=4)
    drawn.mouse.move(right, y1 + side, steps=4)
    drawn.mouse.up()
    picked(drawn, 2)
    drawn.get_by_role("button", name="Give them to #00aa00").click()
    expect(bill(drawn).filter(has_text="squares")).to_have_count(1)
    expect(drawn.locator("svg[role=presentation] path[fill='#aa0000']")).to_have_count(0)
    expect(drawn.get_by_text("Every one of the 4 pieces")).to_be_visible()
    # All of it gets an outline, whose width is a field; it goes to the object and the layers.
    drawn.get_by_role("group", name=re.compile("^Pieces of the artwork")).focus()
    drawn.keyboard.press("Escape")
    picked(drawn, 0)
    drawn.get_by_role("button", name="outline", exact=True).click()
    wide = drawn.locator('[id="field-elements.0.edits.1.by_mm"]')
    expect(wide).to_have_value("2")
    wide.fill("3.5")
    wide.press("Enter")
    expect(bill(drawn).filter(has_text="outlines")).to_have_count(1)
    drawn.get_by_role("link", name=re.compile("Layers")).click()
    expect(drawn.get_by_label(re.compile("^Film for"))).to_have_count(3)


def test_keys_go_from_piece_to_piece_and_move_them(drawn: Page) -> None:
    drawn.get_by_role("group", name=re.compile("^Pieces of the artwork")).focus()
    drawn.keyboard.press("n")
    picked(drawn, 1)
    drawn.keyboard.press("ArrowRight")
    drawn.keyboard.press("Shift+ArrowRight")
    expect(drawn.get_by_text("moved · 1 piece")).to_have_count(1)
    expect(drawn.get_by_text("5.5 mm · 0.0 mm")).to_be_visible()
    drawn.keyboard.press("a")
    picked(drawn, 4)
    drawn.keyboard.press("Escape")
    drawn.keyboard.press("p")
    drawn.keyboard.press("Delete")
    expect(drawn.get_by_text("1 left out")).to_be_visible()


def test_a_line_drawn_by_hand_parts_what_it_crosses_and_what_is_kept_together_is_picked_as_one(drawn: Page) -> None:
    """Drawn aslant over a square: two halves, and the two are from then on picked by either."""
    x, y = at(drawn, "#aa0000")
    drawn.mouse.click(x, y)
    picked(drawn, 1)
    drawn.get_by_role("button", name="divide by hand").click()
    drawn.mouse.move(x - 40, y - 40)
    drawn.mouse.down()
    drawn.mouse.move(x, y, steps=3)
    drawn.mouse.move(x + 40, y + 40, steps=3)
    expect(drawn.locator("[data-parting]")).to_contain_text("-45°")
    drawn.mouse.up()
    expect(drawn.get_by_text("divided · 1 piece")).to_be_visible()
    # Not the two squares there were before.
    halves = drawn.get_by_role("list", name="Bill of pieces").get_by_role("button").filter(
        has_text=re.compile(r"pieces\s*2 ·")
    )  # fmt: skip
    expect(halves).to_have_count(1)
    # From corner to corner through its middle, in the drawing's own mm, wherever it lies and however large.
    line = [float(drawn.get_by_label(f"The line’s {w}").input_value()) for w in
            ("start, across", "start, up", "end, across", "end, up")]  # fmt: skip
    assert abs((line[3] - line[1]) / (line[2] - line[0]) + 1) < 0.05
    assert abs((line[0] + line[2]) / 2 - 25) < 1 and abs((line[1] + line[3]) / 2 - 75) < 1
    halves.click()
    picked(drawn, 2)
    drawn.get_by_role("button", name="keep together").click()
    expect(drawn.get_by_text("kept together · 2 pieces")).to_be_visible()
    expect(drawn.locator("[data-exact=true]")).to_have_count(1)
    drawn.get_by_role("group", name=re.compile("^Pieces of the artwork")).focus()
    drawn.keyboard.press("Escape")
    picked(drawn, 0)
    drawn.mouse.click(x + 6, y - 6)
    picked(drawn, 2)


def test_pieces_are_given_colours_of_the_films_at_hand(drawn: Page, axe: Any) -> None:
    drawn.mouse.click(*at(drawn, "#00aa00"))
    picked(drawn, 1)
    drawn.get_by_role("button", name=re.compile("^Give them to another colour")).click()
    expect(drawn.get_by_role("button", name="midnight", exact=True)).to_be_visible()
    assert axe(drawn) == []
    drawn.get_by_role("button", name="midnight", exact=True).click()
    expect(bill(drawn).filter(has_text="#1c3d7a")).to_have_count(1)
    # What no film comes near is said where the films are chosen, and taken as the nearest on a click.
    drawn.get_by_role("link", name=re.compile("Layers")).click()
    said = drawn.get_by_text(re.compile("calendered, gloss film at hand|of no film at hand"))
    expect(said).to_be_visible()
    drawn.get_by_role("contentinfo").locator("span").filter(has=said).get_by_role("button", name="Do it").click()
    expect(said).to_have_count(0)


def test_a_shape_is_drawn_by_its_measures_and_repeated(inside: Page, axe: Any) -> None:
    start(inside, "cup")
    inside.get_by_role("button", name="Draw …").click()
    inside.get_by_role("menuitem", name="star", exact=True).click()
    outside = inside.locator('[id="field-elements.0.source.form.outside_mm"]')
    outside.fill("8")
    outside.press("Enter")
    inside.locator('[id="field-elements.0.source.form.inside_mm"]').fill("3")
    inside.locator('[id="field-elements.0.source.form.inside_mm"]').press("Enter")
    expect(inside.get_by_text("8.0 mm tall").or_(inside.get_by_text("7.6 mm tall")).or_(
        inside.get_by_text("7.2 mm tall"))).to_be_visible()  # fmt: skip
    # By the hand: a corner drawn outward makes both circles larger.
    group = inside.get_by_role("group", name=re.compile("^Artwork on the template"))
    group.focus()
    inside.keyboard.press("Shift++")
    expect(outside).not_to_have_value("8")
    inside.get_by_text("Pattern", exact=True).click()
    inside.get_by_role("button", name="Repeat it all over").click()
    said = inside.get_by_text(re.compile(r"in a row, .* in all"))
    expect(said).to_be_visible()
    inside.get_by_label("Set", exact=True).select_option("brick")
    wanted = inside.locator('[id="field-elements.0.pattern.pitch_mm"]')
    wanted.fill("25")
    wanted.press("Enter")
    expect(said).to_contain_text(re.compile(r"9 in a row"))
    assert axe(inside) == []
    wanted.fill("0.4")
    wanted.press("Enter")
    expect(inside.get_by_text(re.compile("at most .* are laid")).first).to_be_visible()
    wanted.fill("25")
    wanted.press("Enter")
    inside.get_by_role("button", name="Lay it once again").click()
    expect(said).to_have_count(0)
