"""A spherical cap, by the way round its rim and its rise."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ...errors import BadReading
from ...figures import LengthStyle, carried, format_length
from ...job.turned import DomeBlank
from ...verdict import Verdict, grade
from ..body import Cap
from ..consequences import propagate
from ..drawing import DimensionLine, Sketch, Stroke, box_ring, rings_of, zone_strokes
from ..free_area import free_area_of_cap
from ..measured import Given, Measured, Readings
from ..outliers import spoken
from ..turned import radius_from
from .checks import SIZE_LIMIT_MM, flat_verdicts
from .kind import Kind
from .starting import read


def cap_from(blank: DomeBlank, readings: Readings) -> Cap:
    """A dome by the way round its rim and its rise: `R = a^2 / (2 h) + h / 2` with the rim's radius a.

    Raises BadReading for more than half a ball, whose rim is not its widest place.
    """
    a, e = radius_from(blank.base, readings["base"], blank.tape_thickness_mm, "base")
    h, eh = readings["rise"].mean, readings["rise"].error
    if h > a * (1 + 1e-9):
        raise BadReading(
            f"A rise of {carried(h)} over a rim of radius {carried(a)} is more than half a ball.",
            field="rise.readings.0",
            hint=f"It is at most {carried(a)}; a deeper body is a turned one: give its girths at several heights.",
        )
    radius = a * a / (2 * h) + h / 2
    error = math.hypot(a / h * e, (0.5 - a * a / (2 * h * h)) * eh)
    return Cap(radius, a, h, error, e, eh)


def dome_sketch(m: Measured, body: Cap, style: LengthStyle) -> Sketch:
    """The side view, and above it the dome laid out from its middle by true distances, where zones are placed."""
    t = np.linspace(-body.angle, body.angle, 120)
    low = -body.arc - 0.3 * body.arc - body.rise
    arc = np.column_stack([body.radius * np.sin(t), low + body.rise - body.radius * (1 - np.cos(t))])
    a = body.rim

    def say(mm: float) -> str:
        return format_length(mm, style)

    turn = np.linspace(0, 2 * math.pi, 181)
    disc = body.arc * np.column_stack([np.cos(turn), np.sin(turn)])
    strokes = [
        Stroke("body", (arc,)),
        Stroke("centre", (np.array([[0, low - 0.06 * body.arc], [0, 1.06 * body.arc]]),), False),
        Stroke("section", (disc[:-1],)),
        Stroke("zone", rings_of(shapely.difference(shapely.Polygon(disc), m.free.region))),
        Stroke("free", (box_ring(m.free.parts[0].box),)),
        *zone_strokes(m.free),
    ]
    dims = (
        DimensionLine("base", (-a, low), (a, low), f"round {say(2 * math.pi * a)} · across {say(2 * a)}", (0, -1), 1.0),
        DimensionLine("rise", (a, low), (a, low + body.rise), f"rise {say(body.rise)}", (1, 0), 1.0),
        DimensionLine("", (-body.arc, 0.0), (body.arc, 0.0), f"over the dome {say(2 * body.arc)}"),
    )
    note = f"laid out from the middle; ball of radius {say(body.radius)}"
    return Sketch(
        "Side view, and the dome laid out", tuple(strokes), dims, (), note, (-body.arc, low, body.arc, body.arc)
    )


class Dome(Kind[DomeBlank]):
    """A dome: a cap of a ball."""

    blank = DomeBlank
    wraps = ("relief",)
    reliefs = ("none", "slits", "gores")
    starts = {
        "dome": {
            "kind": "dome",
            "name": "Dome",
            "base": read("circumference", "tape", 480.0),
            "rise": read("rise", "ruler", 25.0),
        }
    }

    def measure(self, blank: DomeBlank, given: Given) -> Measured:
        readings = self.readings(blank)
        body = cap_from(blank, readings)
        free = free_area_of_cap(body, blank.margin_mm, blank.zones)
        taken = body.area - sum(p.area for p in free.parts)

        def figures(r: Readings) -> dict[str, float]:
            c = cap_from(blank, r)
            return {"panel_radius": c.radius, "arc": 2 * c.arc, "rim": 2 * c.rim, "free_area": c.area - taken}

        consequences = propagate(figures, readings, {"free_area": "mm2"})
        arc, radius = consequences[1], consequences[0]
        verdicts = [
            Verdict(
                "measure.dome",
                "measure",
                grade(arc.error, SIZE_LIMIT_MM),
                arc.error,
                SIZE_LIMIT_MM,
                "mm",
                "Over the dome it is {arc} from rim to rim, sure to ± {value}; it is part of a ball of radius"
                " {radius}.",
                f"Take {spoken(arc.first)} again first.",
                {"arc": (arc.value, "mm"), "radius": (radius.value, "mm")},
                field=f"{arc.first}.readings.0",
            )
        ]
        return Measured(
            blank,
            body,
            readings,
            free,
            math.pi * body.rise**2 * (3 * body.radius - body.rise) / 3000,
            tuple(verdicts + flat_verdicts(self, blank, readings)),
            consequences,
        )

    def sketch(self, blank: DomeBlank, measured: Measured, style: LengthStyle) -> Sketch:
        assert isinstance(measured.body, Cap)
        return dome_sketch(measured, measured.body, style)
