"""The setting plan of loose pieces: each load with the numbers of its pieces, and each film 1:1 as its pieces are to
lie, to be laid under parchment."""

from __future__ import annotations

import io

import numpy as np
import shapely
from reportlab.pdfgen.canvas import Canvas
from shapely.geometry.base import BaseGeometry

from ..built import Build
from ..figures import LengthStyle
from ..layers import Layer
from ..sheets import Load
from .numbered import Frame, put_numbers
from .pdf import INK, POINT, QUIET, bounds_of, pale_film, trace
from .tiles import MARGIN_MM, PAPERS, Tiles, tiled_pages
from .type import draw, shortened, wrap_lines

_HEAD = 22.0
_FIGURES = 6.5
"""The size of the numbers' type, points."""
_PLAINLY_SMALLER = 0.75
"""What is not 1:1 is so much smaller that nobody takes it for that."""
_THIN = 0.05
"""Outlines are drawn this true on paper, mm."""


def setting_plan_pdf(b: Build, paper: str, style: LengthStyle = "mm") -> bytes:
    """The plan of a job with loose pieces, built to its sheets, on A4 or Letter: first its loads, each on a page, then
    the films, the lowest first, each 1:1 over as many pages as the template takes, those left out on which nothing of
    it lies. A film that is cut mirrored is drawn so. Numbers are those of the weed sheet."""
    assert b.template is not None and b.layers is not None and b.sheets is not None
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=PAPERS[paper], pageCompression=1)
    canvas.setTitle(f"Setting plan: {b.job.title}")
    canvas.setCreator("Wimple")
    loads = [load for load in b.sheets.loads if any(i.item.loose for i in load.items)]
    for n, load in enumerate(loads, start=1):
        _load(canvas, load, PAPERS[paper], f"{b.job.title}, load {n} of {len(loads)}")
    for layer in b.layers.layers:
        turned = b.layers.cut_mirrored(layer)
        outline = _seen(b.template.outline, turned)
        others = [_seen(o.region, turned) for o in b.layers.layers if o is not layer]
        region = _seen(layer.region, turned)
        bounds = bounds_of([outline, region])

        def drawn(
            c: Canvas,
            layer: Layer = layer,
            region: BaseGeometry = region,
            around: tuple[BaseGeometry, ...] = (outline, *others),
            corner: tuple[float, float] = bounds[:2],
        ) -> None:
            _film(c, layer, region, around, corner)

        title = f"{b.job.title}, {layer.name}"
        about = "mirrored, as it is cut" if turned else "outside up"
        instead = "set the pieces by layers/*.svg, plotted on a roll."
        tiled_pages(canvas, Tiles.of(bounds, paper), region, drawn, title, about, style, instead)
    canvas.save()
    return out.getvalue()


def _seen(region: BaseGeometry, turned: bool) -> BaseGeometry:
    return shapely.transform(region, lambda p: p * (-1.0, 1.0)) if turned else region


def _film(
    canvas: Canvas, layer: Layer, region: BaseGeometry, around: tuple[BaseGeometry, ...], corner: tuple[float, float]
) -> None:
    """One film 1:1 from a corner: its pieces with their numbers, and thin what lies round them."""
    left, low = corner
    canvas.setStrokeColorRGB(*QUIET)
    canvas.setLineWidth(0.2)
    for one in around:
        trace(canvas, shapely.simplify(one, _THIN), -left, -low)
    canvas.setLineWidth(0.4)
    pale_film(canvas, layer.film_colour, shapely.simplify(region, _THIN), left, low)
    put_numbers(canvas, shapely.get_parts(region), layer.numbers, Frame(0, 0, 1, left, low), _FIGURES)


def _load(canvas: Canvas, load: Load, page: tuple[float, float], title: str) -> None:
    """One load as large as the page lets it be, upright or lying."""
    boxes = np.array([p.box for p in load.patches])
    (left, low), (right, high) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
    rooms = [(w / POINT, h / POINT) for w, h in (page, page[::-1])]
    fits, size = max(
        (min((w - 2 * MARGIN_MM) / (right - left), (h - 2 * MARGIN_MM - _HEAD) / (high - low)), (w, h))
        for w, h in rooms
    )
    scale = 1.0 if fits >= 1 else min(fits, _PLAINLY_SMALLER)
    canvas.setPageSize((size[0] * POINT, size[1] * POINT))
    wide, y = (size[0] - 2 * MARGIN_MM) * POINT, size[1] - MARGIN_MM - 3
    canvas.setFillColorRGB(*INK)
    times = f", cut {load.times} times" if load.times > 1 else ""
    draw(canvas, MARGIN_MM * POINT, y * POINT, shortened(title + times, 11, wide, True), 11, True)
    canvas.setFillColorRGB(*QUIET)
    said = (
        f"{load.name}; {100 * scale:.0f} % of its size. A number is the piece's in its set: it lies where the plan of"
        " its film has that number."
    )
    for k, line in enumerate(wrap_lines(said, 8, wide)[:2]):
        draw(canvas, MARGIN_MM * POINT, (y - 5 - 3.6 * k) * POINT, line, 8)
    frame = Frame(MARGIN_MM, y - 12 - (high - low) * scale, scale, left, low)
    for patch in load.patches:
        numbers, pieces = load.numbered(patch)
        canvas.saveState()
        canvas.translate(frame.x * POINT, frame.y * POINT)
        canvas.setStrokeColorRGB(*QUIET)
        canvas.setLineWidth(0.3)
        trace(canvas, shapely.box(*patch.box), -left, -low, scale * POINT)
        shown = shapely.multipolygons(shapely.simplify(pieces, _THIN / scale))
        pale_film(canvas, patch.film_colour, shown, left, low, scale * POINT)
        canvas.restoreState()
        put_numbers(canvas, pieces, numbers, frame, _FIGURES)
    canvas.showPage()
