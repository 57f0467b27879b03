"""Make an account in a workshop, and the workshop where it is not there yet: add_member WORKSHOP NAME [--role].
The first member of a workshop is its owner. No account that is there is changed."""

from __future__ import annotations

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction
from wimple_core.errors import WimpleError

from ....workshops.models import Role, Workshop
from ... import accounts
from ...asking import asked_password


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("workshop")
        parser.add_argument("name")
        parser.add_argument("--role", choices=Role.values, default="")

    def handle(self, *args: object, **options: str) -> None:
        password = asked_password()
        try:
            with transaction.atomic():
                workshop, _ = Workshop.objects.get_or_create(name=options["workshop"])
                first = not workshop.memberships.exists()
                role = options["role"] or (Role.OWNER if first else Role.MAKER)
                user = accounts.new_account(workshop, options["name"], password, role)
        except WimpleError as bad:
            raise CommandError(f"{bad.message} {bad.hint}") from None
        self.stdout.write(f"{user.username} is {role} in {workshop.name}.")
