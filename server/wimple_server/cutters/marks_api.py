"""Loads of a job that were cut, over HTTP."""

from __future__ import annotations

import datetime as dt

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field
from wimple_core.views.stock import OfferView, offer_view

from ..jobs.reaching import ERRORS, job_of
from ..people.accounts import who
from ..people.roles import viewers
from . import keeping
from .loads import Digest, LoadIn, loads_of
from .models import CutLoad

router = Router(tags=["cutters"])


class CutLoadOut(Schema):
    """A load that was cut: its digest, the films on it, when and by whom, and the remnants it left."""

    id: int
    load: str
    name: str
    at: dt.datetime
    by: str
    remnants: list[str]

    @staticmethod
    def resolve_remnants(cut: CutLoad) -> list[str]:
        return [id for id, piece in cut.before.items() if piece is None]


class MarkIn(Schema):
    """A load that was cut, and which of the remnants it leaves are kept; all of those that nothing is said of."""

    load: Digest
    keep: list[bool] = Field(default=[], max_length=200)


@router.get("/jobs/{int:job_id}/cuts", response={200: list[CutLoadOut], **ERRORS})
def list_cuts(request: HttpRequest, job_id: int) -> list[CutLoad]:
    """The loads of a job that were cut, the first one first."""
    return list(job_of(request, job_id).cut_loads.all())


@router.post("/jobs/{int:job_id}/cuts/offer", response={200: OfferView, **ERRORS}, auth=viewers)
def offer(request: HttpRequest, job_id: int, wanted: LoadIn) -> OfferView:
    """What marking a load as cut would take off the stock, and which remnants it leaves."""
    job = job_of(request, job_id)
    loads = loads_of(job)
    load = keeping.load_of(loads, wanted.load)
    assert loads is not None
    return offer_view(keeping.change_by(job, load, loads.cutter.width_mm), job.workshop.style)


@router.post("/jobs/{int:job_id}/cuts", response={201: CutLoadOut, **ERRORS})
def mark_cut(request: HttpRequest, job_id: int, wanted: MarkIn) -> tuple[int, CutLoad]:
    """Mark a load as cut once: its film comes off the stock."""
    job = job_of(request, job_id)
    loads = loads_of(job)
    keeping.load_of(loads, wanted.load)
    assert loads is not None
    return 201, keeping.mark_cut(job, loads, wanted.load, who(request), wanted.keep)


@router.delete("/jobs/{int:job_id}/cuts/{int:cut_id}", response={204: None, **ERRORS})
def take_back(request: HttpRequest, job_id: int, cut_id: int) -> tuple[int, None]:
    """Take a mark away: the film is in stock again."""
    keeping.take_back(get_object_or_404(CutLoad, pk=cut_id, job=job_of(request, job_id)))
    return 204, None
