"""Whether the program is well: its database, its disk, its worker, its queue."""

from __future__ import annotations

import datetime as dt
import time

from django.conf import settings
from django.db import DatabaseError, connection
from django.http import HttpRequest, JsonResponse
from django.utils import timezone

from . import disk
from .works.models import Status, Work

WORKER_SILENT_S = 90.0
WAITS_TOO_LONG = dt.timedelta(minutes=5)


def _database() -> str:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        return "does not answer"
    return ""


def _disk() -> str:
    free = disk.free_bytes()
    return "" if free >= settings.LEAST_DISK_BYTES else f"{free / 1e6:.0f} MB left"


def _worker() -> str:
    place = settings.DATA / "worker-alive"
    if not place.exists():
        return "not started"
    silent = time.time() - place.stat().st_mtime
    return "" if silent < WORKER_SILENT_S else f"silent for {silent:.0f} s"


def _queue() -> str:
    try:
        late = Work.objects.filter(status=Status.WAITING, asked__lt=timezone.now() - WAITS_TOO_LONG).count()
    except DatabaseError:
        return "cannot be read"
    return f"{late} waiting for more than five minutes" if late else ""


def health(request: HttpRequest) -> JsonResponse:
    """What is well is "ok", of the rest what is wrong; 503 where anything is. Nothing of any workshop is in it."""
    found = {"database": _database(), "disk": _disk(), "worker": _worker(), "queue": _queue()}
    return JsonResponse({k: v or "ok" for k, v in found.items()}, status=503 if any(found.values()) else 200)
