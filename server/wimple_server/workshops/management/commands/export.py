"""Carry a workshop out as open files: export WORKSHOP FOLDER. Its jobs as documents beside their drawings, its Shelf,
its Folio and its tables."""

from __future__ import annotations

import json
import re
from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser

from ....cutters.models import CutEntryRow
from ....shelf.keeping import exported
from ...models import Workshop


def _plain(name: str) -> str:
    return re.sub(r"[^\w.-]+", "-", name).strip("-.")[:60] or "job"


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("workshop")
        parser.add_argument("folder", type=Path)

    def handle(self, *args: object, **options: str) -> None:
        workshop = Workshop.objects.filter(name=options["workshop"]).first()
        if workshop is None:
            names = ", ".join(f"“{n}”" for n in Workshop.objects.values_list("name", flat=True)[:20])
            raise CommandError(f"There is no workshop “{options['workshop']}”. There are: {names}.")
        folder = Path(options["folder"])
        if folder.exists() and any(folder.iterdir()):
            raise CommandError(f"“{folder}” is not empty. Name a new folder.")
        folder.mkdir(parents=True, exist_ok=True)
        count = 0
        for job in workshop.jobs.iterator():
            place = folder / "jobs" / f"{job.pk}-{_plain(str(job))}"
            (place / "drawings").mkdir(parents=True)
            document = json.dumps(job.document, indent=1, ensure_ascii=False)
            (place / "job.wimple.json").write_text(document, encoding="utf-8")
            for drawing in job.drawings.iterator():
                (place / "drawings" / Path(drawing.name).name).write_bytes(bytes(drawing.data))
            count += 1
        (folder / "folio").mkdir()
        for item in workshop.folio.iterator():
            (folder / "folio" / f"{item.pk}-{Path(item.file).name}").write_bytes(bytes(item.data))
        (folder / "shelf.wimple.json").write_text(json.dumps(exported(workshop), ensure_ascii=False), encoding="utf-8")
        (folder / "tables.json").write_text(json.dumps(workshop.tables, indent=1, ensure_ascii=False), encoding="utf-8")
        cuts = [entry.model_dump(mode="json") for entry in CutEntryRow.of(workshop)]
        (folder / "cuts.json").write_text(json.dumps(cuts, indent=1, ensure_ascii=False), encoding="utf-8")
        self.stdout.write(
            f"{count} jobs, the Shelf, the Folio, the tables and the log of cuts of {workshop.name} are in {folder}."
        )
