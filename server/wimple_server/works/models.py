"""Long work: one kind of row for all of it."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.db import models
from django.utils import timezone

from ..jobs.models import Job
from ..workshops.models import Workshop


class Status(models.TextChoices):
    """Where long work stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"


class Stopped(Exception):
    """Somebody asked for this work to stop."""


LEFT = (Status.WAITING, Status.RUNNING)
LEASE = dt.timedelta(seconds=45)
"""So long a work that is being done stays whoever's does it without their saying so anew."""
WAIT = dt.timedelta(minutes=10)
"""So long a work that waits is taken to be in the queue still."""
MOST_TRIES = 3
"""A work that ended so often without a word ends its worker."""


def ended_by(now: dt.datetime) -> models.Q:
    """Works whose lease has run out, or that have none."""
    return models.Q(lease__lt=now) | models.Q(lease__isnull=True)


class Work(models.Model):
    """Long work done by a task: it says how far it is, can be stopped, and keeps why it failed.

    `key` tells what it is about among the works of its kind; `about` and `brought` are what it needs, `result` and
    `made` what came of it.
    """

    class Kind(models.TextChoices):
        FILES = "files"
        PICTURE = "picture"
        PHOTO = "photo"
        PATCH = "patch"
        TRACE = "trace"
        LAY = "lay"
        SHELF = "shelf"
        TICKETS = "tickets"
        CUT = "cut"

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="works")
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="works", null=True)
    kind = models.CharField(max_length=8, choices=Kind.choices)
    key = models.CharField(max_length=160, blank=True)
    status = models.CharField(max_length=8, choices=Status.choices, default=Status.WAITING)
    working_on = models.CharField(max_length=200, blank=True)
    share = models.FloatField(default=0.0)
    about = models.JSONField(default=dict)
    brought = models.BinaryField(null=True)
    result = models.JSONField(default=dict)
    made = models.BinaryField(null=True)
    error = models.JSONField(null=True)
    asked = models.DateTimeField(default=timezone.now)
    lease = models.DateTimeField(null=True)
    """Until when it counts as waiting or being done; after that it is taken up again."""
    tries = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["-asked", "-pk"]
        indexes = [models.Index(fields=["workshop", "kind", "status"])]

    def __str__(self) -> str:
        return f"{self.kind} {self.pk}"

    @classmethod
    def take(cls, pk: int) -> Work | None:
        """Take a work that is left and nobody else does, with a lease on it; None where there is none."""
        now = timezone.now()
        free = models.Q(status=Status.WAITING) | models.Q(status=Status.RUNNING) & ended_by(now)
        mine = cls.objects.filter(free, pk=pk)
        if not mine.update(status=Status.RUNNING, lease=now + LEASE, tries=models.F("tries") + 1):
            return None
        return cls.objects.select_related("workshop", "job__workshop").get(pk=pk)

    def renew(self) -> None:
        """Hold it for another while."""
        Work.objects.filter(pk=self.pk, status=Status.RUNNING).update(lease=timezone.now() + LEASE)

    def say(self, **change: Any) -> None:
        """Write progress down, unless the work was stopped meanwhile. Raises Stopped."""
        if not Work.objects.filter(pk=self.pk).exclude(status=Status.STOPPED).update(**change):
            raise Stopped

    def end(self, **change: Any) -> None:
        """Write down how it ended; what it was given is let go of."""
        Work.objects.filter(pk=self.pk).update(**change, brought=None)

    def stop(self) -> None:
        """Ask it to stop, if it is not over."""
        Work.objects.filter(pk=self.pk, status__in=LEFT).update(status=Status.STOPPED, brought=None)
        self.refresh_from_db()
