"""What is judged of patterns: their pitch, and motifs that take turns and lie over each other."""

from __future__ import annotations

from ..arrays import Array
from ..job.pattern import Pattern
from ..verdict import Verdict, grade, plain
from .lattice import spaced_by
from .patterned import Patterned

CHANGED_PERCENT = 10.0
"""A pitch changed by more than that to meet itself at the seam is worth a look."""


def pattern_verdict(name: str, made: Patterned, pattern: Pattern, closed: bool) -> Verdict:
    """How many there are and how far apart, and by how much that was changed to meet at the seam."""
    p, change = made.places, made.change_percent
    least, most = p.number
    out = f"; {made.left_out} have no room whole and are left out" if made.left_out else ""
    scattered = pattern.lattice == "scatter"
    if scattered:
        said = f"{len(p)} in all, no two nearer than {{pitch}}{out}."
    elif closed:
        so_many = f"{least} to {most}" if least != most else f"{most}"
        changed = "as wanted" if abs(change) < 0.005 else f"{{value}} {'more' if change > 0 else 'less'} than wanted"
        said = f"{so_many} in a row, {{pitch}} from middle to middle ({changed}), {len(p)} in all{out}."
    else:
        said = f"{{pitch}} from middle to middle, {len(p)} in all{out}."
    return Verdict(
        "artwork.pattern",
        "artwork",
        grade(abs(change), CHANGED_PERCENT) if closed and not scattered else "ok",
        abs(change),
        CHANGED_PERCENT,
        "%",
        f"“{plain(name)}”: {said}",
        "Take a distance that goes into its circumference more evenly.",
        {"pitch": (p.pitch, "mm")},
        field=spaced_by(pattern),
    )


def turns_verdict(names: tuple[str, str], places: Array, path: str) -> Verdict:
    """Motifs of two elements that take turns and lie over each other, at places (n, 2) on the template; `path` is that
    of the element that may be made smaller."""
    one, other = (plain(n) for n in names)
    return Verdict(
        "artwork.turns",
        "artwork",
        "look",
        len(places),
        0,
        "count",
        f"“{one}” and “{other}” take turns and lie over each other in"
        f" {len(places)} place{'' if len(places) == 1 else 's'}.",
        "Set them further apart, or make one of them smaller.",
        field=f"{path}.pattern",
        places=tuple((float(x), float(y)) for x, y in places),
        subject=names[0],
    )
