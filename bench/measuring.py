"""How long measuring takes: a reading changed, for each kind of blank; a photograph; a Shelf of 5,000 blanks."""

from __future__ import annotations

import json
import os
import statistics
import tempfile
import time

from rendering import BELLIED, jpeg, photograph, profile_of
from samples import EXAMPLES
from wimple_core.cache import StageCache
from wimple_core.job import load_job
from wimple_core.measure import files_of
from wimple_core.measure.photo import profile_from
from wimple_core.measure.silhouette import find_outline
from wimple_core.pipeline import build_whole as build

Row = dict[str, object]


def a_reading_changed() -> list[Row]:
    """From a changed reading to verdicts and free areas, the files of the blank being read already. The ratio is
    against the plain cup."""
    rows: list[Row] = []
    for path in sorted(EXAMPLES.glob("*.wimple.json")):
        job = load_job(json.loads(path.read_text(encoding="utf-8")))
        files = {
            n: (EXAMPLES / "drawings" / n).read_bytes()
            for n in files_of(job.blank)
            if (EXAMPLES / "drawings" / n).is_file()
        }
        cache = StageCache()
        build(job, files, "measure", cache=cache)
        took = []
        for i in range(7):
            changed = job.model_copy(update={"blank": job.blank.model_copy(update={"note": str(i)})})
            began = time.perf_counter()
            build(changed, files, "measure", cache=cache)
            took.append(time.perf_counter() - began)
        rows.append(
            {
                "what": f"a reading changed: {path.name.removesuffix('.wimple.json')} ({job.blank.kind})",
                "ours_ms": statistics.median(took) * 1e3,
                "limit_ms": 100,
            }
        )
    plain = next(float(str(r["ours_ms"])) for r in rows if "acceptance-cup" in str(r["what"]))
    for r in rows:
        r["ratio"] = float(str(r["ours_ms"])) / plain
    return rows


def photographs() -> list[Row]:
    """The outline in pictures of two and of twelve megapixels, and the profile off it; the ratio is against opening
    the picture."""
    from wimple_core.job.turned import Photo
    from wimple_core.measure.silhouette import open_picture

    profile, height = profile_of(BELLIED)
    rows: list[Row] = []
    for size in ((1600, 1200), (4000, 3000)):
        picture, marks = photograph(profile, height, 600.0, size=size, noise=3.0, blur=0.7)
        data = jpeg(picture)
        opening, finding = [], []
        for _ in range(3):
            began = time.perf_counter()
            open_picture(data)
            opening.append(time.perf_counter() - began)
            began = time.perf_counter()
            outline = find_outline(data)
            finding.append(time.perf_counter() - began)
        photo = Photo(file="a.jpg", known=marks["known"], axis=marks["axis"], distance_mm=600.0)
        began = time.perf_counter()
        found = profile_from(outline, photo)
        off = time.perf_counter() - began
        worst = float(abs(found.r - profile(found.z.clip(0, height)))[(found.z > 1) & (found.z < height - 1)].max())
        rows.append(
            {
                "what": f"outline in {size[0] * size[1] / 1e6:.0f} megapixels",
                "ours_ms": statistics.median(finding) * 1e3,
                "limit_ms": 2000,
                "ratio": statistics.median(finding) / statistics.median(opening),
                "profile_ms": off * 1e3,
                "worst_radius_off_mm": worst,
            }
        )
    return rows


def shelf(count: int = 5000) -> list[Row]:
    """The Shelf opened and searched at the server; the ratio is against a Shelf of fifteen."""
    os.environ |= {
        "WIMPLE_MODE": "test",
        "WIMPLE_DATA": tempfile.mkdtemp(prefix="wimple-bench-"),
        "DJANGO_SETTINGS_MODULE": "wimple_server.settings",
    }
    import django

    django.setup()
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.test import Client
    from wimple_server.shelf.models import ShelfBlank
    from wimple_server.workshops.models import Workshop

    call_command("migrate", verbosity=0)
    call_command("load_demo", verbosity=0)
    workshop = Workshop.objects.get(demo=True)
    client = Client()
    client.force_login(User.objects.get(memberships__workshop__demo=True, memberships__role="owner"))

    def ask(query: str) -> float:
        took = []
        for _ in range(7):
            began = time.perf_counter()
            answer = client.get(f"/api/shelf{query}")
            took.append(time.perf_counter() - began)
            assert answer.status_code == 200, answer.content
        return statistics.median(took) * 1000

    queries = {
        "opened": "",
        "searched for two words": "?q=mug+batch-7",
        "by a tag": "?tag=handle",
        "by kind": "?kind=dome",
    }
    before = {name: ask(q) for name, q in queries.items()}
    models = list(ShelfBlank.objects.filter(workshop=workshop))
    many = []
    for i in range(count - len(models)):
        m = models[i % len(models)]
        twin = ShelfBlank(
            workshop=workshop,
            name=f"{m.name}, batch-{i}",
            kind=m.kind,
            blank=m.blank,
            tags=[*m.tags, f"lot {i % 40}"],
            card=m.card,
        )
        twin.write_search()
        many.append(twin)
    ShelfBlank.objects.bulk_create(many, batch_size=500)
    return [
        {
            "what": f"a Shelf of {count} blanks, {name}",
            "ours_ms": (took := ask(q)),
            "limit_ms": 200,
            "ratio": took / before[name],
        }
        for name, q in queries.items()
    ]


def measuring() -> list[Row]:
    """All of it."""
    return a_reading_changed() + photographs() + shelf()


if __name__ == "__main__":
    for row in measuring():
        print(row)
