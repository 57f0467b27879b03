"""Many-coloured drawings nobody here made, through layers and stacking on every kind of surface, against resvg.

Run as a script it takes 400 of them: `python tests/many_coloured.py`; `python tests/many_coloured.py above` looks at
200 from above, stacked, knocked out and edge to edge.
"""

from __future__ import annotations

import io
import json
import random
import sys
import time
from collections.abc import Iterator
from functools import lru_cache

import numpy as np
import resvg_py
import shapely
from PIL import Image
from samples import MODULES, dimension, element
from wimple_core.artwork import read_svg
from wimple_core.errors import BadDrawing
from wimple_core.fit.ways import lay
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.surface.pieces import Pieces

SETS = ("twemoji", "fxemoji", "openmoji", "emojione", "noto")
SHADED = ("Gradient", "<mask", "opacity", "filter", "<pattern", "<text", "<image")
"""What film has not: flat colours stand for it, so its pixels are not compared."""
GROUND = "#ff00ff"
SIZE = 200
PANEL = {
    "kind": "panel",
    "width": dimension("width", 300.0, instrument="ruler"),
    "height": dimension("width", 300.0, instrument="ruler") | {"reads": "height"},
}
CUP = {
    "kind": "cup",
    "upper": dimension("circumference", 262.5),
    "lower": dimension("circumference", 205.0),
    "side": dimension("slant", 100.0, instrument="ruler"),
}
CYLINDER = CUP | {"lower": dimension("circumference", 262.5)}
Place = tuple[str, dict[str, object], dict[str, object]]
PLACES: list[Place] = [
    ("panel", PANEL, {"width_mm": 50.0, "up_mm": 150.0}),
    ("cylinder", CYLINDER, {"width_mm": 40.0, "up_mm": 50.0}),
    *(
        (f"taper, {way}", CUP, {"width_mm": 40.0, "up_mm": 50.0, "way": way})
        for way in ("level", "even", "conformal", "flat")
    ),
    ("three copies", CUP, {"width_mm": 40.0, "up_mm": 50.0, "way": "conformal", "repeat": 3}),
]


@lru_cache(maxsize=8)
def drawings_of(name: str) -> dict[str, bytes]:
    """All drawings of a set by their names, each 100 mm wide."""
    raw = json.loads((MODULES / "@iconify-json" / name / "icons.json").read_text(encoding="utf-8"))
    out = {}
    for key, icon in raw["icons"].items():
        w, h = icon.get("width", raw.get("width", 16)), icon.get("height", raw.get("height", 16))
        box = f"{icon.get('left', 0)} {icon.get('top', 0)} {w} {h}"
        out[key] = (
            f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100mm"'
            f' height="{100 * h / w}mm" viewBox="{box}">{icon["body"]}</svg>'
        ).encode()
    return out


