"""A list of names, the Folio, and files that are dropped or pasted, in the real interface."""

from __future__ import annotations

import base64
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect
from samples import drawing, svg
from seen import start

DROP = """([name, type, data]) => {
  const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
  const carried = new DataTransfer();
  carried.items.add(new File([bytes], name, { type }));
  for (const kind of ['dragover', 'drop'])
    document.body.dispatchEvent(new DragEvent(kind, { dataTransfer: carried, bubbles: true, cancelable: true }));
}"""
PASTE = """(text) => {
  const carried = new DataTransfer();
  carried.setData('text/plain', text);
  document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData: carried, bubbles: true, cancelable: true }));
}"""


def delete_job(page: Page) -> None:
    number = re.search(r"/jobs/(\d+)/", page.url)
    assert number
    expect(page.get_by_role("status")).to_have_text("saved")
    page.goto("/bench")
    token = page.evaluate("fetch('/api/session').then((r) => r.json()).then((s) => s.csrf)")
    done = page.request.delete(f"/api/jobs/{number[1]}", headers={"X-CSRFToken": token, "Referer": page.url})
    assert done.ok, done.text()


def test_a_list_typed_is_fitted_shown_and_all_of_it_cut(inside: Page) -> None:
    page = inside
    start(page, "cup")
    page.get_by_role("button", name="Add words", exact=True).click()
    page.get_by_role("textbox", name="Words").fill("Name")
    page.get_by_role("button", name="Names", exact=True).click()
    page.get_by_role("textbox", name=re.compile("One decal for each name")).fill("Ada\n\nMarigold Anne Tremayne\nBo\n")
    page.get_by_role("button", name="Take this list").click()
    lines = page.get_by_role("group", name="Names").get_by_role("button")
    expect(lines).to_have_count(3)
    expect(lines.nth(1)).to_contain_text("%")
    verdicts = page.get_by_role("contentinfo")
    expect(verdicts).to_contain_text("All 3 names fit their room")
    expect(verdicts).to_contain_text("“Ada”")
    lines.nth(0).focus()
    page.keyboard.press("ArrowDown")
    expect(verdicts).to_contain_text("“Marigold Anne")
    expect(page.get_by_role("status").first).to_have_text("saved")
    room = page.locator('[id="field-names.columns.0.room.wide_mm"]')
    room.fill("12")
    room.press("Enter")
    expect(verdicts).to_contain_text("of 3 names do not fit their room")
    expect(lines.nth(1).get_by_role("img")).to_have_attribute("aria-label", "stop")
    page.get_by_role("button", name="Undo").click()
    expect(verdicts).to_contain_text("All 3 names fit")
    page.get_by_role("navigation").get_by_role("link", name=re.compile("Sheets$")).click()
    expect(page.get_by_role("main")).to_contain_text("3 on a load")
    delete_job(page)


def test_a_table_from_a_file_asks_what_its_columns_are(inside: Page, tmp_path: Path) -> None:
    page = inside
    start(page, "cup")
    page.get_by_role("button", name="Draw …").click()
    page.get_by_role("menuitem", name="star", exact=True).click()
    expect(page.get_by_role("contentinfo")).to_contain_text("“star”")
    page.get_by_role("button", name="Add words", exact=True).click()
    expect(page.get_by_role("contentinfo")).to_contain_text("“Words”")
    page.get_by_role("button", name="Names", exact=True).click()
    (tmp_path / "list.csv").write_text("Colour;Name\n#b3261e;Ada\n#1c3d7a;Bo\n", encoding="utf-8")
    page.get_by_label("List to bring").set_input_files(tmp_path / "list.csv")
    # Both columns are the chosen words', and not the star's.
    expect(page.get_by_label(re.compile("^Colour"))).to_have_value(re.compile("^e2/colour"))
    page.get_by_role("button", name="Cut 2 of them").click()
    expect(page.get_by_role("group", name="Names").get_by_role("button").first).to_contain_text("#b3261e · Ada")
    expect(page.locator('[fill="#b3261e"]').first).to_be_attached()
    page.get_by_role("group", name="Names").get_by_role("button").nth(1).click()
    expect(page.locator('[fill="#1c3d7a"]').first).to_be_attached()
    delete_job(page)


