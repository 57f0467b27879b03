"""The stage of the artwork: every element where it sits on the template, and whether it may sit there."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..artwork import ColourRegion, lay_over
from ..cache import Keep, Key, keep_nothing
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
from .letters import counter_verdict, legible_verdict, mirror_verdict, roomier, stroke_verdicts
from .motif import Motif
from .once_round import may_go_round, not_once_round, once_round
from .pattern_verdicts import pattern_verdict, turns_verdict
from .patterned import LIES_OVER_MM2, lay_pattern
from .place import PlacedDrawing, Still, place
from .round import seam_verdicts
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
    printed: frozenset[str] = frozenset()
    """The elements, by their ids, that are printed in all their colours."""
    bound: bool = False
    """Is it cut by slits, or out of a sheet, which stay where they are?"""

    @property
    def prints(self) -> list[tuple[str, BaseGeometry]]:
        """What is printed, where it lies: colours and what is seen of them, the lowest first."""
        return [(c.colour, c.seen) for d in self.drawings if d.element in self.printed for c in d.colours]

    @cached_property
    def still(self) -> Still | None:
        """All of it where it lies still, if it moves as one and rigidly, and is bound to nothing that stays."""
        if (
            self.bound
            or self.knocked
            or self.printed
            or len(self.drawings) != 1
            or (still := self.drawings[0].still) is None
        ):
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


def _motif(d: PlacedDrawing, placement: Placement, drawing: Separated) -> Motif:
    turn = math.radians(placement.turn_deg)
    return Motif(drawing, d.width, turn, d.way, d.a_c, d.s_c, placement.mirrored)


def _repeated(
    d: PlacedDrawing,
    element: Element,
    n: int,
    drawing: Separated,
    turns: Turns,
    template: Template,
    keep: Keep,
    of: Key,
) -> PlacedDrawing:
    """A placed drawing in a pattern."""
    assert element.pattern is not None
    motif = _motif(d, element.placements[n], drawing)
    pattern, among = turns.get(element.pattern.turns_with or element.id, (element.pattern, ()))
    others = tuple(m for _, m, _ in among)
    turn = next((k for k, (name, _, _) in enumerate(among) if name == element.id), 0)
    key = ("pattern", of, pattern, *_told(motif), template, turn, *((o, *_told(m)) for _, m, o in among))
    made = keep(key, lambda: lay_pattern(pattern, motif, template, others, turn))
    return replace(d, colours=made.colours, still=None, parted=(), pattern=made)


def _told(m: Motif) -> Key:
    """What tells a motif from another made of the same."""
    return (m.width, m.turn, m.mirrored, m.way, m.a, m.s)


Turns = Mapping[str, tuple[Pattern, tuple[tuple[str, Motif, Key], ...]]]
"""For each element with a lattice on which several take turns: its pattern, and of each its id, its motif, and what
that was read from."""


def _sized(element: Element, n: int, drawing: Separated, template: Template) -> Placement:
    """A placement of an element, as wide as what has lengths of its own is, and once round only where it may go so."""
    placement = element.placements[n]
    if placement.once_round_mm is not None and not may_go_round(element, placement, template):
        placement = placement.model_copy(update={"once_round_mm": None})
    if drawing.artwork.stands:
        # Its heights are the blank's own; on what is flat all of its mm.
        left, low, right, high = drawing.frame
        still = {"up_mm": (low + high) / 2, "turn_deg": 0.0, "mirrored": False, "way": "level"}
        if not template.surface.closed:
            still["across_mm"] = (left + right) / 2
        placement = placement.model_copy(update=still)
    if not element.source.sizes:
        return placement
    return placement.model_copy(update={"width_mm": drawing.frame[2] - drawing.frame[0]})


def _turns(
    elements: tuple[Element, ...],
    separated: Mapping[str, Separated],
    template: Template,
    keep: Keep,
    of: Mapping[str, Key],
) -> Turns:
    """Who takes turns with whom, the one whose lattice it is first."""
    out: dict[str, tuple[Pattern, tuple[tuple[str, Motif, Key], ...]]] = {}
    for lead in elements:
        follow = [e for e in elements if e.pattern is not None and e.pattern.turns_with == lead.id]
        if lead.pattern is None or not follow:
            continue
        among = []
        for e in (lead, *follow):
            sep, placement = separated[e.id], _sized(e, 0, separated[e.id], template)
            with seen_from(f"elements.{elements.index(e)}"):
                d = place(Placing(e.id, e.name, 0, placement, of.get(e.id, ())), sep, template, keep)
            among.append((e.id, _motif(d, placement, sep), of.get(e.id, ())))
        out[lead.id] = (lead.pattern, tuple(among))
    return out


def _over_each_other(elements: tuple[Element, ...], placed: list[PlacedDrawing]) -> list[Verdict]:
    """What is said of motifs that take turns and lie over each other all the same."""
    seen = {
        d.element: np.concatenate([c.pieces[0] for c in d.colours])
        for d in placed
        if d.pattern is not None and d.colours
    }
    out = []
    for i, e in enumerate(elements):
        leader = e.pattern.turns_with if e.pattern else None
        among = [o for o in elements[:i] if leader in (o.id, o.pattern.turns_with if o.pattern else "")]
        for other in (o for o in among if o.id in seen and e.id in seen):
            mine, theirs = seen[e.id], seen[other.id]
            one, two = shapely.STRtree(mine).query(theirs, predicate="intersects")
            over = shapely.intersection(theirs[one], mine[two])
            over = over[shapely.area(over) > LIES_OVER_MM2]
            if len(over):
                names = (e.source.name, other.source.name)
                out.append(
                    turns_verdict(names, shapely.get_coordinates(shapely.point_on_surface(over)), f"elements.{i}")
                )
    return out


def _placed(
    what: Placing, sizes: Mapping[str, float], drawing: Separated, template: Template, keep: Keep
) -> PlacedDrawing:
    """A drawing where its placement says, once round where it goes so. Fields of errors are the element's own."""
    try:
        how = place if what.placement.once_round_mm is None else once_round
        return how(what, drawing, template, keep)
    except DoesNotFit as bad:
        if sizes and bad.field == f"{what.at}.width_mm":
            # Its placement says nothing of how wide it is.
            raise DoesNotFit(bad.message, field=f"source.{next(iter(sizes))}", hint=bad.hint) from None
        raise


