"""The keeper of work that is done apart: it has everything loaded, and forks for each piece of work one process that
does it and one that watches it."""

from __future__ import annotations

import contextlib
import gc
import importlib
import os
import pickle
import resource
import select
import signal
import socket
import struct
import sys
import time
import traceback
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

from .errors import WimpleError

READERS = ("wimple_core.taking_in", "wimple_core.views.folio")
"""What reads files: loaded before the first comes."""
LOOKS_S = 0.02
_SIZE = struct.Struct("!Q")


@dataclass(frozen=True)
class Limits:
    """What one piece of work may take: seconds of computing, bytes of memory, seconds by the clock with the wait for
    its turn."""

    computing_s: int = 20
    memory_bytes: int = 1_500_000_000
    clock_s: float = 22.0


def write_frame(frames: BinaryIO | Any, what: Any) -> None:
    data = pickle.dumps(what, protocol=pickle.HIGHEST_PROTOCOL)
    frames.write(_SIZE.pack(len(data)))
    frames.write(data)
    frames.flush()


def read_frame(frames: BinaryIO | Any) -> Any:
    """The next frame. Raises EOFError where there is none."""
    head = frames.read(_SIZE.size)
    if len(head) < _SIZE.size:
        raise EOFError
    size = _SIZE.unpack(head)[0]
    data = frames.read(size)
    if len(data) < size:
        raise EOFError
    return pickle.loads(data)


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
            more = (lambda what, share: write_frame(frames, ("progress", what, share)),) if hears else ()
            write_frame(frames, ("made", do(*args, *more)))
        except WimpleError as bad:
            write_frame(frames, ("bad", bad))
        except MemoryError:
            write_frame(frames, ("memory",))
        except RecursionError:
            write_frame(frames, ("deep",))
        except BrokenPipeError:
            pass
        except Exception as fault:
            # The geometry library tells of it so.
            spent = "bad_alloc" in str(fault)
            write_frame(frames, ("memory",) if spent else ("fault", traceback.format_exc()))


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
            write_frame(frames, ("time",) if late else ("memory",))


def _one(line: socket.socket) -> None:
    """One piece of work: asked for on the line, done by a child of this process."""
    with line.makefile("rb") as frames:
        try:
            request = read_frame(frames)
        except EOFError:
            return
        except Exception:
            with line.makefile("wb") as back:
                write_frame(back, ("fault", traceback.format_exc()))
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
    for readers in READERS:
        importlib.import_module(readers)
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
