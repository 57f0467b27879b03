"""What is printed and then cut: the face with its bleed, the contour it is cut along, and three marks by which a
machine finds the page. Common practice, no source, where no other is named."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY
from ..arrays import Array
from ..fit import Fit
from ..job.document import Element, Print
from ..overlay import difference, union

MARK_MM = 6.0
MARK_AWAY_MM = 8.0
IN_SHARE = 0.18
"""The third mark stands in from its corner by that share of the width, so that a page laid turned is seen."""
SMOOTH_MM = 0.6
"""Waists narrower than twice that are not cut into where a border is left."""


@dataclass(frozen=True, eq=False)
class Face:
    """One printed element in the frame of its page, whose lower left is the origin (mm): its colours, the lowest first,
    with what bleeds over the contour; the contour; the middles (3, 2) of its marks; and the size of the page."""

    name: str
    element: str
    inks: tuple[tuple[str, BaseGeometry], ...]
    contour: BaseGeometry
    marks: Array
    size: tuple[float, float]

    @property
    def mark_regions(self) -> list[BaseGeometry]:
        """The marks themselves: black squares."""
        h = MARK_MM / 2
        return [shapely.box(x - h, y - h, x + h, y + h) for x, y in self.marks.tolist()]


def _round(seen: BaseGeometry, border: float) -> BaseGeometry:
    """The contour: the art's own edge, or `border` mm outside it with no holes and no waists."""
    if border <= 0:
        return seen
    wide = shapely.buffer(shapely.buffer(seen, border + SMOOTH_MM, quad_segs=32), -SMOOTH_MM, quad_segs=32)
    return union([shapely.Polygon(p.exterior) for p in shapely.get_parts(wide)])


def face_of(
    name: str, element: str, colours: list[tuple[str, BaseGeometry]], plan: Print, sheet: BaseGeometry | None = None
) -> Face | None:
    """A face from its colours as they lie on the template, the lowest first; None where nothing is seen of it. It is
    cut along the edge of its `sheet`, where that is the blank itself, else round the art."""
    seen = union([region for _, region in colours])
    if seen.is_empty:
        return None
    contour = _round(seen, plan.border_mm) if sheet is None else sheet
    bleeds = plan.border_mm <= 0 or sheet is not None
    over = difference(shapely.buffer(contour, plan.bleed_mm), contour) if bleeds else EMPTY
    bleed = []
    if not over.is_empty:
        # Past the edge each colour goes on; where several would, the upper one covers the others.
        bleed = [
            (colour, shapely.intersection(shapely.buffer(region, plan.bleed_mm), over)) for colour, region in colours
        ]
    left, low, right, high = union([contour, over]).bounds
    out = MARK_AWAY_MM + MARK_MM / 2
    x0, y0, x1, y1 = left - out, low - out, right + out, high + out
    marks = np.array([(x0, y0), (x1, y0), (x0 + IN_SHARE * (x1 - x0), y1)])
    edge = MARK_MM / 2 + 2.0
    shift = np.array([edge - x0, edge - y0])

    def there(region: BaseGeometry) -> BaseGeometry:
        return shapely.transform(region, lambda p: p + shift)

    inks = tuple((colour, there(region)) for colour, region in (*bleed, *colours) if not region.is_empty)
    size = (float(x1 - x0 + 2 * edge), float(y1 - y0 + 2 * edge))
    return Face(name, element, inks, there(contour), marks + shift, size)


def faces_of(
    fit: Fit, elements: tuple[Element, ...], sheet: tuple[BaseGeometry, Mapping[str, str]] | None = None
) -> list[Face]:
    """The faces of all elements that are printed: each placement for itself, or, on a `sheet` that is the blank itself,
    all that are printed on one film together; which film each element is printed on is told with it."""
    plans = {e.id: e.printed for e in elements if e.printed is not None}
    out = []
    if sheet is not None:
        region, films = sheet
        for film in dict.fromkeys(films[d.element] for d in fit.drawings if d.element in plans):
            on_it = [d for d in fit.drawings if films.get(d.element) == film]
            colours = [(c.colour, c.seen) for d in on_it for c in d.colours]
            bleed = max(plans[d.element].bleed_mm for d in on_it)
            face = face_of(on_it[0].name, on_it[0].element, colours, Print(bleed_mm=bleed), region)
            out += [face] if face is not None else []
        return out
    for d in fit.drawings:
        plan = plans.get(d.element)
        if plan is not None:
            face = face_of(d.name, d.element, [(c.colour, c.seen) for c in d.colours], plan)
            out += [face] if face is not None else []
    return out
