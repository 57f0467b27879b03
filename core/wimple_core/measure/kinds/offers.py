"""Parts of the document that are offered to whoever measures: zones to start from, another way of reading, rings off a
photograph. Each is a raw part, to be put where its name says."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ...job.blank import BlankBase
from ...job.dimension import Dimension
from ..measured import Measured, PhotoFound, Readings
from ..readings import Reading, dimensions_of
from .kind import AnyKind
from .starting import read

ROUND_ZONES = {
    "seam": "moulded seam",
    "lip": "lip",
    "base": "base",
    "handle": "handle",
    "label": "warning label",
    "other": "other",
}
FLAT_ZONES = {
    "light": "light",
    "plate": "number plate",
    "sensor": "sensor or camera",
    "label": "warning label",
    "sight": "line of sight",
    "seam": "seam",
    "other": "other",
}
SEAM_STRIP_MM = 6.0
"""How wide a moulded seam is kept clear at first (common practice, no source)."""
LEAST_ZONE_MM, LARGEST_ZONE_MM = 5.0, 40.0
INSTRUMENT_FOR = {"circumference": "tape", "diameter": "calliper"}


def _tenth(mm: float) -> float:
    return round(mm, 1)


def zone_offers(m: Measured) -> dict[str, Any]:
    """A band, a strip and an outline in the middle of what is free, a fifth of it high."""
    free, round_ = m.free, m.body.closed
    middle = free.low + (free.high - free.low) / 2
    size = max(LEAST_ZONE_MM, min((free.high - free.low) / 5, LARGEST_ZONE_MM))
    x, low, high = _tenth(size), _tenth(middle - size / 2), _tenth(middle + size / 2)
    return {
        "zones.band": {"form": "band", "kind": "other", "low_mm": _tenth(middle), "high_mm": _tenth(middle + size / 2)},
        "zones.sector": {
            "form": "sector",
            "kind": "seam" if round_ else "other",
            "width_mm": SEAM_STRIP_MM if round_ else x,
            "centre_deg": 180.0,
            "centre_mm": 0.0,
        },
        "zones.polygon": {
            "form": "polygon",
            "kind": "other" if round_ else "label",
            "points": [[-x, low], [x, low], [x, high], [-x, high]],
        },
    }


def other_ways(
    kind: AnyKind, blank: BlankBase, path: str, d: Dimension, r: Reading, readings: Readings
) -> dict[str, float]:
    """What a dimension would read, taken another way, mm, by what is read."""
    tau = blank.tape_mm / 2
    own = tau if d.instrument == "tape" else 0.0
    if d.reads == "circumference":
        return {"diameter": 2 * (r.mean / (2 * math.pi) - own)}
    if d.reads == "diameter":
        return {"circumference": 2 * math.pi * (r.mean / 2 + tau)}
    if d.reads in ("slant", "upright"):
        step = kind.step_at(blank, readings, path)
        square = r.mean**2 - step**2 if d.reads == "slant" else r.mean**2 + step**2
        return {"upright" if d.reads == "slant" else "slant": math.sqrt(max(square, 0.0))}
    if d.reads == "across_flats":
        return {"across_corners": r.mean * 2 / math.sqrt(3)}
    if d.reads == "across_corners":
        return {"across_flats": r.mean * math.sqrt(3) / 2}
    return {}


def check_offers(kind: AnyKind, m: Measured) -> dict[str, Any]:
    """Every dimension that can be read another way, as it should then read."""
    out = {}
    for path, d in dimensions_of(m.blank):
        for reads, mean in other_ways(kind, m.blank, path, d, m.readings[path], m.readings).items():
            out[f"{path}.check"] = read(reads, INSTRUMENT_FOR.get(reads, "calliper"), _tenth(mean))
    return out


def rings_off(photo: PhotoFound, count: int) -> list[dict[str, Any]]:
    """So many rings at even heights off the side line of a photograph."""
    z, r = photo.profile.z, photo.profile.r
    at = np.round(np.linspace(0, len(z) - 1, count)).astype(int)
    return [
        {
            "height": read("upright", "photo", max(round(float(z[i]), 2), 0.1)),
            "girth": read("diameter", "photo", round(2 * float(r[i]), 2)),
        }
        for i in at
    ]


def offers_for(kind: AnyKind, m: Measured) -> dict[str, Any]:
    """All that is offered on a measured blank, by the place in the blank it goes to."""
    return {**zone_offers(m), **check_offers(kind, m), **kind.offers(m.blank, m)}
