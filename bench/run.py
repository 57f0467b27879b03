"""Measurements, side by side in one run: `./wimple bench`. Ratios count; the machines are noisy.

Writes bench/results.json and prints a table. Each row stands beside the reference of its run, numpy's own mapping of
100,000 points: `./wimple bench compare` holds what it measures against the results that are committed.
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
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core"), str(ROOT / "server"), str(ROOT / "tests"), str(ROOT / "bench")]

import resvg_py  # noqa: E402
from answers import bench_of_many, edits  # noqa: E402
from art import artwork_at_work  # noqa: E402
from comparing import say_slower  # noqa: E402
from doors import hostile_files, killed  # noqa: E402
from hand import the_hand, the_other_blanks, without_webgl  # noqa: E402
from lanes import lanes  # noqa: E402
from measuring import measuring  # noqa: E402
from picosvg.svg import SVG  # noqa: E402
from pile import hands, laid_wrong, six_films, twelve_films  # noqa: E402
from running import chromium, demo_server  # noqa: E402
from samples import MODULES, drawing, example  # noqa: E402
from sheets import cups, nesting, order  # noqa: E402
from shop import shop_at_work  # noqa: E402
from surfaces import band, patches, turning  # noqa: E402
from web_server import collect_seldom  # noqa: E402
from wimple_core.artwork import read_svg  # noqa: E402
from wimple_core.built import STAGES, Stage, stages_shown  # noqa: E402
from wimple_core.errors import BadDrawing  # noqa: E402
from wimple_core.export import all_files  # noqa: E402
from wimple_core.fit.ways import lay  # noqa: E402
from wimple_core.job import load_job  # noqa: E402
from wimple_core.pipeline import StageCache, Street, build  # noqa: E402
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


POINTS = np.random.default_rng(1).uniform(-30, 30, (2, 100_000))
WALL = RoundWall(33.4, 0.0716)


def bare_mapping() -> object:
    """100,000 points on a cone by bare numpy: what all else is measured by."""
    (u, v), r_c, k, r0 = POINTS, WALL.scale_at(50), WALL.k, WALL.r0
    phi = 0.3 + u / r_c
    s = 50 + r_c / k * np.expm1(k * v / r_c)
    return (r0 / k + s) * np.sin(k * phi), (r0 / k + s) * np.cos(k * phi) - r0 / k


def reference() -> float:
    """How long that takes now, ms, in turn with our own mapping."""
    return 1e3 * in_turn(lambda: lay(*POINTS, "conformal", WALL, 0.3, 50), bare_mapping, 21)[1]


def mapping() -> list[Row]:
    """Laying points on a cone, against the same trigonometry in bare numpy."""
    ours, plain = in_turn(lambda: lay(*POINTS, "conformal", WALL, 0.3, 50), bare_mapping, 41)
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
    """The demo cup as its open step is answered, and with what its lane makes after it: from nothing, after one changed
    placement and after a changed reading; all of a mug that moves rigidly."""
    raw, drawings = example("perihelion-cup"), {"moon-band.svg": drawing("moon-band.svg")}
    everything = tuple(s for s in STAGES if s != "cutting")

    def walk(raw: dict[str, Any], stages: Sequence[Stage], files: dict[str, bytes], cache: StageCache) -> None:
        for _ in Street(load_job(raw), files, cache).walk(stages):
            pass

    def anew(stages: Sequence[Stage]) -> float:
        return 1e3 * statistics.median(timed(lambda: walk(raw, stages, drawings, StageCache()), 9))

    files = statistics.median(timed(lambda: all_files(build(load_job(raw), drawings), drawings), 5))
    cache, up = StageCache(), [30.0]
    walk(raw, STAGES, drawings, cache)

    def move(stages: Sequence[Stage]) -> None:
        up[0] += 0.37
        raw["elements"][0]["placements"][0]["up_mm"] = up[0]
        walk(raw, stages, drawings, cache)

    shown = stages_shown("artwork")
    moved, rest = in_turn(lambda: move(shown), lambda: move(everything), 20)

    def read() -> None:
        up[0] += 0.01
        raw["blank"]["upper"]["readings"] = [262.5 + up[0] / 100]
        walk(raw, stages_shown("measure"), drawings, cache)

    reading = 1e3 * statistics.median(timed(read, 20))
    mug, atlas = example("star-atlas-mug"), {"star-atlas.svg": drawing("star-atlas.svg")}
    walk(mug, STAGES, atlas, cache)

    def rigid() -> None:
        mug["elements"][0]["placements"][0]["up_mm"] += 0.11
        walk(mug, everything, atlas, cache)

    return [
        {"what": "demo cup from nothing to Artwork", "ours_ms": anew(shown), "limit_times": 8},
        {"what": "demo cup to its price with all alternatives", "ours_ms": anew(everything), "limit_times": 40},
        {"what": "the same with every file made", "ours_ms": files * 1e3},
        {"what": "one placement number changed, Artwork open", "ours_ms": moved * 1e3, "limit_times": 6},
        {"what": "the same with all that its lane makes, the order of cuts apart", "ours_ms": rest * 1e3},
        {"what": "a reading of the demo cup changed, Measure open", "ours_ms": reading, "limit_times": 3},
        {
            "what": "a mug's drawing moved up, with all that its lane makes",
            "ours_ms": 1e3 * statistics.median(timed(rigid, 20)),
        },
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
    "core": [mapping, building, edits],
    "hand": [the_hand],
    "blanks": [the_other_blanks],
    "reading": [reading, refusing],
    "measuring": [measuring, band, patches],
    "answers": [bench_of_many, lanes],
    "browser": [in_the_browser],
    "plain": [without_webgl],
    "art": [artwork_at_work],
    "pile": [six_films, twelve_films, hands, laid_wrong],
    "sheets": [order, cups, nesting],
    "doors": [hostile_files],
}
"""What is measured, in parts that can be run alone: `./wimple bench hand core`, two minutes, for every day."""
RESULTS = ROOT / "bench" / "results.json"


def measured(names: Sequence[str]) -> list[Row]:
    """All rows of some parts, each with how long the reference took just before and after it."""
    rows: list[Row] = []
    for name in names:
        for part in PARTS[name]:
            before = reference()
            found = part()
            ms = (before + reference()) / 2
            rows += [{"part": name, **row, "reference_ms": ms} for row in found]
    return rows


def judge(r: Row) -> bool:
    """Is a row within its limits?"""

    def of(name: str, default: float) -> float:
        return float(str(r.get(name, default)))

    return all(
        [
            of("ratio", 0) <= of("limit", 9e9),
            of("ours_ms", 0) <= of("limit_ms", 9e9),
            of("ours_ms", 0) <= of("limit_times", 9e9) * of("reference_ms", 1),
            of("ours_kb", 0) <= of("limit_kb", 9e9),
            of("sent_kb", 0) <= of("limit_kb", 9e9),
            of("density", 1) >= of("least_density", 0),
            not r.get("refused"),
            r.get("within", True) is True,
        ]
    )


def main() -> None:
    alone: dict[str, Callable[..., Any]] = {"killed": killed, "shop": shop_at_work, "hostile": hostile_files}
    first, *more = sys.argv[1:] or [""]
    if first in alone:
        print(json.dumps(alone[first](*map(int, more)), indent=1))
        return
    comparing = first == "compare"
    names = more if comparing else sys.argv[1:]
    for name in names:
        if name not in PARTS:
            raise SystemExit(f"bench: there is no part “{name}”; there are {', '.join(PARTS)}")
    collect_seldom()
    rows = measured(names or list(PARTS))
    for r in rows:
        numbers = {k: v for k, v in r.items() if isinstance(v, int | float) and not isinstance(v, bool)}
        figures = ", ".join(f"{k} {v:.3g}" for k, v in numbers.items() if not math.isnan(v))
        r["within"] = judge(r)
        print(f"{'ok  ' if r['within'] else 'OVER'} {r['what']}: {figures}")
    if comparing:
        raise SystemExit(say_slower(rows))
    before = json.loads(RESULTS.read_text(encoding="utf-8"))
    # Some parts alone take the places of their own rows.
    left = [r for r in before["rows"] if names and r["part"] in PARTS and r["part"] not in names]
    out = {
        "machine": f"{platform.machine()}, Python {platform.python_version()}",
        "at": time.strftime("%Y-%m-%d"),
        "rows": sorted(left + rows, key=lambda r: list(PARTS).index(str(r["part"]))),
    }
    RESULTS.write_text(json.dumps(out, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
