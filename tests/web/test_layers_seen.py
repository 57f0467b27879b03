"""Layers on the screen: the pile put in another order by hand and by buttons, marks of other kinds, edge to edge."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect
from seen import bring, start

BODY = (
    '<rect width="90" height="50" fill="#1c3d7a"/><circle cx="25" cy="25" r="15" fill="#b98a2f"/>'
    '<circle cx="65" cy="25" r="12" fill="#efe6c8"/>'
)


@pytest.fixture()
def laid(inside: Page, tmp_path: Path) -> Page:
    start(inside, "flat panel")
    bring(inside, tmp_path / "three.svg", (90, 50), BODY)
    inside.wait_for_selector('[data-drawing="0"] path')
    expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.get_by_role("link", name=re.compile("Layers")).click()
    expect(inside.locator("[data-layer]")).to_have_count(3)
    return inside


def pile(page: Page) -> list[str]:
    """The films from the lowest to the uppermost, as they are drawn."""
    return [e.get_attribute("data-layer") or "" for e in page.locator("[data-layer]").all()]


def test_a_film_is_dragged_up_in_the_pile_and_lowered_by_a_button(laid: Page, axe: Any) -> None:
    assert pile(laid) == ["midnight", "gold", "cream"]
    low, high = (laid.locator(f"[data-layer={n}] path").first.bounding_box() for n in ("gold", "cream"))
    assert low and high
    x, y = low["x"] + low["width"] / 2, low["y"] + low["height"] / 2
    laid.mouse.move(x, y)
    laid.mouse.down()
    laid.mouse.move(x, y - 20, steps=3)
    laid.mouse.move(x, y - (low["y"] - high["y"]), steps=4)
    laid.mouse.up()
    expect(laid.locator("[data-layer]").nth(2)).to_have_attribute("data-layer", "gold")
    assert pile(laid) == ["midnight", "cream", "gold"]
    expect(laid.get_by_role("status").first).to_have_text("saved")
    laid.get_by_role("button", name="Raise midnight").click()
    expect(laid.locator("[data-layer]").nth(1)).to_have_attribute("data-layer", "midnight")
    expect(laid.get_by_role("button", name="Lower cream")).to_be_disabled()
    assert axe(laid) == []
    expect(laid.get_by_role("status").first).to_have_text("saved")
    laid.get_by_role("button", name="Undo", exact=True).click()
    expect(laid.locator("[data-layer]").nth(0)).to_have_attribute("data-layer", "midnight")


def test_edge_to_edge_is_said_to_be_hopeless_and_mended(laid: Page) -> None:
    laid.get_by_label("Films lie").select_option("butted")
    said = laid.get_by_text(re.compile("Edge to edge is hopeless"))
    expect(said).to_be_visible()
    expect(laid.get_by_text(re.compile("first between midnight and"))).to_have_count(2)
    laid.get_by_role("contentinfo").locator("span").filter(has=said).get_by_role("button", name="Do it").click()
    expect(said).to_have_count(0)
    expect(laid.get_by_label("Films lie")).to_have_value("knocked_out")
    laid.get_by_role("button", name="by eye", exact=True).click()
    expect(laid.locator('[id="field-layers.accuracy_mm"]')).to_have_value("0.8")


@pytest.mark.parametrize(("kind", "rings"), [("squares", 3), ("strips", 3), ("corners", 5), ("none", 0)])
def test_marks_are_of_the_kind_that_was_chosen(laid: Page, kind: str, rings: int) -> None:
    laid.get_by_label("Registration").select_option(kind)
    marks = laid.locator("[data-layer=midnight] path").nth(2)
    expect(marks).to_have_attribute("d", re.compile(rf"^([^Z]*Z){{{rings}}}$"))


def test_of_two_quick_changes_to_the_films_at_hand_none_is_lost(laid: Page) -> None:
    """A name is left by the click that adds another colour: both stand, after a reload too."""
    laid.get_by_role("button", name="Films at hand …").click()
    laid.get_by_label("Colours of", exact=True).select_option("holographic")
    name = laid.get_by_label("Name of silver")
    name.fill("moonshine")
    laid.get_by_role("button", name="Add one").click()
    expect(laid.get_by_label("Name of moonshine")).to_have_value("moonshine")
    fresh = laid.get_by_label("Name of new colour")
    expect(fresh).to_be_visible()
    fresh.fill("   ")
    fresh.press("Tab")
    expect(fresh).to_have_value("new colour")
    with laid.expect_response(re.compile("/api/tables/colours")):
        laid.get_by_role("button", name="Take new colour off").click()
    laid.reload()
    laid.get_by_role("button", name="Films at hand …").click()
    laid.get_by_label("Colours of", exact=True).select_option("holographic")
    expect(laid.get_by_label("Name of moonshine")).to_be_visible()
    expect(laid.get_by_label("Name of new colour")).to_have_count(0)
    with laid.expect_response(re.compile("/api/tables/colours")):
        laid.get_by_label("Name of moonshine").fill("silver")
        laid.get_by_role("button", name="Done").click()


def test_two_colours_meet_otherwise_and_one_film_lies_under_all(laid: Page, axe: Any) -> None:
    laid.get_by_text("Two by two", exact=True).click()
    laid.get_by_label("midnight and gold lie").select_option("butted")
    expect(laid.get_by_text("1 otherwise")).to_be_visible()
    laid.get_by_role("button", name="cream under midnight, the other way").click()
    expect(laid.locator("[data-layer]").nth(2)).to_have_attribute("data-layer", "midnight")
    assert pile(laid) == ["gold", "cream", "midnight"], "gold, edge to edge, may lie anywhere"
    laid.get_by_label("One film under all others").check()
    expect(laid.locator("[data-layer]")).to_have_count(4)
    assert pile(laid)[0] == "white"
    expect(laid.get_by_role("button", name="Raise white")).to_be_disabled()
    expect(laid.get_by_role("button", name="Lower gold")).to_be_disabled()
    assert axe(laid) == []


def test_the_pile_from_below_and_one_film_alone(laid: Page) -> None:
    def left_of(name: str) -> float:
        found = laid.locator(f"[data-layer={name}] path").nth(1).bounding_box()
        assert found
        return found["x"] + found["width"] / 2

    above = left_of("gold") < left_of("cream")
    laid.get_by_role("button", name="from below").click()
    assert pile(laid) == ["cream", "gold", "midnight"], "the first film on top"
    assert above and left_of("gold") > left_of("cream"), "left is right"
    laid.get_by_role("button", name="gold alone").click()
    expect(laid.locator("[data-layer]")).to_have_count(1)
    laid.get_by_role("button", name="gold alone").click()
    expect(laid.locator("[data-layer]")).to_have_count(3)


def test_films_are_seen_as_a_hand_lays_them(laid: Page) -> None:
    """The slider lays them wrong, by as much as it says; another hand lays them otherwise; at 0 they lie right."""
    laid.get_by_label("Films lie").select_option("butted")
    expect(laid.get_by_text(re.compile("Edge to edge is hopeless"))).to_be_visible()
    slider = laid.get_by_label("Lay them wrong")
    picture = "document.querySelector('[data-mislaid]').toDataURL()"
    slider.fill("1")
    expect(laid.get_by_text(re.compile("^Lay-up 1: "))).to_be_visible()
    laid.wait_for_timeout(100)
    one = laid.evaluate(picture)
    slider.fill("3")
    laid.wait_for_timeout(100)
    far = laid.evaluate(picture)
    laid.get_by_role("button", name="another hand").click()
    laid.wait_for_timeout(100)
    assert len({one, far, laid.evaluate(picture)}) == 3
    slider.fill("0")
    expect(laid.locator("[data-mislaid]")).to_have_count(0)
    expect(laid.locator("[data-layer]")).to_have_count(3)


def test_what_to_look_at_is_shown_and_mended_on_request(inside: Page, tmp_path: Path, axe: Any) -> None:
    start(inside, "flat panel")
    body = (
        '<circle cx="20" cy="25" r="12" fill="#1c3d7a"/><circle cx="70" cy="25" r="12" fill="#1c3d7a"/>'
        '<rect x="20" y="24.8" width="50" height="0.4" fill="#1c3d7a"/><circle cx="45" cy="40" r="0.6" fill="#1c3d7a"/>'
    )
    bring(inside, tmp_path / "thread.svg", (90, 50), body)
    inside.wait_for_selector('[data-drawing="0"] path')
    expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.get_by_role("link", name=re.compile("Layers")).click()
    inside.get_by_text("What to look at", exact=True).click()
    inside.get_by_role("button", name="thinnest stroke").click()
    expect(inside.locator("[data-spot]")).to_have_count(1)
    inside.get_by_role("button", name="hang by a thread").click()
    expect(inside.locator("[data-spot]")).to_have_count(1)
    said = inside.get_by_role("contentinfo").locator("span").filter(has_text="A part hangs by one of them")
    said.get_by_role("button", name="Do it").click()
    expect(inside.get_by_text(re.compile("Mended: widened"))).to_be_visible()
    inside.get_by_text("Mending", exact=True).click()
    expect(inside.get_by_text("Only midnight is mended")).to_be_visible()
    expect(inside.get_by_label("Widen what is too thin")).to_be_disabled()
    inside.get_by_label("Leave out pieces under").check()
    expect(inside.get_by_text(re.compile("1 stay"))).to_be_visible()
    assert axe(inside) == []
    inside.get_by_role("button", name="Undo", exact=True).click()
    expect(inside.get_by_text(re.compile("2 stay"))).to_be_visible()


def test_warmth_changes_the_film_on_the_object_and_a_headlight_shows_what_reflects(laid: Page) -> None:
    laid.get_by_label("Film for gold").select_option("heat-change")
    warm = laid.get_by_label("How warm the object is")
    expect(warm).to_be_visible()
    warm.fill("60")
    expect(laid.get_by_text("60 °C")).to_be_visible()
    expect(laid.get_by_label("Colour of gold in the warmth")).to_have_value("#f3efe6")
    laid.get_by_label("Film for cream").select_option("reflective")
    laid.get_by_role("button", name="in a headlight").click()
    expect(laid.get_by_role("button", name="by day")).to_be_visible()


def test_ways_to_lay_up_are_chosen_by_what_they_cost(laid: Page, axe: Any) -> None:
    laid.get_by_role("link", name=re.compile("Lay-up")).click()
    expect(laid.get_by_role("radio", name=re.compile("On the tape"))).to_be_checked()
    expect(laid.get_by_text(re.compile("3 films and the blank"))).to_be_visible()
    laid.get_by_role("radio", name=re.compile("On the mat")).check()
    expect(laid.get_by_text("Lay up on the mat")).to_be_visible()
    assert axe(laid) == []


def test_misses_and_minutes_written_down_speak_for_themselves(laid: Page) -> None:
    """Five misses: the log offers this hand's own accuracy; minutes that weeding took change what is estimated."""
    missed, write = laid.get_by_label("Missed by"), laid.get_by_role("button", name="write down")
    missed.fill("far")
    write.first.click()
    expect(missed).to_have_value("far")
    laid.get_by_label("Laid how").select_option("eye")
    for mm in (0.9, 1.1, 1.3, 1.0, 1.2):
        missed.fill(str(mm))
        write.first.click()
        expect(missed).to_have_value("")
    own = laid.get_by_role("button", name="by eye, by the log")
    own.click()
    expect(laid.locator('[id="field-layers.accuracy_mm"]')).to_have_value("0.78")
    laid.get_by_text("Weeding", exact=True).click()
    laid.get_by_label("It took").fill("9")
    laid.get_by_role("button", name="write down").nth(1).click()
    expect(laid.get_by_text(re.compile("this workshop takes [0-9.]+ times"))).to_be_visible()
    with laid.expect_response(re.compile("/api/tables/log")):
        laid.evaluate(
            "fetch('/api/tables/log', {method: 'PUT', headers: {'content-type': 'application/json', 'x-csrftoken':"
            " document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? ''}, body: '{}'})"
        )


@pytest.mark.parametrize(("colour", "edge"), [("#f4ecd8", "rgb(123, 132, 148)"), ("#18202e", "rgb(142, 160, 191)")])
def test_films_lie_on_the_blanks_own_colour(laid: Page, colour: str, edge: str) -> None:
    """In both themes, and lines show on it: dark ones on a light blank, light ones on a dark one."""
    laid.get_by_role("link", name=re.compile("Measure")).click()
    laid.get_by_text("The blank", exact=True).click()
    laid.get_by_label("Colour", exact=True).fill(colour)
    laid.get_by_role("link", name=re.compile("Layers")).click()
    ground = laid.locator("[data-layer=midnight] path").first
    for theme in ("light", "dark"):
        laid.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
        expect(ground).to_have_attribute("fill", colour)
        expect(ground).to_have_css("stroke", edge)
