"""Whoever waits for an answer goes before what is worked out in lanes."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase

from .lanes import LANES


class Foreground:
    """Makes lanes wait while a request is answered. What an answer in lines does once it has begun says so itself."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        with LANES.foreground():
            return self.answer(request)
