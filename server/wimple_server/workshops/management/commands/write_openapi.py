"""Write the API's OpenAPI document, from which the front end's types are made: write_openapi FILE."""

from __future__ import annotations

import json
from pathlib import Path

from django.core.management.base import BaseCommand, CommandParser


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: Path) -> None:
        from ....api import api

        options["file"].write_text(json.dumps(api.get_openapi_schema(), indent=1) + "\n", encoding="utf-8")
