"""People: where they are signed in, how often somebody guessed, and invitations into a workshop."""

from __future__ import annotations

import datetime as dt

from django.conf import settings
from django.contrib.sessions.backends.base import SessionBase
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models
from django.utils import timezone

from ..workshops.models import Role, Workshop


class SignedIn(AbstractBaseSession):
    """A session, and whose it is, so that all of a person's can be ended."""

    account = models.BigIntegerField(null=True, db_index=True)

    @classmethod
    def get_session_store_class(cls) -> type[SessionBase]:
        from .sessions import SessionStore

        return SessionStore


class Guesses(models.Model):
    """Wrong passwords so far: from an address, or for a name."""

    key = models.CharField(max_length=300, unique=True)
    count = models.PositiveIntegerField(default=0)
    since = models.DateTimeField(default=timezone.now)
    next_at = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"{self.count} for {self.key}"


GOOD_FOR = dt.timedelta(days=7)


class Invitation(models.Model):
    """A link that lets its bearer in once: into a workshop in a role, or to a new password of the account it renews.
    Only the digest of its code is kept."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.MAKER)
    note = models.CharField(max_length=60, blank=True)
    """Whom it is for, as whoever made it wrote."""
    digest = models.CharField(max_length=64, unique=True)
    renews = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="renewals")
    ends = models.DateTimeField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"into {self.workshop} as {self.role}"
