"""People at the screen: let in by a link, looking without changing, going back in a job's history."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from test_flow import job_link

SECRET = "oats and seven buttons"


def menu(page: Page, item: str) -> None:
    page.get_by_role("button", name="account and people").click()
    page.get_by_role("menuitem", name=item).click()


@pytest.fixture()
def beside(window: Browser, address: str) -> Any:
    context = window.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce", base_url=address)
    yield context.new_page()
    context.close()


def link_for(page: Page, role: str, note: str) -> str:
    page.get_by_label("They may").select_option(role)
    page.get_by_label("For whom").fill(note)
    page.get_by_role("button", name="Make a link").click()
    expect(page.get_by_text(f"For {note}.")).to_be_visible()
    return page.get_by_label("The link", exact=True).input_value()


def test_somebody_is_let_in_looks_and_is_taken_out(inside: Page, beside: Page, axe: Any) -> None:
    menu(inside, "People")
    expect(inside.get_by_role("row", name=re.compile("Demo \\(you\\)"))).to_be_visible()
    link = link_for(inside, "viewer", "Wenna of the night shift")
    assert axe(inside) == []
    beside.goto(link)
    beside.get_by_label("Your name").fill("Wenna")
    beside.locator("#secret-password").fill("wenna")
    beside.get_by_role("button", name="Come in").click()
    expect(beside.get_by_role("alert")).to_contain_text("too short")
    assert axe(beside) == [] and beside.get_by_label("Your name").input_value() == "Wenna"
    beside.locator("#secret-password").fill(SECRET)
    beside.get_by_role("button", name="Come in").click()
    beside.wait_for_url("**/bench")
    # A viewer tries things out; nothing of it is kept, nothing can be begun or taken away.
    assert beside.get_by_role("button", name="New cup", exact=True).count() == 0
    assert beside.get_by_role("button", name=re.compile("off the Bench")).count() == 0
    job_link(beside, "Perihelion cup").click()
    beside.wait_for_selector("canvas")
    reading = beside.locator('[id="field-blank.upper.readings.0"]')
    was = reading.input_value()
    reading.fill("301")
    reading.press("Enter")
    expect(beside.get_by_role("status").first).to_have_text("tried out, not kept")
    beside.reload()
    expect(reading).to_have_value(was)
    # By name and password as well, and in vain once taken out.
    menu(beside, "Leave")
    beside.get_by_label("Name", exact=True).fill("wenna")
    beside.locator("#secret-password").fill(SECRET)
    beside.get_by_label(re.compile("^Workshop")).fill("fernhallow-decals")
    beside.get_by_role("button", name="Sign in").click()
    beside.wait_for_url("**/bench")
    inside.reload()
    inside.on("dialog", lambda d: d.accept())
    inside.get_by_role("button", name="Take out Wenna").click()
    expect(inside.get_by_role("row", name=re.compile("Wenna"))).to_have_count(0)
    inside.get_by_role("button", name="Take out Demo").click()
    expect(inside.get_by_role("alert")).to_contain_text("only owner")
    beside.goto("/bench")
    beside.wait_for_url("**/sign-in")
    beside.goto(link)
    expect(beside.get_by_role("heading")).to_have_text("This link leads nowhere")


def test_a_password_is_changed_and_every_session_ended(inside: Page, beside: Page, axe: Any) -> None:
    menu(inside, "People")
    link = link_for(inside, "maker", "Piet")
    beside.goto(link)
    beside.get_by_label("Your name").fill("Piet")
    beside.locator("#secret-password").fill(SECRET)
    beside.get_by_role("button", name="Come in").click()
    beside.wait_for_url("**/bench")
    menu(beside, "Password and sessions")
    beside.locator("#secret-old").fill("wrong")
    beside.locator("#secret-new").fill("nine grey kettles")
    beside.get_by_role("button", name="Change the password").click()
    expect(beside.get_by_role("alert")).to_contain_text("not your password now")
    beside.locator("#secret-old").fill(SECRET)
    beside.get_by_role("button", name="Change the password").click()
    expect(beside.get_by_role("status").first).to_contain_text("Changed")
    assert axe(beside) == []
    beside.get_by_role("button", name="Sign out everywhere").click()
    beside.wait_for_url("**/sign-in")


def test_any_revision_of_a_job_is_brought_back(inside: Page, axe: Any) -> None:
    inside.get_by_role("button", name="New cup", exact=True).click()
    inside.wait_for_selector("canvas")
    reading = inside.locator('[id="field-blank.upper.readings.0"]')
    was = reading.input_value()
    for value in ("262", "263"):
        reading.fill(value)
        reading.press("Enter")
        expect(inside.get_by_role("status").first).to_have_text("saved")
    inside.get_by_role("button", name="Undo").click()
    expect(reading).to_have_value("262")
    inside.get_by_role("button", name="History").click()
    rows = inside.get_by_role("list", name="Revisions").get_by_role("listitem")
    expect(rows).to_have_count(4)
    expect(rows.nth(0)).to_contain_text(re.compile(r"4\s*Undid blank: upper\s*Demo"))
    expect(rows.nth(3)).to_contain_text("Started")
    assert axe(inside) == []
    inside.get_by_role("button", name="Bring back revision 3").click()
    expect(reading).to_have_value("263")
    inside.get_by_role("button", name="History").click()
    inside.get_by_role("button", name="Bring back revision 1").click()
    expect(reading).to_have_value(was)
    inside.get_by_role("button", name="Undo").click()
    expect(reading).to_have_value("263")


@pytest.fixture()
def many(inside: Page) -> Any:
    """Sixty jobs more on the Bench, gone again afterwards."""
    token = inside.evaluate("fetch('/api/session').then(r => r.json()).then(s => s.csrf)")
    made = inside.evaluate(
        """async (token) => {
          const headers = { 'Content-Type': 'application/json', 'X-CSRFToken': token };
          const made = [];
          for (let n = 0; n < 60; n++) {
            const body = JSON.stringify({ title: `Page ${String(n).padStart(2, '0')}`, kind: 'cup' });
            made.push((await (await fetch('/api/jobs', { method: 'POST', headers, body })).json()).id);
          }
          return made;
        }""",
        token,
    )
    yield made
    inside.evaluate(
        """async ([token, made]) => {
          const how = { method: 'DELETE', headers: { 'X-CSRFToken': token } };
          for (const id of made) await fetch(`/api/jobs/${id}`, how);
        }""",
        [token, made],
    )


def test_the_bench_comes_in_pages_and_is_searched(inside: Page, many: list[int], axe: Any) -> None:
    inside.reload()
    expect(inside.get_by_role("link", name=re.compile("Page"))).to_have_count(50)
    more = inside.get_by_role("button", name=re.compile("More of"))
    more.click()
    expect(inside.get_by_role("link", name=re.compile("Page"))).to_have_count(60)
    # The other checks' jobs come after them.
    for _ in range(6):
        if not more.count():
            break
        more.click()
        inside.wait_for_timeout(300)
    expect(more).to_have_count(0)
    inside.get_by_label("Find a job").fill("page 07")
    expect(inside.get_by_role("link", name=re.compile("×"))).to_have_count(1)
    assert axe(inside) == []
    inside.get_by_label("Find a job").fill("nothing like it")
    expect(inside.get_by_text("No job has")).to_be_visible()
    inside.get_by_label("Find a job").fill("page")
    inside.on("dialog", lambda d: d.accept())
    for left in range(50, 47, -1):
        expect(inside.get_by_role("link", name=re.compile("Page"))).to_have_count(50)
        inside.get_by_role("button", name=re.compile("off the Bench")).first.click()
        expect(inside.get_by_text(f"{left + 9} jobs found")).to_be_visible()
