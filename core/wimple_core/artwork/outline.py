"""The outline of a panel out of a drawing: SVG or DXF."""

from __future__ import annotations

import io

import ezdxf
import numpy as np
import shapely
from ezdxf import path as dxf_path
from ezdxf import recover

from ..errors import BadDrawing
from ..overlay import union
from .svg import read_svg

TOLERANCE_MM = 0.01
SNAP = 1e-4
"""Ends of lines closer than this share of the drawing's size meet."""
_DRAWN = {"LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE", "LINE", "ARC"}


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
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, UnicodeError, IndexError, KeyError) as bad:
        raise BadDrawing(
            "This is not a DXF drawing, or it is cut short.", hint="Save it again as DXF (R2000 or later)."
        ) from bad
    lines = []
    for entity in document.modelspace():
        if entity.dxftype() not in _DRAWN:
            continue
        try:
            points = np.array([(p.x, p.y) for p in dxf_path.make_path(entity).flattening(TOLERANCE_MM)])
        except (TypeError, ValueError, ezdxf.DXFError):
            continue
        if len(points) > 1 and np.isfinite(points).all():
            lines.append(shapely.LineString(points))
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
    holes = [shapely.Polygon(a.exterior) for a in areas if a.area < 0.5 * outer.area and _is_hole(a, areas)]
    return shapely.Polygon(outer.exterior, [h.exterior for h in holes])


def _is_hole(area: shapely.Polygon, all_areas: np.ndarray) -> bool:
    """Is it the inside of a closed line that another area surrounds?"""
    whole = shapely.Polygon(area.exterior)
    return any(len(o.interiors) and shapely.Polygon(o.exterior).contains(whole) and o is not area for o in all_areas)
