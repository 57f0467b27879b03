"""Drawings that are broken, hostile or odd."""

from __future__ import annotations

import gzip

import pytest
from samples import drawing, svg
from wimple_core.artwork import clean_svg, read_svg, separate
from wimple_core.errors import BadDrawing

BOMB = (
    b'<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c'
    b' "&b;&b;&b;&b;&b;&b;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&c;</text></svg>'
)
OUTSIDE = (
    b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hostname">]><svg'
    b' xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>'
)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"   \n", "empty"),
        (b"hello", "not an SVG"),
        (b"<html><body/></html>", "not"),
        (b"\x89PNG\r\n\x1a\n", "not an SVG"),
        (svg("<rect width='10' height='10'/>")[:-20], "breaks off"),
        (BOMB, "other entities"),
        (OUTSIDE, "another file"),
        (svg(""), "Nothing in the drawing"),
        (svg('<rect width="5" height="5" fill="none"/>'), "Nothing"),
        (svg('<text x="5" y="9">Moon</text>'), "Nothing"),
        (svg('<rect width="5" height="5"/>', 'width="0" height="10"'), "width is 0"),
        (svg(f'<path d="M0 0{"L1 1" * 700_000}"/>'), "points"),
        (b"<svg>" + b" " * 21_000_000 + b"</svg>", "MB"),
        (gzip.compress(b"<svg>" + b" " * 60_000_000 + b"</svg>"), "MB"),
        (b"\x1f\x8bbroken", "packed"),
        (
            svg(
                '<defs><g id="a">'
                + '<use href="#b"/>' * 30
                + '</g><g id="b">'
                + '<use href="#c"/>' * 30
                + '</g><g id="c">'
                + '<use href="#d"/>' * 30
                + '</g><rect id="d" width="1" height="1"/></defs><use href="#a"/>'
            ),
            "repeats its parts",
        ),
        (svg('<path d="NaN NaN L NaN 5"/>'), "Nothing"),
        (svg('<rect width="NaN" height="5"/>'), "Nothing"),
        (svg('<rect width="5" height="5" transform="matrix(NaN 0 0 1 0 0)"/>'), "Nothing"),
    ],
)
def test_what_cannot_be_taken(data: bytes, says: str) -> None:
    with pytest.raises(BadDrawing) as bad:
        read_svg(data)
    assert says in bad.value.message and bad.value.hint


def test_cleaning_leaves_nothing_that_runs_or_reaches_out() -> None:
    dirty = svg(
        "<script>alert(1)</script><style>@import url(http://a.example/x.css); .a{fill:url(http://a.example/#g)}"
        ' .b{fill:#f00}</style><g onclick="go()"><a href="javascript:go()"><rect class="b" width="9" height="9"'
        ' onload="x()"/></a></g><image href="http://a.example/i.png" width="5" height="5"/><use'
        ' href="http://a.example/x.svg#y"/><foreignObject><body'
        ' xmlns="http://www.w3.org/1999/xhtml">x</body></foreignObject><rect width="3" height="3"'
        ' fill="url(http://a.example/#g)"/>'
    )
    clean = clean_svg(dirty)
    for word in (b"script", b"example", b"onclick", b"onload", b"javascript", b"foreignObject", b"import"):
        assert word not in clean
    art = read_svg(clean)
    assert {p.colour for p in art.paints} == {"#ff0000"}
    assert any(n.code == "artwork.picture" for n in art.notes)
    assert clean_svg(clean) == clean


def test_what_is_not_taken_is_named() -> None:
    art = read_svg(
        svg(
            '<linearGradient id="g"><stop offset="0" stop-color="#000"/><stop offset="1"'
            ' stop-color="#fff"/></linearGradient><pattern id="p"><rect width="2" height="2"'
            ' fill="#0a0"/></pattern><mask id="m"/><filter id="f"/><rect id="one" width="5" height="5"'
            ' fill="url(#g)"/><rect width="5" height="5" fill="url(#p)"/><text>Moon</text><image width="5" height="5"'
            ' href="data:image/png;base64,AA=="/><rect width="4" height="4" opacity=".5" mask="url(#m)"'
            ' filter="url(#f)"/><rect width="2" height="2" fill="blurple"/><path d="M0 0L5 5L0 5ZQQ"/>'
        )
    )
    codes = {n.code for n in art.notes}
    assert codes >= {
        "artwork.gradient",
        "artwork.pattern",
        "artwork.text",
        "artwork.picture",
        "artwork.opacity",
        "artwork.mask",
        "artwork.filter",
        "artwork.colour",
        "artwork.path",
    }
    assert all(n.reason for n in art.notes)
    colours = {p.colour for p in art.paints}
    assert "#00aa00" in colours and any(c in colours for c in ("#7f7f7f", "#808080"))


def test_no_size_is_said() -> None:
    art = read_svg(svg('<rect width="50" height="20"/>', ""))
    assert not art.sized and [n.code for n in art.notes] == ["artwork.size"]
    left, low, right, high = art.bounds
    assert (right - left) / (high - low) == pytest.approx(2.5)


def test_entities_of_one_level_are_read() -> None:
    data = (
        b'<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY ns "http://www.w3.org/2000/svg"><!ENTITY red "#f00">]><svg'
        b' xmlns="&ns;" width="9mm" height="9mm"><rect width="5" height="5" fill="&red;"/></svg>'
    )
    assert read_svg(data).paints[0].colour == "#ff0000"
    assert b"ENTITY" not in clean_svg(data)


def test_circles_of_uses_end() -> None:
    art = read_svg(svg('<g id="a"><use href="#b"/><rect width="5" height="5"/></g><g id="b"><use href="#a"/></g>'))
    assert art.paints


def test_demo_drawings_keep_their_flaws_and_are_read() -> None:
    atlas = read_svg(drawing("star-atlas.svg"))
    assert {p.colour for p in atlas.paints} == {"#101010", "#111111", "#b98a2f"}
    assert len(separate(read_svg(drawing("moon-band.svg")).paints)) == 3
