"""What the blade does: the order of contours and the plotter language."""

from .order import Contour, contours_of, order_contours
from .plotter import plotter_file, plotter_lines

__all__ = ["Contour", "contours_of", "order_contours", "plotter_file", "plotter_lines"]
