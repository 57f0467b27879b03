"""The fifth stage: loads. A layer keeps its arrangement; sets of a batch lie close on one load, or several films share
a mat."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ..job.document import Marks, SheetPlan
from ..job.shipped import Cutter
from ..job.tables import Tables
from ..layers import Layers
from ..verdict import Verdict
from .allot import Stock, allot
from .batch import Batch, boxed, gap_and_margin, must_turn, one_film, outlined, several_films
from .items import fits, item_of, parted
from .loads import Item, Load, Loads, Medium, Patch, PlacedItem, Way, film_by_cause, medium_of
from .marks_in_the_way import other_marks
from .panels import Parted
from .search import Searched
from .stock_verdicts import stock_verdicts
from .supply import NOTHING_TAKEN, Allotted


def _batch(
    bare: Sequence[Item],
    framed: Sequence[Item],
    plan: SheetPlan,
    medium: Medium,
    count: int,
    searched: Searched | None,
    stock: Stock,
    usual_width: float,
) -> tuple[Batch, Way | None, Way | None]:
    """So many sets of all films on loads, and what a film to a load and several on one mat would take: the items
    without their weed boxes, and `framed` by them."""
    layouts = [[boxed(item, plan, medium) for item in framed]]
    if plan.lay != "boxes" and count > 1:
        found = searched.films if searched and len(searched.films) == len(bare) else ({},) * len(bare)
        close = [outlined(item, plan, medium, lays) for item, lays in zip(bare, found, strict=True)]
        layouts.append(
            [a if a.capacity >= b.capacity and a.capacity else b for a, b in zip(close, layouts[0], strict=True)]
        )
    single = min((one_film(some, count, medium, stock, usual_width) for some in layouts), key=lambda batch: batch.cost)
    together = [
        x for x in (several_films(some, count, medium, plan, stock, usual_width) for some in layouts) if x is not None
    ]
    shared = min(together, key=lambda batch: batch.cost, default=None)
    chosen = single
    if shared is not None and (plan.mats == "shared" or (plan.mats == "auto" and shared.cost < single.cost)):
        chosen = shared
    return chosen, single.way, shared.way if shared is not None else None


def _larger(load: Load, tables: Tables) -> Cutter | None:
    """A cutter of the shop's on which the work of a load has room."""
    item = load.items[0].item
    w, h = item.size
    for cutter in tables.cutters:
        room = medium_of(cutter)
        if (w <= room.width and h <= room.length) or (
            not item.film.directional and h <= room.width and w <= room.length
        ):
            return cutter
    return None


def _fits_without_marks(load: Load) -> bool:
    """Would the work of a load that does not fit have room if it had no marks?"""
    cuts = load.items[0].cuts
    if not len(cuts.only("mark")):
        return False
    left, low, right, high = cuts.only("piece", "hole").bounds
    # Its weed box stands round the work then.
    all_left, all_low, all_right, all_high = cuts.only("piece", "hole", "mark").bounds
    w = load.width - (all_right - all_left) + right - left
    h = load.height - (all_high - all_low) + high - low
    return w <= load.medium.width + 1e-9 and h <= load.medium.length + 1e-9


def _fits_verdict(load: Load, tables: Tables) -> Verdict:
    directional = any(i.item.film.directional for i in load.items)
    if load.fits:
        turned = ", turned on the sheet" if load.turned else ""
        return Verdict(
            "sheets.fits",
            "sheets",
            "ok",
            max(load.size),
            None,
            "mm",
            f"{load.name}: {{w}} by {{h}}, inside the cutter's safe area{turned}.",
            figures={"w": (load.width, "mm"), "h": (load.height, "mm")},
        )
    over_w, over_h = load.width - load.medium.width, load.height - load.medium.length
    side = "wide" if over_w >= over_h else "long"
    larger = _larger(load, tables)
    marked = _fits_without_marks(load)
    return Verdict(
        "sheets.fits",
        "sheets",
        "stop",
        max(over_w, over_h),
        0.0,
        "mm",
        f"{load.name}: it is {{value}} too {side} for the cutter's safe area of {{w}} by {{h}}"
        f"{', and this film must not be turned' if directional else ''}.",
        (
            "Without its marks it would have room: set them nearer, smaller or elsewhere."
            if marked
            else f"Make it smaller or cut it on the {'roll cutter' if larger.medium == 'roll' else larger.name}."
            if larger
            else "Make it smaller, or have it cut in panels."
        ),
        {"w": (load.medium.width, "mm"), "h": (load.medium.length, "mm")},
        field="layers.marks.kind" if marked else "sheets.cutter" if larger else "sheets.panels.part",
        fix=None if marked else larger.id if larger else True,
    )


