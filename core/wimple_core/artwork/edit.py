"""Piece work: what is done to the pieces of a drawing, each found by its name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ..errors import BadDrawing
from .artwork import ColourRegion, Paint, separate
from .pieces import names_after


def leave_out(
    paints: tuple[Paint, ...], colours: tuple[ColourRegion, ...], names: Sequence[str], tolerance: float
) -> tuple[tuple[Paint, ...], tuple[ColourRegion, ...]]:
    """The paints without those that painted the pieces of those names, and what is then seen, its pieces called as
    before. Raises BadDrawing for a piece there is none of, and where nothing would be left."""
    pieces = {name: (c.colour, part) for c in colours for part, name in zip(*c.pieces, strict=True)}
    for name in names:
        if name not in pieces:
            raise BadDrawing(
                f"There is no piece “{name}” in this drawing.",
                field="edits",
                hint="It may have gone with a change of the drawing: take the edit out, or choose another piece.",
            )
    left: list[Paint] = []
    for paint in paints:
        parts = shapely.get_parts(paint.region)
        gone = np.zeros(len(parts), dtype=bool)
        for name in names:
            colour, piece = pieces[name]
            if colour == paint.colour and name.partition(".")[0] == paint.name:
                gone |= shapely.intersects(parts, shapely.point_on_surface(piece))
        if not gone.any():
            left.append(paint)
        elif not gone.all():
            left.append(replace(paint, region=shapely.multipolygons(parts[~gone])))
    if not left:
        raise BadDrawing("Every piece of this drawing is left out.", field="edits", hint="Put one back.")
    before = {c.colour: c.pieces for c in colours}
    after = tuple(
        replace(c, names=names_after(c.pieces[0], *before[c.colour])) if c.colour in before else c
        for c in separate(tuple(left), tolerance)
    )
    return tuple(left), after
