"""Layers laid out on the film that is cut: one load of each film, inside the cutter's safe area."""

from .sheets import Sheet, Sheets, plan_sheets

__all__ = ["Sheet", "Sheets", "plan_sheets"]
