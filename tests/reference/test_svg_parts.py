"""Parts of SVG that film has not: markers drawn, masks by their shape, gradients by their mean or in steps; and what a
drawing grows to, counted before it is drawn."""

from __future__ import annotations

from itertools import pairwise

import pytest
import shapely
from samples import svg
from test_drawings import share_alike
from wimple_core.artwork import read_outline, read_svg, separate
from wimple_core.artwork.svg import painting, paths
from wimple_core.errors import BadDrawing

ARROW = (
    '<marker id="m" viewBox="0 0 10 10" refX="{x}" refY="5" markerWidth="6" markerHeight="5" orient="{o}"{more}>'
    '<path d="M0 0L10 5L0 10z" fill="{fill}"/></marker>'
)


def arrow(
    line: str, x: float = 5, o: str = "auto", fill: str = "#c22a2a", more: str = "", worn: str = "marker-end"
) -> bytes:
    head = ARROW.format(x=x, o=o, fill=fill, more=more)
    return svg(f'<defs>{head}</defs><g fill="none" stroke="#1c3d7a" stroke-width="2" {worn}="url(#m)">{line}</g>')


@pytest.mark.parametrize(
    "drawing",
    [
        arrow('<path d="M10 50L80 50"/>'),
        arrow('<path d="M10 80C40 10 60 10 80 60"/>', worn="marker-start"),
        arrow('<path d="M10 10L50 60L80 20L90 80"/>', worn="marker-mid"),
        arrow('<polyline points="10,10 50,60 80,20"/>', o="45"),
        arrow('<polygon points="20,20 80,30 50,80"/>', x=0, worn="marker-mid"),
        arrow('<line x1="20" y1="80" x2="70" y2="30"/>', more=' markerUnits="userSpaceOnUse"'),
        arrow('<path d="M20 50A30 20 0 0 1 80 50"/>', worn="marker-end"),
        arrow('<path d="M20 20L80 20M20 60L80 80"/>', worn="marker-start", o="auto-start-reverse"),
    ],
)
def test_markers_as_resvg_draws_them(drawing: bytes) -> None:
    assert share_alike(drawing) > 0.995
    art = read_svg(drawing, 0.01)
    assert {p.colour for p in art.paints} == {"#1c3d7a", "#c22a2a"} and not [n for n in art.notes if "marker" in n.code]


@pytest.mark.parametrize(
    "mask",
    [
        '<mask id="m"><circle cx="50" cy="50" r="30" fill="#fff"/></mask>',
        '<mask id="m"><rect width="100" height="100" fill="#fff"/><circle cx="50" cy="50" r="20" fill="#000"/></mask>',
        '<mask id="m" maskUnits="userSpaceOnUse" x="20" y="20" width="40" height="50">'
        '<rect width="100" height="100" fill="#fff"/></mask>',
        '<mask id="m" maskContentUnits="objectBoundingBox"><rect x=".25" width=".5" height="1" fill="#fff"/></mask>',
        '<mask id="m" mask-type="alpha"><rect x="30" y="20" width="40" height="50" fill="#000"/></mask>',
    ],
)
def test_masks_by_their_shape_as_resvg_draws_them(mask: str) -> None:
    """Masks of black and white hide and show; nothing fades, so resvg draws the same."""
    drawing = svg(f'{mask}<g mask="url(#m)"><rect x="10" y="10" width="70" height="70" fill="#1c3d7a"/></g>')
    assert share_alike(drawing) > 0.995
    assert [n.code for n in read_svg(drawing, 0.01).notes] == ["artwork.mask"]


def test_a_mask_that_fades_shows_its_whole_shape() -> None:
    """Never a hole: what is half hidden is cut whole, and said."""
    fade = '<linearGradient id="g"><stop stop-color="#fff"/><stop offset="1"/></linearGradient>'
    drawing = svg(
        f'{fade}<mask id="m"><rect width="100" height="100" fill="url(#g)"/></mask>'
        '<rect x="10" y="10" width="60" height="60" mask="url(#m)"/>'
    )
    art = read_svg(drawing, 0.01)
    assert sum(p.region.area for p in art.paints) == pytest.approx(3600)


GRADIENT = (
    '<linearGradient id="g" x2="1"><stop stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient>'
    '<rect x="10" y="10" width="80" height="40" fill="url(#g)"/>'
)


