"""Members of a workshop, and the links that let people in."""

from __future__ import annotations

import datetime as dt
import logging

from django.contrib.auth.models import User
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Schema
from ninja.security import django_auth
from pydantic import Field

from ..jobs.reaching import ERRORS
from ..workshops.models import CHOSEN, Membership, workshop_of
from . import accounts
from .models import Invitation
from .roles import owners
from .session_api import MOST_PASSWORD, RoleName, SessionOut, let_in, require_csrf, session_of

router = Router(tags=["people"])
log = logging.getLogger("wimple.door")


class MemberOut(Schema):
    id: int
    name: str
    account: str
    role: RoleName
    since: dt.datetime
    me: bool


class RoleIn(Schema):
    role: RoleName


class InviteIn(Schema):
    role: RoleName = "maker"
    note: str = Field("", max_length=60)


class InvitationOut(Schema):
    """A link that is not used yet. Its code is told once, where it is made."""

    id: int
    role: RoleName
    note: str
    ends: dt.datetime
    renews: bool
    code: str | None


class PeopleOut(Schema):
    members: list[MemberOut]
    invitations: list[InvitationOut]


class WelcomeOut(Schema):
    """What a link opens: a workshop in a role, or a new password for the account it names."""

    workshop: str
    role: RoleName
    renews: str | None


class JoinIn(Schema):
    name: str = Field("", max_length=150)
    password: str = Field(max_length=MOST_PASSWORD)


def _member(request: HttpRequest, member_id: int) -> Membership:
    return get_object_or_404(
        Membership.objects.select_related("user", "workshop"), pk=member_id, workshop=workshop_of(request)
    )


def _member_out(request: HttpRequest, member: Membership) -> dict[str, object]:
    user = member.user
    return {
        "id": member.pk,
        "name": accounts.shown_name(user),
        "account": user.username,
        "role": member.role,
        "since": member.since,
        "me": user.pk == request.user.pk,
    }


def _invitation_out(invitation: Invitation, code: str | None = None) -> dict[str, object]:
    return {
        "id": invitation.pk,
        "role": invitation.role,
        "note": invitation.note,
        "ends": invitation.ends,
        "renews": invitation.renews_id is not None,
        "code": code,
    }


@router.get("/people", response=PeopleOut, auth=owners)
def list_people(request: HttpRequest) -> dict[str, object]:
    """Who works in the workshop, and the links that are not used yet."""
    workshop = workshop_of(request)
    members = workshop.memberships.select_related("user")
    open_ones = Invitation.objects.filter(workshop=workshop, ends__gte=timezone.now())
    return {
        "members": [_member_out(request, m) for m in members],
        "invitations": [_invitation_out(i) for i in open_ones],
    }


@router.patch("/people/{int:member_id}", response={200: MemberOut, **ERRORS}, auth=owners)
def change_member(request: HttpRequest, member_id: int, change: RoleIn) -> dict[str, object]:
    """Give a member another role."""
    member = _member(request, member_id)
    accounts.change_role(member, change.role)
    log.info("%s made %s %s of %s", request.user, member.user, change.role, member.workshop)
    return _member_out(request, member)


@router.delete("/people/{int:member_id}", response={204: None, **ERRORS}, auth=owners)
def remove_member(request: HttpRequest, member_id: int) -> tuple[int, None]:
    """Take somebody out of the workshop."""
    member = _member(request, member_id)
    name = member.user.username
    accounts.remove_member(member)
    log.info("%s took %s out of %s", request.user, name, member.workshop)
    return 204, None


@router.post("/people/{int:member_id}/password", response={201: InvitationOut, **ERRORS}, auth=owners)
def renew_password(request: HttpRequest, member_id: int) -> tuple[int, dict[str, object]]:
    """A link for a member who has forgotten their password."""
    return 201, _invitation_out(*accounts.renew_password(_member(request, member_id)))


@router.post("/invitations", response={201: InvitationOut, **ERRORS}, auth=owners)
def invite(request: HttpRequest, wanted: InviteIn) -> tuple[int, dict[str, object]]:
    """A link that lets one person in, good for a week."""
    return 201, _invitation_out(*accounts.invite(workshop_of(request), wanted.role, wanted.note.strip()))


@router.delete("/invitations/{int:invitation_id}", response={204: None, **ERRORS}, auth=owners)
def withdraw(request: HttpRequest, invitation_id: int) -> tuple[int, None]:
    """Make a link good for nothing."""
    get_object_or_404(Invitation, pk=invitation_id, workshop=workshop_of(request)).delete()
    return 204, None


@router.get("/join/{code}", response={200: WelcomeOut, **ERRORS}, auth=None)
def welcome(request: HttpRequest, code: str) -> dict[str, object]:
    """What a link opens."""
    found = accounts.find_invitation(code)
    return {
        "workshop": found.workshop.name,
        "role": found.role,
        "renews": accounts.shown_name(found.renews) if found.renews else None,
    }


@router.post("/join/{code}", response={200: SessionOut, **ERRORS}, auth=None)
def join(request: HttpRequest, code: str, who: JoinIn) -> dict[str, object]:
    """Come in by a link as somebody new, with a name and a password; or set the new password it is for."""
    require_csrf(request)
    found = accounts.find_invitation(code)
    user = accounts.join_as_new(found, who.name, who.password)
    log.info("%s came in by a link: %s", user, found)
    let_in(request, user)
    return session_of(request)


@router.post("/join/{code}/mine", response={200: SessionOut, **ERRORS}, auth=django_auth)
def join_with_mine(request: HttpRequest, code: str) -> dict[str, object]:
    """Come in by a link with the account one is signed in with."""
    found = accounts.find_invitation(code)
    user = request.user
    assert isinstance(user, User)
    accounts.join_as(found, user)
    log.info("%s came in by a link: %s", user, found)
    request.session[CHOSEN] = found.workshop_id
    return session_of(request)
