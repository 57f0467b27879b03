"""A password asked for at the terminal."""

from __future__ import annotations

import getpass
import os


def asked_password() -> str:
    """From `WIMPLE_PASSWORD`, for scripts, or typed unseen."""
    return os.environ.get("WIMPLE_PASSWORD") or getpass.getpass("Password: ")
