"""Artwork laid on a surface: placement, the four ways, what is seen from the front."""

from .named import Named, NamedRow, name_rows
from .place import PlacedDrawing
from .placed import Fit, fit
from .separated import Separated, edited, prepare, tolerance_for
from .suggest import first_placement, first_reference

__all__ = [
    "Fit",
    "Named",
    "NamedRow",
    "PlacedDrawing",
    "Separated",
    "edited",
    "first_placement",
    "first_reference",
    "fit",
    "name_rows",
    "prepare",
    "tolerance_for",
]
