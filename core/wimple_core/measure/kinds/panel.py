"""A flat panel of a regular shape, or of any outline."""

from __future__ import annotations

import math
from typing import Any, get_args

import numpy as np
import shapely

from ...errors import BadReading
from ...figures import LengthStyle, carried, format_length
from ...job.panels import PanelBlank, Shape
from ..drawing import DimensionLine, Sketch
from ..flat_bodies import Panel
from ..measured import Given, Measured, Readings
from ..shapes import circumradius_from, ellipse, on_lower_edge, panel_of, regular_polygon, rounded_rectangle
from ..turned import radius_from
from .flat import FlatKind, front_view, size_dimensions
from .kind import Bring
from .starting import read

WITH_HEIGHT = ("rectangle", "rounded", "ellipse")


def panel_from(blank: PanelBlank, readings: Readings, drawn: shapely.Polygon | None = None) -> Panel:
    """The measured outline of a flat panel; `drawn` is that of its file, in the file's own size.

    Raises BadReading where corners are too round for the panel.
    """
    width = readings["width"]
    height = readings.get("height", width)
    shape = blank.shape
    if shape == "rectangle":
        return panel_of(on_lower_edge(rounded_rectangle(width.mean, height.mean, 0.0)), width.error, height.error)
    if shape == "rounded":
        corner = readings["corner"].mean
        if 2 * corner > min(width.mean, height.mean) * (1 + 1e-9):
            raise BadReading(
                f"Corners of radius {carried(corner)} do not fit a panel of {carried(width.mean)} by"
                f" {carried(height.mean)}.",
                field="corner.readings.0",
                hint=f"They are at most {carried(min(width.mean, height.mean) / 2)}.",
            )
        return panel_of(on_lower_edge(rounded_rectangle(width.mean, height.mean, corner)), width.error, height.error)
    if shape == "ellipse":
        return panel_of(on_lower_edge(ellipse(width.mean / 2, height.mean / 2)), width.error, height.error)
    if shape == "circle":
        r, e = radius_from(blank.width, width, blank.tape_thickness_mm, "width")
        disc = on_lower_edge(ellipse(r, r))
        return Panel(2 * r, 2 * r, 2 * e, 2 * e, disc)
    if shape == "outline":
        assert drawn is not None
        left, _, right, _ = drawn.bounds
        scale = width.mean / (right - left)
        outline = on_lower_edge(shapely.transform(drawn, lambda p: p * scale))
        panel = panel_of(outline, width.error, 0.0)
        return Panel(panel.width, panel.height, width.error, width.error * panel.height / panel.width, outline)
    sides = 6 if shape == "hexagon" else blank.sides
    radius = circumradius_from(blank.width.reads, width.mean, sides)
    panel = panel_of(on_lower_edge(regular_polygon(sides, radius)), 0.0, 0.0)
    share = width.error / width.mean
    return Panel(panel.width, panel.height, panel.width * share, panel.height * share, panel.outline)


def centre_up(body: Panel) -> float:
    """Height of a regular polygon's middle above its lowest side."""
    xy = np.asarray(body.outline.exterior.coords)[:-1]
    return float(xy[:, 1].mean())


def _shape_dimensions(blank: PanelBlank, body: Panel, style: LengthStyle) -> list[DimensionLine]:
    """Dimensions of what is no rectangle."""
    left, low, right, high = body.outline.bounds
    dims: list[DimensionLine] = []
    w = "width"

    def say(mm: float) -> str:
        return format_length(mm, style)

    if blank.shape == "circle":
        dims.append(
            DimensionLine(
                w,
                (left, low),
                (right, low),
                f"across {say(body.width)} · round {say(math.pi * body.width)}",
                (0, -1),
                1.0,
            )
        )
    elif blank.shape == "outline":
        dims.append(DimensionLine(w, (left, low), (right, low), f"width {say(body.width)}", (0, -1), 1.0))
        dims.append(DimensionLine("", (right, low), (right, high), say(body.height), (1, 0), 1.0))
    else:
        sides = 6 if blank.shape == "hexagon" else blank.sides
        corner, flats = body.outline.exterior.coords[0], body.height
        radius = math.dist(corner, (0.0, float(centre_up(body))))
        side = 2 * radius * math.sin(math.pi / sides)
        reads = blank.width.reads
        dims.append(
            DimensionLine(
                w if reads == "across_corners" else "",
                (left, low),
                (right, low),
                f"{'across corners' if sides % 2 == 0 else 'width'} {say(body.width)}",
                (0, -1),
                1.0,
            )
        )
        dims.append(
            DimensionLine(
                w if reads == "across_flats" else "",
                (right, low),
                (right, high),
                f"{'across flats' if sides % 2 == 0 else 'height'} {say(flats)}",
                (1, 0),
                1.0,
            )
        )
        dims.append(
            DimensionLine(w if reads == "side" else "", (0.0, low), (0.0, low), f"side {say(side)}", leader="left")
        )
    return dims


class FlatPanel(FlatKind[PanelBlank]):
    """A flat panel: its outline."""

    blank = PanelBlank
    file_field = "outline"
    starts = {
        "panel": {
            "kind": "panel",
            "name": "Panel",
            "width": read("width", "ruler", 300.0),
            "height": read("height", "ruler", 200.0),
        }
    }

    def files(self, blank: PanelBlank) -> tuple[str, ...]:
        return (blank.outline,) if blank.shape == "outline" and blank.outline else ()

    def given(self, blank: PanelBlank, bring: Bring) -> Given:
        names = self.files(blank)
        return Given(outline=bring.outline(names[0])) if names else Given()

    def body(self, blank: PanelBlank, readings: Readings, given: Given) -> Panel:
        return panel_from(blank, readings, given.outline)

    def offers(self, blank: PanelBlank, measured: Measured) -> dict[str, Any]:
        """Every other shape at the size it has, read the way that shape is read."""
        width, height = (round(mm, 1) for mm in measured.body.extent)
        sizes = {"circle": "diameter", "hexagon": "across_flats", "polygon": "across_flats"}
        out = {}
        for shape in get_args(Shape):
            if shape != "outline":
                out[f"shape.{shape}"] = {
                    "shape": shape,
                    "width": read(sizes.get(shape, "width"), "ruler", width),
                    "height": read("height", "ruler", height) if shape in WITH_HEIGHT else None,
                    "corner": read("radius", "gauge", round(min(width, height) / 10, 1))
                    if shape == "rounded"
                    else None,
                    "outline": None,
                }
        return out

    def sketch(self, blank: PanelBlank, measured: Measured, style: LengthStyle) -> Sketch:
        m, body = measured, measured.body
        assert isinstance(body, Panel)
        if blank.shape in ("circle", "hexagon", "polygon", "outline"):
            return front_view(m, body, [], _shape_dimensions(blank, body, style))
        dims = size_dimensions(body, style)
        if blank.shape == "rounded" and "corner" in m.readings:
            left, _, _, high = body.outline.bounds
            c = m.readings["corner"].mean
            dims.append(
                DimensionLine(
                    "corner",
                    (left + c * 0.29, high - c * 0.29),
                    (0, 0),
                    f"corner radius {format_length(c, style)}",
                    leader="left",
                )
            )
        return front_view(m, body, [], dims)
