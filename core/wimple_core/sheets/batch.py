"""A batch on loads: as many sets of one film as a load takes, what is left of each film by itself or with others."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..job.document import HandPlace, SheetPlan
from .allot import Stock, allot
from .by_hand import held_boxes, lay_by_hand
from .loads import Box, Item, Load, Medium, Patch, PlacedItem, Way
from .loose import block, blocks, fewer, most_sets, pieces_of
from .mats import Size, share_mats
from .shape import Place
from .stack import Laid, lay, most, ways
from .supply import NOTHING_TAKEN, Allotted, Supply

MINUTES_A_LOAD = 2.5
"""To load, look at a corner and unload (common practice, no source)."""
MINUTES_A_PATCH = 1.5
"""To cut a patch to size and lay it where the drawing shows (common practice, no source)."""
SHARED_MARGIN_MM = 6.35
"""Kept round the work of a patch among others: a quarter of an inch, the least that is trimmed outside it."""

NOT_FOUND: Mapping[int, Laid] = {}

GRIDS_MM = {"none": 0.0, "cm": 10.0, "half_inch": 12.7, "inch": 25.4}


@dataclass(frozen=True)
class Batch:
    """One way of laying a batch: its loads, and the film of the workshop's that goes on them."""

    loads: tuple[Load, ...]
    allotted: Allotted = NOTHING_TAKEN

    @property
    def film_area(self) -> float:
        """What is really cut off, mm2: what is left beside it and too small to keep is gone with it."""
        return sum(load.film_area * load.times for load in self.loads) + self.allotted.all_lost

    @property
    def count(self) -> int:
        return sum(load.times for load in self.loads)

    @property
    def minutes(self) -> float:
        return sum((MINUTES_A_LOAD + MINUTES_A_PATCH * len(x.patches)) * x.times for x in self.loads)

    @property
    def fits(self) -> bool:
        return all(load.fits for load in self.loads)

    @property
    def way(self) -> Way:
        placed = sum(load.placements * load.times for load in self.loads)
        return Way(self.count, self.minutes, self.film_area, placed)

    @property
    def cost(self) -> tuple[bool, int, float, float]:
        """The less the better: what goes on the machine first, then what there is film for, then minutes, then film."""
        return (not self.fits, len(self.allotted.missing), self.minutes, round(self.film_area, 3))


@dataclass(frozen=True)
class Lying:
    """Sets as they lie, and the box round them (mm), which stands at the origin."""

    items: tuple[PlacedItem, ...]
    size: Size

    @classmethod
    def of(cls, item: Item, laid: Laid) -> Lying:
        """Copies of one item laid."""
        return cls(tuple(PlacedItem(item, p.at, p.turn) for p in laid.places), laid.size)

    @property
    def area(self) -> float:
        return self.size[0] * self.size[1]


@dataclass(frozen=True)
class Layout:
    """How sets of one item may lie: `capacity` of a load, and ways of laying so many; `frame` how far from their work
    a cut frame stands, 0 for none, `margin` the film kept beyond that."""

    item: Item
    capacity: int
    lay: Callable[[int], list[Lying]]
    frame: float
    margin: float
    single: Item | None = None
    """One set as a hand may lay it, where that is another item."""
    free: tuple[Box, ...] = ()
    """What is held free of the medium."""


def grid(size: Size, room: Size, gap: float) -> tuple[int, int]:
    """In how many columns and rows boxes of a size stand in a room, so far apart (mm)."""
    columns, rows = (math.floor((r + gap + 1e-9) / (s + gap)) for s, r in zip(size, room, strict=True))
    return (columns, rows) if columns > 0 and rows > 0 else (0, 0)


def must_turn(item: Item, medium: Medium) -> bool:
    """Must it be turned a quarter to have room, and may it be?"""
    w, h = item.size
    stands = w <= medium.width and h <= medium.length
    return not item.film.directional and not stands and h <= medium.width and w <= medium.length


def gap_and_margin(plan: SheetPlan) -> tuple[float, float]:
    """What lies between two boxes, and the film kept round all of them, mm."""
    away = plan.frame_mm
    # The frame stands in the film kept round the work: both are there, but only the wider one takes film.
    return max(2.0, away / 2), max(plan.margin_mm - away, 0.0)


