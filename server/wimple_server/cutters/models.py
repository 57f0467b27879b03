"""What was cut: loads of jobs, with the film they took and what became of them."""

from __future__ import annotations

from django.db import models
from django.utils import timezone
from wimple_core.job.cut_log import CutEntry

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


class Stage(models.TextChoices):
    """Where a load on a cutter stands."""

    LOADING = "loading"
    READY = "ready"
    CUTTING = "cutting"
    PAUSED = "paused"
    FAULT = "fault"
    LOOK = "look"
    CUT = "cut"
    OVER = "over"


class OnCutter(models.Model):
    """A load of a job on a machine, from its loading to its unloading. What is cut was laid down when it was loaded: a
    change to the job does not reach it.

    `strokes` holds the passes (see `cutters.strokes`); of the pass `at_pass`, cut for the `round`th time, so many
    strokes are done, and of the next one up to `place`. `found` is what the stand-in really cut: metres, stray, depth.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="on_cutters")
    job = models.ForeignKey(Job, on_delete=models.SET_NULL, related_name="on_cutters", null=True)
    cutter = models.CharField(max_length=60)
    load = models.CharField(max_length=40)
    name = models.CharField(max_length=400)
    stage = models.CharField(max_length=8, choices=Stage.choices, default=Stage.LOADING)
    strokes = models.BinaryField()
    passes = models.JSONField(default=list)
    """Of each pass: its film, colour, thickness, setting, blade, seconds, what a corner showed, and how often cut."""
    page = models.JSONField(null=True)
    """Of a printed page where its marks should lie on the machine, mm, and how it lies once that is known."""
    at_pass = models.PositiveSmallIntegerField(default=0)
    done = models.PositiveIntegerField(default=0)
    place = models.PositiveIntegerField(default=0)
    wish = models.CharField(max_length=8, blank=True)
    """What was asked for while it is under way: pause, or stop."""
    error = models.JSONField(null=True)
    found = models.JSONField(default=list)
    seen = models.PositiveIntegerField(default=0)
    """How many strokes of the stand-in's were looked at."""
    begun = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["workshop", "stage"])]

    def __str__(self) -> str:
        return f"{self.name} on {self.cutter}"


class CutEntryRow(models.Model):
    """A line of the log of cuts: a `CutEntry` of the core."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="cut_entries")
    entry = models.JSONField()
    by = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.entry.get('film')} on {self.entry.get('cutter')}"

    @classmethod
    def write(cls, workshop: Workshop, entry: CutEntry, by: str) -> None:
        """Write a cut down."""
        cls.objects.create(workshop=workshop, entry=entry.model_dump(mode="json"), by=by)

    @classmethod
    def of(cls, workshop: Workshop) -> list[CutEntry]:
        """The newest of a workshop's, the oldest first."""
        rows = cls.objects.filter(workshop=workshop).order_by("-pk").values_list("entry", flat=True)[:MOST_READ]
        return [CutEntry.model_validate(row) for row in reversed(rows)]


MOST_READ = 2000
