"""A job's history: saved, undone, redone, and any revision of it brought back. Nothing in it is lost by going another
way; the oldest go when there are many."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.http import Http404
from django.utils import timezone
from wimple_core.job import Job as JobDocument
from wimple_core.job.changes import what_changed

from ..errors import Conflict
from .models import Job, JobState

MOST_STATES = 300
"""Steps of undo that are kept, and as many states besides that are no step of it."""


def _locked(job: Job, revision: int) -> Job:
    held = Job.objects.select_for_update().get(pk=job.pk)
    if held.revision != revision:
        raise Conflict(
            "This job was changed elsewhere since you opened it.",
            "Keep yours as a copy beside it, or take the newer one.",
            held.revision,
        )
    return held


def _move(job: Job, position: int, document: dict[str, Any]) -> Job:
    job.position, job.document = position, document
    job.revision += 1
    job.changed = timezone.now()
    job.save(update_fields=["position", "document", "revision", "changed"])
    return job


def _write(job: Job, position: int | None, document: dict[str, Any], by: str, via: JobState.Via, what: str) -> None:
    JobState.objects.create(
        job=job, position=position, revision=job.revision + 1, document=document, by=by, via=via, what=what[:300]
    )
    for some in (job.states.filter(position=None), job.states.exclude(position=None)):
        oldest = some.order_by("-revision").values_list("revision", flat=True)[MOST_STATES - 1 : MOST_STATES]
        if oldest:
            some.filter(revision__lt=oldest[0]).delete()


def _put(job: Job, raw: dict[str, Any], by: str, via: JobState.Via, what: str) -> Job:
    """A new state behind the one the job stands at; what could be redone leaves the line and stays in the history."""
    job.states.filter(position__gt=job.position).update(position=None)
    _write(job, job.position + 1, raw, by, via, what)
    return _move(job, job.position + 1, raw)


def save(job: Job, revision: int, document: JobDocument, by: str = "") -> Job:
    """Save a document made from `revision`. Raises Conflict where that is no longer the newest."""
    raw = document.model_dump(mode="json")
    with transaction.atomic():
        held = _locked(job, revision)
        if held.document == raw:
            return held
        return _put(held, raw, by, JobState.Via.SAVED, what_changed(held.document, raw))


def step(job: Job, revision: int, back: bool, by: str = "") -> Job:
    """Undo or redo one save. Raises Conflict as `save` does; at the end of history nothing changes."""
    with transaction.atomic():
        held = _locked(job, revision)
        line = held.states.exclude(position=None)
        if back:
            state = line.filter(position__lt=held.position).order_by("-position").first()
        else:
            state = line.filter(position__gt=held.position).order_by("position").first()
        if state is None or state.position is None:
            return held
        via = JobState.Via.UNDONE if back else JobState.Via.REDONE
        _write(held, None, state.document, by, via, what_changed(held.document, state.document))
        return _move(held, state.position, state.document)


def restore(job: Job, revision: int, to: int, by: str = "") -> Job:
    """Bring the state of revision `to` back as the newest: one step of undo.

    Raises Conflict as `save` does, Http404 for a revision that is not kept.
    """
    with transaction.atomic():
        held = _locked(job, revision)
        state = held.states.filter(revision=to).first()
        if state is None:
            raise Http404
        if held.document == state.document:
            return held
        return _put(held, state.document, by, JobState.Via.RESTORED, f"revision {to}")
