"""What goes on the cutter: items, each of one film, standing on a mat or roll in patches of their films."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from ..arrays import Array
from ..cuts import Cuts, together
from ..job.shipped import Cutter, Film
from ..verdict import Verdict

Box = tuple[float, float, float, float]
"""Left, low, right, high, mm."""


@dataclass(frozen=True)
class Medium:
    """What the film lies on: a mat, or the roll itself; the area that is cut safely, mm."""

    kind: Literal["mat", "roll"]
    width: float
    length: float


def medium_of(cutter: Cutter) -> Medium:
    """What that machine cuts on."""
    return Medium(cutter.medium, cutter.safe_width_mm, cutter.safe_length_mm)


@dataclass(frozen=True, eq=False)
class Item:
    """What is cut from one film and keeps its arrangement: a whole layer of one set, or a part of it.

    `cuts` stand with their lower left corner, frame included, at the origin; `area` is the film that stays (mm2),
    `row` its line of a list of names.
    """

    name: str
    film: Film
    film_colour: str
    cuts: Cuts
    size: tuple[float, float]
    area: float
    row: int = 0


@dataclass(frozen=True, eq=False)
class PlacedItem:
    """An item on a load: its lower left corner, and whether it is turned a quarter to the left."""

    item: Item
    at: tuple[float, float]
    turned: bool = False

    @property
    def size(self) -> tuple[float, float]:
        w, h = self.item.size
        return (h, w) if self.turned else (w, h)

    @cached_property
    def cuts(self) -> Cuts:
        """Its cuts where it stands."""
        tall = self.item.size[1]

        def move(p: Array) -> Array:
            if self.turned:
                p = (p - (0.0, tall)) @ ((0.0, 1.0), (-1.0, 0.0))
            return p + self.at

        return self.item.cuts.transform(move)


@dataclass(frozen=True)
class Patch:
    """A piece of one film on the medium, as large as its work needs with what is kept round it; mm from the lower left
    of the safe area."""

    name: str
    film: Film
    film_colour: str
    box: Box

    @property
    def area(self) -> float:
        left, low, right, high = self.box
        return (right - left) * (high - low)


@dataclass(frozen=True, eq=False)
class Load:
    """One load: items on patches of film, cut `times` times alike; mm from the lower left of the safe area, y up."""

    medium: Medium
    items: tuple[PlacedItem, ...]
    patches: tuple[Patch, ...]
    times: int

    @property
    def name(self) -> str:
        """The films on it by name."""
        return ", ".join(dict.fromkeys(p.name for p in self.patches))

    @property
    def sets(self) -> int:
        """How many copies of its first item stand on it, or how many lines of a list."""
        return max(sum(i.item is self.items[0].item for i in self.items), len({i.item.row for i in self.items}))

    @property
    def turned(self) -> bool:
        """Does work stand on end?"""
        return any(i.turned for i in self.items)

    @cached_property
    def size(self) -> tuple[float, float]:
        """Width and height of the work, frames included, mm."""
        return (max(i.at[0] + i.size[0] for i in self.items), max(i.at[1] + i.size[1] for i in self.items))

    @property
    def width(self) -> float:
        return self.size[0]

    @property
    def height(self) -> float:
        return self.size[1]

    @property
    def fits(self) -> bool:
        """Does all of it lie inside the safe area?"""
        return self.width <= self.medium.width + 1e-9 and self.height <= self.medium.length + 1e-9

    @property
    def film_area(self) -> float:
        """The film one load uses, mm2."""
        return sum(p.area for p in self.patches)

    @cached_property
    def cuts(self) -> Cuts:
        """Everything that is cut on it."""
        return together(i.cuts for i in self.items)

    def on(self, patch: Patch) -> Cuts:
        """What is cut of one patch's film."""
        return together(i.cuts for i in self.items if i.item.name == patch.name)


@dataclass(frozen=True, eq=False)
class Loads:
    """All loads of a batch, in the order in which their layers are laid up, and the film they use (mm2)."""

    loads: tuple[Load, ...]
    cutter: Cutter
    film_area: float
    verdicts: tuple[Verdict, ...]


def film_by_name(loads: Sequence[Load]) -> dict[str, tuple[Film, list[tuple[float, int]]]]:
    """For each film on the loads, by its name in the job: what film it is, and the areas (mm2) of its patches with how
    often each is cut."""
    out: dict[str, tuple[Film, list[tuple[float, int]]]] = {}
    for load in loads:
        for patch in load.patches:
            out.setdefault(patch.name, (patch.film, []))[1].append((patch.area, load.times))
    return out
