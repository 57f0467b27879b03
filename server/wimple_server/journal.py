"""What is asked of the server, a line each that a person can read: no content, no file, no password."""

from __future__ import annotations

import logging
import time
import uuid
from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase

log = logging.getLogger("wimple.asked")
SLOW_MS = 2000.0


def _in_a_line(text: str) -> str:
    """What anybody may have written, so that it stays in its line."""
    return "".join(c if c.isprintable() and c != " " else "?" for c in text[:200])


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
            where = getattr(request, "membership", None)
            log.log(
                logging.WARNING if took > SLOW_MS else logging.INFO,
                "%s %s %s %.0f ms %s @ %s",
                request.method,
                _in_a_line(request.path),
                response.status_code,
                took,
                who.replace(" ", "_"),
                f"workshop {where.workshop_id}" if where else "-",
            )
        return response


def note_fault(what: str) -> str:
    """Write a fault of ours down with its trace, and give the sign it is found under."""
    sign = uuid.uuid4().hex[:8]
    logging.getLogger("wimple").exception("fault %s: %s", sign, what)
    return sign
