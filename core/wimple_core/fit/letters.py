"""Letters judged: from how far they are read, and whether a counter has closed."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..artwork import ColourRegion, Paint
from ..artwork.pieces import is_letter
from ..job.edits import Edit
from ..overlay import union
from ..verdict import Verdict, plain

HEIGHTS_AWAY = 360.0
"""Letters are read from 30 ft for each inch of their capitals, 360 times their height (legibility index of the Manual
on Uniform Traffic Control Devices, 2009, section 2A.13; from memory)."""
ARM_M = 0.7
CLOSED, MOST_NAMED = 0.98, 6


def read_from(capitals: float) -> float:
    """From how far (m) capitals of a height (mm) are read."""
    return HEIGHTS_AWAY * capitals / 1000


def legible_verdict(name: str, capitals: float, field: str) -> Verdict:
    """From how far the words are read; less than an arm's length is worth a look."""
    away = read_from(capitals)
    near = away < ARM_M
    return Verdict(
        "artwork.legible",
        "artwork",
        "look" if near else "ok",
        away,
        ARM_M,
        "m",
        f"“{plain(name)}” is read from {{value}}: its smallest capitals are {{tall}}.",
        "Make them {least} tall to be read at arm’s length.",
        {"tall": (capitals, "mm"), "least": (1000 * ARM_M / HEIGHTS_AWAY, "mm")},
        field=field,
    )


def closed_counters(
    paints: tuple[Paint, ...], now: tuple[ColourRegion, ...], edits: tuple[Edit, ...]
) -> tuple[str, ...]:
    """Of the paints of letters the names of those with a hole that film covers now, by joining, an outline or a shadow;
    none where they were filled on purpose."""
    if any(getattr(e, "filled", False) or e.kind == "background" for e in edits):
        return ()
    letters = [p for p in paints if is_letter(p.name)]
    parts, of = shapely.get_parts(np.array([p.region for p in letters], dtype=object), return_index=True)
    rings, part = shapely.get_rings(parts, return_index=True)
    inner = np.concatenate([[False], part[1:] == part[:-1]]) if len(part) else np.zeros(0, dtype=bool)
    holes, part = shapely.polygons(rings[inner]), part[inner]
    if not len(holes):
        return ()

    def share(regions: list[BaseGeometry]) -> Array:
        cover = union(regions)
        return np.asarray(shapely.area(shapely.intersection(holes, cover)) / np.maximum(shapely.area(holes), 1e-12))

    beneath = share([p.region for p in paints if not is_letter(p.name)])
    found = (share([c.seen for c in now]) > CLOSED) & (beneath < CLOSED)
    return tuple(dict.fromkeys(letters[int(of[part[n]])].name for n in np.flatnonzero(found)))


def counter_verdict(name: str, closed: tuple[str, ...]) -> Verdict:
    """Which letters have lost a counter."""
    some = ", ".join(closed[:MOST_NAMED]) + (
        f" and {len(closed) - MOST_NAMED} more" if len(closed) > MOST_NAMED else ""
    )
    one = len(closed) == 1
    return Verdict(
        "artwork.counter",
        "artwork",
        "look",
        len(closed),
        0,
        "count",
        f"“{plain(name)}”: the counter{'' if one else 's'} of letter{'' if one else 's'} {some} (line and letter)"
        f" {'has' if one else 'have'} closed.",
        "Make the outline narrower, the letters larger, or set them further apart.",
        field="edits",
    )
