"""Whom a request really comes from, where a proxy stands in front."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponseBase

Network = ipaddress.IPv4Network | ipaddress.IPv6Network
FORWARDED = ("HTTP_X_FORWARDED_FOR", "HTTP_X_FORWARDED_PROTO", "HTTP_X_FORWARDED_HOST", "HTTP_FORWARDED")


def _address(text: str) -> ipaddress.IPv4Address | ipaddress.IPv6Address | None:
    try:
        found = ipaddress.ip_address(text.strip())
    except ValueError:
        return None
    mapped = getattr(found, "ipv4_mapped", None)
    return mapped or found


class TrustedProxy:
    """Believes what is said of the client only where a proxy named in the settings says it.

    The client is the last address in `X-Forwarded-For` that is no trusted proxy's: what stands before it anybody may
    have written there. From anywhere else such headers are dropped.
    """

    def __init__(self, answer: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.answer = answer
        self.trusted: list[Network] = [ipaddress.ip_network(n) for n in settings.TRUSTED_PROXIES]

    def _trusts(self, text: str) -> bool:
        found = _address(text)
        return found is not None and any(found in network for network in self.trusted)

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        peer = request.META.get("REMOTE_ADDR", "")
        # A socket on this machine has no address; only a proxy here can write to it.
        if peer and not self._trusts(peer):
            for name in FORWARDED:
                request.META.pop(name, None)
            return self.answer(request)
        for hop in reversed(request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")):
            if _address(hop) is None:
                break
            request.META["REMOTE_ADDR"] = str(_address(hop))
            if not self._trusts(hop):
                break
        return self.answer(request)
