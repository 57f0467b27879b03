"""Where the walk through a drawing stands, and small readings of its styles."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from lxml import etree
from shapely.geometry.base import BaseGeometry

from .coordinates import Affine, read_px
from .style import Style


class Frame(NamedTuple):
    """Where the walk stands: transform to mm (y down), style, viewport in user units, clip in mm with its box,
    opacity."""

    matrix: Affine
    style: Style
    width: float
    height: float
    clip: BaseGeometry | None = None
    opacity: float = 1.0
    depth: int = 0
    box: tuple[float, float, float, float] | None = None

    def cut(self, clip: BaseGeometry | None) -> Frame:
        """The same under another clip."""
        return self._replace(clip=clip, box=None if clip is None else clip.bounds)


def fraction(text: str) -> float:
    value = 1.0 if text == "1" else read_px(text, 1.0)
    return 1.0 if value is None else min(1.0, max(0.0, value))


def positive(text: str, default: float) -> float:
    value = read_px(text, 1.0)
    return default if value is None or value < 1 else value


def name_of(el: etree._Element) -> str:
    kind = etree.QName(el).localname
    label = el.get("id") or next((str(v) for k, v in el.attrib.items() if str(k).endswith("}label")), "")
    return f"{kind} “{label[:40]}”" if label else f"{'an' if kind[0] in 'aeiou' else 'a'} {kind}"


def transformed(region: BaseGeometry, m: Affine) -> BaseGeometry:
    linear = np.array([[m[0], m[2]], [m[1], m[3]]])
    moved: BaseGeometry = shapely.transform(region, lambda p: p @ linear.T + (m[4], m[5]))
    return moved
