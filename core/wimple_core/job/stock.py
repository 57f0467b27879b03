"""The colours of film at hand, as shipped; a workshop writes down its own."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .fields import Colour, Model


class FilmColour(Model):
    """One colour of a film that a workshop has: the film by its id, what they call the colour, and how it looks."""

    film: Annotated[str, Field(min_length=1, max_length=60)]
    name: Annotated[str, Field(min_length=1, max_length=40)]
    colour: Colour


NAMED = {
    "white": "#ffffff",
    "cream": "#efe6c8",
    "silver": "#c4c9cf",
    "grey": "#808790",
    "charcoal": "#3c4048",
    "black": "#101010",
    "midnight": "#1c3d7a",
    "blue": "#2a5bb8",
    "sky": "#86b8e6",
    "teal": "#1f7d80",
    "green": "#2f8a4a",
    "leaf": "#7fa37a",
    "lime": "#9ccc3c",
    "olive": "#77752f",
    "yellow": "#f2d22e",
    "gold": "#b98a2f",
    "orange": "#e8822a",
    "rust": "#c9683a",
    "red": "#c22a2a",
    "wine": "#6e1e33",
    "pink": "#ee9ab2",
    "violet": "#6b3f94",
    "lilac": "#b9a2dc",
    "brown": "#6d4428",
    "sand": "#cdb38b",
}
"""Names of colours a maker would say, ours."""
_AT_HAND = {
    "calendered-gloss": tuple(NAMED),
    "calendered-matt": ("white", "cream", "grey", "black", "midnight", "green", "red"),
    "removable": ("white", "black", "midnight", "red"),
    "cast": ("white", "cream", "black", "midnight", "sky", "gold", "red"),
    "wrap-cast": ("white", "cream", "silver", "charcoal", "black", "midnight", "sky", "red"),
    "glitter": ("silver", "gold", "midnight", "violet", "red"),
    "metallic": ("silver", "gold"),
    "holographic": ("silver",),
    "brushed": ("silver", "gold"),
    "reflective": ("white", "sky", "yellow", "red"),
    "heat-change": ("blue", "red"),
    "clear-printable": ("white",),
    "heat-transfer": ("white", "black", "midnight", "gold", "red"),
}
COLOURS = tuple(
    FilmColour(film=film, name=name, colour=NAMED[name]) for film, names in _AT_HAND.items() for name in names
)
"""Invented; where a new workshop starts."""
