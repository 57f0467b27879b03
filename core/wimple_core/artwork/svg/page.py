"""The size of a drawing's page."""

from __future__ import annotations

from typing import cast

from lxml import etree

from ...errors import BadDrawing
from .coordinates import MM_PER_PX, read_px, read_view_box
from .safety import parse_svg


def page_size_px(root: etree._Element) -> tuple[float, float, tuple[float, float, float, float] | None, bool]:
    """Width and height of the page in px, its view box, and whether the file says its size itself."""
    view = read_view_box(root.get("viewBox"))
    w = read_px(root.get("width"), view[2] if view else 0.0) if "%" not in (root.get("width") or "%") else None
    h = read_px(root.get("height"), view[3] if view else 0.0) if "%" not in (root.get("height") or "%") else None
    sized = bool(w and h)
    for name, value in (("width", w), ("height", h)):
        if value is not None and value <= 0:
            raise BadDrawing(
                f"The drawing's {name} is {root.get(name)}.",
                hint="A page has a size above zero: set it in the drawing program and save again.",
            )
    if view:
        if w is None and h is None:
            w, h = view[2], view[3]
        elif w is None:
            w = cast(float, h) * view[2] / view[3]
        elif h is None:
            h = w * view[3] / view[2]
    return w or 0.0, h or 0.0, view, sized


def svg_page_width(data: bytes) -> float | None:
    """How wide (mm) the page of an SVG file is; None where that cannot be told."""
    try:
        width = page_size_px(parse_svg(data))[0] * MM_PER_PX
    except BadDrawing:
        return None
    return width if 0 < width < MOST_MM else None


MOST_MM = 1e6
"""No page is wider."""
