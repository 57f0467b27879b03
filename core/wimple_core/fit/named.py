"""A list of names: for each of its lines the elements as they are there, their words made to fit their room."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..artwork.lettering import Faces, InRoom, in_room
from ..errors import BadDocument, WimpleError
from ..job.document import Element
from ..job.lettering import Lettering
from ..job.loading import load_source
from ..job.names import Column, Names
from ..verdict import Verdict, plain
from .beside import Base, stand
from .place import Keep, keep_nothing

WORDS = ("text", "upper", "lower", "face", "caution")
"""Fields of words: an empty cell empties them, or is at fault; elsewhere it leaves what there is."""
MOST_LISTED = 6


@dataclass(frozen=True, eq=False)
class NamedRow:
    """One line: the job's elements as they are there, how its words fit by their columns, or what is wrong with it."""

    elements: tuple[Element, ...]
    cells: tuple[str, ...]
    fits: tuple[InRoom | None, ...] = ()
    trouble: WimpleError | None = None
    bases: Mapping[tuple[int, int], Base] = field(default_factory=dict)
    """From where placements (element, placement) are counted in the document, where that is not the blank: here all
    are."""

    @property
    def name(self) -> str:
        """What stands in its first cell that has anything."""
        return next((c for c in self.cells if c.strip()), "")

    @property
    def short(self) -> bool:
        """Do its words not fit even at their least size?"""
        return any(f is not None and f.short for f in self.fits)


@dataclass(frozen=True, eq=False)
class Named:
    """All lines; a job without a list has one, its elements as they are."""

    rows: tuple[NamedRow, ...]
    shown: int
    verdicts: tuple[Verdict, ...] = ()

    @property
    def row(self) -> NamedRow:
        """The line that lies on the blank."""
        return self.rows[self.shown]


def name_rows(elements: tuple[Element, ...], names: Names | None, faces: Faces, keep: Keep = keep_nothing) -> Named:
    """The lines of a list. A line that cannot be made has its trouble; the others go on."""
    if names is None:
        standing, bases = stand(elements)
        return Named((NamedRow(standing, (), bases=bases),), 0)
    rows = tuple(_row(elements, names, n, faces, keep) for n in range(len(names.rows)))
    return Named(rows, names.shown, tuple(_verdicts(names, rows)))


def _row(elements: tuple[Element, ...], names: Names, n: int, faces: Faces, keep: Keep) -> NamedRow:
    cells = names.rows[n]
    fits: list[InRoom | None] = []
    out = {e.id: e for e in elements}
    try:
        for column, cell in zip(names.columns, cells, strict=True):
            element, fit = _varied(out[column.element], column, cell, faces, keep)
            out[column.element] = element
            fits.append(fit)
    except WimpleError as bad:
        trouble = BadDocument(
            f"Line {n + 1} of the list: {bad.message}", field=f"names.rows.{n}.{len(fits)}", hint=bad.hint
        )
        return NamedRow(elements, cells, trouble=trouble)
    standing, bases = stand(tuple(out[e.id] for e in elements))
    return NamedRow(standing, cells, tuple(fits), bases=bases)


def _varied(element: Element, column: Column, cell: str, faces: Faces, keep: Keep) -> tuple[Element, InRoom | None]:
    """An element with one field of its source as a cell says, its words made to fit where they have a size."""
    words = column.field in WORDS
    if not cell.strip() and not words:
        return element, None
    source: Any = keep(("varied", element.source, column.field, cell), lambda: _put(element.source, column.field, cell))
    fit = None
    if words and isinstance(source, Lettering):
        face = faces(source.font)
        fit = keep(("in room", source, column.room, id(face)), lambda: in_room(source, face, column.room))
        source = fit.words
    return element.model_copy(update={"source": source}), fit


def _put(source: Any, path: str, cell: str) -> Any:
    raw = source.model_dump(mode="json")
    *into, last = path.split(".")
    at: Any = raw
    for part in into:
        at = at.get(part) if isinstance(at, dict) else None
    if not isinstance(at, dict) or last not in at or last in ("kind", "form"):
        raise BadDocument(
            f"“{path}” is nothing that a {raw['kind'].replace('_', ' ')} has.", hint="Let something else vary."
        )
    at[last] = cell
    return load_source(raw)


def _quoted(rows: Sequence[NamedRow]) -> str:
    more = f" and {len(rows) - MOST_LISTED} more" if len(rows) > MOST_LISTED else ""
    return ", ".join(f"“{plain(r.name)}”" for r in rows[:MOST_LISTED]) + more


def _verdicts(names: Names, rows: tuple[NamedRow, ...]) -> list[Verdict]:
    """How the list fits: who is too long, what cannot be made, who stands in it twice."""
    out: list[Verdict] = []
    bad = [r for r in rows if r.trouble is not None]
    if bad:
        assert bad[0].trouble is not None
        said = f"{len(bad)} of {len(rows)} lines of the list cannot be made: {_quoted(bad)}."
        out.append(
            Verdict(
                "names.trouble",
                "artwork",
                "stop",
                len(bad),
                0,
                "count",
                said,
                plain(f"{bad[0].trouble.message} {bad[0].trouble.hint}".strip()),
                field=bad[0].trouble.field,
            )
        )
    short = [r for r in rows if r.short]
    fits = [(f, r, m) for r in rows for m, f in enumerate(r.fits) if f is not None]
    if short:
        most, _, m = max((x for x in fits if x[0].short), key=lambda x: x[0].over)
        out.append(
            Verdict(
                "names.short",
                "artwork",
                "stop",
                most.over,
                0.0,
                "mm",
                f"{len(short)} of {len(rows)} names do not fit their room even with capitals of {{least}}:"
                f" {_quoted(short)}; they miss by up to {{value}}.",
                "Give them more room, more lines, or a smaller least height.",
                {"least": (names.columns[m].room.least_mm, "mm")},
                field=f"names.columns.{m}.room.wide_mm",
            )
        )
    elif fits:
        small, row, m = min(fits, key=lambda x: x[0].capitals)
        out.append(
            Verdict(
                "names.short",
                "artwork",
                "ok",
                small.capitals,
                names.columns[m].room.least_mm,
                "mm",
                f"All {len(rows)} names fit their room; the smallest capitals, of “{plain(row.name)}”, are {{value}}.",
                field=f"names.columns.{m}.room.wide_mm",
            )
        )
    count = Counter(r.cells for r in rows)
    twice = [r for n, r in enumerate(rows) if count[r.cells] > 1 and r.cells not in [x.cells for x in rows[:n]]]
    if twice:
        out.append(
            Verdict(
                "names.twice",
                "artwork",
                "look",
                len(twice),
                0,
                "count",
                f"{_quoted(twice)} {'stands' if len(twice) == 1 else 'stand'} in the list more than once.",
                "Each is cut as often as it stands there: take out what is not meant.",
                field="names.rows",
            )
        )
    return out
