"""SVG in millimetres, curves as cubics. Inside the program y points up; `to_page` turns it, here and nowhere else."""

from __future__ import annotations

from xml.sax.saxutils import quoteattr

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..cuts import Cuts, cuts_along
from ..layers import Layer
from ..sheets import Load
from ..surface import Template
from .curves import FIT_TOLERANCE_MM, fit_ring

Bounds = tuple[float, float, float, float]


def to_page(points: Array, bounds: Bounds) -> Array:
    """From mm, y up, to mm from the upper left of the page that shows `bounds`, y down."""
    return np.column_stack([points[:, 0] - bounds[0], bounds[3] - points[:, 1]])


def _number(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".") if abs(value) >= 5e-5 else "0"


def path_data(region: BaseGeometry, bounds: Bounds, tolerance: float = FIT_TOLERANCE_MM) -> str:
    """A region's contours as path data on that page."""
    out: list[str] = []
    for polygon in shapely.get_parts(region):
        if polygon.is_empty:
            continue
        for ring in (polygon.exterior, *polygon.interiors):
            points = to_page(shapely.get_coordinates(ring)[:-1], bounds)
            segments = fit_ring(points, tolerance)
            if len(segments) < 2:
                continue  # nothing with an area
            start = segments[0][0]
            out.append(f"M{_number(start[0])} {_number(start[1])}")
            for s in segments:
                out.append(("C" if len(s) == 4 else "L") + " ".join(f"{_number(x)} {_number(y)}" for x, y in s[1:]))
            out.append("Z")
    return "".join(out)


def _document(bounds: Bounds, body: list[str], title: str) -> str:
    w, h = bounds[2] - bounds[0], bounds[3] - bounds[1]
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(w)}mm" height="{_number(h)}mm" '
        f'viewBox="0 0 {_number(w)} {_number(h)}">\n<title>{_escape(title)}</title>\n' + "\n".join(body) + "\n</svg>\n"
    )


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _lines(cuts: Cuts, bounds: Bounds, name: str, colour: str, width: float = 0.1) -> list[str]:
    """Open lines as one path on a page, where there are any."""
    open_lines = [to_page(p, bounds) for p, ring in zip(cuts.paths(), cuts.closed.tolist(), strict=True) if not ring]
    if not open_lines:
        return []
    d = "".join("M" + "L".join(f"{_number(x)} {_number(y)}" for x, y in line) for line in open_lines)
    return [f'<path id="{name}" fill="none" stroke="{colour}" stroke-width="{width:g}" d="{d}"/>']


def _frames(cuts: Cuts, bounds: Bounds) -> list[str]:
    """Frames to weed along as one path on a page, where there are any."""
    frames = cuts.only("frame").region
    if frames.is_empty:
        return []
    return [f'<path id="frames" fill="none" stroke="#1c3d7a" stroke-width="0.1" d="{path_data(frames, bounds)}"/>']


def slits_svg(slits: Cuts, bounds: Bounds) -> str:
    """The slit plan alone, as lines, on the page the layers share."""
    return _document(bounds, _lines(slits, bounds, "slits", "#b3261e"), "Slits")


def layer_svg(layer: Layer, bounds: Bounds, mirrored: bool = False) -> str:
    """One layer on the page that all layers share, its marks in a group of their own; its title says where it is
    `mirrored`."""
    body = [
        f'<path id="pieces" fill={quoteattr(layer.film_colour)} fill-rule="evenodd"'
        f' d="{path_data(layer.region, bounds)}"/>'
    ]
    if not layer.marks.is_empty:
        body.append(f'<path id="marks" fill="#18202e" fill-rule="evenodd" d="{path_data(layer.marks, bounds)}"/>')
    body += _frames(layer.cuts, bounds)
    body += _lines(layer.cuts.only("slit"), bounds, "slits", "#b3261e")
    body += _lines(layer.cuts.only("weed"), bounds, "weed", "#1c3d7a")
    return _document(bounds, body, f"{layer.name}, {layer.film.name}{', mirrored, as it is cut' * mirrored}")


def load_svg(load: Load) -> str:
    """One load, its weed frames and slits as lines, on a page the size of the safe area used."""
    bounds = (0.0, 0.0, max(load.width, 1.0), max(load.height, 1.0))
    body = []
    for n, patch in enumerate(load.patches, start=1):
        work = load.on(patch).only("piece", "hole", "mark").region
        name = "cut" if n == 1 else f"cut-{n}"
        body.append(
            f'<path id="{name}" fill={quoteattr(patch.film_colour)} fill-rule="evenodd" d="{path_data(work, bounds)}"/>'
        )
    body += _frames(load.cuts, bounds)
    body += _lines(load.cuts.only("slit"), bounds, "slits", "#b3261e")
    body += _lines(load.cuts.only("weed"), bounds, "weed", "#1c3d7a")
    return _document(bounds, body, f"{load.name}: {load.sets} on this load, cut {load.times} times")


def template_svg(template: Template) -> str:
    """The template's outline and free area, to 0.005 mm."""
    b = template.outline.bounds
    bounds = (float(b[0]), float(b[1]), float(b[2]), float(b[3]))

    def line(region: BaseGeometry, name: str, colour: str, dash: str = "") -> str:
        d = path_data(region, bounds, 0.005)
        return f'<path id="{name}" fill="none" stroke="{colour}" stroke-width="0.2"{dash} d="{d}"/>'

    body = [
        line(template.free, "free", "#1c3d7a", ' stroke-dasharray="2 1"'),
        line(template.outline, "outline", "#18202e"),
    ]
    if template.overlap is not None:
        body.append(line(template.overlap, "overlap", "#596273", ' stroke-dasharray="1 1"'))
    body += _lines(cuts_along(template.slit_lines, "slit"), bounds, "slits", "#b3261e", 0.2)
    return _document(bounds, body, "Template, outside up")
