"""What lies on a strip pressed together: all pieces move and turn a little at once, and the strip grows shorter.

A search that moves one piece after another leaves a little air round each. How short the strip can become by small
moves of all of them is a linear program: pieces are parted into convex ones, and each two of those that are near one
another stay on their own sides of a line (Li and Milenkovic, "Compaction and separation algorithms for non-convex
polygons and their applications", 1995). The line is an edge of one of them, and turns with it. That is done again from
where they lie then, with smaller and smaller moves; in the end without turning, for which the lines are exact.
"""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from scipy.optimize import linprog
from scipy.sparse import csr_array, vstack

from ..arrays import Array
from .convex import convex_parts
from .shape import Place, Shape, stacked

CORNERS = 12
"""A convex part has no more corners, so that few of them are looked at in vain."""
FIRST = 0.05
LAST = 0.001
"""Pieces move by so much at once, at first and at last, of how wide their convex parts are on average."""
SHORTER = 0.02
LONGER = 0.01
"""A strip grows shorter or longer by no more than that at once, a share of it."""
WORTH = 3e-4
"""Where a step shortens the strip by less, a share of it, the next moves are half as wide."""
HAIR_MM = 1e-6
"""Gaps are wider by so much than they must be."""
LAST_STEPS = 8
EARLIER = 2
"""So many steps back what lay is kept, in case that what turning left cannot be undone."""


@dataclass(frozen=True)
class _Lying:
    """Convex parts (m, k, 2) of n pieces about their middles, mm; whose they are (m,), how far each piece reaches (n,)
    and whether it may be turned (n,); how it is turned (n,), radians, and where its middle is (n, 2)."""

    parts: Array
    whose: np.ndarray
    far: Array
    free: np.ndarray
    turn: Array
    at: Array

    @property
    def points(self) -> Array:
        """The corners of all parts where they lie (m, k, 2)."""
        c, s = np.cos(self.turn)[self.whose, None], np.sin(self.turn)[self.whose, None]
        x, y = self.parts[..., 0], self.parts[..., 1]
        there: Array = np.stack([c * x - s * y, s * x + c * y], -1) + self.at[self.whose, None]
        return there


@dataclass(frozen=True)
class _Rows:
    """What must hold of small moves: for each (k,) how much room there is, mm, and what is taken of it.

    A piece that moves right, up, and turns by its reach, and the strip that grows, each take so many times their moves
    of the room. One entry for every piece that counts in a row: the row, the piece, and the three (e,), (e, 3).
    """

    room: Array
    row: np.ndarray
    piece: np.ndarray
    takes: Array
    growing: Array

    def matrix(self, pieces: int) -> csr_array:
        """One row each; three columns to a piece and one for the strip."""
        k = len(self.room)
        row = np.concatenate([np.repeat(self.row, 3), np.arange(k)])
        column = np.concatenate([(3 * self.piece[:, None] + np.arange(3)).ravel(), np.full(k, 3 * pieces)])
        return csr_array((np.concatenate([self.takes.ravel(), self.growing]), (row, column)), shape=(k, 3 * pieces + 1))


