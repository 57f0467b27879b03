"""DXF in millimetres: closed LWPOLYLINEs and open lines on named layers."""

from __future__ import annotations

import io
from collections.abc import Mapping

import ezdxf

from ..cuts import Cuts, Role, together

_NOT_IN_NAMES = str.maketrans(dict.fromkeys('<>/\\":;?*|=`,', "-"))
_LAYER_OF: dict[Role, str] = {"weed": "weed", "frame": "frame", "slit": "slits", "guide": "guides"}


def named_by_role(cuts: Cuts, names: Mapping[Role, str]) -> dict[str, Cuts]:
    """Cuts by the name of the DXF layer on which they stand: pieces and marks on those of `names`, everything else
    under its own."""
    out: dict[str, Cuts] = {}
    for role, name in {**names, **_LAYER_OF}.items():
        some = cuts.only("piece", "hole") if role == "piece" else cuts.only(role)
        if len(some) or role in names:
            out[name] = together([out[name], some]) if name in out else some
    return out


def dxf_file(layers: Mapping[str, Cuts]) -> str:
    """A DXF (R2010, mm) with each of the cuts on the layer of its name: rings closed, lines open."""
    doc = ezdxf.new("R2010")
    doc.header["$INSUNITS"] = 4
    doc.header["$MEASUREMENT"] = 1
    space = doc.modelspace()
    for colour, (name, cuts) in enumerate(layers.items(), start=1):
        layer = name.translate(_NOT_IN_NAMES)
        doc.layers.add(layer, color=colour % 7 or 7)
        for points, closed in zip(cuts.paths(), cuts.closed.tolist(), strict=True):
            if closed or len(points) > 2:
                space.add_lwpolyline(points.tolist(), close=closed, dxfattribs={"layer": layer})
            else:
                space.add_line(points[0].tolist(), points[1].tolist(), dxfattribs={"layer": layer})
    out = io.StringIO()
    doc.write(out)
    return out.getvalue()
