"""The fifth stage: loads. A layer keeps its arrangement; sets of a batch lie close on one load, or several films share
a mat."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ..job.document import HandPlace, Marks, SheetPlan
from ..job.shipped import Cutter
from ..job.tables import Tables
from ..layers import Layers
from ..verdict import Verdict
from .allot import Stock, allot
from .batch import (
    Batch,
    Layout,
    Lying,
    boxed,
    gap_and_margin,
    laid_by_hand,
    load_of,
    loosened,
    must_turn,
    one_film,
    outlined,
    several_films,
)
from .by_hand import held_boxes
from .items import fits, item_of, parted
from .loads import Item, Load, Loads, Medium, Patch, PlacedItem, Way, film_by_cause, medium_of
from .marks_in_the_way import other_marks
from .nest import Nested, Shape
from .panels import Parted
from .search import Searched
from .skyline import lay_many
from .stack import Laid
from .stock_verdicts import stock_verdicts
from .supply import NOTHING_TAKEN, Allotted

ALSO_MOST = 150
"""With more pieces to a set, what they would take loose is worked out only where that is asked for; with fewer, set by
set, so that it is there at once: it is that much or less."""


@dataclass(frozen=True, eq=False)
class _Batches:
    """Everything that ways of laying a batch are made of: the items without their weed boxes, and `framed` by them."""

    bare: Sequence[Item]
    framed: Sequence[Item]
    plan: SheetPlan
    medium: Medium
    count: int
    searched: Searched | None
    stock: Stock
    usual_width: float
    laid: dict[tuple[Item, bool], Layout] = field(default_factory=dict)
    """What was laid by hand, by its item and whether corners are held free."""

    def _found(self, pieces: str) -> Sequence[Mapping[int, Laid]]:
        """Closer lays of each item, where some were found."""
        if pieces != self.plan.pieces or not self.searched or len(self.searched.films) != len(self.bare):
            return ({},) * len(self.bare)
        return self.searched.films

    def by_hand(self, layouts: Sequence[Layout], held: bool) -> list[Layout]:
        """The same, but for those films of which the hand laid sets, and all of them where corners are held free."""
        wanted = {item.name: list[tuple[int, HandPlace]]() for item in self.bare}
        for n, place in enumerate(self.plan.by_hand):
            wanted.get(place.film, []).append((n, place))
        out = list(layouts)
        for n, (item, layout) in enumerate(zip(self.bare, layouts, strict=True)):
            mine, free = wanted[item.name], held and bool(self.plan.held)
            if mine or free:
                one = layout.single or item
                if (one, free) not in self.laid:
                    self.laid[one, free] = laid_by_hand(one, self.plan, self.medium, self.count, mine, free)
                out[n] = self.laid[one, free]
        return out

    def crowded(self) -> list[str]:
        """Films of which no set has room beside what is held free, though it would have without."""
        return [one.name for (one, _), layout in self.laid.items() if not layout.capacity and fits(one, self.medium)]

    def drawn(self) -> list[list[Layout]]:
        """Sets that keep their arrangement: by their boxes, and by their outlines."""
        layouts = [[boxed(item, self.plan, self.medium) for item in self.framed]]
        if self.plan.lay != "boxes" and self.count > 1:
            found = self._found("as_drawn")
            close = [outlined(i, self.plan, self.medium, lays) for i, lays in zip(self.bare, found, strict=True)]
            layouts.append(
                [a if a.capacity >= b.capacity and a.capacity else b for a, b in zip(close, layouts[0], strict=True)]
            )
        return layouts

    def loose(self, among: bool = True) -> list[list[Layout]]:
        """Sets whose pieces lie loose, among those of others or set by set."""
        every = zip(self.bare, self._found("loose"), strict=True)
        return [[loosened(item, self.plan, self.medium, self.count, lays, among) for item, lays in every]]

    def best(self, layouts: Sequence[Sequence[Layout]], hand: bool = False) -> tuple[Batch, Way | None, Way | None]:
        """So many sets of all films on loads, and what a film to a load and several on one mat would take; as the
        `hand` laid them, or by themselves."""
        alone = [self.by_hand(some, held=True) for some in layouts] if hand else layouts
        beside = [self.by_hand(some, held=False) for some in layouts] if hand else layouts
        single = min((self._single(some) for some in alone), key=lambda batch: batch.cost)
        shared = min(
            (x for x in map(self._shared, alone, beside) if x is not None), key=lambda batch: batch.cost, default=None
        )
        chosen, mats = single, self.plan.mats
        if shared is not None and (mats == "shared" or (mats == "auto" and shared.cost < single.cost)):
            chosen = shared
        return chosen, single.way, shared.way if shared is not None else None

    def _single(self, layouts: Sequence[Layout]) -> Batch:
        return one_film(layouts, self.count, self.medium, self.stock, self.usual_width)

    def _shared(self, alone: Sequence[Layout], beside: Sequence[Layout]) -> Batch | None:
        return several_films(alone, beside, self.count, self.medium, self.plan, self.stock, self.usual_width)


def _hand_verdict(now: Batch, alone: Batch) -> Verdict:
    """What laying by hand, and holding corners free, costs."""
    more, loads = now.film_area - alone.film_area, now.count - alone.count
    words = "as much film" if abs(more) < 1 else "{more} more film" if more > 0 else "{more} less film"
    if loads:
        words += f" and {abs(loads)} load{'s' if abs(loads) != 1 else ''} {'more' if loads > 0 else 'less'}"
    return Verdict(
        "sheets.by_hand",
        "sheets",
        "look" if loads > 0 or not now.fits else "ok",
        now.count,
        None,
        "count",
        f"As it was laid by hand it takes {words} {'as' if words == 'as much film' else 'than'} by itself.",
        "Let the sets lie by themselves, or move them closer.",
        {"more": (abs(more), "mm2")},
        field="sheets.by_hand",
        fixes={"sheets.by_hand": [], "sheets.held": []},
    )


def _crowded_verdict(films: Sequence[str]) -> Verdict:
    return Verdict(
        "sheets.by_hand",
        "sheets",
        "stop",
        len(films),
        0,
        "count",
        f"{', '.join(dict.fromkeys(films))}: no set has room beside the corners held free.",
        "Use the corners again, or hold less of them free.",
        field="sheets.held",
        fixes={"sheets.held": []},
    )


def _not_held_verdict(what: str) -> Verdict:
    return Verdict(
        "sheets.by_hand",
        "sheets",
        "look",
        1,
        0,
        "count",
        f"{what} is laid over the corners that are held free.",
        "Look whether that film is good, or use the corners again.",
        field="sheets.held",
        fixes={"sheets.held": []},
    )


def _loose_verdict(now: Way, drawn: Way) -> Verdict:
    """What laying pieces loose saves, and what it asks of the hand."""
    saved = drawn.film_area - now.film_area
    more = now.placements - drawn.placements
    return Verdict(
        "sheets.loose",
        "sheets",
        "ok" if saved > 0 else "look",
        now.placements,
        None,
        "count",
        f"The pieces lie loose: {now.placements:,} are placed by hand, {more:,} more than as drawn, and no"
        " marks are cut;" + (" {saved} of film is saved." if saved > 0 else " no film is saved by it."),
        "Keep the sets as they are drawn.",
        {"saved": (saved, "mm2")},
        field="sheets.pieces",
        fix="as_drawn",
    )


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
    batches = _Batches(bare, framed, plan, medium, quantity, searched, stock, cutter.width_mm)
    can_be_loose = not split and all(len(item.cuts.only("piece")) for item in bare)
    chosen_loose = plan.pieces == "loose" and can_be_loose
    layouts = batches.loose() if chosen_loose else batches.drawn()
    films = {item.name for item in bare}
    hand = not split and bool(plan.held or any(place.film in films for place in plan.by_hand))
    batch, single, shared = batches.best(layouts, hand)
    drawn, loose = batch.way, None
    if chosen_loose:
        drawn, loose = batches.best(batches.drawn())[0].way, batch.way
    elif can_be_loose and sum(len(item.cuts.only("piece")) for item in bare) <= ALSO_MOST:
        loose = batches.best(batches.loose(among=False))[0].way
    firsts = [next(load for load in batch.loads if item.name in load.name.split(", ")) for item in framed]
    verdicts = [_fits_verdict(load, tables) for load in dict.fromkeys(firsts)]
    verdicts += [_panels_verdict(name, one, plan) for name, one in split.items()]
    if hand:
        crowded = batches.crowded()
        verdicts.append(_crowded_verdict(crowded) if crowded else _hand_verdict(batch, batches.best(layouts)[0]))
    if chosen_loose:
        verdicts.append(_loose_verdict(batch.way, drawn))
    if split and plan.held:
        verdicts.append(_not_held_verdict("Work in panels"))
    other = None if chosen_loose else other_marks(layers, marks, plan, medium, quantity)
    verdicts += [other] if other is not None else []
    if looking:
        said = "A closer lay of the sets is being looked for: this is what was found at once."
        verdicts.append(Verdict("sheets.looking", "sheets", "ok", 1, None, "count", said))
    return replace(
        _judged(list(batch.loads), verdicts, cutter, batch.allotted),
        one_film=single,
        shared=shared,
        drawn=drawn,
        loose=loose,
        parted=split,
        lap_mm=plan.panels.lap_mm,
        held=tuple(held_boxes(plan.held, medium.width, medium.length)) if hand else (),
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
        verdicts.append(_fits_verdict(next((load for load in made if not load.fits), made[0]), tables))
    if plan.held:
        verdicts.append(_not_held_verdict("A list of names"))
    return _judged(loads, verdicts, cutter, allot(loads, Stock(tables), cutter.width_mm))


def _close(items: Sequence[Item], plan: SheetPlan, medium: Medium, times: int) -> list[Load] | None:
    """Items of one film by their outlines, close, the first of the list on the first load; None where one has no room,
    or they are to lie by their boxes."""
    if plan.lay == "boxes":
        return None
    away = plan.weed_box_away_mm if plan.weed_box else 0.0
    room = (medium.width - 2 * away, medium.length - 2 * away)
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
