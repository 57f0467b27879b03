"""Drawings read into painted regions, and the regions that are seen of each colour."""

from .artwork import Artwork, ColourRegion, Note, Paint, lay_over, separate
from .outline import read_outline
from .svg import clean_svg, read_svg

__all__ = ["Artwork", "ColourRegion", "Note", "Paint", "clean_svg", "lay_over", "read_outline", "read_svg", "separate"]
