"""Every remedy that is offered is one the program takes, and does what it says, measured anew."""

from __future__ import annotations

import copy
import math
from collections.abc import Mapping
from typing import Any

import pytest
import shapely
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from samples import board, cup, dimension, element, example, svg
from test_any_job import DRAWINGS, jobs, placements
from wimple_core.built import Build
from wimple_core.errors import WimpleError
from wimple_core.job import Job, load_job
from wimple_core.pipeline import build, remedies_of
from wimple_core.remedies import Remedy
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


def applied(raw: dict[str, Any], edits: Mapping[str, object]) -> dict[str, Any]:
    """The document with a remedy in it, as the screen puts it in."""
    out = copy.deepcopy(raw)
    for path, value in edits.items():
        at: Any = out
        *way, last = path.split(".")
        for step in way:
            at = at[int(step)] if isinstance(at, list) else at.setdefault(step, {})
        at[int(last) if isinstance(at, list) else last] = value
    return out


def said_of(b: Build) -> dict[tuple[str, str], list[Verdict]]:
    """All that is bad, by what of and by what it is judged."""
    out: dict[tuple[str, str], list[Verdict]] = {}
    for v in b.verdicts:
        if v.level != "ok":
            out.setdefault((v.code, v.subject), []).append(v)
    return out


def changed_mm2(before: Build, after: Build) -> float:
    """Where another colour is seen, or none: by shapely, of what every layer shows."""
    one, two = ({la.colour: la.seen for la in b.layers.layers} for b in (before, after))  # type: ignore[union-attr]
    nothing = shapely.Polygon()
    apart = [shapely.symmetric_difference(one.get(c, nothing), two.get(c, nothing)) for c in {*one, *two}]
    return float(shapely.union_all(apart).area)


def check_remedies(raw: dict[str, Any]) -> list[Remedy]:
    """What is offered for a job, each put in and built anew: it is taken, what it mends is less or gone, nothing
    stops that did not, and what else is worse was said; and the look changes by what it says."""
    job = load_job(raw)
    document, before = job.model_dump(mode="json", by_alias=True), build_as_far(job)
    was, offered = said_of(before), remedies_of(job, DRAWINGS)
    for r in offered:
        after = build_as_far(load_job(applied(document, r.edits)))
        now, key = said_of(after), (r.of.code, r.of.subject)
        told = (r.of.code, r.of.sentence(), r.edits)
        assert after.stopped is None or before.stopped is not None, told
        old, left = was[key], now.get(key, [])
        same = [v for v in left if v.field.split(".placements")[0] == r.of.field.split(".placements")[0]]
        worst = max((GRAVE[v.level] for v in same), default=0)
        fewer = sum(v.value for v in left) < sum(v.value for v in old)
        assert worst < GRAVE[r.of.level] or len(left) < len(old) or (r.of.unit == "count" and fewer), told
        said = {(v.code, v.subject) for v in r.also}
        for other, some in now.items() if before.stopped is None else ():
            graver = max(GRAVE[v.level] for v in some) > max((GRAVE[v.level] for v in was.get(other, [])), default=0)
            assert not graver or other == key or other in said, (told, [v.sentence() for v in some])
            assert not graver or max(GRAVE[v.level] for v in some) < GRAVE["stop"], told
        if r.changed is not None:
            assert r.changed.area == pytest.approx(changed_mm2(before, after), rel=0.05, abs=0.05), told
    return offered


def build_as_far(job: Job) -> Build:
    return build(job, DRAWINGS)


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
        check_remedies({"blank": example(blank)["blank"], "elements": elements, "quantity": 29})


def test_a_mend_is_of_the_film_it_names_and_of_no_other() -> None:
    """A thin bar of blue beside black letters that are thin as well: only the blue becomes another."""
    drawn = svg(
        '<path d="M5 5H60V5.5H5z M5 2H9V9H5z M56 2H60V9H56z" fill="#1c3d7a"/>'
        '<path d="M5 20H60V20.5H5z M5 17H9V24H5z M56 17H60V24H56z" fill="#111111"/>'
    )
    raw = {
        "blank": example("comet-door")["blank"],
        "elements": [element("two.svg", {"width_mm": 55, "up_mm": 200, "across_mm": 0})],
    }
    job, files = load_job(raw), {"two.svg": drawn}
    before, found = build(job, files), remedies_of(job, files)
    names = {r.of.subject for r in found if r.of.code == "layers.thin"}
    assert len(names) == 2
    for r in (r for r in found if r.of.code == "layers.thin"):
        after = build(load_job(applied(job.model_dump(mode="json"), r.edits)), files)
        for one, two in zip(before.layers.layers, after.layers.layers, strict=True):  # type: ignore[union-attr]
            apart = shapely.symmetric_difference(one.region, two.region).area
            assert (apart > 0.1) is (one.name == r.of.subject), (one.name, r.of.subject)
        assert not [v for v in after.verdicts if v.code == "layers.thin" and v.subject == r.of.subject]


