"""What a step shows, what is left for later, and what a move takes with it: together the same as all made at once."""

from __future__ import annotations

from typing import Any

import pytest
import shapely
from samples import example, files_of
from wimple_core import pipeline
from wimple_core.built import STAGES, Build, stages_after, stages_shown
from wimple_core.cache import StageCache
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.pipeline import Street, build
from wimple_core.sheets.outline import FINE_MM
from wimple_core.verdict import STEPS, Step
from wimple_core.views.scene import SceneWriter

SOME = ("perihelion-cup", "star-atlas-mug", "telescope-dome", "visitor-names", "remnant-batch", "printed-insert")


def walked(raw: dict[str, Any], step: Step, cache: StageCache) -> Build:
    street = Street(load_job(raw), files_of(raw), cache)
    for _ in street.walk(stages_shown(step)):
        pass
    for stage in stages_after(step):
        street.later(stage, cache)
    return street.built()


def told(b: Build) -> dict[str, Any]:
    report = make_report(b).model_dump(mode="json")
    report.pop("took")
    report["verdicts"] = sorted(map(str, report["verdicts"]))
    return report


def test_every_stage_is_shown_or_comes_later() -> None:
    for step in STEPS:
        shown, after = stages_shown(step), stages_after(step)
        assert sorted((*shown, *after)) == sorted(STAGES)
        assert not {"ways", "mends"} & set(shown), "what nobody looks at is not waited for"
    assert stages_shown("artwork")[-1] == "films" and "layers" not in stages_shown("artwork")
    assert stages_after("artwork")[-2:] == ("ways", "mends")


@pytest.mark.parametrize("name", SOME)
def test_step_by_step_is_said_what_is_said_of_the_whole(name: str) -> None:
    raw = example(name)
    whole = told(build(load_job(raw), files_of(raw)))
    for step in ("measure", "artwork", "sheets", "price"):
        b = walked(raw, step, StageCache())
        assert b.told == STEPS and told(b) == whole, step


MOVES = ({"up_mm": 2.25}, {"across_mm": 3.5}, {"centre_deg": 11.0}, {"up_mm": -1.5, "centre_deg": 3.0})


@pytest.mark.parametrize("move", MOVES, ids=str)
@pytest.mark.parametrize("name", ["star-atlas-mug", "comet-door", "dxf-plaque", "telescope-dome", "six-films"])
def test_a_move_comes_to_what_is_made_anew(name: str, move: dict[str, float]) -> None:
    """What moves rigidly takes its pieces, marks, sets and nesting with it: the figures are those of a build from
    nothing, to the rounding of its lengths."""
    raw = example(name)
    cache = StageCache()
    walked(raw, "artwork", cache)
    place = raw["elements"][0]["placements"][0]
    for field, by in move.items():
        place[field] = (place.get(field) or 0.0) + by
    after, anew = walked(raw, "artwork", cache), walked(raw, "artwork", StageCache())
    assert after.levels == anew.levels
    said = [(v.code, v.level, v.subject, v.remedy, sorted(v.fixes)) for v in after.verdicts]
    assert said == [(v.code, v.level, v.subject, v.remedy, sorted(v.fixes)) for v in anew.verdicts]
    assert [v.value for v in after.verdicts] == pytest.approx([v.value for v in anew.verdicts], rel=1e-3, abs=1e-3)
    for a, b in zip(after.layers.layers, anew.layers.layers, strict=True):  # type: ignore[union-attr]
        assert a.region.symmetric_difference(b.region).area < 1e-4
        assert a.marks.symmetric_difference(b.marks).area < 1e-4
    for x, y in zip(after.sheets.loads, anew.sheets.loads, strict=True):  # type: ignore[union-attr]
        # Sets are nested by outlines that are simplified by half of FINE_MM, on either side.
        assert x.size == pytest.approx(y.size, abs=FINE_MM) and x.times == y.times
        assert len(x.cuts) == len(y.cuts) and x.film_area == pytest.approx(y.film_area, abs=0.1)


