"""Add somebody to a workshop, making either where it is not there yet: add_member WORKSHOP USERNAME."""

from __future__ import annotations

import getpass
import os

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from ...models import Membership, Workshop


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("workshop")
        parser.add_argument("username")

    def handle(self, *args: object, **options: str) -> None:
        password = os.environ.get("WIMPLE_PASSWORD") or getpass.getpass("Password: ")
        user, _ = User.objects.get_or_create(username=options["username"])
        try:
            validate_password(password, user)
        except ValidationError as bad:
            raise CommandError(" ".join(bad.messages)) from None
        user.set_password(password)
        user.save()
        workshop, _ = Workshop.objects.get_or_create(name=options["workshop"])
        Membership.objects.get_or_create(user=user, workshop=workshop)
        self.stdout.write(f"{user.username} works in {workshop.name}.")
