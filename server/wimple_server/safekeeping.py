"""A copy of everything in one file, taken while the program runs, and put back into an empty folder."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path
from typing import Any

from django.db import connection
from django.utils import timezone
from wimple_core.errors import BadDocument

FORMAT = "wimple.backup"
DATABASE, KEY, LIST = "wimple.sqlite3", "secret-key", "what-is-in-it.json"
COUNTED = (
    "workshops_workshop",
    "workshops_membership",
    "auth_user",
    "jobs_job",
    "jobs_jobstate",
    "jobs_drawing",
    "shelf_shelfblank",
    "shelf_shelffile",
)
_CHUNK = 1 << 20


BESIDE = ("-wal", "-shm", "-journal")
"""What SQLite keeps beside a database, by the end of its name: it is played into whatever stands there when it is
opened."""
UNDER_WAY = "being-put-back-"


def _counts(database: Path) -> dict[str, int]:
    with closing(sqlite3.connect(database)) as source:
        return {t: source.execute(f"SELECT COUNT(*) FROM {t}").fetchone()[0] for t in COUNTED}


def _digest(path: Path) -> str:
    found = hashlib.sha256()
    with path.open("rb") as file:
        while data := file.read(_CHUNK):
            found.update(data)
    return found.hexdigest()


def _check(database: Path) -> None:
    """Raises BadDocument for a database that is not whole."""
    try:
        with closing(sqlite3.connect(database)) as source:
            said = source.execute("PRAGMA integrity_check").fetchone()[0]
            broken = source.execute("PRAGMA foreign_key_check").fetchone()
    except sqlite3.DatabaseError as bad:
        said, broken = str(bad), None
    if said != "ok" or broken:
        raise BadDocument(
            f"The copy is not whole: {said if said != 'ok' else broken}.", hint="Take another, or an older one."
        )


def back_up(target: Path, data: Path) -> dict[str, Any]:
    """Write a copy of the database and of the key that signs sessions to a new file. Returns what is in it.

    Raises BadDocument where the file is there already, or the copy is not whole.
    """
    if target.exists():
        raise BadDocument(f"“{target}” is there already.", field="FILE", hint="Name a new file.")
    _check_here()
    connection.ensure_connection()
    with tempfile.TemporaryDirectory(dir=target.resolve().parent) as folder:
        copy = Path(folder) / DATABASE
        with sqlite3.connect(copy) as into:
            connection.connection.backup(into)
            into.execute("PRAGMA journal_mode=DELETE")
        into.close()
        _check(copy)
        listed = {
            "format": FORMAT,
            "version": 1,
            "taken": timezone.now().isoformat(timespec="seconds"),
            "sha256": _digest(copy),
            "rows": _counts(copy),
        }
        part = Path(folder) / "backup"
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            archive.writestr(LIST, json.dumps(listed, indent=1))
            archive.write(copy, DATABASE)
            if (data / KEY).exists():
                archive.write(data / KEY, KEY)
        part.chmod(0o600)
        os.replace(part, target)
    return listed


def _check_here() -> None:
    """Raises BadDocument where the database is on a server of its own."""
    if connection.vendor != "sqlite":
        raise BadDocument(
            "The database is on a server of its own, which copies it as one.",
            field="WIMPLE_DATABASE",
            hint="Use pg_dump and pg_restore; docs/running.md has the lines.",
        )


def _check_as_opened(database: Path, rows: dict[str, int]) -> None:
    """Raises BadDocument for a database that is not whole, or holds other rows, where it finally stands and opened as
    the program opens it."""
    with closing(sqlite3.connect(database)) as opened:
        opened.execute("PRAGMA journal_mode=WAL")
        opened.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    _check(database)
    if _counts(database) != rows:
        raise BadDocument("What was put back holds other rows than the copy.", field="FILE", hint="Try it again.")


def _synced(path: Path) -> None:
    """What was written to a file, or which files a folder holds, stays so when the power goes."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def restore(source: Path, data: Path) -> dict[str, Any]:
    """Put a copy back into a folder that holds no database, nor what a database leaves beside it. Returns what is in
    it, counted anew where it finally stands.

    What one that was killed had begun is cleared away: the database comes into its place at the end, whole. Raises
    BadDocument where the folder holds one, or the copy is none or is not whole; the folder is then as it was.
    """
    _check_here()
    there = next((name for name in (DATABASE, *(DATABASE + end for end in BESIDE)) if (data / name).exists()), None)
    if there == DATABASE:
        raise BadDocument(
            f"“{data}” holds a database already.", field="WIMPLE_DATA", hint="Name an empty folder in WIMPLE_DATA."
        )
    if there is not None:
        raise BadDocument(
            f"“{data}” holds “{there}”, which a database left behind: it would be played into the copy.",
            field="WIMPLE_DATA",
            hint="Name an empty folder in WIMPLE_DATA, and keep that file till you know what is in it.",
        )
    data.mkdir(parents=True, exist_ok=True)
    data.chmod(0o700)
    for left in data.glob(f"{UNDER_WAY}*"):
        shutil.rmtree(left, ignore_errors=True)
    try:
        with zipfile.ZipFile(source) as archive, tempfile.TemporaryDirectory(prefix=UNDER_WAY, dir=data) as folder:
            listed: dict[str, Any] = json.loads(archive.read(LIST))
            if listed.get("format") != FORMAT or listed.get("version") != 1:
                raise BadDocument("This is no copy that is known here.", field="FILE", hint="Give what backup wrote.")
            names = [n for n in (DATABASE, KEY) if n in archive.namelist()]
            for name in names:
                archive.extract(name, folder)
                (Path(folder) / name).chmod(0o600)
            copy = Path(folder) / DATABASE
            if _digest(copy) != listed["sha256"]:
                raise BadDocument("The copy was changed after it was taken.", field="FILE", hint="Give another.")
            _check(copy)
            if _counts(copy) != listed["rows"]:
                raise BadDocument("The copy holds other rows than it says.", field="FILE", hint="Give another.")
            # The key first: where the database stands, all of it does.
            for name in reversed(names):
                _synced(Path(folder) / name)
                os.replace(Path(folder) / name, data / name)
            _synced(data)
        try:
            _check_as_opened(data / DATABASE, listed["rows"])
        except (BadDocument, sqlite3.DatabaseError):
            for end in ("", *BESIDE):
                (data / (DATABASE + end)).unlink(missing_ok=True)
            raise
    except (OSError, KeyError, ValueError, zipfile.BadZipFile, sqlite3.DatabaseError) as bad:
        raise BadDocument(f"“{source}” cannot be read as a copy: {bad}.", field="FILE", hint="Give another.") from None
    return listed
