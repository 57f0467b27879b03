"""The pile of films: which layers there are, the lowest first, and how each two of them meet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import as_one
from ..artwork import ColourRegion
from ..artwork.pieces import lower_corners, names_after, told_apart
from ..job.document import Base, LayerPlan
from ..overlay import difference, grown, together, union
from ..verdict import Verdict
from .colours import merge_near, relative_luminance
from .joints import Joint
from .names import name_colours
from .order import Lying, fewest, laid_out, lying, pile, woven

FEWEST_TO_KNOCK_OUT = 4
SOFT = 1e-9
"""What a wish weighs beside an area (mm2) that is drawn."""
FIRM = 1e9
"""What a maker's word weighs."""
MOST_PLACES = 60
HEIGHTS = {2: ("lower", "upper"), 3: ("lower", "middle", "upper")}


@dataclass(frozen=True, eq=False)
class Pile:
    """Layers, the lowest first: what shows of each and what was painted, and their names; `joint` as all meet, and
    `odd` pairs, by their places in the pile, that meet otherwise; `under` what is cut of the lowest ones that lie under
    all others."""

    colours: tuple[ColourRegion, ...]
    names: tuple[str, ...]
    joint: Joint
    odd: dict[tuple[int, int], Joint]
    verdicts: tuple[Verdict, ...] = ()
    under: tuple[BaseGeometry, ...] = ()
    sheet: bool = False
    """Is the lowest the blank itself?"""

    def meet(self, low: int, high: int) -> Joint:
        """How two of them meet."""
        return self.odd.get((low, high), self.joint)

    def only(self, left: Sequence[int]) -> Pile:
        """The same without some of its layers: those `left`, by their places."""
        place = {n: k for k, n in enumerate(left)}
        odd = {(place[a], place[b]): how for (a, b), how in self.odd.items() if a in place and b in place}
        colours, names = tuple(self.colours[n] for n in left), tuple(self.names[n] for n in left)
        under = tuple(region for n, region in enumerate(self.under) if n in place)
        return Pile(colours, names, self.joint, odd, self.verdicts, under, self.sheet and 0 in place)


def merged(colours: tuple[ColourRegion, ...], plan: LayerPlan) -> tuple[ColourRegion, ...]:
    """Near colours as one, where that is wanted."""
    if not plan.merge_near or len(colours) < 2:
        return colours
    stands = merge_near({c.colour: c.seen.area for c in colours}, plan.merge_delta_e)
    groups: dict[str, list[ColourRegion]] = {}
    for c in colours:
        groups.setdefault(stands[c.colour], []).append(c)
    return tuple(_as_one(name, group) for name, group in groups.items())


def _as_one(colour: str, group: list[ColourRegion]) -> ColourRegion:
    if len(group) == 1:
        return replace(group[0], colour=colour)
    seen = union([c.seen for c in group])
    parts, names = zip(*(c.pieces for c in group), strict=True)
    after = names_after(shapely.get_parts(seen), np.concatenate(parts), [n for some in names for n in some])
    return ColourRegion(colour, seen, union([c.painted for c in group]), after)


@dataclass(frozen=True, eq=False)
class Sheet:
    """A blank that is cut out with what is on it: its region on the template, its colour, and of which film."""

    region: BaseGeometry
    colour: str
    film: str


def make_pile(
    colours: tuple[ColourRegion, ...], plan: LayerPlan, see_through: bool, sheet: Sheet | None = None
) -> Pile:
    """Put colours in their order: as was chosen by hand, else as they cover each other, and where that does not matter
    the lighter film beneath the darker one, which hides what reaches under it. Beneath all lies the `sheet` that is the
    blank itself, then the film under all others, if there is one."""
    work = colours = merged(colours, plan)
    beneath = [s.colour for s in (sheet, plan.base) if s is not None]
    # What is of the colour that lies beneath is seen there already.
    colours = tuple(c for c in colours if c.colour not in beneath[-1:])
    joint: Joint = "stacked" if len(work) < FEWEST_TO_KNOCK_OUT else "knocked_out"
    if plan.joint != "auto":
        joint = plan.joint
    wanted = _Wanted(colours, plan, joint)
    verdicts: tuple[Verdict, ...] = ()
    steps = wanted.steps()
    if plan.order:
        steps = wanted.by_hand(steps)
    else:
        verdicts = wanted.tied(steps)
    if len(steps) == len(set(steps)):
        layers = tuple(colours[n] for n in steps)
    else:
        parted = [(n, some) for n, some in laid_out(wanted.found, steps) if len(some)]
        steps = [n for n, _ in parted]
        layers = _parted(colours, wanted.found, parted)
    regions: list[BaseGeometry] = []
    if plan.base is not None and work:
        base, said = _base_under(work, plan.base, see_through)
        verdicts = (*verdicts, said)
        layers = (_beneath("base", plan.base.colour, base, layers), *layers)
        regions = [base]
    if sheet is not None:
        layers = (_beneath("sheet", sheet.colour, sheet.region, layers), *layers)
        regions = [sheet.region, *regions]
    under = len(regions)
    odd = {
        (low + under, high + under): how
        for high, b in enumerate(steps)
        for low, a in enumerate(steps[:high])
        if (how := wanted.meets(a, b)) != joint
    }
    odd |= {(low, high): "stacked" for low in range(under) for high in range(low + 1, len(layers))}
    return Pile(layers, _called([c.colour for c in layers]), joint, odd, verdicts, tuple(regions), sheet is not None)