def plan_sheets(
    layers: Layers,
    plan: SheetPlan,
    quantity: int,
    tables: Tables,
    marks: Marks,
    searched: Searched | None = None,
    looking: bool = False,
) -> Loads:
    """Lay the layers of a batch, with their marks, on loads; closer where that was `searched`; `looking` tells that it
    still is. Raises BadDocument for a cutter there is none of."""
    cutter = tables.cutter(plan.cutter, "sheets.cutter")
    medium = medium_of(cutter)
    framed, bare, split = _items(layers, plan, medium)
    if not framed:
        return _judged([], [], cutter, NOTHING_TAKEN)
    stock = Stock(tables)
    batch, single, shared = _batch(bare, framed, plan, medium, quantity, searched, stock, cutter.width_mm)
    firsts = [next(load for load in batch.loads if item.name in load.name.split(", ")) for item in framed]
    verdicts = [_fits_verdict(load, tables) for load in dict.fromkeys(firsts)]
    verdicts += [_panels_verdict(name, one, plan) for name, one in split.items()]
    other = other_marks(layers, marks, plan, medium, quantity)
    verdicts += [other] if other is not None else []
    if looking:
        said = "A closer lay of the sets is being looked for: this is what was found at once."
        verdicts.append(Verdict("sheets.looking", "sheets", "ok", 1, None, "count", said))
    return replace(
        _judged(list(batch.loads), verdicts, cutter, batch.allotted),
        one_film=single,
        shared=shared,
        parted=split,
        lap_mm=plan.panels.lap_mm,
    )


def _items(layers: Layers, plan: SheetPlan, medium: Medium) -> tuple[list[Item], list[Item], dict[str, Parted]]:
    """What is laid of each layer, with its weed box and without: the whole layer, or its panels where it has no room
    and is to be parted."""
    framed, bare, split = [], [], dict[str, Parted]()
    for layer in layers.layers:
        whole = item_of(layer, plan, layers.through_glass)
        found = parted(layer, plan, medium) if plan.panels.part and not fits(whole, medium) else None
        if found is not None:
            split[layer.name] = found
        for panel in found.panels if found is not None else (None,):
            framed.append(item_of(layer, plan, layers.through_glass, panel=panel) if panel else whole)
            bare.append(item_of(layer, plan, layers.through_glass, close=True, panel=panel))
    return framed, bare, split


def _panels_verdict(name: str, one: Parted, plan: SheetPlan) -> Verdict:
    """In how many panels a layer is cut, and whether a joint crosses a piece."""
    count, crossed = len(one.panels), len(one.crossed)
    joints = f"{len(one.joints)} joint{'s' if len(one.joints) != 1 else ''}"
    said = f"{name} is cut in {count} panels; its {joints} cross "
    if not crossed:
        return Verdict("sheets.panels", "sheets", "ok", count, None, "count", f"{said}no piece.")
    return Verdict(
        "sheets.panels",
        "sheets",
        "look",
        crossed,
        0.0,
        "count",
        f"{said}{crossed} piece{'s' if crossed != 1 else ''}: there the panel laid later laps over by {{lap}}.",
        "Look whether the lap shows, or move the joint.",
        {"lap": (plan.panels.lap_mm, "mm")},
        field="sheets.panels.lap_mm",
        subject=name,
    )


