"""Measured blanks, kept to be used again."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.utils import timezone
from wimple_core.figures import worded
from wimple_core.job.blanks import Blank
from wimple_core.job.loading import load_blank

from ..workshops.models import Workshop


class ShelfBlank(models.Model):
    """A blank as measured: its readings and zones, what it looks like, and what the shop knows of it."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="shelf")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=16)
    blank = models.JSONField()
    note = models.TextField(blank=True)
    tags = models.JSONField(default=list)
    picture = models.BinaryField(null=True)
    card = models.JSONField(default=dict)
    """Its size in words and its small drawing, made when it was kept."""
    search = models.TextField(default="")
    changed = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["name", "pk"]
        indexes = [models.Index(fields=["workshop", "name"])]

    def __str__(self) -> str:
        return self.name

    def load(self) -> Blank:
        """The blank as the core knows it."""
        return load_blank(self.blank)

    def file_bytes(self) -> dict[str, bytes]:
        """The files the blank names, by name."""
        return {f.name: bytes(f.data) for f in self.files.all()}

    def write_search(self) -> None:
        """What a search looks through: name, kind, note, tags and size, in small letters."""
        size = self.card.get("size", "")
        sizes = [worded(size, style) for style in ("mm", "in_fraction", "in_decimal")]
        words: list[Any] = [self.name, self.kind.replace("_", " "), self.note, *self.tags, *sizes]
        self.search = " ".join(str(w) for w in words).lower()


class ShelfFile(models.Model):
    """A file a kept blank names: an outline, a mesh, a photograph and what was found in it."""

    blank = models.ForeignKey(ShelfBlank, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=180)
    kind = models.CharField(max_length=8)
    data = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["blank", "name"], name="one_shelf_file_a_name")]

    def __str__(self) -> str:
        return self.name