class Press:
    """Pieces on a strip so many mm wide, pressed together and so far apart at least (mm)."""

    def __init__(self, shapes: Sequence[Shape], places: Sequence[Place], width: float, gap: float) -> None:
        self.width, self.gap = width, gap + HAIR_MM
        self.which = [p.shape for p in places]
        parts = [convex_parts(s.outline, CORNERS) for s in shapes]
        self.middles = np.array([shapely.Polygon(s.outline).centroid.coords[0] for s in shapes])
        far = np.array([np.hypot(*(s.outline - at).T).max() for s, at in zip(shapes, self.middles, strict=True)])
        self.lying = _Lying(
            stacked([part - self.middles[k] for k in self.which for part in parts[k]]),
            np.repeat(np.arange(len(places)), [len(parts[k]) for k in self.which]),
            far[self.which],
            np.array([shapes[k].turns == "any" for k in self.which]),
            np.radians([p.turn for p in places]),
            np.concatenate([p.of(self.middles[[p.shape]]) for p in places]),
        )
        self.length = float(self.lying.points[..., 1].max())

    def steps(self, until: float) -> Iterator[tuple[Place, ...] | None]:
        """Press on until that time of the monotonic clock. None after every step, and where all lie in the end, unless
        that came to nothing."""
        size = FIRST * float(np.ptp(self.lying.parts, axis=1).max(axis=1).mean())
        least = size * LAST / FIRST
        longest = 0.0
        freed = [(self.lying, self.length)]
        while size > least:
            began = time.monotonic()
            if began + LAST_STEPS / 2 * longest > until:
                break
            before = self.length
            # Where no such moves undo what lies over another, half of it is undone first.
            done = any(self._step(size, True, left, until) is not None for left in (0.0, 0.5))
            if not done or before - self.length < WORTH * before:
                size /= 2
            longest = max(longest, time.monotonic() - began)
            freed = [*freed[-EARLIER:], (self.lying, self.length)]
            yield None
        # Turning leaves a little of one piece over another. Where that cannot be undone, they lie as a step before.
        for self.lying, self.length in reversed(freed):
            for _ in range(LAST_STEPS):
                short = self._step(max(size, 10 * least), False, 0.0, until + longest)
                yield None
                if short is None:
                    break
                if short < HAIR_MM:
                    yield self.places
                    return

    @property
    def places(self) -> tuple[Place, ...]:
        """Where all of them lie."""
        out = []
        for k, turn, to in zip(self.which, np.degrees(self.lying.turn).tolist(), self.lying.at, strict=True):
            x, y = to - Place(k, turn, (0.0, 0.0)).of(self.middles[[k]])[0]
            out.append(Place(k, turn, (float(x), float(y))))
        return tuple(out)

    def _step(self, size: float, turning: bool, left: float, until: float) -> float | None:
        """Move all of them by so much at most, mm, so that the strip is shortest; of what they lie over each other now
        that share may be left. By how much a gap fell short before; None where it cannot be done."""
        lying, points, n = self.lying, self.lying.points, len(self.lying.at)
        rows = [_apart(lying, points, self.gap, 4.8 * size, self.length)]
        rows += _on_the_strip(lying, points, (self.width, self.length), 3 * size + SHORTER * self.length)
        room = np.concatenate([r.room for r in rows])
        least = np.zeros(3 * n + 1)
        least[-1] = 1.0
        most = np.full((3 * n + 1, 2), (-size, size))
        most[2 : 3 * n : 3] *= (lying.free & turning)[:, None]
        most[-1] = -SHORTER * self.length, LONGER * self.length
        found = linprog(
            least,
            A_ub=vstack([r.matrix(n) for r in rows]),
            b_ub=room - left * np.minimum(room, 0.0),
            bounds=most,
            method="highs-ds",
            options={"time_limit": max(until - time.monotonic(), 0.1)},
        )
        if found.status != 0:
            return None
        moves, grows = found.x[:-1].reshape(n, 3), float(found.x[-1])
        at = lying.at + moves[:, :2]
        at[:, 1] += lying.at[:, 1] * grows / self.length
        self.lying = replace(lying, turn=lying.turn + moves[:, 2] / lying.far, at=at)
        self.length += grows
        return float(max(0.0, -room.min(initial=0.0)))


