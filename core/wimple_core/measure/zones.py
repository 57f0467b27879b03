"""Keep-out zones and the free area they leave, in the surface's own coordinates."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import BadReading
from ..job.document import CupBlank, PanelBlank
from .body import Frustum, Panel


@dataclass(frozen=True)
class FreeArea:
    """What the zones leave of a surface.

    On a frustum `left`, `right` are angles from the front (rad) and `low`, `high` distances along the side (mm);
    on a panel all four are mm. `handle` is the angle of the handle's middle (None without one).
    """

    left: float
    right: float
    low: float
    high: float
    handle: float | None = None

    @property
    def all_round(self) -> bool:
        return self.handle is None


def handle_angle(blank: CupBlank) -> float:
    """Where the handle is, from the front (rad): the front is the side that is seen.

    A right-handed owner's handle is on their right: others, facing them, see it on the left of the decal, and the
    holder sees it on the right.
    """
    right_of_front = (blank.hand == "right") == (blank.faces == "holder")
    return math.pi / 2 if right_of_front else -math.pi / 2


def free_area_of_cup(blank: CupBlank, frustum: Frustum) -> FreeArea:
    """The free area between lip band, base band and handle. Raises BadReading where nothing is left."""
    low = max(0.0, blank.base_band_mm - blank.foot_mm)
    high = frustum.slant - max(0.0, blank.lip_band_mm - blank.rim_mm)
    if high - low < 1.0:
        raise BadReading(
            f"A lip band of {blank.lip_band_mm:g} mm and a base band of {blank.base_band_mm:g} mm leave nothing of the "
            f"{frustum.slant:.1f} mm between the lines.",
            field="blank.lip_band_mm" if blank.lip_band_mm >= blank.base_band_mm else "blank.base_band_mm",
            hint=f"Together they must stay under {frustum.slant + blank.rim_mm + blank.foot_mm - 1:.1f} mm.",
        )
    if blank.handle is None:
        return FreeArea(-math.pi, math.pi, low, high)
    narrow = min(frustum.radius_at(low), frustum.radius_at(high))
    half = blank.handle.width_mm / 2 / narrow
    if half >= math.pi - 0.05:
        raise BadReading(
            f"A handle zone of {blank.handle.width_mm:g} mm goes all round a cup of {2 * math.pi * narrow:.1f} mm.",
            field="blank.handle.width_mm",
            hint="Measure across the handle where it meets the wall, with a finger's clearance.",
        )
    at = handle_angle(blank)
    if at > 0:
        return FreeArea(at + half - 2 * math.pi, at - half, low, high, at)
    return FreeArea(at + half, at - half + 2 * math.pi, low, high, at)


def free_area_of_panel(blank: PanelBlank, panel: Panel) -> FreeArea:
    """The panel less its margin; left and right from its middle. Raises BadReading where nothing is left."""
    m = blank.margin_mm
    if 2 * m > min(panel.width, panel.height) - 1.0:
        raise BadReading(f"A margin of {m:g} mm leaves nothing of a panel of {panel.width:g} × {panel.height:g} mm.",
                         field="blank.margin_mm",
                         hint=f"It must stay under {(min(panel.width, panel.height) - 1) / 2:.1f} mm.")  # fmt: skip
    return FreeArea(m - panel.width / 2, panel.width / 2 - m, m, panel.height - m)
