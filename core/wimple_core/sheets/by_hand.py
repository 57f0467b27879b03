"""Sets laid by hand: each where the hand left it, or as near to that as it goes without overlapping; the rest lie round
them, and what is held free stays free."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.signal import fftconvolve

from ..arrays import Array
from ..job.document import HandPlace, HeldFree
from ..job.stock import Turns
from .loads import Box
from .nest import grown
from .shape import Place
from .skyline import TURNED

Mask = NDArray[np.bool_]
CELLS = 200_000
"""A room is looked at in so many cells."""
LEAST_CELL_MM = 0.5
MOST = 1000
"""No more sets than this are laid round others on one load: it is to be there while a hand moves."""
LOOSELY = 2.5
"""So much more than their own area sets take at most, laid one after the other."""
NEAR_MM = 1e-6


@dataclass(frozen=True)
class HandLaid:
    """Copies of an outline: where each lies, which of the hand's places it has (-1 none), and the box from the origin
    round all of them, mm."""

    places: tuple[Place, ...]
    by_hand: tuple[int, ...]
    size: tuple[float, float]


def held_boxes(held: Sequence[HeldFree], width: float, length: float) -> list[Box]:
    """Corners of a room that are held free, as boxes in it, mm."""
    out = []
    for one in held:
        w, h = min(one.width_mm, width), min(one.height_mm, length)
        left = 0.0 if one.corner.endswith("left") else width - w
        low = 0.0 if one.corner.startswith("low") else length - h
        out.append((left, low, left + w, low + h))
    return out


def allowed(turn: float, turns: Turns) -> float:
    """A turn, in degrees, as near to what was wanted as the film lets it be."""
    if turns == "any":
        return turn % 360
    return 0.0 if turns == "never" or math.cos(math.radians(turn)) >= 0 else 180.0


class _Lying:
    """An outline turned: its lower left corner at the origin, and the cells it touches with its gap round it."""

    def __init__(self, outline: Array, turn: float, gap: float, cell: float) -> None:
        there = Place(0, turn, (0.0, 0.0)).of(outline)
        self.turn, self.low = turn, there.min(axis=0)
        self.points = there - self.low
        self.wide, self.tall = self.points.max(axis=0).tolist()
        self.wider = grown(self.points, gap)
        self.shape = shapely.Polygon(self.points)
        left, low, right, high = self.wider.bounds
        self.first = (math.floor(left / cell) - 1, math.floor(low / cell) - 1)
        columns, rows = math.ceil(right / cell) + 1 - self.first[0], math.ceil(high / cell) + 1 - self.first[1]
        self.mask = _touched(self.wider, cell, self.first, (rows, columns))

    def place(self, x: float, y: float) -> Place:
        """Its place with the lower left of its box there."""
        return Place(0, self.turn, (x - float(self.low[0]), y - float(self.low[1])))


def _touched(region: shapely.Polygon, cell: float, first: tuple[int, int], size: tuple[int, int]) -> Mask:
    """The cells (rows, columns) that a region touches, from the cell `first` (across, up) on."""
    # Whatever touches a cell lies less than half its diagonal from its middle.
    wide = shapely.buffer(region, 0.75 * cell, quad_segs=2)
    mask = np.zeros(size, dtype=np.uint8)
    points = np.round(256 * (shapely.get_coordinates(wide.exterior) / cell - first - 0.5)).astype(np.int32)
    cv2.fillPoly(mask, [points], 1, shift=8)
    return mask.astype(bool)


class _Room:
    """A room in cells: what is taken of it, and where something more has room."""

    def __init__(self, width: float, length: float, cell: float, margin: int) -> None:
        self.width, self.length, self.cell, self.margin = width, length, cell, margin
        rows, columns = (math.ceil(side / cell) + 2 * margin for side in (length, width))
        self.size = (rows, columns)
        self.taken = np.zeros(self.size, dtype=bool)

    def take(self, region: shapely.Polygon) -> None:
        """Take what a region touches of it."""
        self.taken |= _touched(region, self.cell, (-self.margin, -self.margin), self.size)

    def free(self, one: _Lying) -> Mask:
        """In which cells (rows, columns) the lower left of its box may lie."""
        columns = math.floor((self.width - one.wide) / self.cell + 1e-9) + 1
        rows = math.floor((self.length - one.tall) / self.cell + 1e-9) + 1
        if columns < 1 or rows < 1:
            return np.zeros((0, 0), dtype=bool)
        x, y = self.margin + one.first[0], self.margin + one.first[1]
        h, w = one.mask.shape
        part = self.taken[y : y + rows + h - 1, x : x + columns + w - 1].astype(np.float32)
        met = fftconvolve(part, one.mask[::-1, ::-1].astype(np.float32), mode="valid")
        out: Mask = met < 0.5
        return out


def lay_by_hand(
    outline: Array,
    turns: Turns,
    gap: float,
    room: tuple[float, float],
    wanted: Sequence[HandPlace],
    held: Sequence[Box],
    count: int,
) -> HandLaid:
    """As many of `count` copies of an outline (n, 2) as go into a room (width, length), mm, but no more than MOST:
    those of the hand first, each as near to where it was left as it goes, the rest from the lower edge up round them
    and the boxes held free.
    Nothing overlaps, and every gap holds.
    """
    count = min(count, MOST)
    area = float(shapely.area(grown(outline, gap)))
    across = float(np.hypot(*np.ptp(outline, axis=0))) + gap
    width = room[0]
    top = max([*(h.y_mm + across for h in wanted), *(box[3] for box in held if box[1] <= 0), 0.0])
    length = min(room[1], top + LOOSELY * area * count / width + 2 * across)
    cell = max(LEAST_CELL_MM, math.sqrt(width * length / CELLS))
    # An outline that is turned reaches no further than this beyond its corner.
    margin = math.ceil((gap + 2 * cell) / cell) + 2
    space = _Room(width, length, cell, margin)
    boxes = [shapely.box(*box) for box in held]
    for box in boxes:
        space.take(box)
    lying = {turn: _Lying(outline, turn, gap, cell) for turn in TURNED[turns]}
    places: list[Place] = []
    by_hand: list[int] = []
    put: list[shapely.Polygon] = []
    tops: list[tuple[float, float]] = []

    def lay(one: _Lying, x: float, y: float, hand: int) -> None:
        places.append(one.place(x, y))
        by_hand.append(hand)
        put.append(shapely.transform(one.shape, lambda p: p + (x, y)))
        tops.append((x + one.wide, y + one.tall))
        space.take(shapely.transform(one.wider, lambda p: p + (x, y)))

    pushed = []
    for hand, want in enumerate(wanted):
        if len(places) == count:
            break
        turn = allowed(want.turn_deg, turns)
        one = lying.get(turn) or _Lying(outline, turn, gap, cell)
        there = _left(one, want, space)
        if there is not None and _goes(one, there, put, boxes, gap):
            lay(one, *there, hand)
        elif there is not None:
            pushed.append((hand, one, there))
    # What lies in the way of others only gives way once they lie.
    for hand, one, there in pushed[: count - len(places)]:
        at = _nearest(one, there, space)
        if at is not None:
            lay(one, *at, hand)
    # Where one may lie is looked up once; each that is laid takes of it what keeps the next off.
    free = {turn: space.free(one) for turn, one in lying.items()} if len(places) < count else {}
    between: dict[tuple[float, float], tuple[Mask, tuple[int, int]]] = {}
    while len(places) < count:
        found = [
            (row * cell + lying[turn].tall, column, row, turn)
            for turn, mask in free.items()
            if mask.size and mask.any()
            for row, column in [divmod(int(mask.argmax()), mask.shape[1])]
        ]
        if not found:
            break
        _, column, row, turn = min(found)
        lay(lying[turn], column * cell, row * cell, -1)
        for other, mask in free.items():
            if (turn, other) not in between:
                between[turn, other] = _keeps_off(lying[turn], lying[other])
            off, (dx, dy) = between[turn, other]
            _strike(mask, off, row + dy, column + dx)
    return HandLaid(
        tuple(places), tuple(by_hand), (max((x for x, _ in tops), default=0.0), max((y for _, y in tops), default=0.0))
    )


def _keeps_off(one: _Lying, other: _Lying) -> tuple[Mask, tuple[int, int]]:
    """Where another may not lie beside one that lies at the origin, and the cell (across, up) of its first."""
    met = fftconvolve(one.mask.astype(np.float32), other.mask[::-1, ::-1].astype(np.float32))
    h, w = other.mask.shape
    return met > 0.5, (one.first[0] - other.first[0] - w + 1, one.first[1] - other.first[1] - h + 1)


def _strike(free: Mask, off: Mask, row: int, column: int) -> None:
    """Take cells away from what is free: `off` with its first cell there, as far as it lies inside."""
    top, left = max(row, 0), max(column, 0)
    high, right = min(row + off.shape[0], free.shape[0]), min(column + off.shape[1], free.shape[1])
    if top < high and left < right:
        free[top:high, left:right] &= ~off[top - row : high - row, left - column : right - column]


def _left(one: _Lying, want: HandPlace, space: _Room) -> tuple[float, float] | None:
    """Where the hand left it, kept inside the room; None where it is too large for it."""
    x = min(max(want.x_mm, 0.0), space.width - one.wide)
    y = min(max(want.y_mm, 0.0), space.length - one.tall)
    return None if x < -NEAR_MM or y < -NEAR_MM else (max(x, 0.0), max(y, 0.0))


def _goes(
    one: _Lying, at: tuple[float, float], put: Sequence[shapely.Polygon], held: Sequence[shapely.Polygon], gap: float
) -> bool:
    """Has it room there, off what lies and what is held free?"""
    there = shapely.transform(one.shape, lambda p: p + at)
    beside = not put or (shapely.distance(there, put) >= gap - NEAR_MM).all()
    return bool(beside and (not held or (shapely.distance(there, held) >= gap / 2 - NEAR_MM).all()))


def _nearest(one: _Lying, at: tuple[float, float], space: _Room) -> tuple[float, float] | None:
    """The free cell nearest to a place."""
    rows, columns = np.nonzero(space.free(one))
    if not len(rows):
        return None
    x, y = at
    n = int(np.hypot(columns * space.cell - x, rows * space.cell - y).argmin())
    return float(columns[n] * space.cell), float(rows[n] * space.cell)
