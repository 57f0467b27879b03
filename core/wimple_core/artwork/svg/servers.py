"""Gradients and patterns as the one colour that stands for them."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from lxml import etree

from .coordinates import read_px
from .safety import SVG, XLINK_HREF
from .style import INHERITED, OWN, StyleSheet, cascade, own_style, read_colour


def _stops(server: etree._Element, by_id: Mapping[str, etree._Element]) -> list[etree._Element]:
    for _ in range(20):
        stops: list[etree._Element] = server.findall(f"{SVG}stop")
        if stops:
            return stops
        href = (server.get("href") or server.get(XLINK_HREF) or "").strip()
        following = by_id.get(href[1:]) if href.startswith("#") else None
        if following is None:
            break
        server = following
    return []


def flat_colour(
    server: etree._Element, by_id: Mapping[str, etree._Element], sheet: StyleSheet
) -> tuple[str, float] | None:
    """The mean colour of a gradient over its length, or a pattern's first colour; None where it paints nothing."""
    base = {**INHERITED, **OWN}
    if server.tag == f"{SVG}pattern":
        for el in server.iter(etree.Element):
            style = cascade(base, own_style(el, sheet))
            for name in ("fill", "stroke"):
                explicit = own_style(el, sheet).get(name)
                found = read_colour(style[name]) if explicit and explicit != "none" else None
                if found and found[1] > 0:
                    return found
        return None
    at: list[float] = []
    colours: list[list[int]] = []
    alphas: list[float] = []
    for stop in _stops(server, by_id):
        style = cascade(base, own_style(stop, sheet))
        colour = style["stop-color"] if style["stop-color"].lower() != "currentcolor" else style["color"]
        hexed, alpha = read_colour(colour) or ("#000000", 1.0)
        opacity = read_px(style["stop-opacity"], 1.0)
        place = min(1.0, max(0.0, read_px(stop.get("offset"), 1.0) or 0.0))
        at.append(max(place, at[-1]) if at else place)
        colours.append([int(hexed[i : i + 2], 16) for i in (1, 3, 5)])
        alphas.append(alpha * (1.0 if opacity is None else min(1.0, max(0.0, opacity))))
    if not at:
        return None
    grid = np.linspace(0, 1, 101)
    weight = np.interp(grid, at, alphas)
    if weight.sum() <= 0:
        return None
    mean = [float((np.interp(grid, at, np.array(colours)[:, i]) * weight).sum() / weight.sum()) for i in range(3)]
    return "#" + "".join(f"{round(c):02x}" for c in mean), float(weight.mean())
