"""The job sheet: one page that goes to the bench with the work."""

from __future__ import annotations

import io

from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from ..built import Build
from ..errors import LengthStyle
from ..units import format_length, format_quantity
from ..verdict import Level
from .pdf import BLUE, INK, POINT, QUIET, bounds_of, plain, rgb, trace, wrap_lines

_LEFT, _RIGHT = 16.0, 194.0
_COLOURS: dict[Level, tuple[float, float, float]] = {
    "ok": (0.184, 0.49, 0.357),
    "look": (0.722, 0.431, 0.0),
    "stop": (0.702, 0.149, 0.118),
}
_WORDS: dict[Level, str] = {"ok": "ok", "look": "LOOK", "stop": "STOP"}


class _Page:
    """A page written from the top down; mm from the lower left."""

    def __init__(self, canvas: Canvas, top: float) -> None:
        self.canvas = canvas
        self.y = top

    def heading(self, text: str) -> None:
        self.y -= 6.5
        self.canvas.setFillColorRGB(*BLUE)
        self.canvas.setFont("Helvetica-Bold", 9)
        self.canvas.drawString(_LEFT * POINT, self.y * POINT, plain(text))
        self.canvas.setStrokeColorRGB(*QUIET)
        self.canvas.setLineWidth(0.3)
        self.canvas.line(_LEFT * POINT, (self.y - 1.4) * POINT, _RIGHT * POINT, (self.y - 1.4) * POINT)
        self.y -= 1.8

    def text(
        self, text: str, x: float = _LEFT, width: float = _RIGHT - _LEFT, bold: bool = False, size: float = 7.6
    ) -> None:
        font = "Helvetica-Bold" if bold else "Helvetica"
        self.canvas.setFillColorRGB(*INK)
        for line in wrap_lines(self.canvas, text, font, size, width * POINT):
            self.y -= size * 0.445
            self.canvas.setFont(font, size)
            self.canvas.drawString(x * POINT, self.y * POINT, line)

    def row(self, cells: list[tuple[float, str]], bold: bool = False) -> None:
        self.y -= 3.5
        self.canvas.setFillColorRGB(*INK)
        self.canvas.setFont("Helvetica-Bold" if bold else "Helvetica", 7.6)
        for x, text in cells:
            self.canvas.drawString(x * POINT, self.y * POINT, plain(text))


def _drawing(canvas: Canvas, b: Build, x: float, y: float, w: float, h: float) -> None:
    """The template with its layers, fitted into a box (mm)."""
    if b.template is None:
        return
    layers = b.layers.layers if b.layers else ()
    left, low, right, high = bounds_of([b.template.outline, *(layer.region for layer in layers)])
    scale = min(w / (right - left), h / (high - low))
    canvas.saveState()
    canvas.translate((x + (w - (right - left) * scale) / 2) * POINT, (y + (h - (high - low) * scale) / 2) * POINT)
    for layer in layers:
        canvas.setFillColorRGB(*rgb(layer.film_colour))
        trace(canvas, layer.region, -left, -low, scale * POINT, fill=True)
    canvas.setStrokeColorRGB(*INK)
    canvas.setLineWidth(0.5)
    trace(canvas, b.template.outline, -left, -low, scale * POINT)
    canvas.setStrokeColorRGB(*BLUE)
    canvas.setLineWidth(0.3)
    canvas.setDash(3, 2)
    trace(canvas, b.template.free, -left, -low, scale * POINT)
    canvas.restoreState()


def job_sheet_pdf(b: Build, style: LengthStyle = "mm") -> bytes:
    """One A4 page: drawing, layers, loads, steps, cautions, what to look at, price. The job must be built to its
    end."""
    job = b.job
    assert b.layers and b.sheets and b.layup and b.price
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, pageCompression=1)
    canvas.setTitle(plain(f"Job sheet: {job.title}"))
    canvas.setCreator("Wimple")
    canvas.setFillColorRGB(*INK)
    canvas.setFont("Helvetica-Bold", 15)
    canvas.drawString(_LEFT * POINT, 278 * POINT, plain(f"{job.title} × {job.quantity}"))
    canvas.setFont("Helvetica", 9)
    canvas.setFillColorRGB(*QUIET)
    due = f"due {job.due:%a %d %b %Y}" if job.due else "no due date"
    canvas.drawString(
        _LEFT * POINT, 273 * POINT, plain(" · ".join(t for t in (job.customer, due, job.blank.name) if t))
    )
    _drawing(canvas, b, _LEFT, 205, _RIGHT - _LEFT, 63)
    page = _Page(canvas, 203)
    page.heading("Layers, lowest first")
    page.row(
        [(_LEFT, "Layer"), (50, "Film"), (112, "Stay"), (126, "Weed"), (142, "Area"), (166, "Takes care")], bold=True
    )
    for layer in b.layers.layers[:12]:
        care = len(layer.inspection.dots) + len(layer.inspection.thin)
        page.row(
            [
                (_LEFT, layer.name),
                (50, layer.film.name),
                (112, str(layer.pieces)),
                (126, str(layer.weeded)),
                (142, format_quantity(layer.area, "mm2", style)),
                (166, f"{care} place{'s' if care > 1 else ''}" if care else "-"),
            ]
        )
    page.heading(f"Loads: {b.sheets.cutter.name}")
    for s in b.sheets.sheets[:14]:
        page.row(
            [
                (_LEFT, s.layer.name),
                (
                    50,
                    (
                        f"{s.sets} set{'s' if s.sets > 1 else ''} on a load, cut {s.times}"
                        f" time{'s' if s.times > 1 else ''}"
                    ),
                ),
                (
                    112,
                    (
                        f"{format_length(s.width, style)} by"
                        f" {format_length(s.height, style)}{', turned' if s.turned else ''}"
                    ),
                ),
                (166, "fits" if s.fits else "DOES NOT FIT"),
            ]
        )
    page.heading("Steps")
    for i, step in enumerate(b.layup.steps, start=1):
        page.y -= 0.6
        page.text(f"{i}. {step.title}. {step.words(style)}")
    page.heading("Cautions")
    page.text("  ".join(c.text for c in b.layup.cautions))
    looks = [v for v in b.verdicts if v.level != "ok"]
    if looks:
        page.heading("Before you cut")
        for v in sorted(looks, key=lambda v: v.level != "stop")[: max(1, int((page.y - 30) / 4))]:
            canvas.setFillColorRGB(*_COLOURS[v.level])
            canvas.setFont("Helvetica-Bold", 6.5)
            canvas.drawString(_LEFT * POINT, (page.y - 3.6) * POINT, _WORDS[v.level])
            page.text(v.sentence(style), x=_LEFT + 10, width=_RIGHT - _LEFT - 10)
            page.y -= 0.4
    p = b.price
    canvas.setFillColorRGB(*INK)
    canvas.setFont("Helvetica", 8)
    money = f"{job.price.currency} " if job.price.currency else ""
    canvas.drawString(
        _LEFT * POINT,
        12 * POINT,
        plain(
            f"Each: cost {money}{p.cost}, price {money}{p.price}, margin {p.margin:.1f} %, markup {p.markup:.1f} %. "
            f"Batch of {job.quantity}: {money}{p.batch_price}."
        ),
    )
    canvas.showPage()
    canvas.save()
    return out.getvalue()
