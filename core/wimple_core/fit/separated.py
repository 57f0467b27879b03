"""A drawing made ready to be placed: read, separated, edited."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import shapely

from ..artwork import Artwork, ColourRegion, Note, Paint, separate
from ..artwork.edit import leave_out
from ..job.document import Edit


@dataclass(frozen=True)
class Separated:
    """A drawing read and separated, with the figures placing it needs."""

    artwork: Artwork
    colours: tuple[ColourRegion, ...]
    roundness: float
    """Area-weighted 4 pi A / P^2 of its pieces: 1 for discs."""


def prepare(artwork: Artwork) -> Separated:
    """Separate a drawing into its colours and note how round its pieces are."""
    colours = separate(artwork.paints, artwork.tolerance)
    pieces = np.concatenate([shapely.get_parts(c.painted) for c in colours])
    hulls = shapely.convex_hull(pieces)
    area, around = shapely.area(hulls), shapely.length(hulls)
    return Separated(artwork, colours, float(np.average(4 * math.pi * area / around**2, weights=area)))


def edited(whole: Separated, edits: tuple[Edit, ...]) -> Separated:
    """A drawing with pieces left out: what lies beneath them is seen. Raises BadDrawing for a piece it has not."""
    paints, colours = leave_out(whole.artwork.paints, whole.colours, [e.piece for e in edits], whole.artwork.tolerance)
    return replace(whole, artwork=replace(whole.artwork, paints=paints), colours=colours)


def tolerance_for(natural_width: float, placed_width: float) -> float:
    """Tolerance in mm at which to read a drawing so that it is drawn to 0.01 mm where it is placed: a power of two,
    so that a drawing being sized by hand is not read anew each time."""
    wanted = 0.01 * natural_width / placed_width
    return float(2.0 ** math.floor(math.log2(min(max(wanted, 1e-7), 1.0))))


def as_bytes(made: Separated) -> bytes:
    """A separated drawing for keeping beside its file."""
    art = made.artwork
    beneath = [c.painted for c in made.colours if c.painted is not c.seen]
    shapes = [*(p.region for p in art.paints), *(c.seen for c in made.colours), *beneath]
    written: list[bytes] = shapely.to_wkb(np.array(shapes, dtype=object)).tolist()
    head = {
        "paints": [(p.colour, p.name) for p in art.paints],
        "page": (art.width, art.height, art.sized, art.tolerance),
        "notes": [(n.code, n.what, n.reason, n.level) for n in art.notes],
        "colours": [(c.colour, c.names, c.painted is c.seen) for c in made.colours],
        "roundness": made.roundness,
        "lengths": [len(w) for w in written],
    }
    return json.dumps(head).encode() + b"\n" + b"".join(written)


def from_bytes(data: bytes) -> Separated:
    """What `as_bytes` kept."""
    end = data.index(b"\n")
    head = json.loads(data[:end])
    ends = (np.cumsum([0, *head["lengths"]]) + end + 1).tolist()
    shapes = shapely.from_wkb(np.array([data[a:b] for a, b in pairwise(ends)], dtype=object))
    n, m = len(head["paints"]), len(head["colours"])
    beneath = iter(shapes[n + m :])
    paints = tuple(Paint(g, c, name) for g, (c, name) in zip(shapes[:n], head["paints"], strict=True))
    width, height, sized, tolerance = head["page"]
    notes = tuple(Note(*note) for note in head["notes"])
    colours = tuple(
        ColourRegion(c, seen, seen if alike else next(beneath), tuple(names))
        for (c, names, alike), seen in zip(head["colours"], shapes[n : n + m], strict=True)
    )
    return Separated(Artwork(paints, width, height, sized, notes, tolerance), colours, head["roundness"])
