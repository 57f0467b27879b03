"""Bodies that are not turned: panels, what is curved twice, meshes."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import ClassVar, Literal

import numpy as np
import shapely

from ..arrays import Array
from .body import Triangles


@dataclass(frozen=True)
class Panel:
    """A flat outline; mm.

    `outline` lies in the panel's own coordinates: x from its middle, y up from its lower edge, measured along the
    surface.
    """

    width: float
    height: float
    error_width: float = 0.0
    error_height: float = 0.0
    outline: shapely.Polygon = field(default_factory=shapely.Polygon)
    closed: ClassVar[bool] = False

    @property
    def extent(self) -> tuple[float, float]:
        """How wide and how high it is."""
        return self.width, self.height


@dataclass(frozen=True)
class BentPanel(Panel):
    """A panel bent one way, as a cylinder is; mm. `bend` says which way it goes round, `hollow` that it bends away."""

    bend_radius: float = 1.0
    error_bend_radius: float = 0.0
    bend: Literal["across", "up"] = "across"
    hollow: bool = False


@dataclass(frozen=True, eq=False)
class RiseSurface:
    """A panel curved both ways: rises on a grid and the tensor spline through them.

    `x` (nx,), `y` (ny,) where they were read, `rises` (ny, nx), `errors` (ny, nx), mm; x from the left edge, y from
    the lower one.
    """

    x: Array
    y: Array
    rises: Array
    errors: Array
    residuals: Array
    """By how much each reading stands off the fairest surface its spread allows (ny, nx), mm."""
    closed: ClassVar[bool] = False

    @property
    def width(self) -> float:
        return float(self.x[-1] - self.x[0])

    @property
    def height(self) -> float:
        return float(self.y[-1] - self.y[0])

    @property
    def extent(self) -> tuple[float, float]:
        """How wide and how high it is."""
        return self.width, self.height


@dataclass(frozen=True, eq=False)
class MeshBody:
    """Triangles in mm: `vertices` (n, 3), x to the right, y up, z toward the eye; `triangles` (m, 3).

    `loops` counts the open edges' loops (0 for a closed body), `shells` the parts that hang together; `front` is
    what is
    seen of it from the front.
    """

    vertices: Array
    triangles: Triangles
    loops: int
    shells: int
    area: float
    volume_ml: float | None
    front: shapely.MultiPolygon
    closed: ClassVar[bool] = False

    @cached_property
    def size(self) -> tuple[float, float, float]:
        """Width, height and depth, mm."""
        w, h, d = np.ptp(self.vertices, axis=0)
        return float(w), float(h), float(d)

    @property
    def width(self) -> float:
        return self.size[0]

    @property
    def height(self) -> float:
        return self.size[1]

    @property
    def extent(self) -> tuple[float, float]:
        """How wide and how high it is."""
        return self.width, self.height
