"""Layers: six films of three thousand pieces, the order of twelve, two thousand hands, and the pile laid wrong by a
slider in headless Chromium."""

from __future__ import annotations

import random
import re
import statistics
import time
from collections.abc import Callable

import numpy as np
import shapely
from running import chromium, demo_server
from samples import element, svg
from shapely import affinity
from wimple_core.artwork import ColourRegion, Paint, separate
from wimple_core.job import load_job
from wimple_core.layers.joints import join, joint_places, rim
from wimple_core.layers.misregistration import Hand, lay_ups, overlap_needed
from wimple_core.layers.order import lying, pile
from wimple_core.pipeline import StageCache, build

Row = dict[str, object]
COLOURS = ("#1c3d7a", "#b98a2f", "#efe6c8", "#c22a2a", "#2f8a4a", "#86b8e6")
PANEL = {
    "kind": "panel",
    "width": {"reads": "width", "readings": [300]},
    "height": {"reads": "height", "readings": [300]},
}


def _ms(work: Callable[[], object], times: int = 5) -> float:
    took = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        took.append(1000 * (time.perf_counter() - began))
    return statistics.median(took)


def _many(ground: bool) -> bytes:
    """Three thousand dots and bars in five colours, on a ground of a sixth or beside each other."""
    g = random.Random(4)
    body = (
        '<rect width="100" height="70" fill="#1c3d7a"/>'
        if ground
        else '<rect y="69" width="100" height="1" fill="#1c3d7a"/>'
    )
    for i in range(3000):
        x, y, colour = 1.5 + i % 75 * 1.3, 1.5 + i // 75 * 1.66, COLOURS[1 + g.randrange(5)]
        if i % 3:
            body += f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{0.35 + 0.15 * g.random():.3f}" fill="{colour}"/>'
        else:
            tall = 0.5 + 0.4 * g.random()
            body += f'<rect x="{x - 0.4:.2f}" y="{y - 0.5:.2f}" width="0.7" height="{tall:.2f}" fill="{colour}"/>'
    return svg(body)


def six_films() -> list[Row]:
    """Separation, marks, inspection and counts cold, and after a change of one film's colour."""
    rows: list[Row] = []
    for ground, words in ((False, "beside each other"), (True, "in a ground")):
        files = {"a.svg": _many(ground)}

        def job(**layers: object):  # type: ignore[no-untyped-def]
            raw = {
                "blank": PANEL,
                "elements": [element("a.svg", {"width_mm": 250.0, "up_mm": 150.0})],
                "layers": layers,
            }
            return load_job(raw)

        cache = StageCache()
        build(job(), files, "artwork", cache=cache)
        began = time.perf_counter()
        build(job(), files, "layers", cache=cache)
        cold = 1000 * (time.perf_counter() - began)
        colours = iter(f"#b98a{n:02x}" for n in range(0x30, 0x60))

        def change(job=job, cache=cache, files=files, colours=colours) -> None:  # type: ignore[no-untyped-def]
            films = [{"colour": "#b98a2f", "film": "calendered-gloss", "film_colour": next(colours)}]
            build(job(films=films), files, "layers", cache=cache)

        rows.append({"what": f"6 layers, 3,000 pieces {words}, cold", "ours_ms": cold, "limit_ms": 1500})
        rows.append(
            {"what": "the same, one film's colour changed, median of 5", "ours_ms": _ms(change), "limit_ms": 200}
        )
    return rows


def twelve_films() -> list[Row]:
    """The order of twelve films among three thousand pieces; and twelve that all lie on each other."""
    paints = [Paint(shapely.box(n, n, 100 - n, 100 - n), f"#{(7 * n) % 12:06d}") for n in range(12)]
    dots = [Paint(shapely.Point(15 + i % 60, 15 + i // 60).buffer(0.3), f"#{i % 12:06d}") for i in range(3000)]
    colours = separate((*paints, *dots))
    knot = np.random.default_rng(1).random((12, 12))
    np.fill_diagonal(knot, 0)
    return [
        {
            "what": "order of 12 films from what covers what, 3,000 pieces, median of 5",
            "ours_ms": _ms(lambda: pile(lying(colours).over, range(12))),
            "limit_ms": 200,
        },
        {"what": "12 films in one knot, median of 5", "ours_ms": _ms(lambda: pile(knot, range(12))), "limit_ms": 200},
    ]


def hands() -> list[Row]:
    """Two thousand lay-ups of five films, against moving the regions themselves and cutting them, one by one."""
    rings = [shapely.Point(0, 0).buffer(90 - 16 * n, 64) for n in range(5)]
    colours = tuple(
        ColourRegion(f"#{n}", rings[n].difference(rings[n + 1]) if n < 4 else rings[n], rings[n]) for n in range(5)
    )
    regions = join(colours, lambda a, b: "knocked_out", 0.7)
    seen = [c.seen for c in colours]
    joints = joint_places(seen, [rim(g) for g in seen], regions, 0.7, 3.0)
    hand = Hand(0.3, (0.0, 0.0), 200.0)
    ours = _ms(lambda: overlap_needed(joints, 5, hand, 2000))
    laid = lay_ups(5, hand, 40)
    whole = shapely.union_all(regions)

    def plainly() -> None:
        for shift, turn in zip(laid.shift, laid.turn, strict=True):
            moved = [
                affinity.translate(affinity.rotate(g, t, origin=(0, 0), use_radians=True), *s)
                for g, s, t in zip(regions, shift, turn, strict=True)
            ]
            shapely.difference(whole, shapely.union_all(moved))

    plain = _ms(plainly, 3) * 2000 / 40
    return [
        {"what": "2,000 hands laying 5 films, median of 5", "ours_ms": ours, "limit_ms": 2000},
        {"what": "the same against a plain loop of Shapely over 40 of them", "ratio": ours / plain, "limit": 1.0},
    ]


SLIDE = """async () => {
  const slider = document.querySelector('input[aria-valuetext*="lie"], input[aria-valuetext*="times as this"]');
  const frames = [];
  let before = 0;
  for (let i = 0; i < 90; i++) {
    slider.value = String(0.1 + 2.8 * Math.abs(Math.sin(i / 15)));
    slider.dispatchEvent(new Event('input', { bubbles: true }));
    const now = await new Promise((r) => requestAnimationFrame(r));
    if (before) frames.push(now - before);
    before = now;
  }
  return frames;
}"""


def laid_wrong() -> list[Row]:
    """The slider moved with every frame: how long frames take, on a job of six films with two hundred dots."""
    with demo_server() as at, chromium() as browser:
        page = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=at).new_page()
        page.goto("/sign-in")
        page.get_by_role("button", name="Enter the demo workshop").click()
        page.wait_for_url("**/bench")
        page.get_by_text("Perihelion cup").first.click()
        page.wait_for_url("**/jobs/**")
        page.goto(re.sub(r"/[a-z]+$", "/layers", page.url))
        page.wait_for_selector("[data-layer]")
        page.wait_for_timeout(3000)
        page.get_by_label("Lay them wrong").fill("1")
        page.wait_for_selector("[data-mislaid]")
        page.wait_for_timeout(500)
        frames = page.evaluate(SLIDE)
    return [
        {
            "what": "a frame while the films are laid wrong by the slider, median",
            "ours_ms": statistics.median(frames),
            "limit_ms": 20,
        }
    ]
