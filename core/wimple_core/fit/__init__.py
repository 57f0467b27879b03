"""Artwork laid on a surface: placement, the four ways, what is seen from the front."""

from .placed import Fit, PlacedDrawing, fit, tolerance_for

__all__ = ["Fit", "PlacedDrawing", "fit", "tolerance_for"]
