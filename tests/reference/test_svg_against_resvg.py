"""Corners of SVG, each drawn by resvg and by us: transforms, viewports, uses, clips, strokes, styles, path data."""

from __future__ import annotations

import pytest
from samples import svg
from test_drawings import share_alike

BOX = '<rect x="20" y="20" width="40" height="30" fill="#c22a2a"/>'
SNIPPETS = {
    "nested transforms": (
        '<g transform="translate(50 50) rotate(30)"><g transform="scale(1.5 .8)"><rect x="-20" y="-10" width="40"'
        ' height="20"/></g></g>'
    ),
    "skew": '<rect x="20" y="20" width="40" height="30" transform="skewX(20) skewY(10)"/>',
    "matrix mirrored": '<path d="M10 10h40v10h-30v30h-10z" transform="matrix(-1 .2 .1 1 90 0)"/>',
    "rotate about a point": '<rect x="30" y="30" width="40" height="20" transform="rotate(45, 50, 50)"/>',
    "symbol fitted": (
        '<symbol id="s" viewBox="0 0 20 10"><rect width="20" height="10" fill="#2a5bb8"/><circle cx="10" cy="5" r="5"'
        ' fill="#f2d22e"/></symbol><use href="#s" x="10" y="20" width="80" height="60"/>'
    ),
    "symbol cut at its edge": (
        '<symbol id="s" viewBox="0 0 10 10"><circle cx="10" cy="5" r="5"/></symbol><use href="#s" width="50"'
        ' height="50"/>'
    ),
    "symbol overflowing": (
        '<symbol id="s" viewBox="0 0 10 10" overflow="visible"><circle cx="10" cy="5" r="5"/></symbol><use href="#s"'
        ' width="50" height="50"/>'
    ),
    "use of a use": (
        '<g id="a"><rect width="10" height="10"/></g><use id="b" href="#a" x="20"/><use href="#b" y="30"'
        ' transform="scale(2)"/>'
    ),
    "use inherits": (
        '<defs><rect id="r" width="20" height="20"/></defs><use href="#r" fill="#2f8a4a" x="10"/><g fill="#6b3f94"><use'
        ' href="#r" y="40"/></g>'
    ),
    "xlink": '<defs><circle id="c" r="12"/></defs><use xlink:href="#c" x="40" y="40" fill="#e8822a"/>',
    "nested svg slice": (
        '<svg x="10" y="10" width="60" height="30" viewBox="0 0 10 10" preserveAspectRatio="xMinYMax slice"><circle'
        ' cx="5" cy="5" r="5"/></svg>'
    ),
    "nested svg none": (
        '<svg x="10" y="10" width="80" height="30" viewBox="0 0 10 10" preserveAspectRatio="none"><circle cx="5" cy="5"'
        ' r="5"/></svg>'
    ),
    "clip": f'<clipPath id="c"><circle cx="40" cy="35" r="15"/></clipPath><g clip-path="url(#c)">{BOX}</g>',
    "clip in box units": (
        '<clipPath id="c" clipPathUnits="objectBoundingBox"><rect x=".25" y="0" width=".5" height="1"/></clipPath><g'
        f' clip-path="url(#c)">{BOX}</g>'
    ),
    "clip evenodd": (
        '<clipPath id="c"><path clip-rule="evenodd" d="M10 10H90V90H10zM30 30H70V70H30z"/></clipPath><rect width="100"'
        ' height="100" clip-path="url(#c)"/>'
    ),
    "clip moved with its element": (
        '<clipPath id="c"><rect width="20" height="20"/></clipPath><rect width="50" height="50" transform="translate(30'
        ' 30)" clip-path="url(#c)"/>'
    ),
    "clip of clip": (
        '<clipPath id="a"><rect width="40" height="100"/></clipPath><clipPath id="b" clip-path="url(#a)"><circle'
        ' cx="40" cy="40" r="30"/></clipPath><rect width="100" height="100" clip-path="url(#b)"/>'
    ),
    "clip through use": (
        '<clipPath id="c"><use href="#d"/></clipPath><defs><circle id="d" cx="50" cy="50" r="20"/></defs><rect'
        ' width="100" height="100" clip-path="url(#c)"/>'
    ),
    "dashes round a circle": (
        '<circle cx="50" cy="50" r="30" fill="none" stroke="#000" stroke-width="6" stroke-dasharray="12 7 3"'
        ' stroke-dashoffset="5"/>'
    ),
    "dashes with round caps": (
        '<path d="M10 50C30 0 70 100 90 50" fill="none" stroke="#000" stroke-width="5" stroke-dasharray="1 9"'
        ' stroke-linecap="round"/>'
    ),
    "joins": "".join(
        f'<path d="M{x} 80L{x + 10} 30L{x + 20} 80" fill="none" stroke="#000" stroke-width="7" stroke-linejoin="{j}"/>'
        for x, j in ((8, "miter"), (38, "round"), (68, "bevel"))
    ),
    "mitre limits": "".join(
        f'<path d="M{x} 80L{x + 8} 30L{x + 16} 80" fill="none" stroke="#000" stroke-width="5" stroke-miterlimit="{m}"/>'
        for x, m in ((10, 1), (40, 4), (70, 12))
    ),
    "stroke scaled unevenly": (
        '<circle cx="10" cy="10" r="6" fill="none" stroke="#000" stroke-width="2" transform="scale(6 3)"/>'
    ),
    "stroke under fill": (
        '<rect x="20" y="20" width="50" height="50" fill="#f2d22e" stroke="#000" stroke-width="12"'
        ' paint-order="stroke"/>'
    ),
    "percent and em": (
        '<g font-size="10"><rect x="10%" y="1em" width="50%" height="2em"/></g><circle cx="50%" cy="75%" r="10%"/>'
    ),
    "arcs of every flag": "".join(
        f'<path d="M{x} 50A18 10 20 {f} {x + 20} 50z"/>' for x, f in ((5, "0 0"), (28, "0 1"), (52, "1 0"), (76, "1 1"))
    ),
    "arc flags run together": '<path d="M20 50a30 30 0 0160 0z"/>',
    "arc too small": '<path d="M20 50A5 5 0 0 1 80 50z"/>',
    "shorthand curves": '<path d="M10 50Q30 10 50 50T90 50L90 90C80 60 70 60 60 90S40 120 30 90H10z"/>',
    "relative and packed": '<path d="m10 10 30-5.5.5 40-20.25-1e1-10-.25zM60,60l20,0-10,20"/>',
    "nonzero star": '<path d="M50 5L79 95L3 39H97L21 95z"/>',
    "evenodd star": '<path fill-rule="evenodd" d="M50 5L79 95L3 39H97L21 95z"/>',
    "self-crossing curve": '<path d="M10 50C110 -50 110 150 10 50C-40 0 140 20 60 90"/>',
    "open path filled": '<path d="M10 10L90 10L50 80"/><polyline points="10,90 50,60 90,90" fill="#2a5bb8"/>',
    "cascade": (
        "<style>rect{fill:#2f8a4a} .k{fill:#c22a2a} #z{fill:#2a5bb8} g > rect.m{fill:#e8822a!important}</style><rect"
        ' width="20" height="20"/><rect class="k" x="25" width="20" height="20"/><rect id="z" class="k" x="50"'
        ' width="20" height="20"/><g><rect class="m" y="30" width="20" height="20" style="fill:#000"/></g><rect y="60"'
        ' width="20" height="20" fill="#fff" style="fill:#6b3f94"/>'
    ),
    "currentColor and inherit": (
        '<g color="#1f7d80" fill="currentColor"><rect width="30" height="30"/><g fill="#000"><rect x="40" width="30"'
        ' height="30" fill="inherit" /></g></g>'
    ),
    "colours as css says them": (
        '<rect width="20" height="20" fill="rgb(200, 40, 40)"/><rect x="25" width="20" height="20" fill="hsl(210 60%'
        ' 40%)"/><rect x="50" width="20" height="20" fill="SlateBlue"/><rect x="75" width="20" height="20"'
        ' fill="#0a8"/>'
    ),
    "hidden and shown again": (
        '<g visibility="hidden"><rect width="30" height="30"/><rect x="40" width="30" height="30"'
        ' visibility="visible"/></g><g display="none"><rect y="40" width="30" height="30" display="inline"/></g>'
    ),
    "switch": (
        '<switch><rect requiredExtensions="http://a.example/" width="50" height="50"/><circle cx="50" cy="50"'
        ' r="20"/><rect width="90" height="90"/></switch>'
    ),
    "rounded rectangles": (
        '<rect x="5" y="5" width="40" height="30" rx="8"/><rect x="55" y="5" width="40" height="30" ry="40"/><rect'
        ' x="5" y="50" width="40" height="30" rx="4" ry="12"/>'
    ),
    "off the page": '<circle cx="0" cy="50" r="40"/><rect x="80" y="80" width="60" height="60"/>',
    "zero-length stroke": '<path d="M30 30h0M60 60z" stroke="#000" stroke-width="14" stroke-linecap="round"/>',
}
PAGES = (
    'width="100mm" height="100mm" viewBox="0 0 100 100"',
    'width="120" height="60" viewBox="-10 -5 120 110" preserveAspectRatio="xMaxYMid"',
)


@pytest.mark.parametrize("sheet", PAGES)
@pytest.mark.parametrize("name", SNIPPETS)
def test_drawn_as_resvg_draws_it(name: str, sheet: str) -> None:
    assert share_alike(svg(SNIPPETS[name], sheet)) > 0.993, name
