"""What is seen of each layer, wrapped back onto the surface: what the object wears."""

from __future__ import annotations

import numpy as np
import shapely

from ..fit import Fit
from ..layers import Layers
from ..surface import Template
from .drawn import Ring, View, rings_of, thinned


class WornView(View):
    """A layer on the object: contours in (angle rad, mm along the side); on a panel in mm. What moves rigidly, where it
    lies still."""

    colour: str
    finish: str
    rings: list[Ring]


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


def worn_view(layers: Layers, fit: Fit, template: Template) -> list[WornView]:
    """All layers, the lowest first."""
    surface, (dx, dy) = template.surface, _rigid_move(fit)

    def back(p: np.ndarray) -> np.ndarray:
        return np.column_stack(surface.wrap(p[:, 0] - dx, p[:, 1] - dy))

    return [
        WornView(
            colour=layer.film_colour,
            finish=layer.film.finish,
            rings=rings_of(shapely.multipolygons(shapely.transform(thinned(layer.seen), back)), 0.0, 5),
        )
        for layer in layers.layers
    ]
