"""See-through paint: film is not, so a paint that is becomes the colours it gives on what lies beneath, or none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..overlay import difference, intersection
from .artwork import Paint, separate

SeeThrough = Literal["shadows_out", "out", "blended", "full"]
"""What becomes of see-through paint: shadows are left out and the rest is cut at full strength; all of it is left out;
it becomes the colours it gives on what lies beneath; all of it is cut at full strength."""
FAINT = 0.35
"""What lets more of its ground through than it covers of it twice over is a shadow or a sheen, and no shape of its own
(common practice, no source)."""
SEE_THROUGH = 0.999
"""What covers more is not see-through."""
PAPER = "#ffffff"
"""On bare ground it gives what it gives on white paper: which blank the drawing will lie on is not known to it."""


def taken_as(colour: str, opacity: float, how: SeeThrough) -> str | None:
    """A colour of so much opacity as it is taken down: `#rrggbb`, with its opacity behind it (`#rrggbbaa`, CSS Color 4)
    where it is to be blended; None where it is left out."""
    if opacity >= SEE_THROUGH or how == "full":
        return colour
    if how == "out" or (how == "shadows_out" and opacity < FAINT):
        return None
    return colour if how == "shadows_out" else f"{colour}{round(255 * opacity):02x}"


def over(upper: str, opacity: float, lower: str) -> str:
    """The colour that one gives over another: `opacity * upper + (1 - opacity) * lower` in sRGB as drawn (CSS
    Compositing 1, simple alpha compositing)."""
    a, b = (np.array([int(c[i : i + 2], 16) for i in (1, 3, 5)], dtype=float) for c in (upper, lower))
    red, green, blue = np.rint(opacity * a + (1 - opacity) * b).astype(int).tolist()
    return f"#{red:02x}{green:02x}{blue:02x}"


def blended(paints: Sequence[Paint], tolerance: float) -> list[Paint]:
    """Paints, the lowest first, of which those with an opacity become what they give on what is seen beneath them."""
    out: list[Paint] = []
    for paint in paints:
        if len(paint.colour) <= len(PAPER):
            out.append(paint)
            continue
        colour, opacity = paint.colour[:7], int(paint.colour[7:9], 16) / 255
        bare: BaseGeometry = paint.region
        lower = [p for p in out if shapely.intersects(p.region, paint.region)]
        for seen in separate(tuple(lower), tolerance):
            part = intersection(seen.seen, paint.region, tolerance / 1024)
            if part.area > 0:
                out.append(replace(paint, region=part, colour=over(colour, opacity, seen.colour)))
                bare = difference(bare, part)
        if bare.area > 0:
            out.append(replace(paint, region=bare, colour=over(colour, opacity, PAPER)))
    return out
