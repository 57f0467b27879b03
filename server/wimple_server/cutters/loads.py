"""The loads of a job as it is saved, and how one of them is named."""

from __future__ import annotations

from typing import Annotated

from ninja import Schema
from pydantic import Field
from wimple_core.sheets import Loads

from ..jobs.building import built_upto
from ..jobs.models import Job

Digest = Annotated[str, Field(min_length=1, max_length=40)]


class LoadIn(Schema):
    """A load by its digest."""

    load: Digest


def loads_of(job: Job) -> Loads | None:
    """The loads of a job; None where it does not come to them."""
    return built_upto(job, job.load(), "sheets", leave=("cutting",)).sheets
