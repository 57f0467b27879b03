"""A closer lay of a batch's sets, or of their loose pieces, looked for: more of them on a load, and what is left of
them on less film."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from shapely.geometry.base import BaseGeometry

from ..job.document import SheetPlan
from ..layers import Layers
from ..slow import Slow, Wanted
from .holes import Filled
from .items import item_of
from .loads import Item, Medium
from .loose import blocks, most_sets, pieces_of, shapes_of
from .nest import Nested, nest
from .shape import Place, Shape
from .stack import Laid, lay, most, ways

KEPT_AS = 3
"""Changes when what is kept of a search does."""
SECONDS = 5
EASY = 40
EACH_S = 0.2
"""So long one lay is looked for: so much for so many pieces, and more for each beyond."""
MORE = 3
"""At most so many more sets than at once are looked for on a load."""
MOST_AT_ONCE = 300
"""More pieces of a load are left as they lie at once: the search would take more than a minute."""
Progress = Callable[[str, float], None]


@dataclass(frozen=True)
class Searched:
    """For each film, the closest lay that was found of so many sets."""

    films: tuple[dict[int, Laid], ...]

    def as_bytes(self) -> bytes:
        """As it is kept."""
        return json.dumps(
            [
                {n: [*one.size, *([p.shape, p.turn, *p.at] for p in one.places)] for n, one in film.items()}
                for film in self.films
            ]
        ).encode()

    @classmethod
    def from_bytes(cls, data: bytes) -> Searched:
        """What was kept."""
        return cls(
            tuple(
                {
                    int(n): Laid(tuple(Place(k, t, (x, y)) for k, t, x, y in places), (w, h))
                    for n, (w, h, *places) in film.items()
                }
                for film in json.loads(data)
            )
        )


@dataclass(frozen=True, eq=False)
class SoFar:
    """The best lay of so many sets of an item that was found by now: on how much film, of how long a load, and where
    its regions lie."""

    item: Item
    sets: int
    width: float
    length: float
    room: float
    regions: tuple[BaseGeometry, ...]
    places: tuple[Place, ...]


Show = Callable[[SoFar], None]
"""Shown every lay that is better than those before."""


def unseen(so_far: SoFar) -> None:
    """Lays that nobody looks at."""


@dataclass
class _Told:
    """Passes on how it goes, and remembers whether somebody asked it to end."""

    progress: Progress
    show: Show
    stopped: bool = False
    done: float = 0.0
    share: float = 1.0
    what: str = field(default="")
    best: Nested | None = None

    def watch(self, best: Nested | None, share: float, drawn: Callable[[Nested], SoFar]) -> None:
        so_far = f", {best.length:.0f} mm so far" if best else ""
        try:
            self.progress(f"{self.what}{so_far}", min(self.done + self.share * share, 1.0))
            if best is not None and best is not self.best:
                self.best = best
                self.show(drawn(best))
        except Exception:
            self.stopped = True
            raise


def told_apart(items: Sequence[Item], plan: SheetPlan, medium: Medium, quantity: int) -> str:
    """What tells one search from another, wherever its work lies."""
    told = hashlib.blake2b(digest_size=20)
    for item in items:
        outline = item.outline
        # Loose pieces lie by their own outlines, and in each other's holes.
        lying = outline if plan.pieces == "as_drawn" else item.cuts.only("piece", "hole").points
        told.update(np.round(1e4 * (lying - outline.min(axis=0))).astype(np.int64).tobytes() + item.turns.encode())
    away = plan.frame_mm
    told.update(repr((plan.gap_mm, away, medium, quantity, plan.pieces, KEPT_AS)).encode())
    return told.hexdigest()


def search(
    items: Sequence[Item], plan: SheetPlan, medium: Medium, quantity: int, progress: Progress, show: Show = unseen
) -> Searched:
    """Look for closer lays of a batch of every item. What `progress` or `show` raise ends the search; what was found by
    then is given back, unless nothing was."""
    away = plan.frame_mm
    width, length = medium.inside(away)
    told = _Told(progress, show, share=1.0 / (2 * len(items)))
    films: list[dict[int, Laid]] = []
    for item in items:
        found: dict[int, Laid] = {}
        films.append(found)
        sets = (
            _Loose(item, plan, width, length, quantity) if plan.pieces == "loose" else _Whole(item, plan, width, length)
        )
        per = sets.most()
        if told.stopped or not 0 < per * sets.pieces <= MOST_AT_ONCE or sets.pieces * quantity < 2:
            told.done += 2 * told.share
            continue
        for count in range(per + 1, min(per + MORE, quantity) + 1):
            told.what = f"{item.name}: {count} on a load"
            one = _nested(sets, plan.gap_mm, width, count, told)
            if one is None or one.size[1] > length:
                break
            per, found[count] = count, one
            if told.stopped:
                break
        told.done += told.share
        rest = quantity % per or (per if plan.pieces == "loose" and per not in found else 0)
        if rest * sets.pieces > 1 and not told.stopped:
            told.what = f"{item.name}: the last {rest}"
            one = _nested(sets, plan.gap_mm, width, rest, told)
            if one is not None and one.size[1] <= length and one.area < sets.least(rest):
                found[rest] = one
        told.done += told.share
    films += [{} for _ in range(len(items) - len(films))]
    return Searched(tuple(films))


class _Whole:
    """Sets that keep their arrangement, as they lie at once."""

    pieces = 1

    def __init__(self, item: Item, plan: SheetPlan, width: float, length: float) -> None:
        self.item, self.length = item, length
        self.some = ways(item.outline, item.turns, plan.gap_mm, width)
        self.regions = (item.cuts.only("piece", "hole", "mark").region,)

    def most(self) -> int:
        return most(self.some, self.length)

    def least(self, count: int) -> float:
        """The area that so many take at once."""
        return min((one.area for one in lay(self.some, self.length, count)), default=math.inf)

    def shapes(self, count: int) -> tuple[list[Shape], Filled | None]:
        return [Shape(self.item.outline, count, self.item.turns)], None


class _Loose:
    """Sets whose pieces lie loose."""

    def __init__(self, item: Item, plan: SheetPlan, width: float, length: float, quantity: int) -> None:
        self.item, self.gap, self.length, self.quantity = item, plan.gap_mm, length, quantity
        self.room = width, length
        self.parts = pieces_of(item.cuts)
        self.pieces = len(self.parts)
        self.regions = tuple(p.cuts.only("piece", "hole").region for p in self.parts)

    def most(self) -> int:
        return most_sets(self.item, self.parts, self.quantity, self.room, self.gap) if self.parts else 0

    def least(self, count: int) -> float:
        """The area that so many take at once."""
        some = blocks(self.item, self.parts, count, self.room, self.gap)
        return min((one.size[0] * one.size[1] for one in some), default=math.inf)

    def shapes(self, count: int) -> tuple[list[Shape], Filled | None]:
        return shapes_of(self.parts, self.item.turns, count, self.gap)


def _nested(sets: _Whole | _Loose, gap: float, width: float, count: int, told: _Told) -> Laid | None:
    shapes, in_holes = sets.shapes(count)
    more = sum(s.count for s in shapes) - EASY

    def whole(found: Nested) -> tuple[Place, ...]:
        return in_holes.whole(found.places) if in_holes else found.places

    def drawn(found: Nested) -> SoFar:
        return SoFar(sets.item, count, width, found.length, sets.length, sets.regions, whole(found))

    found = nest(
        shapes, width, gap, SECONDS + max(0, round(EACH_S * more)), lambda best, share: told.watch(best, share, drawn)
    )
    if found is None:
        return None
    right = max(float(p.of(shapes[p.shape].outline)[:, 0].max()) for p in found.places)
    return Laid(whole(found), (right, found.length))


def closer_lay(layers: Layers, plan: SheetPlan, medium: Medium, quantity: int, show: Show = unseen) -> Slow[Searched]:
    """A closer lay of a batch's sets on what the cutter takes."""
    items = [item_of(layer, plan, layers.through_glass, close=True) for layer in layers.layers]
    return Slow(
        Wanted("lay", told_apart(items, plan, medium, quantity)),
        lambda progress: search(items, plan, medium, quantity, progress, show),
        lambda found: found.as_bytes(),
        Searched.from_bytes,
    )
