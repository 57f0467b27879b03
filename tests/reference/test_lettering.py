"""Lettering against the fonts' own tables, Pillow's text with Raqm and FreeType, and lengths of curves."""

from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np
import pytest
import resvg_py
import shapely
from bidi import get_display
from fontTools.ttLib import TTFont
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFont, features
from scipy.integrate import quad
from wimple_core.artwork import separate, set_words, shipped_face
from wimple_core.artwork.lettering import fonts, open_face
from wimple_core.artwork.lettering.directions import visual_order
from wimple_core.artwork.lettering.setting import place_on
from wimple_core.artwork.lettering.shaping import shape
from wimple_core.errors import BadDrawing
from wimple_core.job.lettering import SHIPPED_FONTS, Baseline, Kern, LetterChange, Lettering

LATIN = [f for f in SHIPPED_FONTS if f != "amiri"]


def plain_font(font: str) -> tuple[TTFont, bytes]:
    """The first file of a font as other programs read it."""
    tables = TTFont(sorted(fonts.FOLDER.glob(f"{font}.*.woff2"))[0])
    tables.flavor = None
    out = io.BytesIO()
    tables.save(out)
    return tables, out.getvalue()


def box(words: Lettering) -> tuple[float, float, float, float]:
    return set_words(words, shipped_face(words.font)).bounds


def test_fonts_of_different_character_are_shipped_with_their_licences() -> None:
    assert len(SHIPPED_FONTS) >= 10 and len({f.character for f in SHIPPED_FONTS.values()}) == len(SHIPPED_FONTS)
    for font in SHIPPED_FONTS:
        licence = (Path(fonts.FOLDER) / f"{font}.LICENSE").read_text(encoding="utf-8")
        assert "SIL Open Font License" in licence or "SIL OPEN FONT LICENSE" in licence, font
        assert shipped_face(font).may_be_embedded


@pytest.mark.parametrize("font", LATIN)
def test_advances_are_those_of_the_fonts_own_table(font: str) -> None:
    """hmtx of each glyph, where no feature changes anything."""
    tables, _ = plain_font(font)
    cmap, advances = tables.getBestCmap(), tables["hmtx"]
    text = "Hill 27 Decals"
    off = {f: False for f in ("kern", "liga", "calt", "ccmp", "locl", "rlig", "clig", "init", "fina", "curs")}
    line = shape(text, shipped_face(font), off)
    assert line.advance == pytest.approx(sum(advances[cmap[ord(c)]][0] for c in text))
    assert [g.advance for g in line.glyphs] == [advances[cmap[ord(c)]][0] for c in text]


@pytest.mark.skipif(not features.check("raqm"), reason="this Pillow has no Raqm")
@pytest.mark.parametrize("font", LATIN)
@pytest.mark.parametrize("text", ["AVATAR To Yes", "office flight fjord", "Perihelion 1845"])
def test_lines_are_as_long_as_pillow_with_raqm_sets_them(font: str, text: str) -> None:
    tables, data = plain_font(font)
    upem = tables["head"].unitsPerEm
    theirs = ImageFont.truetype(io.BytesIO(data), upem, layout_engine=ImageFont.Layout.RAQM).getlength(text)
    ours = shape(text, shipped_face(font)).advance
    assert ours == pytest.approx(theirs, abs=0.6 * len(text))  # Pillow rounds each advance to a pixel


