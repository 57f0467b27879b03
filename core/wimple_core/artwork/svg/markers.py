"""Markers: the arrowheads and dots that a path wears on its vertices (SVG 2, 13.7)."""

from __future__ import annotations

import math

import shapely
from lxml import etree

from ...arrays import Array
from ...overlay import intersection
from . import paths
from .clipping import IDENTITY_STYLE, Clipper
from .coordinates import IDENTITY, Affine, fit_view_box, multiply, read_px, read_view_box
from .frame import Frame, name_of, transformed
from .painting import reference_of
from .safety import SVG
from .shapes import shape_lines
from .style import cascade, own_style

MOST_MARKERS = 5_000
_WORN = frozenset(SVG + n for n in ("path", "line", "polyline", "polygon"))


class Marker(Clipper):
    """Draws markers where a shape wears them."""

    def markers(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        wanted = {n: frame.style[f"marker-{n}"] for n in ("start", "mid", "end")}
        found = {n: self.by_id.get(reference_of(t)) for n, t in wanted.items() if t.startswith("url(")}
        if el.tag not in _WORN or all(m is None for m in found.values()) or frame.style["visibility"] != "visible":
            return
        corners = self._corners(el, own, frame)
        if len(corners) > MOST_MARKERS:
            self.note("marker", name_of(el), f"it wears more than {MOST_MARKERS} markers, which are left out")
            return
        before = dict(self.marked)
        self.marked = {"fill": self._plain(el, "fill", frame), "stroke": self._plain(el, "stroke", frame)}
        last = len(corners) - 1
        for i, (at, angle) in enumerate(corners):
            for name, place in (("start", i == 0), ("mid", 0 < i < last), ("end", i == last)):
                marker = found.get(name)
                if place and marker is not None and marker.tag == f"{SVG}marker" and marker not in self.using:
                    self._wear(marker, frame, (float(at[0]), float(at[1])), angle, name == "start")
        self.marked = before

    def _plain(self, el: etree._Element, name: str, frame: Frame) -> str | None:
        read = None if frame.style[name] == "none" else self.named_colour(el, name, frame)  # type: ignore[arg-type]
        return read[0] if read else None

    def _corners(self, el: etree._Element, own: dict[str, str], frame: Frame) -> list[tuple[Array, float]]:
        if el.tag == f"{SVG}path":
            return paths.corners_of_path(own.get("d") or el.get("d") or "")
        lines = shape_lines(el, own, frame, self.tolerance, self.note)
        return paths.corners_of_points(lines[0].points, lines[0].closed) if lines else []

    def _wear(self, marker: etree._Element, frame: Frame, at: tuple[float, float], angle: float, first: bool) -> None:
        own = own_style(marker, self.sheet)
        wide, tall = (
            3.0 if (v := read_px(marker.get(n), frame.width)) is None else v for n in ("markerWidth", "markerHeight")
        )
        if wide <= 0 or tall <= 0:
            return
        orient = (marker.get("orient") or "0").strip()
        if orient == "auto-start-reverse":
            turn = angle + (math.pi if first else 0.0)
        elif orient == "auto":
            turn = angle
        else:
            turn = math.radians(read_px(orient.removesuffix("deg"), 1.0) or 0.0)
        scale = 1.0
        if marker.get("markerUnits") != "userSpaceOnUse":
            width = read_px(frame.style["stroke-width"], math.hypot(frame.width, frame.height) / math.sqrt(2))
            scale = 1.0 if width is None else width
        cos, sin = math.cos(turn) * scale, math.sin(turn) * scale
        matrix = multiply(frame.matrix, (cos, sin, -sin, cos, *at))
        view = read_view_box(marker.get("viewBox"))
        fit: Affine = IDENTITY
        size = (wide, tall)
        if view:
            fit = fit_view_box(view, 0, 0, wide, tall, marker.get("preserveAspectRatio"))
            size = (view[2], view[3])
        refer = [read_px(marker.get(n), 1.0) or 0.0 for n in ("refX", "refY")]
        x, y = fit[0] * refer[0] + fit[4], fit[3] * refer[1] + fit[5]
        matrix = multiply(matrix, (1.0, 0.0, 0.0, 1.0, -x, -y))
        clip = frame.clip
        if own.get("overflow", "hidden") not in ("visible", "auto"):
            box = transformed(shapely.box(0, 0, wide, tall), matrix)
            clip = box if clip is None else intersection(box, clip, self.grid)
        style = cascade(IDENTITY_STYLE, own)
        inner = frame._replace(
            matrix=multiply(matrix, fit), style=style, width=size[0], height=size[1], depth=frame.depth + 1
        ).cut(clip)
        self.using.append(marker)
        try:
            for child in marker:
                self.element(child, inner)
        finally:
            self.using.pop()
