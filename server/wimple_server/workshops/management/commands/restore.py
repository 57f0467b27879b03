"""Put a copy that backup wrote back into an empty folder (WIMPLE_DATA): restore FILE."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from wimple_core.errors import WimpleError

from ....safekeeping import restore


class Command(BaseCommand):
    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: Path) -> None:
        try:
            listed = restore(options["file"], settings.DATA)
        except WimpleError as bad:
            raise CommandError(f"{bad.message} {bad.hint}") from None
        rows = listed["rows"]
        self.stdout.write(
            f"Put back as of {listed['taken']}: {rows['workshops_workshop']} workshops, {rows['jobs_job']} jobs,"
            f" {rows['jobs_drawing']} files, {rows['shelf_shelfblank']} blanks; checked."
        )
