"""Sense checks: readings that look like a slip of the hand, which slip it probably is, and what would mend it."""

from __future__ import annotations

import math
from collections.abc import Mapping

from ..figures import MM_PER_INCH
from ..job.dimension import Dimension
from ..job.fields import Model
from ..job.turned import RoundBase
from ..verdict import Verdict
from .outliers import spoken
from .readings import Reading, dimensions_of


def _scaled(d: Dimension, path: str, factor: float) -> tuple[str, list[float]]:
    return f"{path}.readings", [v * factor for v in d.readings]


def inches(blank: Model) -> dict[str, object]:
    """What to set where every reading of the blank is inches typed as millimetres."""
    return dict(_scaled(d, path, MM_PER_INCH) for path, d in dimensions_of(blank))


def _rounds(blank: RoundBase) -> list[tuple[str, Dimension]]:
    return [(p, d) for p, d in dimensions_of(blank) if p.rpartition(".")[2] in ("upper", "lower", "base", "girth")]


def looks_like(
    blank: RoundBase, readings: Mapping[str, Reading], radii: Mapping[str, float], one_side: bool
) -> list[Verdict]:
    """Units and kinds of reading that no drinkware has: inches, and a diameter among circumferences.

    `radii` holds the radius each way round gives, mm; `one_side` tells that there is one distance along the side.
    """
    out: list[Verdict] = []
    rounds = _rounds(blank)
    sides = [
        (p, d) for p, d in dimensions_of(blank) if p.rpartition(".")[2] in ("side", "height") and readings[p].mean > 0
    ]
    largest = max(radii.values())
    if largest < 8 and largest * MM_PER_INCH < 200 and all(readings[p].mean < 30 for p, _ in sides):
        around = {"value": (2 * largest, "mm")}
        out.append(
            Verdict(
                "measure.inches",
                "measure",
                "stop",
                2 * largest,
                16.0,
                "mm",
                "{value} across is smaller than any cup: these look like inches typed as millimetres.",
                "Read all of them as inches.",
                around,
                field=f"{rounds[0][0]}.readings.0",
                fixes=inches(blank),
            )
        )
        return out
    for path, d in sides:
        mean = readings[path].mean
        if one_side and mean < 0.25 * largest and 0.4 * largest < mean * MM_PER_INCH < 12 * largest and mean < 14:
            field, fixed = _scaled(d, path, MM_PER_INCH)
            out.append(
                Verdict(
                    "measure.inches",
                    "measure",
                    "stop",
                    mean,
                    None,
                    "mm",
                    f"{{value}} is short for {spoken(path)} of a cup {{wide}} across: it looks like inches.",
                    "Read it as inches.",
                    {"wide": (2 * largest, "mm")},
                    field=f"{field}.0",
                    fixes={field: fixed},
                )
            )
    if len(rounds) >= 2:
        order = sorted(radii[p] for p, _ in rounds)
        usual = order[len(order) // 2] if len(order) > 2 else order[-1]
        for path, d in rounds:
            r = radii[path]
            slip = None
            if d.reads == "circumference" and r < usual / 2.2 and 0.6 < r * math.pi / usual < 1.6:
                slip = ("diameter", "a diameter typed as a circumference", "Read it as across.")
            elif (d.reads == "diameter" and len(order) > 2 and r > usual * 2.2 and 0.6 < r / math.pi / usual < 1.6) or (
                d.reads == "diameter"
                and len(order) == 2
                and order[0] < order[1] / 2.2
                and r == order[1]
                and 0.6 < r / math.pi / order[0] < 1.6
            ):
                slip = ("circumference", "a circumference typed as a diameter", "Read it as round.")
            elif r < usual / 12 and 0.5 < r * MM_PER_INCH / usual < 1.8:
                field, fixed = _scaled(d, path, MM_PER_INCH)
                out.append(
                    Verdict(
                        "measure.inches",
                        "measure",
                        "stop",
                        readings[path].mean,
                        None,
                        "mm",
                        f"{{value}} is little for {spoken(path)}: it looks like inches.",
                        "Read it as inches.",
                        field=f"{field}.0",
                        fixes={field: fixed},
                    )
                )
                continue
            if slip:
                out.append(
                    Verdict(
                        "measure.kind_of_reading",
                        "measure",
                        "stop",
                        readings[path].mean,
                        None,
                        "mm",
                        f"{{value}} for {spoken(path)} does not go with the rest: it looks like {slip[1]}.",
                        slip[2],
                        field=f"{path}.readings.0",
                        fixes={f"{path}.reads": slip[0]},
                    )
                )
    return out


def capacity_remedies(blank: RoundBase) -> dict[float, dict[str, object]]:
    """What to set for each slip the capacity may betray, by the factor it makes in volume."""
    rounds = _rounds(blank)
    return {
        math.pi**2: {f"{p}.reads": "diameter" for p, d in rounds if d.reads == "circumference"},
        1 / math.pi**2: {f"{p}.reads": "circumference" for p, d in rounds if d.reads == "diameter"},
        4.0: dict(_scaled(d, p, 2.0) for p, d in rounds if d.reads == "diameter"),
        0.25: dict(_scaled(d, p, 0.5) for p, d in rounds if d.reads == "diameter"),
        MM_PER_INCH**3: inches(blank),
        MM_PER_INCH**-3: dict(_scaled(d, p, 1 / MM_PER_INCH) for p, d in dimensions_of(blank)),
    }
