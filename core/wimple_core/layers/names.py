"""Names of colours a maker would say, ours: the nearest of a short list by CIEDE2000."""

from __future__ import annotations

from collections.abc import Iterable

from .colours import colour_difference

_NAMES = {
    "white": "#ffffff",
    "cream": "#efe6c8",
    "silver": "#c4c9cf",
    "grey": "#808790",
    "charcoal": "#3c4048",
    "black": "#101010",
    "midnight": "#1c2c5e",
    "blue": "#2a5bb8",
    "sky": "#86b8e6",
    "teal": "#1f7d80",
    "green": "#2f8a4a",
    "lime": "#9ccc3c",
    "olive": "#77752f",
    "yellow": "#f2d22e",
    "gold": "#b98a2f",
    "orange": "#e8822a",
    "red": "#c22a2a",
    "wine": "#6e1e33",
    "pink": "#ee9ab2",
    "violet": "#6b3f94",
    "lilac": "#b9a2dc",
    "brown": "#6d4428",
    "sand": "#cdb38b",
}


def name_colours(colours: Iterable[str]) -> dict[str, str]:
    """A name for each colour; a second colour of the same name gets a number."""
    out: dict[str, str] = {}
    used: dict[str, int] = {}
    for colour in colours:
        name = min(_NAMES, key=lambda n: colour_difference(_NAMES[n], colour))
        used[name] = used.get(name, 0) + 1
        out[colour] = name if used[name] == 1 else f"{name} {used[name]}"
    return out
