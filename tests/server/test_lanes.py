"""Lanes: what is looked at once the open step is shown, after everybody's foreground, dropped at the next edit."""

from __future__ import annotations

import copy
import json
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from wimple_core import pipeline
from wimple_core.cache import StageCache
from wimple_core.verdict import STEPS
from wimple_server.jobs import building
from wimple_server.jobs.models import Job
from wimple_server.lanes import MOST, Lane, Lanes, Late


def words(*some: bytes, every: Callable[[], None] = lambda: None) -> Callable[[Lane], Iterator[bytes]]:
    def pieces(lane: Lane) -> Iterator[bytes]:
        for word in some:
            lane.breathe()
            every()
            yield word

    return pieces


def busily(lane: Lane) -> Iterator[bytes]:
    """One piece that never ends, and never breathes."""
    yield b"first"
    while True:
        sum(range(100))


def heard(lane: Lane) -> list[bytes]:
    return list(lane.lines())


@pytest.fixture()
def lanes(tmp_path: Path) -> Lanes:
    return Lanes(tmp_path)


def test_its_lines_come_in_order_and_it_ends(lanes: Lanes) -> None:
    with lanes.lane("ada", "a", words(b"one", b"two", b"three")) as lane:
        assert lane is not None and heard(lane) == [b"one", b"two", b"three"]