def fit(
    blank: BlankBase,
    elements: tuple[Element, ...],
    separated: Mapping[str, Separated],
    template: Template,
    keep: Keep = keep_nothing,
    of: Mapping[str, Key] = {},
    least_stroke: float = 0.0,
    bases: Mapping[tuple[int, int], Base] = {},
    rooms: Mapping[str, tuple[str, float]] = {},
) -> Fit:
    """Place all elements on the template. `separated` holds what each is made from by the element's id, `of` what that
    was read from; `keep` may know drawings that are laid already. `least_stroke` (mm) is safe in the film, `bases` tell
    from where the document counts places that are not counted from the blank, `rooms` which words have been made
    smaller for want of room, with the field and the mm of its width."""
    turns = _turns(elements, separated, template, keep, of)
    placed: list[PlacedDrawing] = []
    named: list[tuple[ColourRegion, ...]] = []
    verdicts: list[Verdict] = []
    plain: list[tuple[int, Placement, PlacedDrawing]] = []
    for i, element in enumerate(elements):
        sep, sizes = separated[element.id], element.source.sizes
        for n in range(len(element.placements)):
            placement = _sized(element, n, sep, template)
            what = Placing(element.id, element.name, n, placement, of.get(element.id, ()))
            with seen_from(f"elements.{i}"):
                d = _placed(what, sizes, sep, template, keep)
            if element.pattern is not None:
                with seen_from(f"elements.{i}"):
                    d = _repeated(d, element, n, sep, turns, template, keep, of.get(element.id, ()))
            placed.append(d)
            if element.knocks_out:
                hole = union([c.seen for c in d.colours])
                named = [each(colours, lambda g, hole=hole: difference(g, hole)) for colours in named]  # type: ignore[misc]
            elif element.printed is None:
                named.append(called(d.colours, f"{element.id}{f'@{n + 1}' if n else ''}/", ""))
            judged = drawing_verdicts(placement, d, blank, template, may_go_round(element, placement, template))
            if d.pattern is None:
                plain.append((i, placement, d))
            if element.pattern is not None and d.pattern is not None:
                closed = template.surface.closed
                shared = turns.get(element.pattern.turns_with or "", (element.pattern, ()))[0]
                judged = [pattern_verdict(element.name, d.pattern, shared, closed)]
            if element.placements[n].once_round_mm != placement.once_round_mm:
                judged.append(not_once_round(d))
            if sizes:
                judged = [_by_sizes(v, f"placements.{n}.width_mm", d.width, sizes) for v in judged]
            if (i, n) in bases:
                judged = [seen_from_base(v, bases[i, n]) for v in judged]
            verdicts += [v.within(f"elements.{i}", element.name) for v in judged]
        for v in _of_all(element, sep, least_stroke):
            whole = v.within(f"elements.{i}", element.name)
            verdicts.append(roomier(whole, *rooms[element.id]) if element.id in rooms else whole)
    if template.surface.closed:
        round_it = [(d, placement.repeat) for _, placement, d in plain if d.colours]
        for i, placement, d in plain:
            parted = seam_verdicts(placement, d, template, round_it)
            verdicts += [v.within(f"elements.{i}", elements[i].name) for v in parted]
    verdicts += _over_each_other(elements, placed)
    return Fit(
        tuple(placed),
        lay_over(named),
        tuple(verdicts),
        any(e.knocks_out for e in elements),
        frozenset(e.id for e in elements if e.printed),
        len(template.slit_lines) > 0 or blank.cut_out is not None,
    )
