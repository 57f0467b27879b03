"""Letters judged: from how far they are read, and whether a counter has closed."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import holes_in
from ..arrays import Array
from ..artwork import ColourRegion, Paint
from ..artwork.pieces import is_letter
from ..job.edits import Edit
from ..overlay import union
from ..thin import least_width
from ..verdict import Verdict, plain

if TYPE_CHECKING:
    from .separated import Separated

HEIGHTS_AWAY = 360.0
"""Letters are read from 30 ft for each inch of their capitals, 360 times their height (legibility index of the Manual
on Uniform Traffic Control Devices, 2009, section 2A.13; from memory)."""
ARM_M = 0.7
CLOSED, MOST_NAMED = 0.98, 6
SAFE = 1.07
"""By so much more than just enough, since letters of another size are cut into other chords."""


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


def thinnest_stroke(regions: list[BaseGeometry], below: float) -> float:
    """The width (mm) of the thinnest stroke of some regions, to a twentieth: the widest for which none of their places
    is thinner. Infinite where that is no less than `below`."""
    parts = shapely.get_parts(np.array(regions, dtype=object))
    return least_width(parts, below)[0]


def stroke_verdicts(name: str, made: Separated, least: float, field: str, size: float) -> list[Verdict]:
    """Letters whose thinnest stroke is under what is safe in the film, with the size at which it would be."""
    thin = made.thinnest(0.98 * least) if least > 0 else math.inf
    if not 0 < thin < math.inf:
        return []
    times = SAFE * least / thin
    fix = math.ceil(100 * size * times) / 100
    return [
        Verdict(
            "artwork.stroke",
            "artwork",
            "look",
            thin,
            least,
            "mm",
            f"“{plain(name)}”: its thinnest stroke is {{value}}, and {{limit}} is safe in this film.",
            "With capitals of {tall} it is safe; or take a stronger font, or an outline.",
            {"tall": ((made.artwork.capitals or 0.0) * times, "mm")},
            field=f"source.{field}",
            fix=fix,
        )
    ]


def roomier(v: Verdict, field: str, side: float) -> Verdict:
    """A verdict on words that were made smaller to fit a room, by its side of so many mm, which `field` gives: only a
    larger one helps."""
    if v.code != "artwork.stroke" or not isinstance(v.value, float) or not v.limit:
        return v
    room = math.ceil(10 * side * SAFE * v.limit / v.value) / 10
    return replace(
        v,
        remedy="They were made smaller to fit their room: with {room} there they are safe, if they may be as large;"
        " or take a stronger font.",
        figures={**v.figures, "room": (room, "mm")},
        field=field,
        fix=room,
    )


def mirror_verdict(name: str, field: str) -> Verdict:
    """Words that are laid as in a mirror."""
    return Verdict(
        "artwork.mirrored",
        "artwork",
        "look",
        1,
        0,
        "count",
        f"“{plain(name)}” is mirrored, so it reads backwards.",
        "Right only for what is read in a mirror. For heat-transfer film and the inside of glass leave it as it is"
        " read: the film is mirrored when it is cut.",
        field=field,
        fix=False,
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
    holes, part = holes_in(parts)
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