def _apart(lying: _Lying, points: Array, gap: float, reach: float, length: float) -> _Rows:
    """Parts of different pieces nearer to each other than that stay behind, and before, a line that one carries."""
    one, other, normal = _lines(lying, points, gap + reach)
    # Before the line lies the other part: those of its corners that may come to it.
    before, behind = _along(normal, points[other]), _along(normal, points[one]).max(1)
    nearest = before.min(1)
    comes = before - nearest[:, None] < reach - np.maximum(nearest - behind - gap, 0.0)[:, None]
    comes[:, 1:] &= (points[other, 1:] != points[other, :-1]).any(-1)
    k, corner = np.nonzero(comes)
    a, b, n, q = lying.whose[one[k]], lying.whose[other[k]], normal[k], points[other[k], corner]
    across = np.stack([-n[:, 1], n[:, 0]], -1)
    # The line moves and turns with its piece; the corner with its own.
    arm_a = -(across * (q - lying.at[a])).sum(1) / lying.far[a]
    arm_b = (across * (q - lying.at[b])).sum(1) / lying.far[b]
    return _Rows(
        before[k, corner] - behind[k] - gap,
        np.tile(np.arange(len(k)), 2),
        np.concatenate([a, b]),
        np.concatenate([np.column_stack([n, arm_a]), np.column_stack([-n, arm_b])]),
        n[:, 1] * (lying.at[a, 1] - lying.at[b, 1]) / length,
    )


def _lines(lying: _Lying, points: Array, reach: float) -> tuple[np.ndarray, np.ndarray, Array]:
    """Pairs of parts of different pieces, no farther apart than that, and for each the direction (p, 2) from the first
    to the second in which they are farthest apart, or lie least over each other (the axes of separation)."""
    parts = shapely.polygons(points)
    low, high = points.min(axis=1) - reach, points.max(axis=1) + reach
    one, other = shapely.STRtree(parts).query(shapely.box(*low.T, *high.T))
    new = lying.whose[one] < lying.whose[other]
    one, other = one[new], other[new]
    near = shapely.dwithin(parts[one], parts[other], reach)
    one, other = one[near], other[near]
    edges = np.roll(points, -1, 1) - points
    long = np.hypot(edges[..., 0], edges[..., 1])
    out = np.stack([edges[..., 1], -edges[..., 0]], -1) / np.maximum(long, 1e-12)[..., None]
    ends = shapely.get_coordinates(shapely.shortest_line(parts[one], parts[other])).reshape(-1, 2, 2)
    between = ends[:, 1] - ends[:, 0]
    far = np.hypot(between[:, 0], between[:, 1])
    row = np.arange(len(one))
    normals, spans = [between / np.maximum(far, 1e-12)[:, None]], [np.where(far > HAIR_MM, far - 1e-7, -np.inf)]
    for a, b in ((one, other), (other, one)):
        span = _along(out[a], points[b][:, None]).min(-1) - (out[a] * points[a]).sum(-1)
        span[long[a] <= 1e-9] = -np.inf
        best = span.argmax(1)
        normals.append(out[a][row, best])
        spans.append(span[row, best])
    which = np.argmax(spans, axis=0)
    swapped = which == 2
    return np.where(swapped, other, one), np.where(swapped, one, other), np.stack(normals)[which, row]


def _along(direction: Array, points: Array) -> Array:
    """How far points (..., k, 2) lie in a direction (..., 2)."""
    far: Array = np.matmul(points, direction[..., None])[..., 0]
    return far


def _on_the_strip(lying: _Lying, points: Array, size: tuple[float, float], reach: float) -> list[_Rows]:
    """Corners nearer than that to an edge of the strip stay on it; its upper one goes with its length."""
    out = []
    own = np.ones(points.shape[:2], bool)
    own[:, 1:] = (points[:, 1:] != points[:, :-1]).any(-1)
    for axis, sign in ((0, -1.0), (0, 1.0), (1, -1.0), (1, 1.0)):
        room = (size[axis] if sign > 0 else 0.0) - sign * points[..., axis]
        part, corner = np.nonzero(own & (room < reach))
        piece, arm = lying.whose[part], points[part, corner] - lying.at[lying.whose[part]]
        takes = np.zeros((len(part), 3))
        takes[:, axis] = sign
        takes[:, 2] = sign * (-arm[:, 1] if axis == 0 else arm[:, 0]) / lying.far[piece]
        growing = (sign * lying.at[piece, 1] / size[1] - (sign > 0)) * (axis == 1)
        out.append(_Rows(room[part, corner], np.arange(len(part)), piece, takes, growing))
    return out
