"""A drawing that goes once round: as wide as makes its ends meet, whatever the cup measures."""

from __future__ import annotations

import math
from dataclasses import replace

from ..cache import Keep
from ..job.document import Element, Placement
from ..surface import Template
from ..verdict import Verdict, plain
from .laid import Placing
from .place import PlacedDrawing, place
from .separated import Separated

NEAR_MM = 0.002
"""So near its ends come to where they are wanted."""
MOST_TRIES = 8


def may_go_round(element: Element, placement: Placement, template: Template) -> bool:
    """May it be laid once round, as wide as that makes it? One copy of what has no lengths of its own, where nothing is
    in the way of that."""
    own = element.source.sizes or element.pattern is not None or placement.repeat > 1
    return not own and template.surface.closed and template.limits.all_round


def once_round(what: Placing, separated: Separated, template: Template, keep: Keep) -> PlacedDrawing:
    """Place a drawing so wide that it spans a turn and its overlap, with its ends at the seam. On a taper what an angle
    is wide changes with how it is laid: it is laid, and made as much wider as it still is apart."""
    p = what.placement
    middle = math.degrees((template.left + template.right) / 2)
    per = template.surface.scale_at(p.up_mm)
    span = 2 * math.pi + (p.once_round_mm or 0.0) / per
    at = replace(what, placement=p.model_copy(update={"centre_deg": middle, "width_mm": span * per}))
    laid = place(at, separated, template, keep)
    for _ in range(MOST_TRIES):
        left, right = laid.span_a
        if abs(span - (right - left)) * per <= NEAR_MM:
            break
        wide = at.placement.width_mm * span / (right - left)
        at = replace(at, placement=at.placement.model_copy(update={"width_mm": wide}))
        laid = place(at, separated, template, keep)
    return laid


def not_once_round(d: PlacedDrawing) -> Verdict:
    """What is to go once round, but cannot."""
    return Verdict(
        "artwork.once_round",
        "artwork",
        "look",
        d.width,
        None,
        "mm",
        f"“{plain(d.name)}” cannot go once round here: it is laid {{value}} wide.",
        "Lay it as wide as its width says.",
        field=f"{d.at}.once_round_mm",
        fixes={f"{d.at}.once_round_mm": None},
    )
