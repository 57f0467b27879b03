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
ALIVE = "worker-alive"
"""A file that is touched at each look: whoever asks after the worker looks how old it is."""
log = logging.getLogger("wimple.work")


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: Any) -> None:
        self.stopping = False
        for sign in (signal.SIGTERM, signal.SIGINT):
            signal.signal(sign, self._stop)
        worker, begun, pause = self._worker(), time.monotonic(), 1.0
        last = tidied = -1e9
        while not self.stopping:
            if worker.poll() is not None:
                log.error("the worker ended (%s) and is started again", worker.returncode)
                lived = time.monotonic() - begun
                pause = 1.0 if lived > EVERY_S else min(2 * pause, LONGEST_PAUSE_S)
                time.sleep(min(pause, LONGEST_PAUSE_S))
                worker, begun = self._worker(), time.monotonic()
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
        worker.terminate()
        try:
            worker.wait(10)
        except subprocess.TimeoutExpired:
            worker.kill()

    def _stop(self, *_: object) -> None:
        self.stopping = True

    def _worker(self) -> subprocess.Popen[bytes]:
        manage = str(settings.ROOT / "server" / "manage.py")
        command = [sys.executable, manage, "db_worker", "--interval", "0.3", "--no-startup-delay"]
        return subprocess.Popen(command, env=os.environ, stdin=subprocess.DEVNULL)
