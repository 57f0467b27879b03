"""The weed sheet: one page on which each film's pieces are numbered in the order to look, with boxes to tick, so that a
lost dot is missed while the waste is still there."""

from __future__ import annotations

import io

import numpy as np
import shapely
from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from ..built import Build
from ..figures import LengthStyle, format_quantity
from ..layers import Layer
from .numbered import MOST_NUMBERED, Frame, put_numbers
from .pdf import BLUE, INK, POINT, QUIET, pale_film, trace
from .type import draw, draw_to, shortened, width_of

_MARGIN = 16.0
_TOP, _FOOT = 30.0, 20.0
"""Room at the head and at the foot of the page, mm."""
_HEAD, _GAP, _BOX = 9.0, 5.0, 4.6
_CELL = 14.0
_STEPS = ((24, 1), (120, 5), (300, 10), (1500, 50))


def group_size(pieces: int) -> int:
    """How many pieces a box stands for."""
    return next((step for most, step in _STEPS if pieces <= most), max(200, -(-pieces // 60)))


def _box_rows(pieces: int, width: float) -> int:
    boxes = -(-pieces // group_size(pieces)) if pieces else 0
    return -(-boxes // max(1, int(width // _CELL)))


def _layout(layers: tuple[Layer, ...], page: tuple[float, float], w: float, h: float) -> tuple[float, int]:
    """The largest scale, at most 1, at which all films stand on the page, and in how many columns."""
    wide, high = page[0] - 2 * _MARGIN, page[1] - _TOP - _FOOT
    best = (0.0, 1)
    for columns in range(1, len(layers) + 1):
        rows = -(-len(layers) // columns)
        column = (wide - (columns - 1) * _GAP) / columns
        boxes = max(_box_rows(la.pieces, column) for la in layers) * _BOX
        scale = min(1.0, column / w, (high / rows - _GAP - _HEAD - boxes) / h)
        if scale > best[0] + 1e-6:
            best = (scale, columns)
    return best


def weed_sheet_pdf(b: Build, style: LengthStyle = "mm") -> bytes:
    """One A4 page with every film, 1:1 where all have room on it. The job must be built to its layers."""
    assert b.layers is not None
    layers, job = b.layers.layers, b.job
    out = io.BytesIO()
    boxes = [la.cuts.only("piece", "hole", "mark", "frame").bounds for la in layers]
    bounds = np.array([x for x in boxes if np.isfinite(x).all()] or [(0.0, 0.0, 1.0, 1.0)])
    left, low = bounds[:, :2].min(axis=0)
    right, high = bounds[:, 2:].max(axis=0)
    w, h = max(float(right - left), 1.0), max(float(high - low), 1.0)
    upright = (A4[0] / POINT, A4[1] / POINT)
    pages = [upright, upright[::-1]]
    scale, columns, page = max(
        ((*_layout(layers, p, w, h), p) for p in pages), key=lambda found: (round(found[0], 4), found[2] == upright)
    )
    canvas = Canvas(out, pagesize=(page[0] * POINT, page[1] * POINT), pageCompression=1)
    canvas.setTitle(f"Weed sheet: {job.title}")
    canvas.setCreator("Wimple")
    _head(canvas, page, f"Weed sheet: {job.title}", scale)
    if scale > 0:
        column = (page[0] - 2 * _MARGIN - (columns - 1) * _GAP) / columns
        rows = -(-len(layers) // columns)
        tall = (page[1] - _TOP - _FOOT) / rows
        for n, layer in enumerate(layers):
            x = _MARGIN + n % columns * (column + _GAP)
            top = page[1] - _TOP - n // columns * tall
            _film(canvas, layer, (x, top, column), scale, (float(left), float(low), w, h), style)
    _foot(canvas, page)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _head(canvas: Canvas, page: tuple[float, float], title: str, scale: float) -> None:
    canvas.setFillColorRGB(*INK)
    room = page[0] - 2 * _MARGIN - 40
    draw(canvas, _MARGIN * POINT, (page[1] - 17) * POINT, shortened(title, 13, room * POINT, True), 13, True)
    size = "1 : 1" if scale > 0.9995 else f"{100 * scale:.0f} % of its size"
    draw_to(canvas, (page[0] - _MARGIN) * POINT, (page[1] - 17) * POINT, size, 9)
    canvas.setFillColorRGB(*QUIET)
    said = "Count on the waste before it is thrown away: lay it flat, tick each box, look twice at what is circled."
    draw(canvas, _MARGIN * POINT, (page[1] - 22.5) * POINT, said, 8)


def _foot(canvas: Canvas, page: tuple[float, float]) -> None:
    y = 13.0
    x = _MARGIN
    canvas.setLineWidth(0.7)
    for mark, words in (
        ("dot", "small enough to come off unseen"),
        ("island", "stays inside a hole that is weeded"),
        ("line", "cut to weed along"),
        ("start", "begin to lift here"),
    ):
        canvas.setStrokeColorRGB(*INK)
        canvas.setFillColorRGB(*INK)
        if mark == "dot":
            canvas.circle((x + 1.5) * POINT, (y + 0.9) * POINT, 1.5 * POINT)
        elif mark == "island":
            canvas.rect(x * POINT, (y - 0.4) * POINT, 2.6 * POINT, 2.6 * POINT)
        elif mark == "line":
            canvas.setStrokeColorRGB(*BLUE)
            canvas.setDash(3, 2)
            canvas.line((x - 1) * POINT, (y + 0.9) * POINT, (x + 3) * POINT, (y + 0.9) * POINT)
            canvas.setDash()
        else:
            _start(canvas, (x * POINT, (y - 0.3) * POINT), "lower left")
        canvas.setFillColorRGB(*INK)
        draw(canvas, (x + 4.5) * POINT, y * POINT, words, 7.5)
        x += 9 + width_of(words, 7.5) / POINT
    said = "Blades and hooks cut: cap the hook, and keep it away from the hand that holds the liner."
    canvas.setFillColorRGB(*QUIET)
    draw(canvas, _MARGIN * POINT, 8 * POINT, said, 7)


def _start(canvas: Canvas, at: tuple[float, float], corner: str) -> None:
    """A filled corner that points into the work."""
    sx = 1 if "left" in corner else -1
    sy = 1 if "lower" in corner else -1
    path = canvas.beginPath()
    path.moveTo(*at)
    path.lineTo(at[0] + sx * 3 * POINT, at[1])
    path.lineTo(at[0], at[1] + sy * 3 * POINT)
    path.close()
    canvas.drawPath(path, stroke=0, fill=1)


def _film(
    canvas: Canvas,
    layer: Layer,
    room: tuple[float, float, float],
    scale: float,
    box: tuple[float, float, float, float],
    style: LengthStyle,
) -> None:
    """One film: its name and counts, its drawing, its boxes."""
    x, top, wide = room
    canvas.setFillColorRGB(*INK)
    minutes = format_quantity(layer.weeding.minutes, "min", style)
    found = layer.inspection
    counts = f"{layer.pieces} stay, {layer.weeded} go, about {minutes}"
    if found.dots:
        counts += f", {len(found.dots)} circled"
    name = f"{layer.name}, {layer.film.name.lower()}"
    draw(canvas, x * POINT, (top - 3.4) * POINT, shortened(name, 9, wide * POINT, True), 9, True)
    draw(canvas, x * POINT, (top - 7) * POINT, shortened(counts, 7.5, wide * POINT), 7.5)
    frame = Frame(x + (wide - box[2] * scale) / 2, top - _HEAD - box[3] * scale, scale, box[0], box[1])
    _drawn(canvas, layer, frame)
    parts = shapely.get_parts(layer.region)
    step = group_size(len(parts))
    put_numbers(canvas, parts, layer.numbers, frame, step=step)
    across = max(1, int(wide // _CELL))
    y = frame.y - 4.4
    canvas.setLineWidth(0.5)
    canvas.setStrokeColorRGB(*INK)
    canvas.setFillColorRGB(*INK)
    for k in range(-(-len(parts) // step)):
        a, b = k * step + 1, min((k + 1) * step, len(parts))
        bx, by = x + k % across * _CELL, y - k // across * _BOX
        canvas.rect(bx * POINT, by * POINT, 2.8 * POINT, 2.8 * POINT)
        draw(canvas, (bx + 3.6) * POINT, (by + 0.6) * POINT, f"{a}" if a == b else f"{a}-{b}", 6.2)


def _drawn(canvas: Canvas, layer: Layer, f: Frame) -> None:
    """Film, frames, lines, what is circled, and where to begin."""
    canvas.saveState()
    canvas.translate(f.x * POINT, f.y * POINT)
    canvas.setLineWidth(0.35)
    thin = 0.05 / max(f.scale, 0.05)
    pale_film(canvas, layer.film_colour, shapely.simplify(layer.region, thin), f.left, f.low, f.scale * POINT, own=0.45)
    canvas.setFillColorRGB(*QUIET)
    trace(canvas, layer.marks, -f.left, -f.low, f.scale * POINT, fill=True)
    canvas.setStrokeColorRGB(*BLUE)
    canvas.setDash(3, 2)
    trace(canvas, layer.weeding.frames, -f.left, -f.low, f.scale * POINT)
    canvas.restoreState()
    canvas.setStrokeColorRGB(*BLUE)
    canvas.setLineWidth(0.35)
    canvas.setDash(3, 2)
    for line in layer.weeding.lines:
        canvas.line(*f.at(*line[0]), *f.at(*line[-1]))
    canvas.setDash()
    canvas.setStrokeColorRGB(*INK)
    canvas.setLineWidth(0.7)
    for place in layer.inspection.dots[:MOST_NUMBERED]:
        canvas.circle(*f.at(*place), (0.6 + layer.film.least_dot_mm / 2 * f.scale) * POINT)
    circled = set(layer.inspection.dots)
    for place in [p for p in layer.inspection.islands if p not in circled][:MOST_NUMBERED]:
        px, py = f.at(*place)
        canvas.rect(px - 1.9 * POINT, py - 1.9 * POINT, 3.8 * POINT, 3.8 * POINT)
    canvas.setFillColorRGB(*INK)
    if layer.weeding.corner:
        left, low, right, high = layer.cuts.only("piece", "hole", "mark", "frame").bounds
        corner = layer.weeding.corner
        _start(canvas, f.at(left if "left" in corner else right, low if "lower" in corner else high), corner)
