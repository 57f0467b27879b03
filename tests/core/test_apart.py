"""Files from outside are read apart: whatever they hold, an answer comes in time, and never a fault of ours."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import Any

import hostile
import numpy as np
import pytest
from wimple_core import taking_in
from wimple_core.apart import Apart
from wimple_core.errors import BadDrawing, Busy, TooMuch, WimpleError
from wimple_core.keeper import Limits

SHORT = Limits(computing_s=3, memory_bytes=1_500_000_000, clock_s=20)
"""A shorter time than the program gives, so that what takes long is over sooner here."""
APART = Apart(SHORT)
TAKEN: dict[str, tuple[Any, ...]] = {
    "drawing": (taking_in.drawing_in,),
    "outline": (taking_in.outline_in, "a.dxf"),
    "mesh": (taking_in.mesh_in, "a.stl"),
    "obj": (taking_in.mesh_in, "a.obj"),
    "ply": (taking_in.mesh_in, "a.ply"),
    "photo": (taking_in.photo_in,),
    "picture": (taking_in.picture_in,),
    "shelf": (taking_in.shelf_in,),
}


def add(a: int, b: int) -> tuple[int, int]:
    return a + b, os.getpid()


def spin(seconds: float) -> None:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        pass


def wait(seconds: float) -> float:
    time.sleep(seconds)
    return seconds


def grow(size: int) -> int:
    return int(np.ones(size, dtype=np.uint8)[::4096].sum())


def descend(n: int) -> int:
    return descend(n + 1) + 1


def die() -> None:
    os.kill(os.getpid(), 11)


def complain() -> None:
    raise BadDrawing("It is empty.", field="file", hint="Draw something.")


def stumble() -> None:
    raise ZeroDivisionError("secret")


def count(to: int, progress: Any) -> int:
    for n in range(to):
        progress(f"number {n}", n / to)
        time.sleep(0.01)
    return to


def test_what_is_done_apart_is_done_by_another_process_each_time() -> None:
    (three, first), (seven, second) = APART.run(add, 1, 2), APART.run(add, 3, 4)
    assert (three, seven) == (3, 7) and len({first, second, os.getpid()}) == 3


@pytest.mark.parametrize(
    ("do", "args", "said"),
    [(spin, (60,), "3 s"), (grow, (3_000_000_000,), "1.5 GB"), (descend, (0,), "deep"), (die, (), "memory")],
)
def test_what_takes_too_much_is_ended_and_said(do: Any, args: tuple[Any, ...], said: str) -> None:
    began = time.monotonic()
    with pytest.raises(TooMuch, match=said):
        APART.run(do, *args)
    assert time.monotonic() - began < 15
    assert APART.run(add, 1, 1)[0] == 2


def test_a_gigabyte_is_given() -> None:
    assert APART.run(grow, 1_000_000_000) == 244141


def test_waiting_for_ever_is_ended_by_the_clock() -> None:
    began = time.monotonic()
    with pytest.raises(TooMuch):
        Apart(Limits(clock_s=1.0)).run(wait, 60)
    assert time.monotonic() - began < 10


def test_errors_of_both_kinds_come_back_as_they_are() -> None:
    with pytest.raises(BadDrawing) as bad:
        APART.run(complain)
    assert (bad.value.message, bad.value.field, bad.value.hint) == ("It is empty.", "file", "Draw something.")
    with pytest.raises(RuntimeError, match="ZeroDivisionError"):
        APART.run(stumble)


def test_progress_is_heard_and_may_stop_the_work() -> None:
    heard: list[str] = []
    assert APART.run(count, 5, progress=lambda what, share: heard.append(what)) == 5
    assert heard == [f"number {n}" for n in range(5)]

    def stop(what: str, share: float) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        APART.run(count, 100_000, progress=stop)
    assert APART.run(add, 2, 2)[0] == 4


def test_a_turn_that_does_not_come_is_said(tmp_path: Path) -> None:
    import fcntl

    turn = tmp_path / "turn"
    with turn.open("ab") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        with pytest.raises(Busy):
            Apart(Limits(clock_s=1.0), [turn]).run(add, 1, 2)
    assert Apart(Limits(), [turn]).run(add, 1, 2)[0] == 3


def test_a_keeper_that_died_is_started_again() -> None:
    mine = Apart(SHORT)
    mine.warm()
    assert mine._keeper is not None
    mine._keeper.kill()
    mine._keeper.wait()
    assert mine.run(add, 5, 6)[0] == 11


def test_there_are_enough_of_them() -> None:
    every = hostile.every()
    assert len(every) > 100 and len({f.name for f in every}) == len(every)


@pytest.mark.parametrize("file", hostile.every(), ids=lambda f: f.name)
def test_no_file_is_a_fault_of_ours(file: hostile.Hostile) -> None:
    """Read, or refused in words that say what would be right; within its limits either way."""
    data = file.make()
    do, *more = TAKEN[file.kind]
    if data.startswith(b"<svg") and more:
        more = ["a.svg"]
    began = time.monotonic()
    try:
        APART.run(do, data, *more, progress=(lambda what, share: None) if file.kind == "photo" else None)
    except WimpleError as bad:
        assert bad.message and bad.hint and len(bad.message) < 400
        assert "Traceback" not in bad.message and "GEOS" not in bad.message
    assert time.monotonic() - began < 25


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("4,000 rules on 20,000 elements", "styles would be looked up"),
        ("50,000 attributes", "attributes"),
        ("a style attribute of 5 MB", "characters"),
        ("a circle of radius 1e15", "beyond 10,000,000 mm"),
        ("a circle of radius 1e308", "beyond 10,000,000 mm"),
        ("a stroke 1e15 wide", "beyond 10,000,000 mm"),
        ("a path through 1e15", "beyond 10,000,000 mm"),
        ("scaled by 1e15", "beyond 10,000,000 mm"),
        ("a rectangle 1e300 wide in a view box of 1e12", "beyond 10,000,000 mm"),
        ("a page of 1e9 mm", "beyond 10,000,000 mm"),
        ("a DXF circle of 1e14", "beyond 10,000,000 mm"),
        ("3,000 crossing lines in a DXF", "cross about"),
        ("3,000 points criss and cross, filled", "cross about"),
        ("a net of 1,500 lines each way", "cross about"),
        ("a marker on each of 20,000 corners", "repeats its parts"),
        ("10,000 groups in one another", "deep"),
        ("a picture of 200 by 240,000", "240,000 pixels long"),
        ("150,000 squares", "elements"),
    ],
)
def test_what_is_too_much_of_what_is_said(name: str, said: str) -> None:
    file = next(f for f in hostile.every() if f.name == name)
    do, *more = TAKEN[file.kind]
    args = (*more, *((lambda what, share: None,) if file.kind == "photo" else ()))
    with pytest.raises(WimpleError, match=said):
        do(file.make(), *args)


@pytest.mark.parametrize("file", [hostile.walk(1200), hostile.squiggle(1200), hostile.squares(10_000)])
def test_an_honest_hard_drawing_is_read(file: bytes) -> None:
    left, low, right, high = taking_in.drawing_in(file).bounds
    assert right - left > 80 and high - low > 80


def test_what_lies_beside_the_page_is_left_out_and_what_reaches_into_it_is_not() -> None:
    seen = '<rect x="10" y="10" width="20" height="20" fill="#123456"/>'
    beside = '<path d="M500 500A90 90 0 0 1 700 700Z" fill="#654321"/>'
    across = '<path d="M-900 50L900 50" stroke="#222" stroke-width="4"/>'
    assert taking_in.drawing_in(hostile.svg(seen + beside)).bounds == taking_in.drawing_in(hostile.svg(seen)).bounds
    left, _, right, _ = taking_in.drawing_in(hostile.svg(seen + across)).bounds
    assert (left, right) == (0, 100)
