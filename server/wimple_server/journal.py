"""What is asked of the server, a line each that a person can read: no content, no file, no password."""

from __future__ import annotations

import logging
import time
import uuid
from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase

log = logging.getLogger("wimple.asked")
SLOW_MS = 2000.0


class Journal:
    """Writes down each request of the API: who asked, what came of it, how long it took."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        began = time.monotonic()
        response = self.answer(request)
        if request.path.startswith("/api/"):
            took = 1000 * (time.monotonic() - began)
            who = request.user.get_username() if request.user.is_authenticated else "-"
            where = getattr(request, "workshop", None)
            log.log(
                logging.WARNING if took > SLOW_MS else logging.INFO,
                "%s %s %s %.0f ms %s @ %s",
                request.method,
                request.path,
                response.status_code,
                took,
                who.replace(" ", "_"),
                f"workshop {where.pk}" if where else "-",
            )
        return response


def note_fault(what: str) -> str:
    """Write a fault of ours down with its trace, and give the sign it is found under."""
    sign = uuid.uuid4().hex[:8]
    logging.getLogger("wimple").exception("fault %s: %s", sign, what)
    return sign
