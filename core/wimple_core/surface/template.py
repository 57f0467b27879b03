"""The flat template of a body: what the second stage yields."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..measure.free import FreeArea
from ..verdict import Verdict
from .curved import Gore, Slit
from .strain import Strain
from .surface import Surface


@dataclass(frozen=True)
class Sector:
    """The ring piece a tapered wall unrolls to; radii mm, `angle` of one whole turn rad. `centre_y` is where the
    point of the cone lies on the template (x = 0), mm."""

    radius_lower: float
    radius_upper: float
    angle: float
    centre_y: float


@dataclass(frozen=True)
class ZoneOnTemplate:
    """A keep-out zone laid flat: what it is called, its place in the document's list, and where it lies, mm."""

    name: str
    index: int
    region: BaseGeometry


@dataclass(frozen=True, eq=False, kw_only=True)
class Template:
    """A surface unrolled.

    `outline` is what is cut, mm, y up; `left`, `right`, `low`, `high` bound it in the surface's coordinates;
    `free` is the part of the template all zones leave, `zones` those the maker drew; `overlap` the part beyond the
    closing edge (None without).
    """

    surface: Surface
    outline: BaseGeometry
    free: BaseGeometry
    zones: tuple[ZoneOnTemplate, ...]
    overlap: shapely.Polygon | None = None
    left: float
    right: float
    low: float
    high: float
    sector: Sector | None = None
    verdicts: tuple[Verdict, ...] = ()
    limits: FreeArea
    """Where a drawing may stand, in the surface's coordinates."""
    strain: Strain | None = None
    before: Strain | None = None
    """The strain without the relief that was chosen."""
    slits: tuple[Slit, ...] = ()
    gores: tuple[Gore, ...] = ()
    joints: tuple[tuple[float, float], ...] = ()
    """Joints of a stack: height along the side, and by how much the wall turns there, rad."""
    hoop: tuple[float, float] | None = None
    """The cone a band lies on: radius at the side's zero, and its taper."""
    plan: Array | None = None
    """Surface coordinates of the strain's corners where the template is in pieces."""
    notes: tuple[str, ...] = ()
    film_thickness: float = 0.0
    """Of the film it was made for, mm."""

    @property
    def slit_lines(self) -> list[Array]:
        """Its slits as lines (2, 2), mm."""
        return [np.array([s.start, s.end]) for s in self.slits]
