"""Sheets on the screen: several films on one mat, one film to a load, and a closer lay looked for."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from seen import bring, start

BODY = (
    '<rect width="60" height="12" fill="#1c3d7a"/><rect y="16" width="60" height="10" fill="#b98a2f"/>'
    '<rect y="30" width="60" height="10" fill="#c22a2a"/>'
)


@pytest.fixture()
def sheets(inside: Page, tmp_path: Path) -> Page:
    start(inside, "flat panel")
    bring(inside, tmp_path / "three.svg", (60, 40), BODY)
    inside.wait_for_selector('[data-drawing="0"] path')
    expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.get_by_role("link", name=re.compile("Sheets")).click()
    inside.wait_for_selector("[data-patch]")
    return inside


def test_three_films_share_a_mat_until_a_hand_wants_them_apart(sheets: Page, axe: Any) -> None:
    ways = sheets.get_by_role("radiogroup", name="How films share loads")
    expect(ways.get_by_role("radio", checked=True)).to_contain_text("Several films on a mat")
    expect(sheets.locator("[data-patch]")).to_have_count(3)
    patches = sheets.get_by_role("list", name="Patches of this load").get_by_role("listitem")
    expect(patches).to_have_count(3)
    expect(patches.first).to_have_text(re.compile(r"1\s*\S+, .+ by .+ in, .+ up"))
    axe(sheets)
    ways.get_by_role("radio", name=re.compile("One film to a load")).click()
    expect(sheets.locator("[data-patch]")).to_have_count(1)
    expect(sheets.get_by_role("button", name=re.compile("on a load"))).to_have_count(3)
    expect(sheets.get_by_role("status").first).to_have_text("saved")
    sheets.get_by_role("button", name="Undo").click()
    expect(sheets.locator("[data-patch]")).to_have_count(3)


def test_room_between_patches_moves_them_apart(sheets: Page) -> None:
    field = sheets.get_by_label("Between patches")
    sides = lambda: sorted(b["x"] for e in sheets.locator("[data-patch]").all() if (b := e.bounding_box()))  # noqa: E731
    before = sides()
    field.fill("25 mm")
    field.press("Enter")
    expect(sheets.get_by_role("status").first).to_have_text("saved")
    expect(sheets.get_by_role("list", name="Patches of this load")).not_to_have_text("")
    sheets.wait_for_timeout(1500)
    assert sides() != before
    field.fill("-3 mm")
    field.press("Enter")
    expect(sheets.get_by_text(re.compile("too small|less than|at least"))).to_be_visible()
    expect(field).to_have_value(re.compile("-3"))


def middle(sheets: Page, which: str) -> tuple[float, float]:
    box = sheets.locator(which).first.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_set_is_dragged_and_turned_and_the_others_stay(sheets: Page) -> None:
    sheets.get_by_role("radio", name=re.compile("One film to a load")).click()
    sets = sheets.locator("[data-set]")
    expect(sets).to_have_count(1)
    x, y = middle(sheets, "[data-set='0']")
    sheets.mouse.move(x, y)
    sheets.mouse.down()
    sheets.mouse.move(x + 60, y - 50, steps=4)
    # It is seen under the hand at once, wherever the answer is.
    there = middle(sheets, "[data-held-set]")
    assert abs(there[0] - x - 60) < 2 and abs(there[1] - y + 50) < 2
    sheets.mouse.up()
    by_hand = sheets.locator("[data-by-hand='true']")
    expect(by_hand).to_have_count(1)
    left, up = sheets.get_by_label("From the left"), sheets.get_by_label("Up", exact=True)
    expect(left).not_to_have_value("0")
    expect(sheets.get_by_text(re.compile("As it was laid by hand it takes"))).to_be_visible()
    expect(sheets.get_by_role("status").first).to_have_text("saved")
    moved = middle(sheets, "[data-set='0']")
    assert abs(moved[0] - x - 60) < 3 and abs(moved[1] - y + 50) < 3
    left.fill("30 mm")
    left.press("Enter")
    expect(left).to_have_value("30")
    knob = middle(sheets, "[data-knob]")
    sheets.mouse.move(*knob)
    sheets.mouse.down()
    sheets.mouse.move(knob[0] + 90, knob[1] + 60, steps=4)
    sheets.mouse.up()
    turned = sheets.get_by_label("Turned")
    expect(turned).not_to_have_value("0")
    # To the right it turns clockwise: below zero.
    assert -170 < float(turned.input_value()) < -20 and float(up.input_value()) > 0
    sheets.get_by_role("button", name="by itself again").click()
    expect(by_hand).to_have_count(0)
    sheets.get_by_role("button", name="Undo").click()
    expect(by_hand).to_have_count(1)


def test_pieces_lie_loose_and_a_corner_is_held_free(sheets: Page) -> None:
    ways = sheets.get_by_role("radiogroup", name="What keeps its arrangement")
    expect(ways.get_by_role("radio", checked=True)).to_contain_text("Sets as they are drawn")
    ways.get_by_role("radio", name=re.compile("Pieces loose")).click()
    expect(sheets.get_by_text(re.compile("The pieces lie loose: 3 are placed by hand, 0 more"))).to_be_visible()
    sheets.get_by_role("button", name="Undo").click()
    expect(ways.get_by_role("radio", checked=True)).to_contain_text("Sets as they are drawn")
    before = middle(sheets, "[data-patch]")
    sheets.get_by_role("button", name="Hold a corner free").click()
    expect(sheets.locator("[data-held]")).to_have_count(1)
    assert middle(sheets, "[data-patch]") != before
    wide = sheets.get_by_label("Wide")
    wide.fill("0")
    wide.press("Enter")
    expect(sheets.get_by_text(re.compile("too small"))).to_be_visible()
    expect(wide).to_have_value("0")
    sheets.get_by_role("button", name="Use it again").click()
    expect(sheets.locator("[data-held]")).to_have_count(0)


def test_a_closer_lay_is_seen_as_it_is_found(inside: Page, tmp_path: Path, axe: Any) -> None:
    """Rings and dots, loose: the best so far is drawn on its strip, each piece of it, until the load is there again."""
    start(inside, "flat panel")
    rings = "".join(
        f'<path fill-rule="evenodd" d="M{x} 0h26v26h-26zM{x + 3} 3v20h20v-20z"/><circle cx="{x + 13}" cy="13" r="3"/>'
        for x in (0, 30, 60)
    )
    bring(inside, tmp_path / "rings.svg", (86, 26), rings)
    inside.wait_for_selector('[data-drawing="0"] path')
    expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.get_by_role("link", name=re.compile("Sheets")).click()
    inside.get_by_role("radio", name=re.compile("Pieces loose")).click()
    expect(inside.get_by_text(re.compile("The pieces lie loose: 6 are placed by hand, 5 more"))).to_be_visible()
    inside.get_by_label("Sets lie").select_option("closest found")
    best = inside.get_by_label("The closest lay found so far")
    expect(best).to_be_visible()
    # The load itself can be looked at, and laid by hand, meanwhile.
    drawn = inside.get_by_role("group", name="What is drawn")
    drawn.get_by_role("button", name="the load").click()
    expect(inside.get_by_label("One load on its film")).to_be_visible()
    drawn.get_by_role("button", name="best so far").click()
    expect(best.locator("path.piece")).to_have_count(6)
    expect(inside.get_by_text(re.compile(r"the last 1, \d+ mm so far"))).to_be_visible()
    axe(inside)
    expect(best).to_have_count(0, timeout=40_000)
    expect(inside.get_by_label("One load on its film")).to_be_visible()
    expect(inside.get_by_text("A closer lay of the sets is being looked for")).to_have_count(0)
    # Each ring bears its number in the set, and a dot too, as soon as it is large enough on the screen.
    numbers = inside.locator("[data-numbers] text")
    expect(numbers).to_have_count(3)
    for _ in range(4):
        inside.get_by_role("button", name="Look closer").click()
    expect(numbers).to_have_count(6)
    assert sorted(numbers.all_text_contents()) == [str(n) for n in range(1, 7)]
