"""Measurements, side by side in one run: `./wimple bench`. Ratios count; the machines are noisy.

Writes bench/results.json and prints a table.
"""

from __future__ import annotations

import gzip
import json
import math
import platform
import random
import re
import statistics
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server"), str(ROOT / "tests"), str(ROOT / "bench")]

import resvg_py  # noqa: E402
from answers import bench_of_many, edits  # noqa: E402
from art import artwork_at_work  # noqa: E402
from doors import hostile_files, killed  # noqa: E402
from hand import the_hand  # noqa: E402
from measuring import measuring  # noqa: E402
from picosvg.svg import SVG  # noqa: E402
from pile import hands, laid_wrong, six_films, twelve_films  # noqa: E402
from running import chromium, demo_server  # noqa: E402
from samples import MODULES, drawing, example  # noqa: E402
from sheets import cups, nesting, order  # noqa: E402
from shop import shop_at_work  # noqa: E402
from surfaces import band, patches, turning  # noqa: E402
from wimple_core.artwork import read_svg  # noqa: E402
from wimple_core.built import Stage  # noqa: E402
from wimple_core.errors import BadDrawing  # noqa: E402
from wimple_core.export import all_files  # noqa: E402
from wimple_core.fit.ways import lay  # noqa: E402
from wimple_core.job import load_job  # noqa: E402
from wimple_core.pipeline import StageCache, build  # noqa: E402
from wimple_core.surface.surface import RoundWall  # noqa: E402

Row = dict[str, object]


def timed(work: Callable[[], object], times: int) -> list[float]:
    out = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        out.append(time.perf_counter() - began)
    return out


def in_turn(a: Callable[[], object], b: Callable[[], object], times: int) -> tuple[float, float]:
    """Medians of two pieces of work done in turn, so that both meet the same noise."""
    first, second = [], []
    for _ in range(times):
        first += timed(a, 1)
        second += timed(b, 1)
    return statistics.median(first), statistics.median(second)


def mapping() -> list[Row]:
    """Laying points on a cone, against the same trigonometry in bare numpy."""
    g = np.random.default_rng(1)
    u, v = g.uniform(-30, 30, (2, 100_000))
    wall = RoundWall(33.4, 0.0716)
    r_c, k = wall.scale_at(50), wall.k

    def bare() -> object:
        phi = 0.3 + u / r_c
        s = 50 + r_c / k * np.expm1(k * v / r_c)
        return (wall.r0 / k + s) * np.sin(k * phi), (wall.r0 / k + s) * np.cos(k * phi) - wall.r0 / k

    ours, plain = in_turn(lambda: lay(u, v, "conformal", wall, 0.3, 50), bare, 41)
    return [
        {
            "what": "100,000 points on a cone, full mapping",
            "ours_ms": ours * 1e3,
            "against": "bare numpy",
            "theirs_ms": plain * 1e3,
            "ratio": ours / plain,
            "limit": 3.0,
        }
    ]


def reading() -> list[Row]:
    """Reading drawings, against picosvg's `topicosvg` on the same files; nothing refused that resvg draws."""
    rows: list[Row] = []
    for folder in ("lucide-static/icons", "bootstrap-icons/icons"):
        files = random.Random(60).sample(sorted((MODULES / folder).glob("*.svg")), 60)
        ours, theirs = 0.0, 0.0
        refused = []
        for f in files:
            data = f.read_bytes()
            try:
                ours += min(timed(lambda data=data: read_svg(data), 3))
            except BadDrawing:
                if bytes(resvg_py.svg_to_bytes(svg_string=data.decode(), dpi=96)):
                    refused.append(f.name)
            try:
                theirs += min(timed(lambda data=data: SVG.fromstring(data.decode()).topicosvg(), 3))
            except Exception as bad:
                print(f"picosvg refused {f.name}: {bad}"[:100], file=sys.stderr)
        rows.append(
            {
                "what": f"60 drawings read, {folder.split('/')[0]}",
                "ours_ms": ours * 1e3,
                "against": "picosvg topicosvg",
                "theirs_ms": theirs * 1e3,
                "ratio": ours / theirs,
                "limit": 0.5,
                "refused": refused,
            }
        )
    return rows


def refusing() -> list[Row]:
    """Turning away what would grow without end, against reading a drawing of one rectangle."""
    small = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9"/></svg>'
    links = "".join(f'<g id="g{i}">' + f'<use href="#g{i - 1}"/>' * 12 + "</g>" for i in range(1, 9))
    grows = small.replace(b"<rect", f'<defs><rect id="g0" width="9" height="9"/>{links}</defs><rect'.encode())
    grows = grows.replace(b"</svg>", b'<use href="#g8"/></svg>')

    def refused() -> None:
        try:
            read_svg(grows)
        except BadDrawing:
            return
        raise AssertionError("read")

    ours, plain = in_turn(refused, lambda: read_svg(small), 21)
    return [
        {
            "what": "twelve to the eighth rectangles turned away",
            "ours_ms": ours * 1e3,
            "against": "one rectangle read",
            "theirs_ms": plain * 1e3,
            "ratio": ours / plain,
            "limit": 10.0,
        }
    ]


