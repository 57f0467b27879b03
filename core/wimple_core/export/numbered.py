"""Pieces with their numbers on paper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from reportlab.pdfgen.canvas import Canvas

from .pdf import INK, POINT
from .type import draw, width_of

MOST_NUMBERED = 1500
_TALL = 0.72
"""How tall figures are against the size of their type."""
_CELL = 8.0
_AWAY = 0.4
"""A number stands so far beside its piece, mm on paper."""


@dataclass(frozen=True)
class Frame:
    """Where a drawing stands: lower left corner and scale, mm of paper for a mm of film, and the film's own lower left
    corner."""

    x: float
    y: float
    scale: float
    left: float
    low: float

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A place of the film in points on the page."""
        return (self.x + (x - self.left) * self.scale) * POINT, (self.y + (y - self.low) * self.scale) * POINT


def put_numbers(
    canvas: Canvas, pieces: NDArray[np.object_], numbers: Sequence[int], frame: Frame, size: float = 5.0, step: int = 0
) -> None:
    """Numbers on the pieces (n,), the lowest first, or beside those that are too small to bear one, on the side where
    they lie over nothing. Where there is no such side they are left out; with a `step` every number with which that
    many begin stands in any case. `size` in points."""
    some = np.argsort(numbers, kind="stable")[:MOST_NUMBERED]
    at = (shapely.get_coordinates(shapely.point_on_surface(pieces)) - (frame.left, frame.low)) * frame.scale
    boxes = (shapely.bounds(pieces) - 2 * (frame.left, frame.low)) * frame.scale
    words = [str(n) for n in numbers]
    wide = np.array([width_of(w, size) for w in words]) / POINT
    tall = _TALL * size / POINT
    # The lower left of each number: on its piece, then to the right of it, to the left, above and below.
    on = at - np.column_stack([wide / 2, np.full(len(at), tall / 2)])
    right = np.column_stack([boxes[:, 2] + _AWAY, at[:, 1] - tall / 2])
    left = np.column_stack([boxes[:, 0] - _AWAY - wide, at[:, 1] - tall / 2])
    above = np.column_stack([at[:, 0] - wide / 2, boxes[:, 3] + _AWAY])
    below = np.column_stack([at[:, 0] - wide / 2, boxes[:, 1] - _AWAY - tall])
    bears = (boxes[:, 2:] - boxes[:, :2]).min(axis=1) > np.maximum(wide, tall) + 2 * _AWAY
    places = np.stack([right, left, above, below], axis=1)
    rooms = shapely.box(places[..., 0], places[..., 1], places[..., 0] + wide[:, np.newaxis], places[..., 1] + tall)
    real = shapely.transform(pieces, lambda p: (p - (frame.left, frame.low)) * frame.scale)
    hits = np.zeros(rooms.shape, dtype=bool)
    found, _ = shapely.STRtree(real).query(rooms.ravel(), predicate="intersects")
    hits.ravel()[found] = True
    taken = _Taken()
    for n in some.tolist():
        tries = [on[n]] if bears[n] else [places[n, k] for k in range(4) if not hits[n, k]]
        free = (at for at in tries if taken.take((at[0], at[1], at[0] + wide[n], at[1] + tall)))
        place = next(free, right[n] if step and (numbers[n] - 1) % step == 0 else None)
        if place is not None:
            _number(canvas, (frame.x + place[0]) * POINT, (frame.y + place[1]) * POINT, words[n], size)


class _Taken:
    """Boxes on paper that bear a number."""

    def __init__(self) -> None:
        self.cells: dict[tuple[int, int], list[tuple[float, float, float, float]]] = {}

    def take(self, box: tuple[float, float, float, float]) -> bool:
        """Take a box, where it lies over none that is taken; numbers are at most a cell large."""
        x, y = int(box[0] // _CELL), int(box[1] // _CELL)
        near = [b for i in (-1, 0, 1) for j in (-1, 0, 1) for b in self.cells.get((x + i, y + j), ())]
        if any(b[0] < box[2] and box[0] < b[2] and b[1] < box[3] and box[1] < b[3] for b in near):
            return False
        self.cells.setdefault((x, y), []).append(box)
        return True


def _number(canvas: Canvas, x: float, y: float, words: str, size: float) -> None:
    """A number with white round it, so that it is read on any line."""
    for white in (True, False):
        canvas.saveState()
        canvas.setFillColorRGB(*((1, 1, 1) if white else INK))
        canvas.setStrokeColorRGB(1, 1, 1)
        canvas.setLineWidth(1.0)
        canvas.setLineJoin(1)
        draw(canvas, x, y, words, size, outlined=white)
        canvas.restoreState()
