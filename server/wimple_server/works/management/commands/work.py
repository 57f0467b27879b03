"""Have long work done: a worker is kept running, what a dead one left is taken up again, and what is old is cleared
away."""

from __future__ import annotations

import logging
import os
import signal
import subprocess
import sys
import time
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import close_old_connections

from ....tidying import tidy
from ...tasks import take_up_stale

LOOKS_S = 1.0
EVERY_S = 30.0
TIDIED_EVERY_S = 3600.0
LONGEST_PAUSE_S = 30.0
CUTTING_AFTER_S = 8.0
"""What looks after the cutters starts when all else is under way."""
ALIVE = "worker-alive"
"""A file that is touched at each look: whoever asks after the worker looks how old it is."""
log = logging.getLogger("wimple.work")


class Worker:
    """A process that does what is in the queue, started again where it ends: after a second, later after longer."""

    def __init__(self, what: list[str], after: float = 0.0) -> None:
        self.pause, self.what = 1.0, what
        self.process: subprocess.Popen[bytes] | None = None
        self.again: float | None = time.monotonic() + after
        self.look()

    def _start(self) -> None:
        command = [sys.executable, str(settings.ROOT / "server" / "manage.py"), *self.what]
        self.process = subprocess.Popen(command, env=os.environ, stdin=subprocess.DEVNULL)
        self.begun = time.monotonic()
        self.again = None

    def look(self) -> None:
        """Start it again where it has ended and its pause is over."""
        now = time.monotonic()
        if self.process is not None and self.process.poll() is None:
            return
        if self.again is None and self.process is not None:
            log.error("a worker ended (%s) and is started again", self.process.returncode)
            self.pause = 1.0 if now - self.begun > EVERY_S else min(2 * self.pause, LONGEST_PAUSE_S)
            self.again = now + self.pause
        elif self.again is not None and now >= self.again:
            self._start()

    def end(self) -> None:
        if self.process is None:
            return
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: Any) -> None:
        self.stopping = False
        for sign in (signal.SIGTERM, signal.SIGINT):
            signal.signal(sign, self._stop)
        workers = [
            *(Worker(settings.WORKER) for _ in range(settings.WORKERS)),
            Worker(settings.CUTTING_WORKER, CUTTING_AFTER_S),
        ]
        last = tidied = -1e9
        while not self.stopping:
            for worker in workers:
                worker.look()
            now = time.monotonic()
            try:
                if now - last > EVERY_S:
                    last = now
                    if count := take_up_stale():
                        log.warning("%s piece(s) of work taken up again", count)
                if now - tidied > TIDIED_EVERY_S:
                    tidied = now
                    tidy()
            except Exception:
                log.exception("looking after the work")
            finally:
                close_old_connections()
            (settings.DATA / ALIVE).touch()
            time.sleep(LOOKS_S)
        for worker in workers:
            if worker.process is not None:
                worker.process.terminate()
        for worker in workers:
            worker.end()

    def _stop(self, *_: object) -> None:
        self.stopping = True
