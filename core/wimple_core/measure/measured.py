"""The first stage: everything the readings say."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..job.document import Blank, CupBlank, Dimension
from ..verdict import Verdict, grade
from .body import Body, Frustum, Panel, frustum_from, panel_from
from .capacity import capacity_verdict, outside_volume_ml
from .readings import Reading, read_dimension
from .zones import FreeArea, free_area_of_cup, free_area_of_panel

SEAM_LIMIT_MM = 0.5
"""A seam that gapes or overlaps by more is seen (common practice, no source)."""
DRIFT_LIMIT_MM = 0.5
MOST_TO_ASK_FOR = 5
"""Where more readings than this were needed, the readings disagree rather than scatter."""
READABLE_HALF_ANGLE = math.pi / 3
"""Beyond 60 degrees from the front, foreshortening falls below one half."""


@dataclass(frozen=True)
class Measured:
    """A body, its readings by name, its free area and the verdicts on them."""

    body: Body
    readings: dict[str, Reading]
    free: FreeArea
    volume_ml: float | None
    verdicts: tuple[Verdict, ...]


def edge_drift(frustum: Frustum) -> float:
    """Standard error in mm of how far the edges miss each other at the seam: `(pi^2 / 2) r dk`."""
    return math.pi**2 / 2 * max(frustum.radius_lower, frustum.radius_upper) * frustum.error_k


def readable_width(frustum: Frustum, s: float) -> float:
    """Width in mm, round the cup at `s`, that is readable from the front: 60 degrees each side."""
    return 2 * READABLE_HALF_ANGLE * frustum.radius_at(s)


def _seam_verdict(name: str, dimension: Dimension, reading: Reading, radius_error: float) -> Verdict:
    error = 2 * math.pi * radius_error
    where = "top" if name == "upper" else "bottom"
    level = grade(error, SEAM_LIMIT_MM, 6 * SEAM_LIMIT_MM)
    times = max(1, math.ceil((error / SEAM_LIMIT_MM) ** 2 * reading.count) - reading.count)
    if level == "ok":
        say = f"{where.capitalize()}: readings agree, the seam is sure to ± {{value}}."
        if reading.count == 1:
            say = f"{where.capitalize()}: one reading, the seam is sure to ± {{value}}."
    remedy = f"Measure the {where} {times} more time{'s' if times > 1 else ''}."
    if reading.count > 1 and times > MOST_TO_ASK_FOR:
        remedy = f"The readings disagree: look for the one that is off, or measure the {where} anew."
    if level != "ok":
        said = "one reading" if reading.count == 1 else f"{reading.count} readings"
        say = f"{where.capitalize()}: {said}; the seam is sure to ± {{value}} only (limit {{limit}})."
    return Verdict(f"measure.seam_{where}", "measure", level, error, SEAM_LIMIT_MM, "mm", say,
                   remedy,
                   field=f"blank.{name}.readings.{reading.count}")  # fmt: skip


def _measure_cup(blank: CupBlank) -> Measured:
    frustum = frustum_from(blank)
    free = free_area_of_cup(blank, frustum)
    readings = {name: read_dimension(getattr(blank, name)) for name in ("upper", "lower", "side")}
    drift = edge_drift(frustum)
    verdicts = [
        _seam_verdict("upper", blank.upper, readings["upper"], frustum.error_upper),
        _seam_verdict("lower", blank.lower, readings["lower"], frustum.error_lower),
        Verdict("measure.edge_drift", "measure", grade(drift, DRIFT_LIMIT_MM, 6 * DRIFT_LIMIT_MM), drift, DRIFT_LIMIT_MM,
                "mm", "Edges meet level at the seam within ± {value}.",
                "Readings further apart along the side, or more of them, bring it down.",
                field="blank.side.readings.0"),
    ]  # fmt: skip
    capacity = capacity_verdict(blank, frustum)
    if capacity:
        verdicts.append(capacity)
    steep = math.degrees(math.asin(min(1.0, abs(frustum.k))))
    if steep > 30:
        verdicts.append(
            Verdict("measure.taper", "measure", "look", steep, 30.0, "deg",
                    "The wall leans {value} from upright, more than cups do (limit {limit}).",
                    "Check that round and across were not mixed up between top and bottom.",
                    field="blank.upper.readings.0")
        )  # fmt: skip
    return Measured(frustum, readings, free, outside_volume_ml(frustum, blank.rim_mm, blank.foot_mm), tuple(verdicts))


def measure(blank: Blank) -> Measured:
    """Read a blank: its body with spread, free area and verdicts. Raises BadReading for what no blank can be."""
    if isinstance(blank, CupBlank):
        return _measure_cup(blank)
    panel: Panel = panel_from(blank)
    readings = {"width": read_dimension(blank.width), "height": read_dimension(blank.height)}
    error = max(panel.error_width, panel.error_height)
    verdict = Verdict("measure.panel", "measure", grade(error, 1.0), error, 1.0, "mm",
                      "The panel's size is sure to ± {value}.", "Measure it again.", field="blank.width.readings.0")  # fmt: skip
    return Measured(panel, readings, free_area_of_panel(blank, panel), None, (verdict,))
