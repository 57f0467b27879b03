"""Layers laid out on the film that is cut: items placed on loads, inside the cutter's safe area."""

from .listed import plan_names
from .loads import Item, Load, Loads, Medium, Patch, PlacedItem, Way, film_by_cause, film_by_name
from .plan import Planned, plan_sheets, with_other_ways

__all__ = [
    "Item",
    "Load",
    "Loads",
    "Medium",
    "Patch",
    "PlacedItem",
    "Planned",
    "Way",
    "film_by_cause",
    "film_by_name",
    "plan_names",
    "plan_sheets",
    "with_other_ways",
]
