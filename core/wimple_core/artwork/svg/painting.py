"""Fills and strokes: what one shape of an SVG drawing paints, in flat colours."""

from __future__ import annotations

import math
from typing import Literal, cast

from lxml import etree
from shapely.geometry.base import BaseGeometry

from ...arrays import Array
from ...overlay import intersection
from ...verdict import Level
from ..artwork import Note, Paint
from ..see_through import SEE_THROUGH, SeeThrough, taken_as
from . import paths
from .coordinates import largest_scale, read_px
from .frame import Frame, fraction, name_of, positive, transformed
from .regions import Rule, fill_of_rings, rings_of, stroke_region
from .safety import SVG
from .servers import bands, flat_colour
from .shapes import shape_lines
from .style import StyleSheet, read_colour
from .taken import Taken

GRADIENTS = ("linearGradient", "radialGradient")


def reference_of(text: str) -> str:
    """The id in `url(#id)`."""
    return text[4:].split(")")[0].strip(" '\"").lstrip("#")


class Painter:
    """Takes down what is painted, lowest first, and notes of what was not taken as it stood.

    `shades` tells into how many flat steps a gradient is cut, `see_through` what becomes of see-through paint; `marked`
    is where the colours that markers inherit stand.
    """

    def __init__(self, root: etree._Element, tolerance: float, shades: int, see_through: SeeThrough) -> None:
        self.root = root
        self.tolerance = tolerance
        self.shades = shades
        self.see_through = see_through
        self.sheet = StyleSheet(root)
        self.by_id: dict[str, etree._Element] = {i: el for el in root.iter(etree.Element) if (i := el.get("id"))}
        self.taken = Taken()
        self.notes: dict[tuple[str, str], Note] = {}
        self.flat: dict[etree._Element, tuple[str, float] | None] = {}
        self.marked: dict[str, str | None] = {"fill": None, "stroke": None}
        self.drawn = 0
        """How many shapes were come by: what the pieces are named after."""

    @property
    def grid(self) -> float:
        """Places of the drawing nearer than this (mm) are one."""
        return self.tolerance / 1024

    @property
    def paints(self) -> list[Paint]:
        """What is painted, mm, y down, the lowest first."""
        return self.taken.paints(self.grid)

    def note(self, code: str, what: str, reason: str, level: Level = "look") -> None:
        self.notes.setdefault((code, what), Note(f"artwork.{code}", what, reason, level))

    def server(self, el: etree._Element, name: Literal["fill", "stroke"], frame: Frame) -> etree._Element | None:
        """The gradient or pattern a fill or stroke names."""
        text = frame.style[name].strip()
        server = self.by_id.get(reference_of(text)) if text.startswith("url(") else None
        known = server is not None and etree.QName(server).localname in (*GRADIENTS, "pattern")
        return server if known else None

    def named_colour(
        self, el: etree._Element, name: Literal["fill", "stroke"], frame: Frame
    ) -> tuple[str, float] | None:
        """Colour and opacity a fill or stroke names; black, and noted, for a fill nobody knows."""
        text = frame.style[name].strip()
        server = self.server(el, name, frame)
        if server is not None:
            if server not in self.flat:
                self.flat[server] = flat_colour(server, self.by_id, self.sheet)
            found = self.flat[server]
            kind = etree.QName(server).localname.removeprefix("linear").removeprefix("radial").lower()
            if found and (kind == "pattern" or self.shades == 1):
                self.note(kind, name_of(el), f"its {kind} became one flat colour, {found[0]}: film has no shades")
            elif found:
                self.note(kind, name_of(el), f"its {kind} became {self.shades} flat steps: film has no shades")
            return found
        if text.startswith("url("):
            text = text.partition(")")[2].strip()
            if not text or text == "none":
                return None
        if text.lower() == "currentcolor":
            text = frame.style["color"]
        if text in ("context-fill", "context-stroke"):
            taken = self.marked[text.removeprefix("context-")]
            return (taken, 1.0) if taken else None
        read = read_colour(text)
        if read is None:
            self.note(
                "colour", f"“{text[:40]}”", "this colour is not known, so black stands in; choose the film's colour"
            )
            return ("#000000", 1.0) if name == "fill" else None
        return read

    def colour(self, el: etree._Element, name: Literal["fill", "stroke"], frame: Frame) -> str | None:
        """Flat colour of a fill or stroke, or None where nothing is painted."""
        if frame.style[name].strip() in ("none", "transparent"):
            return None
        read = self.named_colour(el, name, frame)
        opacity = frame.opacity * fraction(frame.style[f"{name}-opacity"]) * (read[1] if read else 0.0)
        if read is None or opacity <= 0:
            return None
        return self.shown(read[0], opacity, name_of(el))

    def shown(self, colour: str, opacity: float, what: str) -> str | None:
        """The colour of something (`what`) as it is taken down: film is not see-through."""
        taken = taken_as(colour, opacity, self.see_through)
        if opacity < SEE_THROUGH:
            much = f"{what} ({100 * opacity:.0f} % dense)"
            if taken is None:
                self.note("opacity_out", much, "film is not see-through, so what is fainter than a shape is left out")
            elif taken == colour:
                self.note("opacity", much, "film is not see-through, so it is cut at full strength")
            else:
                self.note("opacity", much, "film is not see-through, so it is cut as the colours it gives")
        return taken

    def shape(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        self.drawn += 1
        called = str(self.drawn)
        if frame.style["visibility"] != "visible":
            return
        fill, stroke = self.colour(el, "fill", frame), self.colour(el, "stroke", frame)
        if el.tag == f"{SVG}line":
            fill = None
        scale = largest_scale(frame.matrix)
        if scale == 0 or not math.isfinite(scale):
            return
        tolerance = self.tolerance / scale
        lines = shape_lines(el, own, frame, tolerance, self.note)
        if not lines:
            return
        painted: list[tuple[BaseGeometry | Array, str, Literal["fill", "stroke"]]] = []
        rule = cast(Rule, frame.style["fill-rule"])
        if fill is not None:
            rings = rings_of(lines)
            lone = len(rings) == 1 and self.stepped(el, "fill", frame) is None
            painted.append((rings[0] if lone else fill_of_rings(rings, rule, tolerance / 1024), fill, "fill"))
        if stroke is not None:
            painted.append((self.stroke(lines, frame, tolerance), stroke, "stroke"))
        if frame.style["paint-order"].split()[0] == "stroke":
            painted.reverse()
        for shape, colour, name in painted:
            own_name = called if name == "fill" else f"{called}s"
            if not isinstance(shape, BaseGeometry):
                self.taken.ring(shape, frame.matrix, rule, colour, own_name, frame.clip)
            elif not shape.is_empty:
                self.taken.region(transformed(shape, frame.matrix), colour, own_name, frame.clip)
                for n, (step, shade) in enumerate(self.steps(el, name, shape, frame), start=1):
                    self.taken.region(transformed(step, frame.matrix), shade, f"{own_name}g{n}", frame.clip)

    def stepped(self, el: etree._Element, name: Literal["fill", "stroke"], frame: Frame) -> etree._Element | None:
        """The gradient that is cut into flat steps, if it is one and is."""
        server = self.server(el, name, frame) if self.shades > 1 else None
        return server if server is not None and etree.QName(server).localname in GRADIENTS else None

    def steps(
        self, el: etree._Element, name: Literal["fill", "stroke"], region: BaseGeometry, frame: Frame
    ) -> list[tuple[BaseGeometry, str]]:
        """Flat steps of a gradient, each laid over the one before; none where one flat colour stands for it."""
        server = self.stepped(el, name, frame)
        if server is None:
            return []
        found = bands(server, self.by_id, self.sheet, region.bounds, self.shades)
        return [(intersection(region, band, self.grid), colour) for band, colour in found]

    def stroke(self, lines: list[paths.Polyline], frame: Frame, tolerance: float) -> BaseGeometry:
        style = frame.style
        diagonal = math.hypot(frame.width, frame.height) / math.sqrt(2)
        width = read_px(style["stroke-width"], diagonal)
        dashes: list[float] = []
        if style["stroke-dasharray"] != "none":
            read = [read_px(v, diagonal) for v in style["stroke-dasharray"].replace(",", " ").split()]
            if all(v is not None and v >= 0 for v in read) and sum(v or 0.0 for v in read) > 0:
                dashes = [v or 0.0 for v in read]
        return stroke_region(
            lines,
            1.0 if width is None else width,
            join=style["stroke-linejoin"],
            cap=style["stroke-linecap"],
            mitre_limit=positive(style["stroke-miterlimit"], 4.0),
            dashes=dashes,
            dash_offset=read_px(style["stroke-dashoffset"], diagonal) or 0.0,
            tolerance=tolerance,
        )
