"""Checks that several kinds of blank share: readings taken two ways, sizes, what a vehicle must keep clear."""

from __future__ import annotations

import math

from ...figures import MM_PER_INCH
from ...job.blank import BlankBase
from ...job.dimension import Dimension
from ...job.zones import VEHICLE_ZONES
from ...verdict import Verdict, grade
from ..consequences import Consequence
from ..measured import Readings
from ..outliers import cross_checks, outliers, spoken
from ..readings import dimensions_of, read_dimension
from ..turned import radius_from
from .kind import AnyKind

SIZE_LIMIT_MM = 1.0


def second_ways(
    kind: AnyKind, blank: BlankBase, readings: Readings, dimensions: dict[str, Dimension]
) -> dict[str, float]:
    """What each second way of reading says the first should have read, mm."""
    out: dict[str, float] = {}
    tau = blank.tape_mm
    for path, d in dimensions.items():
        if d.check is None:
            continue
        second = read_dimension(d.check)
        if d.reads == d.check.reads:
            out[path] = second.mean
        elif {d.reads, d.check.reads} == {"circumference", "diameter"}:
            r, _ = radius_from(d.check, second, tau, f"{path}.check")
            own = tau / 2 if d.instrument == "tape" else 0.0
            out[path] = 2 * math.pi * (r + own) if d.reads == "circumference" else 2 * r
        elif {d.reads, d.check.reads} == {"slant", "upright"}:
            step = kind.step_at(blank, readings, path)
            square = second.mean**2 + (step**2 if d.reads == "slant" else -(step**2))
            out[path] = math.sqrt(max(square, 0.0))
        elif {d.reads, d.check.reads} == {"across_flats", "across_corners"}:
            out[path] = second.mean * (2 / math.sqrt(3) if d.reads == "across_corners" else math.sqrt(3) / 2)
    return out


def size_verdict(
    consequences: tuple[Consequence, ...], names: tuple[str, ...], limit: float = SIZE_LIMIT_MM
) -> Verdict:
    """How sure the size is, by its least sure figure."""
    worst = max((c for c in consequences if c.name in names), key=lambda c: c.error)
    field = (
        f"{worst.first}.readings.0"
        if worst.first and not worst.first.startswith("rises")
        else f"{worst.first}.0"
        if worst.first
        else ""
    )
    return Verdict(
        "measure.panel",
        "measure",
        grade(worst.error, limit),
        worst.error,
        limit,
        "mm",
        "The size of the panel is sure to ± {value}.",
        "Measure it again.",
        field=field,
    )


def flat_verdicts(kind: AnyKind, blank: BlankBase, readings: Readings) -> list[Verdict]:
    """Sense checks of everything that is not turned on an axis."""
    dimensions = dict(dimensions_of(blank))
    out = outliers(dimensions.items(), readings) + cross_checks(
        dimensions.items(), readings, second_ways(kind, blank, readings, dimensions)
    )
    sizes = [(p, readings[p].mean) for p in ("width", "height") if p in dimensions]
    if len(sizes) == 2:
        (small_path, small), (_, large) = sorted(sizes, key=lambda q: q[1])
        if small * 12 < large and 0.15 < small * MM_PER_INCH / large < 3:
            d = dimensions[small_path]
            field = f"{small_path}.readings"
            out.append(
                Verdict(
                    "measure.inches",
                    "measure",
                    "look",
                    small,
                    None,
                    "mm",
                    f"{{value}} is little for {spoken(small_path)}: it looks like inches.",
                    "Read it as inches.",
                    field=f"{field}.0",
                    fixes={field: [v * MM_PER_INCH for v in d.readings]},
                )
            )
    return out


_VEHICLE_WORDS = {
    "light": "light",
    "plate": "number plate",
    "sensor": "sensor",
    "label": "warning label",
    "sight": "line of sight",
}


def vehicle_verdicts(blank: BlankBase) -> list[Verdict]:
    marked = [k for k in VEHICLE_ZONES if any(z.kind == k for z in blank.zones)]
    if not blank.vehicle:
        return []
    if marked:
        return [
            Verdict(
                "measure.vehicle",
                "measure",
                "ok",
                len(marked),
                None,
                "count",
                f"Kept clear on the vehicle: {', '.join(sorted(_VEHICLE_WORDS[k] for k in marked))}. Local rules"
                " decide: ask where they are not plain.",
            )
        ]
    return [
        Verdict(
            "measure.vehicle",
            "measure",
            "look",
            0,
            1,
            "count",
            "No light, plate, sensor, warning label or line of sight is marked on this vehicle.",
            "Mark those there are; where none is near, say so in the note. Local rules decide.",
            field="on_vehicle",
        )
    ]
