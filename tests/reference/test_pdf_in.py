"""PDF in, made by ReportLab (an independent writer) of shapes whose areas are known."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Callable

import numpy as np
import pypdfium2
import pytest
import resvg_py
from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from wimple_core.artwork import read_drawing, separate, take_in_drawing
from wimple_core.artwork.pdf import MM_PER_POINT, pdf_as_svg
from wimple_core.errors import BadDrawing

SQUARE = MM_PER_POINT**2


def pdf(draw: Callable[[Canvas], None], **more: object) -> bytes:
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300), **more)  # type: ignore[arg-type]
    draw(canvas)
    canvas.save()
    return out.getvalue()


def areas(data: bytes) -> dict[str, float]:
    """Area of each colour, square points."""
    art = read_drawing(data, 0.002)
    return {c.colour: c.seen.area / SQUARE for c in separate(art.paints, art.tolerance)}


def shapes(c: Canvas) -> None:
    c.setFillColorRGB(0.7, 0.15, 0.12)
    c.rect(20, 30, 100, 60, stroke=0, fill=1)
    c.setFillColorRGB(0.11, 0.24, 0.48)
    c.circle(250, 150, 50, stroke=0, fill=1)
    c.setStrokeColorRGB(0, 0.5, 0)
    c.setLineWidth(6)
    c.setLineCap(1)
    c.line(30, 250, 330, 250)
    c.saveState()
    c.translate(300, 40)
    c.rotate(30)
    c.scale(2, 1)
    c.setFillColorRGB(0.85, 0.64, 0.11)
    c.rect(0, 0, 20, 20, stroke=0, fill=1)
    c.restoreState()


def test_filled_stroked_and_placed_paths() -> None:
    found = areas(pdf(shapes))
    assert found["#b3261f"] == pytest.approx(6000, rel=1e-3)
    assert found["#1c3d7a"] == pytest.approx(math.pi * 2500, rel=1e-3)
    assert found["#008000"] == pytest.approx(300 * 6 + math.pi * 9, rel=2e-3)
    assert found["#d9a31c"] == pytest.approx(800, rel=1e-3)
    art = read_drawing(pdf(shapes))
    assert (art.width, art.height) == pytest.approx((400 * MM_PER_POINT, 300 * MM_PER_POINT), rel=1e-4) and art.sized
    left, low, _, _ = art.bounds
    # y up, as on the page: the rectangle's corner, and the lowest there is.
    assert (left, low) == pytest.approx((20 * MM_PER_POINT, 30 * MM_PER_POINT), abs=0.01)


def test_fill_rules_and_clips() -> None:
    def draw(c: Canvas) -> None:
        path = c.beginPath()
        path.rect(20, 20, 100, 100)
        path.rect(40, 40, 60, 60)
        c.setFillColorRGB(0, 0, 0)
        c.drawPath(path, stroke=0, fill=1, fillMode=0)
        c.saveState()
        clip = c.beginPath()
        clip.circle(250, 100, 40)
        c.clipPath(clip, stroke=0)
        c.setFillColorRGB(1, 0, 0)
        c.rect(250, 20, 100, 200, stroke=0, fill=1)
        c.restoreState()

    found = areas(pdf(draw))
    assert found["#000000"] == pytest.approx(100 * 100 - 60 * 60, rel=1e-3)
    assert found["#ff0000"] == pytest.approx(math.pi * 1600 / 2, rel=2e-3)


def test_clips_within_clips_and_in_forms_all_cut() -> None:
    """Two squares and a placed form's own: what is left is what all of them have."""

    def clipped(c: Canvas, *box: float) -> None:
        path = c.beginPath()
        path.rect(*box)
        c.clipPath(path, stroke=0)

    def draw(c: Canvas) -> None:
        c.beginForm("cut")
        clipped(c, 5, 5, 30, 30)
        c.setFillColorRGB(0, 0, 1)
        c.circle(5, 5, 20, stroke=0, fill=1)
        c.endForm()
        c.saveState()
        clipped(c, 20, 20, 100, 100)
        clipped(c, 80, 80, 100, 100)
        c.setFillColorRGB(1, 0, 0)
        c.rect(0, 0, 300, 300, stroke=0, fill=1)
        c.restoreState()
        c.translate(200, 100)
        c.scale(2, 2)
        c.doForm("cut")

    found = areas(pdf(draw))
    assert found["#ff0000"] == pytest.approx(40 * 40, rel=1e-3)
    assert found["#0000ff"] == pytest.approx(4 * math.pi * 400 / 4, rel=2e-3)


def test_forms_are_placed_each_time() -> None:
    def draw(c: Canvas) -> None:
        c.beginForm("star")
        c.setFillColorRGB(0, 0, 1)
        c.rect(0, 0, 10, 10, stroke=0, fill=1)
        c.endForm()
        for n in range(3):
            c.saveState()
            c.translate(30 + 60 * n, 50)
            c.scale(1 + n, 1 + n)
            c.doForm("star")
            c.restoreState()

    assert areas(pdf(draw))["#0000ff"] == pytest.approx(100 * (1 + 4 + 9), rel=1e-3)