def building() -> list[Row]:
    """The demo cup from nothing to its price, and after one changed placement: as an edit is answered, and with the
    plan of what the blade does, which only its own step and the files wait for."""
    raw, drawings = example("perihelion-cup"), {"moon-band.svg": drawing("moon-band.svg")}
    edit = partial(build, files=drawings, skip=("cutting",))
    edit(load_job(raw))
    whole = statistics.median(timed(lambda: edit(load_job(raw)), 9))
    files = statistics.median(timed(lambda: all_files(build(load_job(raw), drawings), drawings), 5))
    cache, up = StageCache(), [30.0]
    build(load_job(raw), drawings, cache=cache)

    def move(skip: tuple[Stage, ...]) -> None:
        up[0] += 0.37
        raw["elements"][0]["placements"][0]["up_mm"] = up[0]
        build(load_job(raw), drawings, cache=cache, skip=skip)

    moved, planned = in_turn(lambda: move(("cutting",)), lambda: move(()), 20)
    return [
        {"what": "demo cup, three layers, to its price", "ours_ms": whole * 1e3, "limit_ms": 400},
        {"what": "the same with every file made", "ours_ms": files * 1e3},
        {"what": "one placement number changed", "ours_ms": moved * 1e3, "limit_ms": 100},
        {"what": "the same with its cut plan", "ours_ms": planned * 1e3, "ratio": planned / moved},
    ]


def in_the_browser() -> list[Row]:
    """From a key press to the exact drawing on screen, and the script that is loaded before the object."""
    with demo_server() as address, chromium() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.goto(f"{address}/sign-in")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.wait_for_url("**/bench")
        href = str(page.get_by_role("link", name=re.compile("Perihelion cup")).get_attribute("href"))
        scripts: dict[str, int] = {}
        three_at: list[int] = []

        def seen(response) -> None:  # type: ignore[no-untyped-def]
            if response.url.endswith(".js") and response.ok:
                body = response.body()
                if b"WebGLRenderer" in body and not three_at:
                    three_at.append(len(scripts))
                scripts[response.url] = len(gzip.compress(body, 9))

        page.on("response", seen)
        page.goto(address + href.replace("measure", "artwork"))
        page.wait_for_selector("canvas", timeout=20_000)
        page.wait_for_timeout(1500)
        before = sum(list(scripts.values())[: three_at[0]]) if three_at else sum(scripts.values())
        page.get_by_role("group", name=re.compile("^Artwork on the template")).focus()
        # The exact drawing is there when the outline path of the drawing has changed and the residual move is gone.
        took = page.evaluate("""async () => {
              const exact = () => document.querySelector('[data-drawing="0"] path').getAttribute('d');
              const out = [];
              for (let i = 0; i < 20; i++) {
                const was = exact();
                const began = performance.now();
                const key = i % 2 ? 'ArrowUp' : 'ArrowDown';
                document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
                while (exact() === was) await new Promise((r) => setTimeout(r, 1));
                const there = performance.now() - began;
                await new Promise((r) => requestAnimationFrame(() => setTimeout(r, 0)));
                out.push([there, performance.now() - began]);
                await new Promise((r) => setTimeout(r, 350));
              }
              return out;
            }""")
        turned = turning(page, address)
    return [
        *turned,
        {
            "what": "key press to exact drawing in the page, Chromium, median of 20",
            "ours_ms": statistics.median(t[0] for t in took),
            "limit_ms": 150,
        },
        {"what": "the same until it is painted, by software", "ours_ms": statistics.median(t[1] for t in took)},
        {"what": "script before the object, gzip", "ours_kb": before / 1000, "limit_kb": 250},
    ]


PARTS: dict[str, list[Callable[[], Any]]] = {
    "core": [mapping, reading, refusing, building, measuring, band, patches],
    "answers": [edits, bench_of_many],
    "browser": [in_the_browser],
    "hand": [the_hand],
    "art": [artwork_at_work],
    "pile": [six_films, twelve_films, hands, laid_wrong],
    "sheets": [order, cups, nesting],
    "doors": [hostile_files],
}
"""What is measured, in parts that can be run alone: `./wimple bench art`."""


def main() -> None:
    if sys.argv[1:2] == ["killed"]:
        print(json.dumps(killed(int(sys.argv[2]) if len(sys.argv) > 2 else 200), indent=1))
        return
    if sys.argv[1:2] == ["shop"]:
        print(json.dumps(shop_at_work(*map(int, sys.argv[2:4])), indent=1))
        return
    if sys.argv[1:2] == ["hostile"]:
        print(json.dumps(hostile_files(), indent=1))
        return
    only = sys.argv[1] if len(sys.argv) > 1 else ""
    if only and only not in PARTS:
        raise SystemExit(f"bench: there is no part “{only}”; there are {', '.join(PARTS)}")
    rows = [
        {"part": name, **row} for name, parts in PARTS.items() if only in ("", name) for part in parts for row in part()
    ]
    for r in rows:
        figures = ", ".join(f"{k} {v:.3g}" for k, v in r.items() if isinstance(v, float) and not math.isnan(v))
        good = all(
            [
                float(r.get("ratio", 0)) <= float(r.get("limit", 9e9)),
                float(r.get("ours_ms", 0)) <= float(r.get("limit_ms", 9e9)),
                float(r.get("ours_kb", 0)) <= float(r.get("limit_kb", 9e9)),
                float(r.get("density", 1)) >= float(r.get("least_density", 0)),
                not r.get("refused"),
                r.get("within", True) is True,
            ]
        )  # type: ignore[arg-type]
        r["within"] = good
        print(f"{'ok  ' if good else 'OVER'} {r['what']}: {figures}")
    path = ROOT / "bench" / "results.json"
    if only:
        # A part alone takes the places of its own rows.
        before = json.loads(path.read_text(encoding="utf-8"))["rows"]
        rows = [r for r in before if r.get("part") != only] + rows
    out = {
        "machine": f"{platform.machine()}, Python {platform.python_version()}",
        "at": time.strftime("%Y-%m-%d"),
        "rows": rows,
    }
    path.write_text(json.dumps(out, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
