"""How often passwords may be guessed. Each guess is counted before it is looked at, so that many at once count as many.

From one address twenty may be wrong in a quarter of an hour. For one name there is a pause before the next, which grows
to half a minute and no further; a browser that once signed in under the name has a count of its own. So nobody's
guessing keeps anybody else out.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import ipaddress
import math
import secrets

from django.conf import settings
from django.core import signing
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from .models import Guesses

MOST_BY_ADDRESS = 20
ADDRESS_WINDOW = dt.timedelta(minutes=15)
FREE_BY_NAME = 4
LONGEST_PAUSE_S = 30.0
FORGOTTEN_AFTER = dt.timedelta(days=1)
DEVICE_COOKIE = "wimple_known"
_SALT = "wimple.known"
_DEVICE_AGE_S = 365 * 24 * 3600
MOST_NAMES = 8


class TooManyGuesses(Exception):
    """Too many wrong passwords; the next may be tried after `wait_s` seconds."""

    def __init__(self, wait_s: float) -> None:
        super().__init__()
        self.wait_s = max(1, math.ceil(wait_s))


def pause_s(count: int) -> float:
    """Seconds until the next guess for a name after so many wrong ones: none for the first, then doubling to the
    longest."""
    return 0.0 if count < FREE_BY_NAME else min(2.0 ** min(count - FREE_BY_NAME, 30), LONGEST_PAUSE_S)


def _network(address: str) -> str:
    """An address as it is counted: of IPv6 the half that one subscriber has."""
    try:
        found = ipaddress.ip_address(address)
    except ValueError:
        return "unknown"
    return str(ipaddress.ip_network(f"{found}/64", strict=False)) if found.version == 6 else str(found)


def _known(request: HttpRequest) -> dict[str, str]:
    """The accounts that this browser has signed in to, each with the sign it is counted under."""
    try:
        found = signing.loads(request.COOKIES.get(DEVICE_COOKIE, ""), salt=_SALT, max_age=_DEVICE_AGE_S)
    except signing.BadSignature:
        return {}
    return found if isinstance(found, dict) else {}


def _row(key: str, now: dt.datetime, window: dt.timedelta) -> Guesses:
    """A count, held until the transaction ends, begun anew where its time is over."""
    row, made = Guesses.objects.get_or_create(key=key, defaults={"since": now, "next_at": now})
    if not made:
        row = Guesses.objects.select_for_update().get(pk=row.pk)
    if now - row.since > window:
        row.count, row.since, row.next_at = 0, now, now
    return row


class Guess:
    """One guess, counted as wrong from the start; `right` takes that back."""

    def __init__(self, request: HttpRequest, name: str) -> None:
        self.name = name
        self.known = _known(request)
        sign = self.known.get(name)
        digest = hashlib.sha256(name.encode()).hexdigest()[:40]
        self.by_name = f"name {digest} on {sign}" if sign else f"name {digest}"
        # Who works behind one address with others is not kept out by them where they signed in before.
        self.by_address = "" if sign else f"address {_network(request.META.get('REMOTE_ADDR', ''))}"

    def count(self) -> None:
        """Count it. Raises TooManyGuesses where it may not be made now; it counts for its address all the same."""
        now = timezone.now()
        wait = 0.0
        with transaction.atomic():
            if self.by_address:
                row = _row(self.by_address, now, ADDRESS_WINDOW)
                if row.count >= MOST_BY_ADDRESS:
                    wait = (row.since + ADDRESS_WINDOW - now).total_seconds()
                row.count += 1
                row.save()
            if not wait:
                row = _row(self.by_name, now, FORGOTTEN_AFTER)
                wait = (row.next_at - now).total_seconds()
                if wait <= 0:
                    row.count += 1
                    row.since = now
                    row.next_at = now + dt.timedelta(seconds=pause_s(row.count))
                    row.save()
        if wait > 0:
            raise TooManyGuesses(wait)

    def right(self) -> None:
        """It was no guess: the name's count is forgotten, the address's goes back by one."""
        with transaction.atomic():
            Guesses.objects.filter(key=self.by_name).delete()
            row = Guesses.objects.select_for_update().filter(key=self.by_address).first()
            if row is not None:
                row.count = max(0, row.count - 1)
                row.save(update_fields=["count"])

    def remember(self, response: HttpResponse) -> None:
        """Let the browser be known the next time."""
        names = {**self.known, self.name: self.known.get(self.name) or secrets.token_hex(8)}
        response.set_cookie(
            DEVICE_COOKIE,
            signing.dumps(dict(list(names.items())[-MOST_NAMES:]), salt=_SALT),
            max_age=_DEVICE_AGE_S,
            httponly=True,
            samesite="Lax",
            secure=settings.SESSION_COOKIE_SECURE,
        )


def forget_old(now: dt.datetime) -> int:
    """Clear counts away that are over."""
    return Guesses.objects.filter(since__lt=now - FORGOTTEN_AFTER).delete()[0]
