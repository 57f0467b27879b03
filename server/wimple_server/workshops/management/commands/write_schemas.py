"""Write the published JSON Schemas of the job document and the report into docs/."""

from __future__ import annotations

import json

from django.conf import settings
from django.core.management.base import BaseCommand
from wimple_core.export import report_schema
from wimple_core.job import job_schema


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: object) -> None:
        for name, schema in (("job", job_schema()), ("report", report_schema())):
            text = json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
            (settings.ROOT / "docs" / f"{name}.schema.json").write_text(text, encoding="utf-8")
