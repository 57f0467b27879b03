"""A disc that lies inside a lid or jar, by the inside diameter and its clearance."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ...errors import BadReading
from ...figures import LengthStyle, carried, format_length
from ...job.blank import BlankBase
from ...job.panels import InsertBlank, RoundHole
from ...verdict import Verdict
from ..consequences import Consequence
from ..drawing import DimensionLine, Sketch, Stroke
from ..flat_bodies import Panel
from ..measured import Given, Measured, Readings
from ..shapes import ellipse, rounded_rectangle
from .flat import FlatKind, front_view
from .starting import read

MOST_CLEARANCE = 0.1
"""The most clearance offered, as a share of the insert's width: an insert looser than that is measured again (common
practice, no source)."""


def insert_verdicts(blank: InsertBlank, consequences: tuple[Consequence, ...]) -> list[Verdict]:
    diameter = next(c for c in consequences if c.name == "insert_diameter")
    out = []
    need = math.ceil(20 * diameter.error) / 10
    offered = need <= MOST_CLEARANCE * diameter.value
    if blank.clearance_mm < 2 * diameter.error:
        out.append(
            Verdict(
                "measure.clearance",
                "measure",
                "look",
                blank.clearance_mm,
                2 * diameter.error,
                "mm",
                "A clearance of {value} is little for a diameter that may be out by {limit}: the insert may not go in.",
                "Measure the inside again, or leave more clearance." if offered else "Measure the inside again.",
                field="clearance_mm",
                fix=need if offered else None,
            )
        )
    else:
        out.append(
            Verdict(
                "measure.clearance",
                "measure",
                "ok",
                diameter.value,
                None,
                "mm",
                "The insert, cut {value} across, goes in with room to spare.",
            )
        )
    if blank.candle:
        out.append(
            Verdict(
                "measure.candle",
                "measure",
                "look",
                1,
                0,
                "count",
                "A cover on a candle must carry “remove before lighting”.",
                "Put the words on it; it is never left on while lit.",
                field="candle",
            )
        )
    return out


def insert_from(blank: InsertBlank, readings: Readings) -> Panel:
    """The disc that lies inside: the inside diameter less the clearance on both sides, its tab added, its hole taken
    out.

    Raises BadReading where nothing is left, or where the hole leaves the disc.
    """
    inside = readings["inside"]
    d = inside.mean if blank.inside.reads == "diameter" else inside.mean / math.pi
    error = inside.error if blank.inside.reads == "diameter" else inside.error / math.pi
    r = d / 2 - blank.clearance_mm
    if r < 1:
        raise BadReading(
            f"A clearance of {carried(blank.clearance_mm)} on each side leaves nothing of {carried(d)}.",
            field="clearance_mm",
            hint=f"{carried(0.3)} to {carried(1)} is usual.",
        )
    outline = shapely.Polygon(ellipse(r, r))
    if blank.tab:
        w, h = blank.tab.width_mm, blank.tab.height_mm
        if w >= 2 * r:
            raise BadReading(
                f"A pull tab {carried(w)} wide is wider than the insert.",
                field="tab.width_mm",
                hint=f"Keep it under {carried(r)}.",
            )
        foot = math.sqrt(r * r - w * w / 4)
        end = rounded_rectangle(w, h + 2, min(w, h) / 3)
        tab = shapely.Polygon(end + (0, foot + (h + 2) / 2 - 2))
        outline = shapely.union(outline, shapely.union(tab, shapely.box(-w / 2, 0, w / 2, foot + h / 2)))
    if blank.hole:
        hole = blank.hole
        points = (
            ellipse(hole.width_mm / 2, hole.width_mm / 2)
            if isinstance(hole, RoundHole)
            else rounded_rectangle(hole.width_mm, hole.height_mm, 0)
        )
        cut = shapely.Polygon(points + (hole.across_mm, hole.up_mm))
        if not shapely.Polygon(ellipse(r, r)).buffer(-1.0).covers(cut):
            raise BadReading(
                f"The hole runs over the edge of the insert, or comes within {carried(1)} of it.",
                field="hole.width_mm",
                hint="Make it smaller or move it to the middle.",
            )
        outline = shapely.difference(outline, cut)
    left, low, right, high = outline.bounds
    moved: shapely.Polygon = shapely.transform(outline, lambda p: p - (0.0, -r))
    return Panel(right - left, high - low, error, error, moved)


def disc_of(blank: BlankBase, measured: Measured) -> tuple[float, float | None, float] | None:
    """Of a blank that is an insert the radius of its disc, mm, how high above its middle its hole reaches (None where
    it has none), and its margin; None for any other."""
    if not isinstance(blank, InsertBlank):
        return None
    diameter = measured.consequence("insert_diameter")
    assert diameter is not None
    hole = blank.hole
    tall = 0.0 if hole is None else hole.width_mm if isinstance(hole, RoundHole) else hole.height_mm
    return diameter.value / 2, None if hole is None else hole.up_mm + tall / 2, blank.margin_mm


class Insert(FlatKind[InsertBlank]):
    """An insert: a disc with its tab and hole."""

    blank = InsertBlank
    starts = {
        "insert": {"kind": "insert", "name": "Lid insert", "inside": read("diameter", "calliper", 69.85), "tab": {}}
    }

    def body(self, blank: InsertBlank, readings: Readings, given: Given) -> Panel:
        return insert_from(blank, readings)

    def own_figures(self, blank: InsertBlank, body: Panel, readings: Readings) -> dict[str, float]:
        across = readings["inside"].mean / (1 if blank.inside.reads == "diameter" else math.pi)
        return {"insert_diameter": across - 2 * blank.clearance_mm}

    def own_verdicts(
        self, blank: InsertBlank, body: Panel, readings: Readings, consequences: tuple[Consequence, ...]
    ) -> list[Verdict]:
        return insert_verdicts(blank, consequences)

    def sketch(self, blank: InsertBlank, measured: Measured, style: LengthStyle) -> Sketch:
        m, body = measured, measured.body
        assert isinstance(body, Panel)
        high = body.outline.bounds[3]
        strokes: list[Stroke] = []
        dims: list[DimensionLine] = []

        def say(mm: float) -> str:
            return format_length(mm, style)

        diameter = m.consequence("insert_diameter")
        r = (diameter.value if diameter else body.width) / 2
        dims.append(
            DimensionLine(
                "inside",
                (-r - blank.clearance_mm, 0.0),
                (r + blank.clearance_mm, 0.0),
                f"inside {say(2 * r + 2 * blank.clearance_mm)} · cut {say(2 * r)}",
                (0, -1),
                1.0,
            )
        )
        ring = np.column_stack([np.cos(np.linspace(0, 2 * math.pi, 181)), np.sin(np.linspace(0, 2 * math.pi, 181))]) * (
            r + blank.clearance_mm
        ) + (0, r)
        strokes.append(Stroke("fine", (ring,), False))
        if blank.tab:
            t = blank.tab
            dims.append(
                DimensionLine(
                    "tab.height_mm",
                    (t.width_mm / 2, 2 * r),
                    (t.width_mm / 2, high),
                    f"tab {say(t.width_mm)} × {say(t.height_mm)}",
                    leader="right",
                )
            )
        if blank.hole:
            h = blank.hole
            text = f"hole {say(h.width_mm)}" + (f" × {say(h.height_mm)}" if h.form == "slot" else "")
            dims.append(
                DimensionLine(
                    "hole.width_mm", (h.across_mm + h.width_mm / 2, r + h.up_mm), (0, 0), text, leader="right"
                )
            )
        return front_view(m, body, strokes, dims)
