"""One demo for all, a fresh page for each; a page error or a refused resource fails the test."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect
from running import ROOT, chromium, demo_server

expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def address() -> Iterator[str]:
    with demo_server() as at:
        yield at


@pytest.fixture(scope="session")
def window() -> Iterator[Browser]:
    with chromium() as browser:
        yield browser


@pytest.fixture()
def page(window: Browser, address: str) -> Iterator[Page]:
    context = window.new_context(
        viewport={"width": 1280, "height": 800}, reduced_motion="reduce", base_url=address, accept_downloads=True
    )
    page = context.new_page()
    page.set_default_timeout(30_000)
    troubles: list[str] = []
    page.on("pageerror", lambda e: troubles.append(str(e)))
    page.on(
        "console",
        lambda m: troubles.append(m.text) if m.type == "error" and "Failed to load resource" not in m.text else None,
    )
    yield page
    context.close()
    assert not troubles, troubles


@pytest.fixture()
def inside(page: Page) -> Page:
    """A page on the Bench of the demo workshop, lengths in mm."""
    page.goto("/sign-in")
    page.get_by_role("button", name="Enter the demo workshop").click()
    page.wait_for_url("**/bench")
    page.get_by_label("Lengths are written in").select_option("mm")
    return page


AXE = (
    (ROOT / "web/node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")
    if (ROOT / "web/node_modules").is_dir()
    else ""
)


def axe_finds(page: Page) -> list[str]:
    """What axe finds wrong with the page, by rule and place."""
    page.evaluate(AXE)
    found = page.evaluate(
        "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']})"
    )
    return [
        f"{v['id']}: {n['html'][:160]} {n['failureSummary'][:200]}" for v in found["violations"] for n in v["nodes"][:3]
    ]


@pytest.fixture()
def axe():  # type: ignore[no-untyped-def]
    return axe_finds
