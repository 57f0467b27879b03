"""Ask after the program's health until it answers that all is well, and say what is not: wait_until_well --address."""

from __future__ import annotations

import json
import time
import urllib.error
import urllib.request

from django.core.management.base import BaseCommand, CommandError, CommandParser

MOST_S = 120.0


class Command(BaseCommand):
    help = __doc__
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--address", required=True)

    def handle(self, *args: object, **options: str) -> None:
        asked = urllib.request.Request(f"{options['address']}/health", headers={"X-Forwarded-Proto": "https"})
        until, told = time.monotonic() + MOST_S, "It does not answer"
        while time.monotonic() < until:
            try:
                with urllib.request.urlopen(asked, timeout=10):
                    return
            except urllib.error.HTTPError as bad:
                wrong = {k: v for k, v in json.loads(bad.read()).items() if v != "ok"}
                told = "; ".join(f"{k}: {v}" for k, v in wrong.items())
            except (OSError, ValueError):
                pass
            time.sleep(0.2)
        raise CommandError(f"{told}.")
