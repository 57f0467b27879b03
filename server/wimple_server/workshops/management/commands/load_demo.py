"""Fill an empty database with the demo workshop; leave any other as it is."""

from __future__ import annotations

import datetime as dt
import json

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone
from wimple_core.artwork import clean_drawing
from wimple_core.job import load_job
from wimple_core.job.cut_log import CutEntry
from wimple_core.job.tables import load_tables
from wimple_core.measure import files_of
from wimple_core.views.folio import folio_in

from ....cutters.models import CutEntryRow
from ....folio.models import FolioItem
from ....jobs.models import Drawing, Job
from ....people.accounts import new_account
from ....shelf.keeping import keep
from ...models import Role, Workshop, shipped_tables

DEMO_PEOPLE = {"Demo": Role.OWNER, "Runa": Role.MAKER, "Odo": Role.VIEWER}
"""Nobody signs in as one of them: the demo is entered by its door."""
DEMO_JOBS = (
    "visitor-names",
    "ring-words",
    "six-films",
    "two-section-bottle",
    "telescope-dome",
    "lid-insert",
    "printed-insert",
    "case-lid-stars",
    "comet-door",
    "star-atlas-mug",
    "perihelion-cup",
)
DEMO_SHELF = {
    "perihelion-cup": ("enamel", "tapered"),
    "star-atlas-mug": ("steel", "handle"),
    "two-section-bottle": ("steel", "bottle"),
    "bellied-mug": ("stoneware", "handle"),
    "telescope-dome": ("dome", "observatory"),
    "door-panel": ("van",),
    "bent-flap": ("van",),
    "case-lid": ("case",),
    "lid-insert": ("candle",),
    "hexagon-board": ("board",),
    "oval-plaque": ("gate",),
    "round-flap": ("van",),
    "signpost": ("path",),
    "eight-sided-tin": ("tin",),
    "dome-40": ("scan", "observatory"),
}
"""Blanks on the demo's Shelf, by the example they are taken from, with their tags."""


DEMO_FOLIO = {
    "comet.svg": ("sky",),
    "five-paths.svg": ("sky", "one colour"),
    "moon-band.svg": ("sky", "band"),
    "orion.svg": ("sky",),
    "star-atlas.svg": ("sky", "atlas"),
    "twelve-hours.svg": ("clock",),
    "night-badge.jpg": ("badge", "picture"),
    "dome-at-night.dxf": ("dome", "observatory"),
    "fernhallow-marks.ttf": ("signs", "observatory"),
}
"""Drawings and fonts in the demo's Folio, with their tags."""


DEMO_STOCK: tuple[tuple[str, str, dict[str, object]], ...] = (
    ("calendered-gloss", "midnight", {"form": "roll", "width_mm": 305, "length_mm": 4210, "bought_on": "2026-09-14"}),
    (
        "calendered-gloss",
        "midnight",
        {
            "form": "remnant",
            "width_mm": 298,
            "length_mm": 300,
            "outline": [[0, 0], [298, 0], [298, 180], [282, 300], [0, 300]],
            "note": "one corner torn",
        },
    ),
    (
        "calendered-gloss",
        "midnight",
        {
            "form": "remnant",
            "width_mm": 220,
            "length_mm": 280,
            "outline": [[0, 0], [220, 0], [220, 110], [90, 110], [90, 280], [0, 280]],
        },
    ),
    ("calendered-gloss", "cream", {"form": "roll", "width_mm": 305, "length_mm": 2640, "bought_on": "2026-10-02"}),
    ("calendered-gloss", "cream", {"form": "remnant", "width_mm": 96, "length_mm": 270}),
    ("calendered-gloss", "gold", {"form": "roll", "width_mm": 610, "length_mm": 1900, "bought_on": "2026-06-21"}),
    (
        "glitter",
        "gold",
        {
            "form": "sheet",
            "width_mm": 305,
            "length_mm": 308,
            "sheets": 5,
            "bare_edge_mm": 10,
            "bought_on": "2026-10-30",
        },
    ),
    ("glitter", "gold", {"form": "remnant", "width_mm": 140, "length_mm": 190}),
    ("metallic", "gold", {"form": "roll", "width_mm": 305, "length_mm": 640, "bought_on": "2026-03-08"}),
    ("calendered-matt", "black", {"form": "roll", "width_mm": 305, "length_mm": 5200, "bought_on": "2026-08-11"}),
    ("cast", "midnight", {"form": "roll", "width_mm": 610, "length_mm": 3150, "bought_on": "2026-05-17"}),
    ("cast", "cream", {"form": "roll", "width_mm": 610, "length_mm": 860, "bought_on": "2026-05-17"}),
    ("cast", "cream", {"form": "remnant", "width_mm": 330, "length_mm": 410}),
    ("reflective", "sky", {"form": "roll", "width_mm": 610, "length_mm": 1420, "bought_on": "2026-07-01"}),
)
"""Film on the demo's shelves: its family, its colour, and the piece."""