def test_kept_in_the_folio_found_there_and_used_in_another_job(inside: Page, axe) -> None:  # type: ignore[no-untyped-def]
    page = inside
    page.get_by_role("link", name="Folio", exact=True).click()
    cards = page.get_by_role("main").get_by_role("list").get_by_role("button")
    expect(cards).to_have_count(9)
    body = svg('<path d="M10 10h60v40h-60z" fill="#7a2e5d"/><circle cx="40" cy="30" r="9" fill="#f0c040"/>')
    page.evaluate(DROP, ["plum panel.svg", "image/svg+xml", base64.b64encode(body).decode()])
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("plum panel")
    expect(dialog).to_contain_text("no job yet")
    dialog.get_by_label("Tags, with commas between").fill("plum, test")
    dialog.get_by_label("Tags, with commas between").press("Tab")
    dialog.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="plum 1").click()
    expect(cards).to_have_count(1)
    assert axe(page) == []
    page.goto("/bench")
    start(page, "cup")
    page.get_by_role("button", name="Draw …").click()
    page.get_by_role("menuitem", name="from the Folio …").click()
    page.get_by_role("searchbox", name="Search the Folio").fill("plum")
    expect(page.get_by_role("dialog").get_by_role("listitem")).to_have_count(1)
    page.get_by_role("dialog").get_by_role("button", name=re.compile("plum panel")).click()
    expect(page.get_by_role("contentinfo")).to_contain_text("plum panel.svg")
    expect(page.get_by_role("status")).to_have_text("saved")
    job = page.url
    page.get_by_role("link", name="Folio", exact=True).click()
    page.wait_for_url("**/folio")
    page.get_by_role("main").get_by_role("button", name=re.compile("plum panel")).click()
    expect(page.get_by_role("dialog").get_by_role("listitem")).to_have_count(1)
    page.get_by_role("button", name="Take it out of the Folio").click()
    page.get_by_role("button", name="Yes, take it out for good").click()
    expect(cards).to_have_count(9)
    page.goto(job)
    expect(page.get_by_role("contentinfo")).to_contain_text("plum panel.svg")
    delete_job(page)


def test_drawings_and_words_are_dropped_and_pasted(inside: Page) -> None:
    page = inside
    start(page, "cup")
    expect(page.get_by_role("button", name="Bring a drawing")).to_be_visible()
    page.evaluate(DROP, ["comet.svg", "image/svg+xml", base64.b64encode(drawing("comet.svg")).decode()])
    expect(page.get_by_role("contentinfo")).to_contain_text("“comet.svg”")
    page.evaluate(PASTE, svg('<rect width="30" height="20" fill="#0a7d4b"/>').decode())
    expect(page.get_by_role("contentinfo")).to_contain_text("“pasted.svg”")
    page.evaluate(PASTE, "Look up")
    expect(page.get_by_role("contentinfo")).to_contain_text("“Look up”")
    page.evaluate(DROP, ["broken.svg", "image/svg+xml", base64.b64encode(b"<svg").decode()])
    expect(page.get_by_role("alert")).to_be_visible()
    expect(page.get_by_role("group", name="Drawings").get_by_role("button")).to_have_count(3)
    delete_job(page)


def test_a_font_of_the_workshop_sets_words_and_forms_are_switched(inside: Page) -> None:
    page = inside
    start(page, "cup")
    page.get_by_role("button", name="Add words", exact=True).click()
    page.get_by_role("textbox", name="Words").fill("1/2 fi")
    page.get_by_label("fractions").check()
    expect(page.get_by_role("status")).to_have_text("saved")
    picked = page.locator('select[id$=".source.font"]')
    picked.select_option("zilla-slab")
    expect(page.get_by_label("figures as tall as capitals")).to_be_visible()
    picked.select_option(label="Fernhallow Marks")
    expect(page.get_by_role("contentinfo")).to_contain_text("has no")
    page.get_by_role("textbox", name="Words").fill("ABC")
    expect(page.get_by_role("contentinfo")).to_contain_text("“ABC” is read from")
    expect(picked).to_have_value("fernhallow-marks.ttf")
    delete_job(page)


def test_what_is_dragged_falls_in_with_the_face_and_what_follows_it_comes_along(inside: Page) -> None:
    page = inside
    start(page, "cup")
    page.get_by_role("button", name="Draw …").click()
    page.get_by_role("menuitem", name="star", exact=True).click()
    around = page.locator('[id$=".placements.0.centre_deg"]')
    up = page.locator('[id$=".placements.0.up_mm"]')
    expect(around).to_have_value("0")
    page.get_by_role("button", name="Draw …").click()
    page.get_by_role("menuitem", name="disc", exact=True).click()
    page.locator('select[id$=".beside"]').select_option(label="star")
    expect(up).to_have_value("0")
    up.fill("-30")
    up.press("Enter")
    page.get_by_role("group", name="Drawings").get_by_role("button", name="star").click()
    expect(page.get_by_role("status")).to_have_text("saved")
    before = up.input_value()
    for alt, snapped in ((False, True), (True, False)):
        box = page.locator('[data-drawing="0"]').bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        if alt:
            page.keyboard.down("Alt")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 4, y + 14, steps=4)
        page.mouse.up()
        page.keyboard.up("Alt")
        expect(up).not_to_have_value(before)
        assert (around.input_value() == "0") is snapped
        before = up.input_value()
    page.get_by_role("group", name="Drawings").get_by_role("button", name="disc").click()
    expect(up).to_have_value("-30")
    across = page.locator('[id$=".source.form.across_mm"]')
    small = float(across.input_value())
    page.get_by_role("button", name="to its outline").click()
    expect(across).not_to_have_value(f"{small:g}")
    assert float(across.input_value()) > small
    delete_job(page)


