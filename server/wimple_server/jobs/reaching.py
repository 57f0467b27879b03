"""Reaching a job over HTTP: only its own workshop can, and every error has one shape."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Schema
from wimple_core.views.judged import FaultView

from ..workshops.models import workshop_of
from .models import Job


class ErrorOut(Schema):
    """The one shape of every error."""

    code: str
    field: str
    message: str
    hint: str
    faults: list[FaultView]


class StaleOut(ErrorOut):
    revision: int


ERRORS: dict[int, type[Schema]] = {404: ErrorOut, 422: ErrorOut}


def job_of(request: HttpRequest, job_id: int) -> Job:
    """A job of who asks. Raises Http404 for any other."""
    return get_object_or_404(Job.objects.select_related("workshop"), pk=job_id, workshop=workshop_of(request))


def unit_of(job: Job) -> Literal["mm", "in"]:
    """What bare typed lengths are in."""
    return "mm" if job.workshop.length_style == "mm" else "in"
