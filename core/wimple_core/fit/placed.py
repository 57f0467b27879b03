"""The stage of the artwork: every element where it sits on the template, and whether it may sit there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..artwork import ColourRegion, lay_over
from ..errors import DoesNotFit
from ..job.blanks import BlankBase
from ..job.document import Element
from ..surface import Template
from ..verdict import Verdict
from .place import PlacedDrawing, Placing, Separated, called, place
from .verdicts import drawing_verdicts


@dataclass(frozen=True, eq=False)
class Fit:
    """All elements placed, and the regions of each colour on the template, the lowest colour first."""

    drawings: tuple[PlacedDrawing, ...]
    colours: tuple[ColourRegion, ...]
    verdicts: tuple[Verdict, ...]


def fit(blank: BlankBase, elements: tuple[Element, ...], separated: Mapping[str, Separated], template: Template) -> Fit:
    """Place all elements on the template. `separated` holds what each is made from by the element's id."""
    placed: list[PlacedDrawing] = []
    named: list[tuple[ColourRegion, ...]] = []
    verdicts: list[Verdict] = []
    for i, element in enumerate(elements):
        sep = separated[element.id]
        for n, placement in enumerate(element.placements):
            try:
                d = place(Placing(element.id, element.name, n, placement), sep, template)
            except DoesNotFit as bad:
                raise bad.within(f"elements.{i}") from None
            placed.append(d)
            named.append(called(d.colours, f"{element.id}{f'@{n + 1}' if n else ''}/", ""))
            verdicts += [
                v.within(f"elements.{i}", element.name) for v in drawing_verdicts(placement, d, sep, blank, template)
            ]
    return Fit(tuple(placed), lay_over(named), tuple(verdicts))
