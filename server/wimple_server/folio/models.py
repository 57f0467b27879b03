"""The workshop's drawings and fonts, kept outside jobs."""

from __future__ import annotations

import hashlib
from typing import Any

from django.db import models, transaction
from django.utils import timezone
from wimple_core.views.folio import FolioIn

from ..jobs.models import Drawing, Job, check_room
from ..workshops.models import Workshop


class FolioItem(models.Model):
    """A drawing or a font as it was taken in, with its small picture."""

    class Kind(models.TextChoices):
        DRAWING = "drawing"
        FONT = "font"

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="folio")
    kind = models.CharField(max_length=8, choices=Kind.choices)
    name = models.CharField(max_length=120)
    file = models.CharField(max_length=160)
    """The name of its file, as a job will have it."""
    data = models.BinaryField()
    digest = models.CharField(max_length=64, db_index=True)
    tags = models.JSONField(default=list)
    card = models.JSONField(default=dict)
    search = models.TextField(default="")
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["name", "pk"]
        indexes = [models.Index(fields=["workshop", "name"])]
        constraints = [models.UniqueConstraint(fields=["workshop", "digest"], name="in_folio_once")]

    def __str__(self) -> str:
        return self.name

    def write_search(self) -> None:
        """What a search looks through: name, file, kind and tags, in small letters."""
        self.search = " ".join([self.name, self.file, self.kind, *self.tags]).lower()

    @classmethod
    def keep(cls, workshop: Workshop, file: str, taken: FolioIn) -> FolioItem:
        """Keep what was taken in; what is there already stays as it is. Raises BadDocument where the workshop keeps as
        much as it may."""
        digest = hashlib.sha256(taken.data).hexdigest()
        with transaction.atomic():
            there: FolioItem | None = cls.objects.filter(workshop=workshop, digest=digest).first()
            if there is not None:
                return there
            check_room(workshop.pk, len(taken.data))
            stem = file.rpartition(".")[0] or file
            item = cls(
                workshop=workshop,
                kind=taken.kind,
                name=(taken.name or stem)[:120],
                file=file,
                data=taken.data,
                digest=digest,
                card=taken.card,
            )
            item.write_search()
            item.save()
            return item

    @property
    def used_in(self) -> models.QuerySet[Job]:
        """The jobs of its workshop that have this file."""
        mine = Drawing.objects.filter(job__workshop=self.workshop, digest=self.digest)
        return Job.objects.filter(pk__in=mine.values("job"))

    def into(self, job: Job) -> str:
        """Its file among those of a job, once: the name it has there."""
        there = job.drawings.filter(digest=self.digest, kind=Drawing.Kind.DRAWING).first()
        return there.name if there else Drawing.take_in(job, self.file, bytes(self.data)).name

    def as_card(self, uses: int) -> dict[str, Any]:
        """What its card shows."""
        return {
            "id": self.pk,
            "kind": self.kind,
            "name": self.name,
            "file": self.file,
            "tags": self.tags,
            "used": uses,
            "kilobytes": len(self.data) / 1000,
            "bounds": self.card["bounds"],
            "paints": self.card["paints"],
        }
