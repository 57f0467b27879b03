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
