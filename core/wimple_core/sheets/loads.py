"""What goes on the cutter: items, each of one film, standing on a mat or roll in patches of their films."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY
from ..arrays import Array
from ..cuts import Cuts, cuts_round, together
from ..job.shipped import Cutter, Film
from ..job.stock import Turns
from ..verdict import Verdict
from .outline import outline_of
from .panels import Parted
from .printed import Face
from .shape import Place
from .supply import NOTHING_TAKEN, Allotted

Box = tuple[float, float, float, float]
"""Left, low, right, high, mm."""


@dataclass(frozen=True)
class Medium:
    """What the film lies on: a mat, or the roll itself; the area that is cut safely, mm."""

    kind: Literal["mat", "roll"]
    width: float
    length: float

    def inside(self, frame: float) -> tuple[float, float]:
        """The room (width, length) for work that has a frame so far round it, mm."""
        return self.width - 2 * frame, self.length - 2 * frame


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
    panel: tuple[int, int] = (0, 0)
    """Which panel it is of how many, where its layer is parted."""
    sets: int = 1
    """How many sets it is: more than one where their pieces lie among each other."""
    loose: int = 0
    """How many pieces of it lie loose, each to be placed by itself; 0 where it keeps its arrangement."""
    numbers: tuple[int, ...] = ()
    """The number of each piece in its set, in the order of their rings; none for a panel, which parts pieces."""

    @cached_property
    def outline(self) -> Array:
        """One closed line (n, 2) round all of it, its weed box apart."""
        return outline_of(self.cuts.only("piece", "hole", "mark", "frame").region)

    @property
    def alike(self) -> tuple[str, int, tuple[int, int]]:
        """What tells it from items of something else."""
        return self.name, self.row, self.panel

    @property
    def turns(self) -> Turns:
        """How it may be turned on its film."""
        return self.film.turns


@dataclass(frozen=True, eq=False)
class PlacedItem:
    """An item on a load: turned by degrees about its own origin to the left, then moved (mm)."""

    item: Item
    at: tuple[float, float]
    turn: float = 0.0
    by_hand: int = -1
    """Which of the places of the hand it has, by its number in the job; -1 none."""

    def of(self, p: Array) -> Array:
        """Places (n, 2) of the item where it stands."""
        return Place(0, self.turn, self.at).of(p)

    @cached_property
    def box(self) -> Box:
        """What it takes where it stands."""
        w, h = self.item.size
        square = self.turn % 90 == 0
        return self._round(np.array([(0.0, 0.0), (w, 0.0), (w, h), (0.0, h)]) if square else self.item.outline)

    @cached_property
    def outlined(self) -> Box:
        """The box round its outline where it stands."""
        return self._round(self.item.outline)

    def _round(self, points: Array) -> Box:
        there = self.of(points)
        left, low = there.min(axis=0)
        right, high = there.max(axis=0)
        return (float(left), float(low), float(right), float(high))

    @cached_property
    def cuts(self) -> Cuts:
        """Its cuts where it stands."""
        return self.item.cuts.transform(self.of)


@dataclass(frozen=True)
class Patch:
    """A piece of one film on the medium, as large as its work needs with what is kept round it; mm from the lower left
    of the safe area."""

    name: str
    film: Film
    film_colour: str
    box: Box
    frame: Box | None = None
    """A cut frame round all of its work."""
    corner: tuple[float, float] = (0.0, 0.0)
    """Where the work lies from: its lower left, frames apart."""
    free: tuple[Box, ...] = ()
    """What the frame goes round as well: it is held free."""

    @property
    def framed(self) -> BaseGeometry:
        """What its frame goes round."""
        whole = shapely.box(*self.frame) if self.frame else EMPTY
        return shapely.difference(whole, shapely.union_all([shapely.box(*box) for box in self.free]))

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
    face: Face | None = None
    """What is printed on it: then it is found by its marks before it is cut."""

    @property
    def name(self) -> str:
        """The films on it by name."""
        names = ", ".join(dict.fromkeys(p.name for p in self.patches))
        number, of = self.items[0].item.panel
        return f"{names}, panel {number} of {of}" if of > 1 else names

    @cached_property
    def digest(self) -> str:
        """What tells it from any other load: its films, where they lie, and all that is cut of them."""
        told = hashlib.blake2b(digest_size=12)
        told.update(repr([(p.film.id, p.film_colour, np.round(p.box, 3).tolist()) for p in self.patches]).encode())
        told.update(np.round(self.cuts.points * 1000).astype(np.int64).tobytes() + self.cuts.ends.tobytes())
        for colour, region in self.face.inks if self.face else ():
            told.update(colour.encode() + np.round(shapely.get_coordinates(region) * 1000).astype(np.int64).tobytes())
        return told.hexdigest()

    def sets_of(self, name: str) -> int:
        """How many sets of one film stand on it, panels of one counted once."""
        return sum(i.item.sets for i in self.items if i.item.name == name and i.item.panel[0] <= 1)

    @property
    def placements(self) -> int:
        """How often something of it is placed by hand."""
        return sum(i.item.loose or i.item.sets for i in self.items)

    def numbered(self, patch: Patch) -> tuple[tuple[int, ...], NDArray[np.object_]]:
        """The loose pieces (n,) on one of its patches with their holes, and the number of each in its set."""
        loose = [i for i in self.items if i.item.name == patch.name and i.item.loose]
        pieces = [shapely.get_parts(i.cuts.only("piece", "hole").region) for i in loose]
        return tuple(n for i in loose for n in i.item.numbers), np.concatenate([np.empty(0, dtype=object), *pieces])

    @property
    def shared(self) -> bool:
        """Do several films lie on it?"""
        return len(self.patches) > 1

    @property
    def sets(self) -> int:
        """How many copies of its first item stand on it, or how many lines of a list."""
        first = self.items[0].item
        alike = (i.item for i in self.items if i.item.alike == first.alike)
        return max(sum(item.sets for item in alike), len({i.item.row for i in self.items}))

    @property
    def turned(self) -> bool:
        """Does work stand on end?"""
        return any(i.turn % 360 for i in self.items)

    @cached_property
    def size(self) -> tuple[float, float]:
        """Width and height of the work, frames included, mm."""
        frames = [p.frame for p in self.patches if p.frame]
        every = np.array([*(i.box for i in self.items), *frames])
        return (float(every[:, 2].max()), float(every[:, 3].max()))

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
    def reach(self) -> float:
        """How far it reaches along the feed, mm: all of a mat's safe area, on a roll as far as its work."""
        return self.medium.length if self.medium.kind == "mat" else self.height

    @property
    def film_area(self) -> float:
        """The film one load uses, mm2."""
        return sum(p.area for p in self.patches)

    @cached_property
    def cuts(self) -> Cuts:
        """Everything that is cut on it."""
        return together([self.on(patch) for patch in self.patches])

    def on(self, patch: Patch) -> Cuts:
        """What is cut of one patch's film."""
        frame = [cuts_round(patch.framed, "frame")] if patch.frame else []
        return together([*(i.cuts for i in self.items if i.item.name == patch.name), *frame])


