"""A cutter that is not there: it takes the plotter language, draws a blade that trails over a load of film, wears, can
be told to fail, and keeps what it really cut. It stands in for a machine in the demo and in checks."""

from .machine import Faults, Machine, Sheet
from .strokes import Stroke

__all__ = ["Faults", "Machine", "Sheet", "Stroke"]
