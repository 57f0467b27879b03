"""The bill of pieces of each element: lines with what is alike, and the figures of every piece."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely
from shapely import STRtree

from ..artwork.likeness import alike, shapes_of
from ..artwork.pieces import is_letter
from ..figures import LengthStyle, format_quantity
from ..fit import Separated
from ..job.document import Element
from .drawn import Ring, View, flat

MOST_LINES = 24


class LineView(View):
    """A line of the bill: what it holds, in which colour, how many, their sizes and their area together; `pieces` by
    their numbers among the names."""

    colour: str
    words: str
    count: int
    sizes: str
    area: str
    pieces: list[int]


class BillView(View):
    """The pieces of one element as it stands: for each its name, the number of its shape, its area (mm2) and longest
    side (mm) on the blank, the number of the smallest piece round it (-1: none), and in `middles` its middle in the
    drawing's own mm (x0, y0, x1, ...). `scale` is mm on the blank for one of those. `gone` names those left out, with
    the colours they had; `groups` tells which pieces go as one, by their numbers."""

    element: str
    scale: float
    lines: list[LineView]
    names: list[str]
    alike: list[int]
    area: list[float]
    longest: list[float]
    within: list[int]
    middles: Ring
    gone: list[tuple[str, str]]
    groups: list[list[int]]


def _within(parts: np.ndarray) -> np.ndarray:
    """For each piece (n,) the number of the smallest that has it in its outermost contour; -1 where none has."""
    hulls = shapely.polygons(shapely.get_exterior_ring(parts))
    size = shapely.area(hulls)
    point, hull = STRtree(hulls).query(shapely.point_on_surface(parts), predicate="within")
    other = (point != hull) & (size[hull] > size[point])
    point, hull = point[other], hull[other]
    order = np.argsort(-size[hull], kind="stable")
    out = np.full(len(parts), -1, dtype=np.int64)
    out[point[order]] = hull[order]
    return out


def _word(name: str, shape: str, letters: bool) -> str:
    """What a piece is called: what made it says so by its name, or its shape does."""
    base = name.partition(":")[0].partition(".")[0]
    if letters and is_letter(base):
        return "letter"
    return base.rstrip("0123456789").replace("_", " ") if base[:1].isalpha() else shape


def _sizes(longest: np.ndarray, style: LengthStyle) -> str:
    low, high = float(longest.min()), float(longest.max())
    if high - low < 0.05 * high:
        return format_quantity(high, "mm", style)
    return f"{format_quantity(low, 'mm', style).removesuffix(' mm')} to {format_quantity(high, 'mm', style)}"


def _bill(element: Element, made: Separated, style: LengthStyle) -> BillView:
    left, _, right, _ = made.frame
    scale = element.scale(right - left)
    parts = np.concatenate([c.pieces[0] for c in made.colours])
    names = [n for c in made.colours for n in c.pieces[1]]
    colours = [c.colour for c in made.colours for _ in c.pieces[1]]
    shapes = shapes_of(parts, scale)
    bounds = shapely.bounds(parts)
    longest = (bounds[:, 2:] - bounds[:, :2]).max(axis=1) * scale
    area = shapely.area(parts) * scale**2
    groups: dict[tuple[str, str], list[int]] = {}
    for n, (colour, name, shape) in enumerate(zip(colours, names, shapes, strict=True)):
        groups.setdefault((colour, _word(name, shape, element.source.is_letters)), []).append(n)
    if len(groups) > MOST_LINES:
        groups = {}
        for n, colour in enumerate(colours):
            groups.setdefault((colour, "piece"), []).append(n)
    lines = [
        LineView(
            colour=colour,
            words=word if len(some) == 1 else f"{word}s",
            count=len(some),
            sizes=_sizes(longest[some], style),
            area=format_quantity(float(area[some].sum()), "mm2", style),
            pieces=some,
        )
        for (colour, word), some in groups.items()
    ]
    return BillView(
        element=element.id,
        scale=scale,
        lines=lines,
        names=names,
        alike=alike(parts).tolist(),
        area=np.round(area, 3).tolist(),
        longest=np.round(longest, 3).tolist(),
        within=_within(parts).tolist(),
        middles=flat((bounds[:, :2] + bounds[:, 2:]) / 2),
        gone=[(p.name, p.colour) for p in made.gone],
        groups=[[n for n, name in enumerate(names) if name in g] for g in made.groups],
    )


def bill_view(elements: tuple[Element, ...], made: Mapping[str, Separated], style: LengthStyle) -> list[BillView]:
    """The bills of all elements."""
    return [_bill(e, made[e.id], style) for e in elements]
