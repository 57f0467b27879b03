"""Layers, for the screens."""

from __future__ import annotations

from ..cuts import together
from ..figures import LengthStyle, format_quantity
from ..layers import Layers
from .drawn import Box, Ring, View, box, rings_of

MOST_PLACES = 200


class LayerView(View):
    name: str
    colour: str
    film: str
    film_name: str
    film_colour: str
    finish: str
    pieces: int
    weeded: int
    area: str
    rings: list[Ring]
    marks: list[Ring]
    slits: list[Ring]
    places: list[tuple[float, float]]


class WeakestView(View):
    """The two films whose joint fails first, the lower one first."""

    lower: str
    upper: str


class LayersView(View):
    layers: list[LayerView]
    joint: str
    gap_chance: float
    weakest: WeakestView | None
    bounds: Box


def layers_view(layers: Layers, style: LengthStyle) -> LayersView:
    """All layers, the lowest first."""
    rows = [
        LayerView(
            name=la.name,
            colour=la.colour,
            film=la.film.id,
            film_name=la.film.name,
            film_colour=la.film_colour,
            finish=la.film.finish,
            pieces=la.pieces,
            weeded=la.weeded,
            area=format_quantity(la.area, "mm2", style),
            rings=rings_of(la.region),
            marks=rings_of(la.marks),
            slits=[path.round(3).ravel().tolist() for path in la.cuts.only("slit").paths()],
            places=list(la.inspection.dots[:MOST_PLACES] + la.inspection.thin[:MOST_PLACES]),
        )
        for la in layers.layers
    ]
    bounds = together(la.cuts for la in layers.layers).bounds if layers.layers else (0.0, 0.0, 1.0, 1.0)
    first = layers.weakest
    return LayersView(
        layers=rows,
        joint=layers.joint,
        gap_chance=layers.gap_chance,
        weakest=WeakestView(lower=first.lower, upper=first.upper) if first else None,
        bounds=box(bounds),
    )
