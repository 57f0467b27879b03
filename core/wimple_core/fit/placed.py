"""The stage of the artwork: every element where it sits on the template, and whether it may sit there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from ..artwork import ColourRegion, lay_over
from ..cache import Key
from ..errors import DoesNotFit
from ..job.blank import BlankBase
from ..job.document import Element
from ..surface import Template
from ..verdict import Verdict
from .laid import Placing, called
from .place import Keep, PlacedDrawing, Still, make_laid, place
from .separated import Separated
from .verdicts import drawing_verdicts


@dataclass(frozen=True, eq=False)
class Fit:
    """All elements placed, and the regions of each colour on the template, the lowest colour first."""

    drawings: tuple[PlacedDrawing, ...]
    colours: tuple[ColourRegion, ...]
    verdicts: tuple[Verdict, ...]

    @cached_property
    def still(self) -> Still | None:
        """All of it where it lies still, if it moves as one and rigidly."""
        if len(self.drawings) != 1 or (still := self.drawings[0].still) is None:
            return None
        element = self.drawings[0].element
        return replace(still, colours=called(still.colours, f"{element}/", ""), key=(element, *still.key))


def fit(
    blank: BlankBase,
    elements: tuple[Element, ...],
    separated: Mapping[str, Separated],
    template: Template,
    keep: Keep = make_laid,
    of: Mapping[str, Key] = {},
) -> Fit:
    """Place all elements on the template. `separated` holds what each is made from by the element's id, `of` what that
    was read from; `keep` may know drawings that are laid already."""
    placed: list[PlacedDrawing] = []
    named: list[tuple[ColourRegion, ...]] = []
    verdicts: list[Verdict] = []
    for i, element in enumerate(elements):
        sep = separated[element.id]
        for n, placement in enumerate(element.placements):
            try:
                d = place(Placing(element.id, element.name, n, placement, of.get(element.id, ())), sep, template, keep)
            except DoesNotFit as bad:
                raise bad.within(f"elements.{i}") from None
            placed.append(d)
            named.append(called(d.colours, f"{element.id}{f'@{n + 1}' if n else ''}/", ""))
            verdicts += [
                v.within(f"elements.{i}", element.name) for v in drawing_verdicts(placement, d, sep, blank, template)
            ]
    return Fit(tuple(placed), lay_over(named), tuple(verdicts))
