"""Plotter files in HP-GL: 40 units to the millimetre (one unit is 0.025 mm)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..job.cut_log import Setting
from ..job.shipped import Cutter
from .frame import on_machine
from .plan import CutPath

UNITS_PER_MM = 40


def in_units(path: Array, steps_per_mm: float = UNITS_PER_MM) -> NDArray[np.int64]:
    """A stroke (n, 2) mm in the plotter's units, without places twice in a row."""
    units = np.rint(path * steps_per_mm).astype(np.int64)
    keep = np.ones(len(units), dtype=bool)
    keep[1:] = (np.diff(units, axis=0) != 0).any(axis=1)
    return units[keep]


def plotter_file(
    paths: Sequence[CutPath], among: Sequence[CutPath] = (), cutter: Cutter | None = None, length: float = 0.0
) -> str:
    """HP-GL that cuts those strokes in their order. Lengths mm, y up. `among` are all that are cut on one origin, where
    those are but one pass of several.

    Everything must lie at or right and above the origin: plotters take no negative places, so the work is moved
    there where it does not. For a `cutter` they are counted as it counts, on a load so `length` mm long.
    """

    def there(points: Array) -> Array:
        return points if cutter is None else on_machine(points, cutter, length)

    steps = UNITS_PER_MM if cutter is None else cutter.steps_per_mm
    every = [there(p.points) for p in paths if len(p.points)]
    whole = [there(p.points).min(axis=0) for p in (*paths, *among) if len(p.points)]
    least = np.array(whole).min(axis=0) if whole else np.zeros(2)
    shift = np.minimum(least, 0.0)
    out = ["IN;PA;SP1;"]
    for points in every:
        path = in_units(points - shift, steps)
        if len(path) < 2:
            continue
        rest = ",".join(map(str, path[1:].ravel().tolist()))
        out.append(f"PU{path[0, 0]},{path[0, 1]};PD{rest};")
    out.append("PU0,0;SP0;")
    return "\n".join(out) + "\n"


def setting_commands(setting: Setting) -> str:
    """What tells a machine its setting: speed in cm/s, force in gf; nothing of a scale of its own."""
    said = f"VS{setting.speed_mm_s / 10:g};" if setting.speed_mm_s else ""
    return said + (f"FS{setting.force_gf:g};" if setting.force_gf is not None else "")
