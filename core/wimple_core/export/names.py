"""The list of names as it was set, to be opened in any table."""

from __future__ import annotations

import csv
import io

from ..fit import Named
from ..job.names import Names
from ..table_file import harmless


def names_csv(names: Names, named: Named) -> str:
    """CSV (RFC 4180), none of it a formula: the cells of each line, how tall its capitals became (mm), and what is
    wrong with it."""
    out = io.StringIO()
    table = csv.writer(out)

    def write(*cells: str) -> None:
        table.writerow([harmless(cell) for cell in cells])

    write(*(c.title or c.field for c in names.columns), "capitals_mm", "trouble")
    for row in named.rows:
        tall = " ".join(f"{f.capitals:.2f}" for f in row.fits if f is not None)
        trouble = row.trouble.message if row.trouble else "does not fit its room" if row.short else ""
        write(*row.cells, tall, trouble)
    return out.getvalue()
