"""The fifth stage: loads. A layer keeps its arrangement; sets of a batch lie close on one load, or several films share
a mat."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..job.document import HandPlace, Marks, SheetPlan
from ..job.tables import Tables
from ..layers import Layers
from ..verdict import Verdict
from .allot import Stock
from .batch import Batch, Layout, boxed, laid_by_hand, loosened, one_film, outlined, several_films
from .by_hand import held_boxes
from .items import fits, item_of, parted
from .loads import Item, Loads, Medium, medium_of
from .marks_in_the_way import other_marks
from .panels import Parted
from .search import Searched
from .stack import Laid
from .supply import NOTHING_TAKEN
from .verdicts import (
    crowded_verdict,
    fits_verdict,
    gone_verdict,
    hand_verdict,
    judged,
    loose_verdict,
    not_held_verdict,
    panels_verdict,
)

ALSO_MOST = 150
"""With more pieces to a set, what they would take loose is worked out only where that is asked for; with fewer, set by
set, so that it is there at once: it is that much or less."""


@dataclass(frozen=True)
class Best:
    """The batch that is taken, and what of a film to a load and several on one mat was laid for it."""

    batch: Batch
    single: Batch | None
    shared: Batch | None


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

    @property
    def can_be_loose(self) -> bool:
        """May its pieces lie loose? Panels keep theirs together."""
        return all(item.panel[1] <= 1 and len(item.cuts.only("piece")) for item in self.bare)

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

    def best(self, layouts: Sequence[Sequence[Layout]], hand: bool = False, both: bool = True) -> Best:
        """So many sets of all films on loads, as the `hand` laid them or by themselves: a film to a load, or several on
        one mat; `both` are laid, though one of them alone may be asked for."""
        alone = [self.by_hand(some, held=True) for some in layouts] if hand else layouts
        beside = [self.by_hand(some, held=False) for some in layouts] if hand else layouts
        mats, shared = self.plan.mats, None
        if both or mats != "one_film":
            found = [x for x in map(self._shared, alone, beside) if x is not None]
            shared = min(found, key=lambda batch: batch.cost, default=None)
        if mats == "shared" and shared is not None and not both:
            return Best(shared, None, shared)
        single = min((self._single(some) for some in alone), key=lambda batch: batch.cost)
        chosen = single
        if shared is not None and (mats == "shared" or (mats == "auto" and shared.cost < single.cost)):
            chosen = shared
        return Best(chosen, single, shared)

    def _single(self, layouts: Sequence[Layout]) -> Batch:
        return one_film(layouts, self.count, self.medium, self.stock, self.usual_width)

    def _shared(self, alone: Sequence[Layout], beside: Sequence[Layout]) -> Batch | None:
        return several_films(alone, beside, self.count, self.medium, self.plan, self.stock, self.usual_width)


@dataclass(frozen=True, eq=False)
class Planned:
    """A batch on loads, and what other ways of laying it are worked out from."""

    loads: Loads
    batches: _Batches | None = None
    layouts: Sequence[Sequence[Layout]] = ()
    best: Best | None = None
    hand: bool = False


def plan_sheets(
    layers: Layers,
    plan: SheetPlan,
    quantity: int,
    tables: Tables,
    searched: Searched | None = None,
    looking: bool = False,
) -> Planned:
    """Lay the layers of a batch, with their marks, on loads, the way that was chosen; closer where that was `searched`;
    `looking` tells that it still is. Raises BadDocument for a cutter there is none of."""
    cutter = tables.cutter(plan.cutter, "sheets.cutter")
    medium = medium_of(cutter)
    framed, bare, split = _items(layers, plan, medium)
    if not framed:
        return Planned(judged([], [], cutter, NOTHING_TAKEN))
    batches = _Batches(bare, framed, plan, medium, quantity, searched, Stock(tables), cutter.width_mm)
    layouts = batches.loose() if plan.pieces == "loose" and batches.can_be_loose else batches.drawn()
    films = {item.name for item in bare}
    hand = not split and bool(plan.held or any(place.film in films for place in plan.by_hand))
    best = batches.best(layouts, hand, both=False)
    batch = best.batch
    firsts = [next(load for load in batch.loads if item.name in load.name.split(", ")) for item in framed]
    verdicts = [fits_verdict(load, tables) for load in dict.fromkeys(firsts)]
    verdicts += [panels_verdict(name, one, plan) for name, one in split.items()]
    if hand and (crowded := batches.crowded()):
        verdicts.append(crowded_verdict(crowded))
    gone = list(dict.fromkeys(place.film for place in plan.by_hand if place.film not in films))
    if gone:
        verdicts.append(gone_verdict(gone, plan))
    if split and plan.held:
        verdicts.append(not_held_verdict("Work in panels"))
    if looking:
        said = "A closer lay of the sets is being looked for: this is what was found at once."
        verdicts.append(Verdict("sheets.looking", "sheets", "ok", 1, None, "count", said))
    loads = replace(
        judged(list(batch.loads), verdicts, cutter, batch.allotted),
        parted=split,
        lap_mm=plan.panels.lap_mm,
        held=tuple(held_boxes(plan.held, medium.width, medium.length)) if hand else (),
    )
    return Planned(loads, batches, layouts, best, hand)


def with_other_ways(planned: Planned, loads: Loads, layers: Layers, marks: Marks) -> Loads:
    """The loads of a batch with what the ways of laying it that were not chosen would take, and what is said of that:
    a film to a load and several on a mat, sets as they are drawn and loose pieces, by themselves and by hand, with
    other marks."""
    batches, best = planned.batches, planned.best
    if batches is None or best is None:
        return loads
    plan, batch, verdicts = batches.plan, best.batch, list[Verdict]()
    single, shared = best.single, best.shared
    if single is None or (shared is None and plan.mats == "one_film"):
        every = batches.best(planned.layouts, planned.hand)
        single, shared = every.single, every.shared
    if planned.hand and not batches.crowded():
        verdicts.append(hand_verdict(batch, batches.best(planned.layouts, both=False).batch))
    drawn, loose = batch.way, None
    if plan.pieces == "loose" and batches.can_be_loose:
        drawn, loose = batches.best(batches.drawn(), both=False).batch.way, batch.way
        verdicts.append(loose_verdict(batch.way, drawn))
    else:
        if batches.can_be_loose and sum(len(item.cuts.only("piece")) for item in batches.bare) <= ALSO_MOST:
            loose = batches.best(batches.loose(among=False), both=False).batch.way
        other = other_marks(layers, marks, plan, batches.medium, batches.count)
        verdicts += [other] if other is not None else []
    return replace(
        loads,
        one_film=single.way if single is not None else None,
        shared=shared.way if shared is not None else None,
        drawn=drawn,
        loose=loose,
        verdicts=(*loads.verdicts, *verdicts),
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
