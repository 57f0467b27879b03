"""Is this the same blank as last time? Two measurements held against each other, their spread taken into account."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..figures import carried
from ..verdict import Level, grade
from .measured import Measured

LIKELY, SURELY = 2.0, 4.0
"""Beyond twice the joint spread a difference is likely, beyond four times sure (normal distribution: 1 in 22, 1 in
16,000)."""
NAMES = {
    "seam_top": "round the top",
    "seam_bottom": "round the bottom",
    "side": "along the side",
    "height": "height",
    "width": "width",
    "panel_radius": "radius of the bend",
    "arc": "over the dome",
    "rim": "rim",
    "insert_diameter": "insert",
    "rise": "rise in all",
    "depth": "depth",
}


@dataclass(frozen=True)
class Difference:
    """One figure of both: `first` and `second` mm, their difference, its spread, and the judgement."""

    name: str
    first: float
    second: float
    apart: float
    spread: float
    level: Level


@dataclass(frozen=True)
class Comparison:
    """Whether two measurements are of one kind of blank, and every figure they share."""

    same_kind: bool
    level: Level
    differences: tuple[Difference, ...]
    sentence: str


def _name(figure: str) -> str:
    if figure.startswith("seam_") and figure[5:].isdigit():
        return f"round ring {int(figure[5:]) + 1}"
    return NAMES.get(figure, figure.replace("_", " "))


def compare(first: Measured, second: Measured, same_kind: bool) -> Comparison:
    """Hold two measurements against each other, by the figures in mm that both have."""
    differences = []
    for a in first.consequences:
        b = second.consequence(a.name)
        if b is None or a.unit != "mm" or a.name.startswith("edge_drift"):
            continue
        spread = math.hypot(a.error, b.error)
        apart = b.value - a.value
        differences.append(
            Difference(
                _name(a.name),
                a.value,
                b.value,
                apart,
                spread,
                grade(abs(apart), LIKELY * max(spread, 0.05), SURELY * max(spread, 0.05)),
            )
        )
    if not same_kind or not differences:
        return Comparison(False, "stop", tuple(differences), "These are blanks of different kinds.")
    worst = max(differences, key=lambda d: abs(d.apart) / max(d.spread, 0.05))
    if worst.level == "ok":
        return Comparison(
            True,
            "ok",
            tuple(differences),
            "The same blank, as far as the readings can tell: every figure agrees within twice its spread.",
        )
    sure = "These are two different blanks" if worst.level == "stop" else "These may be two different blanks"
    return Comparison(
        True,
        worst.level,
        tuple(differences),
        f"{sure}: {worst.name} differs by {carried(abs(worst.apart))}, with a spread of {carried(worst.spread)}.",
    )
