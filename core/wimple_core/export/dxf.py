"""DXF in millimetres: closed LWPOLYLINEs on named layers."""

from __future__ import annotations

import io
from collections.abc import Mapping

import ezdxf
import shapely
from shapely.geometry.base import BaseGeometry

_NOT_IN_NAMES = str.maketrans(dict.fromkeys('<>/\\":;?*|=`,', "-"))


def dxf_file(
    regions: Mapping[str, BaseGeometry],
    lines: Mapping[str, list[tuple[tuple[float, float], tuple[float, float]]]] | None = None,
) -> str:
    """A DXF (R2010, mm) with the contours of each region on the layer of its name, and open lines on theirs."""
    doc = ezdxf.new("R2010")
    doc.header["$INSUNITS"] = 4
    doc.header["$MEASUREMENT"] = 1
    space = doc.modelspace()
    for colour, (name, region) in enumerate(regions.items(), start=1):
        layer = name.translate(_NOT_IN_NAMES)
        doc.layers.add(layer, color=colour % 7 or 7)
        for polygon in shapely.get_parts(region):
            if polygon.is_empty:
                continue
            for ring in (polygon.exterior, *polygon.interiors):
                points = shapely.get_coordinates(ring)[:-1]
                space.add_lwpolyline(points.tolist(), close=True, dxfattribs={"layer": layer})
    for name, ends in (lines or {}).items():
        doc.layers.add(name, color=1)
        for a, b in ends:
            space.add_line(a, b, dxfattribs={"layer": name})
    out = io.StringIO()
    doc.write(out)
    return out.getvalue()
