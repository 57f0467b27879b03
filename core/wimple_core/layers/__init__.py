"""Colours become layers of film: joints, marks, what stays and what is weeded, what may tear or not show."""

from .films import Films, make_films, mending_of
from .layer import Layer, Layers, moved
from .layers import make_layers, with_mending

__all__ = ["Films", "Layer", "Layers", "make_films", "make_layers", "mending_of", "moved", "with_mending"]
