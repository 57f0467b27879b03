"""Files that are sent: read if they are not too large."""

from __future__ import annotations

from ninja.files import UploadedFile
from wimple_core.errors import WimpleError


def read_sent(file: UploadedFile, most: int, error: type[WimpleError], advice: str = "") -> bytes:
    """What was sent. Raises `error` where it has more than `most` bytes."""
    size = file.size or 0
    if size > most:
        raise error(f"The file has {size / 1e6:.0f} MB.", hint=f"At most {most // 1_000_000} MB are taken{advice}.")
    return bytes(file.read())
