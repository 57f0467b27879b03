"""Jobs with their history, the drawings they use, and the files made of them."""

from __future__ import annotations

from typing import Any

from django.db import models, transaction
from django.utils import timezone
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job
from wimple_core.job.blanks import MeshBlank
from wimple_core.job.files import PATCH_OF_MESH, files_of

from ..errors import Conflict
from ..workshops.models import Workshop

MOST_STATES = 300
"""Steps of undo that are kept."""


class Job(models.Model):
    """A job: its newest document, and where it stands in its history.

    `revision` grows with every save, undo and redo; a save must carry the one it was made from.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="jobs")
    shelf_blank = models.ForeignKey(
        "shelf.ShelfBlank", on_delete=models.SET_NULL, null=True, blank=True, related_name="jobs"
    )
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
            raise Conflict(
                "This job was changed elsewhere since you opened it.",
                "Keep yours as a copy beside it, or take the newer one.",
                job.revision,
            )
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
            states = (
                job.states.filter(position__lt=job.position).order_by("-position")
                if back
                else (job.states.filter(position__gt=job.position).order_by("position"))
            )
            state = states.first()
            return self._move(job, state.position, state.document) if state else job

    def files_for(self, document: JobDocument) -> dict[str, bytes]:
        """The files a document of this job names, by name: its drawings and the blank's own."""
        wanted = {d.file for d in document.drawings} | set(files_of(document.blank))
        if not wanted:
            return {}
        named = models.Q(name__in=wanted)
        if isinstance(document.blank, MeshBlank):
            named |= models.Q(name__startswith=document.blank.file[:100], name__endswith=PATCH_OF_MESH)
        return {d.name: bytes(d.data) for d in self.drawings.filter(named)}

    def free_name(self, wanted: str) -> str:
        """A file name without folders or odd signs that this job does not use yet."""
        base = (
            "".join(c for c in wanted.replace("\\", "/").split("/")[-1] if c.isprintable()).lstrip(".")[:120]
            or "drawing.svg"
        )
        stem, dot, end = base.rpartition(".")
        stem, end = (stem, f".{end}") if dot and stem else (base, "")
        used = set(self.drawings.values_list("name", flat=True))
        n, name = 1, base
        while name in used:
            n += 1
            name = f"{stem}-{n}{end}"
        return name


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
    """A file of a job, cleaned or read once before it was kept: a drawing, or what its blank is known by. Never
    changed: undo needs
    the old ones."""

    class Kind(models.TextChoices):
        DRAWING = "drawing"
        OUTLINE = "outline"
        MESH = "mesh"
        PHOTO = "photo"
        FOUND = "found"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="drawings")
    name = models.CharField(max_length=160)
    kind = models.CharField(max_length=8, choices=Kind.choices, default=Kind.DRAWING)
    data = models.BinaryField()
    added = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["added"]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="one_drawing_a_name")]

    def __str__(self) -> str:
        return self.name


class Status(models.TextChoices):
    """Where long work stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"


class Stopped(Exception):
    """Somebody asked for this work to stop."""


class Work(models.Model):
    """Long work done by a task: it says how far it is, can be stopped, and keeps why it failed."""

    status = models.CharField(max_length=8, choices=Status.choices, default=Status.WAITING)
    working_on = models.CharField(max_length=200, blank=True)
    error = models.JSONField(null=True)
    asked = models.DateTimeField(default=timezone.now)

    class Meta:
        abstract = True

    LEFT = (Status.WAITING, Status.RUNNING)
    DROPPED: dict[str, object] = {}
    """What is let go of once the work is over, however it ended."""

    def say(self, **change: object) -> None:
        """Write progress down, unless the work was stopped meanwhile. Raises Stopped."""
        if not type(self).objects.filter(pk=self.pk).exclude(status=Status.STOPPED).update(**change):  # type: ignore[attr-defined]
            raise Stopped

    def end(self, **change: object) -> None:
        """Write down how it ended."""
        type(self).objects.filter(pk=self.pk).update(**change, **self.DROPPED)  # type: ignore[attr-defined]

    def stop(self) -> None:
        """Ask it to stop, if it is not over."""
        type(self).objects.filter(pk=self.pk, status__in=self.LEFT).update(status=Status.STOPPED, **self.DROPPED)  # type: ignore[attr-defined]
        self.refresh_from_db()


class PhotoReading(Work):
    """Finding the outline in a photograph; `marks` are where known length and axis probably are."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="photo_readings")
    name = models.CharField(max_length=160)
    picture = models.BinaryField(null=True)
    marks = models.JSONField(null=True)
    DROPPED = {"picture": None}

    def __str__(self) -> str:
        return f"photograph {self.name} of {self.job}"


class Flattening(Work):
    """Laying a large patch of a mesh flat; the result is kept among the job's files."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="flattenings")
    document = models.JSONField()
    share = models.FloatField(default=0.0)

    def __str__(self) -> str:
        return f"flattening for {self.job}"


class Export(Work):
    """The files of one revision of a job."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="exports")
    revision = models.PositiveIntegerField()
    document = models.JSONField()
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    zip = models.BinaryField(null=True)
    names = models.JSONField(default=list)

    class Meta:
        ordering = ["-asked"]

    def __str__(self) -> str:
        return f"files of {self.job}"
