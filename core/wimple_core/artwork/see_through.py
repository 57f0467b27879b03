"""See-through paint: film is not, so a paint that is becomes the colours it gives on what lies beneath, or none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..arrangement import Arrangement, arrange
from ..arrays import Array
from .artwork import Paint

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


def blended(paints: Sequence[Paint], tolerance: float) -> list[Paint]:
    """Paints, the lowest first, of which those with an opacity become the colours they give on what is seen beneath
    them: `a * upper + (1 - a) * lower` in sRGB as drawn (CSS Compositing 1, simple alpha compositing), in each face of
    the arrangement of all their edges."""
    if all(len(p.colour) == len(PAPER) for p in paints):
        return list(paints)
    found = arrange([p.region for p in paints], tolerance / 1024)
    faces, ends = _faces_of_each(found, len(paints))
    seen = np.tile(_numbers(PAPER), (len(found.faces), 1))
    out: list[Paint] = []
    for paint, first, end in zip(paints, ends, ends[1:], strict=False):
        mine, colour = faces[first:end], _numbers(paint.colour[:7])
        opacity = int(paint.colour[7:] or "ff", 16) / 255
        seen[mine] = opacity * colour + (1 - opacity) * seen[mine]
        if opacity == 1:
            out.append(paint)
            continue
        given, which = np.unique(np.rint(seen[mine]).astype(int), axis=0, return_inverse=True)
        for n, (red, green, blue) in enumerate(given.tolist()):
            chosen = np.zeros(len(found.faces), dtype=bool)
            chosen[mine[which.ravel() == n]] = True
            out.append(replace(paint, region=found.joined(chosen), colour=f"#{red:02x}{green:02x}{blue:02x}"))
    return out


def _numbers(colour: str) -> Array:
    """Red, green and blue (3,) of `#rrggbb`, 0 to 255."""
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], dtype=np.float64)


def _faces_of_each(found: Arrangement, count: int) -> tuple[NDArray[np.int64], list[int]]:
    """The faces (n,) of each of so many regions, one region after the other, and where each begins (count + 1)."""
    order = np.argsort(found.region, kind="stable")
    return found.face[order], np.searchsorted(found.region[order], np.arange(count + 1)).tolist()
