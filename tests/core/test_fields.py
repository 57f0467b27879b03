"""Every field that is named, by an error, a verdict, a remedy or a drawing, is a place of the job document."""

from __future__ import annotations

import json
import logging
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from samples import EXAMPLES, cup, dimension, element, example, svg
from test_any_job import DRAWINGS, jobs
from wimple_core import pipeline
from wimple_core.errors import BadReading, WimpleError, seen_from
from wimple_core.job import load_job
from wimple_core.job.document import Job
from wimple_core.measure import KINDS, kind_of, measure, sketch_of
from wimple_core.pipeline import build, make_slow
from wimple_core.slow import Wanted
from wimple_core.verdict import Verdict
from wimple_core.views.card import ticket_view

NAMES = sorted(p.name.removesuffix(".wimple.json") for p in EXAMPLES.glob("*.wimple.json"))
FILES = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir()} | DRAWINGS


def missing_in(document: dict[str, Any], path: str) -> str:
    """The first step of a path that the document has no place for; empty where it has. What is not filled in yet may
    be filled in, and a list may be gone on with."""
    at: Any = document
    for step in path.split("."):
        if at is None:
            return ""
        if isinstance(at, list):
            if not step.isdigit() or int(step) > len(at):
                return step
            at = at[int(step)] if int(step) < len(at) else None
        elif isinstance(at, dict):
            if step not in at:
                return step
            at = at[step]
        else:
            return step
    return ""


def lost_fields(job: Job, fields: list[str]) -> list[str]:
    document = job.model_dump(mode="json")
    return [f for f in fields if f and missing_in(document, f)]


def fields_of(verdicts: tuple[Verdict, ...]) -> list[str]:
    return [f for v in verdicts for f in (v.field, *v.fixes)]


def test_a_path_is_followed_as_far_as_the_document_goes() -> None:
    document = {"blank": {"upper": {"readings": [1, 2]}, "handle": None, "kind": "cup"}}
    for there in ("blank", "blank.upper.readings.1", "blank.upper.readings.2", "blank.handle.free_width.readings.0"):
        assert not missing_in(document, there)
    for lost in ("upper", "blank.uper", "blank.upper.readings.3", "blank.upper.readings.x", "blank.kind.0"):
        assert missing_in(document, lost)


@pytest.mark.parametrize("name", NAMES)
def test_what_examples_are_told_lies_in_them(name: str) -> None:
    job = load_job(example(name))
    built = build(job, FILES)
    assert not lost_fields(job, fields_of(built.verdicts))
    sketch = sketch_of(built.body)
    named = [d.field for d in sketch.dimensions] + [m.field for m in sketch.marks]
    assert named and not lost_fields(job, named)
    assert all(f.startswith("blank.") for f in named if f)


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(jobs)
def test_what_any_job_is_told_lies_in_it(raw: dict[str, Any]) -> None:
    try:
        job = load_job(raw)
    except WimpleError:
        return
    built = build(job, FILES)
    assert not lost_fields(job, fields_of(built.verdicts))
    if built.stopped:
        # A drawing's field may be read at the place where it will be brought.
        faults = [f.field for f in built.stopped.error.faults]
        assert all(faults) and not lost_fields(job, faults), faults


def test_every_reading_of_every_kind_is_below_the_blank() -> None:
    """What a kind reads it names as seen from itself, and the drawing of it as seen from the job."""
    for kind in KINDS:
        for raw in kind.starts.values():
            blank = load_job({"blank": raw}).blank
            assert all(not missing_in(blank.model_dump(mode="json"), path) for path in kind.readings(blank))
            named = {d.field for d in sketch_of(measure(blank)).dimensions}
            assert {f"blank.{path}" for path in kind.readings(blank)} <= named | {
                m.field for m in sketch_of(measure(blank)).marks
            }, kind.name


MESH = {"kind": "mesh", "file": "a.stl", "unit": "mm", "up": "z"}
OUTLINE = {**example("signpost")["blank"], "outline": "a.dxf"}
PHOTO = example("bellied-mug")["blank"] | {"photo": {**example("bellied-mug")["blank"]["photo"], "file": "a.jpg"}}


