"""Accounts: a name within the workshop it was made in, so that two workshops may each have an Anna.

An account may be a member of other workshops besides. Its full name is `anna@short-name-of-its-workshop`.
"""

from __future__ import annotations

import datetime as dt
import hashlib
import secrets
import unicodedata

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.utils import timezone
from wimple_core.errors import BadDocument

from ..workshops.models import Membership, Role, Workshop
from .models import GOOD_FOR, Invitation
from .sessions import sign_out_everywhere

MOST_NAME = 60


def folded(name: str) -> str:
    """A name as it is compared: capitals and ways of writing an accent make no difference."""
    plain = "".join(c for c in unicodedata.normalize("NFKC", name) if c.isprintable())
    return plain.strip().casefold()


def full_name(name: str, short: str) -> str:
    return f"{folded(name)}@{short}"


def shown_name(user: User) -> str:
    """The name as its owner wrote it."""
    return user.first_name or user.username.rpartition("@")[0] or user.username


def who(request: HttpRequest) -> str:
    """The name that stands beside what somebody changes."""
    return shown_name(request.user) if isinstance(request.user, User) else ""


def find_account(name: str, short: str = "") -> str:
    """The full name that somebody signing in means: of their workshop's, or of the only account of that name. Where
    there is none, a name nobody has."""
    before, _, after = name.rpartition("@")
    if not short and Workshop.objects.filter(short=folded(after)).exists():
        name, short = before, after
    # A name from before names had workshops may have been an address.
    name = name.replace("@", " at ")
    if short:
        return full_name(name, folded(short))
    found = User.objects.filter(username__startswith=full_name(name, "")).values_list("username", flat=True)[:2]
    return found[0] if len(found) == 1 else full_name(name, "")


def check_password(password: str, user: User) -> None:
    """Raises BadDocument, naming the field `password`, where the rules refuse it for that account."""
    try:
        validate_password(password, user)
    except ValidationError as bad:
        raise BadDocument(
            " ".join(bad.messages),
            field="password",
            hint="Take four or five words that have nothing to do with you, or let your browser make one.",
        ) from None


def new_account(workshop: Workshop, name: str, password: str | None, role: str) -> User:
    """A new account, member of a workshop. Without a password nobody can sign in to it.

    Raises BadDocument where the name cannot be one or is taken in this workshop, or the password is refused.
    """
    name, plain = name.strip(), folded(name)
    if not 0 < len(plain) <= MOST_NAME or len(name) > MOST_NAME or "@" in plain or not name.isprintable():
        raise BadDocument(
            "That cannot be a name to sign in with.",
            field="name",
            hint=f"Take up to {MOST_NAME} letters and figures, without @.",
        )
    user = User(username=full_name(name, workshop.short), first_name=name)
    if password is None:
        user.set_unusable_password()
    else:
        check_password(password, user)
        user.set_password(password)
    try:
        with transaction.atomic():
            user.save()
            Membership.objects.create(user=user, workshop=workshop, role=role)
    except IntegrityError:
        raise BadDocument(
            f"{workshop.name} has somebody named “{name}” already.", field="name", hint="Take another name."
        ) from None
    return user


def set_password(user: User, password: str) -> None:
    """A new password; every session under the old one ends. Raises BadDocument where it is refused."""
    check_password(password, user)
    user.set_password(password)
    user.save(update_fields=["password"])
    sign_out_everywhere(user.pk)


def _owners_left(member: Membership) -> bool:
    """Is there another owner? The workshop is held until the transaction ends: of two owners who take each other out at
    once, one is left."""
    Workshop.objects.select_for_update().get(pk=member.workshop_id)
    others = Membership.objects.filter(workshop=member.workshop_id, role=Role.OWNER)
    return others.exclude(pk=member.pk).exists()


