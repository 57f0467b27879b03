"""Names of pieces: which they are stays true however the drawing is read, placed, cut apart or laid over another."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import STRtree

from ..arrays import Array

ASLANT = np.array([1.0, (5**0.5 - 1) / 2])
"""Pieces of one name are numbered along this direction, on which the rows and columns of a grid do not meet."""


LETTER = re.compile(r"(\w+-)?\d+-\d+")


def is_letter(name: str) -> bool:
    """Is a shape of that name a letter: called by line and letter, with what it is part of before them?"""
    return LETTER.fullmatch(name) is not None


def told_apart(names: Sequence[str], at: Array, sign: str) -> tuple[str, ...]:
    """Names made different: of several alike the first along ASLANT, by their places `at` (n, 2), keeps its own, and
    the others get `sign` and their number behind it."""
    out = list(names)
    counted: dict[str, int] = {}
    taken = set(names)
    for n in np.argsort(at @ ASLANT, kind="stable").tolist():
        name = names[n]
        counted[name] = counted.get(name, 0) + 1
        if counted[name] > 1:
            while (other := f"{name}{sign}{counted[name]}") in taken:
                counted[name] += 1
            taken.add(other)
            out[n] = other
    return tuple(out)


def lower_corners(parts: NDArray[np.object_]) -> Array:
    """Lower left corners (n, 2) of the boxes round parts: places that hardly move when curves are cut finer."""
    return np.asarray(shapely.bounds(parts)[:, :2], dtype=np.float64)


def least_in_each(
    parts: NDArray[np.object_], points: NDArray[np.object_], rank: NDArray[np.int64]
) -> NDArray[np.int64]:
    """For each part (n,) the least rank (m,) of the points (m,) inside it; -1 where there is none."""
    none = np.iinfo(np.int64).max
    out = np.full(len(parts), none, dtype=np.int64)
    point, part = STRtree(parts).query(points, predicate="within")
    np.minimum.at(out, part, rank[point])
    out[out == none] = -1
    return out


def names_after(
    after: NDArray[np.object_],
    before: NDArray[np.object_],
    names: Sequence[str],
    back: Callable[[Array], Array] | None = None,
) -> tuple[str, ...]:
    """Names of the parts `after` (n,) something was done to the parts `before` (m,) that had `names`.

    A part is called as the first one before that lies in it; a fragment as the one it was cut from. `back` brings
    points of the parts after to where the parts before lie.
    """
    if not len(after):
        return ()
    called = [names[n] if n >= 0 else "?" for n in origins(after, before, back).tolist()]
    return told_apart(called, lower_corners(after), ":")


def origins(
    after: NDArray[np.object_], before: NDArray[np.object_], back: Callable[[Array], Array] | None = None
) -> NDArray[np.int64]:
    """For each part after (n,) the number of the part before (m,) it is called as; -1 where there was none."""
    found = np.full(len(after), -1, dtype=np.int64)
    if not len(before) or not len(after):
        return found
    if back is None:
        found = least_in_each(after, shapely.point_on_surface(before), np.arange(len(before), dtype=np.int64))
    lost = np.flatnonzero(found < 0)
    if len(lost):
        inside = shapely.point_on_surface(after[lost])
        if back is not None:
            inside = shapely.transform(inside, back)
        tree = STRtree(before)
        one, other = tree.query(inside, predicate="within")
        np.maximum.at(found, lost[one], other)
        still = np.flatnonzero(found[lost] < 0)
        if len(still):
            found[lost[still]] = tree.nearest(inside[still])
    return found
