"""The disk that everything is kept on."""

from __future__ import annotations

import shutil

from django.conf import settings
from django.db import OperationalError

DISK_FULL = "The server's disk is full: nothing was lost, what you typed stays here."


def no_room(bad: OperationalError) -> bool:
    """Does a fault of the database tell that its disk is full?"""
    said = str(bad).lower()
    return "disk is full" in said or "disk i/o error" in said or "no space" in said


def free_bytes() -> int:
    """How much room is left where the database is."""
    return shutil.disk_usage(settings.DATA).free


def warning() -> str:
    """What stands where little room is left; nothing else."""
    free = free_bytes()
    if free >= settings.LEAST_DISK_BYTES:
        return ""
    return f"The server's disk has {free / 1e6:.0f} MB left. Have room made before nothing can be saved any more."
