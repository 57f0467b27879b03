"""Colours become layers of film: joints, marks, what stays and what is weeded, what may tear or not show."""

from .layers import Layer, Layers, make_layers, moved

__all__ = ["Layer", "Layers", "make_layers", "moved"]
