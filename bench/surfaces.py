"""How long flattening takes, against libigl's own least squares conformal map in the same run; the band of a mug
while a diameter is dragged;
and how often the strain map is drawn while the object turns."""

from __future__ import annotations

import json
import statistics
import time
from typing import Any

import numpy as np
from playwright.sync_api import Page
from rendering import cap_mesh
from samples import EXAMPLES
from wimple_core.cache import StageCache
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.surface.flatten import conformal, flatten
from wimple_core.surface.strain import of_triangles

Row = dict[str, object]


def patches() -> list[Row]:
    """Caps of 40 degrees with about 20,000 and 200,000 triangles, whole flattening against the conformal start
    alone."""
    rows: list[Row] = []
    for rings, spokes, limit in ((70, 143, 3000), (223, 449, 45000)):
        mesh = cap_mesh(100.0, 40.0, rings, spokes)
        space, triangles = np.asarray(mesh.vertices), np.asarray(mesh.faces, dtype=np.int64)
        began = time.perf_counter()
        conformal(space, triangles)
        start = time.perf_counter() - began
        began = time.perf_counter()
        flat = flatten(space, triangles)
        took = time.perf_counter() - began
        ratio = of_triangles(flat, space, triangles, None).length_ratio
        a = np.radians(40)
        rows.append(
            {
                "what": f"a patch of {len(triangles):,} triangles flattened",
                "ours_ms": took * 1e3,
                "limit_ms": limit,
                "against": "igl.lscm",
                "theirs_ms": start * 1e3,
                "times_lscm": took / start,
                "over_milnors_bound_percent": float(100 * (ratio / (a / np.sin(a)) - 1)),
            }
        )
    return rows


def band() -> list[Row]:
    """A diameter of the bellied mug changed: readings, best cone, strain, relief, template."""
    raw: dict[str, Any] = json.loads((EXAMPLES / "bellied-mug.wimple.json").read_text(encoding="utf-8"))
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir()}
    cache, took = StageCache(), []
    for i in range(12):
        raw["blank"]["rings"][2]["girth"]["readings"] = [83.0 + 0.05 * i]
        began = time.perf_counter()
        build(load_job(raw), files, "unwrap", cache=cache)
        took.append(time.perf_counter() - began)
    return [
        {"what": "the band of a mug, a diameter dragged", "ours_ms": statistics.median(took[2:]) * 1e3, "limit_ms": 100}
    ]


def turning(page: Page, address: str) -> list[Row]:
    """Frames a second of the strain map on the object while it turns, drawn by software on these machines."""
    page.goto(f"{address}/shelf")
    page.get_by_role("button", name="Bellied mug").click()
    page.get_by_role("button", name="Start a job on it").click()
    page.wait_for_url("**/measure")
    page.goto(page.url.replace("measure", "unwrap"))
    page.wait_for_selector("canvas")
    page.wait_for_timeout(1500)
    frames = page.evaluate("""async () => {
      const el = document.querySelector('[role=application]');
      const box = el.getBoundingClientRect();
      const send = (type, x) => el.dispatchEvent(
            new PointerEvent(type, {bubbles: true, clientX: x, clientY: box.top + 50, pointerId: 1}));
      el.setPointerCapture = () => {};
      send('pointerdown', box.left + 50);
      const began = performance.now(); let n = 0, x = 0;
      while (performance.now() - began < 3000) {
            x += 3; send('pointermove', box.left + 50 + x); await new Promise(requestAnimationFrame); n++; }
      send('pointerup', box.left + 50 + x);
      return n / ((performance.now() - began) / 1000);
    }""")
    return [
        {
            "what": "strain map while the object turns (software drawing)",
            "frames_a_second": float(frames),
            "wanted": 30.0,
        }
    ]


if __name__ == "__main__":
    for row in [*band(), *patches()]:
        print(row)