def test_a_form_in_a_form_is_placed_by_both() -> None:
    """Moved by 10 inside, then grown twice and moved by 100 outside: at 100 + 2 * 10, and four times as large."""

    def draw(c: Canvas) -> None:
        c.beginForm("inner")
        c.setFillColorRGB(0, 0, 1)
        c.rect(0, 0, 10, 10, stroke=0, fill=1)
        c.endForm()
        c.beginForm("outer")
        c.translate(10, 0)
        c.doForm("inner")
        c.endForm()
        c.translate(100, 50)
        c.scale(2, 2)
        c.doForm("outer")

    data = pdf(draw)
    assert areas(data)["#0000ff"] == pytest.approx(400, rel=1e-3)
    left, low, right, _ = (v / MM_PER_POINT for v in read_drawing(data).bounds)
    assert (left, low, right) == pytest.approx((120, 50, 140), abs=0.01)


def test_what_is_no_path_is_said() -> None:
    def draw(c: Canvas) -> None:
        shapes(c)
        c.drawString(100, 200, "Words in a font")
        c.drawImage(ImageReader(Image.new("RGB", (8, 8), "red")), 10, 10, 30, 30)
        c.showPage()
        c.drawString(10, 10, "another page")

    notes = {f"{n.what}: {n.reason}" for n in read_drawing(pdf(draw)).notes}
    assert any(n.startswith("2 pages") for n in notes) and any(n.startswith("1 picture: ") for n in notes)
    assert any("words" in n and "outlines" in n for n in notes)


def picture(c: Canvas) -> None:
    c.drawImage(ImageReader(Image.new("RGB", (8, 8), "red")), 10, 10, 30, 30)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (lambda: pdf(shapes, encrypt="secret"), "password"),
        (lambda: pdf(picture), "only 1 × picture"),
        (lambda: pdf(lambda c: c.showPage()), "no paths"),
        (lambda: pdf(shapes)[:300], "damaged|no p"),
        (lambda: b"%PDF-1.7\n" + b"x" * 200, "damaged"),
    ],
)
def test_pdfs_that_cannot_be_read(data: Callable[[], bytes], words: str) -> None:
    with pytest.raises(BadDrawing, match=words) as bad:
        read_drawing(data())
    assert bad.value.hint


def test_taken_in_it_is_what_it_was() -> None:
    data = pdf(shapes)
    kept, art = take_in_drawing(data, 0.1)
    assert kept and len(art.paints) == 4 and pdf_as_svg(data)[0].startswith(b"<svg")


def a_page(more: str, box: str = "[10 20 236.77 133.39]") -> bytes:
    """One page, written by hand: a bar low at the left, a small square above it."""
    drawn = b"0 0 1 rg 20 30 100 20 re f 30 70 10 10 re f"
    objects = [
        b"<</Type/Catalog/Pages 2 0 R>>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        f"<</Type/Page/Parent 2 0 R/MediaBox{box}{more}/Contents 4 0 R/Resources<<>>>>".encode(),
        b"<</Length %d>>stream\n%s\nendstream" % (len(drawn), drawn),
    ]
    out, at = b"%PDF-1.7\n", []
    for n, what in enumerate(objects, start=1):
        at.append(len(out))
        out += b"%d 0 obj%s endobj\n" % (n, what)
    table = b"".join(b"%010d 00000 n \n" % n for n in at)
    tail = b"trailer<</Size 5/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % len(out)
    return out + b"xref\n0 5\n0000000000 65535 f \n" + table + tail


def blue_box(picture: Image.Image) -> tuple[int, int, int, int]:
    r, g, b, *_ = (np.asarray(picture.convert("RGB"))[..., n].astype(int) for n in range(3))
    y, x = np.nonzero((b > 128) & (r < 128))
    return int(x.min()), int(y.min()), int(x.max()), int(y.max())


@pytest.mark.parametrize("turned", [0, 90, 180, 270, -90, 450])
def test_a_turned_page_is_as_a_viewer_shows_it(turned: int) -> None:
    """Against the picture that the PDF library itself makes of the page (ISO 32000-1, table 30)."""
    data = a_page(f"/Rotate {turned}")
    seen = pypdfium2.PdfDocument(data)[0].render(scale=4).to_pil()
    svg, _ = pdf_as_svg(data)
    ours = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg.decode(), dpi=288))))
    ground = Image.new("RGB", ours.size, "white")
    ground.paste(ours, mask=ours.convert("RGBA").split()[3])
    assert abs(ours.width - seen.width) <= 1 and abs(ours.height - seen.height) <= 1
    assert np.abs(np.array(blue_box(ground)) - blue_box(seen)).max() <= 2


@pytest.mark.parametrize(("unit", "times"), [("", 1.0), ("/UserUnit 2", 2.0), ("/UserUnit 0.5/Rotate 90", 0.5)])
def test_a_page_in_units_of_its_own_is_as_large_as_it_says(unit: str, times: float) -> None:
    plain, _ = pdf_as_svg(a_page(unit.replace("/UserUnit", "/Ignored")))
    svg, _ = pdf_as_svg(a_page(unit))
    sizes = [re.findall(r'(?:width|height)="([\d.]+)mm"', s.decode()) for s in (plain, svg)]
    assert [float(b) for b in sizes[1]] == pytest.approx([times * float(a) for a in sizes[0]], rel=1e-4)
    left, low, right, high = read_drawing(a_page(unit)).bounds
    assert sorted((right - left, high - low)) == pytest.approx(
        sorted((times * 100 * MM_PER_POINT, times * 50 * MM_PER_POINT)), rel=1e-3
    )
