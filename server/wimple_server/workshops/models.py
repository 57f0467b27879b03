"""Workshops and who works in them."""

from __future__ import annotations

import json
import logging
from functools import lru_cache
from typing import Any, cast

from django.conf import settings
from django.db import OperationalError, models, transaction
from django.http import Http404, HttpRequest
from wimple_core.figures import LengthStyle
from wimple_core.job.tables import SHIPPED, Tables, load_tables

from ..disk import no_room


def shipped_tables() -> dict[str, Any]:
    """The films, tapes, cutters and fonts that a new workshop starts with."""
    return SHIPPED.model_dump(mode="json")


@lru_cache(maxsize=64)
def _tables(text: str) -> Tables:
    return load_tables(json.loads(text))


class Workshop(models.Model):
    """One business: everything else belongs to one."""

    class Style(models.TextChoices):
        MM = "mm"
        IN_FRACTION = "in_fraction"
        IN_DECIMAL = "in_decimal"

    name = models.CharField(max_length=120)
    length_style = models.CharField(max_length=12, choices=Style.choices, default=Style.MM)
    demo = models.BooleanField(default=False)
    tables = models.JSONField(default=shipped_tables)
    """Its own films, tapes, cutters and fonts."""

    def __str__(self) -> str:
        return self.name

    @property
    def style(self) -> LengthStyle:
        """How it reads lengths."""
        return cast(LengthStyle, self.length_style)

    def load_tables(self) -> Tables:
        """Its tables as the core knows them."""
        return _tables(json.dumps(self.tables, sort_keys=True))


class Membership(models.Model):
    """Somebody works in a workshop."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "workshop"], name="member_once")]

    def __str__(self) -> str:
        return f"{self.user} in {self.workshop}"


class KeptResult(models.Model):
    """A slow result of a workshop's, by its kind and what it was made of."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="kept_results")
    kind = models.CharField(max_length=12)
    key = models.CharField(max_length=64)
    data = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop", "kind", "key"], name="kept_once")]

    def __str__(self) -> str:
        return f"{self.kind} {self.key[:12]}"


MOST_DRAWINGS = 60
"""So many drawings that were slow to read are kept ready, the newest."""


class KeptResults:
    """The slow results a workshop has kept, as the core asks for them."""

    def __init__(self, workshop_id: int) -> None:
        self.workshop_id = workshop_id

    def has(self, kind: str, key: str) -> bool:
        return KeptResult.objects.filter(workshop_id=self.workshop_id, kind=kind, key=key).exists()

    def get(self, kind: str, key: str) -> bytes | None:
        found = KeptResult.objects.filter(workshop_id=self.workshop_id, kind=kind, key=key).values_list("data").first()
        return bytes(found[0]) if found else None

    def keep(self, kind: str, key: str, data: bytes) -> None:
        mine = KeptResult.objects.filter(workshop_id=self.workshop_id, kind=kind)
        try:
            with transaction.atomic():
                self._keep(mine, kind, key, data)
        except OperationalError as bad:
            # What is made again is no loss.
            if not no_room(bad):
                raise
            logging.getLogger("wimple").error("the disk is full: a slow result is not kept")

    def _keep(self, mine: models.QuerySet[KeptResult], kind: str, key: str, data: bytes) -> None:
        mine.update_or_create(workshop_id=self.workshop_id, kind=kind, key=key, defaults={"data": data})
        if kind == "drawing":
            newest = mine.order_by("-pk").values_list("pk", flat=True)[:MOST_DRAWINGS]
            mine.exclude(pk__in=list(newest)).delete()


def workshop_of(request: HttpRequest) -> Workshop:
    """The workshop of who is signed in. Raises Http404 for somebody without one."""
    found = Workshop.objects.filter(memberships__user_id=request.user.pk or 0).order_by("pk").first()
    if found is None:
        raise Http404
    request.workshop = found  # type: ignore[attr-defined]
    return found


def style_of(request: HttpRequest) -> LengthStyle:
    """How whoever asks reads lengths; mm where nobody is signed in."""
    if not request.user.is_authenticated:
        return "mm"
    try:
        return workshop_of(request).style
    except Http404:
        return "mm"
