"""Placing over HTTP: a drawing grown, brought to where it belongs, and places of the template found in it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
import shapely
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field
from wimple_core.errors import BadDocument
from wimple_core.fit import PlacedDrawing, Separated
from wimple_core.fit.beside import Base, from_base
from wimple_core.fit.grow import grown
from wimple_core.fit.laid import Placing
from wimple_core.fit.matched import brought, matched
from wimple_core.fit.place import place
from wimple_core.job import load_job
from wimple_core.job.document import Element, Placement
from wimple_core.surface import Template

from ..people.roles import viewers
from .building import built_upto
from .models import Job
from .reaching import ERRORS, job_of, unit_of

router = Router(tags=["placing"])
Number = Annotated[float, Field(ge=-1e6, le=1e6)]
Place = tuple[Number, Number]


class PlacementIn(Schema):
    """A placement of a document, which need not be saved."""

    document: dict[str, Any]
    element: int = Field(ge=0, lt=1000)
    placement: int = Field(ge=0, lt=1000)


class GrowIn(PlacementIn):
    """How far from what bounds it a drawing is grown, and whether it may be turned."""

    margin_mm: float = Field(2.0, ge=0, le=200)
    turning: bool = False


class PlacesIn(PlacementIn):
    """Places on the template, mm."""

    places: list[Place] = Field(min_length=1, max_length=200)


class MatchIn(PlacementIn):
    """One place or two on the template with those they belong to; with `pieces`, only those are brought there."""

    pairs: list[tuple[Place, Place]] = Field(min_length=1, max_length=2)
    pieces: list[str] = Field([], max_length=20_000)


class BroughtOut(Schema):
    """Fields of the placement; or by how much pieces are moved in the drawing's own mm and turned, and how much larger
    what they are brought to is than they are."""

    sets: dict[str, float] | None = None
    across_mm: float = 0.0
    up_mm: float = 0.0
    turn_deg: float = 0.0
    larger: float = 1.0


@dataclass(frozen=True)
class _Here:
    """A placement of a document as it was built: its number, counted from the blank, and what it is counted from."""

    element: Element
    n: int
    base: Base | None
    d: PlacedDrawing
    drawing: Separated
    template: Template

    @property
    def placement(self) -> Placement:
        """It, as wide as it is, once."""
        return self.element.placements[self.n].model_copy(update={"width_mm": self.d.width, "repeat": 1})


def _here(job: Job, wanted: PlacementIn) -> _Here:
    """Raises WimpleError where it cannot be laid."""
    b = built_upto(job, load_job(wanted.document, unit_of(job)), "artwork").whole()
    assert b.fit is not None and b.template is not None and b.drawings is not None and b.named is not None
    row, i, n = b.named.row, wanted.element, wanted.placement
    if not (i < len(row.elements) and n < len(row.elements[i].placements)):
        raise BadDocument("There is no such placement.", field="placement", hint="Choose one of the document's.")
    one = row.elements[i]
    d = next(x for x in b.fit.drawings if x.element == one.id and x.at == f"placements.{n}")
    return _Here(one, n, row.bases.get((i, n)), d, b.drawings[one.id], b.template)


def _by_hand(here: _Here) -> None:
    wide = here.drawing.frame[2] - here.drawing.frame[0]
    if here.drawing.artwork.stands or here.element.pattern is not None or wide <= 0:
        raise BadDocument(
            "It lies where it lies.", field="placement", hint="Only what is placed by hand is changed so."
        )


@router.post("/jobs/{int:job_id}/grow", response={200: dict[str, float], **ERRORS}, auth=viewers)
def grow(request: HttpRequest, job_id: int, wanted: GrowIn) -> dict[str, float]:
    """The fields of a placement with which it is as large as what is free lets it be by its true outline; nothing is
    changed."""
    here = _here(job_of(request, job_id), wanted)
    _by_hand(here)
    one, drawing, template = here.element, here.drawing, here.template

    def lay(where: Placement) -> PlacedDrawing:
        return place(Placing(one.id, one.name, here.n, where), drawing, template)

    sets = grown(lay(here.placement), here.placement, template, lay, wanted.margin_mm, wanted.turning)
    return from_base(sets, here.base) if here.base else sets


@router.post("/jobs/{int:job_id}/places", response={200: list[Place], **ERRORS}, auth=viewers)
def places(request: HttpRequest, job_id: int, wanted: PlacesIn) -> list[tuple[float, float]]:
    """Where in a drawing's own mm places on the template are, of which some are on it, or a line between them is."""
    here = _here(job_of(request, job_id), wanted)
    assert here.d.carry is not None
    found = here.d.carry.drawn(np.array(wanted.places, dtype=float)).round(4)
    if not shapely.box(*here.drawing.frame).intersects(shapely.LineString([*found, found[-1]])):
        raise BadDocument(
            "That is not on the drawing where it is laid first.",
            field="places",
            hint="Draw the line over the drawing; of copies over the first one.",
        )
    return [(float(x), float(y)) for x, y in found]


@router.post("/jobs/{int:job_id}/match", response={200: BroughtOut, **ERRORS}, auth=viewers)
def match(request: HttpRequest, job_id: int, wanted: MatchIn) -> BroughtOut:
    """How a drawing, or some of its pieces, come to where one or two of its places belong; nothing is changed."""
    here = _here(job_of(request, job_id), wanted)
    if wanted.pieces:
        assert here.d.carry is not None
        by = brought(here.d.carry, here.drawing, wanted.pieces, wanted.pairs)
        return BroughtOut(across_mm=by.across, up_mm=by.up, turn_deg=by.turn, larger=by.larger)
    _by_hand(here)
    sets = matched(here.d, here.placement, here.drawing, here.template, wanted.pairs)
    return BroughtOut(sets=from_base(sets, here.base) if here.base else sets)
