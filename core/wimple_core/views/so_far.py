"""A closer lay while it is looked for, for the screen."""

from __future__ import annotations

from ..sheets.search import SoFar
from .drawn import Ring, View, rings_of

COARSE_MM = 0.2
"""It is drawn anew every little while: what is finer than that is not sent."""


class LayView(View):
    """The best so far: of which film, so many sets on a strip so wide and long (mm), how long a load may be, the
    contours of what lies on it, and where each of them lies: which, turned by degrees about its origin, then moved
    right and up."""

    name: str
    colour: str
    sets: int
    width: float
    length: float
    room: float
    rings: list[list[Ring]]
    places: list[tuple[int, float, float, float]]


def lay_view(so_far: SoFar) -> LayView:
    """The best so far; what lies there stands in the list as it did before, so that it can be followed."""
    places = [(p.shape, round(p.turn, 2), round(p.at[0], 2), round(p.at[1], 2)) for p in so_far.places]
    return LayView(
        name=so_far.item.name,
        colour=so_far.item.film_colour,
        sets=so_far.sets,
        width=so_far.width,
        length=so_far.length,
        room=so_far.room,
        rings=[rings_of(region, COARSE_MM, 1) for region in so_far.regions],
        places=sorted(places, key=lambda p: p[0]),
    )
