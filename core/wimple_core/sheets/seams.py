"""Where large work is parted: lines through free space, straight or stepped, found by least cost on a grid.

A line runs from end to end through its window. Going through a piece costs by its length there, through a letter ten
times as much, near a piece a little, and every step aside something, so that it is straight where it can be.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import ndimage

from ..arrays import Array

CELL_MM = 1.0
MOST_ROWS = 1200
"""A window is looked at in no more rows: so long a line is fine enough."""
CLEAR_MM = 1.5
"""Lines keep so far from pieces where there is room."""
FREE, NEAR, PIECE, LETTER = 0.01, 1.0, 40.0, 400.0
"""What a millimetre of line costs in free space, near a piece, in one, and in a letter."""
STEP = 4.0
"""What a step aside costs."""
CENTRED = 0.0005
"""What a millimetre costs for each that it lies off the middle of its window."""


@dataclass(frozen=True)
class Window:
    """Where a line may run: between two places across, from one end to the other along, mm."""

    left: float
    right: float
    low: float
    high: float

    @property
    def rise(self) -> float:
        """How high a cell is, mm: on a long window higher than wide."""
        return max(CELL_MM, (self.high - self.low) / MOST_ROWS)


def covered(parts: NDArray[np.object_], window: Window) -> NDArray[np.bool_]:
    """Whether the middle of each cell (rows, columns) of a window lies in any of some parts that do not overlap: by
    how many edges lie left of it."""
    rise = window.rise
    rows = max(int(np.ceil((window.high - window.low) / rise - 1e-9)), 1)
    columns = max(int(np.ceil((window.right - window.left) / CELL_MM)), 1)
    count = np.zeros((rows, columns + 1), dtype=np.int32)
    if not len(parts):
        return count[:, :columns].astype(bool)
    rings = shapely.get_rings(parts)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    keep = ring[1:] == ring[:-1]
    start, end = points[:-1][keep], points[1:][keep]
    up = start[:, 1] != end[:, 1]
    start, end = start[up], end[up]
    low, high = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
    first = np.clip(np.ceil((low - window.low) / rise - 0.5), 0, rows).astype(np.int64)
    last = np.clip(np.ceil((high - window.low) / rise - 0.5), 0, rows).astype(np.int64)
    many = last - first
    of = np.repeat(np.arange(len(many)), many)
    row = np.arange(len(of)) - np.repeat(np.cumsum(many) - many, many) + first[of]
    y = window.low + (row + 0.5) * rise
    x = start[of, 0] + (y - start[of, 1]) * (end[of, 0] - start[of, 0]) / (end[of, 1] - start[of, 1])
    column = np.clip(np.ceil((x - window.left) / CELL_MM - 0.5), 0, columns).astype(np.int64)
    np.add.at(count, (row, column), 1)
    out: NDArray[np.bool_] = np.cumsum(count, axis=1)[:, :columns] % 2 == 1
    return out


def cost_of(parts: NDArray[np.object_], letters: NDArray[np.bool_], window: Window) -> Array:
    """What a millimetre of line costs in each cell (rows, columns) of a window."""
    every = covered(parts, window)
    wide, high = int(np.ceil(CLEAR_MM / CELL_MM)), int(np.ceil(CLEAR_MM / window.rise))
    near = ndimage.binary_dilation(every, np.ones((2 * high + 1, 2 * wide + 1)))
    cost = np.where(near, NEAR, FREE)
    cost[every] = PIECE
    if letters.any():
        cost[covered(parts[letters], window)] = LETTER
    columns = np.arange(cost.shape[1])
    out: Array = cost + CENTRED * CELL_MM * np.abs(columns - (cost.shape[1] - 1) / 2)
    return out


def cheapest(cost: Array, rise: float = CELL_MM) -> tuple[NDArray[np.int64], float]:
    """The column in each row (rows,) of the line that costs least from the first row to the last, and what it costs.
    In every row, `rise` mm high, it may go aside first (dynamic programming over rows)."""
    rows, columns = cost.shape
    place = np.arange(columns)
    came = np.empty((rows, columns), dtype=np.int32)
    came[0] = place
    spent = cost[0] * rise
    for row in range(1, rows):
        along = np.cumsum(cost[row]) * CELL_MM
        from_left = spent - along
        best = np.minimum.accumulate(from_left)
        at = np.maximum.accumulate(np.where(from_left == best, place, 0))
        left = best + along + STEP
        from_right = (spent + along)[::-1]
        turned = np.minimum.accumulate(from_right)
        back = (columns - 1 - np.maximum.accumulate(np.where(from_right == turned, place, 0)))[::-1]
        right = turned[::-1] - along + STEP
        came[row] = np.where(spent <= np.minimum(left, right), place, np.where(left <= right, at, back))
        spent = np.minimum(spent, np.minimum(left, right)) + cost[row] * rise
    line = np.empty(rows, dtype=np.int64)
    line[-1] = int(np.argmin(spent))
    for row in range(rows - 1, 0, -1):
        line[row - 1] = came[row, line[row]]
    return line, float(spent.min())


def line_through(parts: NDArray[np.object_], letters: NDArray[np.bool_], window: Window) -> tuple[Array, float]:
    """The line (n, 2) mm that parts some pieces at the least cost within a window, from its low end to its high one,
    and what it costs. `letters` (m,) tells which of the parts (m,) are letters."""
    columns, spent = cheapest(cost_of(parts, letters, window), window.rise)
    x = window.left + (columns + 0.5) * CELL_MM
    steps = np.flatnonzero(np.diff(columns)) + 1
    y = window.low + (steps + 0.5) * window.rise
    out = [(x[0], window.low)]
    for n, height in zip(steps.tolist(), y.tolist(), strict=True):
        out += [(x[n - 1], height), (x[n], height)]
    out.append((x[-1], window.high))
    return np.array(out), spent
