"""The program made warm before it answers: what is slow the first time is done once, before any process is forked."""

from __future__ import annotations

import json

from django.conf import settings
from django.urls import resolve
from wimple_core.apart import here
from wimple_core.job import load_job
from wimple_core.pipeline import build
from wimple_core.verdict import STEPS
from wimple_core.views.scene import SceneWriter

EXAMPLES = ("perihelion-cup", "star-atlas-mug")
"""Jobs built once: their stages stay in the cache, and all that they need is loaded."""


def warm_up() -> None:
    """Load the API, and build and write an example of each kind of body that is common."""
    resolve("/api/session")
    from .jobs.building import CACHE

    for name in EXAMPLES:
        job = load_job(json.loads((settings.EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8")))
        files = {f: (settings.EXAMPLES / "drawings" / f).read_bytes() for f in job.drawings}
        built = build(job, files, cache=CACHE, run=here)
        for step in STEPS:
            SceneWriter(built, "mm", step, CACHE).json()
