"""Gunicorn's settings: warm before it answers, a keeper of its own for each process."""

import threading
from typing import Any

preload_app = True
worker_class = "gthread"
threads = 40
timeout = 120
worker_tmp_dir = "/dev/shm"
loglevel = "warning"


def post_fork(server: Any, worker: Any) -> None:
    """What reads files is started with each process, so that its first file waits for nothing."""
    from django.db import connections
    from wimple_server.reading import APART

    connections.close_all()
    threading.Thread(target=APART.warm, daemon=True).start()
