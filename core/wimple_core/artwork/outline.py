"""The outline of a panel out of a drawing: SVG or DXF."""

from __future__ import annotations

import numpy as np
import shapely

from ..errors import BadDrawing
from ..overlay import union
from .dxf import LINES, check_count, flat_line, open_dxf
from .limits import check_crossings
from .svg import read_svg

TOLERANCE_MM = 0.01
SNAP = 1e-4
"""Ends of lines closer than this share of the drawing's size meet."""


def read_outline(data: bytes, name: str) -> shapely.Polygon:
    """The outermost contour of a drawing with its holes, in the drawing's own size, y up.

    Raises BadDrawing for a file that is neither, that holds nothing closed, or whose outline crosses itself.
    """
    kind = name.lower().rpartition(".")[2]
    if kind == "svg":
        return _from_svg(data)
    if kind == "dxf":
        return _from_dxf(data)
    raise BadDrawing(f"“{name}” is neither an SVG nor a DXF drawing.", hint="Give the outline as one of the two.")


def _from_svg(data: bytes) -> shapely.Polygon:
    drawn = read_svg(data, 0.02)
    parts = shapely.get_parts(union([p.region for p in drawn.paints]))
    parts = parts[shapely.get_type_id(parts) == 3]
    if not len(parts):
        raise BadDrawing("Nothing in this drawing covers an area.", hint="Draw the panel as one closed shape.")
    whole = [shapely.Polygon(p.exterior) for p in parts]
    largest = parts[int(np.argmax([w.area for w in whole]))]
    outer = shapely.Polygon(largest.exterior)
    if largest.area < 0.35 * outer.area and len(largest.interiors) == 1:
        # Drawn as a line: the outline is the middle of the stroke.
        stroke = largest.area / ((largest.exterior.length + largest.interiors[0].length) / 2)
        middle = outer.buffer(-stroke / 2, join_style="mitre")
        return middle if isinstance(middle, shapely.Polygon) else outer
    return shapely.Polygon(largest)


def _from_dxf(data: bytes) -> shapely.Polygon:
    drawn = [entity for entity in open_dxf(data).modelspace() if entity.dxftype() in LINES]
    check_count(len(drawn))
    runs = [points for entity in drawn if (points := flat_line(entity, TOLERANCE_MM)) is not None]
    check_crossings(runs, closed=False)
    lines = [shapely.LineString(points) for points in runs]
    if not lines:
        raise BadDrawing(
            "This DXF drawing holds no lines.", hint="Draw the outline with lines, arcs, polylines or splines."
        )
    box = shapely.total_bounds(np.array(lines, dtype=object))
    grid = max(box[2] - box[0], box[3] - box[1]) * SNAP
    joined = shapely.union_all(shapely.set_precision(np.array(lines, dtype=object), grid))
    areas = shapely.get_parts(shapely.polygonize(shapely.get_parts(joined)))
    if not len(areas):
        raise BadDrawing("No line in this DXF drawing closes.", hint="Join the ends of the outline.")
    parts = shapely.get_parts(shapely.union_all(areas))
    outer = max((shapely.Polygon(p.exterior) for p in parts), key=lambda p: p.area)
    return shapely.Polygon(outer.exterior, [h.exterior for h in _holes(areas, outer)])


def _holes(areas: np.ndarray, outer: shapely.Polygon) -> list[shapely.Polygon]:
    """The insides of closed lines that other areas surround."""
    whole = shapely.polygons(shapely.get_exterior_ring(areas))
    small = np.flatnonzero(shapely.area(areas) < 0.5 * outer.area)
    round_ = np.flatnonzero(shapely.get_num_interior_rings(areas) > 0)
    if not len(small) or not len(round_):
        return []
    one, other = shapely.STRtree(whole[round_]).query(whole[small], predicate="within")
    return [whole[n] for n in np.unique(small[one][small[one] != round_[other]])]
