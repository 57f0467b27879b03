"""Work done apart: in a child process of its own, with limits of time and memory, so that no file can hold the rest up.

A keeper, started once and with everything loaded, forks two processes for each piece of work: one that does it and one
that watches it. Whoever asked hears what came of it through a socket; when they are gone, or the time is up, the
watcher ends the work.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, TypeVar

from .errors import Busy, TooMuch
from .keeper import LOOKS_S, Limits, read_frame, write_frame

T = TypeVar("T")
Progress = Callable[[str, float], None]
GRACE_S = 2.0
"""So much longer than the work's own time its watcher is waited for."""
_ALIKE = {name: "1" for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS")}


class Apart:
    """Does work apart, a few at once: those that hold one of the `turns`, files that all processes of a program share;
    without any, two of this process."""

    def __init__(self, limits: Limits | None = None, turns: Sequence[Path] = ()) -> None:
        self.limits = limits or Limits()
        self._turns = list(turns)
        self._here = threading.BoundedSemaphore(2)
        self._lock = threading.Lock()
        self._keeper: subprocess.Popen[bytes] | None = None
        self._door: socket.socket | None = None

    def warm(self) -> None:
        """Start the keeper, and see that it answers."""
        self.run(os.getpid)

    def run(self, do: Callable[..., T], *args: Any, progress: Progress | None = None) -> T:
        """What `do`, a function of a module, makes of the arguments; both must be such as can be pickled.

        With `progress` the function is given one more argument, a `Progress` of its own. Raises what it raised if that
        is a WimpleError, TooMuch where it took more than the limits, Busy where its turn did not come.
        """
        began = time.monotonic()
        with self._turn(began + self.limits.clock_s / 2):
            left = began + self.limits.clock_s - time.monotonic()
            line = self._work()
            try:
                line.settimeout(left + GRACE_S)
                with line.makefile("rwb") as frames:
                    write_frame(frames, (do, args, progress is not None, self.limits, left))
                    made: T = _heard(frames, progress, self.limits)
                    return made
            except TimeoutError:
                raise _too_long(self.limits) from None
            finally:
                line.close()

    @contextlib.contextmanager
    def _turn(self, until: float) -> Iterator[None]:
        """Waits for a turn and holds it. Raises Busy."""
        if not self._turns:
            if not self._here.acquire(timeout=max(until - time.monotonic(), 0.0)):
                raise _busy()
            try:
                yield
            finally:
                self._here.release()
            return
        while True:
            for path in self._turns:
                with path.open("ab") as file:
                    try:
                        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    except OSError:
                        continue
                    yield
                    return
            if time.monotonic() > until:
                raise _busy()
            time.sleep(LOOKS_S)

    def _work(self) -> socket.socket:
        """A line to a new piece of work."""
        mine, theirs = socket.socketpair()
        with self._lock, theirs:
            for again in (True, False):
                try:
                    socket.send_fds(self._opened(), [b"w"], [theirs.fileno()])
                    break
                except OSError:
                    self._door = None
                    if not again:
                        raise
        return mine

    def _opened(self) -> socket.socket:
        if self._door is None:
            if self._keeper is not None:
                self._keeper.kill()
                self._keeper.wait()
            self._door, theirs = socket.socketpair()
            with theirs:
                self._keeper = subprocess.Popen(
                    [sys.executable, "-m", "wimple_core.keeper", str(theirs.fileno())],
                    pass_fds=[theirs.fileno()],
                    stdin=subprocess.DEVNULL,
                    start_new_session=True,
                    env=os.environ | _ALIKE | {"PYTHONPATH": os.pathsep.join(filter(None, sys.path))},
                )
        return self._door


def here(do: Callable[..., T], *args: Any, progress: Progress | None = None) -> T:
    """The same done at once in this process, for whoever reads only what is their own."""
    return do(*args) if progress is None else do(*args, progress)


Run = Callable[..., Any]
"""`Apart.run`, or `here`."""


def _busy() -> Busy:
    return Busy("Other files are being read just now.", hint="Send it again in a minute.")


def _too_long(limits: Limits) -> TooMuch:
    return TooMuch(
        f"Reading it takes more than {limits.computing_s} s.",
        hint="Simplify it: fewer points, fewer copies, shorter strokes.",
    )


def _too_large(limits: Limits) -> TooMuch:
    return TooMuch(
        f"Reading it takes more than {limits.memory_bytes / 1e9:.1f} GB of memory.",
        hint="Simplify it: fewer points, fewer copies, a smaller picture.",
    )


def _heard(frames: Any, progress: Progress | None, limits: Limits) -> Any:
    """What the work says, until it is over."""
    while True:
        try:
            said, *what = read_frame(frames)
        except EOFError:
            raise _too_large(limits) from None
        if said == "made":
            return what[0]
        if said == "progress" and progress is not None:
            progress(*what)
        elif said == "bad":
            raise what[0]
        elif said == "fault":
            raise RuntimeError(what[0])
        elif said == "memory":
            raise _too_large(limits)
        elif said == "time":
            raise _too_long(limits)
        elif said == "deep":
            raise TooMuch("Its parts lie too deep in one another to be read.", hint="Save it again, simplified.")