DEMO_MACHINE = {"simulated": True, "blade_offset_mm": 0.25, "most_force_gf": 210}
"""The demo's mat cutter is the stand-in."""
DEMO_BLADES = [
    {"id": "b1", "name": "blade 1", "cutter": "desktop-mat", "since": "2026-01-12", "before_m": 690, "worn_out": True},
    {"id": "b2", "name": "blade 2", "cutter": "desktop-mat", "since": "2026-06-03", "before_m": 820, "worn_out": True},
    {"id": "b3", "name": "blade 3", "cutter": "desktop-mat", "since": "2026-10-19", "before_m": 118},
]
DEMO_CUTS = (
    ("calendered-gloss", "midnight", 70, 84, "right", "clean"),
    ("calendered-gloss", "cream", 70, 72, "not_through", None),
    ("calendered-gloss", "cream", 70, 86, "right", "clean"),
    ("calendered-gloss", "gold", 70, 86, "right", "clean"),
    ("calendered-gloss", "midnight", 70, 88, "right", "clean"),
    ("calendered-gloss", "midnight", 70, 150, "into_liner", "clean"),
    ("glitter", "gold", 140, 190, "right", "tore"),
    ("calendered-matt", "black", 70, 86, "right", "clean"),
)
"""Cuts in the demo's log: film, colour, um, gf, what a corner showed, how it weeded."""


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: object) -> None:
        if Workshop.objects.filter(demo=True).exists():
            return
        with transaction.atomic():
            stock = [{"id": f"f{n}", "film": f, "name": c, **p} for n, (f, c, p) in enumerate(DEMO_STOCK, start=1)]
            tables = {**shipped_tables(), "stock": stock, "blades": DEMO_BLADES}
            tables["cutters"] = [c | DEMO_MACHINE if c["id"] == "desktop-mat" else c for c in tables["cutters"]]
            tables["stock"] = [p.model_dump(mode="json") for p in load_tables(tables).stock]
            workshop = Workshop.objects.create(name="Fernhallow Decals", demo=True, tables=tables)
            for name, role in DEMO_PEOPLE.items():
                new_account(workshop, name, None, role)
            for name in DEMO_JOBS:
                raw = json.loads((settings.EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8"))
                document = load_job(raw)
                job = Job.start(workshop, document, "Runa")
                for drawing in document.drawings:
                    data = clean_drawing((settings.EXAMPLES / "drawings" / drawing).read_bytes())
                    Drawing.keep(job, drawing, data)
            self._fill_log(workshop)
            self._fill_shelf(workshop)
            for file, tags in DEMO_FOLIO.items():
                taken = folio_in((settings.EXAMPLES / "drawings" / file).read_bytes(), file)
                item = FolioItem.keep(workshop, file, taken)
                item.tags = list(tags)
                item.write_search()
                item.save()
        self.stdout.write("The demo workshop is loaded.")

    def _fill_log(self, workshop: Workshop) -> None:
        """Cuts of the weeks before, on the machine and with the blade there is now."""
        for n, (film, colour, um, force, corner, weeded) in enumerate(DEMO_CUTS):
            raw = {
                "at": timezone.now() - dt.timedelta(days=3 * (len(DEMO_CUTS) - n)),
                "cutter": "desktop-mat",
                "blade": "b3",
                "blade_m": 118 + 9 * n,
                "film": film,
                "colour": colour,
                "film_um": um,
                "setting": {"force_gf": force, "speed_mm_s": 100},
                "metres": 9,
                "corner": corner,
                "weeded": weeded,
            }
            CutEntryRow.write(workshop, CutEntry.model_validate(raw), "Runa")

    def _fill_shelf(self, workshop: Workshop) -> None:
        """Blanks of all examples; a job of the demo that holds one counts as having used it."""
        by_blank = {job.document["blank"]["name"]: job for job in workshop.jobs.all()}
        for name, tags in DEMO_SHELF.items():
            document = load_job(json.loads((settings.EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8")))
            job = by_blank.get(document.blank.name)
            job = job or Job.start(workshop, document)
            for file in files_of(document.blank):
                path = settings.EXAMPLES / "drawings" / file
                if path.is_file() and not job.drawings.filter(name=file).exists():
                    kind = {"svg": "outline", "dxf": "outline", "jpg": "photo"}.get(path.suffix[1:], "mesh")
                    Drawing.keep(job, file, path.read_bytes(), kind)
            kept = keep(job)
            kept.tags = list(tags)
            kept.write_search()
            kept.save()
            if document.blank.name not in by_blank:
                job.delete()
