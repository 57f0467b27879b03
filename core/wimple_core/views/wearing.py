"""What is seen of each layer, wrapped back onto the surface: what the object wears."""

from __future__ import annotations

import numpy as np
import shapely

from ..layers import Layers
from ..surface import Template
from .drawn import Ring, View, rings_of, thinned


class WornView(View):
    """A layer on the object: contours in (angle rad, mm along the side); on a panel in mm."""

    colour: str
    finish: str
    rings: list[Ring]


def worn_view(layers: Layers, template: Template) -> list[WornView]:
    """All layers, the lowest first."""
    surface = template.surface

    def back(p: np.ndarray) -> np.ndarray:
        return np.column_stack(surface.wrap(p[:, 0], p[:, 1]))

    return [
        WornView(
            colour=layer.film_colour,
            finish=layer.film.finish,
            rings=rings_of(shapely.multipolygons(shapely.transform(thinned(layer.seen), back)), 0.0, 5),
        )
        for layer in layers.layers
    ]
