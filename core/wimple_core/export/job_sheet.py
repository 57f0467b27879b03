"""The job sheet: one page that goes to the bench with the work."""

from __future__ import annotations

import io

from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from ..built import Build
from ..figures import LengthStyle, format_length, format_quantity
from ..fit import NamedRow
from ..verdict import Level
from .pdf import BLUE, INK, POINT, QUIET, bounds_of, rgb, trace
from .type import draw, draw_to, shortened, wrap_lines

_LEFT, _RIGHT = 16.0, 194.0
_LOWEST = 17.0
"""Below this stands only the foot of the page."""
_COLOURS: dict[Level, tuple[float, float, float]] = {
    "ok": (0.184, 0.49, 0.357),
    "look": (0.722, 0.431, 0.0),
    "stop": (0.702, 0.149, 0.118),
}
_WORDS: dict[Level, str] = {"ok": "ok", "look": "LOOK", "stop": "STOP"}


class _Page:
    """Pages written from the top down; mm from the lower left. What does not go on one goes on the next."""

    def __init__(self, canvas: Canvas, top: float, title: str) -> None:
        self.canvas = canvas
        self.y = top
        self.title = title
        self.number = 1

    def room(self, height: float) -> None:
        """Begin another page where fewer than `height` mm are left on this one."""
        if self.y - height >= _LOWEST:
            return
        self.foot()
        self.canvas.showPage()
        self.number += 1
        self.canvas.setFillColorRGB(*INK)
        draw(self.canvas, _LEFT * POINT, 284 * POINT, self.title, 9, True)
        self.y = 281.0

    def foot(self) -> None:
        """The page's number, where there is more than one."""
        if self.number > 1 or self.y <= _LOWEST + 4:
            self.canvas.setFillColorRGB(*QUIET)
            draw_to(self.canvas, _RIGHT * POINT, 8 * POINT, f"page {self.number}", 7)

    def heading(self, text: str) -> None:
        self.room(14)
        self.y -= 6.5
        self.canvas.setFillColorRGB(*BLUE)
        draw(self.canvas, _LEFT * POINT, self.y * POINT, text, 9, True)
        self.canvas.setStrokeColorRGB(*QUIET)
        self.canvas.setLineWidth(0.3)
        self.canvas.line(_LEFT * POINT, (self.y - 1.4) * POINT, _RIGHT * POINT, (self.y - 1.4) * POINT)
        self.y -= 1.8

    def text(self, text: str, x: float = _LEFT, width: float = _RIGHT - _LEFT, size: float = 7.6) -> None:
        for line in wrap_lines(text, size, width * POINT):
            self.room(size * 0.445)
            self.canvas.setFillColorRGB(*INK)
            self.y -= size * 0.445
            draw(self.canvas, x * POINT, self.y * POINT, line, size)

    def row(self, cells: list[tuple[float, str]], bold: bool = False) -> None:
        """One line of a table, each cell cut off where the next one begins."""
        self.room(3.5)
        self.y -= 3.5
        self.canvas.setFillColorRGB(*INK)
        ends = [*(x for x, _ in cells[1:]), _RIGHT + 2]
        for (x, text), end in zip(cells, ends, strict=True):
            draw(self.canvas, x * POINT, self.y * POINT, shortened(text, 7.6, (end - x - 2) * POINT, bold), 7.6, bold)


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


def name_line(n: int, row: NamedRow, style: LengthStyle) -> str:
    """A line of the list of names: what it says, and how tall its capitals became."""
    said = " | ".join(c.replace("\n", " / ") for c in row.cells if c)
    if row.trouble is not None:
        return f"{n} {said} (NOT CUT)"
    tall = ", ".join(format_length(f.capitals, style) for f in row.fits if f is not None)
    return f"{n} {said} ({tall}{', DOES NOT FIT' if row.short else ''})" if tall else f"{n} {said}"


def job_sheet_pdf(b: Build, style: LengthStyle = "mm") -> bytes:
    """One A4 page: drawing, layers, loads, steps, cautions, what to look at, price. The job must be built to its
    end."""
    job = b.job
    assert b.layers and b.sheets and b.layup and b.price
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, pageCompression=1)
    title = f"{job.title} × {job.pieces}"
    canvas.setTitle(f"Job sheet: {job.title}")
    canvas.setCreator("Wimple")
    canvas.setFillColorRGB(*INK)
    wide = (_RIGHT - _LEFT) * POINT
    draw(canvas, _LEFT * POINT, 278 * POINT, shortened(title, 15, wide, True), 15, True)
    canvas.setFillColorRGB(*QUIET)
    due = f"due {job.due:%a %d %b %Y}" if job.due else "no due date"
    about = " · ".join(t for t in (job.customer, due, job.blank.name) if t)
    draw(canvas, _LEFT * POINT, 273 * POINT, shortened(about, 9, wide), 9)
    _drawing(canvas, b, _LEFT, 205, _RIGHT - _LEFT, 63)
    page = _Page(canvas, 203, shortened(title, 9, wide, True))
    page.heading("Layers, lowest first")
    page.row(
        [(_LEFT, "Layer"), (50, "Film"), (112, "Stay"), (126, "Weed"), (142, "Area"), (166, "Takes care")], bold=True
    )
    for layer in b.layers.layers:
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
    setting = job.sheets.setting or "test cut first"
    page.heading(f"Loads: {b.sheets.cutter.name}, {setting}")
    for s in b.sheets.loads:
        page.row(
            [
                (_LEFT, s.name),
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
    if b.named is not None and job.names is not None:
        page.heading(f"Names, {len(b.named.rows)}")
        page.text(" · ".join(name_line(n, row, style) for n, row in enumerate(b.named.rows, start=1)))
    page.heading("Steps")
    for i, step in enumerate(b.layup.steps, start=1):
        page.y -= 0.6
        page.text(f"{i}. {step.title}. {step.words(style)}")
    page.heading("Cautions")
    for caution in b.layup.cautions:
        page.text(caution.text)
    looks = [v for v in b.verdicts if v.level != "ok"]
    if looks:
        page.heading("Before you cut")
    for v in sorted(looks, key=lambda v: v.level != "stop"):
        page.room(4.5)
        canvas.setFillColorRGB(*_COLOURS[v.level])
        draw(canvas, _LEFT * POINT, (page.y - 3.4) * POINT, _WORDS[v.level], 6.5, True)
        page.text(v.sentence(style), x=_LEFT + 10, width=_RIGHT - _LEFT - 10)
        page.y -= 0.4
    p = b.price
    money = f"{job.price.currency} " if job.price.currency else ""
    batch = f"Batch of {job.pieces}: {money}{p.batch_price}."
    page.heading("Price")
    page.text(
        f"Each: cost {money}{p.cost}, price {money}{p.price}, margin {p.margin:.1f} %, markup {p.markup:.1f} %. {batch}"
    )
    page.foot()
    canvas.showPage()
    canvas.save()
    return out.getvalue()
