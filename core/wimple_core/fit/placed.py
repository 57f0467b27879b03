"""The third stage: every drawing where it sits on the template, and whether it may sit there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..artwork import ColourRegion, lay_over
from ..errors import DoesNotFit
from ..job.blanks import Blank
from ..job.document import Drawing
from ..surface import Template
from ..verdict import Verdict
from .place import PlacedDrawing, Separated, place
from .verdicts import drawing_verdicts


@dataclass(frozen=True)
class Fit:
    """All drawings placed, and the regions of each colour on the template, the lowest colour first."""

    drawings: tuple[PlacedDrawing, ...]
    colours: tuple[ColourRegion, ...]
    verdicts: tuple[Verdict, ...]


def source_of(drawing: Drawing) -> str:
    """Under which key a drawing is kept once it is read: its file, and into how many steps its shades are cut."""
    return f"{drawing.file} {drawing.shades}"


def fit(blank: Blank, drawings: tuple[Drawing, ...], separated: Mapping[str, Separated], template: Template) -> Fit:
    """Place all drawings on the template. `separated` holds each by its file name, and how its shades are taken."""
    placed: list[PlacedDrawing] = []
    verdicts: list[Verdict] = []
    for i, drawing in enumerate(drawings):
        sep = separated[source_of(drawing)]
        try:
            d = place(drawing, sep, template)
        except DoesNotFit as bad:
            raise bad.within(f"drawings.{i}") from None
        placed.append(d)
        verdicts += drawing_verdicts(i, drawing, d, sep, blank, template)
    return Fit(tuple(placed), lay_over([d.colours for d in placed]), tuple(verdicts))
