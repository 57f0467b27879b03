"""Whether a placed drawing may lie where it does, and what that costs."""

from __future__ import annotations

from ..artwork import Note
from ..job.blank import BlankBase
from ..job.document import Placement
from ..surface import Template
from ..verdict import Verdict, plain, weight
from .clear import beside, joint_verdicts, keep_out, zone_verdicts
from .place import PlacedDrawing
from .round import gore_verdicts, round_verdicts, way_verdict
from .separated import Separated
from .under import strain_verdicts


def drawing_verdicts(
    placement: Placement, d: PlacedDrawing, blank: BlankBase, template: Template, once: bool
) -> list[Verdict]:
    """All verdicts on one placed drawing; fields are the element's own, with a stroke before those of the whole job.
    `once` tells whether it may go once round, as wide as that makes it."""
    surface = template.surface
    if not d.colours:
        return [beside(d, template)]
    out = [keep_out(placement, d, blank, template)]
    out += strain_verdicts(d, template)
    out += zone_verdicts(d, template)
    out += joint_verdicts(d, template)
    if surface.closed:
        out += round_verdicts(placement, d, template, once)
        out += gore_verdicts(placement, d, template)
        if d.tapered:
            out.append(way_verdict(d))
    elif placement.repeat > 1:
        out.append(
            Verdict(
                "artwork.copies",
                "artwork",
                "look",
                placement.repeat,
                1,
                "count",
                f"“{plain(d.name)}” asks for {{value}} copies round it, but only what goes round has room for them:"
                " one is laid.",
                "Set its copies to one, and add the drawing again where it is wanted.",
                field=f"{d.at}.repeat",
                fix=1,
            )
        )
    return out


def note_verdicts(separated: Separated) -> list[Verdict]:
    """One verdict for each kind of thing the drawing had that was not taken as it stood."""
    by_code: dict[str, list[Note]] = {}
    for note in separated.artwork.notes:
        by_code.setdefault(note.code, []).append(note)
    out = []
    for code, notes in by_code.items():
        more = f" and {len(notes) - 2} more" if len(notes) > 2 else ""
        said = f"{', '.join(n.what for n in notes[:2])}{more}: {notes[0].reason}."
        said = plain(said[0].upper() + said[1:])
        level = max((n.level for n in notes), key=weight)
        out.append(Verdict(code, "artwork", level, len(notes), 0, "count", said, notes[0].remedy, field=notes[0].field))
    return out
