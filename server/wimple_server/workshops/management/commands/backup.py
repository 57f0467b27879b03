"""Write a copy of everything to a new file, while the program runs: backup FILE."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from wimple_core.errors import WimpleError

from ....safekeeping import back_up


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: Path) -> None:
        try:
            listed = back_up(options["file"], settings.DATA)
        except WimpleError as bad:
            raise CommandError(f"{bad.message} {bad.hint}") from None
        self.stdout.write(f"{options['file']}: {listed['rows']['jobs_job']} jobs, checked.")
