"""What is free on a body: parts, faces that are looked at, zones kept out; in its own coordinates."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import shapely
from shapely.geometry.base import BaseGeometry

from .rectangle import Box

READABLE_HALF_ANGLE = math.pi / 3
"""Beyond 60 degrees from the front, foreshortening falls below one half."""


@dataclass(frozen=True)
class FreePart:
    """One piece of the free area. `box` is its largest upright rectangle in surface coordinates; `width`, `height`
    that rectangle's
    size in mm (on a taper the width of its narrower edge); `readable` how much of the width is read from the front;
    `area` mm2.
    """

    region: BaseGeometry
    area: float
    box: Box
    width: float
    height: float
    readable: float


@dataclass(frozen=True)
class Face:
    """A side that is looked at: who sees it, the angle (rad) or place (mm) of its middle, and the largest rectangle
    that is free and readable there, in surface coordinates and in mm."""

    seen_by: str
    centre: float
    box: Box
    width: float
    height: float


@dataclass(frozen=True)
class KeptOut:
    """A zone on the surface: its kind, what it is called, and where it lies in the surface's coordinates."""

    kind: str
    name: str
    region: BaseGeometry
    index: int | None


@dataclass(frozen=True)
class FreeArea:
    """What the zones leave of a surface.

    On a round body `left`, `right` are angles from the front (rad) and `low`, `high` distances along the side (mm),
    between the
    bands and the handle; on a panel all four are mm. `handle` is the angle of the handle's middle (None without one).
    `parts` are the pieces that are left once every zone is taken out, the largest first.
    """

    left: float
    right: float
    low: float
    high: float
    handle: float | None = None
    handle_width: float = 0.0
    region: BaseGeometry = field(default_factory=shapely.Polygon)
    parts: tuple[FreePart, ...] = ()
    faces: tuple[Face, ...] = ()
    zones: tuple[KeptOut, ...] = ()

    @property
    def all_round(self) -> bool:
        return self.handle is None
