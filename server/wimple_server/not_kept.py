"""What the API answers is kept by nobody on its way."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase


class NotKept:
    """Tells browsers and proxies to keep no answer of the API, but for those that say otherwise."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self.answer(request)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
