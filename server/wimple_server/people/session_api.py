"""Signing in and out, the choice of a workshop, and one's own account."""

from __future__ import annotations

import logging
import time
from typing import Literal

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.http import Http404, HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.security import django_auth
from ninja.utils import check_csrf
from pydantic import Field
from wimple_core.errors import BadDocument

from .. import disk
from ..jobs.reaching import ErrorOut
from ..workshops.api import WorkshopOut
from ..workshops.models import CHOSEN, Membership, membership_of
from . import accounts
from .guessing import Guess
from .sessions import BEGUN, sign_out_everywhere

router = Router(tags=["session"])
log = logging.getLogger("wimple.door")
RoleName = Literal["owner", "maker", "viewer"]
MOST_PASSWORD = 128
ACCOUNT_BACKEND = "django.contrib.auth.backends.ModelBackend"


class ChoiceOut(Schema):
    """A workshop one works in."""

    id: int
    name: str
    role: RoleName


class SessionOut(Schema):
    """Who is signed in (null for nobody), the workshop they are in and as what, all they may choose from, whether the
    demo may be entered, and what whoever runs the program should know, if anything."""

    user: str | None
    account: str | None
    workshop: WorkshopOut | None
    role: RoleName | None
    workshops: list[ChoiceOut]
    demo: bool
    csrf: str
    warning: str


class SignIn(Schema):
    """`workshop` is the short name of one's workshop; where nobody else here has the name it may be left out."""

    username: str = Field(max_length=150)
    password: str = Field(max_length=1000)
    workshop: str = Field("", max_length=60)


class ChoiceIn(Schema):
    workshop: int = Field(ge=0, le=2**62)


class PasswordIn(Schema):
    old: str = Field(max_length=1000)
    new: str = Field(max_length=MOST_PASSWORD)


def session_of(request: HttpRequest) -> dict[str, object]:
    """Who is signed in."""
    user = request.user if isinstance(request.user, User) else None
    member = membership_of(request) if user else None
    mine = Membership.objects.select_related("workshop").filter(user=user) if user else []
    return {
        "user": accounts.shown_name(user) if user else None,
        "account": user.username if user else None,
        "workshop": member.workshop if member else None,
        "role": member.role if member else None,
        "workshops": [{"id": m.workshop_id, "name": m.workshop.name, "role": m.role} for m in mine],
        "demo": settings.DEMO,
        "csrf": get_token(request),
        "warning": disk.warning() if user else "",
    }


def require_csrf(request: HttpRequest) -> None:
    """For endpoints that need nobody signed in. Raises HttpError 403."""
    if check_csrf(request):
        raise HttpError(403, "The page is too old to sign in from: load it again.")


def note_refusal(request: HttpRequest, name: str) -> None:
    """Write down that a password was refused. A name nobody has is not written: it may be a password in the wrong
    field."""
    known = name if User.objects.filter(username=name).exists() else "a name nobody has"
    log.warning("%s was refused from %s", known, request.META.get("REMOTE_ADDR", "-"))


def let_in(request: HttpRequest, user: User) -> None:
    """Sign somebody in whose right to it is known."""
    login(request, user, backend=ACCOUNT_BACKEND)
    request.session[BEGUN] = time.time()
    if hasattr(request, "membership"):
        del request.membership


@router.get("/session", response=SessionOut, auth=None)
def get_session(request: HttpRequest) -> dict[str, object]:
    """Who is signed in."""
    return session_of(request)


@router.post("/session", response={200: SessionOut, 403: ErrorOut, 429: ErrorOut}, auth=None)
def sign_in(request: HttpRequest, response: HttpResponse, who: SignIn) -> dict[str, object]:
    """Sign in with a name and a password."""
    require_csrf(request)
    name = accounts.find_account(who.username, who.workshop)
    guess = Guess(request, name)
    guess.count()
    user = authenticate(request, username=name, password=who.password)
    if not isinstance(user, User):
        note_refusal(request, name)
        raise HttpError(403, "That name and password do not go together.")
    log.info("%s signed in from %s", user.username, request.META.get("REMOTE_ADDR", "-"))
    guess.right()
    guess.remember(response)
    let_in(request, user)
    return session_of(request)


@router.post("/session/demo", response={200: SessionOut, 403: ErrorOut}, auth=None)
def enter_demo(request: HttpRequest) -> dict[str, object]:
    """Enter the demo workshop; only where the program was started as a demo."""
    require_csrf(request)
    user = User.objects.filter(memberships__workshop__demo=True).first()
    if not settings.DEMO or user is None:
        raise HttpError(403, "There is no demo workshop here.")
    let_in(request, user)
    return session_of(request)


@router.put("/session/workshop", response={200: SessionOut, 404: ErrorOut}, auth=django_auth)
def choose_workshop(request: HttpRequest, choice: ChoiceIn) -> dict[str, object]:
    """Go on in another workshop one works in."""
    if not Membership.objects.filter(user_id=request.user.pk or 0, workshop_id=choice.workshop).exists():
        raise Http404
    request.session[CHOSEN] = choice.workshop
    if hasattr(request, "membership"):
        del request.membership
    return session_of(request)


@router.delete("/session", response={204: None}, auth=None)
def sign_out(request: HttpRequest) -> tuple[int, None]:
    """Sign out."""
    require_csrf(request)
    logout(request)
    return 204, None


@router.delete("/account/sessions", response={204: None}, auth=django_auth)
def sign_out_of_all(request: HttpRequest) -> tuple[int, None]:
    """Sign out here and everywhere else."""
    account = int(request.user.pk or 0)
    logout(request)
    sign_out_everywhere(account)
    return 204, None


@router.put("/account/password", response={200: SessionOut, 422: ErrorOut, 429: ErrorOut}, auth=django_auth)
def change_password(request: HttpRequest, change: PasswordIn) -> dict[str, object]:
    """Change one's own password; other sessions end, this one goes on."""
    user = request.user
    assert isinstance(user, User)
    guess = Guess(request, user.username)
    guess.count()
    if not user.check_password(change.old):
        note_refusal(request, user.username)
        raise BadDocument("That is not your password now.", field="old", hint="Type the one you signed in with.")
    guess.right()
    accounts.set_password(user, change.new)
    log.info("%s has a new password", user.username)
    update_session_auth_hash(request, user)
    return session_of(request)
