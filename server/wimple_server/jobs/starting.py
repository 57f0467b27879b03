"""What a new job starts with."""

from __future__ import annotations

from typing import Literal

from wimple_core.job import Job, load_job


def new_document(title: str, kind: Literal["cup", "panel"]) -> Job:
    """A new job: a plain tapered cup or panel to be typed over."""
    blank: dict[str, object]
    if kind == "cup":
        blank = {
            "kind": "cup", "name": "Tapered cup",
            "upper": {"reads": "circumference", "instrument": "tape", "readings": [260.0]},
            "lower": {"reads": "circumference", "instrument": "tape", "readings": [210.0]},
            "side": {"reads": "slant", "instrument": "ruler", "readings": [100.0]},
        }  # fmt: skip
    else:
        blank = {
            "kind": "panel", "name": "Panel",
            "width": {"reads": "width", "instrument": "ruler", "readings": [300.0]},
            "height": {"reads": "height", "instrument": "ruler", "readings": [200.0]},
        }  # fmt: skip
    return load_job({"title": title or "New job", "blank": blank})
