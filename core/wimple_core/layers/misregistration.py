"""What a hand's inaccuracy does to joints: the chance that a gap shows anywhere in the job, by simulation."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .joints import JointPlaces

HANDS = 4000
"""Simulated lay-ups: their share is sure to 0.8 % at worst (one standard deviation)."""
PLACES_OF_ONE_JOINT = 48
SHOWN = 40
"""So many of the lay-ups can be looked at."""


@dataclass(frozen=True)
class Hand:
    """How a hand lays one film against marks: it misses by `accuracy` mm (one standard deviation) in x and in y, and
    turns about the marks' middle by as much as their distance apart lets it."""

    accuracy: float
    middle: tuple[float, float]
    apart: float

    def moved(self, by: tuple[float, float]) -> Hand:
        """The same, its marks moved (mm)."""
        return replace(self, middle=(self.middle[0] + by[0], self.middle[1] + by[1]))

    @property
    def turn(self) -> float:
        """Standard deviation of the turn, rad: each of two marks missed by itself, `sqrt(2) sigma / D`."""
        return math.sqrt(2) * self.accuracy / self.apart if self.apart > 0 else 0.0


def gap_chance(overlap: float, accuracy: float) -> float:
    """Chance that a gap shows at one joint all round by the shift alone: `exp(-o^2 / (2 sigma^2))` (Rayleigh)."""
    return math.exp(-(overlap**2) / (2 * accuracy**2))


def overlap_for(chance: float, accuracy: float) -> float:
    """Overlap in mm at which one joint shows a gap with that chance: `sigma sqrt(-2 ln p)`."""
    return accuracy * math.sqrt(-2 * math.log(chance))


def _telling(joint: JointPlaces) -> NDArray[np.int64]:
    """Of the places of a joint those that tell most: evenly along it, and its outermost ones."""
    n = len(joint.at)
    if n <= PLACES_OF_ONE_JOINT:
        return np.arange(n)
    turn = np.linspace(0, 2 * math.pi, 16, endpoint=False)
    outermost = np.argmax(joint.at @ np.vstack([np.cos(turn), np.sin(turn)]), axis=0)
    facing = np.argmax(joint.toward @ np.vstack([np.cos(turn), np.sin(turn)]), axis=0)
    even = np.linspace(0, n - 1, PLACES_OF_ONE_JOINT - 32).astype(np.int64)
    return np.unique(np.concatenate([even, outermost, facing]))


@dataclass(frozen=True, eq=False)
class LayUps:
    """Simulated lay-ups: by how far each film (hands, layers) lies beside where it should, mm (..., 2), and by how much
    it is turned about the marks' middle, rad. The first film is where it is."""

    shift: NDArray[np.float64]
    turn: NDArray[np.float64]


def lay_ups(layers: int, hand: Hand, hands: int = HANDS, seed: int = 7) -> LayUps:
    """Lay-ups of a hand. Every film but the first is laid against the same marks, which came with the first."""
    rng = np.random.default_rng(seed)
    shift = rng.normal(0.0, hand.accuracy, (hands, layers, 2))
    turn = rng.normal(0.0, hand.turn, (hands, layers))
    shift[:, 0], turn[:, 0] = 0.0, 0.0
    return LayUps(shift, turn)


def overlap_needed(
    joints: list[JointPlaces], layers: int, hand: Hand, hands: int = HANDS, seed: int = 7, eye: float = 0.0
) -> NDArray[np.float64]:
    """For each joint and each simulated lay-up (n, hands) the overlap in mm that would have hidden its gaps: 0 where
    none shows that is wider than the `eye` sees (mm), infinite where one shows at a place with no room for more.

    Two films laid against the same marks miss each other by both errors. A joint opens by as much as the upper film
    goes away from the lower one, square to it, and shows a gap where that is more than the lower film reaches beneath.
    """
    laid = lay_ups(layers, hand, hands, seed)
    shift, turn = laid.shift, laid.turn
    needed = np.zeros((len(joints), hands))
    for n, joint in enumerate(joints):
        pick = _telling(joint)
        at, toward = joint.at[pick] - hand.middle, joint.toward[pick]
        moved = shift[:, joint.upper] - shift[:, joint.lower]
        turned = turn[:, joint.upper] - turn[:, joint.lower]
        # A turn by d moves a place (x, y) by d (-y, x).
        lever = toward[:, 1] * at[:, 0] - toward[:, 0] * at[:, 1]
        away = moved @ toward.T + turned[:, None] * lever - eye
        hidden = np.where(away <= joint.room[pick], away, math.inf)
        needed[n] = np.where(away > joint.reach[pick], hidden, 0.0).max(axis=1)
    return needed
