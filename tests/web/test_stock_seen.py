"""Stock, Cutters and cutting as a maker meets them: film written down, a load cut on the stand-in and looked at."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect
from seen import bring, start
from test_flow import open_job

SLOW_MS = 120_000
BODY = '<rect width="30" height="12" fill="#1c3d7a"/><path d="M50 0l12 30h-24z" fill="#b98a2f"/>'


def test_film_is_written_down_and_refused_in_words(inside: Page, axe: Any) -> None:
    inside.goto("/stock")
    inside.get_by_role("button", name="midnight: remnant, 298.0 mm by 300.0 mm").click()
    assert axe(inside) == []
    inside.get_by_role("button", name="Leave it").click()
    inside.get_by_role("button", name="Write film down").click()
    length = inside.get_by_label("Length left on the roll")
    length.fill("long")
    inside.get_by_role("button", name="Write it down").click()
    expect(inside.get_by_role("alert")).to_contain_text("“long”")
    assert length.input_value() == "long"
    length.fill("60 in")
    inside.get_by_role("button", name="Write it down").click()
    made = inside.get_by_role("button", name="white: roll, 305.0 mm wide, 1.5 m left")
    made.click()
    inside.get_by_role("button", name="It is gone").click()
    expect(made).to_have_count(0)


def test_a_printed_page_is_found_by_its_marks_and_cut(inside: Page, axe: Any) -> None:
    open_job(inside, "Printed insert for the tin", "sheets")
    drawn = inside.locator("[data-printed]")
    expect(drawn.locator("path").first).to_be_visible()
    # Its colours, its three marks, and the line it is cut along.
    colours = set(drawn.locator("path").evaluate_all("all => all.map((p) => p.getAttribute('fill'))"))
    assert len(colours) >= 5 and {"#000000", "none"} <= colours
    assert str(drawn.locator('path[fill="#000000"]').get_attribute("d")).count("M") == 3
    assert "inside the cutter" in inside.get_by_role("contentinfo").inner_text()
    inside.get_by_role("button", name=re.compile("^four-lanterns")).click()
    inside.get_by_role("button", name="Cut this page").click()
    inside.get_by_role("button", name="It is loaded").click()
    look = inside.get_by_role("button", name="Look for its marks")
    expect(look).to_be_visible()
    assert axe(inside) == [] and inside.get_by_role("button", name="Cut", exact=True).count() == 0
    look.click()
    again = inside.get_by_role("button", name="Look again")
    expect(again).to_be_visible()
    expect(inside.get_by_text(re.compile(r"\d right, .*\d high"))).to_be_visible()
    expect(inside.get_by_text(re.compile(r"^(99|100)\.\d\d %$"))).to_be_visible()
    inside.get_by_role("button", name="Cut", exact=True).click()
    inside.get_by_role("button", name=re.compile("It came away")).click(timeout=SLOW_MS)
    strayed = inside.get_by_text(re.compile(r"at most 0\.0\d mm")).inner_text()
    assert float(strayed.split()[2]) < 0.1
    inside.get_by_role("button", name="It is unloaded: write it down").click()
    inside.get_by_role("button", name=re.compile("^four-lanterns")).click()
    expect(inside.get_by_text("cut 1 of 6")).to_be_visible()
    inside.get_by_role("button", name="It was not").click()
    expect(inside.get_by_text("cut 1 of 6")).to_have_count(0)


def test_a_load_is_cut_on_the_stand_in(inside: Page, tmp_path: Path, axe: Any) -> None:
    start(inside, "flat panel")
    bring(inside, tmp_path / "two.svg", (62, 30), BODY)
    inside.wait_for_selector('[data-drawing="0"] path')
    expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.get_by_role("link", name=re.compile("Sheets")).click()
    inside.get_by_role("button", name="its film").click()
    expect(inside.get_by_label("Film of one load")).to_be_visible()
    inside.get_by_role("button", name="the load", exact=True).click()
    inside.get_by_role("button", name="Cut this load").click()
    expect(inside.get_by_text("Right in")).to_be_visible()
    assert axe(inside) == []
    inside.get_by_role("button", name="It is loaded").click()
    cut = inside.get_by_role("button", name="Cut", exact=True)
    force = inside.get_by_label("Force")
    for typed, said in (("abc", "“abc” is not a number."), ("-5", "more than 0 gf"), ("", "No force is given.")):
        force.fill(typed)
        cut.click()
        expect(inside.get_by_role("alert")).to_contain_text(said)
        expect(force).to_have_value(typed)
    force.fill("80 gf")
    cut.click()
    inside.get_by_role("button", name="Pause").click()
    inside.get_by_role("button", name=re.compile("Go on with contour")).click()
    whole, hangs = (inside.get_by_role("button", name=re.compile(words)) for words in ("It came away", "It hangs on"))
    hangs.click(timeout=SLOW_MS)
    expect(inside.get_by_text("Once more in the same place.")).to_be_visible()
    cut.click()
    whole.click(timeout=SLOW_MS)
    # The second film on the same mat is of the same family, and cut in the same pass.
    expect(inside.get_by_text("Unload and weed")).to_be_visible()
    strayed = inside.get_by_text(re.compile(r"at most 0\.0\d mm")).inner_text()
    assert float(strayed.split()[2]) < 0.05
    inside.get_by_label("The waste came off").select_option("clean")
    inside.get_by_role("button", name="It is unloaded: write it down").click()
    expect(inside.get_by_text("cut 1 of 1")).to_be_visible()
    inside.goto("/cutters")
    expect(inside.get_by_role("table", name="Log of cuts").get_by_text("2 passes")).to_be_visible()
    assert axe(inside) == []
    # A machine badly written down is refused, and what was typed stays.
    speed = inside.get_by_label("Speed", exact=True)
    speed.fill("fast")
    inside.get_by_role("button", name="Write it down").click()
    expect(inside.get_by_role("alert")).to_contain_text("“fast”")
    assert speed.input_value() == "fast"


def test_each_film_of_a_mat_is_set_by_itself(inside: Page, tmp_path: Path) -> None:
    """What was typed for the film before does not stand in for the next one, which is thicker."""
    start(inside, "flat panel")
    bring(inside, tmp_path / "two.svg", (62, 30), BODY)
    inside.wait_for_selector('[data-drawing="0"] path')
    steps = inside.get_by_role("navigation", name="Steps of the job")
    steps.get_by_role("link", name=re.compile("Layers")).click()
    inside.get_by_label("Film for gold").select_option("glitter")
    expect(inside.get_by_role("status").first).to_have_text("saved")
    steps.get_by_role("link", name=re.compile("Sheets")).click()
    inside.get_by_role("radio", name=re.compile("Several films on a mat")).click()
    inside.get_by_role("button", name="Cut this load").click()
    inside.get_by_role("button", name="It is loaded").click()
    force = inside.get_by_label("Force")
    force.fill("77")
    inside.get_by_role("button", name="Cut", exact=True).click()
    inside.get_by_role("button", name=re.compile("It came away")).click(timeout=SLOW_MS)
    expect(inside.get_by_role("heading", name=re.compile("Pass 2 of 2"))).to_be_visible()
    expect(force).not_to_have_value("77")
    assert float(force.input_value()) > 100
    inside.get_by_role("button", name="Stop").click()
    expect(inside.get_by_role("button", name="Cut this load")).to_be_visible()
