"""Every remedy offered with a value is one the program takes, and mends what it is offered for."""

from __future__ import annotations

import copy
from typing import Any

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from samples import dimension, element, example, svg
from test_any_job import DRAWINGS, jobs, placements
from wimple_core.built import Build
from wimple_core.errors import WimpleError
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.verdict import Verdict

GRAVE = {"ok": 0, "look": 1, "stop": 2}
BLANKS = ["acceptance-cup", "bellied-mug", "comet-door", "lid-insert", "oval-plaque", "case-lid", "door-panel"]
fair = st.fixed_dictionaries(
    {
        "blank": st.sampled_from([example(n)["blank"] for n in BLANKS]).map(copy.deepcopy),
        "elements": st.lists(
            st.builds(lambda f, p: element(f, p), st.sampled_from(sorted(DRAWINGS)), placements), min_size=1, max_size=2
        ),
    },
    optional={
        "quantity": st.integers(1, 40),
        "wrap": st.fixed_dictionaries(
            {},
            optional={
                "extent": st.sampled_from(["full", "free"]),
                "overlap_mm": st.floats(-2, 8),
                "relief": st.sampled_from(["none", "slits", "gores"]),
                "gores": st.integers(0, 12),
                "seam_deg": st.floats(-180, 180),
            },
        ),
        "layers": st.fixed_dictionaries(
            {
                "joint": st.sampled_from(["auto", "stacked", "knocked_out"]),
                "overlap_mm": st.floats(0, 3),
                "default_film": st.sampled_from(["calendered-gloss", "glitter", "brushed"]),
            },
            optional={"marks": st.just({"kind": "none"})},
        ),
        "sheets": st.builds(lambda c: {"cutter": c}, st.sampled_from(["desktop-mat", "roll-24"])),
        "layup": st.builds(lambda h: {"cure_hours": h}, st.floats(0, 100)),
        "price": st.builds(lambda p: {"price_from": "price", "price": p}, st.sampled_from(["0", "3.5", "999"])),
    },
)


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


def beyond(verdicts: list[Verdict]) -> float:
    return sum(v.value if v.unit == "count" else abs(v.value - (v.limit or 0.0)) for v in verdicts)


def check_remedies(raw: dict[str, Any], b: Build) -> None:
    """Fails where a remedy is refused, makes its verdict graver, or leaves it as far beyond its limit as it was: what
    several are judged by, in all."""
    document = load_job(raw).model_dump(mode="json", by_alias=True)
    for v in b.verdicts:
        if v.level == "ok" or (v.fix is None and not v.fixes):
            continue
        try:
            mended = build(load_job(applied(document, v)), DRAWINGS)
        except WimpleError:
            # A reading put right may show the next one to be wrong.
            assert v.code.startswith("measure."), (v.code, v.sentence())
            continue
        was, now = alike(b, v), alike(mended, v)
        before, after = (max((GRAVE[w.level] for w in at), default=0) for at in (was, now))
        assert after < before or (after == before and beyond(now) < beyond(was)), (
            v.code,
            v.sentence(),
            [w.sentence() for w in now],
        )


def test_mending_that_leaves_as_much_behind_is_not_offered() -> None:
    """A cut nearly as long as a cup is round, whose ends touch once it is opened; a long point, thin in two places once
    it is widened in one."""
    cut = [
        element("band.svg", {"turn_deg": 6.5, "width_mm": 93.00549800034887, "up_mm": 0, "centre_deg": 0, "repeat": 9}),
        element("band.svg", {"width_mm": 208.34128768761377, "up_mm": 70.83506031175419}),
    ]
    point = {
        "across_mm": 0,
        "way": "level",
        "up_mm": 4.6,
        "width_mm": 143.75607068857013,
        "turn_deg": 263.19357432590607,
    }
    for blank, elements in (("acceptance-cup", cut), ("comet-door", [element("tall.svg", point)])):
        raw = {"blank": example(blank)["blank"], "elements": elements, "quantity": 29}
        check_remedies(raw, build(load_job(raw), DRAWINGS))
    # Nor is it where it helps another film only.
    two = svg('<rect width="20" height="9.8" fill="#2f8a4a"/><rect y="10.1" width="20" height="9.9" fill="#2f8a4a"/>')
    raw = {
        "blank": example("acceptance-cup")["blank"],
        "elements": [*cut, element("two.svg", {"up_mm": 40, "width_mm": 20})],
    }
    said = {
        v.reason.split(":")[0]: v
        for v in build(load_job(raw), DRAWINGS | {"two.svg": two}).verdicts
        if v.code == "layers.gaps"
    }
    assert said["green"].fixes and not said["midnight"].fixes


def test_no_lap_is_offered_where_a_piece_would_narrow_to_a_point() -> None:
    """A body drawn in to 1 mm across: what lies above could not reach a millimetre further down."""
    sizes = [(262.5, 138.0), (1.0, 340.0), (171.0, 262.5)]
    sections = [{"upper": dimension("diameter", across), "side": dimension("slant", side)} for across, side in sizes]
    for thin, offered in ((1.0, False), (4.0, True)):
        sections[1]["upper"] = dimension("diameter", thin)
        raw = {"blank": {"kind": "stack", "base": dimension("diameter", 72.0), "sections": sections}}
        b = build(load_job(raw), {})
        check_remedies(raw, b)
        said = [v for v in b.verdicts if v.code == "unwrap.joint"]
        assert said and all((v.fix is not None) is offered for v in said)


@settings(
    max_examples=30, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.explicit, Phase.generate]
)
@given(fair)
def test_remedies_mend_jobs_as_they_come(raw: dict[str, Any]) -> None:
    try:
        b = build(load_job(raw), DRAWINGS)
    except WimpleError:
        return
    check_remedies(raw, b)


@settings(
    max_examples=20, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.explicit, Phase.generate]
)
@given(jobs)
def test_remedies_mend_jobs_of_any_kind(raw: dict[str, Any]) -> None:
    try:
        b = build(load_job(raw), DRAWINGS)
    except WimpleError:
        return
    check_remedies(raw, b)
