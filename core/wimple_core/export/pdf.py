"""PDF 1:1. 72 points to the inch."""

from __future__ import annotations

import io
import math
from collections.abc import Iterable

import numpy as np
import shapely
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.pdfgen.canvas import Canvas
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..figures import MM_PER_INCH, LengthStyle, format_length
from ..surface import Template
from .type import draw, draw_to, shortened, width_of, wrap_lines

POINT = 72 / MM_PER_INCH
"""Points to the millimetre."""
PAPERS: dict[str, tuple[float, float]] = {"A4": A4, "Letter": LETTER}
MARGIN_MM = 12.0
OVERLAP_MM = 10.0
MOST_SHEETS = 200
FOOT_MM = 16.0
"""Room at the foot of each page for the scale rules."""
INK, QUIET, BLUE = (0.094, 0.125, 0.18), (0.349, 0.384, 0.451), (0.11, 0.239, 0.478)


def trace(canvas: Canvas, region: BaseGeometry, dx: float, dy: float, scale: float = POINT, fill: bool = False) -> None:
    """Draw a region's contours, mm moved by (dx, dy) mm, at `scale` points to the mm."""
    path = canvas.beginPath()
    for polygon in shapely.get_parts(region):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        for ring in (polygon.exterior, *polygon.interiors):
            points = (shapely.get_coordinates(ring)[:-1] + (dx, dy)) * scale
            path.moveTo(*points[0])
            for x, y in points[1:]:
                path.lineTo(x, y)
            path.close()
    canvas.drawPath(path, stroke=0 if fill else 1, fill=1 if fill else 0, fillMode=0)


def _rules(canvas: Canvas, width_mm: float) -> None:
    """A 100 mm and a 4 in rule, side by side, to check the printer's scale."""
    canvas.setLineWidth(0.5)
    canvas.setStrokeColorRGB(*INK)
    canvas.setFillColorRGB(*INK)
    y = MARGIN_MM + 3
    for x, length, steps, name in ((MARGIN_MM, 100.0, 10, "100 mm"), (MARGIN_MM, 4 * MM_PER_INCH, 16, "4 in")):
        canvas.line(x * POINT, y * POINT, (x + length) * POINT, y * POINT)
        for i in range(steps + 1):
            at = x + length * i / steps
            tall = 2.5 if i in (0, steps) else 1.2
            canvas.line(at * POINT, y * POINT, at * POINT, (y + tall) * POINT)
        draw(canvas, (x + length + 2) * POINT, y * POINT, name, 7)
        y += 5
    say = "Print at 100 %: both rules must measure true."
    draw_to(canvas, (width_mm - MARGIN_MM) * POINT, (MARGIN_MM + 3) * POINT, say, 7)


def _join_marks(canvas: Canvas, x0: float, y0: float, w: float, h: float) -> None:
    """Crosses in the middle of each overlap: lay them on one another and tape."""
    canvas.setLineWidth(0.4)
    canvas.setStrokeColorRGB(*QUIET)
    half = OVERLAP_MM / 2
    for x in (x0 + half, x0 + w - half):
        for y in (y0 + half, y0 + h - half):
            canvas.line((x - 3) * POINT, y * POINT, (x + 3) * POINT, y * POINT)
            canvas.line(x * POINT, (y - 3) * POINT, x * POINT, (y + 3) * POINT)


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


def _too_large(canvas: Canvas, size: tuple[float, float], sheets: int) -> None:
    """One page instead of a ream."""
    top, room = size[1] - 40, (size[0] - 2 * MARGIN_MM) * POINT
    draw(
        canvas,
        MARGIN_MM * POINT,
        top * POINT,
        f"This template would take up to {sheets:,} sheets of this paper.",
        11,
        True,
    )
    say = f"More than {MOST_SHEETS} are not printed: check the unit of the readings, or plot template.svg on a roll."
    for n, line in enumerate(wrap_lines(say, 10, room), start=1):
        draw(canvas, MARGIN_MM * POINT, (top - 6 * n) * POINT, line, 10)
    canvas.showPage()


