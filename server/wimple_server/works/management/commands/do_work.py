"""Do what is in the queue, as django_tasks_db's own worker does it; what reads files is started at once, so that the
first piece of work waits for nothing."""

from __future__ import annotations

import threading
from typing import Any

from django.conf import settings
from django_tasks_db.management.commands.db_worker import Command as DbWorker

from ....reading import APART
from ... import tasks  # noqa: F401  (loaded before there is any work)


class Command(DbWorker):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        if options["queue_name"] != settings.CUTTING:
            threading.Thread(target=APART.warm, daemon=True).start()
        super().handle(*args, **options)
