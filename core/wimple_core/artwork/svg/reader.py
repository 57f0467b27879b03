"""The walk through an SVG tree: from elements to painted regions, lowest first."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal, cast

import numpy as np
import shapely
from lxml import etree
from shapely.geometry.base import BaseGeometry

from ...errors import BadDrawing
from ..artwork import Artwork, Note, Paint, polygons_only
from . import paths
from .coordinates import (
    IDENTITY,
    MM_PER_PX,
    Affine,
    fit_view_box,
    largest_scale,
    multiply,
    read_px,
    read_transform,
    read_view_box,
)
from .frame import Frame, fraction, name_of, positive, transformed
from .page import page_size_px
from .regions import EMPTY, fill_region, stroke_region
from .safety import SVG, XLINK_HREF, parse_svg
from .servers import flat_colour
from .shapes import length_px, shape_lines
from .style import INHERITED, OWN, StyleSheet, cascade, own_style, read_colour

MOST_USES = 20_000
DEEPEST = 60
_SHAPES = frozenset(SVG + n for n in ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
_CONTAINERS = frozenset(SVG + n for n in ("g", "a", "svg", "switch", "symbol"))
_SILENT = frozenset(
    SVG + n
    for n in (
        "defs",
        "style",
        "title",
        "metadata",
        "linearGradient",
        "radialGradient",
        "pattern",
        "clipPath",
        "mask",
        "marker",
        "filter",
        "symbol",
        "script",
        "view",
        "font",
        "cursor",
    )
)
_IDENTITY_STYLE = {**INHERITED, **OWN}


class _Reader:
    def __init__(self, root: etree._Element, tolerance: float) -> None:
        self.root = root
        self.tolerance = tolerance
        self.sheet = StyleSheet(root)
        self.by_id = {i: el for el in root.iter(etree.Element) if (i := el.get("id"))}
        self.paints: list[Paint] = []
        self.notes: dict[tuple[str, str], Note] = {}
        self.uses = 0
        self.using: list[etree._Element] = []
        self.clips: dict[tuple[etree._Element, Affine], BaseGeometry] = {}

    def note(self, code: str, what: str, reason: str, level: str = "look") -> None:
        self.notes.setdefault((code, what), Note(f"artwork.{code}", what, reason, level))

    # -- shapes ------------------------------------------------------------------------------------------------------

    def colour(self, el: etree._Element, name: Literal["fill", "stroke"], frame: Frame) -> str | None:
        """Flat colour of a fill or stroke, or None where nothing is painted."""
        text = frame.style[name].strip()
        if text == "none" or text == "transparent":
            return None
        opacity = frame.opacity * fraction(frame.style[f"{name}-opacity"])
        if text.startswith("url("):
            reference, _, fallback = text[4:].partition(")")
            server = self.by_id.get(reference.strip(" '\"").lstrip("#"))
            if server is not None and etree.QName(server).localname in ("linearGradient", "radialGradient", "pattern"):
                found = flat_colour(server, self.by_id, self.sheet)
                if found is None:
                    return None
                kind = "pattern" if server.tag == f"{SVG}pattern" else "gradient"
                self.note(kind, name_of(el), f"its {kind} became one flat colour, {found[0]}: film has no shades")
                read: tuple[str, float] | None = found
            else:
                fallback = fallback.strip()
                if not fallback or fallback == "none":
                    return None
                read = read_colour(fallback)
        elif text.lower() == "currentcolor":
            read = read_colour(frame.style["color"])
        elif text in ("context-fill", "context-stroke"):
            return None
        else:
            read = read_colour(text)
        if read is None:
            self.note(
                "colour", f"“{text[:40]}”", "this colour is not known, so black stands in; choose the film's colour"
            )
            read = ("#000000", 1.0) if name == "fill" else None
            if read is None:
                return None
        opacity *= read[1]
        if opacity <= 0:
            return None
        if opacity < 0.999:
            self.note("opacity", name_of(el), "it is partly see-through; film is not, so it is cut at full strength")
        return read[0]

    def shape(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        if frame.style["visibility"] != "visible":
            return
        fill, stroke = self.colour(el, "fill", frame), self.colour(el, "stroke", frame)
        if el.tag == f"{SVG}line":
            fill = None
        if fill is None and stroke is None:
            return
        scale = largest_scale(frame.matrix)
        if scale == 0 or not math.isfinite(scale):
            return
        tolerance = self.tolerance / scale
        lines = shape_lines(el, own, frame, tolerance, self.note)
        if not lines:
            return
        for marker in ("marker-start", "marker-mid", "marker-end"):
            if frame.style[marker] != "none":
                self.note("marker", name_of(el), "its arrowheads (markers) are not taken: turn them to outlines")
        painted = []
        if fill is not None:
            painted.append((fill_region(lines, cast(Literal["nonzero", "evenodd"], frame.style["fill-rule"])), fill))
        if stroke is not None:
            painted.append((self.stroke(lines, frame, tolerance), stroke))
        if frame.style["paint-order"].split()[0] == "stroke":
            painted.reverse()
        for region, colour in painted:
            if not region.is_empty:
                self.add(transformed(region, frame.matrix), colour, frame.clip)

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

    def add(self, region: BaseGeometry, colour: str, clip: BaseGeometry | None) -> None:
        if clip is not None and not shapely.contains(clip, region):
            region = polygons_only(shapely.intersection(region, clip))
        if not region.is_valid:
            region = polygons_only(shapely.make_valid(region))
        if not region.is_empty and region.area > 0:
            self.paints.append(Paint(region, colour))

    # -- clipping ----------------------------------------------------------------------------------------------------

    def clipped(self, el: etree._Element, frame: Frame) -> Frame:
        text = frame.style["clip-path"]
        if not text.startswith("url("):
            return frame
        target = self.by_id.get(text[4:].split(")")[0].strip(" '\"").lstrip("#"))
        if target is None or target.tag != f"{SVG}clipPath" or target in self.using:
            return frame
        region = self.clip_region(target, el, frame)
        if frame.clip is not None:
            region = polygons_only(shapely.intersection(region, frame.clip))
        return replace(frame, clip=region)

    def clip_region(self, target: etree._Element, el: etree._Element, frame: Frame) -> BaseGeometry:
        matrix = frame.matrix
        if target.get("clipPathUnits") == "objectBoundingBox":
            box = self.user_bounds(el, frame)
            if box is None:
                return EMPTY
            matrix = multiply(matrix, (box[2] - box[0], 0.0, 0.0, box[3] - box[1], box[0], box[1]))
        matrix = multiply(matrix, read_transform(target.get("transform")) or IDENTITY)
        key = (target, matrix)
        if key not in self.clips:
            inner = _Reader.__new__(_Reader)
            inner.__dict__.update(self.__dict__)
            inner.paints, inner.using = [], [*self.using, target]
            base = Frame(matrix, cascade(_IDENTITY_STYLE, own_style(target, self.sheet)), frame.width, frame.height)
            for child in target:
                if isinstance(child.tag, str):
                    inner.clip_child(child, base)
            region: BaseGeometry = shapely.union_all([p.region for p in inner.paints]) if inner.paints else EMPTY
            own = cascade(_IDENTITY_STYLE, own_style(target, self.sheet))
            further = self.clipped(target, replace(base, style=own, clip=None))
            if further.clip is not None:
                region = polygons_only(shapely.intersection(region, further.clip))
            self.clips[key] = region
        return self.clips[key]

    def clip_child(self, el: etree._Element, frame: Frame) -> None:
        own = own_style(el, self.sheet)
        style = cascade(frame.style, own)
        if style["display"] == "none":
            return
        style.update(
            {"fill": "#000", "stroke": "none", "fill-opacity": "1", "opacity": "1", "fill-rule": style["clip-rule"]}
        )
        m = read_transform(style["transform"])
        inner = replace(frame, style=style, matrix=multiply(frame.matrix, m or IDENTITY))
        inner = self.clipped(el, inner)
        if el.tag in _SHAPES:
            self.shape(el, own, inner)
        elif el.tag == f"{SVG}use":
            target = self.target_of(el)
            if target is not None and target.tag in _SHAPES:
                shift = (
                    1.0,
                    0.0,
                    0.0,
                    1.0,
                    length_px(el, own, "x", inner, self.note),
                    length_px(el, own, "y", inner, self.note),
                )
                self.clip_child(target, replace(inner, matrix=multiply(inner.matrix, shift)))

    def user_bounds(self, el: etree._Element, frame: Frame) -> tuple[float, float, float, float] | None:
        inner = _Reader.__new__(_Reader)
        inner.__dict__.update(self.__dict__)
        inner.paints, inner.notes = [], {}
        inner.using = [*self.using]
        plain = {**frame.style, "clip-path": "none", "transform": "", "opacity": "1", "display": "inline"}
        inner.element_inside(el, own_style(el, self.sheet), replace(frame, style=plain, matrix=IDENTITY, clip=None))
        if not inner.paints:
            return None
        b = shapely.total_bounds(np.array([p.region for p in inner.paints], dtype=object))
        return float(b[0]), float(b[1]), float(b[2]), float(b[3])

    # -- the walk ----------------------------------------------------------------------------------------------------

    def target_of(self, el: etree._Element) -> etree._Element | None:
        href = (el.get("href") or el.get(XLINK_HREF) or "").strip()
        if not href.startswith("#"):
            if href:
                self.note("outside", f"“{href[:60]}”", "it lies outside the drawing, and nothing outside is fetched")
            return None
        target = self.by_id.get(href[1:])
        return None if target is None or target in self.using else target

    def element(self, el: etree._Element, frame: Frame) -> None:
        if not isinstance(el.tag, str) or frame.depth > DEEPEST:
            return
        own = own_style(el, self.sheet)
        style = cascade(frame.style, own)
        if style["display"] == "none":
            return
        opacity = frame.opacity * fraction(style["opacity"])
        if opacity <= 0:
            return
        m = read_transform(style["transform"])
        if m is None:
            self.note(
                "transform", name_of(el), f"its transform “{style['transform'][:40]}” is damaged, so it is left out"
            )
            return
        inner = replace(frame, style=style, matrix=multiply(frame.matrix, m), opacity=opacity, depth=frame.depth + 1)
        inner = self.clipped(el, inner)
        if style["mask"] != "none":
            self.note("mask", name_of(el), "its mask is not taken: it is drawn whole")
        if style["filter"] != "none":
            self.note("filter", name_of(el), "its filter (blur, shadow) is not taken: a blade cuts edges")
        self.element_inside(el, own, inner)

    def element_inside(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        kind = etree.QName(el).localname
        if el.tag in _SHAPES:
            self.shape(el, own, frame)
        elif kind == "use":
            self.use(el, own, frame)
        elif kind == "svg" and el is not self.root:
            self.viewport(
                el,
                own,
                frame,
                length_px(el, own, "width", frame, self.note, frame.width),
                length_px(el, own, "height", frame, self.note, frame.height),
            )
        elif kind == "switch":
            for child in el:
                if isinstance(child.tag, str) and not child.get("requiredExtensions"):
                    self.element(child, frame)
                    break
        elif el.tag in _CONTAINERS and kind != "symbol":
            for child in el:
                self.element(child, frame)
        elif kind in ("text", "tspan", "textPath"):
            words = " ".join("".join(el.itertext()).split())[:40]
            self.note("text", f"“{words}”", "text is not taken: turn it to outlines in the drawing program")
        elif kind == "image" or el.get("data-taken-out") == "image":
            self.note("picture", name_of(el), "a picture inside a drawing is not taken: it has no edges to cut along")
        elif kind == "foreignObject":
            self.note("foreign", name_of(el), "it is not drawing, so it is not taken")
        elif (
            el.tag not in _SILENT
            and el.tag.startswith(SVG)
            and kind not in ("desc", "set", "animate", "animateTransform", "animateMotion")
        ):
            self.note("element", f"<{kind}>", "this kind of element is not taken")

    def use(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        target = self.target_of(el)
        self.uses += 1
        if target is None:
            return
        if self.uses > MOST_USES:
            raise BadDrawing(
                f"The drawing repeats its parts more than {MOST_USES} times.",
                field="drawing",
                hint="Simplify it: a symbol that holds copies of copies grows without end.",
            )
        shift: Affine = (
            1.0,
            0.0,
            0.0,
            1.0,
            length_px(el, own, "x", frame, self.note),
            length_px(el, own, "y", frame, self.note),
        )
        inner = replace(frame, matrix=multiply(frame.matrix, shift), depth=frame.depth + 1)
        self.using.append(target)
        try:
            if target.tag in (f"{SVG}symbol", f"{SVG}svg"):
                target_own = own_style(target, self.sheet)
                style = cascade(frame.style, target_own)
                style["opacity"] = target_own.get("opacity", "1")
                m = read_transform(target_own.get("transform")) or IDENTITY
                inner = replace(
                    inner,
                    style=style,
                    matrix=multiply(inner.matrix, m),
                    opacity=inner.opacity * fraction(style["opacity"]),
                )
                size = [
                    length_px(el, own, n, inner, self.note, length_px(target, target_own, n, inner, self.note, full))
                    for n, full in (("width", frame.width), ("height", frame.height))
                ]
                self.viewport(target, {}, inner, *size)
            else:
                self.element(target, inner)
        finally:
            self.using.pop()

    def viewport(self, el: etree._Element, own: dict[str, str], frame: Frame, width: float, height: float) -> None:
        """The inside of a nested svg or a symbol: its view box fitted and its edges cut off."""
        if width <= 0 or height <= 0:
            return
        x, y = (
            (length_px(el, own, "x", frame, self.note), length_px(el, own, "y", frame, self.note))
            if el.tag == f"{SVG}svg"
            else (0.0, 0.0)
        )
        clip = frame.clip
        if frame.style["overflow"] not in ("visible", "auto"):
            box = transformed(shapely.box(x, y, x + width, y + height), frame.matrix)
            clip = box if clip is None else polygons_only(shapely.intersection(box, clip))
        view = read_view_box(el.get("viewBox"))
        m: Affine = (1.0, 0.0, 0.0, 1.0, x, y)
        if view:
            m = fit_view_box(view, x, y, width, height, el.get("preserveAspectRatio"))
            width, height = view[2], view[3]
        inner = replace(frame, matrix=multiply(frame.matrix, m), width=width, height=height, clip=clip)
        for child in el:
            self.element(child, inner)


def read_svg(data: bytes, tolerance: float = 0.01) -> Artwork:
    """Read an SVG file into painted regions.

    `tolerance` is the largest distance in mm between a curve and its chords, at the drawing's own size. Raises
    BadDrawing for files that cannot or must not be read, and for those in which nothing is painted.
    """
    root = parse_svg(data)
    reader = _Reader(root, tolerance)
    width, height, view, sized = page_size_px(root)
    own = own_style(root, reader.sheet)
    style = cascade(_IDENTITY_STYLE, own)
    matrix: Affine = (MM_PER_PX, 0.0, 0.0, MM_PER_PX, 0.0, 0.0)
    frame = Frame(matrix, style, width or 100.0, height or 100.0, opacity=fraction(style["opacity"]))
    if not sized:
        reader.note("size", "its page", "the file does not say how large it is: check the width on the drawing")
    if view and width and height:
        page = transformed(shapely.box(0, 0, width, height), matrix)
        inner = multiply(matrix, fit_view_box(view, 0, 0, width, height, root.get("preserveAspectRatio")))
        frame = replace(frame, matrix=inner, width=view[2], height=view[3], clip=page)
    elif width and height:
        frame = replace(frame, clip=transformed(shapely.box(0, 0, width, height), matrix))
    frame = reader.clipped(root, frame)
    if style["display"] != "none":
        for child in root:
            reader.element(child, frame)
    paints = [p for p in reader.paints if math.isfinite(p.region.area)]
    if not paints:
        why = "; ".join(f"{n.what}: {n.reason}" for n in list(reader.notes.values())[:3] if n.code != "artwork.size")
        raise BadDrawing(
            "Nothing in the drawing is painted.",
            field="drawing",
            hint=why or "Give its shapes a fill or a stroke, and check that they lie on the page.",
        )
    height_mm = height * MM_PER_PX
    flip = np.array([1.0, -1.0])
    turned = tuple(Paint(shapely.transform(p.region, lambda c: c * flip + (0.0, height_mm)), p.colour) for p in paints)
    return Artwork(turned, width * MM_PER_PX, height_mm, sized, tuple(reader.notes.values()))
