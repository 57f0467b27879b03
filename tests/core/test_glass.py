"""Inside of glass: in every order of lay-up what is seen through it is what was drawn, and what is cut is mirrored."""

from __future__ import annotations

import io
import re

import ezdxf
import numpy as np
import pytest
import shapely
from samples import board, element, svg
from wimple_core.export import all_files
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build

# A navy square, a disc on it, a bar on that, none of them in the middle.
DRAWN = svg(
    '<rect x="5" y="5" width="90" height="90" fill="#1c3d7a"/><circle cx="40" cy="40" r="30" fill="#efc22a"/>'
    '<rect x="30" y="36" width="60" height="12" fill="#b3261e"/>'
)
WINDOW = board(300, 300)


def built(**more):  # type: ignore[no-untyped-def]
    raw = {"blank": WINDOW, "elements": [element("a.svg", {"width_mm": 90, "up_mm": 150})], **more}
    return build(load_job(raw), {"a.svg": DRAWN})


ORDERS = {"blank": "Lay layer on layer", "mat": "Lay up on the mat", "tape": "Lay up on the tape"}


@pytest.mark.parametrize("seen", ["from_outside", "through_glass"])
@pytest.mark.parametrize("order", ORDERS)
def test_what_is_laid_in_the_order_told_shows_what_was_drawn(order: str, seen: str) -> None:
    """The films are piled as the step says, and looked at from the side it is seen from."""
    b = built(layers={"joint": "stacked", "seen": seen}, layup={"order": order})
    assert b.layers and b.layup
    words = next(s.words() for s in b.layup.steps if s.title == ORDERS[order])
    names = {la.name: la for la in b.layers.layers}
    told = re.findall(rf"\b({'|'.join(names)})\b", words.partition(": ")[2])
    assert sorted(told) == sorted(names)
    # On tape the last laid touches the blank in the end; on the blank and on the mat the first.
    outward = [names[n] for n in (told[::-1] if order == "tape" else told)]
    # From outside the last of them hides the others; through glass the one that touches it does.
    covered, shown = shapely.Polygon(), {}
    for layer in outward if seen == "through_glass" else outward[::-1]:
        shown[layer.name] = shapely.difference(layer.region, covered)
        covered = shapely.union(covered, layer.region)
    for layer in b.layers.layers:
        assert shapely.symmetric_difference(shown[layer.name], layer.seen).area < 0.01, (layer.name, words)


@pytest.mark.parametrize("seen", ["from_outside", "through_glass"])
def test_files_of_layers_hold_what_is_cut(seen: str) -> None:
    b = built(layers={"joint": "stacked", "seen": seen})
    files = {f.path: f.data for f in all_files(b, {"a.svg": DRAWN})}
    assert b.layers
    every = np.array([la.cuts.bounds for la in b.layers.layers])
    left, right = every[:, 0].min(), every[:, 2].max()
    for n, layer in enumerate(b.layers.layers, start=1):
        stem = next(p for p in files if p.startswith(f"layers/{n:02d}-") and p.endswith(".dxf"))
        drawn = ezdxf.read(io.StringIO(files[stem].decode()))
        rings = [
            shapely.Polygon([p[:2] for p in e.get_points()])
            for e in drawn.modelspace().query("LWPOLYLINE")
            if e.dxf.layer == layer.name
        ]
        cut = shapely.union_all(rings)
        as_seen = layer.region
        mirrored = shapely.transform(as_seen, lambda p: np.column_stack([left + right - p[:, 0], p[:, 1]]))
        wanted, other = (mirrored, as_seen) if seen == "through_glass" else (as_seen, mirrored)
        shell = shapely.union_all([shapely.Polygon(g.exterior) for g in shapely.get_parts(wanted)])
        assert shapely.symmetric_difference(cut, shell).area < 0.01 * shell.area
        if n == 2:
            assert shapely.symmetric_difference(wanted, other).area > 0.05 * shell.area, "it tells the sides"
        page = files[stem.replace(".dxf", ".svg")].decode()
        assert ("mirrored" in page) == (seen == "through_glass")
        # The plotter's first contour starts on the same side.
        points = [
            (int(x) / 40 + left, int(y) / 40)
            for x, y in re.findall(r"(-?\d+),(-?\d+)", files[stem.replace(".dxf", ".plt")].decode())
        ]
        across = np.array([x for x, _ in points])
        bounds = shapely.union_all([wanted]).bounds
        assert across.min() <= bounds[0] + 0.5 and across.max() >= bounds[2] - 0.5


def test_the_mark_that_differs_is_told_on_the_side_where_it_is_seen_from_inside() -> None:
    for seen, side in (("from_outside", "right"), ("through_glass", "left")):
        b = built(layers={"joint": "stacked", "seen": seen}, layup={"order": "tape"})
        assert b.layup
        assert f"the one that differs on the {side}" in " ".join(s.words() for s in b.layup.steps)
