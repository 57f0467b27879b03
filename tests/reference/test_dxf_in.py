"""DXF drawings read: written by ezdxf, areas in closed form, and drawings nobody here made there and back."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from typing import Any

import ezdxf
import numpy as np
import pytest
import shapely
from test_drawings import sample
from wimple_core.artwork import Artwork, clean_drawing, read_drawing, read_svg, separate
from wimple_core.artwork.dxf import MEET_MM
from wimple_core.errors import BadDrawing

Draw = Callable[[Any, Any], None]


def written(draw: Draw, insunits: int = 4) -> bytes:
    document = ezdxf.new("R2010", setup=True)
    document.header["$INSUNITS"] = insunits
    draw(document, document.modelspace())
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def read(draw: Draw, insunits: int = 4) -> Artwork:
    return read_drawing(written(draw, insunits), 0.005)


def areas(art: Artwork) -> dict[str, float]:
    return {c.colour: c.seen.area for c in separate(art.paints, art.tolerance)}


def test_a_hundred_drawings_come_back_as_they_went_out() -> None:
    """Every ring as a polyline on a layer of its colour: in again within 0.02 mm everywhere."""
    worst: dict[str, float] = {}
    for file in sample("bootstrap-icons/icons", 100):
        art = read_svg(file.read_bytes(), 0.005)
        colours = separate(art.paints, art.tolerance)

        def draw(document: Any, space: Any, colours: Any = colours) -> None:
            for n, colour in enumerate(colours):
                document.layers.add(f"film {n}", true_color=int(colour.colour[1:], 16))
                for part in shapely.get_parts(colour.seen):
                    for ring in (part.exterior, *part.interiors):
                        space.add_lwpolyline(list(ring.coords)[:-1], close=True, dxfattribs={"layer": f"film {n}"})

        back = {c.colour: c.seen for c in separate(read(draw).paints, 0.005)}
        assert set(back) == {c.colour for c in colours}, file.name
        for colour in colours:
            grown = colour.seen.buffer(0.02), back[colour.colour].buffer(0.02)
            missed = colour.seen.difference(grown[1]).area + back[colour.colour].difference(grown[0]).area
            worst[file.name] = max(worst.get(file.name, 0), missed)
    assert len(worst) == 100 and max(worst.values()) < 1e-6, worst


@pytest.mark.parametrize(
    ("draw", "area"),
    [
        (lambda d, m: m.add_circle((5, 5), 3), 9 * math.pi),
        (lambda d, m: m.add_ellipse((0, 0), (4, 0), 0.5), 8 * math.pi),
        (lambda d, m: (m.add_arc((0, 0), 5, 0, 180), m.add_line((-5, 0), (5, 0))), 12.5 * math.pi),
        # A bulge is the tangent of a quarter of the angle: 1 is half a circle (DXF reference, LWPOLYLINE, group 42).
        (lambda d, m: m.add_lwpolyline([(0, 0, 1), (4, 0, 0)], format="xyb", close=True), 2 * math.pi),
        (lambda d, m: (m.add_circle((0, 0), 5), m.add_circle((0, 0), 2)), 21 * math.pi),
        (lambda d, m: [m.add_circle((0, 0), r) for r in (6, 5, 2)], (36 - 25 + 4) * math.pi),
        (lambda d, m: m.add_solid([(0, 0), (4, 0), (0, 3), (4, 3)]), 12),
        (lambda d, m: [m.add_line(a, b) for a, b in (((0, 0), (6, 0)), ((6, 0), (0, 8)), ((0, 8), (0, 0)))], 24),
    ],
)
def test_shapes_have_the_areas_of_closed_form(draw: Draw, area: float) -> None:
    assert sum(areas(read(draw)).values()) == pytest.approx(area, rel=2e-3)


def test_a_spline_through_a_circles_weights_is_that_circle() -> None:
    """A circle as a rational quadratic spline of nine points (Piegl and Tiller, The NURBS Book, from memory)."""
    w = math.sqrt(0.5)
    points = [(1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0), (-1, -1), (0, -1), (1, -1), (1, 0)]
    knots = [0, 0, 0, 0.25, 0.25, 0.5, 0.5, 0.75, 0.75, 1, 1, 1]

    def draw(d: Any, m: Any) -> None:
        m.add_rational_spline([(10 * x, 10 * y) for x, y in points], [1, w, 1, w, 1, w, 1, w, 1], 2, knots)

    assert sum(areas(read(draw)).values()) == pytest.approx(100 * math.pi, rel=1e-3)


def test_a_hatch_keeps_its_hole_and_a_block_its_scale_and_turn() -> None:
    def hatch(d: Any, m: Any) -> None:
        h = m.add_hatch(color=1)
        h.paths.add_polyline_path([(0, 0), (10, 0), (10, 10), (0, 10)], is_closed=True)
        h.paths.add_polyline_path([(2, 2), (6, 2), (6, 6), (2, 6)], is_closed=True, flags=16)

    assert areas(read(hatch)) == {"#ff0000": pytest.approx(84)}

    def blocks(d: Any, m: Any) -> None:
        block = d.blocks.new("star")
        block.add_lwpolyline([(0, 0), (2, 0), (2, 1), (0, 1)], close=True)
        m.add_blockref("star", (100, 0), dxfattribs={"xscale": 3, "yscale": 2, "rotation": 90})
        m.add_blockref("star", (0, 0))

    art = read(blocks)
    assert sum(areas(art).values()) == pytest.approx(2 + 12)
    assert art.bounds == pytest.approx((0, 0, 100, 6))


@pytest.mark.parametrize(("insunits", "mm"), [(1, 25.4), (4, 1), (5, 10), (6, 1000), (0, 1)])
def test_units_are_read(insunits: int, mm: float) -> None:
    """$INSUNITS (DXF reference): 1 inches, 4 mm, 5 cm, 6 m; 0 says nothing, and that is said."""
    art = read(lambda d, m: m.add_circle((0, 0), 1), insunits)
    assert art.bounds[2] - art.bounds[0] == pytest.approx(2 * mm, rel=1e-2)
    assert [n.code for n in art.notes] == ([] if insunits else ["artwork.size"]) and art.sized == bool(insunits)


def test_colours_are_the_entitys_or_its_layers_and_hidden_layers_are_not_drawn() -> None:
    def draw(d: Any, m: Any) -> None:
        d.layers.add("gold", color=2)
        d.layers.add("true", true_color=0x1C3D7A)
        d.layers.add("off", color=3).off()
        d.layers.add("ice", color=4).freeze()
        for x, layer, own in ((0, "gold", {}), (20, "true", {}), (40, "gold", {"color": 5}), (60, "0", {})):
            m.add_circle((x, 0), 3, dxfattribs={"layer": layer, **own})
        m.add_circle((80, 0), 3, dxfattribs={"layer": "gold", "true_color": 0xB98A2F})
        for layer in ("off", "ice"):
            m.add_circle((100, 0), 3, dxfattribs={"layer": layer})

    found = areas(read(draw))
    assert set(found) == {"#ffff00", "#1c3d7a", "#0000ff", "#000000", "#b98a2f"}


@pytest.mark.parametrize(("gap", "closes"), [(0.9 * MEET_MM, True), (1.2 * MEET_MM, False)])
def test_ends_that_nearly_meet_are_joined_within_what_is_stated(gap: float, closes: bool) -> None:
    def draw(d: Any, m: Any) -> None:
        m.add_circle((50, 50), 2)
        m.add_line((0, 0), (10, 0))
        m.add_line((10 + gap, 0), (10, 10))
        m.add_lwpolyline([(10, 10), (0, 10), (0, 0)])

    art = read(draw)
    assert sum(areas(art).values()) == pytest.approx(4 * math.pi + (100 if closes else 0), abs=0.6)
    assert [n.code for n in art.notes] == ([] if closes else ["artwork.open"])
    assert closes or art.notes[0].what == "3 lines"


def test_pieces_are_called_after_their_lines_however_finely_they_are_cut() -> None:
    def draw(d: Any, m: Any) -> None:
        m.add_circle((0, 0), 5)
        m.add_circle((20, 0), 3)
        m.add_circle((0, 0), 2)

    rough, fine = (read_drawing(written(draw), t) for t in (0.1, 0.001))
    assert sorted(p.name for p in rough.paints) == sorted(p.name for p in fine.paints) == ["1", "2"]


def test_words_are_set_and_bodies_are_named() -> None:
    def draw(d: Any, m: Any) -> None:
        m.add_text("ORBIT 7", height=8, dxfattribs={"insert": (10, 20), "rotation": 90, "color": 1})
        m.add_3dface([(0, 0), (1, 0), (1, 1), (0, 1)])

    art = read(draw)
    assert {n.code for n in art.notes} == {"artwork.text", "artwork.solid"}
    left, low, right, _ = art.bounds
    # Turned to stand upright: capitals rise to the left of where it begins.
    assert (right, right - left, low) == pytest.approx((10, 8, 20), abs=0.4)
    assert set(areas(art)) == {"#ff0000"}


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"0\nSECTION\n2\nENTITIES\n", "not a DXF|No line"),
        (b"0\nnonsense", "not a DXF|No line"),
        (written(lambda d, m: m.add_line((0, 0), (5, 5))), "No line"),
        (written(lambda d, m: m.add_3dface([(0, 0), (1, 0), (1, 1), (0, 1)])), "No line"),
        (written(lambda d, m: m.add_circle((0, 0), 1e14)), "too far"),
        (written(lambda d, m: [m.add_circle((x, 0), 1) for x in range(20_001)]), "20,000"),
    ],
)
def test_what_cannot_be_read_is_refused_in_words(data: bytes, said: str) -> None:
    with pytest.raises(BadDrawing, match=said) as refused:
        read_drawing(data)
    assert refused.value.hint


def test_a_block_of_blocks_of_blocks_is_refused_before_it_grows() -> None:
    def draw(d: Any, m: Any) -> None:
        d.blocks.new("0deep").add_circle((0, 0), 1)
        for n in range(1, 8):
            block = d.blocks.new(f"{n}deep")
            for x in range(10):
                block.add_blockref(f"{n - 1}deep", (x, 0))
        m.add_blockref("7deep", (0, 0))

    with pytest.raises(BadDrawing, match="20,000"):
        read(draw)


def test_a_dxf_is_told_by_its_content_and_kept_as_it_came() -> None:
    data = written(lambda d, m: m.add_circle((0, 0), 5))
    assert clean_drawing(data) == data
    assert np.isfinite(read_drawing(b"\xef\xbb\xbf" + data).bounds).all()
