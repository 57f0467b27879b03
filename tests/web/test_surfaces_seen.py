"""Double curves in the real interface: strain, relief, sections, a scanned body."""

from __future__ import annotations

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect
from rendering import cap_mesh
from test_flow import field, figure, open_job, saved


def test_relief_is_chosen_and_seen(inside: Page, axe) -> None:  # type: ignore[no-untyped-def]
    open_job(inside, "Cover of the small telescope", "unwrap")
    relief = field(inside, "wrap.relief")
    expect(relief).to_have_value("slits")
    assert figure(inside, "In one piece") == "5.0 %" and figure(inside, "Shortened") == "2.0 %"
    expect(inside.get_by_role("group", name="What the strain map shows")).to_contain_text("shortened")
    assert axe(inside) == []
    relief.select_option("none")
    expect(inside.get_by_role("contentinfo")).to_contain_text("which is safe")
    inside.get_by_role("contentinfo").get_by_role("button", name="Do it").click()
    expect(relief).to_have_value("slits")
    relief.select_option("gores")
    expect(inside.locator("dl")).to_contain_text("Gores")
    expect(inside.get_by_text(re.compile("gores, each"))).to_be_visible()
    # The strain on the object can be put away.
    inside.wait_for_selector("canvas")
    inside.wait_for_timeout(700)
    seen = lambda: np.asarray(Image.open(io.BytesIO(inside.locator("canvas").screenshot())).convert("RGB")).astype(int)  # noqa: E731
    with_strain = seen()
    inside.get_by_role("button", name="strain", exact=True).click()
    inside.wait_for_timeout(700)
    assert np.abs(with_strain - seen()).max() > 20
    saved(inside)


def test_a_bottle_wears_its_name_over_the_joint(inside: Page) -> None:
    open_job(inside, "Visitor's name on a slim bottle", "unwrap")
    assert figure(inside, "Pieces") == "3"
    inside.goto(inside.url.replace("unwrap", "artwork"))
    drawing = inside.locator('[data-drawing="0"]')
    expect(drawing).to_be_visible()
    up = field(inside, "elements.0.placements.0.up_mm")
    inside.get_by_role("group", name=re.compile("^Artwork on the template")).focus()
    inside.keyboard.press("Shift+ArrowDown")
    expect(up).to_have_value("155")
    inside.keyboard.press("Shift+ArrowUp")
    expect(up).to_have_value("160")
    saved(inside)


def test_a_scanned_body_is_flattened_with_progress(inside: Page) -> None:
    inside.get_by_role("button", name="New flat panel").click()
    inside.wait_for_url("**/measure")
    inside.locator('[id="field-blank.kind"]').select_option("mesh")
    data = cap_mesh(80, 45, 50, 80).export(file_type="ply")
    inside.get_by_label("Mesh of the body").set_input_files(
        {"name": "cover.ply", "mimeType": "model/ply", "buffer": data}
    )
    expect(inside.locator("dl")).to_contain_text("113.1")
    inside.get_by_role("link", name="Unwrap").click()
    inside.get_by_role("button", name="Flatten the patch").click()
    expect(inside.locator("dl")).to_contain_text("Lengths differ", timeout=60_000)
    assert 1.11 < float(figure(inside, "Lengths differ").split()[0]) < 1.13  # 45 degrees: a / sin a = 1.1107
    # Grown from a place clicked on the object.
    field(inside, "wrap.patch.mode").select_option("grow")
    field(inside, "wrap.patch.radius_mm").fill("30")
    field(inside, "wrap.patch.radius_mm").press("Enter")
    inside.wait_for_selector("canvas")
    inside.wait_for_timeout(600)
    box = inside.get_by_role("application").bounding_box()
    assert box
    before = field(inside, "wrap.patch.seed.1").input_value()
    inside.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(field(inside, "wrap.patch.seed.1")).not_to_have_value(before)
