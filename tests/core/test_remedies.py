"""Every remedy offered with a value mends what it is offered for, whatever the job."""

from __future__ import annotations

import copy
from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from test_any_job import DRAWINGS, jobs
from wimple_core.built import Build
from wimple_core.errors import WimpleError
from wimple_core.job import load_job
from wimple_core.pipeline import build
from wimple_core.verdict import Verdict

GRAVE = {"ok": 0, "look": 1, "stop": 2}


def applied(raw: dict[str, Any], verdict: Verdict) -> dict[str, Any]:
    """The document with that remedy in it, as the screen puts it in."""
    out = copy.deepcopy(raw)
    changes = dict(verdict.fixes) | ({verdict.field: verdict.fix} if verdict.fix is not None else {})
    for path, value in changes.items():
        at: Any = out
        *way, last = path.split(".")
        for step in way:
            at = at[int(step)] if isinstance(at, list) else at.setdefault(step, {})
        at[int(last) if isinstance(at, list) else last] = value
    return out


def alike(b: Build, verdict: Verdict) -> list[Verdict]:
    return [v for v in b.verdicts if (v.code, v.field) == (verdict.code, verdict.field)]


@settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck))
@given(jobs)
def test_remedies_are_taken_and_mend(raw: dict[str, Any]) -> None:
    try:
        b = build(load_job(raw), DRAWINGS)
    except WimpleError:
        assume(False)
        return
    document = load_job(raw).model_dump(mode="json", by_alias=True)
    for v in b.verdicts:
        if v.level == "ok" or (v.fix is None and not v.fixes):
            continue
        mended = build(load_job(applied(document, v)), DRAWINGS)
        before = max(GRAVE[w.level] for w in alike(b, v))
        after = max((GRAVE[w.level] for w in alike(mended, v)), default=0)
        assert after <= before, (v.code, v.sentence())
        if after == before and v.limit is not None:
            worst = max(abs(w.value - (w.limit or 0)) for w in alike(b, v))
            left = max(abs(w.value - (w.limit or 0)) for w in alike(mended, v))
            assert left < worst, (v.code, v.sentence(), [w.sentence() for w in alike(mended, v)])
