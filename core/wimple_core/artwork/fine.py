"""What is drawn finer than a blade goes round, set aside before anything is reckoned of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import shapely

from ..arrangement import areas, prepared
from ..overlay import union
from ..thin import LEAST_CUT_MM, hair_thin
from .artwork import Artwork, Note

Fine = Literal["aside", "kept"]
"""What is too fine is set aside; it is kept, and told where it cannot be cut."""
TOLERANCES = 2 * LEAST_CUT_MM / 0.01
"""A drawing is read to between half a hundredth and a hundredth of a millimetre where it is laid, so that many
tolerances are between LEAST_CUT_MM and twice that: half of what the finest film holds."""

ALONG = 0.3
"""Of the edge of a line that is drawn round a shape half lies within it."""


def without_fine(art: Artwork) -> Artwork:
    """A drawing without the parts of its paints that are nowhere as wide as a blade can go round at the size it is read
    for, with a note of how many those were; its box stays. What runs along wider parts of its colour, as the outline of
    a shape does, or is wide together with others of it, stays; so does a drawing that is nothing else."""
    width = TOLERANCES * art.tolerance
    regions = np.array([p.region for p in art.paints], dtype=object)
    parts, of = shapely.get_parts(regions, return_index=True)
    # What is as wide in the mean is so somewhere. The others, plainly drawn, are as thin to a twentieth.
    fine = 2 * shapely.area(parts) < width * shapely.length(parts)
    fine[fine] = hair_thin(shapely.simplify(parts[fine], width / 40), 0.95 * width)
    if not fine.any() or fine.all():
        return art
    colours = np.array([p.colour for p in art.paints])[of]
    for colour in np.unique(colours[fine]):
        some = np.flatnonzero(fine & (colours == colour))
        fine[some[_holds(parts[some], parts[~fine & (colours == colour)], width)]] = False
    if not fine.any():
        return art
    left = []
    for n in np.unique(of[~fine]).tolist():
        mine = of == n
        keep = parts[mine & ~fine]
        region = regions[n] if not (mine & fine).any() else keep[0] if len(keep) == 1 else shapely.multipolygons(keep)
        left.append(replace(art.paints[n], region=region))
    remedy = "Lay it larger, or tick “Fine lines too” to have them looked at like all else."
    note = Note("artwork.fine", *_said(int(fine.sum())), field="source.fine", remedy=remedy)
    return replace(art, paints=tuple(left), notes=(*art.notes, note), box=art.bounds)


def _holds(fine: np.ndarray, wide: np.ndarray, width: float) -> np.ndarray:
    """Which fine parts (n,) of a colour are not fine by themselves: they run along its wide ones (m,), or make
    something with others that is as wide in the mean."""
    holds = _share_within(fine, wide) > ALONG
    rest = np.flatnonzero(~holds)
    joined = areas(np.array([union(fine[rest])], dtype=object))
    thick = joined[2 * shapely.area(joined) > width * shapely.length(joined)]
    if len(thick):
        holds[rest[shapely.STRtree(prepared(thick)).query(fine[rest], predicate="intersects")[0]]] = True
    return holds


def _share_within(fine: np.ndarray, wide: np.ndarray) -> np.ndarray:
    """Which share (n,) of the edge of each of some parts (n,) lies within any of others (m,)."""
    ends, of = shapely.get_coordinates(fine, return_index=True)
    same = of[1:] == of[:-1]
    middles, of = ((ends[1:] + ends[:-1]) / 2)[same], of[1:][same]
    length = np.hypot(*(ends[1:] - ends[:-1])[same].T)
    within = np.zeros(len(middles), dtype=bool)
    one, other = shapely.STRtree(fine).query(wide)
    for n in np.unique(one).tolist():
        near = np.flatnonzero(np.isin(of, other[one == n]))
        within[near] |= shapely.contains_xy(prepared(wide[n]), *middles[near].T)
    return np.bincount(of, length * within, len(fine)) / np.maximum(np.bincount(of, length, len(fine)), 1e-12)


def _said(n: int) -> tuple[str, str]:
    what = "one line or speck" if n == 1 else f"{n} lines and specks"
    return f"{what} too thin for a blade to go round at this size", "set aside, and what lies beneath is seen there"