class _Wanted:
    """What is known and wished of how some colours lie on each other."""

    def __init__(self, colours: tuple[ColourRegion, ...], plan: LayerPlan, joint: Joint) -> None:
        self.colours, self.joint = colours, joint
        self.order, self.meetings = plan.order, plan.meetings
        number = {c.colour: n for n, c in enumerate(colours)}
        chosen = {f.colour: f.film_colour for f in plan.films if f.film_colour}
        self.light = [relative_luminance(chosen.get(c.colour, c.colour)) for c in colours]
        self.odd: dict[frozenset[int], Joint] = {}
        self.under: dict[frozenset[int], int] = {}
        for m in plan.meetings:
            if all(c in number for c in m.colours):
                pair = frozenset(number[c] for c in m.colours)
                if m.joint != "as_all":
                    self.odd[pair] = m.joint
                if m.under is not None:
                    self.under[pair] = number[m.under]
        self.found = lying(colours)
        self.names = name_colours(c.colour for c in colours)

    def meets(self, a: int, b: int) -> Joint:
        """How two colours meet."""
        return self.odd.get(frozenset((a, b)), self.joint)

    @cached_property
    def over(self) -> np.ndarray:
        """How much of a colour, first, is to lie on each other: where they are stacked as they are drawn; else the
        darker on the lighter; and before all as was said of the two."""
        count = len(self.colours)
        drawn = self.found.over
        out = np.zeros((count, count))
        for a in range(count):
            for b in range(a + 1, count):
                pair = frozenset((a, b))
                if pair in self.under:
                    low = self.under[pair]
                    out[b if low == a else a, low] = FIRM
                elif self.meets(a, b) == "stacked":
                    out[a, b], out[b, a] = drawn[a, b], drawn[b, a]
                elif self.meets(a, b) == "knocked_out" and self.light[a] != self.light[b]:
                    low, high = (a, b) if self.light[a] > self.light[b] else (b, a)
                    out[high, low] = SOFT * (self.light[low] - self.light[high])
        return out

    def steps(self) -> list[int]:
        """The order from what covers what."""
        return pile(self.over, range(len(self.colours)))

    def tied(self, steps: Sequence[int]) -> tuple[Verdict, ...]:
        """What is said of films that are to lie on each other both ways, and the layers that would show it."""
        over = self.over
        wrong = [(a, b) for n, a in enumerate(steps) for b in steps[n + 1 :] if over[a, b] > SOFT]
        if not wrong:
            return ()
        upper, lower = max(wrong, key=lambda w: over[w])
        places = np.concatenate([self.found.where(a, b) for a, b in wrong])[:MOST_PLACES]
        if not len(places):
            # Only words stand against each other: which lies under which was said in a circle.
            said = f"{self._name(upper).capitalize()} is to lie under {self._name(lower)} and on it, by what was chosen"
            return (self._verdict(len(wrong), f"{said}.", "Choose anew which of them lies beneath.", ()),)
        knot = int(woven(self.found).sum())
        there, back = len(self.found.where(upper, lower)), len(self.found.where(lower, upper))
        name, other = self._name(upper), self._name(lower)
        if back:
            said = f"{name.capitalize()} lies on {other} in {_places(there)}, and {other} on {name} in {_places(back)}"
        else:
            said = f"{name.capitalize()} lies on {other}, and by way of others {other} on {name}"
        said += ": one film of each cannot lie both ways, so there it is cut out instead"
        steps = [n for n, _ in fewest(self.found, list(range(len(self.colours))))]
        twice = list(dict.fromkeys(self._name(n) for n in steps if steps.count(n) > 1))
        if not twice:
            apart = self._knocked_out(wrong)
            remedy = "No pile of whole films shows that: knock them out of each other."
            return (self._verdict(len(wrong), f"{said}.", remedy, places, apart),)
        rest = " Where they are woven it is cut out all the same." if knot else ""
        remedy = f"Cut {' and '.join(twice)} as two layers each: {len(steps)} layers show it whole.{rest}"
        if len(twice) == 1:
            remedy = remedy.replace(" each:", ":")
        fixes: dict[str, object] = {"layers.order": [self.colours[n].colour for n in steps]}
        return (self._verdict(len(wrong), f"{said}.", remedy, places, fixes),)

    def _knocked_out(self, wrong: list[tuple[int, int]]) -> dict[str, object]:
        """What makes these pairs meet knocked out."""
        pairs = [sorted(self.colours[n].colour for n in pair) for pair in wrong]
        kept = [m.model_dump(mode="json") for m in self.meetings if sorted(m.colours) not in pairs]
        return {"layers.meetings": [*kept, *({"colours": p, "joint": "knocked_out", "under": None} for p in pairs)]}

    def _name(self, n: int) -> str:
        return self.names[self.colours[n].colour]

    @staticmethod
    def _verdict(
        count: int, said: str, remedy: str, places: np.ndarray | tuple[()], fixes: dict[str, object] | None = None
    ) -> Verdict:
        at = tuple((float(x), float(y)) for x, y in places)
        return Verdict(
            "layers.order", "layers", "look", count, 0, "count", said, remedy, field="layers.order",
            fixes=fixes or {}, places=at,
        )  # fmt: skip

    def by_hand(self, free: Sequence[int]) -> list[int]:
        """The order that was chosen, the lowest first; the others each on what it lies on without it (`free`). Which of
        two was said to lie beneath does."""
        number = {c.colour: n for n, c in enumerate(self.colours)}
        out = [number[name] for name in self.order if name in number]
        below: int | None = None
        for n in free:
            if n not in out:
                out.insert(out.index(below) + 1 if below is not None else 0, n)
            below = n
        for pair, low in self.under.items():
            (high,) = pair - {low}
            if out.count(low) == 1 and out.index(low) > out.index(high):
                out.remove(low)
                out.insert(out.index(high), low)
        return out


