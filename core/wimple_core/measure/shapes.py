"""From readings to flat outlines, and to panels bent one way."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
import shapely

from ..errors import BadReading
from ..figures import carried
from ..job.blanks import CurvedPanelBlank, InsertBlank, PanelBlank, RoundHole
from .body import Array, Panel
from .readings import Reading
from .turned import radius_from

CHORD_TOLERANCE_MM = 0.001
FLATTEST_RADIUS_MM = 1e6
Readings = Mapping[str, Reading]


def _arc_points(radius: float, turn: float) -> int:
    step = 2 * math.acos(max(0.0, 1 - CHORD_TOLERANCE_MM / max(radius, 2 * CHORD_TOLERANCE_MM)))
    return max(8, math.ceil(turn / step))


def ellipse(half_width: float, half_height: float) -> Array:
    """Corners (n, 2) of an ellipse round the origin, within CHORD_TOLERANCE_MM and of the ellipse's own area.

    A polygon inside a circle is short of area by `sin(t) / t` with the step t; the corners stand out by its root.
    """
    n = _arc_points(max(half_width, half_height), 2 * math.pi)
    t = np.arange(n) * (2 * math.pi / n)
    grow = 1 / math.sqrt(math.sin(2 * math.pi / n) / (2 * math.pi / n))
    return np.column_stack([half_width * np.cos(t), half_height * np.sin(t)]) * grow


def regular_polygon(sides: int, circumradius: float) -> Array:
    """Corners (n, 2) of a regular polygon round the origin, one side level and lowest."""
    t = -math.pi / 2 + math.pi / sides + np.arange(sides) * (2 * math.pi / sides)
    return circumradius * np.column_stack([np.cos(t), np.sin(t)])


def circumradius_from(reads: str, size: float, sides: int) -> float:
    """Radius of the circle through the corners of a regular polygon.

    `across_corners` is that circle's diameter; `across_flats` from one side to the opposite one (with an odd number
    of sides
    to the opposite corner); on a hexagon `across_corners = 2 across_flats / sqrt(3)`.
    """
    if reads == "across_corners":
        return size / 2
    if reads == "side":
        return size / (2 * math.sin(math.pi / sides))
    apothem = math.cos(math.pi / sides)
    return size / (2 * apothem) if sides % 2 == 0 else size / (1 + apothem)


def rounded_rectangle(width: float, height: float, corner: float) -> Array:
    """Corners (n, 2) of a rectangle round the origin whose corners are rounded to a radius."""
    if corner <= 0:
        return np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * (width / 2, height / 2)
    n = _arc_points(corner, math.pi / 2)
    t = np.linspace(0, math.pi / 2, n + 1)
    quarter = corner * np.column_stack([np.cos(t), np.sin(t)])
    out = []
    for i, (cx, cy) in enumerate(((1, 1), (-1, 1), (-1, -1), (1, -1))):
        c, s = ((1, 0), (0, 1), (-1, 0), (0, -1))[i]
        turned = quarter @ np.array([[c, s], [-s, c]])
        out.append(turned + (cx * (width / 2 - corner), cy * (height / 2 - corner)))
    return np.concatenate(out)


def _on_lower_edge(points: Array | shapely.Polygon) -> shapely.Polygon:
    """A polygon whose lower edge lies at y = 0 and whose middle lies at x = 0."""
    shape = points if isinstance(points, shapely.Polygon) else shapely.Polygon(points)
    left, low, right, _ = shape.bounds
    moved: shapely.Polygon = shapely.transform(shape, lambda p: p - ((left + right) / 2, low))
    return moved


def _panel(outline: shapely.Polygon, error_width: float, error_height: float) -> Panel:
    left, low, right, high = outline.bounds
    return Panel(right - left, high - low, error_width, error_height, outline)


def panel_from(blank: PanelBlank, readings: Readings, drawn: shapely.Polygon | None = None) -> Panel:
    """The measured outline of a flat panel; `drawn` is that of its file, in the file's own size.

    Raises BadReading where corners are too round for the panel.
    """
    width = readings["width"]
    height = readings.get("height", width)
    shape = blank.shape
    if shape == "rectangle":
        return _panel(_on_lower_edge(rounded_rectangle(width.mean, height.mean, 0.0)), width.error, height.error)
    if shape == "rounded":
        corner = readings["corner"].mean
        if 2 * corner > min(width.mean, height.mean) * (1 + 1e-9):
            raise BadReading(
                f"Corners of radius {carried(corner)} do not fit a panel of {carried(width.mean)} by"
                f" {carried(height.mean)}.",
                field="blank.corner.readings.0",
                hint=f"They are at most {carried(min(width.mean, height.mean) / 2)}.",
            )
        return _panel(_on_lower_edge(rounded_rectangle(width.mean, height.mean, corner)), width.error, height.error)
    if shape == "ellipse":
        return _panel(_on_lower_edge(ellipse(width.mean / 2, height.mean / 2)), width.error, height.error)
    if shape == "circle":
        r, e = radius_from(blank.width, width, blank.tape_thickness_mm, "blank.width")
        disc = _on_lower_edge(ellipse(r, r))
        return Panel(2 * r, 2 * r, 2 * e, 2 * e, disc)
    if shape == "outline":
        assert drawn is not None
        left, _, right, _ = drawn.bounds
        scale = width.mean / (right - left)
        outline = _on_lower_edge(shapely.transform(drawn, lambda p: p * scale))
        panel = _panel(outline, width.error, 0.0)
        return Panel(panel.width, panel.height, width.error, width.error * panel.height / panel.width, outline)
    sides = 6 if shape == "hexagon" else blank.sides
    radius = circumradius_from(blank.width.reads, width.mean, sides)
    panel = _panel(_on_lower_edge(regular_polygon(sides, radius)), 0.0, 0.0)
    share = width.error / width.mean
    return Panel(panel.width, panel.height, panel.width * share, panel.height * share, panel.outline)


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


def curved_panel_from(blank: CurvedPanelBlank, readings: Readings) -> Panel:
    """A panel bent one way: its radius from every chord and rise, the surest counting most (weights 1 / error^2).

    Raises BadReading for a bend that is more than a whole turn over the panel's width.
    """
    found = [
        bend_radius_from(
            readings[f"places.{i}.chord"], readings[f"places.{i}.rise"], f"blank.places.{i}.rise.readings.0"
        )
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
        if half > 1:
            raise BadReading(
                f"{carried(sizes[round_it])} from edge to edge is more than twice the radius of {carried(radius)} that"
                " the rises give.",
                field=f"blank.{'width' if round_it == 0 else 'height'}.readings.0",
                hint="Measure it along the surface, or the rises again.",
            )
        sizes[round_it] = 2 * radius * math.asin(half)
    if sizes[round_it] > 2 * math.pi * radius:
        raise BadReading(
            f"{carried(sizes[round_it])} round a radius of {carried(radius)} is more than a whole turn.",
            field="blank.places.0.rise.readings.0",
            hint="Check chord and rise: the rise is probably too large.",
        )
    outline = _on_lower_edge(rounded_rectangle(sizes[0], sizes[1], 0.0))
    return Panel(sizes[0], sizes[1], width.error, height.error, outline, radius, error, blank.bend, blank.hollow)


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
            field="blank.clearance_mm",
            hint=f"{carried(0.3)} to {carried(1)} is usual.",
        )
    outline = shapely.Polygon(ellipse(r, r))
    if blank.tab:
        w, h = blank.tab.width_mm, blank.tab.height_mm
        if w >= 2 * r:
            raise BadReading(
                f"A pull tab {carried(w)} wide is wider than the insert.",
                field="blank.tab.width_mm",
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
                field="blank.hole.width_mm",
                hint="Make it smaller or move it to the middle.",
            )
        outline = shapely.difference(outline, cut)
    left, low, right, high = outline.bounds
    moved: shapely.Polygon = shapely.transform(outline, lambda p: p - (0.0, -r))
    return Panel(right - left, high - low, error, error, moved)
