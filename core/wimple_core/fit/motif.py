"""What a pattern repeats: a drawing sized, turned and laid once, and copies of its parts."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..job.document import Way
from ..surface import Surface
from .separated import Separated
from .ways import lay, longest_edge

Put = Callable[[BaseGeometry], BaseGeometry]


@dataclass(frozen=True)
class Motif:
    """What is repeated: a separated drawing, as wide (mm), turned and laid as that, its middle at (a, s)."""

    drawing: Separated
    width: float
    turn: float
    way: Way
    a: float
    s: float
    mirrored: bool = False

    @property
    def scale(self) -> float:
        left, _, right, _ = self.drawing.frame
        return self.width / (right - left)

    @property
    def box(self) -> tuple[float, float]:
        """Its width and height as it is turned, mm."""
        _, low, _, high = self.drawing.frame
        c, s, tall = abs(math.cos(self.turn)), abs(math.sin(self.turn)), (high - low) * self.scale
        return c * self.width + s * tall, s * self.width + c * tall

    def turned(self, region: BaseGeometry) -> BaseGeometry:
        """A region of its drawing, sized and turned, its middle at 0, 0."""
        left, low, right, high = self.drawing.frame
        c, s = math.cos(self.turn), math.sin(self.turn)
        matrix = self.scale * np.array([[-c, -s], [-s, c]] if self.mirrored else [[c, s], [-s, c]])
        out: BaseGeometry = shapely.transform(region, lambda p: (p - ((left + right) / 2, (low + high) / 2)) @ matrix)
        return out

    def laid(self, wall: Surface, height: float) -> Drawn:
        """The motif laid at the front of a wall at a height."""
        tall = self.box[1]
        longest = longest_edge(wall, height - tall, height + tall, self.way)

        def put(region: BaseGeometry) -> BaseGeometry:
            fine = self.turned(region)
            if math.isfinite(longest):
                fine = shapely.segmentize(fine, longest)
            return shapely.transform(
                fine, lambda p: np.column_stack(lay(p[:, 0], p[:, 1], self.way, wall, 0.0, height))
            )

        return Drawn.of(self.drawing, put)

    def still(self) -> Drawn:
        """The motif as it is drawn, about 0, 0."""
        return Drawn.of(self.drawing, self.turned)


@dataclass(frozen=True, eq=False)
class Drawn:
    """A motif's parts, colour by colour: those seen with their names, and those painted where they are others."""

    colours: tuple[tuple[str, NDArray[np.object_], tuple[str, ...], NDArray[np.object_] | None], ...]

    @classmethod
    def of(cls, drawing: Separated, put: Put) -> Drawn:
        """A drawing whose regions were put somewhere."""
        out = []
        for c in drawing.colours:
            parts, names = c.pieces
            seen = np.array([put(g) for g in parts], dtype=object)
            beneath = None if c.painted is c.seen else shapely.get_parts(put(c.painted))
            out.append((c.colour, seen, names, beneath))
        return cls(tuple(out))

    @property
    def hull(self) -> BaseGeometry:
        parts = np.concatenate([seen for _, seen, _, _ in self.colours])
        out: BaseGeometry = shapely.convex_hull(shapely.geometrycollections(parts))
        return out


def copies(parts: NDArray[np.object_], matrix: Array, added: Array) -> NDArray[np.object_]:
    """Copies (n * m,) of parts (m,), place by place: `p @ matrix (n, 2, 2) + added (n, 2)`."""
    n, points = len(matrix), int(shapely.get_num_coordinates(parts).sum())
    out: NDArray[np.object_] = shapely.transform(
        np.tile(parts, n), lambda p: (p.reshape(n, points, 2) @ matrix + added[:, None, :]).reshape(-1, 2)
    )
    return out
