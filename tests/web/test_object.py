"""The object wears the decal the right way round, and the hand's tools do what they say."""

from __future__ import annotations

import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect
from samples import svg


def field(page: Page, path: str):  # type: ignore[no-untyped-def]
    return page.locator(f'[id="field-{path}"]')


@pytest.fixture()
def placed(inside: Page, tmp_path) -> Page:  # type: ignore[no-untyped-def]
    """A new cup with a drawing of four colours: red upper left, blue upper right, green lower left, yellow lower
    right."""
    inside.get_by_role("button", name="New cup", exact=True).click()
    inside.wait_for_url("**/measure")
    inside.get_by_role("link", name="Artwork").click()
    quarters = (("#c22a2a", 0, 0), ("#2a5bb8", 50, 0), ("#2f8a4a", 0, 50), ("#f2d22e", 50, 50))
    art = tmp_path / "quarters.svg"
    art.write_bytes(svg("".join(f'<rect x="{x}" y="{y}" width="50" height="50" fill="{c}"/>' for c, x, y in quarters)))
    inside.get_by_label("Drawing to add").set_input_files(art)
    expect(inside.locator('[data-drawing="0"]')).to_be_visible()
    expect(inside.get_by_role("contentinfo")).to_contain_text("clear of the keep-out zones")
    return inside


def middles(page: Page) -> dict[str, np.ndarray]:
    """Where each colour lies on the picture of the object (x, y of its middle), for the colours that are seen."""
    page.wait_for_selector("canvas")
    page.wait_for_timeout(900)
    c = np.asarray(Image.open(io.BytesIO(page.locator("canvas").screenshot())).convert("RGB")).astype(int)[
        40:
    ]  # below the button that lies on it
    r, g, b = c[..., 0], c[..., 1], c[..., 2]
    masks = {
        "red": (r > g + 60) & (r > b + 60),
        "blue": (b > r + 50) & (b > g + 30),
        "green": (g > r + 30) & (g > b + 25),
        "yellow": (r > b + 80) & (g > b + 60),
    }
    return {k: np.argwhere(m).mean(axis=0)[::-1] for k, m in masks.items() if m.sum() > 40}


def test_neither_mirrored_nor_upside_down(placed: Page) -> None:
    at = middles(placed)
    assert at["red"][0] < at["blue"][0] and at["green"][0] < at["yellow"][0]
    assert at["red"][1] < at["green"][1] and at["blue"][1] < at["yellow"][1]


def test_positive_angles_go_right_and_the_object_turns(placed: Page) -> None:
    before = middles(placed)
    field(placed, "elements.0.placements.0.centre_deg").fill("25")
    field(placed, "elements.0.placements.0.centre_deg").press("Enter")
    expect(placed.get_by_role("status")).to_have_text("saved")
    right = middles(placed)
    assert right["red"][0] > before["red"][0] + 5
    placed.get_by_role("application").focus()
    for _ in range(4):
        placed.keyboard.press("ArrowLeft")
    turned = middles(placed)
    assert turned["red"][0] < right["red"][0] - 5
    placed.get_by_role("button", name="at arm’s length").click()
    assert abs(middles(placed)["red"][0] - right["red"][0]) < 2
    field(placed, "elements.0.placements.0.centre_deg").fill("180")
    field(placed, "elements.0.placements.0.centre_deg").press("Enter")
    expect(placed.get_by_role("status")).to_have_text("saved")
    assert middles(placed) == {}


def test_grips_size_and_turn(placed: Page) -> None:
    turn = field(placed, "elements.0.placements.0.turn_deg")
    knob = placed.locator('[data-grip="turn"]')
    at, art = knob.bounding_box(), placed.locator('[data-drawing="0"]').bounding_box()
    assert at and art
    cx, cy = art["x"] + art["width"] / 2, art["y"] + art["height"] / 2
    placed.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    placed.mouse.down()
    placed.mouse.move(cx - 60, cy - 60, steps=5)
    placed.mouse.move(cx - 90, cy, steps=5)
    placed.mouse.up()
    expect(turn).not_to_have_value("0")
    placed.wait_for_timeout(500)
    assert 75 < float(turn.input_value()) < 105
    group = placed.get_by_role("group", name=re.compile("^Artwork on the template"))
    group.focus()
    was = float(turn.input_value())
    placed.keyboard.press("Alt+ArrowRight")
    expect(turn).to_have_value(str(round(was - 1, 3)).removesuffix(".0"))
    width = field(placed, "elements.0.placements.0.width_mm")
    before = float(width.input_value())
    placed.keyboard.press("+")
    expect(width).to_have_value(str(round(before + 0.5, 3)).removesuffix(".0"))


def test_a_remedy_is_one_click(placed: Page) -> None:
    up = field(placed, "elements.0.placements.0.up_mm")
    up.fill("4")
    up.press("Enter")
    line = placed.get_by_role("contentinfo")
    expect(line).to_contain_text("base band")
    line.get_by_role("button", name="Do it").first.click()
    expect(line).to_contain_text("clear of the keep-out zones")
    assert float(up.input_value()) > 10


def test_work_under_way_can_be_stopped(placed: Page) -> None:
    placed.get_by_role("link", name="Sheets").click()

    def slow(r: Route) -> None:
        if r.request.method == "DELETE":
            return r.continue_()
        answer = {**r.fetch().json(), "status": "running", "share": 0.2, "working_on": "layers/01.svg", "error": None}
        return r.fulfill(json=answer)

    works = re.compile(r"/api/works/\d+$")
    placed.route(works, slow)
    placed.get_by_role("button", name="Make all files").click()
    stop = placed.get_by_role("button", name="Stop")
    expect(placed.get_by_role("progressbar", name="Making files")).to_be_visible()
    expect(placed.get_by_text("layers/01.svg")).to_be_visible()
    stop.click()
    placed.unroute_all(behavior="wait")
    expect(stop).to_have_count(0)


def test_drawing_and_object_change_places(placed: Page) -> None:
    placed.wait_for_selector("canvas")
    small = placed.locator("canvas").bounding_box()
    placed.get_by_role("button", name="Object large").click()
    placed.wait_for_timeout(300)
    large = placed.locator("canvas").bounding_box()
    assert small and large and large["width"] > 2 * small["width"]
    expect(placed.locator('[data-drawing="0"]')).to_be_visible()
    placed.get_by_role("button", name="Drawing large").click()


def test_zoom_and_pan_come_back(placed: Page) -> None:
    drawing = placed.get_by_role("group", name=re.compile("^Artwork on the template"))
    expect(placed.locator('[data-exact="true"]')).to_be_visible()
    whole = drawing.get_attribute("viewBox")
    placed.get_by_role("button", name="Look closer").click()
    box = drawing.bounding_box()
    assert box
    placed.mouse.move(box["x"] + 40, box["y"] + 300)
    placed.mouse.down()
    placed.mouse.move(box["x"] + 90, box["y"] + 320)
    placed.mouse.up()
    assert drawing.get_attribute("viewBox") != whole
    placed.get_by_role("button", name="whole").click()
    expect(drawing).to_have_attribute("viewBox", str(whole))
