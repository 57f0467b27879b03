"""What became slower since results were committed is said, whatever pace the machine had in either run."""

from __future__ import annotations

import sys
from typing import Any

from samples import ROOT

sys.path.append(str(ROOT / "bench"))

from comparing import slower


def row(what: str, reference: float | None, **figures: float | None) -> dict[str, Any]:
    return {"what": what, **figures, **({} if reference is None else {"reference_ms": reference})}


def test_a_figure_is_held_against_its_own_runs_reference() -> None:
    before = [row("edit", 8.0, ours_ms=40.0), row("drag", 8.0, drawn_ms=100.0, exact_ms=120)]
    # The machine is half as fast: as slow is not slower.
    assert slower([row("edit", 16.0, ours_ms=80.0)], before) == []
    assert slower([row("edit", 16.0, ours_ms=103.0)], before) == []
    (said,) = slower([row("edit", 16.0, ours_ms=106.0)], before)
    assert said.startswith("1.32 times as long: edit, ours_ms 40 -> 106")
    # The same time on a machine twice as fast is twice as slow.
    assert slower([row("edit", 4.0, ours_ms=40.0)], before)[0].startswith("2.00 times")
    # Every figure of a row is looked at, whole numbers as well.
    assert [s.split(", ")[1].split()[0] for s in slower([row("drag", 8.0, drawn_ms=200.0, exact_ms=240)], before)] == [
        "drawn_ms",
        "exact_ms",
    ]
    # What is new, was not measured, or differs by next to nothing is not.
    few = [row("tiny", 8.0, ours_ms=1.0), row("gone", 8.0, ours_ms=None)]
    now = [row("tiny", 8.0, ours_ms=3.0), row("gone", 8.0, ours_ms=5.0), row("new", 8.0, ours_ms=900.0)]
    assert slower(now, few) == []


def test_results_from_before_rows_had_their_own_are_held_against_the_one_they_had() -> None:
    before = [{"what": "points", "against": "bare numpy", "theirs_ms": 8.0}, row("edit", None, ours_ms=40.0)]
    assert slower([row("edit", 8.0, ours_ms=60.0)], before)[0].startswith("1.50 times")
    assert slower([row("edit", 8.0, ours_ms=60.0)], before[1:]) == [], "nothing to hold it against"
