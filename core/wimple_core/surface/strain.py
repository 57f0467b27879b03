"""What film suffers where a flat piece is laid on a double curve: stretch, shortening, and where they are worst."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..measure.body import Triangles


@dataclass(frozen=True, eq=False)
class Strain:
    """The map from the template to the body, triangle by triangle.

    `flat` (n, 2) on the template and `space` (n, 3) on the body, mm; `triangles` (m, 3); `most`, `least` (m,): the
    largest and smallest
    singular value of the map, 1 where nothing changes; `weight` (m,) mm2 of template. `limit` is what the film
    takes, as a share
    (None: not known). `pieces` (m,) tells which piece of the template a triangle lies on.
    """

    flat: Array
    space: Array
    triangles: Triangles
    most: Array
    least: Array
    weight: Array
    limit: float | None
    extremes: tuple[float, float]
    """Largest and smallest singular value anywhere, edges included."""

    @property
    def stretch_max(self) -> float:
        """Greatest lengthening of the film, as a share."""
        return max(self.extremes[0] - 1.0, 0.0)

    @property
    def shorten_max(self) -> float:
        """Greatest shortening of the film, as a share."""
        return max(1.0 - self.extremes[1], 0.0)

    @property
    def worst(self) -> float:
        """The greater of both."""
        return max(self.stretch_max, self.shorten_max)

    @property
    def length_ratio(self) -> float:
        """Largest length change anywhere, in any direction, over the smallest."""
        return self.extremes[0] / self.extremes[1]

    @property
    def severity(self) -> Array:
        """(m,) the greater of stretch and shortening in each triangle."""
        return np.maximum(self.most - 1.0, 1.0 - self.least)

    @property
    def share_over_limit(self) -> float:
        """Share of the template's area where the film must take more than it does."""
        if self.limit is None:
            return 0.0
        return float(self.weight[self.severity > self.limit + 1e-9].sum() / self.weight.sum())

    @property
    def worst_at(self) -> tuple[float, float]:
        """Where on the template it is worst."""
        at = self.flat[self.triangles[int(np.argmax(self.severity))]].mean(axis=0)
        return float(at[0]), float(at[1])


def frames(space: Array, triangles: Triangles) -> tuple[Array, Array]:
    """For each triangle the inverse (m, 3: i00, i01, i11) of its edges in a frame of its own, and its area (m,).

    With the first edge along the frame's x the edge matrix is `[[l, c], [0, h]]`, whose inverse is upper triangular
    too.
    """
    a, b, c = (space[triangles[:, i]] for i in range(3))
    first, second = b - a, c - a
    length = np.linalg.norm(first, axis=1)
    along = np.einsum("ij,ij->i", first, second) / length
    high = np.linalg.norm(np.cross(first, second), axis=1) / length
    return np.column_stack([1 / length, -along / (length * high), 1 / high]), length * high / 2


def singular_values(flat: Array, triangles: Triangles, inverse: Array) -> tuple[Array, Array, Array]:
    """Largest and smallest (signed: negative where a triangle is flipped) singular value of each triangle's map from
    the body to the
    plane, and the map itself (m, 4: a, b, c, d of [[a, b], [c, d]])."""
    p = flat[triangles[:, 0]]
    e, f = flat[triangles[:, 1]] - p, flat[triangles[:, 2]] - p
    j = np.empty((len(triangles), 4))
    j[:, 0], j[:, 1] = e[:, 0] * inverse[:, 0], e[:, 0] * inverse[:, 1] + f[:, 0] * inverse[:, 2]
    j[:, 2], j[:, 3] = e[:, 1] * inverse[:, 0], e[:, 1] * inverse[:, 1] + f[:, 1] * inverse[:, 2]
    half_sum = np.hypot(j[:, 0] + j[:, 3], j[:, 2] - j[:, 1]) / 2
    half_difference = np.hypot(j[:, 0] - j[:, 3], j[:, 2] + j[:, 1]) / 2
    return half_sum + half_difference, half_sum - half_difference, j


def of_triangles(flat: Array, space: Array, triangles: Triangles, limit: float | None) -> Strain:
    """The strain of a flattened mesh: the film is the plane, so its length change is the inverse of the
    flattening's."""
    inverse, area = frames(space, triangles)
    large, small, _ = singular_values(flat, triangles, inverse)
    most, least = 1 / small, 1 / large
    return Strain(
        flat, space, triangles, most, least, area * large * small, limit, (float(most.max()), float(least.min()))
    )


def flat_areas(flat: Array, triangles: Triangles) -> Array:
    """Areas (m,) of triangles in the plane, mm2."""
    q = flat[triangles]
    e, f = q[:, 1] - q[:, 0], q[:, 2] - q[:, 0]
    return np.asarray(np.abs(e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]) / 2, dtype=np.float64)
