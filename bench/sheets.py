"""Sheets: ragged pieces nested on a strip against their rectangles, many pieces in a minute, the loads of the demo's
twelve cups, five thousand contours put in order."""

from __future__ import annotations

import json
import math
import time

import numpy as np
import shapely
from samples import EXAMPLES
from wimple_core.cutting.order import Contour, order_contours
from wimple_core.job import load_job
from wimple_core.pipeline import StageCache, build
from wimple_core.sheets.mats import share_mats
from wimple_core.sheets.nest import nest
from wimple_core.sheets.shape import Shape

Row = dict[str, object]


def _ragged(g: np.random.Generator, count: int, least: float, most: float) -> list[shapely.Polygon]:
    out = []
    while len(out) < count:
        k = int(g.integers(7, 14))
        a, r = np.sort(g.uniform(0, 2 * math.pi, k)), g.uniform(least, most, k)
        piece = shapely.Polygon(np.column_stack([r * np.cos(a), r * np.sin(a)]))
        if piece.is_valid:
            out.append(piece)
    return out


def _shapes(pieces: list[shapely.Polygon]) -> list[Shape]:
    return [Shape(shapely.get_coordinates(p.exterior)[:-1], 1, "any") for p in pieces]


def nesting() -> list[Row]:
    """Forty ragged pieces in five seconds, and three hundred in a minute, against the area bound."""
    g = np.random.default_rng(3)
    forty = _ragged(g, 40, 8, 26)
    began = time.perf_counter()
    found = nest(_shapes(forty), 300.0, 0.0, 5)
    took = time.perf_counter() - began
    boxes = [(float(r - x), float(t - y)) for x, y, r, t in shapely.bounds(np.array(forty, dtype=object))]
    low, high = 10.0, 2000.0
    while high - low > 1:
        middle = (low + high) / 2
        mats = share_mats([[b, b[::-1]] for b in boxes], 300.0, middle, 0.0)
        low, high = (low, middle) if mats is not None and len(mats) == 1 else (middle, high)
    rows: list[Row] = [
        {
            "what": "40 ragged pieces on 300 mm, their length against that of their rectangles",
            "ratio": found.length / high if found else math.inf,
            "limit": 105 / 163,
            "seconds": took,
        }
    ]
    ragged = _ragged(g, 300, 5, 16)
    for what, many in (
        ("ragged", ragged),
        ("the same with their bays filled", [p.convex_hull for p in ragged]),
        ("of the examples' drawings", _drawn(g, 300)),
    ):
        bound = float(shapely.area(np.array(many, dtype=object)).sum()) / 300
        began = time.perf_counter()
        found = nest(_shapes(many), 300.0, 0.0, 59)
        rows.append(
            {
                "what": f"300 pieces in a minute ({what}), the length of the area bound over theirs",
                "density": bound / found.length if found else 0.0,
                "least_density": 0.85,
                "seconds": time.perf_counter() - began,
            }
        )
    return rows


def _drawn(g: np.random.Generator, count: int) -> list[shapely.Polygon]:
    """Outlines of pieces that the examples' jobs cut, 4 to 60 mm across, any of them."""
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir() if p.is_file()}
    some: list[shapely.Polygon] = []
    for name in ("perihelion-cup", "star-atlas-mug", "six-films", "four-films", "comet-door"):
        document = load_job(json.loads((EXAMPLES / f"{name}.wimple.json").read_text()))
        layers = build(document, files, "layers").layers
        for part in shapely.get_parts([layer.region for layer in layers.layers] if layers else []):
            outline = shapely.Polygon(shapely.simplify(part, 0.1).exterior)
            left, low, right, high = outline.bounds
            if outline.is_valid and 4 < max(right - left, high - low) < 60:
                some.append(outline)
    return [some[int(n)] for n in g.integers(0, len(some), count)]


def cups() -> list[Row]:
    """The demo's twelve cups: how many loads, and how long the sheets stage takes."""
    document = load_job(json.loads((EXAMPLES / "perihelion-cup.wimple.json").read_text()))
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir() if p.is_file()}
    cache = StageCache()
    build(document, files, "layers", cache=cache)
    began = time.perf_counter()
    made = build(document, files, "sheets", cache=cache).sheets
    took = 1000 * (time.perf_counter() - began)
    assert made
    return [
        {
            "what": "twelve cups, their loads and film",
            "loads": sum(x.times for x in made.loads),
            "film_m2": made.film_area / 1e6,
            "ms": took,
        }
    ]


def order() -> list[Row]:
    """Five thousand contours put in order."""
    ring = shapely.get_coordinates(shapely.Point(0, 0).buffer(0.5, quad_segs=8).exterior)[:-1]
    places = np.random.default_rng(1).uniform(0, 300, (5000, 2))
    made = [Contour(ring + at, 0, 0, True, n) for n, at in enumerate(places)]
    began = time.perf_counter()
    order_contours(made)
    return [{"what": "5,000 contours put in order", "ours_ms": 1000 * (time.perf_counter() - began), "limit_ms": 3000}]
