"""Pictures of every main view, taken at 1280 x 800 from the demo data: `./wimple shots [--out DIR] [NAME ...]`."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "tests"))

from playwright.sync_api import Page  # noqa: E402
from running import chromium, demo_server, settle  # noqa: E402

VIEWS: dict[str, tuple[str, str]] = {
    "measure": ("Perihelion cup", "measure"),
    "unwrap": ("Perihelion cup", "unwrap"),
    "artwork": ("Perihelion cup", "artwork"),
    "layers": ("Perihelion cup", "layers"),
    "sheets": ("Perihelion cup", "sheets"),
    "layup": ("Perihelion cup", "layup"),
    "price": ("Perihelion cup", "price"),
    "names": ("Twelve visitors' names on slim bottles", "artwork"),
    "dome-unwrap": ("Cover of the small telescope, by rim and rise", "unwrap"),
    "pattern": ("Case lid full of stars", "artwork"),
    "pieces": ("Five paths in six films", "artwork"),
}


START = """async (document) => {
  const csrf = (await (await fetch('/api/session')).json()).csrf;
  const headers = { 'X-CSRFToken': csrf, 'Content-Type': 'application/json' };
  const send = async (method, path, body) =>
    (await fetch(path, { method, headers, body: JSON.stringify(body) })).json();
  const job = await send('POST', '/api/jobs', { title: document.title, kind: 'panel' });
  await send('PUT', `/api/jobs/${job.id}`, { revision: job.revision, document });
  return job.id;
}"""


def _wall(page: Page, address: str) -> None:
    """The words for the wall, of the examples, as a job at its sheets."""
    document = json.loads((ROOT / "examples" / "wall-words.wimple.json").read_text(encoding="utf-8"))
    page.goto(f"{address}/bench")
    page.goto(f"{address}/jobs/{page.evaluate(START, document)}/sheets")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--out", type=Path, default=ROOT / "docs" / "screenshots")
    parser.add_argument("names", nargs="*")
    args = parser.parse_args()
    wanted = set(args.names)
    args.out.mkdir(parents=True, exist_ok=True)
    with demo_server() as address, chromium() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.on(
            "console",
            lambda m: (
                print(m.type, m.text, file=sys.stderr)
                if m.type in ("error", "warning") and "GPU stall" not in m.text
                else None
            ),
        )
        page.on("pageerror", lambda e: print("page error", e, file=sys.stderr))

        def shoot(name: str) -> None:
            if not wanted or name in wanted:
                page.screenshot(path=args.out / f"{name}.png")
                print(name)

        page.goto(f"{address}/sign-in")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.wait_for_url("**/bench")
        page.wait_for_selector("li a")
        page.get_by_text("being looked through").first.wait_for(state="detached", timeout=90_000)
        settle(page, wait_for_object=False)
        shoot("bench")
        links = {a.inner_text().split(" × ")[0].strip(): a.get_attribute("href") for a in page.locator("li a").all()}
        for name, (title, step) in VIEWS.items():
            if wanted and name not in wanted:
                continue
            page.goto(address + str(links[title]).replace("measure", step))
            settle(page)
            if name == "pieces":
                page.get_by_role("button", name="Its pieces").click()
                page.get_by_role("list", name="Bill of pieces").get_by_role("button").nth(6).click()
                page.wait_for_timeout(500)
            if name == "names":
                page.get_by_role("button", name="Names 12").click()
                page.locator("#name-11").click()
                settle(page)
            shoot(name)
        if not wanted or "folio" in wanted:
            page.goto(f"{address}/folio")
            page.wait_for_selector("li")
            settle(page, wait_for_object=False)
            shoot("folio")
        if not wanted or "shelf" in wanted:
            page.goto(f"{address}/shelf")
            page.wait_for_selector("li")
            settle(page, wait_for_object=False)
            shoot("shelf")
        for name, ready in (("stock", "main section"), ("cutters", "table")):
            if not wanted or name in wanted:
                page.goto(f"{address}/{name}")
                page.wait_for_selector(ready)
                settle(page, wait_for_object=False)
                shoot(name)
        if not wanted or "cutting" in wanted:
            page.goto(address + str(links["Perihelion cup"]).replace("measure", "sheets"))
            page.get_by_role("button", name="Cut this load").click(timeout=60_000)
            page.get_by_role("button", name="It is loaded").click()
            page.get_by_role("button", name="Cut", exact=True).click()
            page.wait_for_timeout(14_000)
            shoot("cutting")
            page.get_by_role("button", name="Stop").click()
        if not wanted or "panels" in wanted:
            _wall(page, address)
            page.get_by_role("button", name="all panels").click(timeout=60_000)
            settle(page)
            shoot("panels")
        if not wanted or "photograph" in wanted:
            page.goto(f"{address}/shelf")
            page.get_by_role("button", name="Bellied mug").click()
            page.get_by_role("button", name="Start a job on it").click()
            page.wait_for_url("**/measure")
            settle(page)
            page.get_by_role("button", name="Show the photograph").click()
            page.get_by_role("button", name="Show the drawing").scroll_into_view_if_needed()
            page.wait_for_timeout(900)
            shoot("photograph")


if __name__ == "__main__":
    main()
