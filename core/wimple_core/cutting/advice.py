"""How a film should be cut, from what this workshop's own cuts came to; from its thickness where there are none yet.

The model: a blade goes `force x k x 2^(-m / w)` um deep, `m` being the metres it has cut, and every cut strays from
that by a factor whose logarithm is normal with `s`. A corner comes out right where the depth lies between the film and
half its liner. `k`, `w` and `s` are not known: their likelihood is added up over a grid (Bayes), so that what is stated
as a chance comes true as often. Prior values are common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from scipy.stats import norm

from ..arrays import Array
from ..job.cut_log import Blade, CutEntry
from ..job.shipped import LINER_UM, Cutter, Film
from ..sheets import Load

FORCE_PER_UM = 1.25
"""Of force (gf) for each um of film, where nothing is known of a machine."""
K = np.linspace(-1.2, 1.2, 49)
K_SD = 0.35
WORN_M = np.array([300.0, 500.0, 800.0, 1200.0, 2000.0, 4000.0])
WORN_WEIGHT = np.array([0.1, 0.2, 0.25, 0.2, 0.15, 0.1])
STRAYS = np.array([0.04, 0.08, 0.14, 0.22])
STRAY_WEIGHT = np.array([0.25, 0.35, 0.25, 0.15])
NEAR = 0.06
"""Forces that differ by less than that share count as one."""
MOST_FORETOLD = 60
SUREST = 0.99
SMALL_MM = 3.0
"""Lettering lower than that wants it lighter and slower (common practice, no source)."""
LIGHTER, SLOWER = 0.92, 0.6


ENOUGH, BY_CHANCE = 8, 2.0
"""So many cuts tell how often what was foretold came true; so many standard deviations off it may be by chance."""


@dataclass(frozen=True)
class Foretold:
    """Of `cuts` in the log, each foretold by those before it: how many were expected to come out right, with their
    standard deviation, and how many did."""

    cuts: int
    expected: float
    spread: float
    right: int

    @property
    def times(self) -> float:
        """How much more often than foretold it comes out right; 1 where that may be chance, or they are few."""
        if self.cuts < ENOUGH or abs(self.right - self.expected) <= BY_CHANCE * self.spread:
            return 1.0
        return self.right / max(self.expected, 1e-9)


@dataclass(frozen=True)
class Advice:
    """A force (gf, or None where the machine tells none) and a speed, how likely a corner comes out right with it, and
    what that rests on: cuts of this film on this machine, how many of those near this force came out right, and blades
    that went dull by which metre."""

    force_gf: float | None
    speed_mm_s: float
    chance: float | None
    cuts: int
    near: int
    right: int
    blade_m: float
    dull_by: tuple[float, ...]
    small: bool
    passes: int = 1
    """How often the blade goes round with it."""
    elsewise: int = 0
    """Cuts in the log in which it went round otherwise: they tell nothing of it."""
    foretold: Foretold | None = None

    @property
    def known(self) -> bool:
        """Does it rest on cuts of this workshop's?"""
        return self.cuts > 0

    def words(self) -> str:
        """What it rests on, as a maker says it."""
        if not self.known:
            said = "Nothing was cut of it yet: this is by the film's thickness and family, so test it first."
        else:
            said = f"{self.right} of {self.near} clean near this setting" if self.near else "no cut near this setting"
            said = f"{said[0].upper()}{said[1:]}, of {self.cuts} in the log."
        if self.blade_m:
            said += f" The blade has {self.blade_m:.0f} m."
        if self.dull_by:
            dull = sorted(self.dull_by)
            middle = dull[len(dull) // 2]
            by = sum(d <= middle for d in dull)
            said += f" {by} of {len(dull)} blades went dull by {middle:.0f} m."
        if self.elsewise:
            n = self.elsewise
            said += f" {n} more {'was' if n == 1 else 'were'} cut in other passes: that is another setting."
        if self.foretold is not None and self.foretold.cuts >= ENOUGH:
            f = self.foretold
            said += f" Of {f.cuts} cuts {f.expected:.0f} were foretold to come out right, and {f.right} did."
        if self.small:
            said += f" Details under {SMALL_MM:g} mm: lighter and slower."
        return said


@dataclass(frozen=True)
class Believed:
    """How likely each (k, w, s) of the grid is (49, 6, 4), for one film on one machine."""

    weights: Array
    film_um: float
    harder: float
    """How many times the force of a plain film of that thickness it asks for."""

    @cached_property
    def usual(self) -> float:
        """Force (gf) that cuts the film as it is usually, with a new blade."""
        return FORCE_PER_UM * self.harder * self.film_um

    def chances(self, force: float, blade_m: float) -> tuple[float, float, float]:
        """How likely a cut does not go through, comes out right, and goes into the liner."""
        odds = _odds(force / self.usual, blade_m, self.film_um)
        low, right, high = (float((self.weights * part).sum()) for part in odds)
        return low, right, high

    def best(self, blade_m: float, most_gf: float | None = None) -> tuple[float, float]:
        """The force (gf) that comes out right most often, in whole steps of 1 gf, and how likely it does."""
        forces = np.unique(np.rint(self.usual * np.geomspace(0.35, 3.0, 120)))
        forces = forces[(forces >= 1) & (forces <= (most_gf or math.inf))]
        if not len(forces):
            return float(most_gf or 1.0), self.chances(float(most_gf or 1.0), blade_m)[1]
        found = [self.chances(float(f), blade_m)[1] for f in forces]
        n = int(np.argmax(found))
        return float(forces[n]), found[n]


def _odds(ratio: float, blade_m: float, film_um: float) -> tuple[Array, Array, Array]:
    """For all (k, w, s): not through, right, into the liner; `ratio` is the force to the usual one."""
    # With the usual force a new blade goes through and a quarter into what may be cut of the liner.
    top = math.log((film_um + LINER_UM / 2) / film_um)
    deep = math.log(ratio) + top / 2 + K[:, None, None] - blade_m / WORN_M[None, :, None] * math.log(2)
    s = STRAYS[None, None, :]
    low, high = norm.cdf(-deep / s), norm.sf((top - deep) / s)
    return low, np.maximum(1 - low - high, 0.0), high


def believe(entries: Sequence[CutEntry], film: Film) -> Believed:
    """What is believed of a film on a machine after those cuts of it; those without a force or a corner tell
    nothing."""
    weights = norm.pdf(K / K_SD)[:, None, None] * WORN_WEIGHT[None, :, None] * STRAY_WEIGHT[None, None, :]
    now = Believed(weights / weights.sum(), film.thickness_um, film.harder)
    told = np.log(now.weights)
    for e in entries:
        if e.setting.force_gf is None or e.corner is None:
            continue
        told = told + np.log(np.maximum(_odds_of(e, now)[RANKS.index(e.corner)], 1e-9))
    weights = np.exp(told - told.max())
    return Believed(weights / weights.sum(), film.thickness_um, film.harder)


def _foretold(entries: Sequence[CutEntry], film: Film) -> Foretold:
    """How often cuts came out right against what those before each of them foretold."""
    now = believe((), film)
    cuts, expected, spread, right = 0, 0.0, 0.0, 0
    for e in entries:
        if e.setting.force_gf is None or e.corner is None:
            continue
        odds = _odds_of(e, now)
        chance = float((now.weights * odds[RANKS.index("right")]).sum())
        cuts, expected, spread = cuts + 1, expected + chance, spread + chance * (1 - chance)
        right += e.corner == "right"
        weights = now.weights * np.maximum(odds[RANKS.index(e.corner)], 1e-9)
        now = replace(now, weights=weights / weights.sum())
    return Foretold(cuts, expected, math.sqrt(spread), right)


def _odds_of(e: CutEntry, one: Believed) -> tuple[Array, Array, Array]:
    """The odds of a cut in the log, of the film as thick as it was."""
    usual = replace(one, film_um=e.film_um).usual
    return _odds((e.setting.force_gf or 0.0) / usual, e.blade_m, e.film_um)


def blade_metres(blade: Blade | None, entries: Sequence[CutEntry]) -> float:
    """How far a blade has cut, m."""
    return 0.0 if blade is None else blade.before_m + sum(e.metres for e in entries if e.blade == blade.id)


def smallest_piece(load: Load, film: str) -> float | None:
    """How long the smallest piece is that is cut of a film on a load, mm; None where none is."""
    cuts = [load.on(patch).only("piece") for patch in load.patches if patch.film.id == film]
    boxes = [shapely.bounds(shapely.get_parts(c.region)) for c in cuts if len(c)]
    if not boxes:
        return None
    every = np.concatenate(boxes)
    return float((every[:, 2:] - every[:, :2]).max(axis=1).min())


def advise(
    entries: Sequence[CutEntry],
    film: Film,
    cutter: Cutter,
    blade: Blade | None = None,
    blades: Sequence[Blade] = (),
    smallest_mm: float | None = None,
    passes: int = 1,
) -> Advice:
    """A setting for a film on a machine, the blade going round so many times, from the cuts of both in the log."""
    every = [e for e in entries if e.cutter == cutter.id and e.film == film.id]
    # A force in two passes is another setting than in one.
    mine = [e for e in every if e.setting.passes == passes]
    metres = blade_metres(blade, entries)
    believed = believe(mine, film)
    force, chance = believed.best(metres, cutter.most_force_gf)
    speeds = sorted(e.setting.speed_mm_s for e in mine if e.setting.speed_mm_s and e.corner == "right")
    speed = speeds[len(speeds) // 2] if speeds else cutter.speed_mm_s
    small = smallest_mm is not None and smallest_mm < SMALL_MM
    if small:
        # Lighter only as far as it still goes through as surely as most settings do.
        lighter = round(force * LIGHTER)
        if believed.chances(lighter, metres)[1] > 0.75 * chance:
            force, chance = float(lighter), believed.chances(lighter, metres)[1]
        speed = speed * SLOWER
    foretold = _foretold(mine[-MOST_FORETOLD:], film)
    chance = min(chance * foretold.times, SUREST)
    near = [e for e in mine if e.setting.force_gf and e.corner and abs(e.setting.force_gf / force - 1) < NEAR]
    dull = tuple(blade_metres(b, entries) for b in blades if b.worn_out and b.cutter == cutter.id)
    return Advice(
        force if cutter.scale is None else None,
        round(speed),
        chance if cutter.scale is None else None,
        len(mine),
        len(near),
        sum(e.corner == "right" and e.weeded != "tore" for e in near),
        metres,
        dull,
        small,
        passes,
        len(every) - len(mine),
        foretold,
    )


RANKS = ("not_through", "right", "into_liner")


def is_muddled(forces: Sequence[float], corners: Sequence[str]) -> bool:
    """Does a row of test cuts contradict itself: did more force go less deep?"""
    ranks = [RANKS.index(c) for _, c in sorted(zip(forces, corners, strict=True))]
    return any(a > b for a, b in zip(ranks, ranks[1:], strict=False))


def from_test(forces: Sequence[float], corners: Sequence[str]) -> tuple[float, float] | None:
    """The force (gf) that a test cut tells, and its margin each way: the middle of those that came out right. None
    where none did, and where the row contradicts itself."""
    right = sorted(f for f, c in zip(forces, corners, strict=True) if c == "right")
    if not right or is_muddled(forces, corners):
        return None
    steps = sorted(forces)
    low = max((f for f in steps if f < right[0]), default=right[0])
    high = min((f for f in steps if f > right[-1]), default=right[-1])
    middle = (right[0] + right[-1]) / 2
    return middle, min(middle - (low + right[0]) / 2, (high + right[-1]) / 2 - middle)