@pytest.mark.skipif(not features.check("raqm"), reason="this Pillow has no Raqm")
@pytest.mark.parametrize("font", ["pacifico", "eb-garamond", "saira-stencil-one", "bebas-neue"])
def test_a_line_looks_as_pillow_draws_it(font: str) -> None:
    """99 of 100 pixels, drawn by FreeType there and by resvg from our outlines here."""
    text, px = "Fernhallow flight 27", 160
    tables, data = plain_font(font)
    theirs = ImageFont.truetype(io.BytesIO(data), px, layout_engine=ImageFont.Layout.RAQM)
    face = shipped_face(font)
    art = set_words(Lettering(text=text, font=font, size_mm=px * face.cap_height / face.upem, align="left"), face, 0.02)
    left, low, right, high = art.bounds
    wide, tall = math.ceil(right - left) + 80, math.ceil(high - low) + 80
    image = Image.new("L", (wide, tall), 255)
    ImageDraw.Draw(image).text((40, 40 + round(high)), text, font=theirs, fill=0, anchor="ls")
    there = inked(image)
    drawn = "".join(
        "M" + "L".join(f"{x - left + there[0]:.3f} {high - y + there[1]:.3f}" for x, y in ring.coords) + "Z"
        for c in separate(art.paints)
        for part in shapely.get_parts(c.seen)
        for ring in (part.exterior, *part.interiors)
    )
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{tall}">'
        f'<rect width="{wide}" height="{tall}" fill="#fff"/><path d="{drawn}" fill-rule="evenodd"/></svg>'
    )
    ours = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg)))).convert("L")
    apart = np.abs(np.asarray(image, dtype=int) - np.asarray(ours, dtype=int))
    assert (apart > 128).mean() < 0.01
    assert (np.asarray(ours) < 128).mean() > 0.05


def inked(image: Image.Image) -> tuple[float, float]:
    """The left and upper edge of what is drawn, to parts of a pixel by how dark the edge's own pixels are."""
    dark = 1 - np.asarray(image, dtype=float) / 255
    edges = []
    for most in (dark.max(axis=0), dark.max(axis=1)):
        first = int(np.argmax(most > 0.02))
        edges.append(first + 1 - min(float(most[first]), 1.0))
    return edges[0], edges[1]


@pytest.mark.parametrize("font", list(SHIPPED_FONTS))
def test_sizes_are_measured_on_what_is_drawn(font: str) -> None:
    _, low, _, high = box(Lettering(text="H", font=font, size_mm=20))
    assert high == pytest.approx(20, abs=0.03)
    _, _, _, high = box(Lettering(text="x", font=font, size_mm=20, sized="small"))
    assert high == pytest.approx(20, abs=0.03)
    left, _, right, _ = box(Lettering(text="Wide\nand wider", font=font, size_mm=90, sized="width"))
    assert right - left == pytest.approx(90, abs=0.03)


def test_spacing_is_in_thousandths_of_the_font_and_not_behind_the_last_letter() -> None:
    face = shipped_face("fredoka")
    bare, wide = shape("ABCD", face), shape("ABCD", face, tracking=100)
    assert wide.advance - bare.advance == pytest.approx(3 * 0.1 * face.upem)
    kerned = shape("ABCD", face, kerning={1: 50})
    moved = [b.x - a.x for a, b in zip(bare.glyphs, kerned.glyphs, strict=True)]
    assert moved == pytest.approx([0, 0, 0.05 * face.upem, 0.05 * face.upem])
    words = Lettering(text="ABCD", font="fredoka", kerns=(Kern(line=0, letter=1, by=50),))
    mm = 12 / face.cap_height * 0.05 * face.upem
    left, _, right, _ = box(words)
    plain = box(words.model_copy(update={"kerns": ()}))
    assert (right - left) - (plain[2] - plain[0]) == pytest.approx(mm, abs=1e-6)


def test_ligatures_are_one_letter_and_can_be_had_without() -> None:
    face = shipped_face("eb-garamond")
    assert len(shape("office", face).glyphs) < 6 == len(shape("office", face, {"liga": False}).glyphs)


@pytest.mark.parametrize("kind", ["over", "under"])
def test_letters_round_a_ring_are_as_far_apart_as_on_a_straight_line(kind: str) -> None:
    """Exact arc lengths: the angle between two letters' middles, times the radius, is their distance on the line."""
    place, radius = place_on(Baseline(kind=kind, radius_mm=30), 10), 30.0
    out = 1 if kind == "over" else -1
    for a, b in ((-40.0, -12.5), (0.0, 1.0), (3.0, 44.0)):
        (x0, y0, t0), (x1, y1, t1) = place(a, 0), place(b, 0)
        centre = (0.0, -out * radius)
        angles = [math.atan2(x - centre[0], out * (y - centre[1])) for x, y in ((x0, y0), (x1, y1))]
        assert (angles[1] - angles[0]) * radius == pytest.approx(b - a)
        assert math.hypot(x1, y1 - centre[1]) == pytest.approx(radius)
        # Letters stand upright on the circle: their turn is that of its tangent.
        assert [t0, t1] == pytest.approx([-out * t for t in angles])
    far = place(10.0, 1)
    assert math.hypot(far[0], far[1] + out * radius) == pytest.approx(radius - out * 10)


