"""A film to cut, and all of them; moved rigidly where nothing about them changes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..cuts import Cuts, cuts_along, cuts_round, together
from ..job.shipped import Film
from ..verdict import Verdict
from .inspection import Inspection
from .joints import Joint
from .mending import Mending
from .misregistration import Hand
from .thickness import Thickness
from .weeding import Weeded, looking_order


@dataclass(frozen=True, eq=False)
class Layer:
    """One film to cut: its `cuts`, mm on the template, and `seen`, what shows of it in the end."""

    name: str
    colour: str
    film: Film
    film_colour: str
    cuts: Cuts
    seen: BaseGeometry
    pieces: int
    weeded: int
    area: float
    inspection: Inspection
    weeding: Weeded
    warm_colour: str | None = None
    """What its colour becomes in the warmth; None where it stays."""

    def cut_mirrored(self, through_glass: bool) -> bool:
        """Is it cut mirrored: from behind, or seen through the glass it is laid on?"""
        return self.film.mirrored != through_glass

    @cached_property
    def region(self) -> BaseGeometry:
        """The film that stays, marks left out."""
        return self.cuts.only("piece", "hole").region

    @cached_property
    def marks(self) -> BaseGeometry:
        """Its registration marks."""
        return self.cuts.only("mark").region

    @cached_property
    def numbers(self) -> tuple[int, ...]:
        """The number of each piece, in the order of their rings: its place in the order to look, from 1."""
        order = looking_order(shapely.get_parts(self.region))
        numbers = np.empty(len(order), dtype=np.int64)
        numbers[order] = np.arange(1, len(order) + 1)
        return tuple(numbers.tolist())


@dataclass(frozen=True)
class Weakest:
    """The joint that shows a gap most often: the films that meet there, the lower first, and in what share of
    lay-ups."""

    lower: str
    upper: str
    chance: float


@dataclass(frozen=True)
class Meets:
    """Two layers that border on each other, by their places in the pile, and how they meet."""

    lower: int
    upper: int
    joint: Joint


@dataclass(frozen=True, eq=False)
class Layers:
    """All layers, the lowest (first on the blank) first. `gap_chance`: that a gap shows anywhere in one lay-up."""

    layers: tuple[Layer, ...]
    joint: Joint
    overlap: float
    gap_chance: float
    verdicts: tuple[Verdict, ...]
    through_glass: bool = False
    """Is all of it seen through what it is laid on, and so cut mirrored?"""
    weakest: Weakest | None = None
    """The joint that fails first; None where no two films meet."""
    meets: tuple[Meets, ...] = ()
    under: int = 0
    """So many of the lowest lie under all others."""
    sheet: bool = False
    """Is the lowest the blank itself, cut out?"""
    mending: tuple[Mending, ...] = ()
    hand: Hand | None = None
    """How the films are laid; None where there is but one."""
    shows: tuple[tuple[int, ...], ...] = ()
    """Of the first lay-ups that are simulated which of `meets` show a gap, by their numbers."""
    thickness: Thickness | None = None

    def cut_mirrored(self, layer: Layer) -> bool:
        """Is one of them cut mirrored?"""
        return layer.cut_mirrored(self.through_glass)

    @property
    def outward(self) -> tuple[Layer, ...]:
        """Those that are laid on the blank, in the order in which they lie there, the one that touches it first: seen
        through it, the uppermost lies next to it."""
        laid = self.layers[1:] if self.sheet else self.layers
        return laid[::-1] if self.through_glass else laid


def moved(layers: Layers, by: tuple[float, float]) -> Layers:
    """The same layers, cut by no slits, moved rigidly (mm): nothing else about them changes."""
    if by == (0.0, 0.0):
        return layers
    return replace(
        layers,
        layers=tuple(_moved(layer, by) for layer in layers.layers),
        hand=layers.hand and layers.hand.moved(by),
        verdicts=tuple(replace(v, places=_shifted(v.places, by)) for v in layers.verdicts),
    )


Places = tuple[tuple[float, float], ...]


def _shifted(places: Places, by: tuple[float, float]) -> Places:
    return tuple((x + by[0], y + by[1]) for x, y in places)


def _moved(layer: Layer, by: tuple[float, float]) -> Layer:
    return replace(
        layer,
        cuts=layer.cuts.transform(lambda p: p + by),
        seen=shapely.transform(layer.seen, lambda p: p + by),
        inspection=layer.inspection.moved(by),
        weeding=layer.weeding.moved(by),
    )


def with_tick(layers: Layers, tick: BaseGeometry | None) -> Layers:
    """The same layers with a tick on each, among its marks."""
    if tick is None:
        return layers
    return replace(layers, layers=tuple(_ticked(la, tick) for la in layers.layers))


def _ticked(layer: Layer, tick: BaseGeometry) -> Layer:
    weeding = layer.weeding.clear_of(tick)
    cuts = [layer.cuts, cuts_round(tick, "mark")]
    if weeding is not layer.weeding:
        others = layer.cuts.only("piece", "hole", "mark", "frame", "slit", "guide")
        cuts = [others, cuts_along(weeding.lines, "weed"), cuts[1]]
    return replace(layer, cuts=together(cuts), weeding=weeding)
