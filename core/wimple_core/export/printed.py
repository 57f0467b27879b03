"""What is printed: the face at true size as PDF, with bleed, crop lines and marks; its contour in the same frame."""

from __future__ import annotations

import io

from reportlab.pdfgen.canvas import Canvas

from ..cuts import Cuts, cuts_round, together
from ..sheets.printed import Face
from .pdf import POINT, rgb, trace
from .type import draw

CROP_MM, CROP_AWAY_MM, AROUND_MM = 5.0, 3.0, 10.0
"""Crop lines stand off the contour's box; the page goes on so far round its frame."""


def face_pdf(face: Face, title: str) -> bytes:
    """The face of one printed element, 1:1; the frame of its marks lies 10 mm in from the page's edges."""
    out = io.BytesIO()
    w, h = face.size
    canvas = Canvas(out, pagesize=((w + 2 * AROUND_MM) * POINT, (h + 2 * AROUND_MM) * POINT), invariant=1)
    canvas.setTitle(f"{title}, {face.name}, printed")
    for colour, region in face.inks:
        canvas.setFillColorRGB(*rgb(colour))
        trace(canvas, region, AROUND_MM, AROUND_MM, fill=True)
    canvas.setFillColorRGB(0, 0, 0)
    for mark in face.mark_regions:
        trace(canvas, mark, AROUND_MM, AROUND_MM, fill=True)
    canvas.setStrokeColorRGB(0, 0, 0)
    canvas.setLineWidth(0.25)
    left, low, right, high = (v + AROUND_MM for v in face.contour.bounds)
    for x in (left, right):
        for y, way in ((low, -1), (high, 1)):
            a, b = y + way * CROP_AWAY_MM, y + way * (CROP_AWAY_MM + CROP_MM)
            canvas.line(x * POINT, a * POINT, x * POINT, b * POINT)
    for y in (low, high):
        for x, way in ((left, -1), (right, 1)):
            a, b = x + way * CROP_AWAY_MM, x + way * (CROP_AWAY_MM + CROP_MM)
            canvas.line(a * POINT, y * POINT, b * POINT, y * POINT)
    draw(canvas, AROUND_MM * POINT, 3 * POINT, f"{face.name}: print at 100 %", 7)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def face_cuts(face: Face, marks: bool = True) -> Cuts:
    """The contour in the frame of the page, with its marks as lines that are not cut."""
    guides = [cuts_round(m, "guide") for m in face.mark_regions] if marks else []
    return together([cuts_round(face.contour), *guides])
