"""What a drawing may cost: counted before anything is drawn, so that no small file takes long."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..arrays import Array
from ..errors import BadDrawing

FURTHEST_MM = 1e7
"""Ten kilometres: nothing that is cut lies further out."""
MOST_CROSSINGS = 300_000
FEW_EDGES = 700
"""So few cannot cross too often."""
SAMPLED = 200
_CHUNK = 50_000


def too_far(what: str) -> BadDrawing:
    """What is said of a thing that lies too far out, or nowhere."""
    return BadDrawing(
        f"The drawing reaches too far: {what} goes beyond {FURTHEST_MM:,.0f} mm.",
        hint="Bring it to the size of the work, or take what lies far outside the page out.",
    )


def check_reach(points: Array, what: str) -> None:
    """Raises BadDrawing where a place (n, 2), mm, is no number or lies too far out; `what` is drawn there."""
    if len(points) and not np.abs(points).max() <= FURTHEST_MM:
        raise too_far(what)


def crossings(lines: Sequence[Array], closed: bool) -> float:
    """How often lines (n, 2) cross themselves and one another, about: by some of their edges against all."""
    starts = [p if closed else p[:-1] for p in lines if len(p) > 1]
    ends = [np.roll(p, -1, axis=0) if closed else p[1:] for p in lines if len(p) > 1]
    if sum(map(len, starts)) <= FEW_EDGES:
        return 0.0
    a, b = np.concatenate(starts), np.concatenate(ends)
    pick = np.linspace(0, len(a) - 1, SAMPLED).astype(np.int64)
    found = sum(_crossed(a[pick], b[pick], a[i : i + _CHUNK], b[i : i + _CHUNK]) for i in range(0, len(a), _CHUNK))
    return found / SAMPLED * len(a) / 2


def _crossed(a: Array, b: Array, c: Array, d: Array) -> int:
    """How many pairs of an edge a-b (n, 2) and an edge c-d (m, 2) cross within both."""

    def side(p: Array, q: Array, r: Array) -> Array:
        along = q - p
        return np.asarray(
            along[:, 0, None] * (r[None, :, 1] - p[:, 1, None]) - along[:, 1, None] * (r[None, :, 0] - p[:, 0, None])
        )

    one = side(a, b, c) * side(a, b, d) < 0
    other = (side(c, d, a) * side(c, d, b) < 0).T
    return int((one & other).sum())


def check_crossings(lines: Sequence[Array], closed: bool) -> None:
    """Raises BadDrawing for lines that cross too often to be cut apart."""
    count = crossings(lines, closed)
    if count > MOST_CROSSINGS:
        raise BadDrawing(
            f"Lines of the drawing cross about {float(f'{count:.2g}'):,.0f} times.",
            hint=f"At most about {MOST_CROSSINGS:,} crossings are drawn: simplify it, or part it into several.",
        )
