"""What the simulated cutter has cut."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely.geometry.base import BaseGeometry

from ...arrays import Array
from ...job.shipped import LINER_UM


@dataclass(frozen=True, eq=False)
class Stroke:
    """One stroke of the blade: where it was wanted, the path (n, 2) its tip took, mm, and how deep it went, um."""

    wanted: Array
    tip: Array
    depth_um: float
    film_um: float

    @property
    def through(self) -> bool:
        """Is the film cut through?"""
        return self.depth_um >= self.film_um

    @property
    def into_liner(self) -> bool:
        """Is the liner cut more than half through as well?"""
        return self.depth_um > self.film_um + LINER_UM / 2

    def stray(self, line: BaseGeometry) -> float:
        """How far (mm) the tip went from a line at most."""
        return float(shapely.distance(shapely.points(self.tip), line).max())
