"""Long work: one kind of row for all of it."""

from __future__ import annotations

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
        SHELF = "shelf"
        TICKETS = "tickets"

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

    class Meta:
        ordering = ["-asked", "-pk"]
        indexes = [models.Index(fields=["workshop", "kind", "status"])]

    def __str__(self) -> str:
        return f"{self.kind} {self.pk}"

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