def test_letters_on_a_wave_are_as_far_along_it_as_on_a_straight_line() -> None:
    """Length of a sine against quadrature."""
    place = place_on(Baseline(kind="wave", height_mm=9, length_mm=47), 10)
    wave = 2 * math.pi / 47
    for along in (-130.0, -3.0, 0.0, 20.0, 71.0):
        x, y, turn = place(along, 0)
        length, _ = quad(lambda t: math.hypot(1, 4.5 * wave * math.cos(wave * t)), 0, x)
        assert length == pytest.approx(along, abs=0.002)
        assert (y, math.tan(turn)) == pytest.approx((4.5 * math.sin(wave * x), 4.5 * wave * math.cos(wave * x)))


def test_words_longer_than_a_wave_is_followed_are_refused_and_large_ones_cost_no_more() -> None:
    wave = Baseline(kind="wave")
    with pytest.raises(BadDrawing, match="4 m"):
        set_words(Lettering(text="far too long", size_mm=2000, baseline=wave), shipped_face("barlow-condensed"))
    corners = [
        sum(shapely.get_num_coordinates(p.region) for p in set_words(w, shipped_face("pacifico")).paints)
        for w in (Lettering(text="Large", font="pacifico", size_mm=s) for s in (500, 50_000))
    ]
    assert corners[1] <= 1.05 * corners[0]


def test_script_cuts_as_one_with_its_counters() -> None:
    """The whole is the union of its letters, by the geometry library: no counter lost, none made."""
    words = Lettering(text="hello", font="pacifico", size_mm=20)
    art = set_words(words, shipped_face("pacifico"))
    (colour,) = separate(art.paints)
    whole = shapely.union_all([p.region for p in art.paints])
    assert shapely.area(shapely.symmetric_difference(colour.seen, whole)) < 1e-3
    parts = shapely.get_parts(colour.seen)
    assert len(parts) < 5 and sum(shapely.get_num_interior_rings(parts)) == sum(
        shapely.get_num_interior_rings(shapely.get_parts(whole))
    )


def test_fitted_lines_are_all_as_wide_as_the_widest() -> None:
    art = set_words(Lettering(text="OPEN\nNIGHT SKY", font="bebas-neue", lines="fitted"), shipped_face("bebas-neue"))
    rows = [shapely.total_bounds([p.region for p in art.paints if p.name[0] == n]) for n in "12"]
    assert rows[0][2] - rows[0][0] == pytest.approx(rows[1][2] - rows[1][0], abs=0.03)
    assert rows[0][0] == pytest.approx(rows[1][0], abs=0.03)
    free = set_words(Lettering(text="OPEN\nNIGHT SKY", font="bebas-neue", align="right"), shipped_face("bebas-neue"))
    rows = [shapely.total_bounds([p.region for p in free.paints if p.name[0] == n]) for n in "12"]
    assert rows[0][2] == pytest.approx(rows[1][2], abs=0.03)  # even at what is seen
    assert rows[0][3] - rows[1][3] == pytest.approx(1.6 * 12, abs=0.3)


def test_letters_keep_their_names_in_another_size_and_font() -> None:
    names = [
        [p.name for p in set_words(Lettering(text="Ab c\nd", font=f, size_mm=s), shipped_face(f)).paints]
        for f, s in (("caveat", 5), ("zilla-slab", 50))
    ]
    assert names[0] == names[1] == ["1-1", "1-2", "1-4", "2-1"]


def test_one_letter_is_moved_turned_and_coloured_by_itself() -> None:
    plain = set_words(Lettering(text="HI", font="heebo"), shipped_face("heebo"))
    change = LetterChange(line=0, letter=1, across_mm=3, up_mm=-2, turn_deg=180, colour="#b3261e")
    moved = set_words(Lettering(text="HI", font="heebo", letters=(change,)), shipped_face("heebo"))
    assert moved.paints[0].region.equals(plain.paints[0].region) and moved.paints[1].colour == "#b3261e"
    # By half a turn about the middle of a capital an I comes to lie on itself.
    x, y = (np.array(moved.paints[1].region.centroid.coords) - np.array(plain.paints[1].region.centroid.coords))[0]
    assert (x, y) == pytest.approx((3, -2), abs=0.05)


