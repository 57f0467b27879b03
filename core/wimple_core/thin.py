"""Where regions are thinner than a blade or a film can take."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from .arrangement import prepared
from .overlay import differences, union

LONG_TIP = 3.0
"""A point that goes on for more than this many half strokes beyond where it gets too thin tears; a corner of more than
about 29 degrees does not go on for so long."""
SLACK = 0.02
"""By this share of the half stroke rounding may leave an edge without its being thin."""


def thin_places(parts: np.ndarray, stroke: float) -> np.ndarray:
    """Where pieces (n,) are thinner than `stroke` mm: regions (m,), one for each place.

    What vanishes when a piece is shrunk by half of that and grown again is thinner. A rest that joins two stretches of
    what is left is a neck, one that touches nothing is thin altogether, and one that touches it once is an end: thin
    where it goes on for long, else the tip of a corner. None of it depends on how the piece is turned.
    """
    half = stroke / 2
    kept = shapely.buffer(shapely.buffer(parts, -half, quad_segs=16), half * (1 + SLACK), quad_segs=16)
    bare = ~shapely.covers(prepared(kept), parts)
    parts, kept = parts[bare], kept[bare]
    gone = shapely.is_empty(kept)
    whole, left = parts[gone], prepared(kept[~gone])
    rest, part = shapely.get_parts(differences(parts[~gone], left), return_index=True)
    seen = shapely.area(rest) > (SLACK * half) ** 2
    rest, part = rest[seen], part[seen]
    thin = _are_thin(rest, left[part], half)
    rest, part = rest[thin], part[thin]
    out: list[BaseGeometry] = list(whole)
    for one in np.split(rest, np.flatnonzero(np.diff(part)) + 1):
        # The two sides of one neck are one place.
        out += shapely.get_parts(union(shapely.buffer(one, half))).tolist() if len(one) > 1 else list(one)
    return np.array(out, dtype=object)


def _are_thin(rest: np.ndarray, left: np.ndarray, half: float) -> np.ndarray:
    """Of what vanished (n,), and what of its piece is left (n,): which is more than the tip of a corner?"""
    points, of = shapely.get_coordinates(shapely.get_exterior_ring(rest), return_index=True)
    at = shapely.points(points)

    def number(places: np.ndarray) -> np.ndarray:
        return np.bincount(of[places], minlength=len(rest))

    touching = shapely.dwithin(left[of], at, 1e-3 * half)
    begins = np.zeros_like(touching)
    begins[1:] = touching[1:] & ~touching[:-1] & (of[1:] == of[:-1])
    far = ~shapely.dwithin(left[of], at, LONG_TIP * half)
    thin: np.ndarray = (number(begins) != 1) | (number(far) > 0)
    return thin
