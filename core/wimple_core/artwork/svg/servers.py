"""Gradients and patterns as the flat colours that stand for them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise

import numpy as np
import shapely
from lxml import etree
from shapely.geometry.base import BaseGeometry

from .coordinates import IDENTITY, Affine, multiply, read_px, read_transform
from .frame import transformed
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
    ramp = _ramp(server, by_id, sheet)
    if ramp is None:
        return None
    grid = np.linspace(0, 1, 101)
    mean, opacity = _mean_colour(*ramp, grid)
    return (mean, opacity) if opacity > 0 else None


Ramp = tuple[list[float], "np.ndarray", list[float]]
"""Places from 0 to 1, colours (n, 3) and opacities of a gradient's stops."""


def _ramp(server: etree._Element, by_id: Mapping[str, etree._Element], sheet: StyleSheet) -> Ramp | None:
    base = {**INHERITED, **OWN}
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
    return (at, np.array(colours), alphas) if at else None


def _mean_colour(at: list[float], colours: np.ndarray, alphas: list[float], places: np.ndarray) -> tuple[str, float]:
    """Mean colour and mean opacity of a ramp over some places."""
    weight = np.interp(places, at, alphas)
    if weight.sum() <= 0:
        return "#000000", 0.0
    mean = [float((np.interp(places, at, colours[:, i]) * weight).sum() / weight.sum()) for i in range(3)]
    return "#" + "".join(f"{round(c):02x}" for c in mean), float(weight.mean())


def _attribute(server: etree._Element, by_id: Mapping[str, etree._Element], name: str) -> str | None:
    """An attribute of a gradient, or of the one it is made after."""
    for _ in range(20):
        if server.get(name) is not None:
            return str(server.get(name))
        href = (server.get("href") or server.get(XLINK_HREF) or "").strip()
        following = by_id.get(href[1:]) if href.startswith("#") else None
        if following is None:
            return None
        server = following
    return None


def bands(
    server: etree._Element,
    by_id: Mapping[str, etree._Element],
    sheet: StyleSheet,
    bounds: tuple[float, float, float, float],
    count: int,
) -> list[tuple[BaseGeometry, str]]:
    """A gradient in `count` flat steps over what lies in `bounds` (user units), each band with its mean colour.

    They are to be laid over one another in this order: the first covers everything, each one after less of it.
    """
    ramp = _ramp(server, by_id, sheet)
    if ramp is None:
        return []
    left, top, right, low = bounds
    whole = shapely.box(left - 1, top - 1, right + 1, low + 1)
    boxed = _attribute(server, by_id, "gradientUnits") != "userSpaceOnUse"
    unit: Affine = (right - left, 0.0, 0.0, low - top, left, top) if boxed else IDENTITY
    own = read_transform(_attribute(server, by_id, "gradientTransform")) or IDENTITY
    matrix = multiply(unit, own)
    if abs(matrix[0] * matrix[3] - matrix[1] * matrix[2]) < 1e-12:
        return []

    def number(name: str, default: str) -> float:
        return read_px(_attribute(server, by_id, name) or default, 1.0) or 0.0

    edges = np.linspace(0, 1, count + 1)
    shade = [_mean_colour(*ramp, np.linspace(a, b, 21))[0] for a, b in pairwise(edges)]
    out: list[tuple[BaseGeometry, str]] = [(whole, shade[-1])]
    if server.tag == f"{SVG}radialGradient":
        cx, cy, r = number("cx", "50%"), number("cy", "50%"), number("r", "50%")
        fx, fy = (number(n, str(c)) for n, c in (("fx", cx), ("fy", cy)))
        turn = np.linspace(0, 2 * math.pi, 145)[:-1]
        for i in range(count - 1, 0, -1):
            t = float(edges[i])
            middle = np.array([fx + (cx - fx) * t, fy + (cy - fy) * t])
            ring = middle + r * t * np.column_stack([np.cos(turn), np.sin(turn)])
            out.append((transformed(shapely.Polygon(ring), matrix), shade[i - 1]))
        return out
    a = np.array([number("x1", "0%"), number("y1", "0%")])
    b = np.array([number("x2", "100%"), number("y2", "0%")])
    along = b - a
    if not along.any():
        return []
    across = np.array([-along[1], along[0]])
    far = 1e3
    for i in range(count - 1, 0, -1):
        at = a + along * float(edges[i])
        corners = np.array(
            [at - far * across, at + far * across, at + far * (across - along), at - far * (across + along)]
        )
        out.append((transformed(shapely.Polygon(corners), matrix), shade[i - 1]))
    return out
