"""What was cut: loads of jobs, with the film they took and what became of them."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.utils import timezone

from ..jobs.models import Job
from ..workshops.models import Workshop


class CutLoad(models.Model):
    """A load that was cut once: which it was, what the stock was before it and after it (pieces by their ids), and how
    it was cut and came out."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="cut_loads")
    job = models.ForeignKey(Job, on_delete=models.SET_NULL, related_name="cut_loads", null=True)
    load = models.CharField(max_length=40)
    """Its digest: one that is changed afterwards is another."""
    name = models.CharField(max_length=400)
    before = models.JSONField(default=dict)
    after = models.JSONField(default=dict)
    at = models.DateTimeField(default=timezone.now)
    by = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["workshop", "job"])]

    def __str__(self) -> str:
        return f"{self.name} of {self.job}"

    @property
    def change(self) -> tuple[dict[str, Any], dict[str, Any]]:
        """The pieces before and after it."""
        return self.before, self.after
