"""See-through paint: blended as a renderer draws it, left out, or cut at full strength."""

from __future__ import annotations

import io
import random

import numpy as np
import pytest
import resvg_py
import shapely
from PIL import Image
from samples import svg
from wimple_core.artwork import Artwork, read_svg, separate

SHADOW = (
    '<rect x="10" y="10" width="60" height="60" fill="#c22a2a"/>'
    '<ellipse cx="50" cy="75" rx="35" ry="12" fill="#000" opacity=".15"/>'
)


def colours(art: Artwork) -> dict[str, float]:
    return {c.colour: round(float(c.seen.area), 1) for c in separate(art.paints, art.tolerance)}


def test_a_shadow_is_left_out_at_first_and_said() -> None:
    art = read_svg(svg(SHADOW))
    assert set(colours(art)) == {"#c22a2a"}
    (note,) = [n for n in art.notes if n.code.startswith("artwork.opacity")]
    assert "15 %" in note.what and "left out" in note.reason and note.level == "look"
    # Of two that fare differently each is told of by itself.
    both = read_svg(svg(SHADOW + '<circle cx="30" cy="30" r="9" fill="#fff" opacity=".6"/>'))
    told = {n.what: n.reason for n in both.notes if n.code.startswith("artwork.opacity")}
    assert {("15" in what, "left out" in reason) for what, reason in told.items()} == {(True, True), (False, False)}
    assert len({n.code for n in both.notes if n.code.startswith("artwork.opacity")}) == 2
    assert set(colours(read_svg(svg(SHADOW), see_through="full"))) == {"#c22a2a", "#000000"}
    # What is nearly dense is a shape of its own; and where all is see-through, that is the drawing.
    dense = svg('<rect width="20" height="20" fill="#1c3d7a" fill-opacity=".8"/><circle cx="60" cy="60" r="9"/>')
    assert set(colours(read_svg(dense))) == {"#1c3d7a", "#000000"}
    assert set(colours(read_svg(dense, see_through="out"))) == {"#000000"}
    assert set(colours(read_svg(svg('<rect width="9" height="9" fill="#123456" opacity=".2"/>')))) == {"#123456"}


@pytest.mark.parametrize("seed", range(6))
def test_blended_it_is_as_a_renderer_draws_it(seed: int) -> None:
    """Ten discs and boxes of any opacity over each other: in places away from edges the colour is the one that resvg
    draws on white paper, but for rounding."""
    some = random.Random(seed)
    body = ""
    for _ in range(10):
        fill = f'fill="#{some.randrange(0x1000000):06x}" fill-opacity="{some.choice([0.15, 0.4, 0.7, 1]):g}"'
        x, y, r = some.uniform(10, 90), some.uniform(10, 90), some.uniform(6, 30)
        body += (
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{r:.1f}" {fill}/>'
            if some.random() < 0.5
            else f'<rect x="{x - r:.1f}" y="{y - r:.1f}" width="{r:.1f}" height="{2 * r:.1f}" {fill}/>'
        )
    page = svg(body)
    art = read_svg(page, see_through="blended")
    assert {len(p.colour) for p in art.paints} == {7}
    png = resvg_py.svg_to_bytes(svg_string=page.decode(), width=500, height=500, background="#ffffff", dpi=96)
    picture = np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGB")).astype(int)
    seen = separate(art.paints, art.tolerance)
    edges = shapely.union_all([c.seen.boundary for c in seen])
    checked = 0
    for _ in range(400):
        x, y = some.uniform(1, 99), some.uniform(1, 99)
        at = shapely.Point(x, 100 - y)
        if edges.distance(at) < 0.6:
            continue
        mine = next((c.colour for c in seen if c.seen.covers(at)), "#ffffff")
        there = picture[int(y * 5), int(x * 5)]
        assert np.abs(there - [int(mine[i : i + 2], 16) for i in (1, 3, 5)]).max() <= 3, (x, y, mine, there)
        checked += 1
    assert checked > 100
