"""What is old and nobody needs is cleared away."""

from __future__ import annotations

import datetime as dt
import logging

from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from .jobs.sweeping import sweep_drawings
from .people import accounts, guessing
from .people.models import SignedIn
from .works.models import LEFT, Work

KEPT = {"tasks": dt.timedelta(days=3), "works": dt.timedelta(days=7)}


def tidy() -> dict[str, int]:
    """Clear away sessions that ended, tasks and works that are long over with the files they made, attempts to sign
    in that count no more, invitations out of date, and files that no job and no step back needs. Returns how many of
    each."""
    now = timezone.now()
    gone = {
        "sessions": SignedIn.objects.filter(expire_date__lt=now).delete()[0],
        "tasks": DBTaskResult.objects.filter(enqueued_at__lt=now - KEPT["tasks"]).delete()[0],
        "works": Work.objects.filter(asked__lt=now - KEPT["works"]).exclude(status__in=LEFT).delete()[0],
        "attempts": guessing.forget_old(now),
        "invitations": accounts.forget_old(now),
        "files": sweep_drawings(now),
    }
    if any(gone.values()):
        logging.getLogger("wimple.work").info("cleared away: %s", gone)
    return gone
