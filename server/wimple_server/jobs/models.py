"""Jobs with their history, and the files they are made from."""

from __future__ import annotations

import hashlib
from typing import Any

from django.apps import apps
from django.conf import settings
from django.db import models, transaction
from django.db.models.functions import Length
from django.utils import timezone
from wimple_core.errors import BadDocument
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job
from wimple_core.measure import files_of, starting_blanks

from ..workshops.models import Workshop


def head_of(document: dict[str, Any]) -> dict[str, Any]:
    """What a ticket says of a job without building it."""
    return {
        "title": document.get("title", ""),
        "customer": document.get("customer", ""),
        "due": document.get("due"),
        "quantity": document.get("quantity", 1),
        "blank": document.get("blank", {}).get("name", ""),
    }


def clean_name(wanted: str) -> str:
    """A file name without folders or odd signs."""
    last = wanted.replace("\\", "/").split("/")[-1]
    return "".join(c for c in last if c.isprintable()).lstrip(".")[-120:] or "drawing.svg"


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
    ticket = models.TextField(default="")
    """What its ticket on the Bench shows, as of `ticket_revision`, but for its `sentence`: JSON that is passed on as it
    is."""
    sentence = models.TextField(default="")
    """What the ticket says; its figures are still to be written out."""
    ticket_revision = models.PositiveIntegerField(default=0)
    created = models.DateTimeField(default=timezone.now)
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-changed", "-pk"]
        indexes = [models.Index(fields=["workshop", "-changed", "-id"], name="bench_order")]

    def __str__(self) -> str:
        return str(self.document.get("title", self.pk))

    @classmethod
    def start(cls, workshop: Workshop, document: JobDocument, by: str = "") -> Job:
        """A new job with this document."""
        raw = document.model_dump(mode="json")
        with transaction.atomic():
            job = cls.objects.create(workshop=workshop, document=raw)
            JobState.objects.create(job=job, position=0, document=raw, by=by, via=JobState.Via.STARTED)
        return job

    @classmethod
    def start_with(cls, workshop: Workshop, title: str, kind: str, by: str = "") -> Job:
        """A new job with an example blank of that kind. Raises BadDocument for a kind there is none of."""
        starts = starting_blanks()
        if kind not in starts:
            raise BadDocument(f"There is no blank “{kind}”.", field="kind", hint=f"Choose one of: {', '.join(starts)}.")
        # Beside a handle nothing goes all round.
        wrap = {"extent": "free"} if starts[kind].get("handle") else {}
        return cls.start(workshop, load_job({"title": title or "New job", "blank": starts[kind], "wrap": wrap}), by)

    @classmethod
    def bench(cls, workshop: Workshop, words: str = "") -> models.QuerySet[Job]:
        """The jobs of a workshop, the newest changed first; every word must stand in their title or customer."""
        found = cls.objects.filter(workshop=workshop)
        for word in words.split()[:8]:
            found = found.filter(
                models.Q(document__title__icontains=word) | models.Q(document__customer__icontains=word)
            )
        return found

    @classmethod
    def tickets_of(cls, found: models.QuerySet[Job]) -> list[Job]:
        """Those jobs, with their documents only where their tickets are not written."""
        jobs: list[Job] = list(found.defer("document"))
        stale = [job.pk for job in jobs if job.ticket_revision != job.revision]
        documents = dict(cls.objects.filter(pk__in=stale).values_list("pk", "document")) if stale else {}
        for job in jobs:
            if job.pk in documents:
                job.document = documents[job.pk]
        return jobs

    def copied(self, document: JobDocument, by: str = "") -> Job:
        """Another job with that document, and the same files."""
        document = document.model_copy(update={"title": f"{document.title[:110]}, copy"})
        twin = Job.start(self.workshop, document, by)
        Drawing.objects.bulk_create(
            [Drawing(job=twin, name=d.name, kind=d.kind, data=d.data, digest=d.digest) for d in self.drawings.all()]
        )
        return twin

    def load(self) -> JobDocument:
        """The document as the core knows it."""
        return load_job(self.document)

    @property
    def can_undo(self) -> bool:
        return self.states.filter(position__lt=self.position).exists()

    @property
    def can_redo(self) -> bool:
        return self.states.filter(position__gt=self.position).exists()

    def files(self) -> JobFiles:
        """The files of this job, by name."""
        return JobFiles(self)

    def names_in(self, document: JobDocument) -> list[str]:
        """The files a document names: its drawings and the blank's own."""
        return list(dict.fromkeys([*document.drawings, *document.pictures, *files_of(document.blank)]))

    def free_name(self, wanted: str) -> str:
        """A file name without folders or odd signs that this job does not use yet."""
        base = clean_name(wanted)
        stem, dot, end = base.rpartition(".")
        stem, end = (stem, f".{end}") if dot and stem else (base, "")
        used = set(self.drawings.values_list("name", flat=True))
        n, name = 1, base
        while name in used:
            n += 1
            name = f"{stem}-{n}{end}"
        return name


