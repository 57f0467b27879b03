"""What is said of the film that loads are cut from: that it is there, or what of it is missing."""

from __future__ import annotations

from ..verdict import Figure, Verdict, plain
from .supply import Allotted, Missing


def _missing(one: Missing) -> Verdict:
    figures: dict[str, Figure] = {"width": (one.width, "mm"), "widest": (one.widest, "mm")}
    name = plain(one.name)
    if one.too_large is not None:
        figures |= {"w": (one.too_large[0], "mm"), "h": (one.too_large[1], "mm")}
        turned = ", and work must not be turned on it" if one.film.directional else ""
        there = "the widest there is has {width}" if one.widest else "there is none of it now"
        said = f"{name}: no film of it holds {{w}} by {{h}}: {there}{turned}."
        remedy = "Make it smaller, split it into panels, or buy wider film."
        return Verdict("sheets.stock", "sheets", "stop", max(one.too_large), one.width, "mm", said, remedy, figures)
    if one.widest == 0:
        said = f"{name} is sold out: {{value}} of a roll {{width}} wide are wanted."
    else:
        said = f"{name}: {{value}} of a roll {{width}} wide are missing."
    remedy = "Buy so much of it, make fewer, or take another film."
    return Verdict("sheets.stock", "sheets", "stop", one.length, 0.0, "mm", said, remedy, figures)


def stock_verdicts(allotted: Allotted) -> list[Verdict]:
    """That the film which is counted is there, or what of each film is missing."""
    if allotted.missing:
        return [_missing(one) for one in allotted.missing]
    if not allotted.taken:
        return []
    remnants = sum(one.taken.form == "remnant" for one in allotted.taken)
    pieces = len(allotted.taken)
    said = f"The film that is counted is there: {remnants or 'none'} of its {pieces} pieces out of remnants."
    if pieces == 1:
        whence = "a remnant" if remnants else f"a {allotted.taken[0].taken.form}"
        said = f"The film that is counted is there: its one piece comes from {whence}."
    return [Verdict("sheets.stock", "sheets", "ok", remnants, None, "count", said)]
