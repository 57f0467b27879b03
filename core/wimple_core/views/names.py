"""The list of names and how its lines fit, for the screens; and what of a job may vary."""

from __future__ import annotations

from ..figures import LengthStyle, format_length
from ..fit import Named, NamedRow
from ..job import Job
from ..job.document import Element, FileSource
from ..job.lettering import Lettering
from ..job.makeable import measures_for
from .drawn import View
from .judged import LevelName

FEW_LETTERS = 40


class VariesView(View):
    """Something that may vary: a field of an element's source, in words."""

    element: str
    field: str
    words: str
    sized: bool
    """Is it words with a size of their own, which are made to fit a room?"""


class NameLineView(View):
    """One line of the list: in what it is set, how tall its capitals became, and how it fits."""

    set: str
    capitals: str
    shrunk_percent: int
    level: LevelName
    said: str


class NamesView(View):
    """What may vary, and the lines of the list in its order; none where the job has no list."""

    varies: list[VariesView]
    lines: list[NameLineView]


def _varies(element: Element) -> list[VariesView]:
    source = element.source
    name = element.name if len(element.name) <= FEW_LETTERS else f"{element.name[:FEW_LETTERS]}…"

    def one(field: str, words: str, sized: bool = False) -> VariesView:
        return VariesView(element=element.id, field=field, words=f"{words} of {name}", sized=sized)

    if isinstance(source, FileSource):
        return [one("file", "drawing")]
    if isinstance(source, Lettering):
        return [one("text", "words", True), one("colour", "colour"), one("size_mm", "size"), one("font", "font")]
    return [one(m.path, m.title.lower()) for m in measures_for(source) if m.kind != "flag"]


def _line(row: NamedRow, style: LengthStyle) -> NameLineView:
    fits = [f for f in row.fits if f is not None]
    smallest = min(fits, key=lambda f: f.capitals, default=None)
    level: LevelName = "ok"
    said = ""
    if row.trouble is not None:
        level, said = "stop", f"{row.trouble.message} {row.trouble.hint}".strip()
    elif row.short:
        over = max(f.over for f in fits)
        level, said = "stop", f"{format_length(over, style)} more than its room"
    return NameLineView(
        set=" / ".join(f.words.text.replace("\n", " / ") for f in fits),
        capitals=format_length(smallest.capitals, style) if smallest else "",
        shrunk_percent=round(100 * min((f.shrunk for f in fits), default=1.0)),
        level=level,
        said=said,
    )


def names_view(job: Job, named: Named, style: LengthStyle) -> NamesView:
    """What may vary in a job, and its list of names."""
    rows = named.rows if job.names is not None else ()
    return NamesView(varies=[v for e in job.elements for v in _varies(e)], lines=[_line(row, style) for row in rows])
