"""Pictures of every main view, taken at 1280 x 800 from the demo data: `./wimple shots [--out DIR] [NAME ...]`."""

from __future__ import annotations

import argparse
import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

ROOT = Path(__file__).resolve().parent.parent
CHROMIUM_FLAGS = ["--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--no-sandbox", "--disable-background-networking",
                  "--disable-component-update", "--disable-sync", "--no-first-run"]  # fmt: skip


@contextmanager
def demo_server() -> Iterator[str]:
    """A demo of its own, on a free port with a fresh database; yields its address."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    data = Path(tempfile.mkdtemp(prefix="wimple-"))
    env = {**os.environ, "WIMPLE_DATA": str(data), "WIMPLE_PORT": str(port)}
    env.pop("WIMPLE_MODE", None)
    process = subprocess.Popen([str(ROOT / "wimple"), "demo"], env=env, stdout=subprocess.DEVNULL, start_new_session=True)
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(600):
            try:
                urllib.request.urlopen(f"{address}/api/session", timeout=2)
                break
            except OSError:
                time.sleep(0.2)
        else:
            raise RuntimeError("the demo did not start")
        yield address
    finally:
        process.terminate()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
        shutil.rmtree(data, ignore_errors=True)


@contextmanager
def chromium() -> Iterator[Browser]:
    """Debian's Chromium, headless, with WebGL in software."""
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path=shutil.which("chromium"), args=CHROMIUM_FLAGS)
        yield browser
        browser.close()


def settle(page: Page, wait_for_object: bool = True) -> None:
    """Wait until fonts, the scene and the object are there."""
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    if wait_for_object:
        page.wait_for_selector("canvas", timeout=20_000)
    page.wait_for_timeout(900)


VIEWS: dict[str, tuple[str, str]] = {
    "measure": ("Perihelion cup", "measure"),
    "unwrap": ("Perihelion cup", "unwrap"),
    "artwork": ("Perihelion cup", "artwork"),
    "layers": ("Perihelion cup", "layers"),
    "sheets": ("Perihelion cup", "sheets"),
    "layup": ("Perihelion cup", "layup"),
    "price": ("Perihelion cup", "price"),
    "mug-measure": ("Star atlas mug", "measure"),
    "mug-artwork": ("Star atlas mug", "artwork"),
    "door-sheets": ("Comet for the van door", "sheets"),
}


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
            lambda m: print(m.type, m.text, file=sys.stderr) if m.type in ("error", "warning") and "GPU stall" not in m.text else None,
        )
        page.on("pageerror", lambda e: print("page error", e, file=sys.stderr))

        def shoot(name: str) -> None:
            if not wanted or name in wanted:
                page.screenshot(path=args.out / f"{name}.png")
                print(name)

        page.goto(f"{address}/sign-in")
        settle(page, wait_for_object=False)
        shoot("sign-in")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.wait_for_url("**/bench")
        settle(page, wait_for_object=False)
        shoot("bench")
        links = {a.inner_text().split(" × ")[0].strip(): a.get_attribute("href") for a in page.locator("li a").all()}
        for name, (title, step) in VIEWS.items():
            if wanted and name not in wanted:
                continue
            page.goto(address + str(links[title]).replace("measure", step))
            settle(page)
            shoot(name)
        if not wanted or "artwork-dark" in wanted:
            page.emulate_media(color_scheme="dark")
            page.goto(address + str(links["Perihelion cup"]).replace("measure", "artwork"))
            settle(page)
            shoot("artwork-dark")


if __name__ == "__main__":
    main()
