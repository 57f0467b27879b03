"""Patterns as arrays of places: where every motif's middle lies on a surface, how large and how turned it is.

Round a circumference C with a wanted pitch p there are `n = round(C / p)` motifs, even where neighbours alternate, and
the pitch becomes C / n, so that the pattern meets itself. On a taper *conformal* has the same n in every row, rows and
motifs growing as `exp(k v / r_c)`; *rings* have motifs of one size and `n_i = round(2 pi r(s_i) / p)` in each row.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..arrays import Array
from ..errors import DoesNotFit
from ..figures import carried
from ..job.pattern import Pattern
from ..surface import Surface

MOST_MOTIFS = 20_000
TIRED = 12
"""A scatter is full when so many throws in a row find no room."""


@dataclass(frozen=True)
class Places:
    """Where n motifs lie: `a`, `s` on the surface, the size of each against the first, its turn (rad, against the
    wall's own upright), whether it is mirrored, and its row."""

    a: Array
    s: Array
    size: Array
    turn: Array
    mirrored: NDArray[np.bool_]
    row: NDArray[np.int64]
    order: NDArray[np.int64]
    """Along its row and from row to row: motifs that take turns go by it."""
    pitch: float
    """mm from middle to middle in the first row."""
    wanted: float
    number: tuple[int, int]
    """The fewest and the most in a row."""

    def __len__(self) -> int:
        return len(self.a)

    def only(self, which: NDArray[np.bool_] | NDArray[np.int64]) -> Places:
        """Some of them."""
        return replace(
            self,
            a=self.a[which],
            s=self.s[which],
            size=self.size[which],
            turn=self.turn[which],
            mirrored=self.mirrored[which],
            row=self.row[which],
            order=self.order[which],
        )


def joined(some: Sequence[Places]) -> Places:
    """All of several."""
    return replace(
        some[0],
        a=np.concatenate([p.a for p in some]),
        s=np.concatenate([p.s for p in some]),
        size=np.concatenate([p.size for p in some]),
        turn=np.concatenate([p.turn for p in some]),
        mirrored=np.concatenate([p.mirrored for p in some]),
        row=np.concatenate([p.row for p in some]),
        order=np.concatenate([p.order for p in some]),
    )


def _plain(a: Array, s: Array, pitch: float, wanted: float, number: tuple[int, int]) -> Places:
    """Places upright and of one size, in one row."""
    n = len(a)
    none = np.zeros(n)
    row, order = np.zeros(n, dtype=np.int64), np.arange(n)
    return Places(a, s, np.ones(n), none, np.zeros(n, dtype=bool), row, order, pitch, wanted, number)


@dataclass(frozen=True)
class Field:
    """What a pattern fills: from `left` to `right` (units of a), `low` to `high` (mm), its first motif's middle, and
    the motif's size and painted area (mm, mm2) there."""

    surface: Surface
    left: float
    right: float
    low: float
    high: float
    a_c: float
    s_c: float
    width: float
    height: float
    area: float
    motifs: int = 1
    """How many take turns: as many, or a multiple, are in every row that meets itself."""


def spaced_by(p: Pattern) -> str:
    """The field of the element that says how far apart the motifs are."""
    if p.lattice == "scatter":
        return "pattern.least_mm"
    return "pattern." + {"pitch": "pitch_mm", "number": "number", "coverage": "coverage_percent"}[p.by]


def row_ratio(p: Pattern) -> float:
    """From row to row, over from middle to middle, where the lattice says it."""
    return math.sqrt(3) / 2 if p.lattice == "hexagonal" else 1.0


def _wanted(p: Pattern, f: Field) -> tuple[float, float]:
    """The wanted pitch in the first row and from row to row, mm."""
    ratio = row_ratio(p)
    if p.by == "coverage":
        cell = f.area / (p.coverage_percent / 100)
        pitch = cell / p.row_mm if p.row_mm else math.sqrt(cell / ratio)
    elif p.by == "number" and f.surface.closed:
        pitch = 2 * math.pi * f.surface.scale_at(f.s_c) / p.number
    elif p.by == "number":
        # n things of width w in W have gaps (W - n w) / (n + 1).
        pitch = f.width + (f.right - f.left - p.number * f.width) / (p.number + 1)
        if pitch < f.width:
            raise DoesNotFit(
                f"{p.number} motifs of {carried(f.width)} do not go into {carried(f.right - f.left)}.",
                field="pattern.number",
                hint="Take fewer, or make them smaller.",
            )
    else:
        pitch = p.pitch_mm
    return pitch, p.row_mm or pitch * ratio


def _alternates(p: Pattern) -> bool:
    return p.lattice in ("half_drop", "mirrored")


def _check(count: float, p: Pattern) -> None:
    if count > MOST_MOTIFS:
        raise DoesNotFit(
            f"That pattern has {count:,.0f} motifs; at most {MOST_MOTIFS:,} are laid.",
            field=spaced_by(p),
            hint="Set them further apart, or make the motif larger.",
        )


def _rows(low: float, high: float, pitch: float, half: float, p: Pattern) -> NDArray[np.int64]:
    """Numbers of the rows, from the first one's middle at 0, that reach between two heights."""
    first, last = math.ceil((low - half) / pitch), math.floor((high + half) / pitch)
    _check(last - first + 1, p)
    return np.arange(first, last + 1)


def _number(around: Array, pitch: float, of: int) -> NDArray[np.int64]:
    """How many go round, so many at once."""
    n: NDArray[np.int64] = np.maximum(of * np.rint(around / pitch / of), of).astype(np.int64)
    return n


def _round(p: Pattern, f: Field) -> Places:
    surface, k = f.surface, f.surface.k
    r_c = surface.scale_at(f.s_c)
    pitch, row = _wanted(p, f)
    of = math.lcm(2 if _alternates(p) else 1, f.motifs)
    around = 2 * math.pi * r_c
    n = int(_number(np.array(around), pitch, of))
    drop = row / 2 if p.lattice == "half_drop" else 0.0
    conformal = p.taper == "conformal" and k != 0

    def level(s: float) -> float:
        """How high a place is in rows' own measure."""
        return r_c / k * math.log1p(k * (s - f.s_c) / r_c) if conformal else s - f.s_c

    rows = _rows(level(f.low), level(f.high), row, f.height / 2 + drop, p)
    numbers = np.full(len(rows), n)
    if p.taper == "rings" and k:
        r = r_c + k * rows * row
        rows, r = rows[r > pitch / 4], r[r > pitch / 4]
        numbers = _number(np.asarray(2 * math.pi * r, dtype=np.float64), pitch, of)
    _check(float(numbers.sum()), p)
    at = np.repeat(np.arange(len(rows)), numbers)
    i = np.arange(len(at)) - np.repeat(np.cumsum(numbers) - numbers, numbers)
    each = numbers[at]
    shifted = np.zeros(len(at))
    if p.lattice in ("brick", "hexagonal") or (p.lattice == "half_drop" and p.taper == "rings" and k):
        shifted = np.where(rows[at] % 2, 0.5, 0.0)
    a = f.a_c + 2 * math.pi * (i + shifted) / each
    v = rows[at] * row
    if drop and not (p.taper == "rings" and k):
        v = v + np.where(i % 2, drop, 0.0)
    s = np.asarray(f.s_c + (r_c / k * np.expm1(k * v / r_c) if conformal else v), dtype=np.float64)
    size = np.asarray((r_c + k * (s - f.s_c)) / r_c if conformal else np.ones(len(at)), dtype=np.float64)
    mirrored = ((i + rows[at]) % 2 == 1) & (p.lattice == "mirrored")
    number = (int(numbers.min()), int(numbers.max()))
    return Places(a, s, size, np.zeros(len(at)), mirrored, rows[at], i + rows[at], around / n, pitch, number)


def _flat(p: Pattern, f: Field) -> Places:
    pitch, row = _wanted(p, f)
    x, y = f.a_c, f.s_c
    if p.by == "number":
        x = f.left + (pitch - f.width) + f.width / 2
    elif p.anchor == "middle":
        x, y = (f.left + f.right) / 2, (f.low + f.high) / 2
    elif p.anchor == "corner":
        x, y = f.left + f.width / 2, f.low + f.height / 2
    drop = row / 2 if p.lattice == "half_drop" else 0.0
    columns = _rows(f.left - x, f.right - x, pitch, f.width / 2 + pitch / 2, p)
    rows = _rows(f.low - y, f.high - y, row, f.height / 2 + drop, p)
    _check(len(columns) * len(rows), p)
    i, j = (g.ravel() for g in np.meshgrid(columns, rows))
    shifted = np.where(j % 2, 0.5, 0.0) if p.lattice in ("brick", "hexagonal") else 0.0
    a = np.asarray(x + (i + shifted) * pitch, dtype=np.float64)
    s = np.asarray(y + j * row + np.where(i % 2, drop, 0.0), dtype=np.float64)
    mirrored = ((i + j) % 2 == 1) & (p.lattice == "mirrored")
    return replace(_plain(a, s, pitch, pitch, (len(columns), len(columns))), mirrored=mirrored, row=j, order=i + j)


def _scattered(p: Pattern, f: Field) -> Places:
    """Random places no nearer each other than that: throws that find room stay, until hardly any does. Nearness is
    measured on the template, round the seam too."""
    dice, surface = np.random.default_rng(p.seed), f.surface
    high_r = max(surface.scale_at(f.low), surface.scale_at(f.high))
    per = high_r if surface.closed else 1.0
    area = (f.right - f.left) * per * (f.high - f.low)
    # Discs of half the distance cover at most pi / sqrt(12) of the plane.
    most = area / (p.least_mm**2 * math.sqrt(3) / 2)
    _check(most, p)
    turns = (0.0, 2 * math.pi, -2 * math.pi) if surface.closed else (0.0,)
    batch = max(int(most), 64)
    kept = np.empty((0, 2))
    flat = np.empty((0, 2))
    misses = 0
    while misses < TIRED:
        a = dice.uniform(f.left, f.right, batch)
        s = dice.uniform(f.low, f.high, batch)
        # As many to the area everywhere, though the wall is wider above.
        stay = dice.uniform(0, 1, batch) * high_r <= surface.scale_at(0.0) + surface.k * s
        a, s = a[stay], s[stay]
        points = np.column_stack(surface.develop(a, s))
        if len(flat):
            around = np.concatenate([surface.turned(flat, t) for t in turns])
            far = cKDTree(around).query(points, distance_upper_bound=p.least_mm)[0] >= p.least_mm
            a, s, points = a[far], s[far], points[far]
        alone = _first_come(points, p.least_mm, [partial(surface.turned, by=t) for t in turns])
        misses = misses + 1 if alone.sum() <= 0.002 * (len(kept) + 1) else 0
        kept = np.concatenate([kept, np.column_stack([a, s])[alone]])
        flat = np.concatenate([flat, points[alone]])
    return _plain(kept[:, 0], kept[:, 1], p.least_mm, p.least_mm, (len(kept), len(kept)))


def _first_come(points: Array, least: float, turned: Sequence[Callable[[Array], Array]]) -> NDArray[np.bool_]:
    """Which of the points (n, 2) stay, so that each is that far from all that stay before it, wherever they are
    turned."""
    n = len(points)
    out = np.ones(n, dtype=bool)
    if n < 2:
        return out
    every = np.concatenate([turn(points) for turn in turned])
    near = cKDTree(points).sparse_distance_matrix(cKDTree(every), least, output_type="coo_matrix").tocsr()
    for i in range(n):
        if out[i]:
            others = near.indices[near.indptr[i] : near.indptr[i + 1]] % n
            out[others[others > i]] = False
    return out


def places_of(p: Pattern, f: Field) -> Places:
    """Where the motifs of a pattern lie, those that only reach into the field included. Raises DoesNotFit, at fields of
    the pattern, where there would be too many, or none have room."""
    if p.lattice == "scatter":
        found = _scattered(p, f)
    else:
        found = _round(p, f) if f.surface.closed else _flat(p, f)
    turn = found.turn
    if p.turned == "random":
        turn = np.random.default_rng(p.seed + 7).uniform(-math.pi, math.pi, len(found))
    elif p.turned == "outward" and not f.surface.closed:
        x, y = found.a - (f.left + f.right) / 2, found.s - (f.low + f.high) / 2
        turn = np.where(np.hypot(x, y) > 1e-6, np.arctan2(y, x) - math.pi / 2, 0.0)
    return replace(found, turn=turn)
