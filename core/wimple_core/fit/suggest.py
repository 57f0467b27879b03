"""Where a drawing goes: when it is first brought in, and as large as is free on a side that is seen."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..job.document import Placement, Reference
from ..measure.free import FreeArea
from ..surface import Template

FIRST_ROOM, WHOLE_ROOM = 0.9, 0.97
"""What of the free room is taken at first, so that a margin is left all round, and when it is filled."""

UNDER_ALL = 0.8
"""Of the template, so much is taken at first by a picture to work by."""


@dataclass(frozen=True)
class Room:
    """A rectangle that is free: in words, its size (mm), and where its middle is (degrees on what goes round, else mm;
    mm up)."""

    words: str
    width: float
    height: float
    centre: float
    up: float
    closed: bool

    def at(self, width: float) -> Placement:
        """A placement in its middle, so wide."""
        if self.closed:
            return Placement(width_mm=width, up_mm=round(self.up, 2), centre_deg=round(self.centre, 2))
        return Placement(width_mm=width, up_mm=round(self.up, 2), across_mm=round(self.centre, 2))

    def largest(self, width: float, height: float, share: float) -> float:
        """How wide what has those proportions may be, in tenths of a mm, to take that share of the room."""
        by_height = self.height * width / height if height > 0 else math.inf
        return max(1.0, math.floor(10 * share * min(self.width, by_height)) / 10)


def rooms_on(free: FreeArea, closed: bool) -> list[Room]:
    """The rooms of a surface, one for each side that is seen; `closed` tells that its places are angles."""
    return [
        Room(
            f"seen by {f.seen_by}" if closed else "the largest rectangle",
            f.width,
            f.height,
            math.degrees(f.centre) if closed else f.centre,
            (f.box[1] + f.box[3]) / 2,
            closed,
        )
        for f in free.faces
    ]


def spots_on(free: FreeArea, closed: bool, span: tuple[float, float], up: float) -> list[tuple[str, dict[str, float]]]:
    """Places a maker asks for by name, each in words with the fields of a placement it sets; `span` is what a drawing
    covers along the side with its middle at `up`."""
    named: list[tuple[str, dict[str, float]]] = (
        [
            ("On the face", {"centre_deg": 0.0, "repeat": 1}),
            ("At the back", {"centre_deg": 180.0, "repeat": 1}),
            ("Both sides", {"centre_deg": 0.0, "repeat": 2}),
        ]
        if closed
        else [("Middle", {"across_mm": 0.0})]
    )
    heights = {
        "Half way up": (free.low + free.high) / 2,
        "At the top": up + free.high - span[1],
        "At the foot": up + free.low - span[0],
    }
    return [*named, *((words, {"up_mm": round(s, 2)}) for words, s in heights.items())]


def guides_for(
    span_a: tuple[float, float], span_s: tuple[float, float], middle: tuple[float, float], template: Template
) -> list[tuple[str, float, str]]:
    """The lines a drawing falls in with when it is moved: across or up, where its middle is then (rad, or mm), and what
    the line is. `span_a` and `span_s` are what it covers with its middle at `middle`."""
    free, closed = template.limits, template.surface.closed
    (a, s), (low, high) = middle, span_s
    out = [
        ("up", s + (free.low + free.high - low - high) / 2, "half way up, equal margins"),
        ("up", s + free.high - high, "at the top of what is free"),
        ("up", s + free.low - low, "at the foot of what is free"),
    ]
    if closed:
        out += [
            ("across", 0.0, "middle of the face"),
            ("across", math.pi, "middle of the back"),
            ("across", template.left, "over the seam"),
            ("across", math.pi / 2, "a quarter to the right"),
            ("across", -math.pi / 2, "a quarter to the left"),
        ]
    if not closed or not free.all_round:
        left, right = span_a
        out += [
            ("across", a + (free.left + free.right - left - right) / 2, "in the middle, equal margins"),
            ("across", a + free.left - left, "at the left of what is free"),
            ("across", a + free.right - right, "at the right of what is free"),
        ]
    return out


def first_placement(free: FreeArea, closed: bool, width: float, height: float) -> Placement:
    """A drawing of that natural size (mm), no larger than it is and no larger than the first free face takes."""
    rooms = rooms_on(free, closed)
    whole = Room(
        "",
        math.inf if closed else free.right - free.left,
        free.high - free.low,
        0.0 if closed else (free.left + free.right) / 2,
        (free.low + free.high) / 2,
        closed,
    )
    room = rooms[0] if rooms else whole
    return room.at(max(1.0, min(math.floor(10 * width) / 10, room.largest(width, height, FIRST_ROOM))))


def first_reference(template: Template | None, file: str, width: float, height: float) -> Reference:
    """A picture to work by, so many pixels wide and high: its middle on the template's, and no larger than that."""
    left, low, right, high = template.outline.bounds if template else (-50.0, 0.0, 50.0, 100.0)
    largest = min(right - left, (high - low) * width / height)
    return Reference(
        file=file,
        ratio=height / width,
        width_mm=max(1.0, round(UNDER_ALL * largest, 1)),
        x_mm=round((left + right) / 2, 1),
        y_mm=round((low + high) / 2, 1),
    )


def filling(room: Room, width: float, height: float) -> dict[str, float]:
    """The fields of a placement that fills a room with what is now `width` by `height` mm, and stands upright."""
    new = room.at(room.largest(width, height, WHOLE_ROOM))
    moved = new.model_dump(include={"width_mm", "up_mm", "centre_deg" if room.closed else "across_mm"})
    return {**moved, "turn_deg": 0.0}
