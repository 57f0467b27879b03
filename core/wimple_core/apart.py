"""Work done apart: in a child process of its own, with limits of time and memory, so that no file can hold the rest up.

A keeper, started once and with everything loaded, forks two processes for each piece of work: one that does it and one
that watches it. Whoever asked hears what came of it through a socket; when they are gone, or the time is up, the
watcher ends the work.
"""

from __future__ import annotations

import contextlib
import fcntl
import gc
import importlib
import os
import pickle
import resource
import select
import signal
import socket
import struct
import subprocess
import sys
import threading
import time
import traceback
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO, TypeVar

from .errors import Busy, TooMuch, WimpleError

T = TypeVar("T")
Progress = Callable[[str, float], None]
READERS = "wimple_core.taking_in"
GRACE_S = 2.0
"""So much longer than the work's own time its watcher is waited for."""
LOOKS_S = 0.02
_ALIKE = {name: "1" for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS")}
_SIZE = struct.Struct("!Q")


@dataclass(frozen=True)
class Limits:
    """What one piece of work may take: seconds of computing, bytes of memory, seconds by the clock with the wait for
    its turn."""

    computing_s: int = 20
    memory_bytes: int = 1_500_000_000
    clock_s: float = 22.0


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
                    _write(frames, (do, args, progress is not None, self.limits, left))
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
                    [sys.executable, "-m", "wimple_core.apart", str(theirs.fileno())],
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


def _write(frames: BinaryIO | Any, what: Any) -> None:
    data = pickle.dumps(what, protocol=pickle.HIGHEST_PROTOCOL)
    frames.write(_SIZE.pack(len(data)))
    frames.write(data)
    frames.flush()


def _read(frames: BinaryIO | Any) -> Any:
    """The next frame. Raises EOFError where there is none."""
    head = frames.read(_SIZE.size)
    if len(head) < _SIZE.size:
        raise EOFError
    size = _SIZE.unpack(head)[0]
    data = frames.read(size)
    if len(data) < size:
        raise EOFError
    return pickle.loads(data)


def _heard(frames: Any, progress: Progress | None, limits: Limits) -> Any:
    """What the work says, until it is over."""
    while True:
        try:
            said, *what = _read(frames)
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


def _resident() -> tuple[int, int]:
    """Bytes of memory this process has been given, and how many of them it uses."""
    given, used = Path("/proc/self/statm").read_text().split()[:2]
    page = resource.getpagesize()
    return int(given) * page, int(used) * page


def _do(line: socket.socket, request: tuple[Any, ...]) -> None:
    """The work itself, within its limits; says what came of it."""
    do, args, hears, limits, _ = request
    given, used = _resident()
    most = given + max(limits.memory_bytes - used, 0)
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    resource.setrlimit(resource.RLIMIT_CPU, (limits.computing_s, limits.computing_s + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.nice(10)
    # It ends soon, and with it all that it made.
    gc.disable()
    with line.makefile("wb") as frames:
        try:
            more = (lambda what, share: _write(frames, ("progress", what, share)),) if hears else ()
            _write(frames, ("made", do(*args, *more)))
        except WimpleError as bad:
            _write(frames, ("bad", bad))
        except MemoryError:
            _write(frames, ("memory",))
        except RecursionError:
            _write(frames, ("deep",))
        except BrokenPipeError:
            pass
        except Exception as fault:
            # The geometry library tells of it so.
            spent = "bad_alloc" in str(fault)
            _write(frames, ("memory",) if spent else ("fault", traceback.format_exc()))


def _watch(line: socket.socket, worker: int, clock_s: float) -> None:
    """Waits for the work to end, and ends it when its time is up or nobody listens; says so where it cannot itself."""
    until = time.monotonic() + clock_s
    gone = select.poll()
    gone.register(line, select.POLLHUP | select.POLLERR)
    while True:
        ended, status = os.waitpid(worker, os.WNOHANG)
        if ended:
            break
        if time.monotonic() > until or gone.poll(0):
            os.kill(worker, signal.SIGKILL)
            os.waitpid(worker, 0)
            status = signal.SIGXCPU
            break
        time.sleep(LOOKS_S / 4)
    if os.WIFSIGNALED(status):
        late = os.WTERMSIG(status) in (signal.SIGXCPU, signal.SIGKILL)
        with contextlib.suppress(OSError), line.makefile("wb") as frames:
            _write(frames, ("time",) if late else ("memory",))


def _one(line: socket.socket) -> None:
    """One piece of work: asked for on the line, done by a child of this process."""
    with line.makefile("rb") as frames:
        try:
            request = _read(frames)
        except EOFError:
            return
        except Exception:
            with line.makefile("wb") as back:
                _write(back, ("fault", traceback.format_exc()))
            return
    worker = os.fork()
    if worker == 0:
        try:
            _do(line, request)
        finally:
            os._exit(0)
    _watch(line, worker, request[4])


def keep(door: socket.socket) -> None:
    """The keeper: forks a watcher for each line that comes through the door, until whoever started it is gone."""
    importlib.import_module(READERS)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    while True:
        word, lines, _, _ = socket.recv_fds(door, 1, 1)
        if not word:
            return
        if os.fork() == 0:
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            door.close()
            try:
                with socket.socket(fileno=lines[0]) as line:
                    _one(line)
            finally:
                os._exit(0)
        os.close(lines[0])


if __name__ == "__main__":
    keep(socket.socket(fileno=int(sys.argv[1])))
