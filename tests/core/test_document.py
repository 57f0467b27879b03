"""The job document: what it takes, what it refuses, and that it comes back as it was."""

from __future__ import annotations

import copy
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import EXAMPLES, ROOT, cup, element, example
from wimple_core.errors import BadDocument
from wimple_core.export import report_schema
from wimple_core.job import job_schema, load_job

lengths = st.floats(1, 4000, allow_nan=False)


@settings(max_examples=60, deadline=None)
@given(
    readings=st.lists(lengths, min_size=1, max_size=6),
    title=st.text(max_size=60),
    turn=st.floats(-360, 360),
    width=lengths,
)
def test_load_save_load(readings: list[float], title: str, turn: float, width: float) -> None:
    raw = cup()
    raw["title"] = title
    raw["blank"]["upper"]["readings"] = readings
    raw["elements"] = [element("a.svg", {"width_mm": width, "turn_deg": turn})]
    job = load_job(raw)
    assert load_job(json.loads(job.model_dump_json())) == job
    assert load_job(job.model_dump(mode="json")) == job


@pytest.mark.parametrize("name", sorted(p.name.removesuffix(".wimple.json") for p in EXAMPLES.glob("*.json")))
def test_examples_load(name: str) -> None:
    assert load_job(example(name)).title


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"upper": {"reads": "circumference", "readings": ["abc"]}}, "blank.upper.readings.0"),
        ({"upper": {"reads": "circumference", "readings": [""]}}, "blank.upper.readings.0"),
        ({"upper": {"reads": "circumference", "readings": [0]}}, "blank.upper.readings.0"),
        ({"lower": {"reads": "circumference", "readings": [-5]}}, "blank.lower.readings.0"),
        ({"side": {"reads": "slant", "readings": [1e9]}}, "blank.side.readings.0"),
        ({"side": {"reads": "slant", "readings": [float("nan")]}}, "blank.side.readings.0"),
        ({"side": {"reads": "slant", "readings": []}}, "blank.side.readings"),
        ({"side": {"reads": "sideways", "readings": [5]}}, "blank.side.reads"),
        ({"upper": {"reads": "circumference", "readings": ["2 in 5 mm"]}}, "blank.upper.readings.0"),
        ({"colour": "reddish"}, "blank.colour"),
        ({"kind": "saucer"}, "blank"),
        ({"lid": 5}, "blank.lid"),
        ({"capacity_ml": 0}, "blank.capacity_ml"),
    ],
)
def test_bad_fields_are_named(change: dict[str, object], field: str) -> None:
    raw = cup()
    raw["blank"].update(change)
    with pytest.raises(BadDocument) as bad:
        load_job(raw)
    assert bad.value.faults[0].field == field and bad.value.message and bad.value.hint


@pytest.mark.parametrize("name", ["..", ".", "a/b.svg", "..\\b.svg", ".hidden", "", "a\nb.svg"])
def test_drawings_are_named_without_folders(name: str) -> None:
    with pytest.raises(BadDocument) as bad:
        load_job({**cup(), "elements": [element(name)]})
    assert bad.value.field == "elements.0.source.file" and bad.value.hint


@pytest.mark.parametrize("quantity", ["", "abc", "2.5", -1, 0, 10**9])
def test_how_many_is_a_whole_number(quantity: object) -> None:
    with pytest.raises(BadDocument) as bad:
        load_job({**cup(), "quantity": quantity})
    assert bad.value.field == "quantity" and bad.value.hint


@pytest.mark.parametrize(
    ("sheets", "hint"),
    [
        ({"patch_room_mm": "2 in"}, "It must be at most 30 mm (1 3/16 in)."),
        ({"gap_mm": 0.2}, "It must be at least 1 mm (3/64 in)."),
        ({"by_hand": [{"film": "gold", "x_mm": 0, "y_mm": 0, "turn_deg": 400}]}, "It must be at most 360°."),
    ],
)
def test_a_bound_is_told_with_its_unit(sheets: dict[str, object], hint: str) -> None:
    with pytest.raises(BadDocument) as bad:
        load_job({**cup(), "sheets": sheets})
    assert bad.value.hint == hint


def test_all_faults_are_told_at_once() -> None:
    with pytest.raises(BadDocument) as bad:
        load_job({**cup("x", "y"), "quantity": 0})
    assert [f.field for f in bad.value.faults] == ["quantity", "blank.upper.readings.0", "blank.lower.readings.0"]


@pytest.mark.parametrize("raw", [[], "x", None, {"format": "other"}, {"version": 99}, {"version": "1"}, {}])
def test_what_is_no_job_document(raw: object) -> None:
    with pytest.raises(BadDocument):
        load_job(raw)


def test_typed_lengths_take_the_workshops_unit() -> None:
    assert load_job(cup("10 1/2"), "in").blank.upper.readings[0] == pytest.approx(266.7)  # type: ignore[union-attr]


@pytest.mark.parametrize(("name", "schema"), [("job.schema.json", job_schema), ("report.schema.json", report_schema)])
def test_published_schemas_are_current(name: str, schema) -> None:  # type: ignore[no-untyped-def]
    published = json.loads(Path(ROOT / "docs" / name).read_text(encoding="utf-8"))
    assert published == json.loads(json.dumps(schema()))


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The path of every value in a document, lists included."""
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    if not isinstance(value, dict):
        yield path
    for key, inner in items:
        yield from leaves(inner, (*path, key))


@pytest.mark.parametrize("name", sorted(p.name.removesuffix(".wimple.json") for p in EXAMPLES.glob("*.wimple.json")))
def test_whatever_is_typed_into_a_blank_is_refused_in_words(name: str) -> None:
    """Every field of the blank and its wrap, spoiled as hands spoil them: refused with its path and what would be
    right, in a maker's words."""
    whole = load_job(example(name)).model_dump(mode="json")
    document = {"blank": whole["blank"], "wrap": whole["wrap"]}
    for path in {tuple("*" if isinstance(k, int) else k for k in p): p for p in leaves(document)}.values():
        for bad in ("", "abc", -1e9, "12 in 5 mm", "7 furlongs", None, [], True):
            spoiled = copy.deepcopy(document)
            at: Any = spoiled
            for key in path[:-1]:
                at = at[key]
            at[path[-1]] = bad
            try:
                load_job(spoiled)
            except BadDocument as refused:
                said = f"{refused.message} {refused.hint}"
                assert (
                    refused.field
                    and refused.hint
                    and not re.search(r"Input should|valid |instance|NoneType|pydantic", said)
                ), said
