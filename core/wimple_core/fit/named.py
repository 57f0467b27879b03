"""A list of names: for each of its lines the elements as they are there, their words made to fit their room."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..artwork.lettering import Faces, InRoom, in_room
from ..cache import Keep, Key, keep_nothing
from ..errors import BadDocument, WimpleError
from ..job.document import Element, Source
from ..job.lettering import Lettering
from ..job.loading import load_source
from ..job.names import Column, Names, Room
from ..verdict import Verdict, plain
from .beside import Base, stand

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

    rooms: Mapping[str, tuple[str, float]] = field(default_factory=dict)
    """The elements whose words were made smaller for want of room: the field of the side of it that keeps them small,
    and its mm."""

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


def name_rows(
    elements: tuple[Element, ...], names: Names | None, faces: Faces, keep: Keep = keep_nothing, fonts: Key = ()
) -> Named:
    """The lines of a list. A line that cannot be made has its trouble; the others go on. `fonts` tells the workshop's
    own fonts from others of the same name."""
    if names is None:
        standing, bases = stand(elements)
        return Named((NamedRow(standing, (), bases=bases),), 0)
    sources = {e.id: e.source for e in elements}
    # However the elements are moved about, what they are made from is worked out once.
    key = ("named", tuple(sources.items()), names.columns, names.rows, fonts)
    made = keep(key, lambda: tuple(_made(sources, names, n, faces) for n in range(len(names.rows))))
    rows = tuple(_row(elements, names, n, row) for n, row in enumerate(made))
    return Named(rows, names.shown, tuple(_verdicts(names, rows)))


@dataclass(frozen=True)
class _Made:
    """What a line is made from: its sources by their elements, how its words fit, or what is wrong with it."""

    sources: Mapping[str, Source]
    fits: tuple[InRoom | None, ...]
    trouble: WimpleError | None = None


def _row(elements: tuple[Element, ...], names: Names, n: int, made: _Made) -> NamedRow:
    cells = names.rows[n]
    if made.trouble is not None:
        return NamedRow(elements, cells, trouble=made.trouble)
    there = tuple(
        e if e.source is made.sources[e.id] else e.model_copy(update={"source": made.sources[e.id]}) for e in elements
    )
    standing, bases = stand(there)
    rooms = {
        c.element: _held_by(f"names.columns.{m}.room", c.room, fit)
        for m, (c, fit) in enumerate(zip(names.columns, made.fits, strict=True))
        if fit is not None and fit.shrunk < 1 and not fit.short
    }
    return NamedRow(standing, cells, made.fits, bases=bases, rooms=rooms)


def _held_by(path: str, room: Room, fit: InRoom) -> tuple[str, float]:
    """The side of their room that keeps words small: its field and its mm."""
    wide = fit.wide / room.wide_mm >= fit.tall / room.tall_mm
    return (f"{path}.wide_mm", room.wide_mm) if wide else (f"{path}.tall_mm", room.tall_mm)


def _made(sources: Mapping[str, Source], names: Names, n: int, faces: Faces) -> _Made:
    fits: list[InRoom | None] = []
    out = dict(sources)
    try:
        for column, cell in zip(names.columns, names.rows[n], strict=True):
            out[column.element], fit = _varied(out[column.element], column, cell, faces)
            fits.append(fit)
    except WimpleError as bad:
        trouble = BadDocument(
            f"Line {n + 1} of the list: {bad.message}", field=f"names.rows.{n}.{len(fits)}", hint=bad.hint
        )
        return _Made(sources, (), trouble)
    return _Made(out, tuple(fits))


def _varied(source: Source, column: Column, cell: str, faces: Faces) -> tuple[Source, InRoom | None]:
    """A source with one field as a cell says, its words made to fit where they have a size."""
    words = column.field in WORDS
    if not cell.strip() and not words:
        return source, None
    varied = _put(source, column.field, cell)
    if not (words and isinstance(varied, Lettering)):
        return varied, None
    fit = in_room(varied, faces(varied.font), column.room)
    return fit.words, fit


def _put(source: Source, path: str, cell: str) -> Source:
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
    made = [r for r in rows if r.trouble is None]
    short = [r for r in made if r.short]
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
                f"{len(short)} of {len(made)} names do not fit their room even with capitals of {{least}}:"
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
                f"All {len(made)} names fit their room; the smallest capitals, of “{plain(row.name)}”, are {{value}}.",
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