class JobFiles:
    """The files of one job, as the core asks for them: told apart by their digests, and read only where something is
    made of them."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self._digests: dict[str, str] | None = None

    def _known(self) -> dict[str, str]:
        if self._digests is None:
            self._digests = dict(self.job.drawings.values_list("name", "digest"))
        return self._digests

    def __contains__(self, name: object) -> bool:
        return name in self._known()

    def digest(self, name: str) -> str:
        return self._known()[name]

    def read(self, name: str) -> bytes:
        return bytes(self.job.drawings.values_list("data", flat=True).get(name=name))


class JobState(models.Model):
    """One state of a job's document: what it was at a revision, and who made it so.

    `position` is its place on the line of undo and redo; null where it is none of its steps: an undo itself, or what
    another way was gone from.
    """

    class Via(models.TextChoices):
        STARTED = "started"
        SAVED = "saved"
        UNDONE = "undone"
        REDONE = "redone"
        RESTORED = "restored"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="states")
    position = models.PositiveIntegerField(null=True)
    revision = models.PositiveIntegerField(default=1)
    document = models.JSONField()
    at = models.DateTimeField(default=timezone.now)
    by = models.CharField(max_length=150, blank=True)
    """The name of who made it, empty where that is not known."""
    via = models.CharField(max_length=8, choices=Via.choices, default=Via.SAVED)
    what = models.CharField(max_length=300, blank=True)
    """What differs from the state before it, in words."""

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "position"], name="one_state_a_position"),
            models.UniqueConstraint(fields=["job", "revision"], name="one_state_a_revision"),
        ]

    def __str__(self) -> str:
        return f"{self.job} at {self.revision}"


class Drawing(models.Model):
    """A file of a job, cleaned or read once before it was kept: a drawing, or what its blank is known by. Never
    changed: undo needs
    the old ones."""

    class Kind(models.TextChoices):
        DRAWING = "drawing"
        OUTLINE = "outline"
        MESH = "mesh"
        PHOTO = "photo"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="drawings")
    name = models.CharField(max_length=160)
    kind = models.CharField(max_length=8, choices=Kind.choices, default=Kind.DRAWING)
    data = models.BinaryField()
    digest = models.CharField(max_length=64)
    """SHA-256 of its content."""
    added = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["added"]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="one_drawing_a_name")]

    def __str__(self) -> str:
        return self.name

    @classmethod
    def keep(cls, job: Job, name: str, data: bytes, kind: str = Kind.DRAWING) -> Drawing:
        """Keep a file of a job. Raises BadDocument where its workshop keeps as much as it may."""
        check_room(job.workshop_id, len(data))
        return cls.objects.create(job=job, name=name, kind=kind, data=data, digest=hashlib.sha256(data).hexdigest())

    @classmethod
    def take_in(cls, job: Job, wanted: str, data: bytes, kind: str = Kind.DRAWING) -> Drawing:
        """Keep a file under a name like the one `wanted` that the job does not use yet. Raises as `keep` does."""
        with transaction.atomic():
            # Of two that come at once under one name the second waits here.
            Job.objects.select_for_update().get(pk=job.pk)
            return cls.keep(job, job.free_name(wanted), data, kind)


def kept_bytes(workshop_id: int) -> int:
    """How much the files of a workshop's jobs and of its Folio take."""
    folio = apps.get_model("folio", "FolioItem")
    every = (Drawing.objects.filter(job__workshop_id=workshop_id), folio.objects.filter(workshop_id=workshop_id))
    return sum(int(some.aggregate(all=models.Sum(Length("data")))["all"] or 0) for some in every)


def check_room(workshop_id: int, more: int) -> None:
    """Raises BadDocument where a workshop would keep more than it may."""
    kept = kept_bytes(workshop_id)
    if kept + more > settings.MOST_WORKSHOP_BYTES:
        raise BadDocument(
            f"This workshop's files take {kept / 1e9:.2f} GB, and at most {settings.MOST_WORKSHOP_BYTES / 1e9:.2f} GB"
            " are kept.",
            field="file",
            hint="Carry old jobs out and delete them, or have the limit raised.",
        )
