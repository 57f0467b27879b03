"""A drawing 1:1 over as many pages as it takes, with join marks and a scale rule on each."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import shapely
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.pdfgen.canvas import Canvas
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..figures import MM_PER_INCH, LengthStyle, format_length
from .pdf import INK, POINT, QUIET
from .type import draw, draw_to, shortened, width_of, wrap_lines

PAPERS: dict[str, tuple[float, float]] = {"A4": A4, "Letter": LETTER}
MARGIN_MM = 12.0
OVERLAP_MM = 10.0
EDGE_MM = 1.0
"""A drawing is shown so far beyond its bounds: lines have a width."""
MOST_SHEETS = 200
FOOT_MM = 16.0
"""Room at the foot of each page for the scale rules."""


@dataclass(frozen=True)
class Tiles:
    """How a drawing with such bounds (left, low, right, high, mm) is parted over pages of a size (mm)."""

    bounds: tuple[float, float, float, float]
    size: tuple[float, float]

    @classmethod
    def of(cls, bounds: tuple[float, float, float, float], paper: str) -> Tiles:
        """Over the fewest pages of a paper, upright or lying."""
        w, h = PAPERS[paper]
        sizes = [(w / POINT, h / POINT), (h / POINT, w / POINT)]
        return min((cls(bounds, size) for size in sizes), key=lambda tiles: tiles.most)

    @property
    def room(self) -> tuple[float, float]:
        """What a page shows, mm."""
        return self.size[0] - 2 * MARGIN_MM, self.size[1] - 2 * MARGIN_MM - FOOT_MM

    @property
    def grid(self) -> tuple[int, int]:
        """Columns and rows."""
        left, low, right, high = self.bounds
        w, h = self.room
        return (
            max(1, math.ceil((right - left - OVERLAP_MM) / (w - OVERLAP_MM))),
            max(1, math.ceil((high - low - OVERLAP_MM) / (h - OVERLAP_MM))),
        )

    @property
    def most(self) -> int:
        """How many pages it has at most."""
        return math.prod(self.grid)

    def sheets(self, occupied: BaseGeometry) -> list[tuple[str, float, float]]:
        """The pages on which something lies, by name, with the lower left of what each shows (mm); none where they
        are too many."""
        columns, rows = self.grid
        if self.most > 50 * MOST_SHEETS:
            return []
        there, (w, h) = prepared(occupied), self.room
        out = []
        for row in range(rows):
            for column in range(columns):
                x = self.bounds[0] + column * (w - OVERLAP_MM)
                y = self.bounds[1] + row * (h - OVERLAP_MM)
                if there.intersects(shapely.box(x, y, x + w, y + h)):
                    out.append((f"{_letters(row)}{column + 1}", x, y))
        return out if len(out) <= MOST_SHEETS else []


def tiled_pages(
    canvas: Canvas,
    tiles: Tiles,
    occupied: BaseGeometry,
    drawn: Callable[[Canvas], None],
    title: str,
    about: str,
    style: LengthStyle,
    instead: str,
) -> None:
    """Put a drawing on its pages: `drawn` draws it once, from the lower left of the bounds; what is `occupied` tells
    on which pages anything lies. Each is named by the `title`, with the size over all and what else is to be said
    `about` it. Of more than MOST_SHEETS one page says what to do `instead`."""
    left, low, right, high = tiles.bounds
    size, (w, h) = tiles.size, tiles.room
    canvas.setPageSize((size[0] * POINT, size[1] * POINT))
    sheets = tiles.sheets(occupied)
    if not sheets:
        _too_large(canvas, size, tiles.most, instead)
        return
    # Drawn once, and shown through a window on each sheet.
    form = f"drawing-{canvas.getPageNumber()}"
    edge = EDGE_MM * POINT
    canvas.beginForm(form, -edge, -edge, (right - left) * POINT + edge, (high - low) * POINT + edge)
    drawn(canvas)
    canvas.endForm()
    x0, y0 = MARGIN_MM, MARGIN_MM + FOOT_MM
    for name, x, y in sheets:
        canvas.saveState()
        clip = canvas.beginPath()
        clip.rect(x0 * POINT, y0 * POINT, w * POINT, h * POINT)
        canvas.clipPath(clip, stroke=0)
        canvas.translate((x0 + left - x) * POINT, (y0 + low - y) * POINT)
        canvas.doForm(form)
        canvas.restoreState()
        if len(sheets) > 1:
            _join_marks(canvas, x0, y0, w, h)
        _rules(canvas, size[0])
        top, edge = (size[1] - MARGIN_MM + 3) * POINT, (size[0] - MARGIN_MM) * POINT
        span = f"{format_length(right - left, style)} by {format_length(high - low, style)} over all, {about}"
        draw_to(canvas, edge, top, span, 8)
        room = edge - MARGIN_MM * POINT - width_of(span, 8) - 12
        sheet = f": sheet {name} of {len(sheets)}"
        words = shortened(title, 9, room - width_of(sheet, 9, True), True) + sheet
        draw(canvas, MARGIN_MM * POINT, top, words, 9, True)
        canvas.showPage()


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


def _too_large(canvas: Canvas, size: tuple[float, float], sheets: int, instead: str) -> None:
    """One page instead of a ream."""
    top, room = size[1] - 40, (size[0] - 2 * MARGIN_MM) * POINT
    words = f"This would take up to {sheets:,} sheets of this paper."
    draw(canvas, MARGIN_MM * POINT, top * POINT, words, 11, True)
    say = f"More than {MOST_SHEETS} are not printed: {instead}"
    for n, line in enumerate(wrap_lines(say, 10, room), start=1):
        draw(canvas, MARGIN_MM * POINT, (top - 6 * n) * POINT, line, 10)
    canvas.showPage()


def _letters(row: int) -> str:
    """A, B, ... Z, AA, AB, ..."""
    return (_letters(row // 26 - 1) if row >= 26 else "") + chr(65 + row % 26)
