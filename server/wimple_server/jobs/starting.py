"""What a new job starts with: an example blank of each kind, to be typed over."""

from __future__ import annotations

from typing import Any

from wimple_core.job import Job, load_job


def _read(reads: str, instrument: str, *values: float) -> dict[str, Any]:
    return {"reads": reads, "instrument": instrument, "readings": list(values)}


STARTING_BLANKS: dict[str, dict[str, Any]] = {
    "cup": {
        "kind": "cup",
        "name": "Tapered cup",
        "upper": _read("circumference", "tape", 260.0),
        "lower": _read("circumference", "tape", 210.0),
        "side": _read("slant", "ruler", 100.0),
    },
    "mug": {
        "kind": "cup",
        "name": "Mug with handle",
        "upper": _read("diameter", "calliper", 82.0),
        "lower": _read("diameter", "calliper", 82.0),
        "side": _read("upright", "ruler", 95.0),
        "handle": {"width_mm": 42.0, "free_width": _read("width", "tape", 212.0)},
        "wall_mm": 4.0,
    },
    "stack": {
        "kind": "stack",
        "name": "Bottle",
        "base": _read("circumference", "tape", 210.0),
        "sections": [
            {"name": "body", "upper": _read("circumference", "tape", 220.0), "side": _read("slant", "ruler", 120.0)},
            {"name": "shoulder", "upper": _read("diameter", "calliper", 40.0), "side": _read("slant", "ruler", 42.0)},
        ],
    },
    "revolution": {
        "kind": "revolution",
        "name": "Bellied mug",
        "rings": [
            {"height": _read("upright", "ruler", h), "girth": _read("diameter", "calliper", d)}
            for h, d in ((1.0, 64.0), (30.0, 82.0), (60.0, 84.0), (92.0, 74.0))
        ],
    },
    "dome": {
        "kind": "dome",
        "name": "Dome",
        "base": _read("circumference", "tape", 480.0),
        "rise": _read("rise", "ruler", 25.0),
    },
    "panel": {
        "kind": "panel",
        "name": "Panel",
        "width": _read("width", "ruler", 300.0),
        "height": _read("height", "ruler", 200.0),
    },
    "curved_panel": {
        "kind": "curved_panel",
        "name": "Curved panel",
        "width": _read("arc", "tape", 600.0),
        "height": _read("height", "ruler", 300.0),
        "places": [{"chord": _read("chord", "ruler", 400.0), "rise": _read("rise", "ruler", 12.0)}],
    },
    "rise_panel": {
        "kind": "rise_panel",
        "name": "Panel curved both ways",
        "across_mm": [0.0, 300.0, 600.0],
        "up_mm": [0.0, 200.0, 400.0],
        "rises": [[[0.0], [8.0], [0.0]], [[5.0], [13.0], [5.0]], [[0.0], [8.0], [0.0]]],
    },
    "insert": {"kind": "insert", "name": "Lid insert", "inside": _read("diameter", "calliper", 69.85), "tab": {}},
}
"""By the name under which a maker asks for it; a mug is a cup with its handle. A mesh starts from its file."""


def new_document(title: str, kind: str) -> Job:
    """A new job with an example blank of that kind."""
    return load_job({"title": title or "New job", "blank": STARTING_BLANKS[kind]})
