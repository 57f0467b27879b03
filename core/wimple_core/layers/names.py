"""Names of colours a maker would say, ours: the nearest of a short list by CIEDE2000."""

from __future__ import annotations

from collections.abc import Iterable

from ..job.stock import NAMED
from .colours import colour_difference


def name_colours(colours: Iterable[str]) -> dict[str, str]:
    """A name for each colour; a second colour of the same name gets a number."""
    out: dict[str, str] = {}
    used: dict[str, int] = {}
    for colour in colours:
        name = min(NAMED, key=lambda n: colour_difference(NAMED[n], colour))
        used[name] = used.get(name, 0) + 1
        out[colour] = name if used[name] == 1 else f"{name} {used[name]}"
    return out
