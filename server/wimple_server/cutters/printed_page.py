"""A printed page on a machine: looked for by its marks, and how it lies."""

from __future__ import annotations

import numpy as np
from wimple_core.cutting.found_marks import Lie, PageNotFound, find
from wimple_core.cutting.sending import CutterFault, eye_on
from wimple_core.errors import BadDocument
from wimple_core.job.shipped import Cutter

from .lines import line_to
from .models import OnCutter
from .strokes import Passes


def lie_of(on: OnCutter) -> Lie | None:
    """How the page lies; None for a load that is none. Raises BadDocument where nobody looked."""
    if on.page is None:
        return None
    lie = on.page["lie"]
    if lie is None:
        raise BadDocument(
            "It is printed, and its marks were not looked for yet.", field="stage", hint="Look for them first."
        )
    return Lie(tuple(lie["shift"]), lie["turn"], lie["scale"], lie["off"])


def look_for(on: OnCutter, cutter: Cutter) -> None:
    """Look for the marks of a page; how it lies is kept on it. Raises PageNotFound where they are not where they
    should be, and CutterFault where the cutter is not there or sees no marks."""
    page = on.page
    assert page is not None
    try:
        with line_to(cutter) as line:
            lie = find(np.array(page["marks"]), eye_on(line, cutter.steps_per_mm))
    except OSError as bad:
        raise CutterFault(
            f"{cutter.name} does not say where the marks are.",
            field="cutter",
            hint="Look at the cable and the power, and whether it finds marks by itself.",
        ) from bad
    out = -min(float(lie.of(p).min()) for one in Passes.from_bytes(bytes(on.strokes)).pivots for p in one)
    if out > 0:
        raise PageNotFound(
            f"The page lies {out:.1f} mm too near the origin: part of it is out of the machine's reach.",
            field="page",
            hint="Lay it further in, and look again.",
        )
    on.page = page | {"lie": {"shift": lie.shift, "turn": lie.turn, "scale": lie.scale, "off": lie.off}}
