"""A panel bent both ways: rises over a flat base, read on a grid by straight edge and ruler."""

from __future__ import annotations

import numpy as np
import shapely
from scipy.interpolate import RectBivariateSpline

from ...arrays import Array
from ...errors import BadReading
from ...figures import LengthStyle, carried, format_length
from ...job.panels import RisePanelBlank
from ...job.tables import SPREAD_OF_ONE_READING
from ...verdict import Verdict
from ..consequences import propagate
from ..drawing import DimensionLine, Mark, Sketch, Stroke, box_ring, rings_of, zone_strokes
from ..flat_bodies import RiseSurface
from ..free_area import free_area_of_rises
from ..measured import Given, Measured, Readings
from ..readings import Reading, summarise
from ..rises import area_rule, bends_rule, evaluate
from .checks import flat_verdicts, vehicle_verdicts
from .kind import Kind


def grid_of(blank: RisePanelBlank) -> None:
    """Check that the grid is whole and grows. Raises BadReading naming the place that is missing."""
    for name, axis, noun in (("across_mm", blank.across_mm, "columns"), ("up_mm", blank.up_mm, "rows")):
        for i in range(1, len(axis)):
            if axis[i] <= axis[i - 1] + 1e-6:
                raise BadReading(
                    f"The {noun} must grow: {carried(axis[i])} follows {carried(axis[i - 1])}.",
                    field=f"{name}.{i}",
                    hint="Give their places from the left or lower edge, in order.",
                )
    if len(blank.rises) != len(blank.up_mm):
        raise BadReading(
            f"There are {len(blank.rises)} rows of rises for {len(blank.up_mm)} places up.",
            field="rises",
            hint="One row of rises belongs to each place up.",
        )
    for j, row in enumerate(blank.rises):
        if len(row) != len(blank.across_mm):
            raise BadReading(
                f"Row {j + 1} has {len(row)} rises for {len(blank.across_mm)} places across.",
                field=f"rises.{j}",
                hint="One rise belongs to each place across.",
            )
        for i, cell in enumerate(row):
            if not cell:
                raise BadReading(
                    f"The rise at {carried(blank.across_mm[i])} across and {carried(blank.up_mm[j])} up is missing.",
                    field=f"rises.{j}.{i}.0",
                    hint="Read it too, or leave out the whole row or column.",
                )


def surface_from(blank: RisePanelBlank, readings: Readings) -> RiseSurface:
    """The grid as read, rises positive toward the eye."""
    grid_of(blank)
    sign = 1.0 if blank.reads == "rise" else -1.0
    shape = (len(blank.up_mm), len(blank.across_mm))
    rises, errors = np.empty(shape), np.empty(shape)
    for j in range(shape[0]):
        for i in range(shape[1]):
            r = readings[f"rises.{j}.{i}"]
            rises[j, i], errors[j, i] = sign * r.mean, r.error
    x, y = np.array(blank.across_mm), np.array(blank.up_mm)
    return RiseSurface(x, y, rises, errors, rises - _fairest(x, y, rises, errors))


def _fairest(x: Array, y: Array, rises: Array, errors: Array) -> Array:
    """What a smoothing spline says at each place: the one of fewest bends whose squared misses sum to what the
    errors foretell
    (Reinsch's condition, as in FITPACK)."""
    degree = (min(3, len(y) - 1), min(3, len(x) - 1))
    spline = RectBivariateSpline(y, x, rises, kx=degree[0], ky=degree[1], s=float((errors**2).sum()))
    return np.asarray(spline(y, x), dtype=np.float64)


def uneven_rises(body: RiseSurface) -> list[Verdict]:
    """A rise that stands out from its neighbours: the four round it foretell it, on a fair surface, to a part of
    their bend."""
    z = body.rises
    out = []
    worst, at, limit = 0.0, (0, 0), 1.0
    for j in range(z.shape[0]):
        for i in range(z.shape[1]):
            told = []
            if 0 < i < z.shape[1] - 1:
                w = (body.x[i] - body.x[i - 1]) / (body.x[i + 1] - body.x[i - 1])
                told.append(z[j, i] - ((1 - w) * z[j, i - 1] + w * z[j, i + 1]))
            if 0 < j < z.shape[0] - 1:
                w = (body.y[j] - body.y[j - 1]) / (body.y[j + 1] - body.y[j - 1])
                told.append(z[j, i] - ((1 - w) * z[j - 1, i] + w * z[j + 1, i]))
            if len(told) == 2 and abs(min(told, key=abs)) > worst and told[0] * told[1] > 0:
                worst, at = abs(min(told, key=abs)), (j, i)
    inner = [
        abs(z[j, i] - (z[j, i - 1] + z[j, i + 1]) / 2) for j in range(z.shape[0]) for i in range(1, z.shape[1] - 1)
    ]
    limit = max(4 * float(np.median(inner)), 6 * float(np.median(body.errors)))
    if worst > limit:
        j, i = at
        out.append(
            Verdict(
                "measure.rise_apart",
                "measure",
                "look",
                worst,
                limit,
                "mm",
                f"The rise in row {j + 1}, column {i + 1} stands {{value}} off what the rises beside it foretell.",
                "Read it again.",
                field=f"rises.{j}.{i}.0",
            )
        )
    return out


