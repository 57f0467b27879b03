"""Lanes: what is left to work out of an open job once its open step is shown, done when nobody waits for anything.

A lane is a thread beside the one that answers. It makes one piece after another, and what comes of each is a line of
the answer. It goes after every foreground of its process: before each new piece it waits until none is under way. It
ends at once when its page asks for something else, or is closed. A member has one lane at a time, whichever process
runs it.
"""

from __future__ import annotations

import contextlib
import ctypes
import fcntl
import logging
import os
import select
import socket
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Protocol

from django.conf import settings
from django.db import connections

MOST = 16
"""So many lanes may be open in a process; whoever comes then is told to ask again."""
AT_ONCE = 2
"""So many of them work at a time."""
AGAIN_AFTER_S = 2.0
LOOKS_S = 0.05
LONGEST_WAIT_S = 1.0
CLOCK_S = 0.5
POLITE = 10
"""A lane's thread gives way to all others by so much (`nice`)."""


class Dropped(BaseException):
    """The lane is not wanted any more. No fault and no error, so that nothing on its way takes it for one."""


class Late(BaseException):
    """A piece of a lane takes longer than it is given. Neither a fault nor an error."""


class Pieces(Protocol):
    """What is left to do: makes the pieces, one at each step with a line for each; before anything new it lets the lane
    `breathe`, and what may take long it makes `within` a time."""

    def __call__(self, lane: Lane) -> Iterator[bytes]: ...


class Lane:
    """One lane: its lines as they come, and whether it was dropped."""

    def __init__(self, lanes: Lanes, member: str, pieces: Pieces) -> None:
        self._lanes, self._member, self._pieces = lanes, member, pieces
        self._lines: deque[bytes] = deque()
        self._woken, self._wake = os.pipe()
        os.set_blocking(self._wake, False)
        self._lock = threading.Lock()
        self._over = False
        self._until: float | None = None
        self.dropped_at: float | None = None
        self.rested_at: float | None = None
        """When it was dropped, and when its thread did nothing any more."""
        self._thread = threading.Thread(target=self._run, daemon=True, name="lane")

    def drop(self) -> None:
        """Nothing of it is wanted any more: what it is at is left."""
        with self._lock:
            if self._over or self.dropped_at is not None:
                return
            self.dropped_at = time.monotonic()
            self._raise(Dropped)
        self._lanes.rouse()
        self._tell()

    def _raise(self, what: type[BaseException] | None) -> None:
        """Raise in its thread, at its next step in Python; None takes back what is on its way."""
        if self._thread.ident is not None:
            raised = ctypes.py_object(what) if what is not None else None
            ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(self._thread.ident), raised)

    @contextlib.contextmanager
    def within(self, seconds: float) -> Iterator[None]:
        """Raises Late in what its thread does inside once that has taken so long, the waits for others apart."""
        self._until = time.monotonic() + seconds
        try:
            yield
        finally:
            with self._lock:
                self._until = None
                if self.dropped_at is None:
                    self._raise(None)

    def _look_at_the_clock(self) -> None:
        with self._lock:
            if self._until is not None and time.monotonic() > self._until and not self._over:
                self._until = None
                self._raise(Late)

    def lines(self, line: socket.socket | None = None) -> Iterator[bytes]:
        """Its lines as they come, until it is through, is dropped, or whoever hears them has hung up."""
        self._thread.start()
        try:
            while not (self._over and not self._lines):
                heard: list[Any] = [self._woken, *([line] if line is not None else [])]
                ready, _, _ = select.select(heard, [], [], CLOCK_S)
                self._look_at_the_clock()
                if line in ready and line is not None:
                    if _hung_up(line):
                        return
                    # Whoever speaks before the answer is whole is heard after it.
                    line = None
                if self._woken in ready:
                    os.read(self._woken, 4096)
                while self._lines:
                    yield self._lines.popleft()
                if self.dropped_at is not None:
                    return
        finally:
            self.drop()

    def breathe(self) -> None:
        """Wait for everybody's foreground. Raises Dropped."""
        began = time.monotonic()
        self._lanes.wait_for_quiet(lambda: self.dropped_at is not None)
        if self.dropped_at is not None:
            raise Dropped
        with self._lock:
            if self._until is not None:
                self._until += time.monotonic() - began

    def _run(self) -> None:
        with contextlib.suppress(AttributeError, OSError):
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), POLITE)
        try:
            with self._lanes.turn(self._member, self.breathe):
                for line in self._pieces(self):
                    self._lines.append(line)
                    self._tell()
                    self.breathe()
        except (Dropped, Late):
            pass
        except Exception:
            logging.getLogger("wimple").exception("a lane broke")
        finally:
            # What is raised in it after this finds nothing to end.
            with contextlib.suppress(Dropped, Late):
                self._end()

    def _end(self) -> None:
        with self._lock:
            self._over = True
            self._raise(None)
        self.rested_at = time.monotonic()
        self._tell()
        connections.close_all()

    def _tell(self) -> None:
        with contextlib.suppress(OSError):
            os.write(self._wake, b".")

    def __del__(self) -> None:
        os.close(self._woken)
        os.close(self._wake)