def _places(n: int) -> str:
    return "one place" if n == 1 else f"{n} places"


def _parted(
    colours: Sequence[ColourRegion], found: Lying, layers: list[tuple[int, np.ndarray]]
) -> tuple[ColourRegion, ...]:
    """Layers of some of the pieces of each colour. What others hide of a piece is of the lowest layer it is seen in."""
    out, taken = [], set[int]()
    first = np.searchsorted(found.colour, np.arange(len(colours)))
    for n, some in layers:
        c = colours[n]
        names = c.pieces[1]
        seen = as_one(found.pieces[some])
        wholes = sorted(set(found.whole[some].tolist()) - taken)
        taken |= set(wholes)
        alone = found.pieces[some[~np.isin(found.whole[some], wholes)]]
        painted = seen if c.painted is c.seen else as_one(np.concatenate([found.wholes[wholes], alone]))
        called = tuple(names[i] for i in (some - first[n]).tolist())
        out.append(ColourRegion(c.colour, seen, painted, called))
    return tuple(out)


def _called(colours: Sequence[str]) -> tuple[str, ...]:
    """A name for each layer: that of its colour, and which of several it is."""
    names, count, out = name_colours(dict.fromkeys(colours)), dict[str, int](), []
    for c in colours:
        n, of = count.get(c, 0), colours.count(c)
        count[c] = n + 1
        if of == 1:
            out.append(names[c])
        else:
            out.append(f"{HEIGHTS[of][n]} {names[c]}" if of in HEIGHTS else f"{names[c]}, {n + 1} of {of}")
    return tuple(out)


def _base_under(work: Sequence[ColourRegion], plan: Base, see_through: bool) -> tuple[BaseGeometry, Verdict]:
    """What is cut of a film under all others, and what is said of the holes in them."""
    covered = union([c.seen for c in work])
    filled = union(shapely.polygons(shapely.get_exterior_ring(shapely.get_parts(covered))))
    holes = difference(filled, covered)
    wide = grown(filled, plan.outline_mm)
    count = 0 if holes.is_empty else len(shapely.get_parts(holes))
    clear = plan.holes == "clear" or (plan.holes == "auto" and see_through)
    name = name_colours([plan.colour])[plan.colour]
    said = f"{name.capitalize()} lies under all others, {{outline}} larger than they are"
    if count and clear:
        said += f"; {_holes(count)} stay{'s' if count == 1 else ''} clear"
    elif count:
        said += f", and fills {_holes(count)}"
    verdict = Verdict(
        "layers.base", "layers", "ok", count, None, "count", f"{said}.", "",
        {"outline": (plan.outline_mm, "mm")}, field="layers.base.holes",
    )  # fmt: skip
    return (difference(wide, holes) if clear and count else wide), verdict


def _holes(n: int) -> str:
    return "the one hole in the work" if n == 1 else f"the {n} holes in the work"


def _beneath(name: str, colour: str, region: BaseGeometry, above: tuple[ColourRegion, ...]) -> ColourRegion:
    """A film under all that lies `above`, its pieces called by a name."""
    seen = difference(region, together(c.seen for c in above)) if above else region
    parts = shapely.get_parts(seen)
    return ColourRegion(colour, seen, region, told_apart([name] * len(parts), lower_corners(parts), ":"))
