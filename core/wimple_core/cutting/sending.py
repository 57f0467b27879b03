"""Strokes sent to a cutter: no faster than it takes them, and only what it says it has done counts as cut.

After every few places the cutter is asked where it stands (`OA`): where that is not where the stroke has come to,
something was lost on the way, and nothing more is sent. What was cut is known to the place, so that cutting goes on
where it broke.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..errors import WimpleError
from .found_marks import Look, eye_over
from .plotter import UNITS_PER_MM, in_units

AT_ONCE, AT_ONCE_MM = 40, 25.0
"""So many places of a stroke, or so much of its length, are sent before the cutter is asked where it stands."""
ROOM = b"\x1b.B"
FORGET = b"\x1b.K"
LONGEST_ANSWER = 64


class Line(Protocol):
    """A connection to a cutter. Both raise OSError where it is lost or silent."""

    def send(self, data: bytes) -> None:
        """Send all of it."""

    def receive(self) -> bytes:
        """What comes next; nothing at the end of the line."""


class CutterFault(WimpleError):
    """Something is wrong with the cutter or the line to it."""

    code = "cutter"


@dataclass(frozen=True)
class Done:
    """How far a load is cut: so many strokes whole, and of the next one up to that place."""

    strokes: int = 0
    place: int = 0


Tell = Callable[[Done], None]
"""Told how far it is; by raising anything it ends the cutting there."""


def cut(
    line: Line,
    strokes: Sequence[Array],
    tell: Tell,
    done: Done = Done(),
    setting: str = "",
    steps_per_mm: float = UNITS_PER_MM,
) -> Done:
    """Have strokes (n, 2), mm as the machine counts them, cut in their order from where it is `done`; how far that
    came. `setting` is told to it first. What `tell` raises lifts the blade and goes on up.

    Raises CutterFault where the cutter is not ready, answers what makes no sense, stands elsewhere than it should, or
    the line is lost; its `done` tells how far it is cut.
    """
    talk = _Talk(line)
    at = done
    try:
        talk.ready()
        if setting:
            talk.send(setting.encode())
        for n in range(done.strokes, len(strokes)):
            path = in_units(strokes[n], steps_per_mm)
            first = at.place if n == done.strokes else 0
            if len(path) - first > 1:
                talk.send(_pen(b"PU", path[first : first + 1]))
                for some in _at_once(path, first, steps_per_mm):
                    talk.send(_pen(b"PD", path[some.start : some.stop]))
                    talk.stands_at(path[some.stop - 1])
                    at = Done(n, some.stop - 1)
                    tell(at)
            talk.send(b"PU;")
            at = Done(n + 1, 0)
            tell(at)
        talk.send(b"PU0,0;")
        talk.stands_at(np.zeros(2, dtype=np.int64))
    except OSError as bad:
        raise _fault("The line to the cutter is lost.", at, "Look at the cable and the power, and go on.") from bad
    except CutterFault as bad:
        bad.done = at  # type: ignore[attr-defined]
        raise
    except Exception:
        # Ended by hand: the blade must not stay down.
        talk.send(b"PU;")
        raise
    return at


def eye_on(line: Line, steps_per_mm: float = UNITS_PER_MM) -> Look:
    """The eye of the cutter at the other end, which is ready. Raises CutterFault where it is not or knows no marks."""
    talk = _Talk(line)
    talk.ready()
    return eye_over(lambda question: talk.ask(question, rb"-?\d+,-?\d+|0")[0], steps_per_mm)


def _at_once(path: NDArray[np.int64], first: int, steps_per_mm: float) -> Iterator[range]:
    """Which places of a stroke, from the one after `first` on, are sent together."""
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))]) / steps_per_mm
    begin = first + 1
    while begin < len(path):
        far = int(np.searchsorted(run, run[begin - 1] + AT_ONCE_MM, side="right"))
        end = min(max(far, begin + 1), begin + AT_ONCE, len(path))
        yield range(begin, end)
        begin = end


def _pen(what: bytes, places: NDArray[np.int64]) -> bytes:
    return what + ",".join(map(str, places.ravel().tolist())).encode() + b";"


def _fault(message: str, done: Done, hint: str) -> CutterFault:
    bad = CutterFault(message, field="cutter", hint=hint)
    bad.done = done  # type: ignore[attr-defined]
    return bad


class _Talk:
    """A talk with a cutter over a line."""

    def __init__(self, line: Line) -> None:
        self.line = line
        self.heard = b""

    def ready(self) -> None:
        """Begin anew; raises CutterFault for one that is not ready or has no film."""
        # What it was told before, and never came to an end of, must not be cut.
        self.line.send(FORGET)
        self.send(b"IN;PA;SP1;")
        status = int(self.ask(b"OS;", rb"(\d+)")[1])
        if not status & 16:
            raise CutterFault("The cutter is busy.", field="cutter", hint="Wait until it is ready, and go on.")
        if status & 8:
            raise CutterFault("There is no film on the cutter.", field="cutter", hint="Load it, and go on.")

    def send(self, data: bytes) -> None:
        """Send bytes as there is room for them."""
        while data:
            room = int(self.ask(ROOM, rb"(\d+)", ours=False)[1])
            if room <= 0:
                continue
            self.line.send(data[:room])
            data = data[room:]

    def stands_at(self, place: NDArray[np.int64]) -> None:
        """Raises CutterFault where it stands elsewhere, or tells of an error."""
        wrong = self.ask(b"OE;", rb"(\d+)")[1] != b"0"
        said = self.ask(b"OA;", rb"(-?\d+),(-?\d+),[01]")
        if wrong or [int(said[1]), int(said[2])] != place.tolist():
            raise CutterFault(
                "Something was lost on the way to the cutter.",
                field="cutter",
                hint="Do not unload. Look whether the last contour is whole, and go on from it.",
            )

    def ask(self, question: bytes, wanted: bytes, ours: bool = True) -> re.Match[bytes]:
        """Ask, and wait for one line of answer. Raises CutterFault for one that makes no sense."""
        if ours:
            self.send(question)
        else:
            self.line.send(question)
        while b"\r" not in self.heard:
            more = self.line.receive()
            if not more:
                raise OSError("the line ended")
            self.heard += more
            if len(self.heard) > LONGEST_ANSWER:
                break
        answer, _, self.heard = self.heard.partition(b"\r")
        found = re.fullmatch(wanted, answer.strip())
        if found is None:
            raise CutterFault(
                "What the cutter answers makes no sense.",
                field="cutter",
                hint="Look whether it is a cutter that takes HP-GL, and its address.",
            )
        return found
