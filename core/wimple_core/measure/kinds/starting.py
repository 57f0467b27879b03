"""Readings of the examples that a kind starts with."""

from __future__ import annotations

from typing import Any


def read(reads: str, instrument: str, *values: float) -> dict[str, Any]:
    """One dimension as the document writes it."""
    return {"reads": reads, "instrument": instrument, "readings": list(values)}
