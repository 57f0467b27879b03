"""Sessions that know whose they are, and slide: used, they go on; unused for two weeks, or after three months, they
end."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY, logout
from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.http import HttpRequest, HttpResponseBase

from .models import SignedIn

RENEWED_EVERY_S = 3600.0
BEGUN, SEEN = "begun", "seen"


class SessionStore(DatabaseStore):
    """Django's sessions in the database, with their owner beside them."""

    @classmethod
    def get_model_class(cls) -> type[SignedIn]:  # type: ignore[override]
        return SignedIn

    def create_model_instance(self, data: dict[str, Any]) -> SignedIn:  # type: ignore[override]
        row = super().create_model_instance(data)
        assert isinstance(row, SignedIn)
        account = data.get(SESSION_KEY)
        row.account = int(account) if account else None
        return row


class Sliding:
    """Renews the session of whoever is there, each hour at most, and ends it after the longest time."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        session, now = request.session, time.time()
        if request.path.startswith("/api/") and SESSION_KEY in session:
            if now - session.get(BEGUN, now) > settings.LONGEST_SESSION_S:
                logout(request)
            elif now - session.get(SEEN, 0.0) > RENEWED_EVERY_S:
                session.setdefault(BEGUN, now)
                session[SEEN] = now
        return self.answer(request)


def sign_out_everywhere(account: int) -> int:
    """End all sessions of an account; returns how many."""
    return SignedIn.objects.filter(account=account).delete()[0]