def test_the_next_edit_of_the_page_drops_it_within_20_ms(lanes: Lanes) -> None:
    took = []
    for _ in range(20):
        with lanes.lane("ada", "a", busily) as lane:
            assert lane is not None
            lines = lane.lines()
            assert next(lines) == b"first"
            lanes.drop("ada", "a")
            assert list(lines) == []
            while lane.rested_at is None:
                time.sleep(0.001)
            assert lane.dropped_at is not None
            took.append(lane.rested_at - lane.dropped_at)
    assert sorted(took)[len(took) // 2] < 0.02, took


def test_a_piece_that_takes_too_long_is_broken_off_and_the_next_is_made(lanes: Lanes) -> None:
    def pieces(lane: Lane) -> Iterator[bytes]:
        for n in range(3):
            try:
                with lane.within(0.2):
                    while n == 1:
                        sum(range(100))
                yield b"made %d" % n
            except Late:
                yield b"late"

    with lanes.lane("ada", "a", pieces) as lane:
        assert lane is not None and heard(lane) == [b"made 0", b"late", b"made 2"]


def test_what_nobody_hears_any_more_ends(lanes: Lanes) -> None:
    """The answer is given up: the page was closed."""
    with lanes.lane("ada", "a", busily) as lane:
        assert lane is not None
        lines = lane.lines()
        next(lines)
        lines.close()  # type: ignore[attr-defined]
        until = time.monotonic() + 5
        while lane.rested_at is None and time.monotonic() < until:
            time.sleep(0.001)
        assert lane.rested_at is not None


def test_a_page_that_is_closed_ends_it(lanes: Lanes) -> None:
    mine, theirs = socket.socketpair()
    with mine, lanes.lane("ada", "a", busily) as lane:
        assert lane is not None
        lines = lane.lines(mine)
        assert next(lines) == b"first"
        theirs.close()
        assert list(lines) == []
        until = time.monotonic() + 5
        while lane.rested_at is None and time.monotonic() < until:
            time.sleep(0.001)
        assert lane.rested_at is not None


def test_it_goes_after_everybodys_foreground(lanes: Lanes) -> None:
    at: list[float] = []
    with lanes.lane("ada", "a", words(b"one", every=lambda: at.append(time.monotonic()))) as lane:
        assert lane is not None
        with lanes.foreground():
            hears = threading.Thread(target=heard, args=(lane,))
            hears.start()
            time.sleep(0.2)
            assert not at
            over = time.monotonic()
        hears.join(5)
    assert at and at[0] >= over


def test_a_member_has_one_at_a_time_and_others_theirs_beside(lanes: Lanes) -> None:
    under: list[str] = []
    most: dict[str, int] = {}

    def slowly(who: str) -> Callable[[Lane], Iterator[bytes]]:
        def pieces(lane: Lane) -> Iterator[bytes]:
            under.append(who)
            most[who] = max(most.get(who, 0), under.count(who))
            most["all"] = max(most.get("all", 0), len(under))
            time.sleep(0.15)
            under.remove(who)
            yield b"done"

        return pieces

    def one(who: str, page: str) -> None:
        with lanes.lane(who, page, slowly(who)) as lane:
            assert lane is not None and heard(lane) == [b"done"]

    every = [threading.Thread(target=one, args=who) for who in (("ada", "a"), ("ada", "b"), ("bo", "c"))]
    for each in every:
        each.start()
    for each in every:
        each.join(5)
    assert most == {"ada": 1, "bo": 1, "all": 2}


def test_a_page_that_asks_again_keeps_one_lane_and_a_second_page_its_own(lanes: Lanes) -> None:
    with (
        lanes.lane("ada", "a", busily) as first,
        lanes.lane("ada", "b", words(b"one")) as second,
        lanes.lane("ada", "a", words(b"one")) as third,
    ):
        assert first is not None and second is not None and third is not None
        assert first.dropped_at is not None and second.dropped_at is None
        assert heard(third) == [b"one"]


def test_there_are_no_more_than_so_many(lanes: Lanes) -> None:
    import contextlib

    with contextlib.ExitStack() as some:
        for n in range(MOST):
            assert some.enter_context(lanes.lane(f"m{n}", "a", words(b"one"))) is not None
        assert some.enter_context(lanes.lane("late", "a", words(b"one"))) is None
    with lanes.lane("late", "a", words(b"one")) as lane:
        assert lane is not None


def asked(api: Any, job: Job, step: str, **more: Any) -> list[dict[str, Any]]:
    headers = {"Accept": "application/x-ndjson", "X-CSRFToken": api.token}
    body = json.dumps({"document": job.document, "step": step, "page": "p", "rest": True, **more})
    answer = api.client.post(f"/api/jobs/{job.pk}/build", body, content_type="application/json", headers=headers)
    return [json.loads(line) for line in b"".join(answer.streaming_content).splitlines()]


@pytest.fixture()
def cold(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(building, "CACHE", StageCache())


@pytest.mark.django_db(transaction=True)
def test_the_rest_comes_after_the_open_step(api: Any, job: Job, cold: None) -> None:
    """The scene holds the open step; all others follow, then other ways, mends, and remedies that were tried; nothing
    is said twice."""
    lines = asked(api, job, "artwork")
    whole = next(n for n, line in enumerate(lines) if line.get("whole"))
    scene, later = lines[whole], [line for line in lines[whole + 1 :] if "later" in line]
    assert scene["told"] == ["measure", "unwrap", "artwork"] == list(scene["levels"])
    said = next(x["parts"]["verdicts"]["data"] for x in lines if x.get("parts", {}).get("verdicts"))
    assert {v["step"] for v in said} == set(scene["told"])
    assert [line["later"] for line in later] == ["layers", "sheets", "sheets", "layup", "price", "sheets", "layers"]
    assert later[-1]["told"] == list(STEPS) and all(later[-1]["levels"].values())
    # Sheets is told only once its other ways are known; what would mend a layer comes last.
    assert ["sheets" in line["told"] for line in later] == [False] * 5 + [True] * 2
    # What is asked for without it ends with the scene.
    assert asked(api, job, "artwork", rest=False)[-1]["whole"]


@pytest.mark.django_db(transaction=True)
def test_a_remedy_is_offered_once_it_was_tried(api: Any, job: Job, cold: None) -> None:
    """A band that runs into the lip: what brings it down comes last, and does so."""

    def room(lines: list[dict[str, Any]]) -> dict[str, Any]:
        parts = (line["parts"].get("verdicts") for line in lines if "document" in line)
        said = [v for part in parts if part and part["data"] for v in part["data"]]
        found: dict[str, Any] = next(v for v in said if v["code"] == "artwork.keep_out")
        return found

    document = copy.deepcopy(job.document)
    document["elements"][0]["placements"][0]["up_mm"] += 30
    lines = asked(api, job, "artwork", document=document)
    bad = room(lines)
    assert bad["level"] == "stop" and "fix" not in bad
    assert "later" in lines[-2] or "remedies" in lines[-2]
    (remedy,) = [r for r in lines[-1]["remedies"] if r["code"] == "artwork.keep_out"]
    assert (remedy["field"], remedy["sentence"]) == (bad["field"], bad["sentence"]) and remedy["says"]
    for path, value in remedy["edits"].items():
        document["elements"][0]["placements"][0][path.rsplit(".", 1)[-1]] = value
    assert room(asked(api, job, "artwork", document=document))["level"] == "ok"


@pytest.mark.django_db(transaction=True)
def test_other_ways_and_mends_come_to_the_step_that_shows_them(api: Any, job: Job, cold: None) -> None:
    parts = {step: [list(x["parts"]) for x in asked(api, job, step) if "later" in x] for step in ("sheets", "layers")}
    assert parts["sheets"] == [[], [], ["ways"], []] and parts["layers"][-1] == ["mending"]
    assert not any(parts["layers"][:-1])


@pytest.mark.django_db(transaction=True)
def test_what_breaks_in_the_lane_is_said_at_its_step_and_the_rest_goes_on(
    api: Any, job: Job, cold: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    def breaks(*args: object, **more: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(pipeline, "plan_sheets", breaks)
    lines = asked(api, job, "artwork")
    scene = next(line for line in lines if line.get("whole"))
    assert scene["stopped"] is None
    broken = next(line for line in lines if line.get("later") == "sheets")
    assert broken["levels"]["sheets"] == "stop" and "sheets step" in broken["fault"]["message"]
    last = [line for line in lines if "later" in line][-1]
    assert last["later"] == "layers" and last["told"] == list(STEPS) and last["levels"]["price"] is None


@pytest.mark.django_db(transaction=True)
def test_a_later_step_that_takes_too_long_is_given_up(
    api: Any, job: Job, cold: None, monkeypatch: pytest.MonkeyPatch, settings: Any
) -> None:

    def breaks(*args: object, **more: object) -> None:
        raise ZeroDivisionError

    def slow(*args: object, **more: object) -> None:
        while True:
            pass

    # All else is known already, so that nothing but what is slow takes its time.
    monkeypatch.setattr(pipeline, "with_other_ways", breaks)
    asked(api, job, "price")
    settings.LANE_CLOCK_S = 1.0
    monkeypatch.setattr(pipeline, "with_other_ways", slow)
    lines = asked(api, job, "price")
    late = [line for line in lines if line.get("fault")]
    assert len(late) == 1 and "takes more than" in late[0]["fault"]["message"]
    last = [line for line in lines if "later" in line][-1]
    assert late[0]["levels"]["sheets"] == "ok" and last["told"] == list(STEPS) and lines[-1]["whole"]
