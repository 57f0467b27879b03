"""Where files from outside are read: apart, a few at once for the whole program."""

from __future__ import annotations

import os

from django.conf import settings
from wimple_core.apart import Apart
from wimple_core.keeper import Limits

settings.DATA.mkdir(parents=True, exist_ok=True)
APART = Apart(
    Limits(settings.READ_COMPUTING_S, settings.READ_MEMORY_BYTES, settings.READ_CLOCK_S),
    [settings.DATA / f"reading-{n}.lock" for n in range(max(1, (os.cpu_count() or 2)))],
)
read_apart = APART.run
