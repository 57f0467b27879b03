"""Where films meet: how far one reaches under the other, asked for and measured on the result."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..arrays import Array, Whole
from ..artwork import ColourRegion
from ..filling import with_added
from ..overlay import commons, grown_each, overlaps

Joint = Literal["stacked", "knocked_out", "butted"]
BESIDE_MM = 2e-3
"""So far beyond an edge lies what borders on it; a fifth of the tolerance to which curves are drawn."""
EVERY_MM = 1.0
MOST_SAMPLES = 4000
STEPS = 8
"""An overlap is measured to an eighth of what was asked for, and what goes on further in as many steps again."""


JointOf = Callable[[int, int], Joint]
"""How two films meet, by their places in the pile, the lower first."""


def join(colours: tuple[ColourRegion, ...], joint: JointOf, overlap: float) -> list[BaseGeometry]:
    """The regions to cut, lowest first, so that laid over one another they show each colour's `seen` region.

    Stacked: a film reaches under those above it as far as it was painted, and at least by `overlap` mm. Knocked out:
    by `overlap` mm and no further. Butted: not at all.
    """
    out: list[BaseGeometry] = []
    for low, c in enumerate(colours):
        above = [(joint(low, high), colours[high].seen) for high in range(low + 1, len(colours))]
        over = shapely.get_parts(np.array([seen for how, seen in above if how != "butted"], dtype=object))
        if not len(over):
            out.append(c.seen)
            continue
        pieces = shapely.get_parts(c.seen)
        under, within = _reaches(pieces, over, overlap)
        whole = shapely.get_parts(np.array([seen for how, seen in above if how == "stacked"], dtype=object))
        if len(whole) and c.painted is not c.seen:
            under += overlaps(_not_in(shapely.get_parts(c.painted), within), whole)
        out.append(with_added(c.seen, under))
    return out


LARGE = 1000


def near(some: NDArray[np.object_], others: NDArray[np.object_], distance: float) -> tuple[Whole, Whole]:
    """Pairs (k,), (k,) of regions that are no further than that from each other. The library is quick where it knows
    the edges of the larger one: that one asks."""
    large = shapely.get_num_coordinates(some) > LARGE
    one, other = shapely.STRtree(others).query(some[large], predicate="dwithin", distance=distance)
    second, first = shapely.STRtree(some[~large]).query(others, predicate="dwithin", distance=distance)
    return (
        np.concatenate([np.flatnonzero(large)[one], np.flatnonzero(~large)[first]]),
        np.concatenate([other, second]),
    )


def _reaches(
    pieces: NDArray[np.object_], over: NDArray[np.object_], overlap: float
) -> tuple[list[BaseGeometry], NDArray[np.object_]]:
    """What of each piece (n,) goes on by `overlap` mm under those (m,) it borders on, and the areas (n,) it keeps
    within.

    Piece by piece: as one, the reaches of a thousand pieces would be one net, and costly to cut. What comes near but
    not up to a piece is not reached: film there would lie by itself and hide no gap.
    """
    if overlap <= 0 or not len(over):
        return [], pieces
    piece, other = near(pieces, over, BESIDE_MM)
    wide = pieces.copy()
    bordering = np.unique(piece)
    wide[bordering] = grown_each(pieces[bordering], overlap)
    both, pair = shapely.get_parts(commons(wide[piece], over[other]), return_index=True)
    joined = shapely.dwithin(both, pieces[piece[pair]], BESIDE_MM) & (shapely.area(both) > 0)
    return list(both[joined]), wide


def _not_in(parts: NDArray[np.object_], wide: NDArray[np.object_]) -> NDArray[np.object_]:
    """Of parts (n,) those that lie in none of the wide ones (m,)."""
    inside = np.zeros(len(parts), dtype=bool)
    if len(wide):
        tree = shapely.STRtree(wide)
        part, other = tree.query(parts)
        inside[part[shapely.equals_exact(parts[part], wide[other])]] = True
        rest = np.flatnonzero(~inside)
        inside[rest[tree.query(parts[rest], predicate="covered_by")[0]]] = True
    left: NDArray[np.object_] = parts[~inside]
    return left


@dataclass(frozen=True, eq=False)
class JointPlaces:
    """Places along the joint between two layers, `lower` under `upper`: `at` (n, 2) mm on it and `toward` (n, 2), the
    unit vector into the upper one; `reach` (n,) mm by which the lower film goes on beneath, and `room` (n,) mm by which
    it could, since the upper one goes on above; both as far as was looked."""

    lower: int
    upper: int
    at: Array
    toward: Array
    reach: Array
    room: Array


Rim = tuple[Array, Array, Array]
"""Stretches of a region's edge: their middles (n, 2), the unit vectors (n, 2) that point out of it, and how long each
is (n,) mm."""


def rim(region: BaseGeometry) -> Rim:
    """At most MOST_SAMPLES stretches of a region's edge, evenly along it."""
    parts = shapely.get_parts(shapely.orient_polygons(region))
    points, ring = shapely.get_coordinates(shapely.segmentize(shapely.get_rings(parts), EVERY_MM), return_index=True)
    same = ring[1:] == ring[:-1]
    a, b = points[:-1][same], points[1:][same]
    along = b - a
    length = np.hypot(along[:, 0], along[:, 1])
    long = length > 0.02
    along = along[long] / length[long, None]
    middles, outward, length = (a[long] + b[long]) / 2, np.column_stack([along[:, 1], -along[:, 0]]), length[long]
    if len(middles) <= MOST_SAMPLES:
        return middles, outward, length
    pick = np.linspace(0, len(middles) - 1, MOST_SAMPLES).astype(int)
    return middles[pick], outward[pick], length[pick]


def _goes_on(at: Array, toward: Array, region: BaseGeometry, steps: Array) -> Array:
    """From each place how many of the `steps`, mm, lie within the region one after the other."""
    far = np.zeros(len(at))
    going = np.ones(len(at), dtype=bool)
    for step in steps:
        # A hair short of the whole step: chords stay inside the curve they stand for.
        p = at + 0.98 * step * toward
        going &= shapely.contains_xy(region, p[:, 0], p[:, 1])
        far[going] = step
    return far


def joint_places(
    seen: list[BaseGeometry], rims: list[Rim], regions: list[BaseGeometry], overlap: float, far: float
) -> list[JointPlaces]:
    """Where each pair of layers meets, lowest first: `seen` what shows of each, its rim, `regions` what is cut of each.
    How far films reach beneath is looked at up to `far` mm, at least up to the `overlap` asked for."""
    steps = overlap * np.arange(1, STEPS + 1) / STEPS if overlap > 0 else np.empty(0)
    if far > overlap:
        steps = np.concatenate([steps, overlap + (far - overlap) * np.arange(1, STEPS + 1) / STEPS])
    seen, regions = [prepared(g) for g in seen], [prepared(g) for g in regions]
    out = []
    for low in range(len(seen) - 1):
        if seen[low].is_empty:
            continue
        middles, outward, _ = rims[low]
        beside = middles + BESIDE_MM * outward
        for high in range(low + 1, len(seen)):
            here = shapely.contains_xy(seen[high], beside[:, 0], beside[:, 1])
            if not here.any():
                continue
            at, toward = middles[here], outward[here]
            reach, room = (_goes_on(at, toward, region, steps) for region in (regions[low], seen[high]))
            out.append(JointPlaces(low, high, at, toward, reach, np.maximum(reach, room)))
    return out
