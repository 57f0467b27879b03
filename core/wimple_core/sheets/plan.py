"""The fifth stage: loads. A layer keeps its arrangement; sets of a batch stand in rows on one load."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

from ..job.document import SheetPlan
from ..job.shipped import Cutter
from ..job.tables import Tables
from ..layers import Layers
from ..verdict import Verdict
from .items import item_of
from .loads import Item, Load, Loads, Medium, Patch, PlacedItem, medium_of


def grid(count: int, width: float, height: float, room_width: float, room_height: float, gap: float) -> tuple[int, int]:
    """Columns and rows in which at most `count` boxes stand in the room: the fewest rows that hold them."""
    columns = max(0, math.floor((room_width + gap + 1e-9) / (width + gap)))
    rows = max(0, math.floor((room_height + gap + 1e-9) / (height + gap)))
    if columns == 0 or rows == 0:
        return 0, 0
    columns = min(columns, count)
    return columns, min(rows, math.ceil(count / columns))


def _turned(item: Item, medium: Medium) -> bool:
    """Must it be turned a quarter to have room, and may it be?"""
    w, h = item.size
    stands = w <= medium.width and h <= medium.length
    return not item.film.directional and not stands and h <= medium.width and w <= medium.length


def _gap_and_margin(plan: SheetPlan) -> tuple[float, float]:
    """What lies between two items, and the film kept round all of them, mm."""
    away = plan.weed_box_away_mm if plan.weed_box else 0.0
    # The frame stands in the film kept round the work: both are there, but only the wider one takes film.
    return max(2.0, away / 2), max(plan.margin_mm - away, 0.0)


def _of_one_film(item: Item, plan: SheetPlan, medium: Medium, count: int) -> list[Load]:
    """Loads on which so many copies of one item stand."""
    turned = _turned(item, medium)
    w, h = item.size[::-1] if turned else item.size
    fits = w <= medium.width and h <= medium.length
    gap, margin = _gap_and_margin(plan)
    columns, rows = grid(count, w, h, medium.width, medium.length, gap) if fits else (1, 1)
    per = columns * rows
    out = []
    for sets, times in ((per, count // per), (count % per, 1)):
        if sets == 0 or times == 0:
            continue
        items = tuple(
            PlacedItem(item, (i % columns * (w + gap), i // columns * (h + gap)), turned) for i in range(sets)
        )
        out.append(_load_of(items, margin, medium, times))
    return out


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
            else "Make it smaller, or split it into panels."
        ),
        {"w": (load.medium.width, "mm"), "h": (load.medium.length, "mm")},
        field="layers.marks.kind" if marked else "sheets.cutter",
        fix=larger.id if larger and not marked else None,
    )


def plan_sheets(layers: Layers, plan: SheetPlan, quantity: int, tables: Tables) -> Loads:
    """Lay the layers of a batch on loads. Raises BadDocument for a cutter there is none of."""
    cutter = tables.cutter(plan.cutter, "sheets.cutter")
    medium = medium_of(cutter)
    loads: list[Load] = []
    verdicts: list[Verdict] = []
    for layer in layers.layers:
        made = _of_one_film(item_of(layer, plan, layers.through_glass), plan, medium, quantity)
        loads += made
        verdicts.append(_fits_verdict(made[0], tables))
    return _judged(loads, verdicts, cutter)


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
    return _judged(loads, verdicts, cutter)


def _in_rows(items: list[Item], plan: SheetPlan, medium: Medium, times: int) -> list[Load]:
    """Items of one film in rows from the lower edge up, in their order, on as many loads as that takes."""
    gap, margin = _gap_and_margin(plan)
    loads: list[list[PlacedItem]] = [[]]
    x = y = high = 0.0
    for item in items:
        turned = _turned(item, medium)
        w, h = item.size[::-1] if turned else item.size
        if x > 0 and x + w > medium.width + 1e-9:
            x, y, high = 0.0, y + high + gap, 0.0
        if loads[-1] and y + h > medium.length + 1e-9:
            loads.append([])
            x = y = high = 0.0
        loads[-1].append(PlacedItem(item, (x, y), turned))
        x, high = x + w + gap, max(high, h)
    return [_load_of(tuple(placed), margin, medium, times) for placed in loads]


def _load_of(items: tuple[PlacedItem, ...], margin: float, medium: Medium, times: int) -> Load:
    """A load of items of one film, on a patch of it that holds them all."""
    wide = max(i.at[0] + i.size[0] for i in items)
    tall = max(i.at[1] + i.size[1] for i in items)
    item = items[0].item
    patch = Patch(item.name, item.film, item.film_colour, (-margin, -margin, wide + margin, tall + margin))
    return Load(medium, items, (patch,), times)


def _judged(loads: list[Load], verdicts: list[Verdict], cutter: Cutter) -> Loads:
    """The loads with what is to be said of all of them."""
    area = sum(load.film_area * load.times for load in loads)
    count = sum(load.times for load in loads)
    if loads:
        share = 100 * sum(i.item.area * load.times for load in loads for i in load.items) / area
        verdicts.append(
            Verdict(
                "sheets.film",
                "sheets",
                "ok",
                area,
                None,
                "mm2",
                f"{'The load uses' if count == 1 else f'The {count} loads use'} {{value}} of film, of which {{share}}"
                " ends on the work.",
                figures={"share": (share, "%")},
            )
        )
    if any(i.item.film.mirrored for load in loads for i in load.items):
        verdicts.append(
            Verdict("sheets.mirrored", "sheets", "ok", 1, None, "count", "The heat-transfer film is cut mirrored.")
        )
    return Loads(tuple(loads), cutter, area, tuple(verdicts))
