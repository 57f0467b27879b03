"""Gunicorn's settings: warm before it answers, a keeper of its own for each process."""

import gc
import threading
from typing import Any

preload_app = True
worker_class = "gthread"
threads = 40
timeout = 120
worker_tmp_dir = "/dev/shm"
loglevel = "warning"


def collect_seldom() -> None:
    """What is loaded stays: it is not looked through for garbage again and again, nor is a drawing of thousands of
    pieces each time some hundred more lists are made of it."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 100)


def post_fork(server: Any, worker: Any) -> None:
    """What reads files is started with each process, so that its first file waits for nothing."""
    from django.db import connections
    from wimple_server.reading import APART

    connections.close_all()
    collect_seldom()
    threading.Thread(target=APART.warm, daemon=True).start()
