"""What all PDFs share. 72 points to the inch."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely
from reportlab.pdfgen.canvas import Canvas
from shapely.geometry.base import BaseGeometry

from ..figures import MM_PER_INCH

POINT = 72 / MM_PER_INCH
"""Points to the millimetre."""
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


def pale_film(
    canvas: Canvas, colour: str, region: BaseGeometry, left: float, low: float, scale: float = POINT, own: float = 0.3
) -> None:
    """Pieces of film on paper, from the lower left (mm): their edges, filled with so large a share of their `own`
    colour that what is written on them is read."""
    canvas.setFillColorRGB(*(1 - own + own * c for c in rgb(colour)))
    canvas.setStrokeColorRGB(*INK)
    trace(canvas, region, -left, -low, scale, fill=True)
    trace(canvas, region, -left, -low, scale)


def rgb(colour: str) -> tuple[float, float, float]:
    """`#rrggbb` as three shares of one."""
    return int(colour[1:3], 16) / 255, int(colour[3:5], 16) / 255, int(colour[5:7], 16) / 255


def bounds_of(regions: Iterable[BaseGeometry]) -> tuple[float, float, float, float]:
    """Left, low, right, high of all regions together."""
    b = shapely.total_bounds(np.array(list(regions), dtype=object))
    return float(b[0]), float(b[1]), float(b[2]), float(b[3])
