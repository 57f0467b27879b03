"""Layers, for the screens."""

from __future__ import annotations

import numpy as np

from ..cuts import together
from ..figures import LengthStyle, format_length, format_quantity
from ..job.document import LayerPlan, Mend
from ..layers import Layer, Layers
from ..layers.inspection import SIZES_MM, least_gap
from ..layers.mending import FIELDS
from ..layers.misregistration import SHOWN, lay_ups
from .drawn import Box, Ring, View, box, rings_of

MOST_PLACES = 200


class SpotView(View):
    """The least of its kind in a layer, in words, and where it is; `short`: is it less than is safe?"""

    words: str
    value: str
    short: bool
    at: tuple[float, float]


class WeedingView(View):
    """How a layer is weeded: outlines of frames, lines, where to begin, in words how many pieces of each size stay and
    go, and how long it takes."""

    frames: list[Ring]
    lines: list[Ring]
    start: tuple[float, float]
    corner: str
    sizes: list[tuple[str, int, int]]
    islands: list[tuple[float, float]]
    threads: list[tuple[float, float]]
    spots: list[SpotView]
    minutes: str


class LayerView(View):
    name: str
    colour: str
    film: str
    film_name: str
    film_colour: str
    finish: str
    warm_colour: str | None
    pieces: int
    weeded: int
    area: str
    rings: list[Ring]
    marks: list[Ring]
    slits: list[Ring]
    places: list[tuple[float, float]]
    weeding: WeedingView


class WeakestView(View):
    """The two films whose joint fails first, the lower one first."""

    lower: str
    upper: str


class MeetsView(View):
    """Two layers that border on each other, by their places in the pile, how they meet, and whether that was chosen for
    them."""

    lower: int
    upper: int
    joint: str
    chosen: bool


class MendingView(View):
    """A way of mending: in how many places, what it changes of the look, how far edges move, and whether it is done.
    `path` is where it is asked for, with the value `on`; `joined` how many pieces become how many where they join,
    `helps` whether there is room to do it."""

    kind: str
    path: str
    on: float | bool
    off: float | bool
    places: int
    joined: tuple[int, int] | None
    helps: bool
    area: str
    shift: str
    done: bool
    possible: bool


class HandView(View):
    """Lay-ups as this hand does them: for each the shift (mm) and the turn (deg) of every film, x0, y0, t0, x1, ...,
    about the middle of the marks, and which of the joints show a gap."""

    middle: tuple[float, float]
    lay_ups: list[list[float]]
    shows: list[list[int]]


class LayersView(View):
    layers: list[LayerView]
    joint: str
    gap_chance: float
    weakest: WeakestView | None
    bounds: Box
    meets: list[MeetsView]
    under: int
    """So many of the lowest lie under all others."""
    weeding_minutes: float
    """Of all films, as this workshop weeds."""
    hand: HandView | None


KINDS = {
    "stroke": "thinnest stroke",
    "gap": "narrowest gap",
    "piece": "smallest piece",
    "hole": "smallest hole",
    "point": "sharpest point",
}
NOTHING = 0.05
"""What is narrower than this (mm) runs out to a point."""


def _spots(layer: Layer, style: LengthStyle) -> list[SpotView]:
    film = layer.film
    safe = {"stroke": film.least_stroke_mm, "gap": least_gap(film.least_stroke_mm), "piece": film.least_dot_mm}
    out = []
    for s in layer.inspection.spots:
        value = format_quantity(s.value, "deg" if s.kind == "point" else "mm", style)
        if s.kind in ("stroke", "gap") and s.value < NOTHING:
            value = "to a point"
        out.append(SpotView(words=KINDS[s.kind], value=value, short=s.value < safe.get(s.kind, 0.0), at=s.at))
    return out


def _sizes(layer: Layer, style: LengthStyle) -> list[tuple[str, int, int]]:
    found, last, out = layer.inspection, 0.0, []
    for size, stay, go in zip((*SIZES_MM, None), found.stay, found.go, strict=True):
        if size is None:
            words = f"over {format_length(last, style, 0)}"
        elif not last:
            words = f"under {format_length(size, style, 0)}"
        else:
            words = f"to {format_length(size, style, 0)}"
        if stay or go:
            out.append((words, stay, go))
        last = size or last
    return out


def _weeding(layer: Layer, style: LengthStyle) -> WeedingView:
    plan, found = layer.weeding, layer.inspection
    return WeedingView(
        frames=rings_of(plan.frames),
        lines=[line.round(3).ravel().tolist() for line in plan.lines],
        start=plan.start,
        corner=plan.corner,
        sizes=_sizes(layer, style),
        islands=list(found.islands[:MOST_PLACES]),
        threads=list(found.threads[:MOST_PLACES]),
        spots=_spots(layer, style),
        minutes=format_quantity(plan.minutes, "min", style),
    )


def _hand(layers: Layers) -> HandView | None:
    if layers.hand is None:
        return None
    laid = lay_ups(len(layers.layers), layers.hand)
    moves = np.concatenate([laid.shift, np.degrees(laid.turn)[:, :, None]], axis=2)[:SHOWN]
    flat = moves.reshape(len(moves), -1).round(4).tolist()
    return HandView(middle=layers.hand.middle, lay_ups=flat, shows=[list(s) for s in layers.shows])


def layers_view(layers: Layers, plan: LayerPlan, style: LengthStyle) -> LayersView:
    """All layers, the lowest first."""
    rows = [
        LayerView(
            name=la.name,
            colour=la.colour,
            film=la.film.id,
            film_name=la.film.name,
            film_colour=la.film_colour,
            finish=la.film.finish,
            warm_colour=la.warm_colour,
            pieces=la.pieces,
            weeded=la.weeded,
            area=format_quantity(la.area, "mm2", style),
            rings=rings_of(la.region),
            marks=rings_of(la.marks),
            slits=[path.round(3).ravel().tolist() for path in la.cuts.only("slit").paths()],
            places=list(la.inspection.dots[:MOST_PLACES] + la.inspection.thin[:MOST_PLACES]),
            weeding=_weeding(la, style),
        )
        for la in layers.layers
    ]
    bounds = together(la.cuts for la in layers.layers).bounds if layers.layers else (0.0, 0.0, 1.0, 1.0)
    first = layers.weakest
    chosen = {frozenset(m.colours) for m in plan.meetings}
    colour = [la.colour for la in layers.layers]
    return LayersView(
        layers=rows,
        joint=layers.joint,
        gap_chance=layers.gap_chance,
        weakest=WeakestView(lower=first.lower, upper=first.upper) if first else None,
        bounds=box(bounds),
        meets=[
            MeetsView(lower=m.lower, upper=m.upper, joint=m.joint, chosen={colour[m.lower], colour[m.upper]} in chosen)
            for m in layers.meets
        ],
        under=layers.under,
        weeding_minutes=sum(la.weeding.minutes for la in layers.layers),
        hand=_hand(layers),
    )


def mending_view(layers: Layers, style: LengthStyle) -> list[MendingView]:
    """What every way of mending would change."""
    return [
        MendingView(
            kind=m.kind,
            places=m.places,
            helps=m.area > 0,
            path=f"layers.mend.{FIELDS[m.kind]}",
            on=m.on,
            off=getattr(Mend(), FIELDS[m.kind]),
            area=format_quantity(m.area, "mm²", style),
            joined=m.pieces if m.pieces[1] < m.pieces[0] and m.kind != "drop" else None,
            possible=m.possible,
            shift=format_quantity(m.shift, "mm", style),
            done=m.done,
        )
        for m in layers.mending
    ]
