"""Machines, blades and the log of cuts, over HTTP."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field
from wimple_core.cutting.advice import blade_metres
from wimple_core.job.cut_log import Blade, CutEntry
from wimple_core.job.shipped import Cutter
from wimple_core.job.tables import Tables

from ..jobs.reaching import ERRORS
from ..people.roles import owners
from ..workshops.models import Workshop, change_tables, workshop_of
from .models import CutEntryRow

router = Router(tags=["cutters"])


@router.get("/cutters/log", response={200: list[CutEntry], **ERRORS})
def log(request: HttpRequest) -> list[CutEntry]:
    """Every cut of the workshop, the newest first."""
    return CutEntryRow.of(workshop_of(request))[::-1]


class CuttersIn(Schema):
    """All machines and blades of the workshop, as typed."""

    cutters: list[dict[str, Any]] = Field(max_length=40)
    blades: list[dict[str, Any]] = Field(default=[], max_length=200)


class CuttersOut(Schema):
    """The machines, the blades, and how far each blade has cut (m), by its id."""

    cutters: list[Cutter]
    blades: list[Blade]
    metres: dict[str, float]


def _cutters_out(workshop: Workshop, tables: Tables) -> CuttersOut:
    entries = CutEntryRow.of(workshop)
    return CuttersOut(
        cutters=list(tables.cutters),
        blades=list(tables.blades),
        metres={b.id: round(blade_metres(b, entries), 1) for b in tables.blades},
    )


@router.get("/cutters", response={200: CuttersOut, **ERRORS})
def get_cutters(request: HttpRequest) -> CuttersOut:
    """The workshop's machines and blades."""
    workshop = workshop_of(request)
    return _cutters_out(workshop, workshop.load_tables())


@router.put("/cutters", response={200: CuttersOut, **ERRORS}, auth=owners)
def put_cutters(request: HttpRequest, wanted: CuttersIn) -> CuttersOut:
    """Write the machines and blades down, instead of those there were."""
    workshop = workshop_of(request)
    tables = change_tables(workshop.pk, lambda was: {"cutters": wanted.cutters, "blades": wanted.blades})
    return _cutters_out(workshop, tables)
