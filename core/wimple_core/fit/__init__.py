"""Artwork laid on a surface: placement, the four ways, what is seen from the front."""

from .place import PlacedDrawing, Separated, prepare, tolerance_for
from .placed import Fit, fit, source_of
from .suggest import first_placement

__all__ = ["Fit", "PlacedDrawing", "Separated", "first_placement", "fit", "prepare", "source_of", "tolerance_for"]
