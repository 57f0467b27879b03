"""From the cuts of a layer to what is placed: a whole layer of one set, with its weed frame round it or without."""

from __future__ import annotations

import shapely

from ..cuts import Cuts, cuts_along, cuts_round, together
from ..job.document import SheetPlan
from ..layers import Layer
from .loads import Item
from .outline import outline_of


def item_of(layer: Layer, plan: SheetPlan, through_glass: bool = False, row: int = 0, close: bool = False) -> Item:
    """A layer as it lies on the film: mirrored where its film is cut from behind, or is seen through glass; `row` is
    its line of a list of names. Its weed frame stands round it, unless it lies `close` to others: then one stands
    round all of them, and the lines that part its waste end half the gap beyond its outline."""
    cuts = layer.cuts
    if layer.film.mirrored != through_glass:
        cuts = cuts.transform(lambda p: p * (-1.0, 1.0))
    away = plan.weed_box_away_mm if plan.weed_box and not close else 0.0
    # Lines that part the waste end at the weed box.
    left, low, right, high = cuts.only("piece", "hole", "mark", "slit", "frame").bounds
    w, h = right - left + 2 * away, high - low + 2 * away
    cuts = cuts.transform(lambda p: p + (away - left, away - low))
    if close:
        cuts = _within_outline(cuts, plan.gap_mm / 2)
    elif plan.weed_box:
        cuts = together([cuts, cuts_round(shapely.box(0, 0, w, h), "frame")])
    return Item(layer.name, layer.film, layer.film_colour, cuts, (w, h), layer.area, row)


def _within_outline(cuts: Cuts, beyond: float) -> Cuts:
    """The cuts with the lines that part the waste no further out than so many mm beyond the work's outline."""
    lines = cuts.only("weed")
    work = cuts.only("piece", "hole", "mark", "slit", "frame")
    if not len(lines):
        return work
    room = shapely.buffer(shapely.Polygon(outline_of(work.only("piece", "hole", "mark", "frame").region)), beyond)
    left = shapely.get_parts(shapely.intersection([shapely.LineString(p) for p in lines.paths()], room))
    kept = left[(shapely.get_dimensions(left) == 1) & ~shapely.is_empty(left)]
    return together([work, cuts_along([shapely.get_coordinates(g) for g in kept], "weed")])
