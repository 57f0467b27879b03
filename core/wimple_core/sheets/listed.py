"""A list of names on loads: what is cut of its lines from one film, in the order of the list."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ..job.document import SheetPlan
from ..job.tables import Tables
from ..layers import Layers
from ..verdict import Verdict
from .allot import Stock, allot
from .batch import Batch, Lying, gap_and_margin, load_of, must_turn
from .items import item_of
from .loads import Item, Load, Loads, Medium, Patch, PlacedItem, medium_of
from .nest import Nested
from .shape import Shape
from .skyline import lay_many
from .verdicts import fits_verdict, judged, not_held_verdict


def plan_names(rows: Mapping[int, Layers], plan: SheetPlan, quantity: int, tables: Tables) -> Loads:
    """Lay the layers of the lines of a list on loads, by the lines' numbers: those of one film together, in the order
    of the list. Each load is cut as often as there are pieces of a name. Raises BadDocument as `plan_sheets` does."""
    cutter = tables.cutter(plan.cutter, "sheets.cutter")
    medium = medium_of(cutter)
    of_film: dict[tuple[str, str], list[tuple[Item, Item]]] = {}
    for n, layers in rows.items():
        for layer in layers.layers:
            framed, bare = (item_of(layer, plan, layers.through_glass, n, close) for close in (False, True))
            of_film.setdefault((framed.film.id, framed.film_colour), []).append((framed, bare))
    loads: list[Load] = []
    verdicts: list[Verdict] = []
    for items in of_film.values():
        # One film has one name, whatever the layers are called that are cut from it.
        name = items[0][0].name
        made = _in_rows([replace(framed, name=name) for framed, _ in items], plan, medium, quantity)
        close = _close([replace(bare, name=name) for _, bare in items], plan, medium, quantity)
        if close is not None and Batch(tuple(close)).cost < Batch(tuple(made)).cost:
            made = close
        loads += made
        verdicts.append(fits_verdict(next((load for load in made if not load.fits), made[0]), tables))
    if plan.held:
        verdicts.append(not_held_verdict("A list of names"))
    return judged(loads, verdicts, cutter, allot(loads, Stock(tables), cutter.width_mm))


def _close(items: Sequence[Item], plan: SheetPlan, medium: Medium, times: int) -> list[Load] | None:
    """Items of one film by their outlines, close, the first of the list on the first load; None where one has no room,
    or they are to lie by their boxes."""
    if plan.lay == "boxes":
        return None
    away = plan.frame_mm
    room = medium.inside(away)
    out: list[Load] = []
    left = list(items)
    while left:
        found = _first_that_go(left, room, plan.gap_mm)
        if found is None:
            return None
        lying = tuple(PlacedItem(left[p.shape], p.at, p.turn) for p in found.places)
        right = max(i.outlined[2] for i in lying)
        out.append(
            load_of(items[0], Lying(lying, (right, found.length)), away, max(plan.margin_mm, away), medium, times)
        )
        left = left[len(lying) :]
    return out


def _first_that_go(items: Sequence[Item], room: tuple[float, float], gap: float) -> Nested | None:
    """As many of the first items as go into a room; None where not even the first does."""

    def laid(count: int) -> Nested | None:
        found = lay_many([Shape(i.outline, 1, i.turns) for i in items[:count]], room[0], gap)
        return found if found is not None and found.length <= room[1] + 1e-9 else None

    # At least `low` go, and `high` do not.
    low, high, best = 0, len(items) + 1, None
    while high - low > 1:
        count = len(items) if high > len(items) else (low + high) // 2
        found = laid(count)
        if found is None:
            high = count
        else:
            low, best = count, found
    return best


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
    return [_in_a_patch(tuple(placed), margin, medium, times) for placed in loads]


def _in_a_patch(items: tuple[PlacedItem, ...], margin: float, medium: Medium, times: int) -> Load:
    """A load of items of one film, on a patch of it that holds them all."""
    _, _, wide, tall = np.array([i.box for i in items]).max(axis=0).tolist()
    item = items[0].item
    patch = Patch(item.name, item.film, item.film_colour, (-margin, -margin, wide + margin, tall + margin))
    return Load(medium, items, (patch,), times)
