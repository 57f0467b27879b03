"""A list in columns read from a file or from what was typed: CSV, whatever it is parted by and written in."""

from __future__ import annotations

import csv
import io
import unicodedata
from collections import Counter
from dataclasses import dataclass

from .errors import BadDocument
from .job.names import MOST_ROWS

MOST_COLUMNS, MOST_LETTERS = 20, 200
SEPARATORS = (",", ";", "\t", "|")
LOOKED_AT = 50
"""So many lines tell what the columns are parted by."""
HEADINGS = frozenset(
    [
        "name",
        "names",
        "text",
        "word",
        "words",
        "line",
        "number",
        "no",
        "colour",
        "color",
        "size",
        "file",
        "drawing",
        "picture",
        "font",
        "first",
        "last",
        "title",
    ]
)


@dataclass(frozen=True)
class TableIn:
    """A list as it was read: the headings of its columns (empty where it has none), its lines, all of one length, and
    what was done to it in plain words."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...]


def _decoded(data: bytes) -> tuple[str, list[str]]:
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            try:
                return data.decode(encoding), []
            except UnicodeDecodeError:
                raise BadDocument("The list breaks off within a letter.", hint="Save it again as UTF-8.") from None
    if b"\x00" in data:
        raise BadDocument("This is no text.", hint="Save the list as CSV, not as a workbook.")
    try:
        return data.decode("utf-8"), []
    except UnicodeDecodeError:
        note = "It is not written in UTF-8; it was read as Western European: look at letters with accents."
        return data.decode("cp1252", errors="replace"), [note]


def _separator(text: str) -> str:
    """What parts the columns: what most lines have equally often; none where nothing does."""
    lines = [line for line in text.splitlines()[:LOOKED_AT] if line.strip()]
    if not lines:
        return ""

    def share(sign: str) -> tuple[float, int]:
        try:
            read = Counter(len(row) for row in csv.reader(lines, delimiter=sign))
        except csv.Error:
            read = Counter()
        # A quotation mark that is open takes the rest for one cell: so the bare signs are counted too.
        counts = read | Counter(line.count(sign) + 1 for line in lines)
        often, columns = max((n, columns) if columns > 1 else (0, 0) for columns, n in counts.items())
        return often / len(lines), columns

    best = max(SEPARATORS, key=share)
    return best if share(best)[0] > 0.5 else ""


FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
"""What a table program takes for the beginning of a formula (OWASP, CSV Injection; from memory)."""


def harmless(cell: str) -> str:
    """A cell as it is written into a table that any program may open: what would be taken for a formula is marked as
    text by an apostrophe, which `read_table` takes off again."""
    return f"'{cell}" if cell.lstrip(" ").startswith(FORMULA) else cell


def _clean(cell: str) -> str:
    if cell.startswith("'") and cell[1:].lstrip(" ").startswith(FORMULA):
        cell = cell[1:]
    cell = unicodedata.normalize("NFC", cell.replace("\r\n", "\n").replace("\u00a0", " "))
    return "\n".join(" ".join(part.split()) for part in cell.strip().split("\n"))


def read_table(data: bytes) -> TableIn:
    """A list read, blank lines dropped, short ones filled up. Raises BadDocument for what is no list, has too many
    lines or columns, or too long a cell, naming the line."""
    text, notes = _decoded(data)
    text = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    first, _, rest = text.partition("\n")
    separator = ""
    if first.lower().startswith("sep=") and len(first) == 5:
        separator, text = first[4], rest
    separator = separator or _separator(text)
    old = csv.field_size_limit(1_000_000)
    try:
        if separator:
            raw = [tuple(map(_clean, row)) for row in csv.reader(io.StringIO(text), delimiter=separator)]
        else:
            raw = [(_clean(line.strip().strip('"')),) for line in text.split("\n")]
    except csv.Error as bad:
        raise BadDocument(f"The list cannot be read: {bad}.", hint="Save it again as CSV.") from None
    finally:
        csv.field_size_limit(old)
    rows = [row for row in raw if any(row)]
    if not rows:
        raise BadDocument("The list is empty.", hint="Give one name to a line.")
    while len(raw) > 1 and not any(raw[-1]):
        raw.pop()
    if len(raw) > len(rows):
        notes.append(f"Blank lines left out: {len(raw) - len(rows)}.")
    headings: tuple[str, ...] = ()
    if len(rows) > 1 and any(cell.lower() in HEADINGS for cell in rows[0]):
        headings, rows = rows[0], rows[1:]
    if len(rows) > MOST_ROWS:
        raise BadDocument(
            f"The list has {len(rows):,} lines.",
            hint=f"At most {MOST_ROWS} are cut in one job: make a job for each part.",
        )
    width = max(len(headings), *(len(row) for row in rows))
    if width > MOST_COLUMNS:
        raise BadDocument(f"The list has {width} columns.", hint=f"At most {MOST_COLUMNS} are read.")
    long = next((n for n, row in enumerate(rows, start=1) if any(len(c) > MOST_LETTERS for c in row)), None)
    if long is not None:
        raise BadDocument(
            f"Line {long} of the list has a cell of more than {MOST_LETTERS} letters.",
            hint="A quotation mark may be open: look at that line.",
        )
    short = sum(len(row) != width for row in rows)
    if short:
        notes.append(f"Lines with fewer cells than others, filled up with empty ones: {short}.")
    filled = tuple(row + ("",) * (width - len(row)) for row in rows)
    twice = [row[0] for row, n in Counter(filled).items() if n > 1]
    if twice:
        more = f" and {len(twice) - 3} more" if len(twice) > 3 else ""
        notes.append(f"More than once: {', '.join(f'“{t}”' for t in twice[:3])}{more}.")
    return TableIn(headings + ("",) * (width - len(headings)) if headings else (), filled, tuple(notes))
