"""Piece work: what is done to the pieces of a drawing, each found by its name."""

from .apply import Applied, apply
from .stack import Stack

__all__ = ["Applied", "Stack", "apply"]