@pytest.mark.parametrize(
    ("blank", "files", "field", "says"),
    [
        (MESH, {}, "blank.file", "not there"),
        (MESH, {"a.stl": b"solid nothing"}, "blank.file", ""),
        (OUTLINE, {}, "blank.outline", "not there"),
        (OUTLINE, {"a.dxf": b"no drawing"}, "blank.outline", "DXF"),
        (PHOTO, {}, "blank.photo.file", "not there"),
        (PHOTO, {"a.jpg": b"no picture"}, "blank.photo.file", "picture"),
    ],
)
def test_a_blanks_file_that_cannot_be_read_is_named_where_the_job_names_it(
    blank: dict[str, Any], files: dict[str, bytes], field: str, says: str
) -> None:
    job = load_job({"blank": blank})
    built = build(job, files)
    assert built.stopped and built.stopped.stage == "measure"
    assert built.stopped.error.field == field and says in built.stopped.error.message
    assert not lost_fields(job, [field])


def test_a_photograph_looked_at_later_is_named_so_too() -> None:
    """Its outline is found by itself, as work that is waited for; what goes wrong there is named as in the job."""
    job, files = load_job({"blank": PHOTO}), {"a.jpg": b"no picture"}
    waiting = build(job, files, at_once=False).waiting
    (wanted,) = waiting
    assert isinstance(wanted, Wanted) and wanted.kind == "photo"
    with pytest.raises(BadReading) as bad:
        make_slow(job, files, wanted, lambda what, share: None)
    assert bad.value.field == "blank.photo.file" and "picture" in bad.value.message


@pytest.mark.parametrize(
    ("data", "says"), [(None, "not there"), (b"", "empty"), (b"no drawing", "not an SVG"), (svg(""), "")]
)
def test_an_elements_file_that_cannot_be_read_is_named_with_its_element(data: bytes | None, says: str) -> None:
    good = {"a.svg": svg('<rect width="50" height="50"/>')}
    raw = {**cup(), "elements": [element("a.svg"), element("b.svg")]}
    job = load_job(raw)
    built = build(job, good | ({} if data is None else {"b.svg": data}))
    assert built.stopped and built.stopped.stage == "read"
    error = built.stopped.error
    assert error.field == "elements.1.source.file" and not lost_fields(job, [error.field])
    assert error.message.startswith("“b.svg”: ") or ("“b.svg”" in error.message and says in error.message)


@pytest.mark.parametrize("name", ["cone-mesh", "door-panel"])
def test_zones_that_leave_nothing_of_a_patch_are_named_in_the_blank(name: str) -> None:
    """A body laid flat as a patch finds its free area on the flat: its zones are still the blank's."""
    raw = example(name)
    raw["elements"] = []
    everything = [[-1e4, -1e4], [1e4, -1e4], [1e4, 1e4], [-1e4, 1e4]]
    raw["blank"]["zones"] = [{"form": "polygon", "points": everything}]
    job = load_job(raw)
    built = build(job, FILES)
    assert built.stopped
    assert built.stopped.error.field in ("blank.zones.0", "blank.margin_mm")
    assert not lost_fields(job, [built.stopped.error.field])


def test_errors_seen_from_further_out() -> None:
    """Fields join at each step, empty ones take the path, subjects come before the words, the kind of error stays."""
    with pytest.raises(BadReading) as bad, seen_from("elements.0", "“Moon”: "), seen_from(""), seen_from("source"):
        raise BadReading("Too small.", field="file", hint="Larger.")
    assert (bad.value.field, bad.value.message, bad.value.hint) == (
        "elements.0.source.file",
        "“Moon”: Too small.",
        "Larger.",
    )
    with pytest.raises(BadReading) as bare, seen_from("blank"):
        raise BadReading("Nothing there.")
    assert bare.value.field == "blank"
    seen = Verdict("a", "measure", "look", 1, 2, "mm", "x", field="upper", fixes={"/quantity": 2, "lower": 1})
    within = seen.within("blank", "Cup")
    assert (within.field, dict(within.fixes), within.subject) == (
        "blank.upper",
        {"quantity": 2, "blank.lower": 1},
        "Cup",
    )
    assert within.within("job").subject == "Cup"


