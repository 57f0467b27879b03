"""Workshops and who works in them."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any, cast

from django.conf import settings
from django.db import OperationalError, models, transaction
from django.http import Http404, HttpRequest
from django.utils import timezone
from django.utils.text import slugify
from wimple_core.figures import LengthStyle
from wimple_core.job.tables import SHIPPED, Tables, load_tables

from ..disk import no_room


def shipped_tables() -> dict[str, Any]:
    """The films, tapes, cutters and fonts that a new workshop starts with."""
    return SHIPPED.model_dump(mode="json")


@lru_cache(maxsize=64)
def _tables(text: str) -> Tables:
    return load_tables(json.loads(text))


class Role(models.TextChoices):
    """What a member may do: look; change jobs, files and the Shelf; say who is a member."""

    OWNER = "owner"
    MAKER = "maker"
    VIEWER = "viewer"


class Workshop(models.Model):
    """One business: everything else belongs to one."""

    class Style(models.TextChoices):
        MM = "mm"
        IN_FRACTION = "in_fraction"
        IN_DECIMAL = "in_decimal"

    name = models.CharField(max_length=120)
    short = models.SlugField(max_length=40, unique=True)
    """Its short name: what its members sign in with beside their own."""
    length_style = models.CharField(max_length=12, choices=Style.choices, default=Style.MM)
    demo = models.BooleanField(default=False)
    tables = models.JSONField(default=shipped_tables)
    """Its own films, tapes, cutters and fonts."""

    def __str__(self) -> str:
        return self.name

    def save(self, *args: Any, **more: Any) -> None:
        if not self.short:
            self.short = free_short(self.name, set(Workshop.objects.values_list("short", flat=True)))
        super().save(*args, **more)

    @property
    def style(self) -> LengthStyle:
        """How it reads lengths."""
        return cast(LengthStyle, self.length_style)

    def load_tables(self) -> Tables:
        """Its tables as the core knows them."""
        return _tables(json.dumps(self.tables, sort_keys=True))


def change_tables(workshop_id: int, change: Callable[[Tables], Mapping[str, Any]]) -> Tables:
    """Write some of a workshop's tables anew: `change` is given them as they are, while nobody else writes, and gives
    those that differ, as JSON has them. Raises BadDocument for what they cannot hold."""
    with transaction.atomic():
        workshop = Workshop.objects.select_for_update().get(pk=workshop_id)
        other = change(workshop.load_tables())
        tables = load_tables({**workshop.tables, **other})
        workshop.tables = {**workshop.tables, **tables.model_dump(mode="json", include=set(other))}
        workshop.save(update_fields=["tables"])
    return tables


def free_short(name: str, used: set[str]) -> str:
    """A short name for a workshop, unlike all that are used."""
    base = slugify(name)[:34].strip("-") or "workshop"
    short, n = base, 1
    while short in used:
        n += 1
        short = f"{base}-{n}"
    return short


class Membership(models.Model):
    """Somebody works in a workshop."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.MAKER)
    since = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
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
        if kind in ("drawing", "trace"):
            newest = mine.order_by("-pk").values_list("pk", flat=True)[:MOST_DRAWINGS]
            mine.exclude(pk__in=list(newest)).delete()


CHOSEN = "workshop"
"""Where a session keeps the number of the workshop that was chosen."""


def membership_of(request: HttpRequest) -> Membership | None:
    """As what whoever is signed in works: in the workshop they chose, else in their first; None for nobody."""
    if not hasattr(request, "membership"):
        mine = Membership.objects.select_related("workshop").filter(user_id=request.user.pk or 0)
        chosen = request.session.get(CHOSEN)
        found = mine.filter(workshop_id=chosen).first() if chosen else None
        request.membership = found or mine.first()  # type: ignore[attr-defined]
    return cast("Membership | None", request.membership)  # type: ignore[attr-defined]


def workshop_of(request: HttpRequest) -> Workshop:
    """The workshop of who is signed in. Raises Http404 for somebody without one."""
    member = membership_of(request)
    if member is None:
        raise Http404
    return member.workshop


def style_of(request: HttpRequest) -> LengthStyle:
    """How whoever asks reads lengths; mm where nobody is signed in."""
    if not request.user.is_authenticated:
        return "mm"
    try:
        return workshop_of(request).style
    except Http404:
        return "mm"
