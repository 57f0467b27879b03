"""What the blade does on each load: order, compensation, overcut, passes and seconds, and the plotter language."""

from .order import Contour, contours_of, order_contours
from .plan import CutPath, CutPlan, Cutting, Pass, ordered_paths, plan_cutting
from .plotter import plotter_file

__all__ = [
    "Contour",
    "CutPath",
    "CutPlan",
    "Cutting",
    "Pass",
    "contours_of",
    "order_contours",
    "ordered_paths",
    "plan_cutting",
    "plotter_file",
]
