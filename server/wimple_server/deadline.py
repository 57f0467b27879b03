"""Work of a thread that is ended when it takes too long."""

from __future__ import annotations

import ctypes
import threading
from collections.abc import Iterator
from contextlib import contextmanager


class TooLong(BaseException):
    """The time is up. No fault and no error, so that nothing on its way takes it for one."""


def _raise_in(thread: int, what: type[BaseException] | None) -> None:
    ctypes.pythonapi.PyThreadState_SetAsyncExc(
        ctypes.c_ulong(thread), ctypes.py_object(what) if what is not None else None
    )


@contextmanager
def no_longer_than(seconds: float) -> Iterator[None]:
    """Raises TooLong in what is done inside once that long has passed, at its next step in Python."""
    me, lock, over = threading.get_ident(), threading.Lock(), False

    def ring() -> None:
        with lock:
            if not over:
                _raise_in(me, TooLong)

    timer = threading.Timer(max(seconds, 0.0), ring)
    timer.daemon = True
    timer.start()
    try:
        yield
    finally:
        with lock:
            over = True
            # What was on its way and did not come is not wanted any more.
            _raise_in(me, None)
        timer.cancel()