@pytest.mark.parametrize("by", [0.0, 14.0, -9.0])
def test_the_tick_stays_on_the_centre_line_while_the_work_moves(by: float) -> None:
    """It is cut where the front is, which is at 0 of the template, on every film, and the loads hold it there."""
    raw = example("star-atlas-mug")
    raw["layers"] = {**raw.get("layers", {}), "marks": {"kind": "squares", "centre": True}}
    cache = StageCache()
    for step in (0.0, by):
        raw["elements"][0]["placements"][0]["centre_deg"] = step
        b = walked(raw, "sheets", cache)
    assert b.layers is not None and b.sheets is not None
    crosses_front = 0
    for layer in b.layers.layers:
        ticks = [g for g in shapely.get_parts(layer.marks) if abs(g.bounds[0] + g.bounds[2]) < 0.01]
        assert len(ticks) == 1 and ticks[0].centroid.x == pytest.approx(0, abs=1e-6)
        left = layer.cuts.only("piece", "mark").bounds[0]
        for item in (i.item for load in b.sheets.loads for i in load.items if i.item.name == layer.name):
            work = item.cuts.only("piece", "mark").bounds[0]
            there = [g.centroid.x - work for g in shapely.get_parts(item.cuts.only("mark").region)]
            crosses_front += any(abs(x + left) < 0.02 for x in there)
    assert crosses_front >= len(b.layers.layers)


def counted(monkeypatch: pytest.MonkeyPatch, *names: str) -> dict[str, int]:
    """How often some of what stages call is called from now on."""
    calls = dict.fromkeys(names, 0)
    for name in names:
        real = getattr(pipeline, name)

        def count(*args: Any, name: str = name, real: Any = real, **more: Any) -> Any:
            calls[name] += 1
            return real(*args, **more)

        monkeypatch.setattr(pipeline, name, count)
    return calls


MADE = ("make_films", "make_layers", "mending_of", "plan_sheets", "with_other_ways", "plan_layup", "price_job")


@pytest.mark.parametrize(
    ("path", "value", "made"),
    [
        ("elements.0.placements.0.up_mm", 47.0, ("plan_layup", "price_job")),
        ("price.rate_per_hour", "21.5", ("price_job",)),
        ("layup.cure_hours", 60, ("plan_layup", "price_job")),
        ("sheets.setting", "by hand", ()),
        ("sheets.margin_mm", 20, ("plan_sheets", "with_other_ways", "plan_layup", "price_job")),
        ("title", "Another name", ()),
    ],
)
def test_what_did_not_change_is_not_made_again(
    monkeypatch: pytest.MonkeyPatch, path: str, value: object, made: tuple[str, ...]
) -> None:
    raw = example("star-atlas-mug")
    cache = StageCache()
    walked(raw, "price", cache)
    at: Any = raw
    *above, last = path.split(".")
    for key in above:
        at = at[int(key)] if key.isdigit() else at.setdefault(key, {})
    at[last] = value
    calls = counted(monkeypatch, *MADE)
    walked(raw, "price", cache)
    assert {name for name, n in calls.items() if n} == set(made)


def test_an_edit_of_one_film_leaves_the_looks_of_the_others(monkeypatch: pytest.MonkeyPatch) -> None:
    from wimple_core.layers import layers as room

    raw = example("perihelion-cup")
    cache = StageCache()
    built = walked(raw, "layers", cache)
    films = [{"colour": la.colour, "film": la.film.id, "film_colour": la.film_colour} for la in built.layers.layers]  # type: ignore[union-attr]
    looked: list[object] = []
    inspect = room.inspect
    monkeypatch.setattr(room, "inspect", lambda *args: looked.append(args) or inspect(*args))
    films[1]["film"] = "glitter" if films[1]["film"] != "glitter" else "cast"
    raw["layers"] = {**raw.get("layers", {}), "films": films}
    walked(raw, "layers", cache)
    assert len(looked) <= 1, "only the film that was changed is looked at"


def test_nothing_is_said_to_be_judged_that_is_not() -> None:
    raw = example("perihelion-cup")
    street = Street(load_job(raw), files_of(raw), StageCache())
    for _ in street.walk(stages_shown("artwork")):
        pass
    assert street.built().told == ("measure", "unwrap", "artwork")
    head = SceneWriter(street.built(), "mm", "artwork", StageCache()).json()
    assert b'"layers":"' not in head.split(b'"parts"')[0], "no level of a step that nobody looked at"
    for stage in stages_after("artwork"):
        street.later(stage, StageCache())
        b = street.built()
        assert ("sheets" in b.told) == ("ways" in b.keys)
    assert street.built().told == STEPS
