"""The stage of the artwork: every element where it sits on the template, and whether it may sit there."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from ..artwork import ColourRegion, lay_over
from ..cache import Key
from ..errors import DoesNotFit, seen_from
from ..job.blank import BlankBase
from ..job.document import Element, Placement
from ..job.pattern import Pattern
from ..overlay import difference, union
from ..surface import Template
from ..verdict import Verdict
from .beside import Base, seen_from_base
from .counted import count_verdict
from .laid import Placing, called, each
from .letters import counter_verdict, legible_verdict, mirror_verdict, stroke_verdicts
from .motif import Motif
from .patterned import lay_pattern, pattern_verdict
from .place import Keep, PlacedDrawing, Still, keep_nothing, place
from .separated import Separated
from .verdicts import drawing_verdicts, note_verdicts


@dataclass(frozen=True, eq=False)
class Fit:
    """All elements placed, and the regions of each colour on the template, the lowest colour first."""

    drawings: tuple[PlacedDrawing, ...]
    colours: tuple[ColourRegion, ...]
    verdicts: tuple[Verdict, ...]
    knocked: bool = False
    """Is something cut out of what lies beneath it?"""

    @cached_property
    def still(self) -> Still | None:
        """All of it where it lies still, if it moves as one and rigidly."""
        if self.knocked or len(self.drawings) != 1 or (still := self.drawings[0].still) is None:
            return None
        element = self.drawings[0].element
        return replace(still, colours=called(still.colours, f"{element}/", ""), key=(element, *still.key))


def _by_sizes(v: Verdict, width: str, now: float, sizes: Mapping[str, float]) -> Verdict:
    """A verdict that mends a width, which is `now` mm, as one that mends the lengths of what has its own."""
    name = next(iter(sizes))

    def grown(wide: float) -> dict[str, object]:
        return {f"source.{f}": math.floor(100 * mm * wide / now) / 100 for f, mm in sizes.items()}

    fixes: dict[str, object] = {}
    for field, value in v.fixes.items():
        fixes |= grown(value) if field == width and isinstance(value, (int, float)) else {field: value}
    if v.field != width:
        return replace(v, fixes=fixes)
    if isinstance(v.fix, (int, float)) and len(sizes) > 1:
        return replace(v, field=f"source.{name}", fix=None, fixes={**fixes, **grown(v.fix)})
    fix = grown(v.fix)[f"source.{name}"] if isinstance(v.fix, (int, float)) else v.fix
    return replace(v, field=f"source.{name}", fix=fix, fixes=fixes)  # type: ignore[arg-type]


def _of_all(element: Element, made: Separated, least_stroke: float) -> list[Verdict]:
    """What is judged of an element, wherever it is placed: how it was read, its letters, its pieces."""
    out = note_verdicts(made)
    if element.source.is_letters and made.artwork.capitals is not None:
        size = next(iter(element.source.sizes))
        out.append(legible_verdict(element.name, made.artwork.capitals, f"source.{size}"))
        if not element.edits:
            out += stroke_verdicts(element.name, made, least_stroke, size, element.source.sizes[size])
        mirrored = next((n for n, p in enumerate(element.placements) if p.mirrored), None)
        if mirrored is not None:
            out.append(mirror_verdict(element.name, f"placements.{mirrored}.mirrored"))
        if made.closed:
            out.append(counter_verdict(element.name, made.closed))
    if element.edits:
        out.append(count_verdict(element.name, made.counted))
    return out


def _repeated(
    d: PlacedDrawing,
    pattern: Pattern,
    placement: Placement,
    drawing: Separated,
    template: Template,
    keep: Keep,
    of: Key,
) -> PlacedDrawing:
    """A placed drawing in a pattern."""
    motif = Motif(drawing, d.width, math.radians(placement.turn_deg), d.way, d.a_c, d.s_c, placement.mirrored)
    key = ("pattern", of, pattern, d.width, placement.turn_deg, placement.mirrored, d.way, d.a_c, d.s_c, template)
    made = keep(key, lambda: lay_pattern(pattern, motif, template))
    return replace(d, colours=made.colours, still=None, parted=(), pattern=made)


def fit(
    blank: BlankBase,
    elements: tuple[Element, ...],
    separated: Mapping[str, Separated],
    template: Template,
    keep: Keep = keep_nothing,
    of: Mapping[str, Key] = {},
    least_stroke: float = 0.0,
    bases: Mapping[tuple[int, int], Base] = {},
) -> Fit:
    """Place all elements on the template. `separated` holds what each is made from by the element's id, `of` what that
    was read from; `keep` may know drawings that are laid already. `least_stroke` (mm) is safe in the film, `bases` tell
    from where the document counts places that are not counted from the blank."""
    placed: list[PlacedDrawing] = []
    named: list[tuple[ColourRegion, ...]] = []
    verdicts: list[Verdict] = []
    for i, element in enumerate(elements):
        sep, sizes = separated[element.id], element.source.sizes
        for n, placement in enumerate(element.placements):
            if sizes:
                placement = placement.model_copy(update={"width_mm": sep.frame[2] - sep.frame[0]})
            try:
                d = place(Placing(element.id, element.name, n, placement, of.get(element.id, ())), sep, template, keep)
            except DoesNotFit as bad:
                if sizes and bad.field == f"placements.{n}.width_mm":
                    # Its placement says nothing of how wide it is.
                    bad = DoesNotFit(bad.message, field=f"source.{next(iter(sizes))}", hint=bad.hint)
                raise bad.within(f"elements.{i}") from None
            if element.pattern is not None:
                with seen_from(f"elements.{i}"):
                    d = _repeated(d, element.pattern, placement, sep, template, keep, of.get(element.id, ()))
            placed.append(d)
            if element.knocks_out:
                hole = union([c.seen for c in d.colours])
                named = [each(colours, lambda g, hole=hole: difference(g, hole)) for colours in named]  # type: ignore[misc]
            else:
                named.append(called(d.colours, f"{element.id}{f'@{n + 1}' if n else ''}/", ""))
            judged = drawing_verdicts(placement, d, sep, blank, template)
            if element.pattern is not None and d.pattern is not None:
                closed = template.surface.closed
                judged = [pattern_verdict(element.name, d.pattern, element.pattern, closed)]
            if sizes:
                judged = [_by_sizes(v, f"placements.{n}.width_mm", d.width, sizes) for v in judged]
            if (i, n) in bases:
                judged = [seen_from_base(v, bases[i, n]) for v in judged]
            verdicts += [v.within(f"elements.{i}", element.name) for v in judged]
        verdicts += [v.within(f"elements.{i}", element.name) for v in _of_all(element, sep, least_stroke)]
    return Fit(tuple(placed), lay_over(named), tuple(verdicts), any(e.knocks_out for e in elements))
