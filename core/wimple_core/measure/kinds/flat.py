"""What all flat outlines share, bent one way or not."""

from __future__ import annotations

from typing import TypeVar

import shapely

from ...figures import LengthStyle, format_length
from ...job.panels import PanelBase
from ...verdict import Verdict
from ..consequences import Consequence, propagate
from ..drawing import DimensionLine, Sketch, Stroke, box_ring, rings_of, zone_strokes
from ..flat_bodies import Panel
from ..free_area import free_area_of_panel
from ..measured import Given, Measured, Readings
from .checks import flat_verdicts, size_verdict, vehicle_verdicts
from .kind import Kind

B = TypeVar("B", bound=PanelBase)


class FlatKind(Kind[B]):
    """A kind of blank with a flat outline."""

    def body(self, blank: B, readings: Readings, given: Given) -> Panel:
        """Its outline. Raises BadReading where none can be so."""
        raise NotImplementedError

    def own_figures(self, blank: B, body: Panel, readings: Readings) -> dict[str, float]:
        """Figures besides its size and free area."""
        return {}

    def own_verdicts(
        self, blank: B, body: Panel, readings: Readings, consequences: tuple[Consequence, ...]
    ) -> list[Verdict]:
        """What else is judged of this kind."""
        return []

    def measure(self, blank: B, given: Given) -> Measured:
        readings = self.readings(blank)
        body = self.body(blank, readings, given)
        free = free_area_of_panel(body, blank.margin_mm, blank.zones)
        taken = body.outline.area - free.region.area
        edge = body.outline.length * blank.margin_mm

        def figures(r: Readings) -> dict[str, float]:
            b = self.body(blank, r, given)
            # The margin's share grows with the edge, the zones' does not.
            free_area = b.outline.area - taken - (b.outline.length * blank.margin_mm - edge)
            out = {"width": b.width, "height": b.height, "free_area": free_area}
            return out | self.own_figures(blank, b, r)

        consequences = propagate(figures, readings, {"free_area": "mm2"})
        verdicts = [size_verdict(consequences, ("width", "height"))]
        verdicts += self.own_verdicts(blank, body, readings, consequences)
        verdicts += flat_verdicts(self, blank, readings) + vehicle_verdicts(blank)
        return Measured(blank, body, readings, free, None, tuple(verdicts), consequences)


def front_strokes_of(m: Measured, body: Panel) -> list[Stroke]:
    """The outline with its margin and its largest free rectangle."""
    strokes = []
    margin = shapely.difference(body.outline, m.free.region)
    if not margin.is_empty:
        strokes.append(Stroke("zone", rings_of(margin)))
    return [*strokes, Stroke("body", rings_of(body.outline, 0.003)), Stroke("free", (box_ring(m.free.parts[0].box),))]


def front_view(
    m: Measured, body: Panel, more: list[Stroke], dims: list[DimensionLine], title: str = "Front view", top: float = 0.0
) -> Sketch:
    """The outline, what a kind adds to it, its dimensions, and its zones over all; `top` mm where it goes on above."""
    left, low, right, high = body.outline.bounds
    strokes = (*front_strokes_of(m, body), *more, *zone_strokes(m.free))
    return Sketch(title, strokes, tuple(dims), reach=(left, low, right, max(high, top)))


def size_dimensions(body: Panel, style: LengthStyle) -> list[DimensionLine]:
    """Width below and height at the right."""
    left, low, right, high = body.outline.bounds
    return [
        DimensionLine("width", (left, low), (right, low), format_length(body.width, style), (0, -1), 1.0),
        DimensionLine("height", (right, low), (right, high), format_length(body.height, style), (1, 0), 1.0),
    ]
