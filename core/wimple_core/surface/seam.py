"""The seam: how sure its ends are, whether a template can go round, and whether it runs into the handle."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..errors import BadReading
from ..figures import carried
from ..job.document import Wrap
from ..measure import Measured
from ..measure.bodies import RoundBody
from ..verdict import Verdict
from .layout import band
from .surface import RoundWall

WIDEST_OVERLAP_MM = 20.0
"""The most overlap offered against a seam that is not sure: more film than that on itself stands off the wall (common
practice, no source). Ends less sure than that are measured again."""


def ends_verdict(wrap: Wrap, sure: float, narrow: float) -> Verdict:
    """How sure the ends of a whole wrap meet: `sure` mm, on a wall at least `narrow` mm in radius."""
    overlap = wrap.overlap_mm
    if overlap < 0:
        return Verdict(
            "unwrap.seam",
            "unwrap",
            "ok",
            -overlap,
            None,
            "mm",
            "A gap of {value} is left between the ends.",
            field="wrap.overlap_mm",
        )
    need = math.ceil(4 * sure) / 2
    offered = need <= min(WIDEST_OVERLAP_MM, narrow)
    return Verdict(
        "unwrap.seam",
        "unwrap",
        "look" if (sure > 0.5 and not overlap) or 0 < overlap < 2 * sure else "ok",
        sure,
        0.5,
        "mm",
        (
            "The ends overlap by {overlap}, and are sure to ± {value}."
            if overlap
            else "The ends meet edge to edge, and are sure to ± {value}."
        ),
        (
            "Let them overlap by {need}, or measure again, so that no gap can show."
            if offered
            else "Measure again: no overlap hides that."
        ),
        {"overlap": (overlap, "mm"), "need": (need, "mm")},
        field="wrap.overlap_mm",
        fix=need if offered else None,
    )


def handle_verdicts(wrap: Wrap, measured: Measured) -> list[Verdict]:
    """A full wrap and a handle do not go together."""
    if wrap.extent != "full" or measured.free.all_round:
        return []
    return [
        Verdict(
            "unwrap.handle",
            "unwrap",
            "stop",
            1,
            0,
            "count",
            "A wrap all round runs into the handle.",
            "Unwrap the free area beside it instead.",
            field="wrap.extent",
            fix="free",
        )
    ]


NARROWEST_MM = 0.5
"""A wall of a radius less than this has no template."""


def checked_band(wall: RoundWall, left: float, right: float, low: float, high: float, wrap: Wrap) -> shapely.Polygon:
    """The outline of a piece of wall. Raises BadReading where it would reach beyond the wall's point or run over
    itself."""
    overlap = wrap.overlap_mm if wrap.extent == "full" else 0.0
    narrow = min(wall.scale_at(low), wall.scale_at(high))
    if narrow < NARROWEST_MM or abs(overlap) > narrow:
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
