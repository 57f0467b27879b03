"""Measuring every kind of blank, and the Shelf, in the real interface."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect
from samples import EXAMPLES, svg
from test_flow import field, figure, open_job, saved

KINDS = (
    "mug with a handle",
    "bottle in sections",
    "turned body, with a belly",
    "dome",
    "panel bent one way",
    "panel bent both ways",
    "insert or lid",
)


def new_blank(page: Page, kind: str) -> None:
    page.goto("/bench")
    page.get_by_role("button", name="Another blank …").click()
    page.get_by_role("menuitem", name=kind).click()
    page.wait_for_url("**/measure")
    expect(page.get_by_role("contentinfo").get_by_role("button").first).to_be_visible()


def typed(page: Page, path: str, value: str) -> None:
    field(page, path).fill(value)
    field(page, path).press("Enter")


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_drawn_turned_and_clean(inside: Page, axe, kind: str) -> None:  # type: ignore[no-untyped-def]
    new_blank(inside, kind)
    drawing = inside.get_by_role("group", name=re.compile("dimensions$"))
    expect(drawing).to_be_visible()
    inside.wait_for_selector("canvas")
    # Every reading's dimension leads to its field and lights up with it.
    readings = inside.locator('#slip input[id*=".readings.0"]')
    for i in range(min(readings.count(), 4)):
        readings.nth(i).focus()
        expect(drawing.locator('text[font-weight="650"]')).not_to_have_count(0)
    assert inside.evaluate("[document.documentElement.scrollHeight, document.documentElement.scrollWidth]") == [
        800,
        1280,
    ]
    assert axe(inside) == []


def test_kinds_are_changed_and_undone(inside: Page) -> None:
    new_blank(inside, "dome")
    before = figure(inside, "Radius")
    typed(inside, "blank.rise.readings.0", "1 1/4 in")
    expect(inside.locator("dl")).not_to_contain_text(before)
    assert field(inside, "blank.rise.readings.0").input_value() == "31.75"
    saved(inside)
    inside.locator('[id="field-blank.kind"]').select_option("insert")
    expect(inside.get_by_text("Inside of the lid or jar")).to_be_visible()
    saved(inside)
    inside.get_by_role("button", name="Undo").click()
    expect(field(inside, "blank.rise.readings.0")).to_have_value("31.75")


def test_a_slip_is_said_and_mended_with_one_click(inside: Page) -> None:
    inside.get_by_role("button", name="New cup", exact=True).click()
    inside.wait_for_url("**/measure")
    typed(inside, "blank.lower.readings.0", "65")
    verdicts = inside.get_by_role("contentinfo")
    expect(verdicts).to_contain_text("a diameter typed as a circumference")
    warned = inside.locator('text[fill="var(--color-look-ink)"]')
    expect(warned).not_to_have_count(0)  # shown on the drawing where it stands
    verdicts.get_by_role("button", name="Do it").click()
    expect(inside.get_by_label("Bottom: what is read")).to_have_value("diameter")
    expect(verdicts).not_to_contain_text("typed as")
    # The same, another way, exchanged: one click again.
    inside.get_by_role("button", name="check it another way").first.click()
    typed(inside, "blank.upper.check.readings.0", "82.6")
    expect(verdicts).to_contain_text("both ways agree")


def test_a_trial_fit_corrects_the_cup_and_keeps_its_history(inside: Page) -> None:
    inside.get_by_role("button", name="New cup", exact=True).click()
    inside.wait_for_url("**/measure")
    typed(inside, "blank.tape_thickness_mm", "0")
    inside.get_by_text("Trial fit", exact=True).click()
    inside.get_by_role("button", name="Type a trial").click()
    expect(field(inside, "blank.trials.0.top_mm")).to_be_focused()
    typed(inside, "blank.trials.0.top_mm", "2.5")
    typed(inside, "blank.trials.0.bottom_mm", "-1")
    expect(inside.locator("text=round 262.5")).to_be_visible()
    expect(inside.locator("text=round 209.0")).to_be_visible()
    row = inside.get_by_role("table").get_by_role("row").nth(1)
    expect(row).to_contain_text("260.0 → 262.5")
    inside.get_by_role("button", name="Another trial").click()
    typed(inside, "blank.trials.1.top_mm", "0.5")
    expect(inside.locator("text=round 263.0")).to_be_visible()
    saved(inside)
    inside.reload()
    expect(inside.get_by_role("table").get_by_role("row")).to_have_count(3)
    inside.get_by_role("button", name="Take the last one back").click()
    expect(inside.locator("text=round 262.5")).to_be_visible()


def test_a_photograph_is_marked_by_hand_and_read_off(inside: Page) -> None:
    new_blank(inside, "turned body, with a belly")
    inside.get_by_text("Photograph", exact=True).click()
    picker = inside.get_by_label("Photograph of the side")
    picker.set_input_files({"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"no picture"})
    expect(inside.get_by_role("alert")).to_contain_text("not a picture", timeout=90_000)
    picker.set_input_files(EXAMPLES / "drawings" / "bellied-mug.jpg")
    view = inside.get_by_role("group", name="Photograph with known length and axis")
    expect(view).to_be_visible(timeout=30_000)
    typed(inside, "blank.photo.distance_mm", "520")
    end = view.get_by_role("slider", name="axis at the rim")
    before = end.get_attribute("aria-valuetext")
    box = end.bounding_box()
    assert box
    inside.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    inside.mouse.down()
    inside.mouse.move(box["x"] + box["width"] / 2 + 6, box["y"] + box["height"] / 2, steps=3)
    inside.mouse.up()
    expect(end).not_to_have_attribute("aria-valuetext", str(before))
    end.focus()
    inside.keyboard.press("ArrowLeft")
    for _ in range(2):
        inside.keyboard.press("ArrowRight")
    expect(inside.get_by_role("table")).to_contain_text("by hand")
    inside.get_by_role("button", name="Read 7 rings off it").click()
    expect(inside.get_by_role("heading", name="Ring 7, from below")).to_be_visible()
    inside.get_by_role("button", name="Show the drawing").click()
    expect(inside.get_by_role("group", name="Side view with its dimensions")).to_be_visible()
    # The example's mug is 85 mm at its widest: read off the picture, to half a millimetre.
    widest = inside.locator("text", has_text=re.compile(r"^widest")).text_content() or ""
    assert abs(float(re.findall(r"[\d.]+", widest)[0]) - 85.0) < 1.0


def test_zones_are_dragged_on_the_panel(inside: Page) -> None:
    inside.get_by_role("button", name="New flat panel").click()
    inside.wait_for_url("**/measure")
    before = figure(inside, "Free area")
    inside.get_by_role("button", name="+ outline").click()
    corner = inside.get_by_role("slider", name="Zone 1, corner 3")
    expect(corner).to_be_visible()
    expect(inside.locator("dl")).not_to_contain_text(before)
    x = field(inside, "blank.zones.0.points.2.0")
    was = float(x.input_value())
    box = corner.bounding_box()
    assert box
    inside.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    inside.mouse.down()
    inside.mouse.move(box["x"] + box["width"] / 2 + 40, box["y"], steps=4)
    inside.mouse.up()
    expect(x).not_to_have_value(str(was))
    assert float(x.input_value()) > was + 5
    corner.focus()
    now = float(x.input_value())
    inside.keyboard.press("Shift+ArrowLeft")
    expect(x).to_have_value(f"{now - 5:g}")
    saved(inside)


def test_an_outline_and_a_mesh_are_brought_in(inside: Page, tmp_path) -> None:  # type: ignore[no-untyped-def]
    inside.get_by_role("button", name="New flat panel").click()
    inside.wait_for_url("**/measure")
    drawn = tmp_path / "wedge.svg"
    drawn.write_bytes(svg('<path d="M0 0H90L45 60Z" fill="#000"/>'))
    inside.get_by_label("Drawing of the outline").set_input_files(drawn)
    expect(field(inside, "blank.width.readings.0")).to_have_value("90")
    expect(inside.locator("dl")).to_contain_text("90.0 ±")
    inside.locator('[id="field-blank.kind"]').select_option("mesh")
    mesh = inside.get_by_label("Mesh of the body")
    mesh.set_input_files({"name": "a.stl", "mimeType": "model/stl", "buffer": b"junk"})
    expect(inside.get_by_role("alert")).to_contain_text("cut short")
    mesh.set_input_files(EXAMPLES / "drawings" / "dome-40.ply")
    expect(inside.locator("dl")).to_contain_text("128.6")
    expect(inside.get_by_label("Its numbers are")).to_have_value("mm")


def test_the_shelf(inside: Page, axe) -> None:  # type: ignore[no-untyped-def]
    open_job(inside, "Perihelion cup")
    inside.get_by_text("The blank", exact=True).click()
    inside.get_by_role("button", name="Keep this blank on the Shelf").click()
    expect(inside.get_by_text("is on the Shelf")).to_be_visible()
    inside.goto("/shelf")
    expect(inside.get_by_text(re.compile(r"^\d+ of \d+$"))).to_be_visible()
    assert axe(inside) == []
    inside.get_by_label("Search the Shelf").fill("enamel cup")
    cards = inside.locator("li", has_text="White enamel cup")
    expect(cards).to_have_count(2)
    expect(inside.locator("li")).to_have_count(2)
    for i in range(2):
        cards.nth(i).get_by_role("checkbox").check()
    inside.get_by_role("button", name="Compare the two").click()
    dialog = inside.get_by_role("dialog")
    expect(dialog).to_contain_text("The same blank, as far as the readings can tell")
    assert axe(inside) == []
    dialog.get_by_role("button", name="Close").click()
    cards.first.get_by_role("button").first.click()
    expect(dialog).to_contain_text("Readings")
    dialog.get_by_label("Tags, with commas between").fill("enamel, second lot")
    dialog.get_by_label("Tags, with commas between").blur()
    assert axe(inside) == []
    dialog.get_by_role("button", name="Start a job on it").click()
    inside.wait_for_url("**/measure")
    expect(field(inside, "blank.upper.readings.0")).to_have_value("262.4")
    inside.goto("/shelf")
    expect(inside.get_by_role("group", name="Tags")).to_contain_text("second lot")


def test_one_refused_field_stops_nothing_else(inside: Page) -> None:
    """Words where a number belongs stay there with what is wrong; what is typed after it is built, drawn and saved, and
    so it all is after the page was loaded anew."""
    new_blank(inside, "mug with a handle")
    readings = inside.locator('#slip input[id*=".readings.0"]')
    first, second = (str(readings.nth(n).get_attribute("id")).removeprefix("field-") for n in (0, 1))
    before = field(inside, second).input_value()
    typed(inside, first, "a start")
    expect(field(inside, first)).to_have_attribute("aria-invalid", "true")
    more = f"{float(before) + 7:g}"
    typed(inside, second, more)
    expect(inside.get_by_role("status").first).to_have_text("saved but for what is marked")
    expect(inside.locator("[data-exact]")).to_have_attribute("data-exact", "true")
    expect(field(inside, first)).to_have_value("a start")
    expect(inside.get_by_role("contentinfo").get_by_role("button").first).to_be_visible()
    job = inside.evaluate("fetch('/api' + location.pathname.replace(/\\/measure$/, '')).then((r) => r.json())")
    at = job["document"]
    for step in second.split("."):
        at = at[int(step)] if isinstance(at, list) else at[step]
    assert at == float(more)
    inside.reload()
    expect(field(inside, first)).to_have_value("a start")
    expect(field(inside, second)).to_have_value(more)
    expect(inside.locator("[data-exact]")).to_have_attribute("data-exact", "true")
    typed(inside, first, "260")
    expect(field(inside, first)).not_to_have_attribute("aria-invalid", "true")
    expect(inside.get_by_role("status").first).to_have_text("saved")
