"""A panel bent one way, as a cylinder is: chord and rise at one place or several."""

from __future__ import annotations

import math

import numpy as np

from ...errors import BadReading
from ...figures import LengthStyle, carried, format_length
from ...job.panels import CurvedPanelBlank
from ...verdict import Verdict, grade
from ..consequences import Consequence
from ..drawing import DimensionLine, Sketch, Stroke
from ..flat_bodies import BentPanel, Panel
from ..measured import Given, Measured, Readings
from ..outliers import spoken
from ..readings import Reading
from ..shapes import on_lower_edge, rounded_rectangle
from .flat import FlatKind, front_view, size_dimensions
from .starting import read


def bend_radius_from(chord: Reading, rise: Reading, field: str = "") -> tuple[float, float]:
    """Radius of a bend and its error: `r = c^2 / (8 h) + h / 2` (segment of a circle, Machinery's Handbook).

    Raises BadReading for more than half a turn.
    """
    c, h = chord.mean, rise.mean
    if 2 * h > c * (1 + 1e-9):
        raise BadReading(
            f"A rise of {carried(h)} over a chord of {carried(c)} is more than half a turn.",
            field=field,
            hint=f"It is at most {carried(c / 2)}: measure the rise in the middle of the chord.",
        )
    radius = c * c / (8 * h) + h / 2
    return radius, math.hypot(c / (4 * h) * chord.error, (0.5 - c * c / (8 * h * h)) * rise.error)


def curved_panel_from(blank: CurvedPanelBlank, readings: Readings) -> BentPanel:
    """A panel bent one way: its radius from every chord and rise, the surest counting most (weights 1 / error^2).

    Raises BadReading for a bend that is more than a whole turn over the panel's width.
    """
    found = [
        bend_radius_from(readings[f"places.{i}.chord"], readings[f"places.{i}.rise"], f"places.{i}.rise.readings.0")
        for i in range(len(blank.places))
    ]
    radii, errors = np.array(found).T
    # Curvature, not radius, scatters evenly: a straight edge that rocks makes a flat place look flatter without limit.
    bends, spread = 1 / radii, errors / radii**2
    weights = 1 / np.maximum(spread, 1e-12) ** 2
    bend = float(np.average(bends, weights=weights))
    radius = 1 / bend
    error = radius * radius / math.sqrt(float(weights.sum()))
    width, height = readings["width"], readings["height"]
    sizes = [width.mean, height.mean]
    round_it = 0 if blank.bend == "across" else 1
    bent = blank.width if round_it == 0 else blank.height
    if bent.reads == "chord":
        half = sizes[round_it] / (2 * radius)
        if abs(half) > 1:
            raise BadReading(
                f"{carried(sizes[round_it])} from edge to edge is more than twice the radius of {carried(radius)} that"
                " the rises give.",
                field=f"{'width' if round_it == 0 else 'height'}.readings.0",
                hint="Measure it along the surface, or the rises again.",
            )
        sizes[round_it] = 2 * radius * math.asin(half)
    if sizes[round_it] > 2 * math.pi * radius:
        raise BadReading(
            f"{carried(sizes[round_it])} round a radius of {carried(radius)} is more than a whole turn.",
            field="places.0.rise.readings.0",
            hint="Check chord and rise: the rise is probably too large.",
        )
    outline = on_lower_edge(rounded_rectangle(sizes[0], sizes[1], 0.0))
    return BentPanel(sizes[0], sizes[1], width.error, height.error, outline, radius, error, blank.bend, blank.hollow)


def bend_verdicts(blank: CurvedPanelBlank, readings: Readings, consequences: tuple[Consequence, ...]) -> list[Verdict]:
    radius = next(c for c in consequences if c.name == "panel_radius")
    share = 100 * radius.error / radius.value
    names = {"radius": (radius.value, "mm"), "spread": (radius.error, "mm")}
    out = [
        Verdict(
            "measure.panel_radius",
            "measure",
            grade(share, 10.0, 50.0),
            share,
            10.0,
            "%",
            "The panel is bent to a radius of {radius}, sure to ± {spread}.",
            f"Take {spoken(radius.first)} again first, over a longer chord.",
            names,
            field=f"{radius.first}.readings.0",
        )
    ]
    bends = [
        8
        * readings[f"places.{i}.rise"].mean
        / (readings[f"places.{i}.chord"].mean ** 2 + 4 * readings[f"places.{i}.rise"].mean ** 2)
        for i in range(len(blank.places))
    ]
    if len(bends) > 1:
        radii = [1 / b for b in bends]
        spread = [
            3 * readings[f"places.{i}.rise"].error / max(readings[f"places.{i}.rise"].mean, 1e-9) * radii[i]
            for i in range(len(bends))
        ]
        apart = max(radii) - min(radii)
        limit = max(spread[radii.index(max(radii))], spread[radii.index(min(radii))])
        if apart > limit:
            out.append(
                Verdict(
                    "measure.bend_uneven",
                    "measure",
                    "look",
                    apart,
                    limit,
                    "mm",
                    "The panel is not bent alike everywhere: its radius differs by {value} between the places.",
                    "It may be curved both ways or tapered: measure it by rises on a grid.",
                    field="places.0.rise.readings.0",
                )
            )
    return out


