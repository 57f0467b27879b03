"""What a hand does first on the screen, for tests: a new job, a drawing brought into it."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page


def start(page: Page, blank: str) -> None:
    """A new job of a blank, at its artwork."""
    page.get_by_role("button", name=f"New {blank}", exact=True).click()
    page.wait_for_url("**/measure")
    page.goto(page.url.replace("measure", "artwork"))


def bring(page: Page, file: Path, size: tuple[int, int], body: str) -> None:
    """A drawing of that size (mm) brought into the job that is open."""
    wide, tall = size
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}mm" height="{tall}mm" viewBox="0 0 {wide} {tall}">'
    file.write_text(f"{head}{body}</svg>", encoding="utf-8")
    page.get_by_label("Drawing to add").set_input_files(file)
