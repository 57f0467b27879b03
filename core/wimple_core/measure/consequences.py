"""What the spread of the readings does to the figures a maker cares about, and which reading to take again first."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from ..errors import BadReading
from .readings import Reading


@dataclass(frozen=True)
class Consequence:
    """One figure that follows from the readings: `value` and its standard error in `unit`; `shares` of its variance by
    reading, the largest first, summing to 1; empty where nothing spreads it."""

    name: str
    value: float
    error: float
    unit: str
    shares: tuple[tuple[str, float], ...]

    @property
    def first(self) -> str:
        """The reading that contributes most, or nothing."""
        return self.shares[0][0] if self.shares else ""


def propagate(
    figures: Callable[[Mapping[str, Reading]], Mapping[str, float]],
    readings: Mapping[str, Reading],
    units: Mapping[str, str],
) -> tuple[Consequence, ...]:
    """First-order propagation of independent errors (JCGM 100:2008, 5.1.2) by central differences.

    `figures` gives each named figure from all readings. The step is a tenth of each error: the figure is smooth over
    it and far
    above rounding. Where a reading stands at the edge of what can be, the difference is taken to the one side that can.
    """
    values = dict(figures(readings))
    variance: dict[str, dict[str, float]] = {name: {} for name in values}
    for name, r in readings.items():
        step = max(r.error * 0.1, 1e-6 * max(1.0, abs(r.mean)))
        ends = []
        for sign in (1, -1):
            try:
                ends.append((sign * step, figures({**readings, name: replace(r, mean=r.mean + sign * step)})))
            except BadReading:
                ends.append((0.0, values))
        (h1, above), (h0, below) = ends
        for figure in values:
            slope = (above[figure] - below[figure]) / (h1 - h0) if h1 != h0 else 0.0
            variance[figure][name] = (slope * r.error) ** 2
    out = []
    for figure, value in values.items():
        total = sum(variance[figure].values())
        shares = sorted(
            ((n, v / total) for n, v in variance[figure].items() if total > 0 and v / total > 1e-9), key=lambda p: -p[1]
        )
        out.append(Consequence(figure, value, math.sqrt(total), units.get(figure, "mm"), tuple(shares)))
    return tuple(out)
