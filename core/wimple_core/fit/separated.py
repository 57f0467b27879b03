"""A drawing made ready to be placed: read, separated, edited."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely

from ..artwork import Artwork, ColourRegion, Note, Paint, separate
from ..artwork.edits import Stack, apply
from ..artwork.edits.stack import Piece
from ..job.edits import Edit
from .counted import Count, count_pieces
from .letters import closed_counters, thinnest_stroke


@dataclass(frozen=True, eq=False)
class Separated:
    """A drawing read and separated, with the figures placing it needs."""

    artwork: Artwork
    colours: tuple[ColourRegion, ...]
    roundness: float
    """Area-weighted 4 pi A / P^2 of its pieces: 1 for discs."""
    whole: Separated | None = None
    """As it was before its pieces were worked on; None where none were."""
    gone: tuple[Piece, ...] = ()
    """The pieces that were left out."""
    edits: tuple[Edit, ...] = ()
    """What was done to its pieces."""
    groups: tuple[frozenset[str], ...] = ()
    """Names of pieces that go as one."""

    @cached_property
    def closed(self) -> tuple[str, ...]:
        """The letters whose counters have closed."""
        return closed_counters(self.original.artwork.paints, self.colours, self.edits)

    def thinnest(self, below: float) -> float:
        """How wide its thinnest stroke is, mm, if less than `below`: no place of it is thinner, but for the tips of
        corners; else infinite."""
        if below not in self._thinnest:
            self._thinnest[below] = thinnest_stroke([c.seen for c in self.colours], below)
        return self._thinnest[below]

    @cached_property
    def _thinnest(self) -> dict[float, float]:
        return {}

    @cached_property
    def counted(self) -> Count:
        """Its pieces counted against its colours."""
        return count_pieces(self.original.colours, self.colours, {p.name for p in self.gone}, self.edits)

    @property
    def original(self) -> Separated:
        """As it was drawn."""
        return self.whole or self

    @property
    def frame(self) -> tuple[float, float, float, float]:
        """Left, low, right, high, mm, of the drawing as it was drawn: what its width and its middle are counted of,
        whatever was done to its pieces."""
        return self.original.artwork.bounds


def prepare(artwork: Artwork) -> Separated:
    """Separate a drawing into its colours and note how round its pieces are."""
    colours = separate(artwork.paints, artwork.tolerance)
    pieces = np.concatenate([shapely.get_parts(c.painted) for c in colours])
    hulls = shapely.convex_hull(pieces)
    area, around = shapely.area(hulls), shapely.length(hulls)
    return Separated(artwork, colours, float(np.average(4 * math.pi * area / around**2, weights=area)))


def edited(before: Separated, edit: Edit, number: int, scale: float) -> Separated:
    """A drawing with one edit more, the `number`th of its element; `scale` is mm on the blank for one of the drawing's.
    Raises BadDrawing where nothing would be left."""
    art = before.artwork
    done = apply(Stack(art.paints, before.colours, art.tolerance, before.groups), edit, number, scale)
    return replace(
        before,
        artwork=replace(art, paints=done.stack.paints, notes=(*art.notes, *done.notes)),
        colours=done.stack.colours,
        whole=before.original,
        gone=(*before.gone, *done.gone),
        edits=(*before.edits, edit),
        groups=done.stack.groups,
    )


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
        "page": (art.width, art.height, art.sized, art.tolerance, art.traced, art.box),
        "notes": [(n.code, n.what, n.reason, n.level, n.field, n.remedy) for n in art.notes],
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
    width, height, sized, tolerance, traced, box = head["page"]
    notes = tuple(Note(*note) for note in head["notes"])
    colours = tuple(
        ColourRegion(c, seen, seen if alike else next(beneath), tuple(names))
        for (c, names, alike), seen in zip(head["colours"], shapes[n : n + m], strict=True)
    )
    art = Artwork(paints, width, height, sized, notes, tolerance, traced=traced, box=tuple(box) if box else None)
    return Separated(art, colours, head["roundness"])
