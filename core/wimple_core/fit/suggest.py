"""Where a drawing goes when it is first brought in: as large as is free on the side that is seen."""

from __future__ import annotations

import math

from ..job.document import Placement
from ..measure.zones import FreeArea

ROOM = 0.9
"""A margin is left all round."""


def first_placement(free: FreeArea, closed: bool, width: float, height: float) -> Placement:
    """A drawing of that natural size (mm), no larger than it is and no larger than the first free face takes.

    `closed` tells that the free area goes round a body, so that its places are angles.
    """
    face = free.faces[0] if free.faces else None
    if face is None:
        wide, tall, up = free.right - free.left, free.high - free.low, (free.low + free.high) / 2
        wide, centre = (math.inf, 0.0) if closed else (wide, (free.left + free.right) / 2)
    else:
        wide, tall, up, centre = face.width, face.height, (face.box[1] + face.box[3]) / 2, face.centre
    fits = min(width, ROOM * wide, ROOM * tall * width / height if height > 0 else math.inf)
    size = max(1.0, math.floor(10 * fits) / 10)
    if closed:
        return Placement(width_mm=size, up_mm=round(up, 2), centre_deg=round(math.degrees(centre), 2))
    return Placement(width_mm=size, up_mm=round(up, 2), across_mm=round(centre, 2))