def rises_sketch(blank: RisePanelBlank, m: Measured, body: RiseSurface, style: LengthStyle) -> Sketch:
    w, h = body.width, body.height
    x = body.x - body.x[0] - w / 2
    y = body.y - body.y[0]
    strokes = zone_strokes(m.free)
    if blank.margin_mm:
        strokes.append(Stroke("zone", rings_of(shapely.difference(shapely.box(-w / 2, 0, w / 2, h), m.free.region))))
    strokes.append(Stroke("body", (box_ring((-w / 2, 0.0, w / 2, h)),)))
    strokes.append(Stroke("free", (box_ring(m.free.parts[0].box),)))
    strokes.append(
        Stroke(
            "fine",
            tuple(np.array([[a, 0.0], [a, h]]) for a in x) + tuple(np.array([[-w / 2, b], [w / 2, b]]) for b in y),
            False,
        )
    )
    fine = np.linspace(body.x[0], body.x[-1], 90)
    z = evaluate(body, fine, body.y)
    reach = float(np.ptp(body.rises)) or 1.0
    times = max(1.0, round(0.55 * float(np.diff(y).min()) / reach))
    strokes.append(
        Stroke(
            "section",
            tuple(np.column_stack([fine - body.x[0] - w / 2, y[j] + times * (z[j] - z.min())]) for j in range(len(y))),
            False,
        )
    )
    marks = []
    sign = 1 if blank.reads == "rise" else -1
    for j in range(len(y)):
        for i in range(len(x)):
            off = sign * float(body.residuals[j, i])
            figure = format_length(sign * float(body.rises[j, i]), style).removesuffix(" mm").removesuffix(" in")
            said = (
                f" ({'+' if off > 0 else '−'}{format_length(abs(off), style).removesuffix(' mm').removesuffix(' in')})"
                if abs(off) > 0.1
                else ""
            )
            marks.append(Mark(f"rises.{j}.{i}", (float(x[i]), float(y[j])), figure + said))
    dims = (
        DimensionLine("across_mm", (-w / 2, 0.0), (w / 2, 0.0), format_length(w, style), (0, -1), 1.0),
        DimensionLine("up_mm", (w / 2, 0.0), (w / 2, h), format_length(h, style), (1, 0), 1.0),
    )
    note = "in brackets: off the fairest surface" if float(np.abs(body.residuals).max()) > 0.1 else ""
    if times > 1:
        note = f"rises drawn {times:.0f} times" + (f"; {note}" if note else "")
    return Sketch(
        "Front view with its rises",
        tuple(strokes),
        dims,
        tuple(marks),
        note,
        (-w / 2, 0.0, w / 2, h + times * reach * 0.3),
    )


class RisePanel(Kind[RisePanelBlank]):
    """A panel curved both ways: a fair surface through its rises."""

    blank = RisePanelBlank
    wraps = ("patch.line", "relief")
    reliefs = ("none", "slits")
    starts = {
        "rise_panel": {
            "kind": "rise_panel",
            "name": "Panel curved both ways",
            "across_mm": [0.0, 300.0, 600.0],
            "up_mm": [0.0, 200.0, 400.0],
            "rises": [[[0.0], [8.0], [0.0]], [[5.0], [13.0], [5.0]], [[0.0], [8.0], [0.0]]],
        }
    }

    def readings(self, blank: RisePanelBlank) -> dict[str, Reading]:
        out = super().readings(blank)
        for j, row in enumerate(blank.rises):
            for i, cell in enumerate(row):
                if cell:
                    r = summarise(cell, SPREAD_OF_ONE_READING[blank.instrument])
                    out[f"rises.{j}.{i}"] = Reading(
                        r.mean, r.deviation, r.error, r.count, r.outlier, blank.reads, blank.instrument
                    )
        return out

    def measure(self, blank: RisePanelBlank, given: Given) -> Measured:
        readings = self.readings(blank)
        body = surface_from(blank, readings)
        free = free_area_of_rises(body, blank.margin_mm, blank.zones)
        area, bends = area_rule(body, 16), bends_rule(body)
        taken = area(body.rises) - sum(p.area for p in free.parts)
        sign = 1.0 if blank.reads == "rise" else -1.0
        paths = [[f"rises.{j}.{i}" for i in range(len(body.x))] for j in range(len(body.y))]

        def figures(r: Readings) -> dict[str, float]:
            rises = sign * np.array([[r[p].mean for p in row] for row in paths])
            across, up = bends(rises)
            whole = area(rises)
            return {
                "bend_across": 1000 * across,
                "bend_up": 1000 * up,
                "area": whole,
                "free_area": whole - taken,
                "rise": float(np.ptp(rises)),
            }

        consequences = propagate(
            figures, readings, {"bend_across": "per m", "bend_up": "per m", "free_area": "mm2", "area": "mm2"}
        )
        across, up = consequences[0], consequences[1]
        twice = min(abs(across.value) / max(across.error, 1e-9), abs(up.value) / max(up.error, 1e-9))
        names = {"across": (across.value, "per m"), "up": (up.value, "per m"), "rise": (consequences[4].value, "mm")}
        out_of_line = [
            Verdict(
                "measure.bends",
                "measure",
                "ok",
                twice,
                2.0,
                "",
                "In its middle the panel bends {across} across and {up} upward, and it rises {rise} in all."
                + (
                    " It is surely curved both ways."
                    if twice > 2
                    else " One of the two bends is no larger than what the readings leave unsure."
                ),
                figures=names,
            )
        ]
        return Measured(
            blank,
            body,
            readings,
            free,
            None,
            tuple(out_of_line + uneven_rises(body) + flat_verdicts(self, blank, readings) + vehicle_verdicts(blank)),
            consequences,
        )

    def sketch(self, blank: RisePanelBlank, measured: Measured, style: LengthStyle) -> Sketch:
        assert isinstance(measured.body, RiseSurface)
        return rises_sketch(blank, measured, measured.body, style)
