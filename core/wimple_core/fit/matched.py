"""A drawing, or some of its pieces, brought to where they belong: one or two of its places to others."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.optimize import least_squares

from ..arrays import Array
from ..errors import DoesNotFit
from ..job.document import Placement
from ..surface import Template
from .carry import Carry
from .place import PlacedDrawing, carry_of
from .separated import Separated

Pair = tuple[tuple[float, float], tuple[float, float]]
"""A place on the template, mm, and the one it belongs to."""
LEAST_APART, CLOSE = 0.5, 0.02
"""mm: nearer places do not say how a drawing is turned; so near it comes to where it belongs."""


@dataclass(frozen=True)
class Brought:
    """How pieces are moved in the drawing's own mm and turned (degrees, about their common middle), and how much larger
    what they were brought to is than they are."""

    across: float
    up: float
    turn: float
    larger: float


def _apart(pairs: Sequence[Pair]) -> Array:
    """Pairs as (n, 2, 2). Raises DoesNotFit where two places are one."""
    out = np.array(pairs, dtype=float)
    if len(out) == 2 and np.hypot(*(out[1] - out[0]).T).min() < LEAST_APART:
        raise DoesNotFit("The two places are too near each other.", hint="Choose them as far apart as they go.")
    return out


def matched(
    d: PlacedDrawing, placement: Placement, separated: Separated, template: Template, pairs: Sequence[Pair]
) -> dict[str, float]:
    """The fields of a placement with which one place of a drawing, or two, come to lie where they belong: for one it is
    moved, for two also turned and sized. Found on the surface itself, so that it holds on a taper. Raises DoesNotFit
    where that cannot be."""
    there = _apart(pairs)
    carry = d.carry
    assert carry is not None
    drawn = carry.drawn(there[:, 0])
    closed = template.surface.closed
    per = template.surface.scale_at(d.s_c) if closed else 1.0
    across = "centre_deg" if closed else "across_mm"
    left, low, right, high = separated.frame
    reach = math.hypot(right - left, high - low) * d.width / (right - left)
    two = len(there) == 2

    def put(by: Array) -> Placement:
        """Moved by mm along and up; turned and sized by as much as that moves its edge."""
        a = d.a_c + by[0] / per
        change: dict[str, float] = {across: math.degrees(a) if closed else a, "up_mm": d.s_c + by[1]}
        if two:
            change["turn_deg"] = placement.turn_deg + math.degrees(by[2] / reach)
            change["width_mm"] = d.width * math.exp(by[3] / reach)
        return placement.model_copy(update=change)

    def missed(by: Array) -> Array:
        here = carry_of(put(by), d.way, separated, template)
        return np.asarray((here.of(drawn) - there[:, 1]).ravel())

    start = np.zeros(4 if two else 2)
    try:
        found = least_squares(missed, start, xtol=1e-12, ftol=1e-12, gtol=1e-12)
    except ValueError:
        raise _nowhere() from None
    if not np.abs(missed(found.x)).max() < CLOSE:
        raise _nowhere()
    now = put(found.x)
    fields = (across, "up_mm", *(("turn_deg", "width_mm") if two else ()))
    return {f: round(float(getattr(now, f)), 4) for f in fields}


def _nowhere() -> DoesNotFit:
    return DoesNotFit("It cannot be laid so.", hint="Choose places on the blank, and nearer to where it is.")


def brought(carry: Carry, separated: Separated, pieces: Sequence[str], pairs: Sequence[Pair]) -> Brought:
    """How pieces are moved, and for two pairs turned, so that their places come to lie where they belong. Raises
    DoesNotFit where that cannot be."""
    there = _apart(pairs)
    drawn, belongs = carry.drawn(there[:, 0]), carry.drawn(there[:, 1])
    wanted = set(pieces)
    parts = [part for c in separated.colours for part, name in zip(*c.pieces, strict=True) if name in wanted]
    if not parts:
        raise DoesNotFit("Those pieces are not there any more.", hint="Pick some that are.")
    left, low, right, high = shapely.total_bounds(np.array(parts, dtype=object))
    middle = np.array([(left + right) / 2, (low + high) / 2])
    turn, larger = 0.0, 1.0
    if len(there) == 2:
        one, other = drawn[1] - drawn[0], belongs[1] - belongs[0]
        turn = math.atan2(one[0] * other[1] - one[1] * other[0], float(one @ other))
        larger = float(np.hypot(*other) / np.hypot(*one))
    c, s = math.cos(turn), math.sin(turn)
    turned = (drawn.mean(axis=0) - middle) @ np.array([[c, s], [-s, c]]) + middle
    by = belongs.mean(axis=0) - turned
    return Brought(float(by[0]), float(by[1]), math.degrees(turn), larger)
