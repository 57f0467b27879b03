"""Patches of several films beside each other on as few mats as they need."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .loads import Box

Size = tuple[float, float]
Corner = tuple[float, float]
EVEN = 1e-6
Sizes = Sequence[Size]
Score = tuple[float, float]


def _lowest(box: Box, wide: float, tall: float) -> Score:
    return box[1], box[0]


def _leftmost(box: Box, wide: float, tall: float) -> Score:
    return box[0], box[1]


def _tightest(box: Box, wide: float, tall: float) -> Score:
    beside, above = box[2] - box[0] - wide, box[3] - box[1] - tall
    return min(beside, above), max(beside, above)


ORDERS: tuple[Callable[[Sizes], float], ...] = (
    lambda sizes: min(h for _, h in sizes),
    lambda sizes: sizes[0][0],
    lambda sizes: sum(sizes[0]),
    lambda sizes: max(sizes[0]),
)
"""By what the largest patch comes first."""
RULES = (_lowest, _leftmost, _tightest)
"""Which free rectangle a patch takes: the lowest, and of such the one furthest left; the other way round; or the one
that is hardly wider or hardly taller than it."""


@dataclass(frozen=True)
class OnMat:
    """A patch on a mat: which it is, in which of the sizes it may have, and where its lower left corner lies, mm."""

    patch: int
    size: int
    at: Corner


class _Free:
    """The free rectangles of one mat: each as large as can be, overlapping one another (maximal rectangles, after
    Jylänki, "A thousand ways to pack the bin", 2010)."""

    def __init__(self, boxes: Sequence[Box]) -> None:
        self.boxes = list(boxes)

    def place(self, wide: float, tall: float, rule: Callable[[Box, float, float], Score]) -> Corner | None:
        """Where that goes in best by a rule; None where it does not."""
        fits = [
            (rule(box, wide, tall), box[:2])
            for box in self.boxes
            if wide <= box[2] - box[0] + EVEN and tall <= box[3] - box[1] + EVEN
        ]
        return min(fits)[1] if fits else None

    def take(self, at: Corner, wide: float, tall: float) -> None:
        left, low = at
        right, high = left + wide, low + tall
        out = []
        for a, b, c, d in self.boxes:
            if a >= right - EVEN or c <= left + EVEN or b >= high - EVEN or d <= low + EVEN:
                out.append((a, b, c, d))
                continue
            out += [
                box
                for box in ((a, b, left, d), (right, b, c, d), (a, b, c, low), (a, high, c, d))
                if box[2] - box[0] > EVEN and box[3] - box[1] > EVEN
            ]
        self.boxes = [
            one
            for n, one in enumerate(out)
            if not any(
                m != n and _holds(other, one) and (m < n or not _holds(one, other)) for m, other in enumerate(out)
            )
        ]


def _holds(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    return one[0] <= other[0] and one[1] <= other[1] and one[2] >= other[2] and one[3] >= other[3]


def share_mats(
    patches: Sequence[Sizes], width: float, length: float, room: float, held: Sequence[Box] = ()
) -> list[list[OnMat]] | None:
    """Lay patches on mats `width` by `length` mm with so much room between them, and off the boxes held free; each has
    one of some sizes, the one it has rather first. In some orders and by some rules, until they take no more mats than
    their area asks for; the first of those that take the fewest. None where one does not go on any."""
    area = sum(min((w + room) * (h + room) for w, h in sizes) for sizes in patches)
    fewest = math.ceil(area / ((width + room) * (length + room)) - EVEN)
    empty = _Free([(0.0, 0.0, width + room, length + room)])
    for left, low, right, high in held:
        empty.take((left, low), right - left + room, high - low + room)
    best: list[list[OnMat]] | None = None
    for rule in RULES:
        for by in ORDERS:
            order = sorted(range(len(patches)), key=lambda n: -by(patches[n]))
            mats = laid_in_order(patches, order, rule, empty.boxes, room)
            if mats is None:
                return None
            if best is None or len(mats) < len(best):
                best = mats
            if len(best) <= fewest:
                return best
    return best


def laid_in_order(
    patches: Sequence[Sizes],
    order: Sequence[int],
    rule: Callable[[Box, float, float], Score],
    empty: Sequence[Box],
    room: float,
) -> list[list[OnMat]] | None:
    """Patches in an order, each on the first mat that takes it; what is free on an `empty` mat."""
    mats: list[tuple[_Free, list[OnMat]]] = []
    for n in order:
        for free, on in (*mats, (_Free(empty), list[OnMat]())):
            found = next(
                (
                    (k, at)
                    for k, (w, h) in enumerate(patches[n])
                    if (at := free.place(w + room, h + room, rule)) is not None
                ),
                None,
            )
            if found is not None:
                size, at = found
                free.take(at, patches[n][size][0] + room, patches[n][size][1] + room)
                if not on:
                    mats.append((free, on))
                on.append(OnMat(n, size, at))
                break
        else:
            return None
    return [on for _, on in mats]
