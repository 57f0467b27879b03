"""Artwork at the speeds a hand asks for: laying, joining, repeating, tracing, a list of names, and a letter typed."""

from __future__ import annotations

import io
import re
import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from PIL import Image, ImageDraw
from running import chromium, demo_server
from samples import cup, example
from wimple_core.artwork import Paint, Tracing
from wimple_core.artwork.tracing import trace
from wimple_core.fit.laid import Placing
from wimple_core.fit.place import place
from wimple_core.fit.separated import prepare
from wimple_core.job import load_job
from wimple_core.job.document import Placement
from wimple_core.overlay import union
from wimple_core.pipeline import StageCache, build

Row = dict[str, object]
WAYS = ("level", "even", "conformal", "flat")


def _in_turn(ours: Callable[[], object], theirs: Callable[[], object], times: int) -> tuple[float, float]:
    """Medians in ms of two pieces of work done in turn."""
    took: tuple[list[float], list[float]] = ([], [])
    for _ in range(times):
        for work, out in zip((ours, theirs), took, strict=True):
            began = time.perf_counter()
            work()
            out.append(1e3 * (time.perf_counter() - began))
    return statistics.median(took[0]), statistics.median(took[1])


def _rosettes(count: int, points: int) -> list[Any]:
    """Wavy rings that lie apart, `points` corners each."""
    t = np.linspace(0, 2 * np.pi, points, endpoint=False)
    r = 4 + np.sin(17 * t)
    ring = np.column_stack([r * np.cos(t), r * np.sin(t)])
    side = int(np.ceil(np.sqrt(count)))
    return [shapely.Polygon(ring + (12 * (i % side), 12 * (i // side))) for i in range(count)]


def laying() -> list[Row]:
    """A drawing of 100,000 points placed on a cone, each way, against moving its points alone."""
    b = build(load_job(cup(270, 200, 110)), {}, "unwrap")
    assert b.template is not None
    some = _rosettes(100, 1000)
    base = prepare(
        replace(trace_disc(), paints=tuple(Paint(g, "#112233", str(n)) for n, g in enumerate(some)), tolerance=0.01)
    )
    rows: list[Row] = []
    for way in WAYS:
        placement = Placement(width_mm=70, up_mm=55, way=way)  # type: ignore[arg-type]
        what = Placing("e1", "rosettes", 0, placement)

        def bare() -> object:
            return [shapely.transform(g, lambda p: p * 0.6 + 1) for g in some]

        ours, plain = _in_turn(lambda what=what: place(what, base, b.template), bare, 9)  # type: ignore[misc]
        rows.append(
            {
                "what": f"100,000 points placed on a cone, {way}",
                "ours_ms": ours,
                "ratio_to_moving": ours / plain,
                "limit_ms": 150,
            }
        )
    return rows


def trace_disc() -> Any:
    """Any artwork, to put other paints into."""
    picture = Image.new("RGB", (64, 64), "white")
    ImageDraw.Draw(picture).ellipse((10, 10, 50, 50), fill="black")
    out = io.BytesIO()
    picture.save(out, "PNG")
    return trace(out.getvalue(), Tracing(2, (), 2))


def joining() -> Row:
    """1,500 overlapping pieces made one, against the geometry library's own."""
    g = np.random.default_rng(4)
    at = g.uniform(0, 200, (1500, 2))
    pieces = [shapely.Point(*p).buffer(r, quad_segs=24) for p, r in zip(at, g.uniform(3, 9, 1500), strict=True)]
    ours, theirs = _in_turn(lambda: union(pieces), lambda: shapely.union_all(pieces), 7)
    assert abs(union(pieces).area - shapely.union_all(pieces).area) < 1e-3
    return {"what": "union of 1,500 overlapping pieces", "ours_ms": ours, "ratio": ours / theirs, "limit": 1.5}


def repeating() -> Row:
    """A pattern of about 2,000 motifs round a cup, against laying the motif once."""
    star = {"kind": "shape", "form": {"form": "star", "points": 5, "outside_mm": 4, "inside_mm": 1.8}}
    pattern = {"lattice": "half_drop", "pitch_mm": 4.55}

    def built(repeated: bool) -> Callable[[], Any]:
        one = {"source": star, "placements": [{"up_mm": 50}], **({"pattern": pattern} if repeated else {})}
        job = load_job({**cup(270, 250, 172, lip_band_mm=0, base_band_mm=0), "elements": [one]})
        cache = StageCache()
        build(job, {}, "unwrap", cache)
        return lambda: build(job, {}, "artwork", cache)

    took: list[float] = []
    once: list[float] = []
    count = 0
    for _ in range(5):
        for repeated, out in ((True, took), (False, once)):
            work = built(repeated)
            began = time.perf_counter()
            made = work()
            out.append(1e3 * (time.perf_counter() - began))
            if repeated:
                count = len(made.fit.drawings[0].pattern.places)
    ours, plain = statistics.median(took), statistics.median(once)
    return {
        "what": f"a pattern of {count:,} motifs round a cup",
        "ours_ms": ours,
        "ratio_to_one": ours / plain,
        "limit_ms": 500,
    }


def tracing() -> Row:
    """Four megapixels traced to six colours, against only counting them down to six."""
    g = np.random.default_rng(2)
    picture = Image.new("RGB", (2000, 2000), "#f0e8d0")
    pen = ImageDraw.Draw(picture)
    for _ in range(160):
        x, y, r = (int(v) for v in g.uniform((0, 0, 20), (2000, 2000, 190)))
        pen.ellipse(
            (x - r, y - r, x + r, y + r),
            fill=("#1c3d7a", "#b3261e", "#2f7d4f", "#d8a21b", "#18202e")[int(g.integers(5))],
        )
    out = io.BytesIO()
    picture.save(out, "PNG")
    data = out.getvalue()
    ours, plain = _in_turn(lambda: trace(data, Tracing(6, (), 4)), lambda: picture.quantize(6), 3)
    return {
        "what": "4 megapixels traced to 6 colours",
        "ours_ms": ours,
        "ratio_to_counting": ours / plain,
        "limit_ms": 4000,
    }


def naming() -> list[Row]:
    """A list of names: one dragged about among 12 and among 100, and all of them laid on sheets."""
    rows: list[Row] = []
    for many in (12, 100):
        raw = example("visitor-names")
        raw["names"]["rows"] = [[f"Visitor {n} of the night"] for n in range(many)]
        cache = StageCache()
        began = time.perf_counter()
        build(load_job(raw), {}, "sheets", cache)
        first = time.perf_counter() - began
        took = []
        for _ in range(7):
            raw["elements"][0]["placements"][0]["up_mm"] += 0.3
            job = load_job(raw)
            began = time.perf_counter()
            build(job, {}, "artwork", cache)
            took.append(1e3 * (time.perf_counter() - began))
        rows.append({"what": f"one of {many} names moved", "ours_ms": statistics.median(took), "limit_ms": 150})
        rows.append({"what": f"{many} names on sheets, anew", "ours_ms": 1e3 * first})
    return rows


TYPED = """async () => {
  const area = document.querySelector('#slip textarea');
  const exact = () => document.querySelector('[data-drawing="0"] path:last-child').getAttribute('d');
  const out = [];
  for (const letter of 'ora the explorer of stars') {
    const was = exact();
    area.value += letter;
    const began = performance.now();
    area.dispatchEvent(new InputEvent('input', { bubbles: true }));
    if (letter !== ' ') while (exact() === was) await new Promise((r) => setTimeout(r, 1));
    if (letter !== ' ') out.push(performance.now() - began);
    await new Promise((r) => setTimeout(r, 300));
  }
  return out;
}"""


def typing() -> Row:
    """A letter typed into words on a cup, until their exact drawing is in the page."""
    with demo_server() as address, chromium() as browser:
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.goto(f"{address}/sign-in")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.wait_for_url("**/bench")
        page.get_by_role("button", name="New cup", exact=True).click()
        page.wait_for_url("**/measure")
        page.goto(page.url.replace("measure", "artwork"))
        page.get_by_role("button", name=re.compile("Add words")).click()
        page.get_by_role("textbox", name="Words").fill("D")
        page.wait_for_selector('[data-drawing="0"] path')
        page.wait_for_timeout(1500)
        took = page.evaluate(TYPED)
    return {
        "what": "a letter typed to its exact drawing in the page, median of 21",
        "ours_ms": statistics.median(took),
        "worst_ms": max(took),
        "limit_ms": 150,
    }


def artwork_at_work() -> list[Row]:
    """All of it."""
    return [*laying(), joining(), repeating(), tracing(), *naming(), typing()]


if __name__ == "__main__":
    for row in artwork_at_work():
        print({k: round(v, 2) if isinstance(v, float) else v for k, v in row.items()})