def test_a_slip_of_the_hand_is_mended_where_the_job_has_it() -> None:
    """Remedies with several values name every one as seen from the job."""
    inches = load_job(cup(10.3, 8.07, 3.78, lip_band_mm=0, base_band_mm=0))
    m = measure(inches.blank)
    fixes = next(v for v in m.verdicts if v.code == "measure.inches").fixes
    assert set(fixes) == {f"blank.{p}.readings" for p in ("upper", "lower", "side")}
    assert not lost_fields(inches, list(fixes))
    raw = json.loads(inches.model_dump_json())
    for path, value in fixes.items():
        raw["blank"][path.split(".")[1]]["readings"] = value
    mended = measure(load_job(raw).blank)
    assert not [v for v in mended.verdicts if v.code == "measure.inches"]
    assert kind_of(mended.blank).name == "cup"
    exchanged = measure(load_job({"blank": {**cup()["blank"], "lower": dimension("circumference", 65.0)}}).blank)
    assert not lost_fields(load_job(cup()), fields_of(exchanged.verdicts))


def test_inches_typed_as_millimetres_are_said_to_be_so_though_the_bands_leave_nothing_of_them() -> None:
    """A new cup has bands of 12 and 6 mm: they must not hide what is wrong."""
    with pytest.raises(BadReading) as bad:
        measure(load_job(cup(10.3, 8.07, 3.78)).blank)
    assert bad.value.field == "blank.upper.readings.0"
    assert "look like inches" in bad.value.message and "3.1 mm across" in bad.value.message and "in" in bad.value.hint
    with pytest.raises(BadReading) as bands:
        measure(load_job(cup(lip_band_mm=60, base_band_mm=60)).blank)
    assert bands.value.field == "blank.lip_band_mm" and "lip band of 60.0 mm" in bands.value.message


def test_a_wall_too_small_for_anything_says_so() -> None:
    """A bottle half a millimetre round with nothing kept clear."""
    small = example("two-section-bottle")
    blank = small["blank"]
    blank.update(zones=[], lip_band_mm=0, base_band_mm=0, handle=None)
    for read in (blank["base"], *(section["upper"] for section in blank["sections"])):
        read.update(reads="circumference", readings=[0.1], instrument="tape")
    blank["tape_thickness_mm"] = 0
    job = load_job(small)
    error = build(job, FILES).stopped.error  # type: ignore[union-attr]
    assert error.field == "blank.base_band_mm" and not lost_fields(job, [error.field]) and "free" in error.message


@pytest.mark.parametrize(
    ("path", "value"),
    [
        (("rises", 2, 2, 0), 10000),
        (("rises", 2, 2, 0), 610),
        (("rises", 2, 2, 0), -610),
        (("rises", 0, 0, 0), 10000),
        (("up_mm", 4), 5200),
        (("across_mm", 5), 10000),
        (("zones", 0, "points"), [[0.43, 0.43], [1e-9, 1e-9], [0.43, 1e-9]]),
        (("zones", 0, "points"), [[330, 380], [330, 380], [330, 380]]),
    ],
)
def test_a_slip_of_the_hand_breaks_nothing(path: tuple[Any, ...], value: Any) -> None:
    """Figures a panel may not have are said at their field, and what could be measured is shown."""
    raw = example("door-panel")
    *way, last = path
    at = raw["blank"]
    for step in way:
        at = at[step]
    at[last] = value
    job = load_job(raw)
    built = build(job, FILES)
    assert not lost_fields(job, fields_of(built.verdicts))
    if built.stopped:
        error = built.stopped.error
        assert error.field.startswith("blank.") and error.hint and error.code != "our_fault"
    ticket_view(built) if built.measured else None


def test_a_fault_of_ours_ends_the_street_there(monkeypatch: pytest.MonkeyPatch) -> None:
    """A stage that breaks leaves what was built before it, and says that it is not the maker's doing."""
    logging.getLogger("wimple").handlers.clear()

    def breaks(*args: object, **more: object) -> None:
        raise ZeroDivisionError("secret")

    monkeypatch.setattr(pipeline, "make_layers", breaks)
    built = build(load_job(example("perihelion-cup")), FILES)
    assert built.fit is not None and built.layers is None and built.stopped is not None
    assert built.stopped.stage == "layers" and built.stopped.error.code == "our_fault"
    assert "secret" not in built.stopped.error.message
