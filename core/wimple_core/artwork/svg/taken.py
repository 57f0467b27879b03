"""What a walk through a drawing takes down: rings and regions, made into painted regions all at once at its end."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ...arrangement import mended, prepared
from ...arrays import Array
from ...overlay import intersection
from ..artwork import Paint
from .coordinates import Affine
from .regions import Rule, fill_of_rings


@dataclass(frozen=True, eq=False)
class _Entry:
    """One painted shape: a ring (n, 2) in user units with its transform and rule, or a region in mm."""

    shape: Array | BaseGeometry
    colour: str
    name: str
    clip: BaseGeometry | None
    matrix: Affine | None = None
    rule: Rule = "nonzero"


class Taken:
    """Painted shapes in the order they were drawn, lowest first."""

    def __init__(self) -> None:
        self._entries: list[_Entry] = []

    def region(self, region: BaseGeometry, colour: str, name: str, clip: BaseGeometry | None) -> None:
        """A region, mm."""
        self._entries.append(_Entry(region, colour, name, clip))

    def ring(self, ring: Array, matrix: Affine, rule: Rule, colour: str, name: str, clip: BaseGeometry | None) -> None:
        """What one ring (n, 2), first point not repeated, encloses; `matrix` brings it to mm."""
        self._entries.append(_Entry(ring, colour, name, clip, matrix, rule))

    def paints(self, grid: float) -> list[Paint]:
        """All of them as valid regions, cut by the clips they stand under; what nothing is left of is left out."""
        if not self._entries:
            return []
        regions = self._regions(grid)
        _clip(regions, [e.clip for e in self._entries], grid)
        left = shapely.area(regions) > 0
        return [Paint(r, e.colour, e.name) for r, e, some in zip(regions, self._entries, left, strict=True) if some]

    def _regions(self, grid: float) -> NDArray[np.object_]:
        out = np.array([None if e.matrix else e.shape for e in self._entries], dtype=object)
        rings = [i for i, e in enumerate(self._entries) if e.matrix]
        if rings:
            lengths = np.array([len(self._entries[i].shape) for i in rings])
            m = np.repeat(np.array([self._entries[i].matrix for i in rings]), lengths, axis=0)
            p = np.concatenate([self._entries[i].shape for i in rings])
            x = m[:, 0] * p[:, 0] + m[:, 2] * p[:, 1] + m[:, 4]
            y = m[:, 1] * p[:, 0] + m[:, 3] * p[:, 1] + m[:, 5]
            points = np.column_stack([x, y])
            out[rings] = shapely.polygons(
                shapely.linearrings(points, indices=np.repeat(np.arange(len(rings)), lengths))
            )
            starts = np.concatenate([[0], np.cumsum(lengths)])
            for n in np.flatnonzero(~shapely.is_valid(out[rings])).tolist():
                out[rings[n]] = fill_of_rings([points[starts[n] : starts[n + 1]]], self._entries[rings[n]].rule, grid)
        for i in np.flatnonzero(~shapely.is_valid(out)).tolist():
            out[i] = mended(out[i], grid)[0]
        return out


def _clip(regions: NDArray[np.object_], clips: list[BaseGeometry | None], grid: float) -> None:
    """Cut regions (n,), in place, by the clip each stands under."""
    under: dict[int, list[int]] = {}
    for i, clip in enumerate(clips):
        if clip is not None:
            under.setdefault(id(clip), []).append(i)
    for some in under.values():
        clip = clips[some[0]]
        assert clip is not None
        for i in np.array(some)[~shapely.covers(prepared(clip), regions[some])].tolist():
            regions[i] = intersection(regions[i], clip, grid)
