"""The template as PDF, 1:1."""

from __future__ import annotations

import io

from reportlab.pdfgen.canvas import Canvas

from ..figures import LengthStyle
from ..surface import Template
from .pdf import BLUE, INK, POINT, bounds_of, trace
from .tiles import Tiles, tiled_pages


def template_pdf(template: Template, paper: str, title: str, style: LengthStyle = "mm") -> bytes:
    """The template 1:1, tiled over pages of A4 or Letter with join marks and scale rules on every page; sheets on
    which nothing of it lies are left out, and more than MOST_SHEETS are not made."""
    tiles = Tiles.of(bounds_of([template.outline]), paper)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(tiles.size[0] * POINT, tiles.size[1] * POINT), pageCompression=1)
    canvas.setTitle(f"Template: {title}")
    canvas.setCreator("Wimple")
    instead = "check the unit of the readings, or plot template.svg on a roll."
    tiled_pages(canvas, tiles, template.outline, lambda c: _drawing(c, template), title, "outside up", style, instead)
    canvas.save()
    return out.getvalue()


def _drawing(canvas: Canvas, template: Template) -> None:
    """Outline, free area, centre line and slits, from the lower left corner of the outline's box."""
    left, low, _, high = template.outline.bounds
    canvas.setLineWidth(0.4)
    canvas.setStrokeColorRGB(*BLUE)
    canvas.setDash(4, 2)
    trace(canvas, template.free, -left, -low)
    canvas.setDash(1, 2)
    canvas.line(-left * POINT, -5 * POINT, -left * POINT, (high - low + 5) * POINT)
    canvas.setDash()
    canvas.setStrokeColorRGB(*INK)
    canvas.setLineWidth(0.7)
    trace(canvas, template.outline, -left, -low)
    for s in template.slits:
        canvas.line(
            (s.start[0] - left) * POINT, (s.start[1] - low) * POINT, (s.end[0] - left) * POINT, (s.end[1] - low) * POINT
        )
