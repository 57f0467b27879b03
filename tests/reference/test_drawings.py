"""Drawings nobody here made: what the layers cover equals what resvg draws; areas in closed form."""

from __future__ import annotations

import io
import math
import random
from pathlib import Path

import numpy as np
import pytest
import resvg_py
import shapely
from PIL import Image
from samples import MODULES, svg
from wimple_core.artwork import read_svg, separate
from wimple_core.export.svg import path_data

SIZE = 400


def picture(source: str, width: int, height: int) -> np.ndarray:
    png = bytes(resvg_py.svg_to_bytes(svg_string=source, width=width, height=height, background="#ff00ff", dpi=96))
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGB")).astype(int)


def share_alike(data: bytes) -> float:
    """Share of pixels in which the drawing and our regions, exported as cubics, agree in colour."""
    rough = read_svg(data, 0.5)
    size = max(rough.width, rough.height)
    art = read_svg(data, size / 20000)
    bounds = (0.0, 0.0, art.width, art.height)
    z = SIZE / max(art.width, art.height)
    w, h = round(art.width * z), round(art.height * z)
    body = "".join(
        f'<path fill="{c.colour}" fill-rule="evenodd" d="{path_data(c.seen, bounds, size / 10000)}"/>'
        for c in separate(art.paints)
    )
    ours = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}" height="{h}" viewBox="0 0 {art.width}'
        f' {art.height}">{body}</svg>'
    )
    a, b = picture(data.decode(), w, h), picture(ours, w, h)
    rows, columns = min(a.shape[0], b.shape[0]), min(a.shape[1], b.shape[1])
    return float((np.abs(a[:rows, :columns] - b[:rows, :columns]).max(axis=-1) <= 64).mean())


def sample(folder: str, count: int) -> list[Path]:
    files = sorted((MODULES / folder).glob("*.svg"))
    assert len(files) >= count, f"{folder} is missing: ./wimple test installs it"
    return random.Random(20261124).sample(files, count)


@pytest.mark.parametrize(("folder", "count"), [("lucide-static/icons", 110), ("bootstrap-icons/icons", 100)])
def test_icon_sets_look_as_resvg_draws_them(folder: str, count: int) -> None:
    """One set of strokes, one of fills, neither made here: 99 % of drawings with 99 % of pixels."""
    poor = {f.name: round(m, 4) for f in sample(folder, count) if (m := share_alike(f.read_bytes())) < 0.99}
    assert len(poor) <= count // 100, poor


def test_drawings_of_many_colours_look_as_resvg_draws_them() -> None:
    """Flags: many colours, clip paths, uses, nested groups, strokes. Those with gradients, masks or see-through parts
    are left out, since film has none; in the others thin white joints of resvg's smoothing cost pixels on dense arms.
    """
    files = [
        f
        for f in sample("flag-icons/flags/4x3", 60)
        if not any(w in f.read_text() for w in ("Gradient", "<mask", "opacity", "filter")) and f.stat().st_size < 12_000
    ]
    assert len(files) >= 25
    poor = {f.name: round(m, 4) for f in files if (m := share_alike(f.read_bytes())) < 0.985}
    assert len(poor) <= 2, poor


def seen_area(body: str, size: str = 'width="100mm" height="100mm" viewBox="0 0 100 100"') -> float:
    return sum(c.seen.area for c in separate(read_svg(svg(body, size), 0.0005).paints))


def star(n: int, outer: float, inner: float) -> str:
    r = [outer, inner] * n
    return " ".join(
        f"{50 + r[i] * math.sin(i * math.pi / n)},{50 - r[i] * math.cos(i * math.pi / n)}" for i in range(2 * n)
    )


