"""A closer lay of a batch's sets looked for: more of them on a load, and what is left of them on less film."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from ..job.document import SheetPlan
from ..layers import Layers
from ..slow import Slow, Wanted
from .items import item_of
from .loads import Item, Medium
from .nest import Place, Shape, nest
from .stack import Laid, lay, most, ways

SECONDS = 5
"""So long one lay is looked for."""
MORE = 3
"""At most so many more sets than at once are looked for on a load."""
MOST_AT_ONCE = 120
"""More sets of a load are left as they lie at once: the search would not come to an end in time."""
Progress = Callable[[str, float], None]


@dataclass(frozen=True)
class Searched:
    """For each film, the closest lay that was found of so many sets."""

    films: tuple[dict[int, Laid], ...]

    def as_bytes(self) -> bytes:
        """As it is kept."""
        return json.dumps(
            [{n: [*one.size, *([p.turn, *p.at] for p in one.places)] for n, one in film.items()} for film in self.films]
        ).encode()

    @classmethod
    def from_bytes(cls, data: bytes) -> Searched:
        """What was kept."""
        return cls(
            tuple(
                {
                    int(n): Laid(tuple(Place(0, t, (x, y)) for t, x, y in places), (w, h))
                    for n, (w, h, *places) in film.items()
                }
                for film in json.loads(data)
            )
        )


@dataclass
class _Told:
    """Passes on how it goes, and remembers whether somebody asked it to end."""

    progress: Progress
    stopped: bool = False
    done: float = 0.0
    share: float = 1.0
    what: str = field(default="")

    def watch(self, length: float, share: float) -> None:
        so_far = f", {length:.0f} mm so far" if math.isfinite(length) else ""
        try:
            self.progress(f"{self.what}{so_far}", min(self.done + self.share * share, 1.0))
        except Exception:
            self.stopped = True
            raise


def told_apart(items: Sequence[Item], plan: SheetPlan, medium: Medium, quantity: int) -> str:
    """What tells one search from another, wherever its work lies."""
    told = hashlib.blake2b(digest_size=20)
    for item in items:
        outline = item.outline
        told.update(np.round(1e4 * (outline - outline.min(axis=0))).astype(np.int64).tobytes() + item.turns.encode())
    away = plan.weed_box_away_mm if plan.weed_box else 0.0
    told.update(repr((plan.gap_mm, away, medium, quantity)).encode())
    return told.hexdigest()


def search(items: Sequence[Item], plan: SheetPlan, medium: Medium, quantity: int, progress: Progress) -> Searched:
    """Look for closer lays of a batch of every item. What `progress` raises ends the search; what was found by then is
    given back, unless nothing was."""
    away = plan.weed_box_away_mm if plan.weed_box else 0.0
    width, length = medium.width - 2 * away, medium.length - 2 * away
    told = _Told(progress, share=1.0 / (2 * len(items)))
    films: list[dict[int, Laid]] = []
    for item in items:
        found: dict[int, Laid] = {}
        films.append(found)
        some = list(ways(item.outline, item.turns, plan.gap_mm, width))
        per = most(some, length)
        if told.stopped or not 0 < per <= MOST_AT_ONCE or quantity < 2:
            told.done += 2 * told.share
            continue
        for count in range(per + 1, min(per + MORE, quantity) + 1):
            told.what = f"{item.name}: {count} on a load"
            one = _nested(item, plan.gap_mm, width, count, told)
            if one is None or one.size[1] > length:
                break
            per, found[count] = count, one
            if told.stopped:
                break
        told.done += told.share
        rest = quantity % per
        if rest > 1 and not told.stopped:
            told.what = f"{item.name}: the last {rest}"
            now = min((one.area for one in lay(some, length, rest)), default=math.inf)
            one = _nested(item, plan.gap_mm, width, rest, told)
            if one is not None and one.size[1] <= length and one.area < now:
                found[rest] = one
        told.done += told.share
    films += [{} for _ in range(len(items) - len(films))]
    return Searched(tuple(films))


def _nested(item: Item, gap: float, width: float, count: int, told: _Told) -> Laid | None:
    outline = item.outline
    found = nest([Shape(outline, count, item.turns)], width, gap, SECONDS, told.watch)
    if found is None:
        return None
    right = max(float(p.of(outline)[:, 0].max()) for p in found.places)
    return Laid(found.places, (right, found.length))


def closer_lay(layers: Layers, plan: SheetPlan, medium: Medium, quantity: int) -> Slow[Searched]:
    """A closer lay of a batch's sets on what the cutter takes."""
    items = [item_of(layer, plan, layers.through_glass, close=True) for layer in layers.layers]
    return Slow(
        Wanted("lay", told_apart(items, plan, medium, quantity)),
        lambda progress: search(items, plan, medium, quantity, progress),
        lambda found: found.as_bytes(),
        Searched.from_bytes,
    )