def test_a_space_between_letters_is_dragged_and_set_by_keys(inside: Page) -> None:
    page = inside
    start(page, "cup")
    page.get_by_role("button", name="Add words", exact=True).click()
    page.get_by_role("textbox", name="Words").fill("AVATAR")
    page.get_by_text("Spacing and line").click()
    page.get_by_label(re.compile("Each space by hand")).check()
    gap = page.get_by_role("slider", name="Between V and A")
    box = gap.locator("line").first.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 12, y, steps=4)
    page.mouse.up()
    expect(gap).not_to_have_attribute("aria-valuenow", "0")
    # What the hand held on its way is not where it let go.
    expect(page.get_by_role("status").first).to_have_text("saved")
    expect(page.locator("[data-exact=true]")).to_have_count(1)
    by = int(gap.get_attribute("aria-valuenow") or 0)
    assert by > 100
    other = page.get_by_role("slider", name="Between T and A")
    other.focus()
    page.keyboard.press("ArrowLeft")
    expect(other).to_have_attribute("aria-valuenow", "-5")
    # Changes within the pause before they are saved are one step back.
    expect(page.get_by_role("status").first).to_have_text("saved")
    page.get_by_role("button", name="Let all 2 set by hand go").click()
    expect(gap).to_have_attribute("aria-valuenow", "0")
    page.get_by_role("button", name="Undo").click()
    expect(gap).to_have_attribute("aria-valuenow", str(by))
    delete_job(page)


def test_a_picture_is_laid_under_moved_and_a_colour_taken_from_it(inside: Page, tmp_path: Path) -> None:
    page = inside
    start(page, "cup")
    page.get_by_role("button", name="Add words", exact=True).click()
    expect(page.get_by_role("contentinfo")).to_contain_text("is read from")
    halves = np.zeros((360, 600, 3), dtype=np.uint8)
    halves[:, :300], halves[:, 300:] = (200, 30, 40), (20, 120, 60)
    Image.fromarray(halves).save(tmp_path / "halves.png")
    page.get_by_text("Picture to work by", exact=True).click()
    page.get_by_label("Picture to work by").set_input_files(tmp_path / "halves.png")
    expect(page.locator("image")).to_have_attribute("href", re.compile("/pictures/halves.jpg"))
    page.get_by_role("button", name="Move it by hand").click()
    held = page.get_by_role("button", name=re.compile("^The picture: arrow keys"))
    held.focus()
    page.keyboard.press("Shift+ArrowUp")
    expect(page.get_by_role("status").first).to_have_text("saved")
    box = held.bounding_box()
    assert box
    page.mouse.move(box["x"] + 30, box["y"] + 30)
    page.mouse.down()
    page.mouse.move(box["x"] + 70, box["y"] + 30, steps=4)
    page.mouse.up()
    now = held.bounding_box()
    assert now and now["x"] - box["x"] == pytest.approx(40, abs=3)
    page.get_by_role("button", name="Leave it there").click()
    page.get_by_role("button", name="Take a colour from it").click()
    held = page.get_by_role("button", name=re.compile("a click takes its colour"))
    box = held.bounding_box()
    assert box
    page.mouse.click(box["x"] + 0.8 * box["width"], box["y"] + box["height"] / 2)
    expect(page.get_by_text(re.compile("was #18202e"))).to_be_visible()
    taken = page.get_by_text(re.compile("was #18202e")).inner_text()
    code = re.search(r"#([0-9a-f]{6})", taken)
    assert code and np.abs(np.array(list(bytes.fromhex(code[1]))) - (20, 120, 60)).max() < 12
    page.get_by_role("navigation").get_by_role("link", name=re.compile("Layers$")).click()
    expect(page.get_by_role("main")).to_contain_text("Layers 1")
    delete_job(page)