def _hung_up(line: socket.socket) -> bool:
    try:
        return not line.recv(1, socket.MSG_PEEK | socket.MSG_DONTWAIT)
    except BlockingIOError:
        return False
    except (OSError, ValueError):
        return True


class Lanes:
    """All lanes of a process, and the foregrounds that they give way to."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder
        self._open: dict[tuple[str, str], Lane] = {}
        self._lock = threading.Lock()
        self._quiet = threading.Condition()
        self._foregrounds = 0
        self._turns = threading.BoundedSemaphore(AT_ONCE)

    @contextlib.contextmanager
    def foreground(self) -> Iterator[None]:
        """While somebody waits for an answer, lanes wait."""
        with self._quiet:
            self._foregrounds += 1
        try:
            yield
        finally:
            with self._quiet:
                self._foregrounds -= 1
                self._quiet.notify_all()

    def wait_for_quiet(self, ended: Callable[[], bool]) -> None:
        """Until nobody waits for an answer, or it has `ended`; no longer than a while, for somebody's answer may wait
        for their own slow line."""
        with self._quiet:
            self._quiet.wait_for(lambda: not self._foregrounds or ended(), LONGEST_WAIT_S)

    def rouse(self) -> None:
        """Whoever waits for quiet looks whether it has ended."""
        with self._quiet:
            self._quiet.notify_all()

    def drop(self, member: str, page: str) -> None:
        """A member's page asks for something new: what it had in its lane is dropped."""
        with self._lock:
            lane = self._open.pop((member, page), None)
        if lane is not None:
            lane.drop()

    @contextlib.contextmanager
    def lane(self, member: str, page: str, pieces: Pieces) -> Iterator[Lane | None]:
        """A lane for a member's page, dropped at the end; None where there are too many."""
        self.drop(member, page)
        with self._lock:
            lane = None if len(self._open) >= MOST else Lane(self, member, pieces)
            if lane is not None:
                self._open[member, page] = lane
        try:
            yield lane
        finally:
            with self._lock:
                if lane is not None and self._open.get((member, page)) is lane:
                    del self._open[member, page]
            if lane is not None:
                lane.drop()

    @contextlib.contextmanager
    def turn(self, member: str, breathe: Callable[[], None]) -> Iterator[None]:
        """Waits for a turn, and for other lanes of the same member, in this process and others. Raises what `breathe`
        does."""
        with self._alone(member, breathe):
            while not self._turns.acquire(timeout=LOOKS_S):
                breathe()
            try:
                yield
            finally:
                self._turns.release()

    @contextlib.contextmanager
    def _alone(self, member: str, breathe: Callable[[], None]) -> Iterator[None]:
        folder = self._folder or settings.DATA / "lanes"
        folder.mkdir(parents=True, exist_ok=True)
        with (folder / f"{member or 'nobody'}.lock").open("ab") as file:
            while True:
                try:
                    fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    break
                except OSError:
                    breathe()
                    time.sleep(LOOKS_S)
            yield


LANES = Lanes()
"""Those of this process."""