@pytest.mark.parametrize(
    ("body", "area"),
    [
        ('<circle cx="50" cy="50" r="30"/>', math.pi * 900),
        ('<path d="M20 50a30 30 0 1 0 60 0a30 30 0 1 0-60 0"/>', math.pi * 900),
        ('<ellipse cx="50" cy="50" rx="40" ry="10" transform="rotate(30 50 50)"/>', math.pi * 400),
        ('<circle cx="50" cy="50" r="30" fill="none" stroke="#000" stroke-width="8"/>', math.pi * (34**2 - 26**2)),
        ('<path fill-rule="evenodd" d="M10 10H90V90H10zM30 30H70V70H30z"/>', 6400 - 1600),
        ('<path d="M10 10H90V90H10zM30 30H70V70H30z"/>', 6400),
        ('<path d="M10 10H90V90H10zM30 30V70H70V30z"/>', 6400 - 1600),
        (f'<polygon points="{star(5, 40, 16)}"/>', 5 * 40 * 16 * math.sin(math.pi / 5)),
        ('<rect x="10" y="10" width="80" height="40" rx="10"/>', 80 * 40 - (4 - math.pi) * 100),
        ('<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6"/>', 480),
        ('<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6" stroke-linecap="square"/>', 516),
        (
            '<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6" stroke-linecap="round"/>',
            480 + 9 * math.pi,
        ),
        ('<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6" stroke-dasharray="10 5"/>', 6 * 55),
        ('<rect x="20" y="20" width="60" height="60" fill="none" stroke="#000" stroke-width="10"/>', 70**2 - 50**2),
        (
            (
                '<rect x="20" y="20" width="60" height="60" fill="none" stroke="#000" stroke-width="10"'
                ' stroke-linejoin="bevel"/>'
            ),
            70**2 - 50**2 - 4 * 12.5,
        ),
        ('<g transform="scale(2) translate(5 5)"><rect width="10" height="10"/></g>', 400),
        ('<svg x="10" y="10" width="50" height="25" viewBox="0 0 10 10"><rect width="10" height="10"/></svg>', 625),
        (
            (
                '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="5"/></symbol><use href="#s" width="40"'
                ' height="40"/>'
            ),
            800,
        ),
        (
            (
                '<clipPath id="c"><circle cx="50" cy="50" r="10"/></clipPath><rect width="100" height="100"'
                ' clip-path="url(#c)"/>'
            ),
            math.pi * 100,
        ),
        (
            (
                '<rect width="10" height="10" opacity="0"/><rect width="9" height="9" display="none"/><rect width="8"'
                ' height="8"/>'
            ),
            64,
        ),
        (
            (
                '<style>.a{fill:none} rect.b{fill:#f00}</style><rect class="a" width="50" height="50"/><rect class="b"'
                ' width="10" height="10"/>'
            ),
            100,
        ),
    ],
)
def test_areas_in_closed_form(body: str, area: float) -> None:
    """Circles, rings, stars (area n R r sin(pi / n)), strokes, caps, joins, dashes, viewports, clips."""
    assert seen_area(body) == pytest.approx(area, rel=2e-4)


def test_physical_units() -> None:
    """CSS: 96 px to the inch, 72 points to the inch."""
    for size, mm in (
        ('width="1in" height="1in" viewBox="0 0 1 1"', 25.4),
        ('width="72pt" height="72pt" viewBox="0 0 1 1"', 25.4),
        ('width="96" height="96" viewBox="0 0 1 1"', 25.4),
        ('width="2.5cm" height="2.5cm" viewBox="0 0 1 1"', 25.0),
    ):
        left, low, right, high = read_svg(svg('<rect width="1" height="1"/>', size)).bounds
        assert right - left == pytest.approx(mm) and high - low == pytest.approx(mm)


def test_mitre_limit_falls_back_to_bevel() -> None:
    """SVG 2, 13.5.3: above the limit a mitre becomes a bevel. A 30 degree corner has ratio 1 / sin 15 = 3.86."""
    corner = f"M10 50H80L{80 - 60 * math.cos(math.pi / 6):.6f} {50 + 60 * math.sin(math.pi / 6):.6f}"
    base = '<path d="{}" fill="none" stroke="#000" stroke-width="4" stroke-miterlimit="{}"/>'
    pointed, blunt = seen_area(base.format(corner, 4)), seen_area(base.format(corner, 3.8))
    # The tip beyond the bevel: a triangle with base 2 h cos(15 deg) and height (h / sin 15) - h sin 15, h half the
    # width.
    a = math.radians(15)
    assert pointed - blunt == pytest.approx(2 * math.cos(a) * (2 / math.sin(a) - 2 * math.sin(a)), rel=1e-3)


def test_separation_is_a_partition() -> None:
    """What is seen of each colour is disjoint and covers all that is painted; each colour's part is what lies
    uppermost."""
    rng = random.Random(3)
    shapes = "".join(
        f'<circle cx="{rng.uniform(10, 90):.2f}" cy="{rng.uniform(10, 90):.2f}" r="{rng.uniform(4, 25):.2f}"'
        f' fill="{rng.choice(["#f00", "#0a0", "#00f", "#fd0"])}"/>'
        for _ in range(40)
    )
    art = read_svg(svg(shapes))
    regions = separate(art.paints)
    union = shapely.union_all([p.region for p in art.paints])
    assert sum(c.seen.area for c in regions) == pytest.approx(union.area, rel=1e-7)
    points = np.random.default_rng(4).uniform(0, 100, (400, 2))
    for x, y in points:
        on_top = next((p.colour for p in reversed(art.paints) if shapely.contains_xy(p.region, x, y)), None)
        showing = [c.colour for c in regions if shapely.contains_xy(c.seen, x, y)]
        assert showing == ([on_top] if on_top else [])
