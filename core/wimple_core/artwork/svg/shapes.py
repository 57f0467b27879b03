"""Basic shapes and paths of SVG as flattened lines."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from lxml import etree

from ..limits import FURTHEST_MM, too_far
from . import paths
from .coordinates import largest_scale, read_px
from .frame import Frame, name_of, positive

TakeNote = Callable[[str, str, str], None]
"""Takes down a code, what it was, and why it was not taken as it stood."""


def length_px(
    el: etree._Element, own: dict[str, str], name: str, frame: Frame, note: TakeNote, default: float = 0.0
) -> float:
    """A geometry attribute of an element in user units, percentages of the viewport; noted where it is no length."""
    text = own.get(name, el.get(name))
    if text is None or text == "auto":
        return default
    if text.replace(".", "", 1).isdigit() and len(text) < 100:
        return float(text)
    size = read_px(frame.style["font-size"], 16.0) or 16.0
    reference = frame.width if name in ("x", "cx", "width", "rx", "x1", "x2") else frame.height
    if name == "r":
        reference = math.hypot(frame.width, frame.height) / math.sqrt(2)
    value = read_px(text, reference, size)
    if value is None:
        note("number", f"{name}=“{text[:40]}”", "it is not a length, so the usual value stands in")
        return default
    return value


def shape_lines(
    el: etree._Element, own: dict[str, str], frame: Frame, tolerance: float, note: TakeNote
) -> list[paths.Polyline]:
    """A basic shape or path, flattened, in user units."""

    def get(name: str) -> float:
        return length_px(el, own, name, frame, note)

    def seen(points: np.ndarray) -> bool:
        points = points[np.isfinite(points).all(axis=1)]
        if not len(points):
            return True
        (left, low), (right, high) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return in_view(left, low, right, high, el, frame)

    def corners(x: float, y: float, w: float, h: float) -> bool:
        return in_view(x, y, x + w, y + h, el, frame)

    kind = etree.QName(el).localname
    if kind == "path":
        d = own.get("d") or el.get("d") or ""
        found, whole = paths.flatten_path(d, tolerance, seen)
        if not whole:
            note("path", name_of(el), "its path is damaged: it is drawn up to the damage")
        return found
    if kind in ("polyline", "polygon"):
        found, whole = paths.flatten_points(el.get("points") or "", kind == "polygon")
        if not whole:
            note("path", name_of(el), "its points are damaged: some are left out")
        return [line for line in found if seen(line.points)]
    if kind == "line":
        ends = np.array([[get("x1"), get("y1")], [get("x2"), get("y2")]])
        return [paths.Polyline(ends, False)] if seen(ends) else []
    if kind == "rect":
        x, y, w, h = get("x"), get("y"), get("width"), get("height")
        rx, ry = length_px(el, own, "rx", frame, note, -1), length_px(el, own, "ry", frame, note, -1)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        return paths.rectangle(x, y, w, h, rx, ry, tolerance) if w > 0 and h > 0 and corners(x, y, w, h) else []
    cx, cy = get("cx"), get("cy")
    if kind == "circle":
        rx = ry = get("r")
    else:
        rx, ry = length_px(el, own, "rx", frame, note, -1), length_px(el, own, "ry", frame, note, -1)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
    if rx <= 0 or ry <= 0 or not corners(cx - rx, cy - ry, 2 * rx, 2 * ry):
        return []
    return paths.ellipse(cx, cy, rx, ry, tolerance)


def in_view(x0: float, y0: float, x1: float, y1: float, el: etree._Element, frame: Frame) -> bool:
    """May anything of an element within a box, in user units, be seen? What lies beside what it is cut off at by more
    than that is large is not looked at. Raises BadDrawing where it is out of reach."""
    a, b, c, d, e, f = frame.matrix
    # Of a box turned anyhow the middle and half its size each way.
    mx, my, hx, hy = (x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 2, (y1 - y0) / 2
    px, py = a * mx + c * my + e, b * mx + d * my + f
    rx, ry = abs(a) * hx + abs(c) * hy, abs(b) * hx + abs(d) * hy
    wide = 0.0
    if frame.style["stroke"] != "none":
        wide = (read_px(frame.style["stroke-width"], frame.width) or 0.0) * largest_scale(frame.matrix)
        wide *= max(1.0, positive(frame.style["stroke-miterlimit"], 4.0))
    if not (abs(px) + rx <= FURTHEST_MM and abs(py) + ry <= FURTHEST_MM and abs(wide) <= FURTHEST_MM):
        raise too_far(name_of(el))
    if frame.box is None:
        return True
    left, low, right, high = frame.box
    beside = max(right - left, high - low) + wide
    return not (
        px - rx > right + beside or px + rx < left - beside or py - ry > high + beside or py + ry < low - beside
    )
