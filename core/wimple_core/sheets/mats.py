"""Patches of several films beside each other on as few mats as they need."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .loads import Box

Size = tuple[float, float]
Corner = tuple[float, float]
EVEN = 1e-6


@dataclass(frozen=True)
class OnMat:
    """A patch on a mat: which it is, in which of the sizes it may have, and where its lower left corner lies, mm."""

    patch: int
    size: int
    at: Corner


class _Free:
    """The free rectangles of one mat: each as large as can be, overlapping one another (maximal rectangles, after
    Jylänki, "A thousand ways to pack the bin", 2010)."""

    def __init__(self, width: float, length: float) -> None:
        self.boxes = [(0.0, 0.0, width, length)]

    def place(self, wide: float, tall: float) -> Corner | None:
        """Where that goes in lowest, and of such places furthest left; None where it does not."""
        fits = [
            (low, left)
            for left, low, right, high in self.boxes
            if wide <= right - left + EVEN and tall <= high - low + EVEN
        ]
        if not fits:
            return None
        low, left = min(fits)
        return left, low

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
    patches: Sequence[Sequence[Size]], width: float, length: float, room: float, held: Sequence[Box] = ()
) -> list[list[OnMat]] | None:
    """Lay patches on mats `width` by `length` mm with so much room between them, and off the boxes held free; each has
    one of some sizes, the one it has rather first. The tallest first, each on the first mat that takes it. None where
    one does not go on any."""
    order = sorted(range(len(patches)), key=lambda n: -min(h for _, h in patches[n]))
    mats: list[tuple[_Free, list[OnMat]]] = []
    for n in order:
        empty = _Free(width + room, length + room)
        for left, low, right, high in held:
            empty.take((left, low), right - left + room, high - low + room)
        for free, on in (*mats, (empty, list[OnMat]())):
            found = next(
                ((k, at) for k, (w, h) in enumerate(patches[n]) if (at := free.place(w + room, h + room)) is not None),
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
