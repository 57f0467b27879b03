"""Drawings read into painted regions, and the regions that are seen of each colour."""

from .artwork import Artwork, ColourRegion, Gap, Note, Paint, lay_over, separate
from .drawing import Reading, clean_drawing, read_drawing, take_in_drawing
from .lettering import set_words, shipped_face
from .made import make_artwork
from .outline import read_outline
from .svg import clean_svg, read_svg
from .tracing import Tracing

__all__ = [
    "Artwork",
    "ColourRegion",
    "Gap",
    "Note",
    "Paint",
    "Reading",
    "Tracing",
    "clean_drawing",
    "clean_svg",
    "lay_over",
    "make_artwork",
    "read_drawing",
    "read_outline",
    "read_svg",
    "separate",
    "set_words",
    "shipped_face",
    "take_in_drawing",
]