def bend_section(
    blank: CurvedPanelBlank, m: Measured, body: BentPanel, style: LengthStyle
) -> tuple[list[Stroke], list[DimensionLine], float]:
    """The bend drawn above the front view, as long as the panel, with chord and rise of every place."""
    r = body.bend_radius
    across = body.bend == "across"
    length = body.width if across else body.height
    half = length / (2 * r)
    t = np.linspace(-half, half, 80)
    sag = r * (1 - math.cos(half)) if half < math.pi else 2 * r
    base = body.height + 0.22 * max(body.height, body.width) * 0.6 + sag * (0 if not body.hollow else 1)
    arc = np.column_stack([r * np.sin(t), r * (np.cos(t) - math.cos(half))])
    if body.hollow:
        arc[:, 1] = sag - arc[:, 1]
    arc[:, 1] += base
    dims = []
    for i in range(len(blank.places)):
        c, h = m.readings[f"places.{i}.chord"].mean, m.readings[f"places.{i}.rise"].mean
        y = base + (sag - h if not body.hollow else h)
        name = f"place {i + 1}: " if len(blank.places) > 1 else ""
        if i == 0:
            dims.append(DimensionLine("places.0.chord", (-c / 2, y), (c / 2, y), f"chord {format_length(c, style)}"))
            dims.append(
                DimensionLine(
                    "places.0.rise",
                    (0.0, base + (sag if not body.hollow else 0.0)),
                    (0.0, y),
                    f"rise {format_length(h, style)}",
                    leader="right",
                )
            )
        else:
            dims.append(
                DimensionLine(
                    f"places.{i}.chord",
                    (-c / 2, y),
                    (c / 2, y),
                    f"{name}chord {format_length(c, style)}",
                    leader="left",
                )
            )
            dims.append(
                DimensionLine(
                    f"places.{i}.rise", (c / 4, y), (0.0, y), f"{name}rise {format_length(h, style)}", leader="right"
                )
            )
    strokes = [Stroke("section", (arc,), False)]
    return strokes, dims, base + sag + 0.05 * body.height


class CurvedPanel(FlatKind[CurvedPanelBlank]):
    """A bent panel: part of a cylinder."""

    blank = CurvedPanelBlank
    starts = {
        "curved_panel": {
            "kind": "curved_panel",
            "name": "Curved panel",
            "width": read("arc", "tape", 600.0),
            "height": read("height", "ruler", 300.0),
            "places": [{"chord": read("chord", "ruler", 400.0), "rise": read("rise", "ruler", 12.0)}],
        }
    }

    def body(self, blank: CurvedPanelBlank, readings: Readings, given: Given) -> BentPanel:
        return curved_panel_from(blank, readings)

    def own_figures(self, blank: CurvedPanelBlank, body: Panel, readings: Readings) -> dict[str, float]:
        assert isinstance(body, BentPanel)
        return {"panel_radius": body.bend_radius}

    def own_verdicts(
        self, blank: CurvedPanelBlank, body: Panel, readings: Readings, consequences: tuple[Consequence, ...]
    ) -> list[Verdict]:
        return bend_verdicts(blank, readings, consequences)

    def sketch(self, blank: CurvedPanelBlank, measured: Measured, style: LengthStyle) -> Sketch:
        body = measured.body
        assert isinstance(body, BentPanel)
        strokes, dims, top = bend_section(blank, measured, body, style)
        title = "Front view laid flat, and the bend"
        return front_view(measured, body, strokes, [*size_dimensions(body, style), *dims], title, top)
