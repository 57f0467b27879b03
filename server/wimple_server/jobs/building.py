"""Building jobs for the screens: one cache for the process, and as far down the street as a job goes."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely
from wimple_core.built import Build
from wimple_core.errors import WimpleError
from wimple_core.figures import LengthStyle
from wimple_core.fit import first_placement
from wimple_core.job import Job as JobDocument
from wimple_core.job.document import Placement
from wimple_core.pipeline import StageCache, build
from wimple_core.verdict import STEPS, worst

from .models import Job
from .scene import make_scene, rings_of, side_view

CACHE = StageCache(400)


def _carried(bad: WimpleError) -> str:
    """An error as one sentence, its figures still to be written out in a workshop's units."""
    first = bad.carried[0]
    return f"{first.message} {first.hint}".strip()


def build_as_far_as_it_goes(
    document: JobDocument, drawings: Mapping[str, bytes]
) -> tuple[Build, WimpleError | None, str | None]:
    """The build, and the error and step at which it stopped, if it did. Raises WimpleError where it cannot even be
    measured."""
    fault: WimpleError | None = None
    fault_step: str | None = None
    for step in reversed(STEPS):
        try:
            return build(document, drawings, step, CACHE, at_once=False), fault, fault_step
        except WimpleError as bad:
            if step == STEPS[0]:
                raise
            fault, fault_step = bad, step
    raise AssertionError("a street without steps")


def scene_for(job: Job, document: JobDocument, step: str) -> dict[str, object]:
    """The scene of one step of a job, whether the document is saved or not."""
    style: LengthStyle = job.workshop.length_style
    built, fault, fault_step = build_as_far_as_it_goes(document, job.files_for(document))
    return make_scene(built, style, step, fault, fault_step)


def suggested_placement(job: Job, width: float, height: float) -> Placement:
    """Where a drawing of that size (mm) goes first on a job's blank as it was saved."""
    document = job.load()
    files = job.files_for(document)
    try:
        b = build(document, files, "unwrap", CACHE, at_once=False)
        closed = b.template is not None and b.template.surface.closed
        return first_placement(b.template.limits if b.template else b.measured.free, closed, width, height)
    except WimpleError:
        return Placement()


def summary_for(job: Job) -> dict[str, object]:
    """What a ticket on the Bench shows; made once for each revision, the figures in its sentence still to be written
    out."""
    if job.summary is not None and job.summary_revision == job.revision:
        return dict(job.summary)
    out: dict[str, object] = {
        "outline": [],
        "paints": [],
        "bounds": (0.0, 0.0, 1.0, 1.0),
        "worst": "stop",
        "step": "measure",
        "sentence": "This job cannot be built yet.",
    }
    try:
        document = job.load()
        b, fault, fault_step = build_as_far_as_it_goes(document, job.files_for(document))
        if b.template is None:
            out |= side_view(document, b.measured)
        else:
            layers = b.layers.layers if b.layers else ()
            regions = [b.template.outline, *(la.region for la in layers)]
            box = shapely.total_bounds(np.array(regions, dtype=object))
            size = float(max(box[2] - box[0], box[3] - box[1]))
            out |= {
                "bounds": tuple(round(float(v), 2) for v in box),
                "outline": rings_of(b.template.outline, size / 4000),
                "paints": [{"colour": la.film_colour, "rings": rings_of(la.seen, size / 2000)} for la in layers],
            }
        level = worst(b.verdicts) or "ok"
        bad = next((v for v in b.verdicts if v.level == level), None)
        out |= {"worst": level, "step": bad.step if bad else "measure", "sentence": bad.carried() if bad else ""}
        if fault:
            out |= {"worst": "stop", "step": fault_step, "sentence": _carried(fault)}
    except WimpleError as bad_blank:
        out["sentence"] = _carried(bad_blank)
    Job.objects.filter(pk=job.pk, revision=job.revision).update(summary=out, summary_revision=job.revision)
    return out
