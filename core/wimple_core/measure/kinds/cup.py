"""A straight or tapered cup, measured between a lower and an upper line round it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from ...errors import BadReading
from ...figures import LengthStyle, carried
from ...job.tables import SPREAD_OF_ONE_READING
from ...job.turned import CupBlank
from ...verdict import Verdict
from ..bodies import RoundBody
from ..body import Frustum
from ..capacity import level_volume_ml
from ..drawing import Sketch
from ..measured import Measured, Readings, TrialFound
from ..readings import Reading
from ..turned import radius_from, slant_from
from .cup_view import cup_sketch
from .starting import read
from .turned import ROUND_WRAPS, TurnedKind, seam_verdict

STEEP_DEG = 30.0
"""Walls that lean more are rare on cups (common practice, no source)."""


def frustum_from(blank: CupBlank, readings: Readings) -> Frustum:
    """The measured wall of a cup. Raises BadReading where no wall can have those readings.

    After a trial fit `C_true = C_template + g` at each edge, the gap g by the ruler's own spread; the side stays as
    read.
    """
    if blank.trials:
        n = len(blank.trials) - 1
        radii = []
        for edge in ("top_mm", "bottom_mm"):
            r = readings[f"trials.{n}.{edge}"]
            template = getattr(blank.trials[-1], f"template_{edge}")
            if template + r.mean <= 0:
                raise BadReading(
                    f"An overlap of {carried(-r.mean)} leaves nothing of a template of {carried(template)}.",
                    field=f"trials.{n}.{edge}",
                    hint="Type the gap; an overlap is negative and a few mm at most.",
                )
            radii.append(((template + r.mean) / (2 * math.pi), r.error / (2 * math.pi)))
        (r1, e1), (r0, e0) = radii
    else:
        (r1, e1), (r0, e0) = _ends(blank, readings, 1.0)
        slant, _ = slant_from(blank.side, readings["side"], r1 - r0, math.hypot(e0, e1), "side")
        (r1, e1), (r0, e0) = _ends(blank, readings, Frustum(r0, r1, slant).cosine)
    slant, error = slant_from(blank.side, readings["side"], r1 - r0, math.hypot(e0, e1), "side")
    return Frustum(r0, r1, slant, e0, e1, error)


def _ends(blank: CupBlank, readings: Readings, cosine: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """Upper and lower radius of a cup whose wall leans so that the tape stands out by that share of its thickness."""
    tau = blank.tape_thickness_mm * cosine
    return (
        radius_from(blank.upper, readings["upper"], tau, "upper"),
        radius_from(blank.lower, readings["lower"], tau, "lower"),
    )


class Cup(TurnedKind[CupBlank]):
    """A cup: a frustum."""

    blank = CupBlank
    one_side = True
    levelled = True
    wraps = ROUND_WRAPS
    starts = {
        "cup": {
            "kind": "cup",
            "name": "Tapered cup",
            "upper": read("circumference", "tape", 260.0),
            "lower": read("circumference", "tape", 210.0),
            "side": read("slant", "ruler", 100.0),
        },
        "mug": {
            "kind": "cup",
            "name": "Mug with handle",
            "upper": read("diameter", "calliper", 82.0),
            "lower": read("diameter", "calliper", 82.0),
            "side": read("upright", "ruler", 95.0),
            "handle": {"width_mm": 42.0, "free_width": read("width", "tape", 212.0)},
            "wall_mm": 4.0,
        },
    }

    def readings(self, blank: CupBlank) -> dict[str, Reading]:
        out = super().readings(blank)
        if blank.trials:
            n, trial = len(blank.trials) - 1, blank.trials[-1]
            for edge, gap in (("top_mm", trial.top_mm), ("bottom_mm", trial.bottom_mm)):
                spread = SPREAD_OF_ONE_READING["ruler"]
                out[f"trials.{n}.{edge}"] = Reading(gap, None, spread, 1, None, "gap", "ruler")
        return out

    def body(self, blank: CupBlank, readings: Readings) -> Frustum:
        return frustum_from(blank, readings)

    def rings(self, blank: CupBlank) -> list[str]:
        return ["lower", "upper"]

    def tried(self, blank: CupBlank) -> bool:
        return bool(blank.trials)

    def side_field(self, blank: CupBlank) -> str:
        return "side.readings.0"

    def step_at(self, blank: CupBlank, readings: Readings, path: str) -> float:
        upper, lower = (
            radius_from(d, readings[p], blank.tape_thickness_mm, p)[0]
            for d, p in ((blank.upper, "upper"), (blank.lower, "lower"))
        )
        return upper - lower

    def ring_figures(self, body: RoundBody) -> dict[str, float]:
        assert isinstance(body, Frustum)
        return {
            "seam_top": 2 * math.pi * body.radius_upper,
            "seam_bottom": 2 * math.pi * body.radius_lower,
            "side": body.slant,
        }

    def drift_names(self, body: RoundBody) -> list[str]:
        return ["edge_drift"]

    def seam_verdicts(self, blank: CupBlank, readings: Readings, errors: Mapping[str, float]) -> list[Verdict]:
        out = []
        for name, where, edge in (("upper", "top", "top_mm"), ("lower", "bottom", "bottom_mm")):
            path = f"trials.{len(blank.trials) - 1}.{edge}" if blank.trials else name
            error = errors[f"seam_{where}"]
            out.append(seam_verdict(where, f"measure.seam_{where}", path, readings[path], error, bool(blank.trials)))
        return out

    def trials(self, blank: CupBlank) -> list[TrialFound]:
        return [
            TrialFound(
                t.template_top_mm,
                t.template_top_mm + t.top_mm,
                t.template_bottom_mm,
                t.template_bottom_mm + t.bottom_mm,
            )
            for t in blank.trials
        ]

    def offers(self, blank: CupBlank, measured: Measured) -> dict[str, Any]:
        top, bottom = measured.consequence("seam_top"), measured.consequence("seam_bottom")
        assert top and bottom
        gapes = {"top_mm": 0, "bottom_mm": 0, "template_top_mm": top.value, "template_bottom_mm": bottom.value}
        return {**super().offers(blank, measured), "trials.next": gapes}

    def water_to(self, measured: Measured, height: float) -> float:
        blank, body = measured.blank, measured.body
        assert isinstance(blank, CupBlank) and isinstance(body, Frustum)
        return level_volume_ml(body, height, blank.wall_mm, blank.foot_mm) if blank.wall == "single" else 0.0

    def photo_places(self, blank: CupBlank, body: RoundBody) -> list[tuple[str, float, float, float]]:
        assert isinstance(body, Frustum)
        upward = body.upright / body.slant
        foot = blank.foot_mm
        return [
            ("lower", foot * upward, body.radius_lower, body.error_lower),
            ("upper", (foot + body.slant) * upward, body.radius_upper, body.error_upper),
        ]

    def own_verdicts(self, blank: CupBlank, body: RoundBody) -> list[Verdict]:
        assert isinstance(body, Frustum)
        steep = math.degrees(math.asin(min(1.0, abs(body.k))))
        if steep <= STEEP_DEG:
            return []
        return [
            Verdict(
                "measure.taper",
                "measure",
                "look",
                steep,
                STEEP_DEG,
                "deg",
                "The wall leans {value} from upright, more than cups do (limit {limit}).",
                "Check that round and across were not mixed up between top and bottom.",
                field="upper.readings.0",
            )
        ]

    def sketch(self, blank: CupBlank, measured: Measured, style: LengthStyle) -> Sketch:
        assert isinstance(measured.body, Frustum)
        return cup_sketch(blank, measured, measured.body, style)
