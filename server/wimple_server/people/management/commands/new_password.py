"""Set a new password for an account, whoever it is: new_password NAME@WORKSHOP. Its sessions end."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError, CommandParser
from wimple_core.errors import WimpleError

from ... import accounts
from ...asking import asked_password


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("account")

    def handle(self, *args: object, **options: str) -> None:
        name = accounts.find_account(options["account"])
        user = User.objects.filter(username=name).first()
        if user is None:
            raise CommandError(f"There is no account “{options['account']}”. Give its full name, as anna@hill-decals.")
        try:
            accounts.set_password(user, asked_password())
        except WimpleError as bad:
            raise CommandError(f"{bad.message} {bad.hint}") from None
        self.stdout.write(f"{user.username} has a new password, and is signed out everywhere.")
