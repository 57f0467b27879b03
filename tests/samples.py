"""Ready documents and drawings for all tests."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from wimple_core.job import load_job
from wimple_core.job.document import Wrap
from wimple_core.job.shipped import FILMS, Film
from wimple_core.measure import Measured
from wimple_core.surface import Laying, Template, unwrap

ROOT = Path(__file__).resolve().parent.parent
EXAMPLES = ROOT / "examples"
MODULES = ROOT / "tests" / "sets" / "node_modules"
"""Sets of drawings nobody here made, for the checks alone."""


def example(name: str) -> dict[str, Any]:
    """A document of examples/, raw."""
    return json.loads((EXAMPLES / f"{name}.wimple.json").read_text(encoding="utf-8"))


def drawing(name: str) -> bytes:
    """A drawing of examples/."""
    return (EXAMPLES / "drawings" / name).read_bytes()


def cup(upper: object = 262.5, lower: object = 205.0, side: object = 96.0, **more: object) -> dict[str, Any]:
    """A raw document of a cup with one reading of each dimension."""
    blank = {
        "kind": "cup",
        "upper": {"reads": "circumference", "readings": [upper]},
        "lower": {"reads": "circumference", "readings": [lower]},
        "side": {"reads": "slant", "readings": [side]},
    }
    return {"blank": {**blank, **more}}


def dimension(reads: str, *readings: object, instrument: str = "tape", **more: object) -> dict[str, Any]:
    """A raw dimension."""
    return {"reads": reads, "instrument": instrument, "readings": list(readings), **more}


def board(width: object, height: object) -> dict[str, Any]:
    """A flat panel, measured by a ruler."""
    sides = {"width": width, "height": height}
    return {"kind": "panel", **{side: dimension(side, mm, instrument="ruler") for side, mm in sides.items()}}


def element(file: str, placement: dict[str, Any] | None = None, **source: object) -> dict[str, Any]:
    """A raw element: a drawing and where it lies."""
    out: dict[str, Any] = {"source": {"kind": "file", "file": file, **source}}
    return out if placement is None else {**out, "placements": [placement]}


def laid(wrap: Wrap, measured: Measured, film: Film = FILMS["calendered-gloss"]) -> Template:
    """What was measured, laid flat in a film."""
    return unwrap(measured, Laying(wrap, film))


def svg(body: str, size: str = 'width="100mm" height="100mm" viewBox="0 0 100 100"') -> bytes:
    """A small drawing, 1 unit = 1 mm unless `size` says otherwise."""
    spaces = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {spaces} {size}>{body}</svg>".encode()


def files_of(raw: dict[str, Any]) -> dict[str, bytes]:
    """The files a job of the examples names."""
    job = load_job(raw)
    places = EXAMPLES / "drawings"
    return {p.name: p.read_bytes() for p in places.iterdir() if p.name in {*job.drawings, *job.pictures}}
