"""The command `wimple build`: a job's files with no server.

wimple build job.wimple.json --out DIR [--tables tables.json] [--names list.csv]
wimple build --artwork drawing.svg --panel 300x200 --width 120 --out DIR
"""

from __future__ import annotations

import argparse
import json
import re
import sys
from pathlib import Path
from typing import Any

from .errors import BadDocument, BadReading, WimpleError
from .export import all_files
from .job import Job, load_job
from .job.tables import SHIPPED, Tables, load_tables
from .measure import files_of
from .pipeline import build_whole
from .table_file import read_table
from .units import parse_length


def panel_job(name: str, panel: str, width: str) -> dict[str, Any]:
    """The raw document of one drawing in the middle of a flat panel."""
    sides = re.split(r"\s*[x×]\s*", panel.strip())
    if len(sides) != 2:
        raise BadReading(
            f"“{panel}” is not a panel's size.",
            field="--panel",
            hint="Write width x height, such as 300x200 or 12inx8in.",
        )
    w, h = (parse_length(side, field="--panel") for side in sides)
    return {
        "title": Path(name).stem[:100],
        "blank": {
            "kind": "panel",
            "width": {"reads": "width", "instrument": "ruler", "readings": [w]},
            "height": {"reads": "height", "instrument": "ruler", "readings": [h]},
        },
        "elements": [
            {
                "id": "e1",
                "source": {"kind": "file", "file": name},
                "placements": [{"width_mm": parse_length(width, field="--width"), "up_mm": h / 2}],
            }
        ],
    }


def _read(path: Path, what: str) -> bytes:
    try:
        return path.read_bytes()
    except OSError as bad:
        raise BadDocument(
            f"The {what} “{path}” cannot be read: {bad.strerror}.", field=what, hint="Check its name and folder."
        ) from None


def _read_json(path: Path, what: str, must: str) -> Any:
    try:
        return json.loads(_read(path, what).decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError) as bad:
        raise BadDocument(f"“{path.name}” is not {must}: {bad}.", field=what, hint=HINTS[what]) from None


HINTS = {
    "job": "It must be JSON, as `job.wimple.json` in a zip of Wimple's.",
    "tables": "It must be JSON with films, tapes or cutters: docs/file-format.md says what belongs there.",
}


def read_tables(path: Path) -> Tables:
    """A shop's own films, tapes and cutters; what is left out is as shipped."""
    return load_tables(_read_json(path, "tables", "a file of tables"))


def read_job(path: Path) -> tuple[Job, dict[str, bytes]]:
    """A document and the drawings beside it, in `drawings/` or in its own folder."""
    job = load_job(_read_json(path, "job", "a job document"))
    drawings = {}
    for name in dict.fromkeys([*job.drawings, *job.pictures, *files_of(job.blank)]):
        for place in (path.parent / "drawings" / name, path.parent / name):
            if place.is_file():
                drawings[name] = place.read_bytes()
                break
    return job, drawings


def with_names(job: Job, path: Path) -> Job:
    """A job with the lines of a file in place of its list of names. Raises BadDocument where it has no list to tell
    what varies, or the file has other columns."""
    if job.names is None:
        raise BadDocument(
            "The job has no list of names.", field="names", hint="Its document says which of its elements vary."
        )
    table = read_table(_read(path, "names"))
    wanted, found = len(job.names.columns), len(table.rows[0])
    if wanted != found:
        raise BadDocument(
            f"“{path.name}” has {found} columns, and {wanted} things vary.",
            field="names",
            hint="Give it a column for each, in the document's order.",
        )
    raw = job.model_dump(mode="json")
    return load_job({**raw, "names": {**raw["names"], "rows": table.rows, "shown": 0}})


def main(argv: list[str] | None = None) -> int:
    """Run the command; returns the exit code: 0 done, 1 a job that cannot be built, 2 words it does not take."""
    parser = argparse.ArgumentParser(prog="wimple build", description="Make a job's files: cut, print, lay up, price.")
    parser.add_argument("job", nargs="?", type=Path, help="a job document, with its drawings beside it")
    parser.add_argument("--artwork", type=Path, help="an SVG drawing, for a panel without a document")
    parser.add_argument("--panel", help="the panel's size, such as 300x200")
    parser.add_argument("--width", help="the drawing's width, such as 120")
    parser.add_argument("--tables", type=Path, help="a shop's own films, tapes and cutters, as JSON")
    parser.add_argument("--names", type=Path, help="a list in CSV, in place of the lines of the job's own")
    parser.add_argument("--out", type=Path, required=True, help="the folder the files go to")
    args = parser.parse_args(argv)
    if (args.job is None) == (args.artwork is None):
        parser.error("give either a job document, or --artwork with --panel and --width")
    if args.artwork and not (args.panel and args.width):
        parser.error("--artwork needs --panel and --width")
    try:
        if args.job:
            job, drawings = read_job(args.job)
        else:
            job = load_job(panel_job(args.artwork.name, args.panel, args.width))
            drawings = {args.artwork.name: _read(args.artwork, "artwork")}
        if args.names:
            job = with_names(job, args.names)
        tables = read_tables(args.tables) if args.tables else SHIPPED
        built = build_whole(job, drawings, tables=tables)
        files = all_files(built, drawings)
        for f in files:
            place = args.out / f.path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_bytes(f.data)
    except OSError as bad:
        print(
            f"wimple: --out: “{args.out}” cannot be written: {bad.strerror}. Name a folder that can.", file=sys.stderr
        )
        return 1
    except WimpleError as bad:
        for fault in bad.faults:
            where = f"{fault.field}: " if fault.field else ""
            print(f"wimple: {where}{fault.message} {fault.hint}".rstrip(), file=sys.stderr)
        return 1
    for v in built.verdicts:
        if v.level != "ok":
            print(f"{v.level:5} {v.step}: {v.sentence()}")
    print(f"{len(files)} files in {args.out}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
