"""Who may do what: every endpoint asks for a role, and one that says nothing asks by its method."""

from __future__ import annotations

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.security import SessionAuth

from ..workshops.models import Membership, Role, membership_of

RANK = {Role.VIEWER: 0, Role.MAKER: 1, Role.OWNER: 2}
REFUSED = {
    Role.MAKER: "A viewer looks at everything here and changes nothing: ask an owner to make you a maker.",
    Role.OWNER: "Only an owner of the workshop may do that.",
}
LOOKS = ("GET", "HEAD")


def require(request: HttpRequest, role: Role) -> Membership:
    """As what whoever is signed in works. Raises HttpError 403 for less than that role, or for no member."""
    member = membership_of(request)
    if member is None:
        raise HttpError(403, "You work in no workshop here: ask an owner of yours for an invitation.")
    if RANK[Role(member.role)] < RANK[role]:
        raise HttpError(403, REFUSED[role])
    return member


class AtLeast(SessionAuth):
    """Lets members in who have at least a role; without one given, viewers look and makers change."""

    def __init__(self, role: Role | None = None) -> None:
        super().__init__()
        self.role = role

    def authenticate(self, request: HttpRequest, key: str | None) -> Membership | None:
        if not request.user.is_authenticated:
            return None
        return require(request, self.role or (Role.VIEWER if request.method in LOOKS else Role.MAKER))


by_method = AtLeast()
viewers = AtLeast(Role.VIEWER)
owners = AtLeast(Role.OWNER)