def sample(count: int, seed: int = 20261125) -> Iterator[tuple[str, bytes]]:
    """`count` drawings of all sets in turn, each with its name."""
    rng = random.Random(seed)
    each = {s: rng.sample(sorted(drawings_of(s)), -(-count // len(SETS))) for s in SETS}
    for i in range(count):
        s = SETS[i % len(SETS)]
        name = each[s][i // len(SETS)]
        yield f"{s}/{name}", drawings_of(s)[name]


def rendered(data: bytes, width: int, height: int) -> np.ndarray:
    """The source as resvg draws it, (h, w, 3)."""
    png = bytes(resvg_py.svg_to_bytes(svg_string=data.decode(), width=width, height=height, background=GROUND, dpi=96))
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGB")).astype(int)


def rgb(colour: str) -> tuple[int, int, int]:
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def share_alike(data: bytes, place: Place) -> tuple[float, int]:
    """Build a drawing to its sheets; the share of its pixels that show, on the stacked layers, the colour that resvg
    draws there, or one next to it (an edge may fall to either side); and how many pieces there are."""
    _, blank, placement = place
    raw = {"blank": blank, "elements": [element("a.svg", placement)]}
    built = build(load_job(raw), {"a.svg": data}, "sheets")
    assert built.layers is not None and built.fit is not None and built.template is not None
    for layer in built.layers.layers:
        assert layer.region.is_valid and layer.seen.is_valid, layer.name
    art = read_svg(data, 0.05)
    scale = SIZE / max(art.width, art.height)
    w, h = round(art.width * scale), round(art.height * scale)
    picture = rendered(data, w, h)
    gx, gy = np.meshgrid((np.arange(w) + 0.5) * art.width / w, art.height - (np.arange(h) + 0.5) * art.height / h)
    # From the drawing to the template: the middle of what is painted goes to the placement.
    d = built.fit.drawings[0]
    exact = built.fit.drawings[0].width / (art.bounds[2] - art.bounds[0])
    u = (gx.ravel() - (art.bounds[0] + art.bounds[2]) / 2) * exact
    v = (gy.ravel() - (art.bounds[1] + art.bounds[3]) / 2) * exact
    surface = built.template.surface
    assert not isinstance(surface, Pieces)
    x, y = lay(u, v, d.way, surface, d.a_c, d.s_c)
    ours = np.tile(np.array(rgb(GROUND)), (w * h, 1))
    for layer in built.layers.layers:
        shapely.prepare(layer.region)
        ours[shapely.contains_xy(layer.region, x, y)] = rgb(layer.colour)
    ours = ours.reshape(h, w, 3)
    padded = np.pad(picture, ((1, 1), (1, 1), (0, 0)), mode="edge")
    alike = np.zeros((h, w), dtype=bool)
    for i in (0, 1, 2):
        for j in (0, 1, 2):
            alike |= np.abs(padded[i : i + h, j : j + w] - ours).max(axis=-1) <= 64
    # Beside what is painted other copies may stand.
    within = (np.abs(u) <= d.width / 2 + 1).reshape(h, w)
    return float(alike[within].mean()), sum(layer.pieces for layer in built.layers.layers)


JOINTS = ("stacked", "knocked_out", "butted")


def off_from_above(data: bytes, place: Place, joint: str) -> float:
    """Build a drawing to its layers and look at the pile from above: of all colours the greatest share of what was
    drawn of it that shows otherwise, less a thousandth of a square millimetre, and less what no blade goes round: what
    is nowhere a quarter of a millimetre wide."""
    raw = {"blank": place[1], "elements": [element("a.svg", place[2])], "layers": {"joint": joint}}
    b = build(load_job(raw), {"a.svg": data}, "layers")
    assert b.layers is not None and b.fit is not None and b.films is not None
    drawn = {c.colour: c.seen for c in b.fit.colours}
    # What moves as one is parted into films where it lies still.
    move = b.fit.still.move if b.fit.still else (0.0, 0.0)
    films = [shapely.transform(u.region, lambda c: c + move) for u in b.films.before]
    parts = shapely.get_parts(np.array([*drawn.values(), *films], dtype=object))
    holes = [shapely.Polygon(ring) for part in parts for ring in part.interiors]
    parts = np.array([*parts, *holes], dtype=object)
    hairs = shapely.buffer(shapely.union_all(parts[shapely.is_empty(shapely.buffer(parts, -0.125))]), 0.01)
    above, worst = shapely.Polygon(), 0.0
    for la in reversed(b.layers.layers):
        off = shapely.symmetric_difference(shapely.difference(la.region, above), drawn[la.colour])
        worst = max(worst, (shapely.difference(off, hairs).area - 1e-3) / drawn[la.colour].area)
        above = shapely.union(above, la.region)
    return worst


def from_above(count: int) -> None:
    """Look at them all, and say which show otherwise."""
    poor: list[str] = []
    done = refused = 0
    for n, (name, data) in enumerate(sample(count)):
        for place in (PLACES[0], PLACES[1], PLACES[2 + n % 4]):
            for joint in JOINTS:
                try:
                    off = off_from_above(data, place, joint)
                except BadDrawing:
                    refused += 1
                    continue
                done += 1
                if off >= 0.001:
                    poor.append(f"{name} on {place[0]}, {joint}: {100 * off:.3f} %")
    print(f"{count} drawings, {done} piles from above, {refused} refused, {len(poor)} off by 0.1 % and more")
    print("\n".join(poor))


def draws_something(data: bytes) -> bool:
    """Does resvg draw anything at all?"""
    picture = rendered(data, 64, 64)
    return bool((np.abs(picture - np.array(rgb(GROUND))).max(axis=-1) > 8).any())


def main(count: int) -> None:
    """Build them all, and say what failed and what looks otherwise."""
    broken: list[str] = []
    poor: list[str] = []
    refused: list[str] = []
    compared = 0
    began = time.monotonic()
    for name, data in sample(count):
        plain = not any(word in data.decode() for word in SHADED)
        for place in PLACES:
            try:
                alike, _ = share_alike(data, place)
            except BadDrawing as bad:
                if draws_something(data):
                    refused.append(f"{name} on {place[0]}: {bad.message}")
                break
            except Exception as bad:
                broken.append(f"{name} on {place[0]}: {type(bad).__name__}: {str(bad)[:160]}")
                continue
            compared += plain
            if plain and alike < 0.99:
                poor.append(f"{name} on {place[0]}: {100 * alike:.2f} %")
    print(f"{count} drawings on {len(PLACES)} places in {time.monotonic() - began:.0f} s")
    print(f"{len(broken)} broken, {len(refused)} refused, {len(poor)} of {compared} under 99 % of pixels")
    print("\n".join([*broken, *refused, *poor]))


if __name__ == "__main__" and sys.argv[1:2] == ["above"]:
    from_above(int(sys.argv[2]) if len(sys.argv) > 2 else 200)
elif __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 400)
