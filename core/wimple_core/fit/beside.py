"""Where elements stand that are placed from others: their places counted from the blank."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from ..job.document import Element, Placement
from ..verdict import Verdict

MEASURED = ("centre_deg", "across_mm", "up_mm")
"""The fields of a placement that are counted from another."""
Base = Mapping[str, float]
NOWHERE: Base = dict.fromkeys(MEASURED, 0.0)


def stand(elements: tuple[Element, ...]) -> tuple[tuple[Element, ...], dict[tuple[int, int], Base]]:
    """The elements with all their places counted from the blank; and for each placement (element, placement) that is
    counted from another, from where. A document has no circles of them."""
    by_id = {e.id: e for e in elements}
    found: dict[str, Base] = {}

    def base_of(p: Placement) -> Base:
        return at(p.beside) if p.beside else NOWHERE

    def at(element: str) -> Base:
        """Where the first placement of an element is."""
        if element not in found:
            p = by_id[element].placements[0]
            base = base_of(p)
            found[element] = {f: base[f] + getattr(p, f) for f in MEASURED}
        return found[element]

    bases: dict[tuple[int, int], Base] = {}
    out = []
    for i, e in enumerate(elements):
        placements = []
        for n, p in enumerate(e.placements):
            if p.beside:
                base = bases[i, n] = base_of(p)
                p = p.model_copy(update={f: base[f] + getattr(p, f) for f in MEASURED})
            placements.append(p)
        out.append(e.model_copy(update={"placements": tuple(placements)}) if any(k[0] == i for k in bases) else e)
    return tuple(out), bases


def from_base(sets: Mapping[str, float], base: Base) -> dict[str, float]:
    """Fields of a placement counted from the blank, as one sets them that counts from a base."""
    return {f: round(v - base[f], 2) if f in base else v for f, v in sets.items()}


def seen_from_base(v: Verdict, base: Base) -> Verdict:
    """A verdict whose remedies set places, as one sets them that counts from a base."""

    def counted(path: str, value: object) -> object:
        field = path.rpartition(".")[2]
        return round(value - base[field], 2) if field in base and isinstance(value, (int, float)) else value

    fix = counted(v.field, v.fix) if v.fix is not None else None
    return replace(v, fix=fix, fixes={p: counted(p, value) for p, value in v.fixes.items()})  # type: ignore[arg-type]