@pytest.mark.parametrize("steps", [1, 2, 4, 8])
def test_gradients_in_steps(steps: int) -> None:
    """Each step as wide as the others, with the mean of what it stands for; one step is the mean of all."""
    found = separate(read_svg(svg(GRADIENT), 0.01, steps).paints)
    assert len(found) == steps and sum(c.seen.area for c in found) == pytest.approx(3200)
    by_place = sorted(found, key=lambda c: c.seen.bounds[0])
    for i, c in enumerate(by_place):
        assert c.seen.bounds[0] == pytest.approx(10 + 80 * i / steps, abs=1e-3) and c.seen.area == pytest.approx(
            3200 / steps, rel=1e-6
        )
        assert int(c.colour[1:3], 16) == pytest.approx(255 * (i + 0.5) / steps, abs=2)


def test_radial_gradients_in_steps() -> None:
    body = (
        '<radialGradient id="g"><stop stop-color="#ff0000"/><stop offset="1" stop-color="#0000ff"/></radialGradient>'
        '<circle cx="50" cy="50" r="40" fill="url(#g)"/>'
    )
    found = separate(read_svg(svg(body), 0.01, 4).paints)
    radii = sorted((c.seen.bounds[2] - c.seen.bounds[0]) / 2 for c in found)
    assert radii == pytest.approx([10, 20, 30, 40], abs=0.05)
    assert all(len(shapely.get_parts(c.seen)) == 1 for c in found)


def test_context_colours_in_markers() -> None:
    body = arrow('<path d="M10 50L80 50"/>', fill="context-stroke")
    assert {p.colour for p in read_svg(body, 0.01).paints} == {"#1c3d7a"}


def nested(levels: int, copies: int, tag: str = "g") -> str:
    out = '<g id="u0"><rect width="1" height="1"/></g>'
    for i in range(1, levels + 1):
        out += f'<{tag} id="u{i}">' + "".join(f'<use href="#u{i - 1}" x="{c}"/>' for c in range(copies)) + f"</{tag}>"
    return f'<defs>{out}</defs><use href="#u{levels}"/>'


@pytest.mark.parametrize(
    "body",
    [
        nested(40, 4),
        nested(12, 8, "symbol"),
        '<defs><clipPath id="c0"><rect width="9" height="9"/></clipPath>'
        + "".join(
            f'<clipPath id="c{i}"><g>'
            + f'<rect width="9" height="9" clip-path="url(#c{i - 1})"/>' * 6
            + "</g></clipPath>"
            for i in range(1, 20)
        )
        + '</defs><rect width="9" height="9" clip-path="url(#c19)"/>',
        '<defs><path id="p" d="M0 0' + "L1 1L0 2" * 20_000 + '"/></defs>' + '<use href="#p"/>' * 40,
    ],
)
def test_what_grows_without_end_is_refused_before_a_line_is_drawn(body: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """For every door a drawing comes in by; how long that takes stands in bench/."""
    monkeypatch.setattr(paths, "parse_path", lambda *_: pytest.fail("a path was read"))
    monkeypatch.setattr(painting, "shape_lines", lambda *_: pytest.fail("a shape was drawn"))
    for read in (lambda d: read_svg(d, 0.01), lambda d: read_outline(d, "panel.svg")):
        with pytest.raises(BadDrawing) as refused:
            read(svg(body))
        assert "drawing" in refused.value.message and refused.value.hint


def test_a_circle_of_uses_ends() -> None:
    body = (
        '<defs><g id="a"><rect width="5" height="5"/><use href="#b"/></g>'
        '<g id="b"><use href="#a" x="9"/></g></defs><use href="#a"/>'
    )
    assert read_svg(svg(body), 0.01).paints


def test_an_honest_number_of_uses_is_drawn() -> None:
    body = nested(3, 10)
    art = read_svg(svg(body, 'width="100mm" height="100mm" viewBox="0 0 30 30"'), 0.01)
    assert len(art.paints) == 1000


def test_arcs_of_one_circle_are_cut_alike() -> None:
    """Between their ends two arcs of one circle, drawn in different ways, have the same points."""
    from wimple_core.artwork.svg.paths import arc_angles, flatten_path

    one, _ = flatten_path("M80 50A30 30 0 0 1 20 50", 0.01)
    other, _ = flatten_path("M50 20A30 30 0 1 0 80 50", 0.01)
    a, b = ({(round(x, 6), round(y, 6)) for x, y in line[0].points.tolist()} for line in (one, other))
    assert len(a & b) > 0.9 * len(a) - 2
    for a0, da in ((0.3, 2.0), (0.3, -2.0), (5.9, 1.0), (-1.0, 0.01)):
        found = arc_angles(30.0, a0, da, 0.01)
        assert found[-1] == pytest.approx(a0 + da) and all((q - p) * da > 0 for p, q in pairwise([a0, *found]))
