"""Basic shapes and paths of SVG as flattened lines."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from lxml import etree

from . import paths
from .coordinates import read_px
from .frame import Frame, name_of

TakeNote = Callable[[str, str, str], None]
"""Takes down a code, what it was, and why it was not taken as it stood."""


def length_px(
    el: etree._Element, own: dict[str, str], name: str, frame: Frame, note: TakeNote, default: float = 0.0
) -> float:
    """A geometry attribute of an element in user units, percentages of the viewport; noted where it is no length."""
    text = own.get(name, el.get(name))
    if text is None or text == "auto":
        return default
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

    kind = etree.QName(el).localname
    if kind == "path":
        d = own.get("d") or el.get("d") or ""
        found, whole = paths.flatten_path(d, tolerance)
        if not whole:
            note("path", name_of(el), "its path is damaged: it is drawn up to the damage")
        return found
    if kind in ("polyline", "polygon"):
        found, whole = paths.flatten_points(el.get("points") or "", kind == "polygon")
        if not whole:
            note("path", name_of(el), "its points are damaged: some are left out")
        return found
    if kind == "line":
        return [paths.Polyline(np.array([[get("x1"), get("y1")], [get("x2"), get("y2")]]), False)]
    if kind == "rect":
        w, h = get("width"), get("height")
        rx, ry = length_px(el, own, "rx", frame, note, -1), length_px(el, own, "ry", frame, note, -1)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        return paths.rectangle(get("x"), get("y"), w, h, rx, ry, tolerance) if w > 0 and h > 0 else []
    if kind == "circle":
        r = get("r")
        return paths.ellipse(get("cx"), get("cy"), r, r, tolerance) if r > 0 else []
    rx, ry = length_px(el, own, "rx", frame, note, -1), length_px(el, own, "ry", frame, note, -1)
    rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
    return paths.ellipse(get("cx"), get("cy"), rx, ry, tolerance) if rx > 0 and ry > 0 else []
