"""The walk through an SVG tree: from elements to painted regions, lowest first."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import shapely
from lxml import etree

from ...errors import BadDrawing
from ...overlay import intersection
from ..artwork import Artwork
from ..limits import check_reach
from ..see_through import SeeThrough, blended
from .clipping import IDENTITY_STYLE, SHAPES
from .coordinates import IDENTITY, MM_PER_PX, Affine, fit_view_box, multiply, read_transform, read_view_box
from .expansion import MOST_USES, check_expansion
from .frame import Frame, fraction, name_of, transformed
from .markers import Marker
from .page import page_size_px
from .safety import SVG, as_bytes, clean_tree, parse_svg
from .shapes import length_px
from .style import cascade, own_style

DEEPEST = 60
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


class _Reader(Marker):
    """The walk through the tree."""

    def __init__(self, root: etree._Element, tolerance: float, shades: int, see_through: SeeThrough) -> None:
        super().__init__(root, tolerance, shades, see_through)
        self.uses = 0

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
        inner = frame._replace(style=style, matrix=multiply(frame.matrix, m), opacity=opacity, depth=frame.depth + 1)
        inner = self.clipped(el, inner)
        inner = self.masked(el, inner)
        if style["filter"] != "none":
            self.note("filter", name_of(el), "its filter (blur, shadow) is not taken: a blade cuts edges")
        self.element_inside(el, own, inner)

    def element_inside(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        kind = etree.QName(el).localname
        if el.tag in SHAPES:
            self.shape(el, own, frame)
            self.markers(el, own, frame)
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
        inner = frame._replace(matrix=multiply(frame.matrix, shift), depth=frame.depth + 1)
        self.using.append(target)
        try:
            if target.tag in (f"{SVG}symbol", f"{SVG}svg"):
                target_own = own_style(target, self.sheet)
                style = cascade(frame.style, target_own)
                style["opacity"] = target_own.get("opacity", "1")
                m = read_transform(target_own.get("transform")) or IDENTITY
                inner = inner._replace(
                    style=style, matrix=multiply(inner.matrix, m), opacity=inner.opacity * fraction(style["opacity"])
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
            clip = box if clip is None else intersection(box, clip, self.grid)
        view = read_view_box(el.get("viewBox"))
        m: Affine = (1.0, 0.0, 0.0, 1.0, x, y)
        if view:
            m = fit_view_box(view, x, y, width, height, el.get("preserveAspectRatio"))
            width, height = view[2], view[3]
        inner = frame._replace(matrix=multiply(frame.matrix, m), width=width, height=height).cut(clip)
        for child in el:
            self.element(child, inner)


def read_svg(data: bytes, tolerance: float = 0.01, shades: int = 1, see_through: SeeThrough = "shadows_out") -> Artwork:
    """Read an SVG file into painted regions.

    `tolerance` is the largest distance in mm between a curve and its chords, at the drawing's own size; `shades` into
    how many flat steps a gradient is cut (1: its mean colour); `see_through` what becomes of see-through paint. Raises
    BadDrawing for files that cannot or must not be read, and for those in which nothing is painted.
    """
    return _read(parse_svg(data), tolerance, shades, see_through)


def clean_and_read_svg(data: bytes, tolerance: float = 0.01) -> tuple[bytes, Artwork]:
    """A drawing as `clean_svg` gives it, and what `read_svg` reads of that, parsed once. Raises BadDrawing as both
    do."""
    root = clean_tree(data)
    return as_bytes(root), _read(root, tolerance, 1, "shadows_out")


def _read(root: etree._Element, tolerance: float, shades: int, see_through: SeeThrough) -> Artwork:
    check_expansion(root)
    reader = _Reader(root, tolerance, shades, see_through)
    width, height, view, sized = page_size_px(root)
    own = own_style(root, reader.sheet)
    style = cascade(IDENTITY_STYLE, own)
    matrix: Affine = (MM_PER_PX, 0.0, 0.0, MM_PER_PX, 0.0, 0.0)
    frame = Frame(matrix, style, width or 100.0, height or 100.0, opacity=fraction(style["opacity"]))
    if not sized:
        reader.note("size", "its page", "the file does not say how large it is: check the width on the drawing")
    check_reach(np.array([[width * MM_PER_PX, height * MM_PER_PX]]), "its page")
    if view and width and height:
        page = transformed(shapely.box(0, 0, width, height), matrix)
        inner = multiply(matrix, fit_view_box(view, 0, 0, width, height, root.get("preserveAspectRatio")))
        frame = frame._replace(matrix=inner, width=view[2], height=view[3]).cut(page)
    elif width and height:
        frame = frame.cut(transformed(shapely.box(0, 0, width, height), matrix))
    frame = reader.clipped(root, frame)
    if style["display"] != "none":
        for child in root:
            reader.element(child, frame)
    paints = [p for p in reader.paints if math.isfinite(p.region.area)]
    if not paints and see_through != "full" and any(n.code == "artwork.opacity_out" for n in reader.notes.values()):
        # All of it is see-through: then that is the drawing.
        return _read(root, tolerance, shades, "full")
    if not paints:
        why = "; ".join(f"{n.what}: {n.reason}" for n in list(reader.notes.values())[:3] if n.code != "artwork.size")
        raise BadDrawing(
            "Nothing in the drawing is painted.",
            hint=why or "Give its shapes a fill or a stroke, and check that they lie on the page.",
        )
    height_mm = height * MM_PER_PX
    flip = np.array([1.0, -1.0])
    regions = np.array([p.region for p in paints], dtype=object)
    upright = shapely.transform(regions, lambda c: c * flip + (0.0, height_mm))
    turned = tuple(blended([replace(p, region=r) for p, r in zip(paints, upright, strict=True)], tolerance))
    return Artwork(turned, width * MM_PER_PX, height_mm, sized, tuple(reader.notes.values()), tolerance)
