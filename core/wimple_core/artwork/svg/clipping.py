"""Clip paths and masks: where of an SVG drawing's elements anything shows."""

from __future__ import annotations

import copy

import numpy as np
import shapely
from lxml import etree
from shapely.geometry.base import BaseGeometry

from ...arrangement import EMPTY
from ...overlay import intersection, union
from ..artwork import Paint, separate
from ..see_through import SeeThrough
from .coordinates import IDENTITY, Affine, multiply, read_px, read_transform
from .frame import Frame, name_of, transformed
from .painting import Painter, reference_of
from .safety import SVG, XLINK_HREF
from .shapes import length_px
from .style import INHERITED, OWN, cascade, own_style
from .taken import Taken

SHAPES = frozenset(SVG + n for n in ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
IDENTITY_STYLE = {**INHERITED, **OWN}
LEAST_SHOWN = 0.1
"""A mask of less light than this hides what is under it; film has no fading, so anything more shows it whole."""


class Clipper(Painter):
    """Keeps what is cut away from being painted."""

    def __init__(self, root: etree._Element, tolerance: float, shades: int, see_through: SeeThrough) -> None:
        super().__init__(root, tolerance, shades, see_through)
        self.using: list[etree._Element] = []
        self.clips: dict[tuple[etree._Element, Affine], BaseGeometry] = {}

    def element(self, el: etree._Element, frame: Frame) -> None:
        raise NotImplementedError

    def element_inside(self, el: etree._Element, own: dict[str, str], frame: Frame) -> None:
        raise NotImplementedError

    def clipped(self, el: etree._Element, frame: Frame) -> Frame:
        text = frame.style["clip-path"]
        if not text.startswith("url("):
            return frame
        target = self.by_id.get(reference_of(text))
        if target is None or target.tag != f"{SVG}clipPath" or target in self.using:
            return frame
        region = self.clip_region(target, el, frame)
        if frame.clip is not None:
            region = intersection(region, frame.clip, self.grid)
        return frame.cut(region)

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
            inner = copy.copy(self)
            inner.taken, inner.using = Taken(), [*self.using, target]
            base = Frame(matrix, cascade(IDENTITY_STYLE, own_style(target, self.sheet)), frame.width, frame.height)
            for child in target:
                if isinstance(child.tag, str):
                    inner.clip_child(child, base)
            region: BaseGeometry = union([p.region for p in inner.paints], self.grid)
            own = cascade(IDENTITY_STYLE, own_style(target, self.sheet))
            further = inner.clipped(target, base._replace(style=own).cut(None))
            if further.clip is not None:
                region = intersection(region, further.clip, self.grid)
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
        inner = frame._replace(style=style, matrix=multiply(frame.matrix, m or IDENTITY))
        inner = self.clipped(el, inner)
        if el.tag in SHAPES:
            self.shape(el, own, inner)
        elif el.tag == f"{SVG}use":
            target = self.target_of(el)
            if target is not None and (target.tag in SHAPES or target.tag == f"{SVG}use"):
                x, y = (length_px(el, own, n, inner, self.note) for n in ("x", "y"))
                self.using = [*self.using, target]
                self.clip_child(target, inner._replace(matrix=multiply(inner.matrix, (1.0, 0.0, 0.0, 1.0, x, y))))
                self.using = self.using[:-1]

    # -- masks -------------------------------------------------------------------------------------------------------

    def masked(self, el: etree._Element, frame: Frame) -> Frame:
        """The frame cut to where the element's mask lets it show: a mask's shades become shown or hidden."""
        text = frame.style["mask"]
        target = self.by_id.get(reference_of(text)) if text.startswith("url(") else None
        if target is None or target.tag != f"{SVG}mask" or target in self.using:
            return frame
        self.note("mask", name_of(el), "its mask is taken by its shape: film does not fade")
        region = self.mask_region(target, el, frame)
        return frame.cut(region if frame.clip is None else intersection(region, frame.clip, self.grid))

    def mask_region(self, target: etree._Element, el: etree._Element, frame: Frame) -> BaseGeometry:
        own = own_style(target, self.sheet)
        box = self.user_bounds(el, frame)
        if box is None:
            return EMPTY
        wide, tall = box[2] - box[0], box[3] - box[1]
        unit: Affine = (wide, 0.0, 0.0, tall, box[0], box[1])
        if target.get("maskUnits") == "userSpaceOnUse":
            inside = frame.cut(None)
            x, y, w, h = (
                length_px(target, own, n, inside, self.note, d)
                for n, d in (
                    ("x", -0.1 * frame.width),
                    ("y", -0.1 * frame.height),
                    ("width", 1.2 * frame.width),
                    ("height", 1.2 * frame.height),
                )
            )
        else:
            fx, fy, fw, fh = (
                d if (v := read_px(target.get(n), 1.0)) is None else v
                for n, d in (("x", -0.1), ("y", -0.1), ("width", 1.2), ("height", 1.2))
            )
            x, y, w, h = box[0] + fx * wide, box[1] + fy * tall, fw * wide, fh * tall
        page = transformed(shapely.box(x, y, x + w, y + h), frame.matrix)
        matrix = multiply(frame.matrix, unit) if target.get("maskContentUnits") == "objectBoundingBox" else frame.matrix
        inner = copy.copy(self)
        inner.__class__ = _lit(type(self))
        inner.taken, inner.notes, inner.using, inner.shades = Taken(), {}, [*self.using, target], 1
        base = Frame(matrix, cascade(IDENTITY_STYLE, own), frame.width, frame.height).cut(page)
        for child in target:
            inner.element(child, base._replace(style={**base.style, "mask": "none"}))
        by_light = tuple(Paint(p.region, p.colour) for p in inner.paints)
        alpha = own.get("mask-type", target.get("mask-type")) == "alpha"
        lit = [
            c.seen for c in separate(by_light, self.tolerance) if alpha or int(c.colour[1:3], 16) >= 255 * LEAST_SHOWN
        ]
        region = union(lit, self.grid) if lit else EMPTY
        within = copy.copy(self)
        within.using = [*self.using, target]
        further = within.masked(target, base._replace(style=cascade(IDENTITY_STYLE, own)).cut(None))
        return region if further.clip is None else intersection(region, further.clip, self.grid)

    def user_bounds(self, el: etree._Element, frame: Frame) -> tuple[float, float, float, float] | None:
        inner = copy.copy(self)
        inner.taken, inner.notes = Taken(), {}
        inner.using = [*self.using]
        plain = {
            **frame.style,
            "clip-path": "none",
            "mask": "none",
            "transform": "",
            "opacity": "1",
            "display": "inline",
        }
        inner.element_inside(el, own_style(el, self.sheet), frame._replace(style=plain, matrix=IDENTITY).cut(None))
        painted = np.array([p.region for p in inner.paints], dtype=object)
        if not len(painted):
            return None
        b = shapely.total_bounds(painted)
        return float(b[0]), float(b[1]), float(b[2]), float(b[3])

    def target_of(self, el: etree._Element) -> etree._Element | None:
        href = (el.get("href") or el.get(XLINK_HREF) or "").strip()
        if not href.startswith("#"):
            if href:
                self.note("outside", f"“{href[:60]}”", "it lies outside the drawing, and nothing outside is fetched")
            return None
        target = self.by_id.get(href[1:])
        return None if target is None or target in self.using else target


def _light(colour: str) -> float:
    """How much a mask of that colour lets through (SVG 1.1, 14.4: luminance of linear RGB, here of sRGB as drawn)."""
    red, green, blue = (int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def _lit(kind: type) -> type:
    """A reader that takes colours down as the light they let through."""

    def shown(self: Painter, colour: str, opacity: float, what: str) -> str:
        grey = round(255 * _light(colour) * opacity)
        return f"#{grey:02x}{grey:02x}{grey:02x}"

    return type("Mask" + kind.__name__, (kind,), {"shown": shown})
