"""From the cuts of a layer to what is placed: a whole layer of one set, its weed frame round it."""

from __future__ import annotations

import shapely

from ..cuts import cuts_round, together
from ..job.document import SheetPlan
from ..layers import Layer
from .loads import Item


def item_of(layer: Layer, plan: SheetPlan, through_glass: bool = False, row: int = 0) -> Item:
    """A layer as it lies on the film: mirrored where its film is cut from behind, or is seen through glass, its frame
    round it; `row` is its line of a list of names."""
    cuts = layer.cuts
    if layer.film.mirrored != through_glass:
        cuts = cuts.transform(lambda p: p * (-1.0, 1.0))
    away = plan.weed_box_away_mm if plan.weed_box else 0.0
    # Lines that part the waste end at the weed box.
    left, low, right, high = cuts.only("piece", "hole", "mark", "slit", "frame").bounds
    w, h = right - left + 2 * away, high - low + 2 * away
    cuts = cuts.transform(lambda p: p + (away - left, away - low))
    if plan.weed_box:
        cuts = together([cuts, cuts_round(shapely.box(0, 0, w, h), "frame")])
    return Item(layer.name, layer.film, layer.film_colour, cuts, (w, h), layer.area, row)
