"""What is seen of each layer, wrapped back onto the surface: what the object wears."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..fit import Fit
from ..layers import Films, Layers
from ..layers.colours import warmed
from ..layers.films import OfFilm
from ..layers.misregistration import SHOWN, Hand, lay_ups
from ..surface import Template
from ..surface.pieces import Pieces
from .drawn import Ring, View, rings_of, thinned

TURN = 2 * math.pi
WORN_MM = 0.04
"""Contours are thinned to this for the object, whose picture is coarser than a drawing."""


class WornView(View):
    """A layer on the object: contours in (angle rad, mm along the side); on a panel in mm. What moves rigidly, where it
    lies still. `warmth` its colour at so many degrees Celsius, where that changes; `moves` where the first simulated
    lay-ups put it: for each a map of those coordinates, a' = m0 a + m1 s + m2 and s' = m3 a + m4 s + m5, true near
    where it lies."""

    colour: str
    finish: str
    rings: list[Ring]
    warmth: list[tuple[float, str]]
    moves: list[list[float]]


class LiesView(View):
    """By how much all that is worn is moved to where it lies, in the surface's own coordinates."""

    da: float
    ds: float


def lies_view(fit: Fit, template: Template) -> LiesView:
    """Where what is worn lies, seen from where it lies still."""
    dx, dy = _rigid_move(fit)
    if not (dx or dy):
        return LiesView(da=0.0, ds=0.0)
    a, s = template.surface.wrap(np.array([0.0, dx]), np.array([0.0, dy]))
    return LiesView(da=float(a[1] - a[0]), ds=float(s[1] - s[0]))


def _rigid_move(fit: Fit) -> tuple[float, float]:
    return fit.still.move if fit.still else (0.0, 0.0)


DEGREES_C = tuple(float(t) for t in range(-10, 91))


def worn_view(films: Films, fit: Fit, template: Template, layers: Layers | None = None) -> list[WornView]:
    """All films where they lie still, the lowest first: what is seen of them, or with `layers` each whole, with where
    hands put it."""
    surface, (dx, dy) = template.surface, _rigid_move(fit)

    def back(p: np.ndarray) -> np.ndarray:
        return np.column_stack(surface.wrap(p[:, 0], p[:, 1]))

    def rings(region: BaseGeometry) -> list[Ring]:
        return rings_of(shapely.multipolygons(shapely.transform(thinned(region, WORN_MM), back)), 0.0, digits)

    # Angles want more digits than mm.
    digits = 5 if surface.closed else 3
    hand = layers.hand.moved((-dx, -dy)) if layers and layers.hand else None
    moves = _moves(films, hand, template, back) if hand else [[] for _ in films.each]
    printed = [
        WornView(colour=colour, finish="gloss", rings=rings(seen), warmth=[], moves=[]) for colour, seen in fit.prints
    ]
    return [
        WornView(
            colour=film.film_colour,
            finish=film.film.finish,
            rings=rings(film.region if layers else film.seen),
            warmth=_warmth(film),
            moves=some,
        )
        for film, some in zip(films.each, moves, strict=True)
    ] + printed


def _warmth(layer: OfFilm) -> list[tuple[float, str]]:
    at = layer.film.changes_at_c
    if at is None or layer.warm_colour is None:
        return []
    return [(t, warmed(layer.film_colour, layer.warm_colour, at, t)) for t in DEGREES_C]


def _moves(films: Films, hand: Hand, template: Template, back: Callable[[Array], Array]) -> list[list[list[float]]]:
    """For each film the maps of the first lay-ups: by least squares over a grid on the work."""
    if isinstance(template.surface, Pieces):
        return [[] for _ in films.each]
    left, low, right, high = films.bounds
    x, y = np.linspace(left, right, 5), np.linspace(low, high, 5)
    points = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    before = back(points)
    known = np.column_stack([before, np.ones(len(before))])
    laid = lay_ups(len(films.each), hand)
    out: list[list[list[float]]] = [[] for _ in films.each]
    for n in range(SHOWN):
        for k, maps in enumerate(out):
            after = back(turned(points, hand.middle, laid.turn[n, k]) + laid.shift[n, k])
            # Where the template's ends meet, one turn more or less is one place.
            after[:, 0] -= np.round((after[:, 0] - before[:, 0]) / TURN) * TURN if template.surface.closed else 0.0
            found = np.linalg.lstsq(known, after, rcond=None)[0]
            maps.append(found.T.round(7).ravel().tolist())
    return out


def turned(points: Array, about: tuple[float, float], by: float) -> Array:
    """Points (n, 2) turned about a place by so many rad."""
    c, s = np.cos(by), np.sin(by)
    return np.asarray((points - about) @ np.array([[c, s], [-s, c]]) + about)
