"""Building jobs for the screens: one cache for the process, and as far down the street as a job goes."""

from __future__ import annotations

from collections.abc import Container

from wimple_core.built import Build
from wimple_core.cache import StageCache
from wimple_core.errors import WimpleError
from wimple_core.fit import first_placement
from wimple_core.job import Job as JobDocument
from wimple_core.job.document import Placement
from wimple_core.pipeline import build
from wimple_core.verdict import Step
from wimple_core.views.card import TicketView, ticket_view
from wimple_core.views.scene import scene_json

from ..workshops.models import KeptResults
from .models import Job, head_of

CACHE = StageCache(400)


def _built(job: Job, document: JobDocument, upto: Step, cutting: bool = False) -> Build:
    return build(
        document,
        job.files(),
        upto,
        CACHE,
        at_once=False,
        tables=job.workshop.load_tables(),
        kept=KeptResults(job.workshop_id),
        skip=() if cutting else ("cutting",),
    )


def scene_for(job: Job, document: JobDocument, step: Step, have: Container[str] = frozenset()) -> bytes:
    """The scene of one step of a job as JSON, whether the document is saved or not. Raises WimpleError for one that
    cannot even be measured."""
    style = job.workshop.style
    return scene_json(_built(job, document, "price", cutting=step == "sheets"), style, step, CACHE, have)


def suggested_placement(job: Job, width: float, height: float) -> Placement:
    """Where a drawing of that size (mm) goes first on a job's blank as it was saved."""
    b = _built(job, job.load(), "unwrap")
    if b.measured is None:
        return Placement()
    closed = b.template is not None and b.template.surface.closed
    return first_placement(b.template.limits if b.template else b.measured.free, closed, width, height)


def write_ticket(job: Job) -> None:
    """Write what a ticket on the Bench shows, for the job as it is; figures in its sentence are still to be written
    out."""
    try:
        ticket = ticket_view(_built(job, job.load(), "price"))
    except WimpleError as bad:
        first = bad.carried[0]
        sentence = f"{first.message} {first.hint}".strip()
        ticket = TicketView(
            outline=[], paints=[], bounds=(0.0, 0.0, 1.0, 1.0), worst="stop", step="measure", sentence=sentence
        )
    head = head_of(job.document)
    Job.objects.filter(pk=job.pk, revision=job.revision).update(
        ticket={**head, **ticket.model_dump(mode="json")}, ticket_revision=job.revision
    )