def _as_it_is(item: Item) -> Lying:
    """One that has no room, as it is."""
    return Lying((PlacedItem(item, (0.0, 0.0)),), item.size)


def boxed(item: Item, plan: SheetPlan, medium: Medium) -> Layout:
    """Sets by their boxes, each with its own weed box, in columns and rows."""
    gap, margin = gap_and_margin(plan)
    return _in_columns(item, (medium.width, medium.length), gap, must_turn(item, medium), 0.0, margin)


def _in_columns(item: Item, room: Size, gap: float, turned: bool, frame: float, margin: float) -> Layout:
    """Items by their boxes in columns and rows, so far apart."""
    wide, tall = item.size[::-1] if turned else item.size
    columns, rows = grid((wide, tall), room, gap)

    def in_rows(count: int, columns: int) -> Lying:
        places = tuple(
            Place(
                0,
                90.0 if turned else 0.0,
                (i % columns * (wide + gap) + (wide if turned else 0.0), i // columns * (tall + gap)),
            )
            for i in range(count)
        )
        across, up = min(count, columns), math.ceil(count / columns)
        return Lying.of(item, Laid(places, (across * (wide + gap) - gap, up * (tall + gap) - gap)))

    def lay_boxes(count: int) -> list[Lying]:
        some = range(1, min(count, max(columns, 1)) + 1) if count <= columns * max(rows, 1) else (max(columns, 1),)
        fits = [in_rows(count, c) for c in some if math.ceil(count / c) <= max(rows, 1)] or [in_rows(count, 1)]
        return sorted(fits, key=lambda one: -one.size[0])

    return Layout(item, columns * rows, lay_boxes, frame, margin)


def outlined(item: Item, plan: SheetPlan, medium: Medium, found: Mapping[int, Laid]) -> Layout:
    """Sets by their true outlines, one weed frame round all of them; `found` are closer lays of so many."""
    away = plan.frame_mm
    width, length = medium.inside(away)
    some = ways(item.outline, item.turns, plan.gap_mm, width)

    def closest(count: int) -> list[Lying]:
        laid = lay(some, length, count) + ([found[count]] if count in found else [])
        return [Lying.of(item, one) for one in sorted(laid, key=lambda one: one.area)]

    return Layout(item, max([most(some, length), *found]), closest, away, max(plan.margin_mm, away))


def laid_by_hand(
    item: Item, plan: SheetPlan, medium: Medium, quantity: int, wanted: Sequence[tuple[int, HandPlace]], held: bool
) -> Layout:
    """Sets as the hand laid them, by the numbers of its places, and the rest round them; corners that are `held` free
    on the medium stay so."""
    away = plan.frame_mm
    room = medium.inside(away)
    free = held_boxes(plan.held, medium.width, medium.length) if held else []
    boxes = [(a - away, b - away, c - away, d - away) for a, b, c, d in free]
    every = lay_by_hand(item.outline, item.turns, plan.gap_mm, room, [h for _, h in wanted], boxes, quantity)
    lying = [
        PlacedItem(item, place.at, place.turn, wanted[hand][0] if hand >= 0 else -1)
        for place, hand in zip(every.places, every.by_hand, strict=True)
    ]

    def first(count: int) -> list[Lying]:
        if not lying:
            return [_as_it_is(item)]
        if count > len(lying):
            return []
        ends = np.array([i.outlined[2:] for i in lying[:count]])
        wide, tall = ends.max(axis=0).tolist()
        return [Lying(tuple(lying[:count]), (wide, tall))]

    return Layout(item, len(lying), first, away, max(plan.margin_mm, away), free=tuple(free))


def loosened(
    item: Item,
    plan: SheetPlan,
    medium: Medium,
    quantity: int,
    found: Mapping[int, Laid] = NOT_FOUND,
    among: bool = True,
) -> Layout:
    """Sets whose pieces lie loose, `among` those of others as far as there are not too many of them, else set by set,
    which is quickly found; `found` are closer lays of the pieces of so many sets."""
    away = plan.frame_mm
    room = medium.inside(away)
    pieces = pieces_of(item.cuts)
    each = blocks(item, pieces, 1, room, plan.gap_mm)
    margin = max(plan.margin_mm, away)
    # Blocks of one set in columns and rows.
    apart = [_in_columns(one, room, plan.gap_mm, False, away, margin) for one in each]
    most = most_sets(item, pieces, quantity, room, plan.gap_mm) if pieces and among else 0

    def closest(count: int) -> list[Lying]:
        some = blocks(item, pieces, count, room, plan.gap_mm) if count <= most else []
        if count in found:
            some.append(block(item, pieces, found[count].places, count))
        lying = [Lying((PlacedItem(one, (0.0, 0.0)),), one.size) for one in some]
        for layout in apart:
            lying += layout.lay(count) if count <= layout.capacity else []
        if not lying and count <= most:
            # Laid anew, fewer may by chance need more room than more did.
            one = fewer(item, pieces, count, most, room, plan.gap_mm)
            lying = [Lying((PlacedItem(one, (0.0, 0.0)),), one.size)]
        return sorted(lying, key=lambda one: one.area) or [_as_it_is(item)]

    capacity = max([most, *found, *(x.capacity for x in apart)])
    return Layout(item, capacity, closest, away, margin, each[0] if each else None)


def load_of(item: Item, laid: Lying, frame: float, margin: float, medium: Medium, times: int) -> Load:
    """A load of one film: sets of an item, or what is of the same film, as they lie."""
    return _load(Layout(item, 0, lambda _: [laid], frame, margin), laid, medium, times)


def _load(layout: Layout, laid: Lying, medium: Medium, times: int) -> Load:
    items, patch = _patch(layout, laid, (0.0, 0.0), layout.margin)
    return Load(medium, items, (patch,), times)


def _patch(
    layout: Layout, laid: Lying, corner: tuple[float, float], margin: float, larger: tuple[float, float] = (0.0, 0.0)
) -> tuple[tuple[PlacedItem, ...], Patch]:
    """Sets in a patch whose frame, or work where it has none, has its lower left at a corner; the patch is `larger`
    to the right and above by what its liner's grid adds."""
    x, y = corner
    away = layout.frame
    items = tuple(replace(i, at=(i.at[0] + x + away, i.at[1] + y + away)) for i in laid.items)
    w, h = laid.size[0] + 2 * away, laid.size[1] + 2 * away
    beyond = margin - away
    box = (x - beyond, y - beyond, x + w + beyond + larger[0], y + h + beyond + larger[1])
    frame = (x, y, x + w, y + h) if away > 0 else None
    corner = (x + away, y + away)
    return items, Patch(layout.item.name, layout.item.film, layout.item.film_colour, box, frame, corner, layout.free)


def _halves(layout: Layout, quantity: int) -> tuple[int, int]:
    """How often a load is full, and what is left."""
    per = layout.capacity
    return divmod(quantity, per) if per else (quantity, 0)


def one_film(layouts: Sequence[Layout], quantity: int, medium: Medium, stock: Stock, usual_width: float) -> Batch:
    """One film to a load: as many sets on it as it takes, or as a piece of film holds that is left."""
    out = []
    for layout in layouts:
        supply = stock.supply(layout.item.film, layout.item.film_colour)
        if supply is not None and layout.capacity:
            out += _of_supply(layout, quantity, medium, supply)
            continue
        full, rest = _halves(layout, quantity)
        for sets, times in ((layout.capacity or 1, full), (rest, 1)):
            if sets and times:
                out.append(_load(layout, layout.lay(sets)[0], medium, times))
    return Batch(tuple(out), allot(out, stock, usual_width))


def _of_supply(layout: Layout, quantity: int, medium: Medium, supply: Supply) -> list[Load]:
    """Loads of one film cut from what there is of it: where no piece of film holds all sets that a load takes, as many
    as one holds; what there is no film for lies as if there were."""
    out: list[Load] = []
    ways: dict[int, list[Load]] = {}
    left, most = quantity, min(layout.capacity, quantity)
    while left:
        found = None
        while found is None and most:
            most = min(most, left)
            if most not in ways:
                ways[most] = [_load(layout, laid, medium, 1) for laid in layout.lay(most)]
            for load in ways[most]:
                left_edge, low, right, high = load.patches[0].box
                found = supply.take(right - left_edge, high - low, layout.item.film.turns)
                if found is not None:
                    supply = found[1]
                    break
            if found is None:
                most -= 1
        if found is None:
            full, rest = _halves(layout, left)
            out += [
                _load(layout, layout.lay(k)[0], medium, n) for k, n in ((layout.capacity, full), (rest, 1)) if k and n
            ]
            break
        left -= most
        if out and out[-1].items is load.items:
            out[-1] = replace(out[-1], times=out[-1].times + 1)
        else:
            out.append(load)
    return out


def several_films(
    alone: Sequence[Layout],
    layouts: Sequence[Layout],
    quantity: int,
    medium: Medium,
    plan: SheetPlan,
    stock: Stock,
    usual_width: float,
) -> Batch | None:
    """Full loads of one film, as sets lie `alone`; what is left of all films in patches on shared mats, as they lie by
    `layouts`. None where nothing is shared."""
    parted = any(layout.item.panel[1] > 1 for layout in layouts)
    if medium.kind != "mat" or len(layouts) < 2 or parted or any(not layout.capacity for layout in alone):
        return None
    halves = [_halves(x, quantity) for x in alone]
    full = [_load(x, x.lay(x.capacity)[0], medium, n) for x, (n, _) in zip(alone, halves, strict=True) if n]
    rests = _shared(layouts, [rest for _, rest in halves], medium, plan)
    found = [] if rests is None else [Batch((*full, *rests.loads))]
    # As many whole sets of all films on every mat as go.
    room = (medium.width + 2 * SHARED_MARGIN_MM) * (medium.length + 2 * SHARED_MARGIN_MM)
    for sets in range(min(min(x.capacity for x in layouts), quantity), 0, -1):
        # What has not even the area is not laid.
        if sum(x.item.area for x in layouts) * sets > room:
            continue
        patches = _shared(layouts, [sets] * len(layouts), medium, plan)
        if patches is None or len(patches.loads) > 1:
            continue
        times, rest = divmod(quantity, sets)
        more = _shared(layouts, [rest] * len(layouts), medium, plan) if rest else Batch(())
        if more is not None:
            found.append(Batch((replace(patches.loads[0], times=times), *more.loads)))
        break
    made = [
        replace(batch, allotted=allot(batch.loads, stock, usual_width))
        for batch in found
        if any(load.shared for load in batch.loads)
    ]
    return min(made, key=lambda batch: batch.cost, default=None)


def _shared(layouts: Sequence[Layout], counts: Sequence[int], medium: Medium, plan: SheetPlan) -> Batch | None:
    """So many sets of each film in patches on shared mats; None where one does not go on any."""
    out = []
    left: list[tuple[Layout, list[Lying]]] = []
    for layout, count in zip(layouts, counts, strict=True):
        if count:
            some = layout.lay(count)
            if not some:
                return None
            left.append((layout, some))
    margins = [max(min(x.margin, SHARED_MARGIN_MM), x.frame) for x, _ in left]
    sizes = [
        [_gridded((w + 2 * m, h + 2 * m), GRIDS_MM[plan.liner_grid]) for w, h in (one.size for one in some)]
        for (_, some), m in zip(left, margins, strict=True)
    ]
    # The film kept round the work may lie outside the safe area, no cut may.
    over = min((m - x.frame for (x, _), m in zip(left, margins, strict=True)), default=0.0)
    held = [
        (a + over, b + over, c + over, d + over) for a, b, c, d in held_boxes(plan.held, medium.width, medium.length)
    ]
    mats = share_mats(sizes, medium.width + 2 * over, medium.length + 2 * over, plan.patch_room_mm, held)
    if mats is None:
        return None
    for mat in mats:
        items: list[PlacedItem] = []
        patches = []
        for on in sorted(mat, key=lambda on: on.patch):
            (layout, some), margin = left[on.patch], margins[on.patch]
            laid = some[on.size]
            beyond = margin - layout.frame
            larger = (
                sizes[on.patch][on.size][0] - laid.size[0] - 2 * margin,
                sizes[on.patch][on.size][1] - laid.size[1] - 2 * margin,
            )
            corner = (on.at[0] - over + beyond, on.at[1] - over + beyond)
            placed, patch = _patch(layout, laid, corner, margin, larger)
            items += placed
            patches.append(patch)
        out.append(Load(medium, tuple(items), tuple(patches), 1))
    return Batch(tuple(out))


def _gridded(size: tuple[float, float], grid: float) -> tuple[float, float]:
    """A patch's size in whole steps of the liner's grid."""
    if not grid:
        return size
    w, h = (grid * math.ceil(side / grid - 1e-9) for side in size)
    return w, h
