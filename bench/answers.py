"""What an edit is answered with, for each kind of blank: how long the server takes and how much it sends; and the Bench
with 500 jobs."""

from __future__ import annotations

import copy
import gzip
import json
import os
import statistics
import tempfile
import time
from typing import Any

from samples import drawing, example
from wimple_core.job import load_job
from wimple_core.measure import files_of

Row = dict[str, object]
JOBS = 500
ART = "star-atlas.svg"
KINDS_BESIDE = {"bellied-mug": "photo", "bent-flap": "", "door-panel": "", "cone-mesh": "mesh"}
"""Examples of kinds the demo has no job of, and what kind their file is."""


def _server() -> tuple[Any, Any]:
    os.environ |= {
        "WIMPLE_MODE": "test",
        "WIMPLE_DATA": os.environ.get("WIMPLE_DATA") or tempfile.mkdtemp(prefix="wimple-bench-"),
        "DJANGO_SETTINGS_MODULE": "wimple_server.settings",
    }
    import django

    django.setup()
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.test import Client
    from wimple_server.workshops.models import Workshop

    call_command("migrate", verbosity=0)
    if not Workshop.objects.filter(demo=True).exists():
        call_command("load_demo", verbosity=0)
    client = Client()
    client.force_login(User.objects.get(memberships__workshop__demo=True, memberships__role="owner"))
    return client, Workshop.objects.get(demo=True)


def _edits_of(client: Any, job: Any, raw: dict[str, Any]) -> Row:
    step = "artwork" if raw["elements"] else "measure"
    have: set[str] = set()
    took, sent = [], []
    for i in range(9):
        if raw["elements"]:
            raw["elements"][0]["placements"][0]["up_mm"] += 0.31
        else:
            raw["blank"]["note"] = str(i)
        body = json.dumps({"document": raw, "step": step, "have": sorted(have)})
        began = time.perf_counter()
        answer = client.post(f"/api/jobs/{job.pk}/build", body, "application/json")
        took.append(time.perf_counter() - began)
        assert answer.status_code == 200, answer.content
        sent.append(len(gzip.compress(answer.content, 6)))
        have |= {p["digest"] for p in answer.json()["parts"].values() if p}
    return {
        "what": f"an edit answered with its scene: {raw['title']} ({raw['blank']['kind']}, {step})",
        "ours_ms": statistics.median(took[2:]) * 1e3,
        "first_ms": took[0] * 1e3,
        "sent_kb": statistics.median(sent[2:]) / 1000,
        "first_kb": sent[0] / 1000,
        "limit_ms": 100,
        "limit_kb": 30,
    }


def edits() -> list[Row]:
    """A placement, or where nothing is placed a reading, changed again and again; only what is new is asked for. Jobs
    of the demo, and examples of the kinds it has none of with a drawing laid on them."""
    client, workshop = _server()
    from wimple_server.jobs.models import Drawing, Job

    jobs = list(workshop.jobs.order_by("pk"))
    rows = [_edits_of(client, job, copy.deepcopy(job.document)) for job in jobs]
    for name, kind in KINDS_BESIDE.items():
        raw = example(name)
        raw["elements"] = [{"source": {"kind": "file", "file": ART}, "placements": [{"width_mm": 50, "up_mm": 45.0}]}]
        job = Job.objects.create(workshop=workshop, document=raw)
        Drawing.keep(job, ART, drawing(ART))
        for file in files_of(load_job(raw).blank):
            Drawing.keep(job, file, drawing(file), kind)
        rows.append(_edits_of(client, job, raw))
        job.delete()
    return rows


def bench_of_many() -> list[Row]:
    """The Bench with 500 jobs, each with its ticket written, at the server."""
    client, workshop = _server()
    from wimple_server.jobs.building import write_ticket
    from wimple_server.jobs.models import Job

    jobs = list(workshop.jobs.all())
    for job in jobs:
        write_ticket(job)
    jobs = list(workshop.jobs.all())
    fields = [f.name for f in Job._meta.concrete_fields if f.name != "id"]
    twins = [Job(**{name: getattr(jobs[i % len(jobs)], name) for name in fields}) for i in range(JOBS - len(jobs))]
    Job.objects.bulk_create(twins)
    took = []
    for _ in range(9):
        began = time.perf_counter()
        answer = client.get("/api/jobs")
        took.append(time.perf_counter() - began)
        assert answer.status_code == 200 and answer.json()["total"] == JOBS
    Job.objects.filter(pk__in=[t.pk for t in twins]).delete()
    return [
        {
            "what": f"the Bench with {JOBS} jobs, at the server",
            "ours_ms": statistics.median(took) * 1e3,
            "limit_ms": 150,
            "sent_kb": len(gzip.compress(answer.content, 6)) / 1000,
        }
    ]


if __name__ == "__main__":
    import sys
    from pathlib import Path

    root = Path(__file__).resolve().parent.parent
    sys.path[:0] = [str(root / "core"), str(root / "server"), str(root / "tests")]
    for row in [*edits(), *bench_of_many()]:
        print({k: round(v, 1) if isinstance(v, float) else v for k, v in row.items()})
