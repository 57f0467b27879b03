"""From the cuts of a layer to what is placed: a whole layer of one set, with its weed frame round it or without."""

from __future__ import annotations

import shapely

from ..cuts import Cuts, cuts_along, cuts_round, together
from ..job.document import SheetPlan
from ..layers import Layer
from .loads import Item, Medium
from .outline import outline_of
from .panels import Panel, Parted, fewest, part


def item_of(
    layer: Layer,
    plan: SheetPlan,
    through_glass: bool = False,
    row: int = 0,
    close: bool = False,
    panel: Panel | None = None,
) -> Item:
    """A layer as it lies on the film: mirrored where its film is cut from behind, or is seen through glass; `row` is
    its line of a list of names. Its weed frame stands round it, unless it lies `close` to others: then one stands
    round all of them, and the lines that part its waste end half the gap beyond its outline."""
    cuts = layer.cuts if panel is None else panel.cuts
    if layer.cut_mirrored(through_glass):
        cuts = cuts.transform(lambda p: p * (-1.0, 1.0))
    away = 0.0 if close else plan.frame_mm
    # Lines that part the waste end at the weed box.
    left, low, right, high = cuts.only("piece", "hole", "mark", "slit", "frame").bounds
    w, h = right - left + 2 * away, high - low + 2 * away
    cuts = cuts.transform(lambda p: p + (away - left, away - low))
    if close:
        cuts = _within_outline(cuts, plan.gap_mm / 2)
    elif plan.weed_box:
        cuts = together([cuts, cuts_round(shapely.box(0, 0, w, h), "frame")])
    area = layer.area if panel is None else panel.area
    of = (0, 0) if panel is None else (panel.number, panel.of)
    numbers = layer.numbers if panel is None else ()
    return Item(layer.name, layer.film, layer.film_colour, cuts, (w, h), area, row, of, numbers=numbers)


def fits(item: Item, medium: Medium) -> bool:
    """Has it room on a machine, turned a quarter where it may be?"""
    w, h = item.size
    stands = w <= medium.width + 1e-9 and h <= medium.length + 1e-9
    return stands or (item.turns == "any" and h <= medium.width + 1e-9 and w <= medium.length + 1e-9)


def parted(layer: Layer, plan: SheetPlan, medium: Medium) -> Parted | None:
    """A layer in as few panels as have room on a machine, standing or turned; None where it cannot be parted."""
    away = plan.frame_mm
    rooms = [(medium.width, medium.length)]
    if layer.film.turns == "any" and medium.width != medium.length:
        rooms.append((medium.length, medium.width))
    counts = [(n, room) for room in rooms if (n := fewest(layer, room, away)) is not None]
    as_found = plan.panels.model_copy(update={"moved_mm": ()})
    best: tuple[Parted, tuple[float, float]] | None = None
    for _, room in sorted(counts):
        found = part(layer, as_found, room, away)
        if best is None or len(found.crossed) < len(best[0].crossed):
            best = found, room
        if not best[0].crossed:
            break
    if best is None or not plan.panels.moved_mm:
        return best[0] if best else None
    # A joint that is moved stays a joint the same way round, whatever it crosses then.
    return part(layer, plan.panels, best[1], away)


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