@dataclass(frozen=True)
class Way:
    """What one way of loading takes: loads, minutes at the machine besides its cutting, film (mm2), and how often
    something is placed by hand."""

    loads: int
    minutes: float
    film_area: float
    placements: int = 0


@dataclass(frozen=True, eq=False)
class Loads:
    """All loads of a batch, in the order in which their layers are laid up, and the film they use (mm2). `one_film` and
    `shared` tell what a film to a load takes, and several films on one mat; `drawn` and `loose` what sets as they are
    drawn take, and loose pieces, at most that where they are not chosen. None where that cannot be."""

    loads: tuple[Load, ...]
    cutter: Cutter
    film_area: float
    verdicts: tuple[Verdict, ...]
    one_film: Way | None = None
    shared: Way | None = None
    drawn: Way | None = None
    loose: Way | None = None
    allotted: Allotted = NOTHING_TAKEN
    """The film of the workshop's that goes on them."""
    parted: Mapping[str, Parted] = field(default_factory=dict)
    """Layers in panels, by their names."""
    lap_mm: float = 0.0
    held: tuple[Box, ...] = ()
    """Corners of the safe area on which nothing lies."""
    pages: tuple[Load, ...] = ()
    """What is printed and cut, each face a sheet of its own."""

    @property
    def every(self) -> tuple[Load, ...]:
        """All that goes on the cutter: loads of film, and printed pages."""
        return (*self.loads, *self.pages)


def film_by_cause(loads: Sequence[Load]) -> tuple[float, float, float]:
    """Where the film of all loads goes (mm2): what stays, what lies between it, and what is kept round it."""
    work = sum(i.item.area * load.times for load in loads for i in load.items)
    boxes = 0.0
    for load in loads:
        for patch in load.patches:
            every = np.array([i.box for i in load.items if i.item.name == patch.name])
            wide, tall = every[:, 2:].max(axis=0) - every[:, :2].min(axis=0)
            boxes += float(wide * tall) * load.times
    whole = sum(load.film_area * load.times for load in loads)
    return work, boxes - work, whole - boxes


def film_by_name(loads: Sequence[Load]) -> dict[str, tuple[Film, list[tuple[float, int]]]]:
    """For each film on the loads, by its name in the job: what film it is, and the areas (mm2) of its patches with how
    often each is cut."""
    out: dict[str, tuple[Film, list[tuple[float, int]]]] = {}
    for load in loads:
        for patch in load.patches:
            out.setdefault(patch.name, (patch.film, []))[1].append((patch.area, load.times))
    return out
