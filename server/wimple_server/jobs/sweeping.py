"""Files that nothing needs any more."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from typing import Any

from .models import Drawing, Job

UNUSED_FOR = dt.timedelta(days=90)


def _words(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for inner in value.values():
            yield from _words(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _words(inner)


def sweep_drawings(now: dt.datetime) -> int:
    """Delete files that for a long time neither their job nor a step back in its history has named."""
    old = Drawing.objects.filter(added__lt=now - UNUSED_FOR, job__changed__lt=now - UNUSED_FOR)
    gone = 0
    for job in Job.objects.filter(pk__in=old.values("job")):
        named = set(_words(job.document))
        for document in job.states.values_list("document", flat=True):
            named |= set(_words(document))
        gone += old.filter(job=job).exclude(name__in=named).delete()[0]
    return gone
