"""Jobs with their history, the drawings they use, and the files made of them."""

from __future__ import annotations

from typing import Any

from django.db import models, transaction
from django.utils import timezone
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job

from ..errors import Conflict
from ..workshops.models import Workshop

MOST_STATES = 300
"""Steps of undo that are kept."""


class Job(models.Model):
    """A job: its newest document, and where it stands in its history.

    `revision` grows with every save, undo and redo; a save must carry the one it was made from.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="jobs")
    document = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    position = models.PositiveIntegerField(default=0)
    summary = models.JSONField(null=True)
    summary_revision = models.PositiveIntegerField(default=0)
    created = models.DateTimeField(default=timezone.now)
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-changed", "-pk"]

    def __str__(self) -> str:
        return str(self.document.get("title", self.pk))

    @classmethod
    def start(cls, workshop: Workshop, document: JobDocument) -> Job:
        """A new job with this document."""
        raw = document.model_dump(mode="json")
        job = cls.objects.create(workshop=workshop, document=raw)
        JobState.objects.create(job=job, position=0, document=raw)
        return job

    def load(self) -> JobDocument:
        """The document as the core knows it."""
        return load_job(self.document)

    @property
    def can_undo(self) -> bool:
        return self.states.filter(position__lt=self.position).exists()

    @property
    def can_redo(self) -> bool:
        return self.states.filter(position__gt=self.position).exists()

    def _locked(self, revision: int) -> Job:
        job = Job.objects.select_for_update().get(pk=self.pk)
        if job.revision != revision:
            raise Conflict("This job was changed elsewhere since you opened it.",
                           "Keep yours as a copy beside it, or take the newer one.", job.revision)  # fmt: skip
        return job

    def _move(self, job: Job, position: int, document: dict[str, Any]) -> Job:
        job.position, job.document = position, document
        job.revision += 1
        job.changed = timezone.now()
        job.save(update_fields=["position", "document", "revision", "changed"])
        return job

    def save_document(self, revision: int, document: JobDocument) -> Job:
        """Save a document made from `revision`. Raises Conflict where that is no longer the newest."""
        raw = document.model_dump(mode="json")
        with transaction.atomic():
            job = self._locked(revision)
            if job.document == raw:
                return job
            job.states.filter(position__gt=job.position).delete()
            JobState.objects.create(job=job, position=job.position + 1, document=raw)
            job.states.filter(position__lte=job.position + 1 - MOST_STATES).delete()
            return self._move(job, job.position + 1, raw)

    def step_in_history(self, revision: int, back: bool) -> Job:
        """Undo or redo one save. Raises Conflict as `save_document` does; at the end of history nothing changes."""
        with transaction.atomic():
            job = self._locked(revision)
            states = job.states.filter(position__lt=job.position).order_by("-position") if back else (
                job.states.filter(position__gt=job.position).order_by("position"))  # fmt: skip
            state = states.first()
            return self._move(job, state.position, state.document) if state else job

    def drawing_bytes(self) -> dict[str, bytes]:
        """The job's drawings by name."""
        return {d.name: bytes(d.data) for d in self.drawings.all()}


class JobState(models.Model):
    """One state of a job's document, by its place in the history."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="states")
    position = models.PositiveIntegerField()
    document = models.JSONField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "position"], name="one_state_a_position")]

    def __str__(self) -> str:
        return f"{self.job} at {self.position}"


class Drawing(models.Model):
    """A drawing of a job, cleaned before it was kept. Never changed: undo needs the old ones."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="drawings")
    name = models.CharField(max_length=160)
    data = models.BinaryField()
    added = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["added"]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="one_drawing_a_name")]

    def __str__(self) -> str:
        return self.name


class Export(models.Model):
    """The files of one revision of a job, made by a task."""

    class Status(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        STOPPED = "stopped"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="exports")
    revision = models.PositiveIntegerField()
    document = models.JSONField()
    status = models.CharField(max_length=8, choices=Status.choices, default=Status.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    working_on = models.CharField(max_length=200, blank=True)
    error = models.JSONField(null=True)
    zip = models.BinaryField(null=True)
    names = models.JSONField(default=list)
    asked = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-asked"]

    def __str__(self) -> str:
        return f"files of {self.job}"