def _letters(row: int) -> str:
    """A, B, ... Z, AA, AB, ..."""
    return (_letters(row // 26 - 1) if row >= 26 else "") + chr(65 + row % 26)


def template_pdf(template: Template, paper: str, title: str, style: LengthStyle = "mm") -> bytes:
    """The template 1:1, tiled over pages of A4 or Letter with join marks and scale rules on every page; sheets on
    which nothing of it
    lies are left out, and more than MOST_SHEETS are not made."""
    page_w, page_h = PAPERS[paper]
    left, low, right, high = template.outline.bounds
    sizes = [(page_w / POINT, page_h / POINT), (page_h / POINT, page_w / POINT)]

    def tiles(size: tuple[float, float]) -> tuple[int, int]:
        room = (size[0] - 2 * MARGIN_MM, size[1] - 2 * MARGIN_MM - FOOT_MM)
        return (
            max(1, math.ceil((right - left - OVERLAP_MM) / (room[0] - OVERLAP_MM))),
            max(1, math.ceil((high - low - OVERLAP_MM) / (room[1] - OVERLAP_MM))),
        )

    size = min(sizes, key=lambda s: math.prod(tiles(s)))
    columns, rows = tiles(size)
    room_w, room_h = size[0] - 2 * MARGIN_MM, size[1] - 2 * MARGIN_MM - FOOT_MM
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(size[0] * POINT, size[1] * POINT), pageCompression=1)
    canvas.setTitle(f"Template: {title}")
    canvas.setCreator("Wimple")
    x0, y0 = MARGIN_MM, MARGIN_MM + FOOT_MM
    corners = (
        [
            (row, column, left + column * (room_w - OVERLAP_MM), low + row * (room_h - OVERLAP_MM))
            for row in range(rows)
            for column in range(columns)
        ]
        if rows * columns <= 50 * MOST_SHEETS
        else []
    )
    outline = prepared(template.outline)
    sheets = [c for c in corners if outline.intersects(shapely.box(c[2], c[3], c[2] + room_w, c[3] + room_h))]
    if not sheets or len(sheets) > MOST_SHEETS:
        _too_large(canvas, size, rows * columns)
    else:
        # Drawn once, and shown through a window on each sheet.
        canvas.beginForm("template", 0, 0, (right - left) * POINT, (high - low) * POINT)
        _drawing(canvas, template)
        canvas.endForm()
    for row, column, ox, oy in sheets if len(sheets) <= MOST_SHEETS else []:
        canvas.saveState()
        clip = canvas.beginPath()
        clip.rect(x0 * POINT, y0 * POINT, room_w * POINT, room_h * POINT)
        canvas.clipPath(clip, stroke=0)
        canvas.translate((x0 + left - ox) * POINT, (y0 + low - oy) * POINT)
        canvas.doForm("template")
        canvas.restoreState()
        if len(sheets) > 1:
            _join_marks(canvas, x0, y0, room_w, room_h)
        _rules(canvas, size[0])
        name = f"{_letters(row)}{column + 1}"
        y, edge = (size[1] - MARGIN_MM + 3) * POINT, (size[0] - MARGIN_MM) * POINT
        span = f"{format_length(right - left, style)} by {format_length(high - low, style)} over all, outside up"
        draw_to(canvas, edge, y, span, 8)
        room = edge - MARGIN_MM * POINT - width_of(span, 8) - 12
        sheet = f": sheet {name} of {len(sheets)}"
        draw(canvas, MARGIN_MM * POINT, y, shortened(title, 9, room - width_of(sheet, 9, True), True) + sheet, 9, True)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def rgb(colour: str) -> tuple[float, float, float]:
    """`#rrggbb` as three shares of one."""
    return int(colour[1:3], 16) / 255, int(colour[3:5], 16) / 255, int(colour[5:7], 16) / 255


def bounds_of(regions: Iterable[BaseGeometry]) -> tuple[float, float, float, float]:
    """Left, low, right, high of all regions together."""
    b = shapely.total_bounds(np.array(list(regions), dtype=object))
    return float(b[0]), float(b[1]), float(b[2]), float(b[3])
