"""Readings held against one another: one that stands apart, one taken another way, a body out of round."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from ..figures import MM_PER_INCH
from ..job.dimension import Dimension
from ..verdict import Verdict, grade
from .readings import Reading, read_dimension

_FACTORS = (
    (MM_PER_INCH, "in inches"),
    (1 / MM_PER_INCH, "in millimetres among inches"),
    (10.0, "a decimal point too far left"),
    (0.1, "a decimal point too far right"),
    (math.pi, "a diameter among circumferences"),
    (1 / math.pi, "a circumference among diameters"),
    (2.0, "a radius among diameters"),
    (0.5, "doubled"),
)


def spoken(path: str) -> str:
    """A reading's name in a maker's words."""
    words = {
        "upper": "the top",
        "lower": "the bottom",
        "side": "the side",
        "base": "the foot",
        "inside": "the inside",
        "girth": "the way round",
        "free_width": "the free width",
        "free_height": "the free height",
    }
    parts = path.split(".")
    if parts[0] == "sections" and len(parts) == 3:
        return f"{words.get(parts[2], parts[2])} of section {int(parts[1]) + 1}"
    if parts[0] == "rings" and len(parts) == 3:
        return f"{words.get(parts[2], 'the ' + parts[2])} of ring {int(parts[1]) + 1}"
    if parts[0] == "places" and len(parts) == 3:
        return f"the {parts[2]} at place {int(parts[1]) + 1}"
    if parts[0] == "rises" and len(parts) == 3:
        return f"the rise in row {int(parts[1]) + 1}, column {int(parts[2]) + 1}"
    if parts[0] == "trials":
        return f"the trial's gap at the {parts[-1].removesuffix('_mm')}"
    return words.get(parts[-1], f"the {parts[-1].replace('_', ' ')}")


def outliers(dimensions: Iterable[tuple[str, Dimension]], readings: Mapping[str, Reading]) -> list[Verdict]:
    """The reading that stands apart in each dimension, with the slip that would explain it."""
    out = []
    for path, d in dimensions:
        at = readings[path].outlier
        if at is None:
            continue
        others = [v for i, v in enumerate(d.readings) if i != at]
        mean, value = sum(others) / len(others), d.readings[at]
        near = max(3 * (max(others) - min(others)), 0.01 * abs(mean))
        field = f"{path}.readings"
        slip = next(((f, words) for f, words in _FACTORS if abs(value * f - mean) <= near), None)
        names = {"mean": (mean, "mm"), "typed": (value, "mm")}
        if slip:
            out.append(
                Verdict(
                    "measure.outlier",
                    "measure",
                    "stop",
                    abs(value - mean),
                    near,
                    "mm",
                    f"Reading {at + 1} of {spoken(path)}, {{typed}}, stands {{value}} from the others: it looks"
                    f" {'like ' if slip[1][0] == 'a' or slip[1] == 'doubled' else ''}{slip[1]}.",
                    "Set it right, or take it out.",
                    names,
                    field=f"{field}.{at}",
                    fix=value * slip[0],
                )
            )
        else:
            out.append(
                Verdict(
                    "measure.outlier",
                    "measure",
                    "look",
                    abs(value - mean),
                    near,
                    "mm",
                    f"Reading {at + 1} of {spoken(path)}, {{typed}}, stands {{value}} from the mean of the others,"
                    " {mean}.",
                    "Take it out, or measure once more.",
                    names,
                    field=field,
                    fixes={field: others},
                )
            )
    return out


def cross_checks(
    dimensions: Iterable[tuple[str, Dimension]], readings: Mapping[str, Reading], as_first: Mapping[str, float]
) -> list[Verdict]:
    """A dimension and the same one taken another way, held against each other.

    `as_first` gives for each path what the second way says the first should have read, mm.
    """
    out = []
    for path, d in dimensions:
        if d.check is None or path not in as_first:
            continue
        first, second = readings[path], read_dimension(d.check)
        expected = as_first[path]
        scale = expected / second.mean if second.mean else 1.0
        spread = 2 * math.hypot(first.error, second.error * scale)
        apart = abs(first.mean - expected)
        level = grade(apart, spread, 3 * spread)
        names = {"first": (first.mean, "mm"), "second": (expected, "mm")}
        field = f"{path}.readings.0"
        if level == "ok":
            out.append(
                Verdict(
                    "measure.cross_check",
                    "measure",
                    "ok",
                    apart,
                    spread,
                    "mm",
                    f"{spoken(path).capitalize()}: both ways agree to {{value}}, and may differ by {{limit}}.",
                )
            )
            continue
        fixes: dict[str, object] = {}
        remedy = "Take both again."
        swap = {"circumference": "diameter", "diameter": "circumference", "slant": "upright", "upright": "slant"}
        exchanged = {f"{path}.reads": d.check.reads, f"{path}.check.reads": d.reads}
        turns = {"circumference": math.pi, "diameter": 1 / math.pi}
        if (
            d.reads in turns
            and swap[d.reads] == d.check.reads
            and abs(first.mean * turns[d.reads] - second.mean) < 0.02 * second.mean
        ):
            remedy, fixes = "They look exchanged: round typed as across, and across as round.", dict(exchanged)
        elif swap.get(d.reads) == d.check.reads and (d.reads == "slant") == (first.mean < second.mean):
            remedy = "The slant is never shorter than the upright height: they look exchanged."
            fixes = dict(exchanged)
        out.append(
            Verdict(
                "measure.cross_check",
                "measure",
                level,
                apart,
                spread,
                "mm",
                f"{spoken(path).capitalize()}: one way it is {{first}}, the other way {{second}}, {{value}} apart where"
                " {limit} would be chance.",
                remedy,
                names,
                field=field,
                fixes=fixes,
            )
        )
    return out


def out_of_round(dimensions: Iterable[tuple[str, Dimension]]) -> list[Verdict]:
    """Diameters of one place that differ by more than a calliper does: the blank is not round there."""
    out = []
    for path, d in dimensions:
        if d.reads != "diameter" or len(d.readings) < 2 or d.instrument == "photo":
            continue
        apart = max(d.readings) - min(d.readings)
        limit = {"calliper": 0.3, "gauge": 0.3}.get(d.instrument, 1.5)
        if limit < apart < 0.15 * max(d.readings):
            names = {"gap": (math.pi * apart / 2, "mm")}
            out.append(
                Verdict(
                    "measure.out_of_round",
                    "measure",
                    "look",
                    apart,
                    limit,
                    "mm",
                    f"{spoken(path).capitalize()}: the diameters differ by {{value}} (limit {{limit}}), so the blank is"
                    " out of round there, or was read aslant.",
                    "Tape it round instead: a tape takes the whole way.",
                    names,
                    field=f"{path}.reads",
                )
            )
    return out
