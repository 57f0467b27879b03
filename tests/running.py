"""The program running as a newcomer runs it, and Debian's Chromium to look at it with."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

ROOT = Path(__file__).resolve().parent.parent
CHROMIUM_FLAGS = [
    "--enable-unsafe-swiftshader",
    "--disable-gpu-rasterization",
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


@contextmanager
def program(mode: str, **settings: str) -> Iterator[tuple[str, Path]]:
    """The program running in a mode, on a free port with a folder of its own; yields its address and its folder."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        port = s.getsockname()[1]
    data = Path(tempfile.mkdtemp(prefix="wimple-"))
    env = {**os.environ, "WIMPLE_DATA": str(data), "WIMPLE_PORT": str(port), **settings}
    env.pop("WIMPLE_MODE", None)
    process = subprocess.Popen([str(ROOT / "wimple"), mode], env=env, stdout=subprocess.DEVNULL, start_new_session=True)
    address = f"http://127.0.0.1:{port}"
    asked = urllib.request.Request(f"{address}/api/session", headers={"X-Forwarded-Proto": "https"})
    try:
        for _ in range(600):
            try:
                urllib.request.urlopen(asked, timeout=10)
                break
            except OSError:
                time.sleep(0.2)
        else:
            raise RuntimeError("the program did not start")
        yield address, data
    finally:
        process.terminate()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
        shutil.rmtree(data, ignore_errors=True)


@contextmanager
def demo_server() -> Iterator[str]:
    """A demo of its own; yields its address."""
    with program("demo") as (address, _):
        yield address


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
