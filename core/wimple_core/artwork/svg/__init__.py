"""SVG, read the way a browser draws it, and cleaned before it is kept."""

from .page import svg_page_width
from .reader import clean_and_read_svg, read_svg
from .safety import clean_svg

__all__ = ["clean_and_read_svg", "clean_svg", "read_svg", "svg_page_width"]
