"""Registration marks that keep sets from lying close, and others that would not."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY
from ..job.document import Marks, SheetPlan
from ..layers import Layers
from ..layers.layer import Layer
from ..layers.marks import place_marks
from ..overlay import difference, together
from ..verdict import Verdict
from .loads import Medium
from .outline import outline_of
from .stack import most, ways

NARROW = ("squares", "strips")
"""Marks that stand beside the work, and so keep nothing above or below it away."""
FEW_STEPS = 6
SAID = {
    "crosses": "two crosses above",
    "squares": "two squares at the sides",
    "strips": "strips along both sides",
    "corners": "corner angles",
}


def other_marks(layers: Layers, marks: Marks, plan: SheetPlan, medium: Medium, quantity: int) -> Verdict | None:
    """Other marks with which a batch takes fewer loads, if there are any: as near as the sets that go on one tell."""
    if quantity < 2 or len(layers.layers) < 2 or marks.kind == "none" or plan.lay == "boxes":
        return None
    regions = [la.region for la in layers.layers]
    left, low, right, high = shapely.total_bounds(np.array(regions, dtype=object)).tolist()
    bounds = (left, low, right, high)
    placed = place_marks(marks, regions, bounds)
    # What is left of the marks without those is the tick on the centre line.
    tick = difference(layers.layers[0].marks, placed.region) if placed is not None else EMPTY
    away = plan.frame_mm
    room = medium.inside(away)
    loads = dict[str, int]()
    for kind in {marks.kind, *NARROW}:
        there = place_marks(marks.model_copy(update={"kind": kind}), regions, bounds)
        some = [] if there is None else [together([la.region, there.region, tick]) for la in layers.layers]
        sets = [_on_a_load(region, layer, plan, room) for region, layer in zip(some, layers.layers, strict=False)]
        if sets and all(sets):
            loads[kind] = _loads(sets, quantity, medium.kind == "mat" and plan.mats != "one_film")
    best = min(sorted(loads), key=lambda kind: loads[kind]) if loads else marks.kind
    if marks.kind not in loads or loads[best] >= loads[marks.kind]:
        return None
    return Verdict(
        "sheets.marks",
        "sheets",
        "look",
        loads[marks.kind],
        loads[best],
        "count",
        "The marks keep sets from lying close: the batch takes about {value} loads,"
        f" and with {SAID[best]} {{limit}}.",
        f"Have {SAID[best]}.",
        field="layers.marks.kind",
        fix=best,
    )


def _loads(sets: Sequence[int], quantity: int, shared: bool) -> int:
    """How many loads a batch takes, so many sets of each film going on one: what is left of them shares mats or not."""
    if not shared:
        return sum(math.ceil(quantity / n) for n in sets)
    return sum(quantity // n for n in sets) + math.ceil(sum(quantity % n / n for n in sets) - 1e-9)


def _on_a_load(region: BaseGeometry, layer: Layer, plan: SheetPlan, room: tuple[float, float]) -> int:
    return most(ways(outline_of(region), layer.film.turns, plan.gap_mm, room[0], FEW_STEPS), room[1])
