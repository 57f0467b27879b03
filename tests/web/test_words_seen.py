"""Words on the screen: added, typed, sized by the hand, bent round a circle."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, expect


def test_a_name_is_set_typed_and_sized(inside: Page, axe: Any) -> None:
    inside.get_by_role("button", name="New cup", exact=True).click()
    inside.wait_for_selector("canvas")
    inside.goto(inside.url.replace("measure", "artwork"))
    inside.get_by_role("button", name="Add words").click()
    words = inside.get_by_label("Words", exact=True)
    expect(words).to_have_value("Words")
    drawn = inside.locator('[data-drawing="0"] path').first
    expect(drawn).to_be_visible()
    before = drawn.get_attribute("d")
    words.fill("Wenna")
    expect(drawn).not_to_have_attribute("d", str(before))
    expect(inside.get_by_role("status").first).to_have_text("saved")
    assert axe(inside) == []
    # Keys size it: the size in the slip follows, and a reload shows the same.
    size = inside.locator('[id="field-elements.0.source.size_mm"]')
    was = float(size.input_value())
    inside.get_by_role("group", name=re.compile("^Artwork on the template")).focus()
    inside.keyboard.press("Shift++")
    expect(size).not_to_have_value(str(was))
    larger = float(size.input_value())
    assert larger > was
    inside.locator('[id="field-elements.0.source.font"]').select_option("pacifico")
    inside.get_by_text("Spacing and line").click()
    inside.get_by_label("They stand on").select_option("over")
    radius = inside.locator('[id="field-elements.0.source.baseline.radius_mm"]')
    expect(radius).to_have_value("40")
    expect(radius).to_be_visible()
    expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.reload()
    expect(words).to_have_value("Wenna")
    expect(size).to_have_value(f"{larger:g}")
    # What the font lacks is named, and nothing typed is lost.
    words.fill("Wenna 星")
    expect(inside.get_by_text("星").first).to_be_visible()
    words.fill("")
    expect(inside.get_by_role("alert")).to_be_visible()
