"""Loads and what the blade does on them, for the screens."""

from __future__ import annotations

from ..cutting import Cutting
from ..figures import LengthStyle, format_quantity
from ..pricing.price import film_cost, to_cents
from ..sheets import Load, Loads
from .drawn import Ring, View, rings_of


class LoadView(View):
    """One load: contours of what is cut, weed frames, and slits as open lines."""

    name: str
    colour: str
    sets: int
    times: int
    turned: bool
    fits: bool
    width: float
    height: float
    film_area: str
    minutes: float
    rings: list[Ring]
    frames: list[Ring]
    slits: list[Ring]


class LoadsView(View):
    cutter: str
    medium: str
    width: float
    length: float
    safe_width: float
    safe_length: float
    film_area: str
    film_cost: str
    minutes: float
    loads: list[LoadView]


def _load(load: Load, seconds: float, style: LengthStyle) -> LoadView:
    return LoadView(
        name=load.name,
        colour=load.patches[0].film_colour,
        sets=load.sets,
        times=load.times,
        turned=load.turned,
        fits=load.fits,
        width=load.width,
        height=load.height,
        film_area=format_quantity(load.film_area, "mm2", style),
        minutes=seconds / 60,
        rings=rings_of(load.cuts.only("piece", "hole", "mark").region, 0.05),
        frames=rings_of(load.cuts.only("frame").region),
        slits=[path.round(3).ravel().tolist() for path in load.cuts.only("slit").paths()],
    )


def loads_view(loads: Loads, cutting: Cutting, style: LengthStyle) -> LoadsView:
    """All loads of a batch."""
    c = loads.cutter
    return LoadsView(
        cutter=c.name,
        medium=c.medium,
        width=c.width_mm,
        length=c.length_mm,
        safe_width=c.safe_width_mm,
        safe_length=c.safe_length_mm,
        film_area=format_quantity(loads.film_area, "mm2", style),
        film_cost=str(to_cents(film_cost(loads))),
        minutes=cutting.seconds / 60,
        loads=[_load(p.load, p.seconds, style) for p in cutting.plans],
    )
