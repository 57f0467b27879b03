"""Where a printed page lies on a machine: its marks looked for one after the other, and the shift, turn and scale that
bring the page's frame onto them."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..errors import WimpleError

Look = Callable[[tuple[float, float]], tuple[float, float] | None]
"""Looks for a mark near a place (mm): where its middle is, or None where there is none within reach."""
REACH_MM = 12.0
"""How far an eye looks round the place it is sent to."""
SPIRAL_MM = 60.0
"""The first mark may lie so far from where it is thought."""
MOST_SCALE = 0.03
"""A page that is larger or smaller by more was not printed at its true size."""
MOST_OFF_MM = 0.6
LOOKS_AT = 6
"""So often each mark is looked at: an eye misses its middle by a little each time."""


class PageNotFound(WimpleError):
    """The marks of a page are not where they should be."""

    code = "page"


@dataclass(frozen=True)
class Lie:
    """How a page lies: its frame scaled, turned (radians, to the left) and then shifted (mm). `off` is how far at most
    a mark is from where that brings it."""

    shift: tuple[float, float]
    turn: float
    scale: float
    off: float

    def of(self, points: Array) -> Array:
        """Places (n, 2) of the page's frame where they lie on the machine."""
        c, s = self.scale * math.cos(self.turn), self.scale * math.sin(self.turn)
        there: Array = points @ np.array([[c, s], [-s, c]]) + self.shift
        return there


def lie_of(marks: Array, found: Array) -> Lie:
    """The similarity that brings marks (n, 2) nearest to where they were found (n, 2), by least squares (Umeyama,
    "Least-squares estimation of transformation parameters between two point patterns", 1991, without mirroring)."""
    a, b = marks - marks.mean(axis=0), found - found.mean(axis=0)
    along, across = float((a * b).sum()), float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum())
    turn, size = math.atan2(across, along), float((a * a).sum())
    scale = math.hypot(along, across) / size if size > 0 else 1.0
    lie = Lie((0.0, 0.0), turn, scale, 0.0)
    shift = found.mean(axis=0) - lie.of(marks.mean(axis=0)[None, :])[0]
    lie = Lie((float(shift[0]), float(shift[1])), turn, scale, 0.0)
    off = float(np.hypot(*(lie.of(marks) - found).T).max())
    return Lie(lie.shift, turn, scale, off)


def _spiral(middle: tuple[float, float]) -> list[tuple[float, float]]:
    """Places round one, the nearest first, as far apart as an eye reaches."""
    steps = math.ceil(SPIRAL_MM / REACH_MM)
    grid = [(i * REACH_MM, j * REACH_MM) for i in range(-steps, steps + 1) for j in range(-steps, steps + 1)]
    near = sorted((g for g in grid if math.hypot(*g) <= SPIRAL_MM), key=lambda g: math.hypot(*g))
    return [(middle[0] + x, middle[1] + y) for x, y in near]


def _again(look: Look, place: tuple[float, float]) -> tuple[float, float]:
    """A mark looked at several times: the mean."""
    seen = [place, *(s for _ in range(LOOKS_AT - 1) if (s := look(place)) is not None)]
    x, y = np.mean(seen, axis=0).tolist()
    return x, y


def find(marks: Array, look: Look, turns: Sequence[float] = (0.0, 3.0, -3.0, 6.0, -6.0)) -> Lie:
    """Find a page by its three marks (3, 2), mm in its frame, wherever it lies near its place. Raises PageNotFound
    where one is not there, the page lies turned, or was not printed at its true size."""
    for start in _spiral((float(marks[0, 0]), float(marks[0, 1]))):
        first = look(start)
        if first is None:
            continue
        second = None
        for degrees in turns:
            ahead = Lie((0.0, 0.0), math.radians(degrees), 1.0, 0.0).of((marks[1] - marks[0])[None, :])[0]
            second = look((first[0] + float(ahead[0]), first[1] + float(ahead[1])))
            if second is not None:
                break
        if second is None:
            continue
        lie = lie_of(marks[:2], np.array([first, second]))
        x, y = lie.of(marks[2:])[0].tolist()
        third = look((x, y))
        if third is None:
            continue
        seen = [_again(look, place) for place in (first, second, third)]
        whole = lie_of(marks, np.array(seen))
        if abs(whole.scale - 1) > MOST_SCALE:
            raise PageNotFound(
                f"The page was printed at {100 * whole.scale:.1f} % of its size.",
                field="page",
                hint="Print it at 100 %, without fitting it to the paper.",
            )
        if whole.off <= MOST_OFF_MM:
            return whole
    raise PageNotFound(
        "The marks of the page are not where they should be.",
        field="page",
        hint="Lay it with its two lower marks at the machine's origin, not turned over, and look again.",
    )


LOOKS = re.compile(rb"(-?\d+),(-?\d+)|0")


def eye_over(ask: Callable[[bytes], bytes], steps_per_mm: float = 40.0) -> Look:
    """An eye that a machine has: it is sent to a place and answers with the middle of the mark it sees there."""

    def look(at: tuple[float, float]) -> tuple[float, float] | None:
        x, y = (round(v * steps_per_mm) for v in at)
        said = LOOKS.fullmatch(ask(b"MF%d,%d;" % (x, y)).strip())
        if said is None or said[1] is None:
            return None
        return int(said[1]) / steps_per_mm, int(said[2]) / steps_per_mm

    return look