def test_right_to_left_runs_right_to_left_and_letters_join() -> None:
    hebrew = set_words(Lettering(text="אב", font="heebo"), shipped_face("heebo"))
    first, second = (p.region.centroid.x for p in sorted(hebrew.paints, key=lambda p: p.name))
    assert first > second
    line = shape("بب", shipped_face("amiri"))
    alone = shape("ب", shipped_face("amiri"))
    assert {g.number for g in line.glyphs}.isdisjoint({g.number for g in alone.glyphs})


LETTERS = "ab\u05d0\u05d1\u0628\u0661 12.,-+()[]\u200d"


@given(st.text(LETTERS, max_size=14))
@settings(max_examples=400)
def test_lines_of_both_directions_are_ordered_as_another_program_orders_them(text: str) -> None:
    """By the Unicode algorithm as the Rust project unicode-bidi has it, which python-bidi binds."""
    assert "".join(text[i] for i, _ in visual_order(text)) == get_display(text)


@given(st.text("a\u05d0 1(\u2067\u2069\u202e\u202c\u202b\u0301", max_size=12))
@settings(max_examples=200)
def test_signs_of_direction_lose_no_letter(text: str) -> None:
    order = [i for i, _ in visual_order(text)]
    assert len(set(order)) == len(order)
    assert {i for i, c in enumerate(text) if c in "a\u05d0 1("} <= set(order)


def test_words_within_words_run_their_own_way() -> None:
    """From left to right: the name, the bracket, and within it letters from right to left with a number that is not."""
    face = shipped_face("heebo")

    def order(text: str) -> str:
        line = shape(text, face)
        return "".join(text[g.first] for g in sorted(line.glyphs, key=lambda g: g.x) if text[g.first] != " ")

    assert order("Noa (\u05d0\u05d1 12) x") == "Noa(12\u05d1\u05d0)x"
    assert order("\u05d0\u05d1 Noa 12") == "Noa12\u05d1\u05d0"
    both = shape("Noa \u05d0\u05d1", face)
    assert both.advance == pytest.approx(shape("Noa ", face).advance + shape("\u05d0\u05d1", face).advance)


def test_marks_stay_with_their_letter() -> None:
    words = Lettering(text="e\u0301 \u00e9", font="barlow-condensed")
    art = set_words(words, shipped_face("barlow-condensed"))
    areas = {p.name: p.region.area for p in art.paints}
    assert set(areas) == {"1-1", "1-4"} and areas["1-1"] == pytest.approx(areas["1-4"], rel=0.02)


def test_letters_a_font_lacks_are_named() -> None:
    art = set_words(Lettering(text="Open 星 ☄", font="bebas-neue"), shipped_face("bebas-neue"))
    (note,) = art.notes
    assert note.level == "stop" and "星" in note.what and "☄" in note.what and "Bebas Neue" in note.reason
    with pytest.raises(BadDrawing, match="星"):
        set_words(Lettering(text="星", font="caveat"), shipped_face("caveat"))


def test_what_is_no_font_is_refused() -> None:
    _, data = plain_font("caveat")
    assert open_face("mine", data).name == "mine"
    bitmaps = TTFont(io.BytesIO(data))
    for table in ("glyf", "loca"):
        del bitmaps[table]
    out = io.BytesIO()
    bitmaps.save(out)
    for bad, said in (
        (b"", "not a font"),
        (data[:500], "not a font"),
        (b"ttcf" + data[4:], "collection"),
        (b"\0\1\0\0" + bytes(400), "not a font"),
        (out.getvalue(), "no outlines"),
        (bytes(fonts.MOST_FONT_BYTES + 1), "MB"),
    ):
        with pytest.raises(BadDrawing, match=said):
            open_face("mine", bad)
    with pytest.raises(BadDrawing, match="no font"):
        shipped_face("teapot")