def test_a_mend_that_would_do_harm_is_not_offered_or_says_it() -> None:
    """Letters drawn close: what was measured of them before they are mended is what is measured after."""
    for name in ("lettered-bottle", "ring-words", "tally-bottle"):
        assert check_remedies(example(name)), name


def test_no_lap_is_offered_where_a_piece_would_narrow_to_a_point() -> None:
    """A body drawn in to 1 mm across: what lies above could not reach a millimetre further down."""
    sizes = [(262.5, 138.0), (1.0, 340.0), (171.0, 262.5)]
    sections = [{"upper": dimension("diameter", across), "side": dimension("slant", side)} for across, side in sizes]
    for thin, offered in ((1.0, False), (4.0, True)):
        sections[1]["upper"] = dimension("diameter", thin)
        raw = {"blank": {"kind": "stack", "base": dimension("diameter", 72.0), "sections": sections}}
        b = build(load_job(raw), {})
        check_remedies(raw)
        said = [v for v in b.verdicts if v.code == "unwrap.joint"]
        assert said and all((v.fix is not None) is offered for v in said)


@settings(
    max_examples=16, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.explicit, Phase.generate]
)
@given(fair)
def test_remedies_mend_jobs_as_they_come(raw: dict[str, Any]) -> None:
    try:
        load_job(raw)
    except WimpleError:
        return
    check_remedies(raw)


@settings(
    max_examples=10, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.explicit, Phase.generate]
)
@given(jobs)
def test_remedies_mend_jobs_of_any_kind(raw: dict[str, Any]) -> None:
    try:
        load_job(raw)
    except WimpleError:
        return
    check_remedies(raw)


@pytest.mark.parametrize("way", ["level", "conformal", "flat"])
@pytest.mark.parametrize("overlap", [0.0, 3.0, -2.0])
def test_what_laps_over_itself_goes_once_round(way: str, overlap: float) -> None:
    """A band all round a cup of 262 and 205 mm, 227.1 wide: laid once round its ends meet, or overlap as is wanted,
    and do so still when the cup is measured anew. Seen on the wall itself: the angles its own corners come to."""
    band = svg('<rect width="100" height="4" fill="#1c3d7a"/>', 'width="100mm" height="4mm" viewBox="0 0 100 4"')
    placement = {"width_mm": 240, "up_mm": 30, "way": way, "centre_deg": 30}
    raw = {**cup(262, 205, 80), "elements": [element("a.svg", placement)]}
    files = {"a.svg": band}
    (remedy,) = [r for r in remedies_of(load_job(raw), files) if r.of.code == "artwork.laps_itself"]
    job = applied(load_job(raw).model_dump(mode="json"), remedy.edits)
    job["elements"][0]["placements"][0]["once_round_mm"] += overlap
    for upper in (262, 259):
        after = build(load_job({**job, "blank": cup(upper, 205, 80)["blank"]}), files)
        wall = after.template.surface  # type: ignore[union-attr]
        (colour,) = after.fit.colours  # type: ignore[union-attr]
        assert len(shapely.get_parts(colour.seen)) == 1
        a, _ = wall.wrap(*shapely.get_coordinates(colour.seen).T)
        assert (a.max() - a.min() - 2 * math.pi) * wall.scale_at(30) == pytest.approx(overlap, abs=0.05)
        (seam,) = [v for v in after.verdicts if v.code == "artwork.seam"]
        assert seam.level == "ok"
        assert ("meet" if overlap == 0 else "overlap by 3.0" if overlap > 0 else "gap of 2.0") in seam.sentence()


def test_what_cannot_go_once_round_is_told() -> None:
    raw = {"blank": board(200, 100), "elements": [element("a.svg", {"width_mm": 40, "up_mm": 40, "once_round_mm": 0})]}
    files = {"a.svg": svg('<rect width="40" height="4" fill="#1c3d7a"/>')}
    (remedy,) = [r for r in remedies_of(load_job(raw), files) if r.of.code == "artwork.once_round"]
    assert remedy.edits == {"elements.0.placements.0.once_round_mm": None}
    typed = load_job({**raw, "elements": [element("a.svg", {"once_round_mm": "1/8 in"})]}).elements[0].placements[0]
    assert typed.once_round_mm == pytest.approx(25.4 / 8)
    with pytest.raises(WimpleError, match="room for one copy"):
        load_job({**raw, "elements": [element("a.svg", {"repeat": 2, "once_round_mm": 0})]})
