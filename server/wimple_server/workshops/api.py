"""Signing in and out, and the workshop's own settings."""

from __future__ import annotations

from typing import Literal

from axes.handlers.proxy import AxesProxyHandler
from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.utils import check_csrf
from pydantic import Field

from .. import disk
from .models import Workshop, workshop_of

router = Router(tags=["workshop"])
LengthStyle = Literal["mm", "in_fraction", "in_decimal"]


class WorkshopOut(Schema):
    name: str
    length_style: LengthStyle


class SessionOut(Schema):
    """Who is signed in (null for nobody), their workshop, whether the demo may be entered, and what whoever runs the
    program should know, if anything."""

    user: str | None
    workshop: WorkshopOut | None
    demo: bool
    csrf: str
    warning: str


class SignIn(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=1000)


class WorkshopIn(Schema):
    length_style: LengthStyle


def _session(request: HttpRequest) -> dict[str, object]:
    user = request.user if request.user.is_authenticated else None
    return {
        "user": user.get_username() if user else None,
        "workshop": workshop_of(request) if user else None,
        "demo": settings.DEMO,
        "csrf": get_token(request),
        "warning": disk.warning() if user else "",
    }


def _require_csrf(request: HttpRequest) -> None:
    if check_csrf(request):
        raise HttpError(403, "The page is too old to sign in from: load it again.")


@router.get("/session", response=SessionOut, auth=None)
def get_session(request: HttpRequest) -> dict[str, object]:
    """Who is signed in."""
    return _session(request)


@router.post("/session", response=SessionOut, auth=None)
def sign_in(request: HttpRequest, who: SignIn) -> dict[str, object]:
    """Sign in with a name and a password."""
    _require_csrf(request)
    credentials = {"username": who.username, "password": who.password}
    if not AxesProxyHandler.is_allowed(request, credentials):
        raise HttpError(429, "Too many wrong passwords: wait a quarter of an hour.")
    user = authenticate(request, **credentials)
    if user is None:
        raise HttpError(403, "That name and password do not go together.")
    login(request, user)
    return _session(request)


@router.post("/session/demo", response=SessionOut, auth=None)
def enter_demo(request: HttpRequest) -> dict[str, object]:
    """Enter the demo workshop; only where the program was started as a demo."""
    _require_csrf(request)
    user = User.objects.filter(memberships__workshop__demo=True).first()
    if not settings.DEMO or user is None:
        raise HttpError(403, "There is no demo workshop here.")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return _session(request)


@router.delete("/session", response={204: None}, auth=None)
def sign_out(request: HttpRequest) -> tuple[int, None]:
    """Sign out."""
    _require_csrf(request)
    logout(request)
    return 204, None


@router.patch("/workshop", response=WorkshopOut)
def change_workshop(request: HttpRequest, change: WorkshopIn) -> Workshop:
    """Change how lengths are written."""
    workshop = workshop_of(request)
    workshop.length_style = change.length_style
    workshop.save(update_fields=["length_style"])
    return workshop