def _needs_an_owner(member: Membership) -> BadDocument:
    return BadDocument(
        f"{shown_name(member.user)} is the only owner of {member.workshop.name}.",
        field="role",
        hint="Make somebody else an owner first.",
    )


@transaction.atomic
def change_role(member: Membership, role: str) -> None:
    """Raises BadDocument where a workshop would be left without an owner."""
    if role != Role.OWNER and not _owners_left(member):
        raise _needs_an_owner(member)
    member.role = role
    member.save(update_fields=["role"])


@transaction.atomic
def remove_member(member: Membership) -> None:
    """Take somebody out of a workshop; an account that is left in none is gone. What it changed keeps its name.

    Raises BadDocument where the workshop would be left without an owner.
    """
    if not _owners_left(member):
        raise _needs_an_owner(member)
    user = member.user
    member.delete()
    if not user.memberships.exists():
        sign_out_everywhere(user.pk)
        user.delete()


def _digest(code: str) -> str:
    return hashlib.sha256(code.encode()).hexdigest()


def invite(workshop: Workshop, role: str, note: str = "", renews: User | None = None) -> tuple[Invitation, str]:
    """A link for one person, good for a week; returns it and its code, which is not kept."""
    code = secrets.token_urlsafe(24)
    made = Invitation.objects.create(
        workshop=workshop, role=role, note=note, digest=_digest(code), renews=renews, ends=timezone.now() + GOOD_FOR
    )
    return made, code


def renew_password(member: Membership) -> tuple[Invitation, str]:
    """A link to a new password for a member. Raises BadDocument for somebody who works elsewhere too."""
    _check_only_here(member.user, member.workshop_id)
    return invite(member.workshop, member.role, shown_name(member.user), member.user)


def _check_only_here(user: User, workshop_id: int) -> None:
    """Raises BadDocument for somebody who works elsewhere too: one workshop's owner opens no door of another's."""
    if user.memberships.exclude(workshop=workshop_id).exists():
        raise BadDocument(
            f"{shown_name(user)} works in another workshop too.",
            field="member",
            hint="Whoever runs the program can set a new password: manage new_password.",
        )


def find_invitation(code: str) -> Invitation:
    """Raises BadDocument where it is used up, out of date, or none."""
    found = Invitation.objects.select_related("workshop", "renews").filter(digest=_digest(code)).first()
    if found is None or found.ends < timezone.now():
        raise BadDocument(
            "This link is used up or out of date.", field="code", hint="Ask an owner of the workshop for a new one."
        )
    return found


def _use(invitation: Invitation) -> None:
    """Of two who come with one link at once, one is let in."""
    if not Invitation.objects.filter(pk=invitation.pk).delete()[0]:
        find_invitation("")


@transaction.atomic
def join_as_new(invitation: Invitation, name: str, password: str) -> User:
    """Somebody new comes in, or whose password is renewed gets the new one. Raises BadDocument as the parts do."""
    if invitation.renews is not None:
        # They may have come into another workshop since the link was made.
        _check_only_here(invitation.renews, invitation.workshop_id)
        set_password(invitation.renews, password)
        user = invitation.renews
    else:
        user = new_account(invitation.workshop, name, password, invitation.role)
    _use(invitation)
    return user


@transaction.atomic
def join_as(invitation: Invitation, user: User) -> None:
    """Somebody who has an account comes in with it. Raises BadDocument where they are in already."""
    if invitation.renews is not None:
        raise BadDocument("This link is for a new password.", field="code", hint="Open it without signing in.")
    if user.memberships.filter(workshop=invitation.workshop).exists():
        raise BadDocument(f"You work in {invitation.workshop.name} already.", field="code", hint="Go to the Bench.")
    Membership.objects.create(user=user, workshop=invitation.workshop, role=invitation.role)
    _use(invitation)


def forget_old(now: dt.datetime) -> int:
    """Clear invitations away that are out of date."""
    return Invitation.objects.filter(ends__lt=now).delete()[0]