def plan_names(rows: Mapping[int, Layers], plan: SheetPlan, quantity: int, tables: Tables) -> Loads:
    """Lay the layers of the lines of a list on loads, by the lines' numbers: those of one film together, in the order
    of the list. Each load is cut as often as there are pieces of a name. Raises BadDocument as `plan_sheets` does."""
    cutter = tables.cutter(plan.cutter, "sheets.cutter")
    medium = medium_of(cutter)
    of_film: dict[tuple[str, str], list[Item]] = {}
    for n, layers in rows.items():
        for layer in layers.layers:
            item = item_of(layer, plan, layers.through_glass, n)
            of_film.setdefault((item.film.id, item.film_colour), []).append(item)
    loads: list[Load] = []
    verdicts: list[Verdict] = []
    for items in of_film.values():
        # One film has one name, whatever the layers are called that are cut from it.
        made = _in_rows([replace(i, name=items[0].name) for i in items], plan, medium, quantity)
        loads += made
        verdicts.append(_fits_verdict(next((load for load in made if not load.fits), made[0]), tables))
    return _judged(loads, verdicts, cutter, allot(loads, Stock(tables), cutter.width_mm))


def _in_rows(items: list[Item], plan: SheetPlan, medium: Medium, times: int) -> list[Load]:
    """Items of one film in rows from the lower edge up, in their order, on as many loads as that takes."""
    gap, margin = gap_and_margin(plan)
    loads: list[list[PlacedItem]] = [[]]
    x = y = high = 0.0
    for item in items:
        turned = must_turn(item, medium)
        w, h = item.size[::-1] if turned else item.size
        if x > 0 and x + w > medium.width + 1e-9:
            x, y, high = 0.0, y + high + gap, 0.0
        if loads[-1] and y + h > medium.length + 1e-9:
            loads.append([])
            x = y = high = 0.0
        loads[-1].append(PlacedItem(item, (x + w, y) if turned else (x, y), 90.0 if turned else 0.0))
        x, high = x + w + gap, max(high, h)
    return [_load_of(tuple(placed), margin, medium, times) for placed in loads]


def _load_of(items: tuple[PlacedItem, ...], margin: float, medium: Medium, times: int) -> Load:
    """A load of items of one film, on a patch of it that holds them all."""
    _, _, wide, tall = np.array([i.box for i in items]).max(axis=0).tolist()
    item = items[0].item
    patch = Patch(item.name, item.film, item.film_colour, (-margin, -margin, wide + margin, tall + margin))
    return Load(medium, items, (patch,), times)


def _judged(loads: list[Load], verdicts: list[Verdict], cutter: Cutter, allotted: Allotted) -> Loads:
    """The loads with what is to be said of all of them."""
    lost = allotted.all_lost
    area = sum(load.film_area * load.times for load in loads) + lost
    count = sum(load.times for load in loads)
    if loads:
        work, between, round_ = (100 * part / area for part in film_by_cause(loads))
        verdicts.append(
            Verdict(
                "sheets.film",
                "sheets",
                "ok",
                area,
                None,
                "mm2",
                f"{'The load uses' if count == 1 else f'The {count} loads use'} {{value}} of film: {{share}} ends on"
                " the work, {between} lies between it, {round} is kept round it"
                + (", {lost} is left beside it and too small to keep." if lost > 0 else "."),
                figures={
                    "share": (work, "%"),
                    "between": (between, "%"),
                    "round": (round_, "%"),
                    "lost": (100 * lost / area, "%"),
                },
            )
        )
    verdicts += stock_verdicts(allotted)
    if any(i.item.film.mirrored for load in loads for i in load.items):
        verdicts.append(
            Verdict("sheets.mirrored", "sheets", "ok", 1, None, "count", "The heat-transfer film is cut mirrored.")
        )
    return Loads(tuple(loads), cutter, area, tuple(verdicts), allotted=allotted)
