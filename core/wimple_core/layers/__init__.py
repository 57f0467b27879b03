"""Colours become layers of film: joints, marks, what stays and what is weeded, what may tear or not show."""

from .layer import Layer, Layers, moved
from .layers import make_layers

__all__ = ["Layer", "Layers", "make_layers", "moved"]
