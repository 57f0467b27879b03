"""A surface laid flat in several pieces: the sections of a stack, the gores of a belly, the petals of a dome.

Artwork is laid on one of them as if it went on, brought back to the surface's own coordinates, cut along the joints
and laid out
piece by piece.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import mended
from ..arrays import Array
from ..overlay import intersection, together, union
from .frustum import LEAST_TAPER, develop, undevelop
from .surface import RoundWall, Surface

GAP_MM = 6.0
"""Between pieces on the template."""


FINE_MM = 1.5
"""Longest edge laid out by its ends alone: chords then stay within a hundredth of their curve on anything a hand
decorates."""


SURFACE_GRID = 1e-8
"""Places on a surface nearer than this, in radians or mm, are one."""


Forth = Callable[[Array, Array], tuple[Array, Array]]


@dataclass(frozen=True, eq=False)
class Piece:
    """One piece: where it lies in surface coordinates (`region`), how it is laid flat and back, and where it stands
    on the template."""

    region: BaseGeometry
    forth: Forth
    back: Forth
    shift: tuple[float, float]
    box: tuple[float, float, float, float]

    def flat(self, a: Array, s: Array) -> tuple[Array, Array]:
        """Surface coordinates to the template."""
        x, y = self.forth(a, s)
        return x + self.shift[0], y + self.shift[1]

    def surface(self, x: Array, y: Array) -> tuple[Array, Array]:
        """And back."""
        return self.back(x - self.shift[0], y - self.shift[1])


@dataclass(frozen=True, eq=False)
class Pieces:
    """A surface in pieces. `locally` gives the one smooth surface on which artwork at a height is laid before it is
    cut; `radius_at`
    the mm to a unit of `a`."""

    pieces: tuple[Piece, ...]
    locally: Callable[[float], Surface]
    radius_at: Callable[[float], float]
    closed: bool = True
    k: float = 0.0
    middle: float = 0.0
    """The angle round which it is laid out: places are taken on the turn that has it in its middle."""

    def scale_at(self, s: float) -> float:
        return self.radius_at(s)

    @property
    def cuts(self) -> tuple[float, ...]:
        """The angles at which pieces that stand side by side meet, but for the seam."""
        if not self.closed:
            return ()
        return tuple(sorted({float(p.region.bounds[0]) for p in self.pieces})[1:])

    def develop(self, a: Array, s: Array) -> tuple[Array, Array]:
        """Points (n,) to the template, each on the piece it belongs to."""
        x, y = np.zeros_like(np.asarray(a, float)), np.zeros_like(np.asarray(a, float))
        turn = np.asarray(a, float)
        if self.closed:
            turn = (turn - self.middle + math.pi) % (2 * math.pi) - math.pi + self.middle
        left = np.ones(len(x), dtype=bool)
        for piece in self.pieces:
            mine = left & shapely.intersects_xy(piece.region.buffer(1e-9), turn, s)
            x[mine], y[mine] = piece.flat(turn[mine], s[mine])
            left &= ~mine
        if left.any():
            nearest = self.pieces[0 if float(np.mean(s)) < self.pieces[0].region.bounds[3] else -1]
            x[left], y[left] = nearest.flat(turn[left], s[left])
        return x, y

    def wrap(self, x: Array, y: Array) -> tuple[Array, Array]:
        """Points of the template back, each by the piece in whose box it stands, or the nearest one."""
        x, y = np.asarray(x, float), np.asarray(y, float)
        boxes = np.array([p.box for p in self.pieces])
        dx = np.maximum(np.maximum(boxes[:, None, 0] - x, x - boxes[:, None, 2]), 0)
        dy = np.maximum(np.maximum(boxes[:, None, 1] - y, y - boxes[:, None, 3]), 0)
        mine = np.argmin(dx + dy, axis=0)
        a, s = np.empty_like(x), np.empty_like(x)
        for i, piece in enumerate(self.pieces):
            here = mine == i
            if here.any():
                a[here], s[here] = piece.surface(x[here], y[here])
        return a, s

    def lay_out(self, region: BaseGeometry, to_surface: Forth) -> BaseGeometry:
        """A region, laid on one smooth surface, cut along the joints and laid out. `to_surface` brings its points to
        surface coordinates."""
        if region.is_empty:
            return region
        fine = shapely.segmentize(region, FINE_MM)
        own = shapely.transform(fine, lambda p: np.column_stack(to_surface(p[:, 0], p[:, 1])))
        own = mended(own, SURFACE_GRID)[0]
        turns = [0.0]
        if self.closed:
            left, right = own.bounds[0], own.bounds[2]
            low, high = self.middle - math.pi - right, self.middle + math.pi - left
            turns = [
                2 * math.pi * n for n in range(math.floor(low / (2 * math.pi)) + 1, math.ceil(high / (2 * math.pi)))
            ] or [0.0]
        out = []
        for piece in self.pieces:
            for turn in turns:
                moved = shapely.transform(own, lambda p, t=turn: p + (t, 0)) if turn else own  # type: ignore[misc]
                part = intersection(moved, piece.region, SURFACE_GRID)
                if part.is_empty or part.area == 0:
                    continue
                polygons = [g for g in shapely.get_parts(part) if g.geom_type == "Polygon"]
                for g in polygons:
                    unit = (max(self.radius_at(g.centroid.y), 1.0), 1.0) if self.closed else (1.0, 1.0)
                    dense = shapely.segmentize(shapely.transform(g, lambda p, u=unit: p * u), FINE_MM)  # type: ignore[misc]
                    out.append(
                        shapely.transform(
                            dense, lambda p, q=piece, u=unit: np.column_stack(q.flat(p[:, 0] / u[0], p[:, 1]))
                        )
                    )  # type: ignore[misc]
        return union([mended(g)[0] for g in out]) if out else shapely.MultiPolygon()

    def turned(self, points: Array, by: float) -> Array:
        """Points of the template moved round the surface, each to the piece it comes to."""
        a, s = self.wrap(points[:, 0], points[:, 1])
        return np.column_stack(self.develop(a + by, s))

    def outline(self) -> BaseGeometry:
        """All pieces on the template."""
        return together(_laid(p) for p in self.pieces)


def _laid(piece: Piece) -> BaseGeometry:
    left, low, right, high = piece.region.bounds
    if piece.region.area > (right - left) * (high - low) * (1 - 1e-9):
        a, s = np.linspace(left, right, 241), np.linspace(low, high, 241)
        edge = np.concatenate(
            [
                np.column_stack([a, np.full(241, low)]),
                np.column_stack([np.full(241, right), s]),
                np.column_stack([a[::-1], np.full(241, high)]),
                np.column_stack([np.full(241, left), s[::-1]]),
            ]
        )
    else:
        edge = shapely.get_coordinates(shapely.segmentize(piece.region.exterior, 0.5))
    laid = shapely.Polygon(np.column_stack(piece.flat(edge[:, 0], edge[:, 1])))
    return mended(laid)[0]


def placed_piece(region: BaseGeometry, forth: Forth, back: Forth, at: tuple[float, float], anchor: str) -> Piece:
    """A piece whose laid-out box starts at `at` (its left for gores in a row, its low edge for sections in a pile)."""
    loose = Piece(region, forth, back, (0.0, 0.0), (0, 0, 0, 0))
    left, low, right, high = _laid(loose).bounds
    shift = (at[0] - left, at[1]) if anchor == "left" else (at[0], at[1] - low)
    return Piece(region, forth, back, shift, (left + shift[0], low + shift[1], right + shift[0], high + shift[1]))


def sections(
    joints: Array, walls: tuple[RoundWall, ...], lower: tuple[float, ...], left: float, right: float, overlap: float
) -> Pieces:
    """The developable sections of a stack, piled up on the template from the lowest.

    `joints` (n + 1,) are the heights along the side between them, `walls` (n,) each section's own cone with its
    radius at its lower end, `lower`
    the height at which each of them starts. With `overlap` every piece but the lowest reaches that far below its joint.
    """
    out: list[Piece] = []
    up = 0.0
    for i, wall in enumerate(walls):
        s0, s1 = float(joints[i]) - (overlap if i else 0.0), float(joints[i + 1])

        def forth(a: Array, s: Array, w: RoundWall = wall, z: float = lower[i]) -> tuple[Array, Array]:
            return develop(a, s - z, w.r0, w.k)

        def back(x: Array, y: Array, w: RoundWall = wall, z: float = lower[i]) -> tuple[Array, Array]:
            a, s = undevelop(x, y, w.r0, w.k)
            return a, s + z

        piece = placed_piece(shapely.box(left, s0, right, s1), forth, back, (0.0, up), "low")
        out.append(piece)
        up = piece.box[3] + GAP_MM

    def which(s: float) -> int:
        return int(np.clip(np.searchsorted(joints, s, side="right") - 1, 0, len(walls) - 1))

    def locally(s: float) -> Surface:
        i = which(s)
        w, z = walls[i], lower[i]
        return RoundWall(w.r0 - w.k * z, w.k)

    def radius_at(s: float) -> float:
        i = which(s)
        return walls[i].r0 + walls[i].k * (s - lower[i])

    return Pieces(tuple(out), locally, radius_at, middle=(left + right) / 2)


def wall_of(r0: float, r1: float, length: float) -> RoundWall:
    """The wall between two radii, `length` apart along the side."""
    k = (r1 - r0) / length
    return RoundWall(r0, 0.0 if abs(k) < LEAST_TAPER else k)
