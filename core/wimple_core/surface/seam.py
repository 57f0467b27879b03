"""The seam of a body in pieces or on a cone: how sure it is, and whether its template can be."""

from __future__ import annotations

import numpy as np
import shapely

from ..errors import BadReading
from ..figures import carried
from ..job.document import Wrap
from ..measure import Measured
from ..measure.body import RoundBody
from ..verdict import Verdict
from .surface import RoundWall
from .template import band, ends_verdict, handle_verdicts


def checked_band(wall: RoundWall, left: float, right: float, low: float, high: float, wrap: Wrap) -> shapely.Polygon:
    """The outline of a piece of wall. Raises BadReading where it would reach beyond the wall's point or run over
    itself."""
    overlap = wrap.overlap_mm if wrap.extent == "full" else 0.0
    narrow = min(wall.scale_at(low), wall.scale_at(high))
    if narrow < 0.5 or abs(overlap) > narrow:
        raise BadReading(
            f"The wall narrows to {carried(max(2 * narrow, 0))} across: no template with {carried(overlap)} of overlap"
            " goes round that.",
            field="wrap.overlap_mm" if narrow >= 0.5 else "blank.lip_band_mm",
            hint="Keep the narrow end out by its band, or take less overlap.",
        )
    outline = band(wall, left, right, low, high, overlap)
    if not outline.is_valid:
        raise BadReading(
            "The wall leans so far that its template runs over itself.",
            field="wrap.overlap_mm",
            hint="Take less overlap, or check that round and across were not mixed up.",
        )
    return outline


def seam_verdicts(wrap: Wrap, measured: Measured) -> list[Verdict]:
    """How sure the seam of a body in pieces or on a cone is, and whether it runs into the handle."""
    if wrap.extent != "full":
        return handle_verdicts(wrap, measured)
    free, body = measured.free, measured.body
    assert isinstance(body, RoundBody)
    sure = max((c.error for c in measured.consequences if c.name.startswith("seam")), default=0.0)
    narrow = min(body.radius_at(float(s)) for s in np.linspace(free.low, free.high, 33))
    return [ends_verdict(wrap, sure, narrow), *handle_verdicts(wrap, measured)]
