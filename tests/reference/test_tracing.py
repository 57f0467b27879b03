"""Tracing: pictures of shapes of known form, rendered with fine sampling (Pillow), traced and measured against the form
itself: area and Hausdorff distance, in pixels."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
import shapely
from PIL import Image, ImageDraw
from samples import cup
from wimple_core.artwork import Tracing, read_drawing, separate
from wimple_core.artwork.tracing import MM_PER_PIXEL, clean_picture, is_picture, trace
from wimple_core.errors import BadDrawing
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole

RED, GOLD, BLUE, PAPER = "#b3261e", "#d8a21b", "#1c3d7a", "#ffffff"
FINE = 8
Shapes = list[tuple[shapely.Polygon, str]]


def rendered(shapes: Shapes, w: int = 400, h: int = 300, ground: str | None = PAPER) -> Image.Image:
    """Shapes (pixels, y down), each pixel the mean of 64: as a picture shows them."""
    image = Image.new("RGBA", (w * FINE, h * FINE), ground or (0, 0, 0, 0))
    draw = ImageDraw.Draw(image)
    for shape, colour in shapes:
        # Pillow paints a pixel whose middle lies inside; its own middles are whole numbers.
        draw.polygon([(x * FINE - 0.5, y * FINE - 0.5) for x, y in shape.exterior.coords], fill=colour)
    if ground is None:
        solid = np.asarray(image).reshape(h, FINE, w, FINE, 4).astype(float)
        alpha = solid[..., 3:].sum(axis=(1, 3))
        rgb = (solid[..., :3] * solid[..., 3:]).sum(axis=(1, 3)) / np.maximum(alpha, 1)
        return Image.fromarray(np.concatenate([rgb, alpha / FINE**2], axis=2).round().astype(np.uint8))
    return image.resize((w, h), Image.Resampling.BOX)


def packed(image: Image.Image, kind: str = "PNG", **more: Any) -> bytes:
    out = io.BytesIO()
    (image.convert("RGB") if kind == "JPEG" else image).save(out, kind, **more)
    return out.getvalue()


def traced(data: bytes, **how: Any) -> dict[str, Any]:
    """Regions by colour, in pixels, y down."""
    art = trace(data, Tracing(**how))
    mm = art.width / Image.open(io.BytesIO(data)).size[0]
    h = art.height

    def back(p: np.ndarray) -> np.ndarray:
        return np.column_stack([p[:, 0], h - p[:, 1]]) / mm

    return {c.colour: shapely.transform(c.seen, back) for c in separate(art.paints, art.tolerance)}


def disc(x: float, y: float, r: float) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(r, quad_segs=200)


def star(x: float, y: float, r: float) -> shapely.Polygon:
    a = np.linspace(0, 2 * math.pi, 11)[:-1]
    at = np.where(np.arange(10) % 2, 0.45 * r, r)
    return shapely.Polygon(np.column_stack([x + at * np.sin(a), y - at * np.cos(a)]))


FORMS: dict[str, Callable[[], shapely.Polygon]] = {
    "disc": lambda: disc(150.3, 120.7, 80.25),
    "square": lambda: shapely.box(60.4, 50.7, 200.2, 210.9),
    "star": lambda: star(180, 150, 110),
    "thin": lambda: shapely.LineString([(40, 40), (350, 250)]).buffer(3.2, cap_style="flat"),
}


@pytest.mark.parametrize("form", list(FORMS))
def test_a_shape_is_found_to_a_fraction_of_a_pixel(form: str) -> None:
    shape = FORMS[form]()
    found = traced(packed(rendered([(shape, RED)])), colours=2)
    assert set(found) == {RED, PAPER}
    got = found[RED]
    assert got.area == pytest.approx(shape.area, rel=0.01)
    # Along smooth edges a quarter of a pixel; a sharp tip is cut by one or so.
    away = shapely.hausdorff_distance(got.boundary, shape.boundary, densify=0.002)
    assert away < (0.25 if form == "disc" else 1.5)
    assert got.symmetric_difference(shape).area < 0.12 * shape.length
    assert found[PAPER].area == pytest.approx(400 * 300 - shape.area, rel=0.01)


def test_colours_that_touch_share_their_edge() -> None:
    shapes = [(disc(200, 150, 120), RED), (disc(200, 150, 60), GOLD), (shapely.box(20, 20, 60, 280), BLUE)]
    found = traced(packed(rendered(shapes)), colours=4)
    assert set(found) == {RED, GOLD, BLUE, PAPER}
    assert sum(g.area for g in found.values()) == pytest.approx(400 * 300, rel=1e-4)
    assert found[GOLD].area == pytest.approx(math.pi * 3600, rel=0.005)
    assert found[RED].area == pytest.approx(math.pi * (14400 - 3600), rel=0.005)
    assert len(shapely.get_parts(found[RED])) == 1  # no rim of a third colour along its edges


def test_the_same_from_a_jpeg_a_webp_and_a_clear_ground() -> None:
    shapes = [(disc(200, 150, 100), BLUE)]
    for kind, more in (("JPEG", {"quality": 88}), ("WEBP", {"quality": 90})):
        found = traced(packed(rendered(shapes), kind, **more), colours=2)
        (blue,) = [g for c, g in found.items() if c[1:3] < "60"]
        assert blue.area == pytest.approx(math.pi * 1e4, rel=0.01)
    clear = traced(packed(rendered(shapes, ground=None)), colours=3)
    assert set(clear) == {BLUE} and clear[BLUE].area == pytest.approx(math.pi * 1e4, rel=0.005)


def test_into_films_of_ones_own() -> None:
    shapes = [(disc(100, 150, 60), "#c22a22"), (disc(300, 150, 60), "#20447f")]
    found = traced(packed(rendered(shapes)), palette=(PAPER, RED, BLUE))
    assert set(found) == {PAPER, RED, BLUE} and found[RED].area == pytest.approx(math.pi * 3600, rel=0.01)


def test_specks_are_dropped_and_pinholes_closed() -> None:
    shapes: Shapes = [
        (disc(200, 150, 100), RED),
        (shapely.box(30, 30, 33, 33), RED),
        (shapely.box(200, 150, 203, 153), PAPER),
    ]
    for speckle, parts, holes in ((1, 2, 1), (6, 1, 0)):
        got = shapely.get_parts(traced(packed(rendered(shapes)), colours=2, speckle_px=speckle)[RED])
        assert len(got) == parts and sum(len(g.interiors) for g in got) == holes


def test_its_size_is_what_its_file_says() -> None:
    image = rendered([(disc(200, 150, 100), RED)])
    assert trace(packed(image, dpi=(300, 300))).width == pytest.approx(400 / 300 * 25.4, rel=1e-4)
    assert trace(packed(image)).width == pytest.approx(400 * MM_PER_PIXEL)


def test_what_is_kept_says_nothing_of_its_maker() -> None:
    from PIL.Image import Exif

    exif = Exif()
    exif[0x010F], exif[0x0112] = "Some camera", 6  # turned a quarter
    data = packed(rendered([(disc(200, 150, 100), RED)]), "JPEG", exif=exif)
    clean = clean_picture(data)
    assert is_picture(clean) and b"camera" not in clean and Image.open(io.BytesIO(clean)).size == (300, 400)


def test_pictures_of_all_sorts() -> None:
    grey = rendered([(disc(200, 150, 100), RED)]).convert("L")
    deep = Image.fromarray((np.asarray(grey, dtype=np.uint32) * 257).astype(np.uint16))
    for odd in (
        grey,
        deep,
        grey.point([0] * 128 + [255] * 128).convert("1"),
        rendered([(disc(200, 150, 100), RED)]).convert("P"),
    ):
        art = read_drawing(packed(odd))
        assert len({p.colour for p in art.paints}) >= 2
    moving = io.BytesIO()
    grey.save(moving, "WEBP", save_all=True, append_images=[grey.rotate(90)], duration=50)
    assert any("first frame" in n.reason for n in trace(moving.getvalue()).notes)
    plain = trace(packed(Image.new("RGB", (50, 40), RED)))
    assert [p.colour for p in plain.paints] == [RED]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (packed(Image.new("RGBA", (60, 60), (9, 9, 9, 0))), "clear all over"),
        (packed(rendered([]))[:200], "cut short"),
        (b"\x89PNG\r\n\x1a\n" + b"x" * 40, "not a picture|cut short"),
        (b"RIFF\x00\x00\x00\x00WEBPVP8 ", "not a picture|cut short"),
    ],
)
def test_what_is_no_picture_is_said(data: bytes, words: str) -> None:
    with pytest.raises(BadDrawing, match=words) as bad:
        trace(data)
    assert bad.value.hint


def test_a_picture_goes_down_the_whole_street() -> None:
    data = packed(rendered([(disc(200, 150, 100), RED), (star(200, 150, 60), GOLD)]))
    one = {"source": {"kind": "file", "file": "badge.png", "colours": 3}, "placements": [{"width_mm": 40, "up_mm": 45}]}
    b = build_whole(load_job({**cup(), "elements": [one]}), {"badge.png": data})
    assert b.layers is not None and {la.colour for la in b.layers.layers} == {PAPER, RED, GOLD}
    (said,) = [v for v in b.verdicts if v.code == "artwork.traced"]
    assert said.level == "ok" and "3 colours" in said.sentence()
