"""Bodies cut into gores and petals, each laid flat by itself."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from .pieces import GAP_MM, Forth, Piece, Pieces, placed_piece
from .surface import Flat, RoundWall


def gore_map(
    radius: Callable[[Array], Array], slope: Callable[[Array], Array], middle: float = 0.0
) -> tuple[Forth, Forth]:
    """One gore of a body turned on its axis, forth and back: true along its middle and along every level line, which
    lies as on
    the cone that touches the body there (the polyconic projection of cartography).

    With `k = r'(s)` and `t = a - middle`: `x = r t sinc(k t)`, `y = s - (r k t^2 / 2) sinc(k t / 2)^2`.
    """

    def forth(a: Array, s: Array) -> tuple[Array, Array]:
        t, r, k = np.asarray(a, float) - middle, radius(s), slope(s)
        half = k * t / 2
        return r * t * np.sinc(2 * half / math.pi), s - r * k * t * t / 2 * np.sinc(half / math.pi) ** 2

    def back(x: Array, y: Array) -> tuple[Array, Array]:
        s = np.asarray(y, float).copy()
        t = np.zeros_like(s)
        for _ in range(40):
            r, k = np.maximum(radius(s), 1e-9), slope(s)
            turn = np.clip(x * k / r, -1.0, 1.0)
            t = np.where(np.abs(k) > 1e-9, np.arcsin(turn) / np.where(np.abs(k) > 1e-9, k, 1.0), x / r)
            half = k * t / 2
            ahead = y + r * k * t * t / 2 * np.sinc(half / math.pi) ** 2
            if np.abs(ahead - s).max(initial=0.0) < 1e-11:
                break
            s = ahead
        return middle + t, s

    return forth, back


def _in_a_row(loose: Sequence[tuple[BaseGeometry, Forth, Forth]]) -> tuple[Piece, ...]:
    """Pieces side by side, the row's middle at x = 0."""
    out: list[Piece] = []
    at = 0.0
    for region, forth, back in loose:
        piece = placed_piece(region, forth, back, (at, 0.0), "left")
        out.append(piece)
        at = piece.box[2] + GAP_MM
    shift = -out[-1].box[2] / 2
    return tuple(
        Piece(
            p.region,
            p.forth,
            p.back,
            (p.shift[0] + shift, p.shift[1]),
            (p.box[0] + shift, p.box[1], p.box[2] + shift, p.box[3]),
        )
        for p in out
    )


def gores(
    count: int,
    span: tuple[float, float],
    heights: tuple[float, float],
    radius: Callable[[Array], Array],
    slope: Callable[[Array], Array],
    flat_start: RoundWall,
) -> Pieces:
    """A body turned on its axis, between two angles and two heights along the side, as `count` gores side by side,
    whose edges meet."""
    left, right = span
    wide = (right - left) / count
    loose = []
    for i in range(count):
        at = left + i * wide
        loose.append((shapely.box(at, heights[0], at + wide, heights[1]), *gore_map(radius, slope, at + wide / 2)))
    middle = (left + right) / 2
    return Pieces(_in_a_row(loose), lambda s: flat_start, lambda s: float(radius(np.array([s]))[0]), middle=middle)


def petals(count: int, sphere: float, reach: float) -> Pieces:
    """A dome as `count` petals: gores from its middle out; surface coordinates are its plan laid out by true
    distances (x, y)."""
    wide = 2 * math.pi / count
    loose = []
    for i in range(count):
        middle = math.pi / 2 - i * wide
        t = np.linspace(middle - wide / 2, middle + wide / 2, max(4, 360 // count))
        region = shapely.Polygon([(0.0, 0.0), *np.column_stack([reach * np.cos(t), reach * np.sin(t)])])
        gore_forth, gore_back = gore_map(lambda p: sphere * np.sin(p / sphere), lambda p: np.cos(p / sphere))

        def forth(x: Array, y: Array, m: float = middle, to: Forth = gore_forth) -> tuple[Array, Array]:
            p = np.hypot(x, y)
            turn = (m - np.arctan2(y, x) + math.pi) % (2 * math.pi) - math.pi
            return to(np.where(p < 1e-9, 0.0, turn), p)

        def back(x: Array, y: Array, m: float = middle, of: Forth = gore_back) -> tuple[Array, Array]:
            turn, p = of(x, y)
            return p * np.cos(m - turn), p * np.sin(m - turn)

        loose.append((region, forth, back))
    return Pieces(_in_a_row(loose), lambda s: Flat(), lambda s: 1.0, closed=False)
