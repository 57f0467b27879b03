"""A program that can be left running: work that outlives its worker, a disk that is full, copies put back, old things
cleared away."""

from __future__ import annotations

import datetime as dt
import json
import logging
import os
import sqlite3
import tempfile
import threading
import time
import zipfile
from pathlib import Path
from typing import Any

import pytest
from django.core.management import CommandError, call_command
from django.db import OperationalError, connection
from django.test import Client
from django.utils import timezone
from samples import drawing, svg
from wimple_core.errors import BadDocument
from wimple_core.job import load_job
from wimple_server import disk, safekeeping
from wimple_server.jobs.models import Drawing, Job, JobState
from wimple_server.shelf import keeping
from wimple_server.tidying import tidy
from wimple_server.works import tasks
from wimple_server.works.models import LEASE, MOST_TRIES, Status, Work
from wimple_server.workshops.models import KeptResult, KeptResults, Workshop

pytestmark = pytest.mark.django_db
LONG_AGO = dt.timedelta(days=200)


# -- work ----------------------------------------------------------------------------------------------------------


ELSEWHERE = "the database is on a server of its own"


def work_for(job: Job, **more: Any) -> Work:
    return Work.objects.create(workshop=job.workshop, job=job, kind="files", about={"document": job.document}, **more)


def test_a_work_is_done_by_one_only(job: Job) -> None:
    work = work_for(job)
    assert Work.take(work.pk) is not None and Work.take(work.pk) is None
    work.refresh_from_db()
    assert work.status == Status.RUNNING and work.tries == 1
    assert LEASE * 0.9 < work.lease - timezone.now() <= LEASE


def test_a_work_whose_worker_died_is_taken_up_again(job: Job) -> None:
    """Running with a lease that ran out: taken up; with one that holds, or over: left alone."""
    dead = work_for(job, status=Status.RUNNING, lease=timezone.now() - dt.timedelta(seconds=1), tries=1)
    alive = work_for(job, status=Status.RUNNING, lease=timezone.now() + LEASE, tries=1)
    over = work_for(job, status=Status.DONE, lease=timezone.now() - LEASE)
    assert tasks.take_up_stale() == 1
    for work in (dead, alive, over):
        work.refresh_from_db()
    assert (dead.status, alive.status, over.status) == ("done", "running", "done") and dead.tries == 2 and dead.made


def test_a_renewed_lease_holds_longer(job: Job) -> None:
    work = work_for(job, status=Status.RUNNING, lease=timezone.now() + dt.timedelta(seconds=5))
    work.renew()
    work.refresh_from_db()
    assert work.lease > timezone.now() + LEASE * 0.9


def test_a_busy_database_does_not_end_the_renewing(monkeypatch: pytest.MonkeyPatch) -> None:
    """The first beat finds the database locked: the lease is renewed by the next ones all the same."""
    monkeypatch.setattr(tasks, "LEASE", dt.timedelta(seconds=0.08))
    beats, enough = [], threading.Event()

    class Busy:
        def renew(self) -> None:
            beats.append(len(beats))
            if len(beats) == 1:
                raise OperationalError("database is locked")
            enough.set()

    with tasks._held(Busy()):  # type: ignore[arg-type]
        assert enough.wait(10)
    done = len(beats)
    time.sleep(0.1)
    assert len(beats) == done >= 2


def test_a_work_that_kills_its_worker_is_given_up(job: Job) -> None:
    work = work_for(job, tries=MOST_TRIES)
    tasks.carry_out.func(work.pk)
    work.refresh_from_db()
    assert work.status == "failed" and "without a word" in work.error["message"] and work.error["hint"]


def test_a_work_whose_task_cannot_be_written_is_not_there_either(job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    def fails(pk: int) -> None:
        raise OperationalError("no")

    monkeypatch.setattr(tasks, "_enqueue", fails)
    with pytest.raises(OperationalError):
        tasks.start(Work(workshop=job.workshop, job=job, kind="files", about={"document": job.document}))
    assert not Work.objects.exists()


# -- the disk ------------------------------------------------------------------------------------------------------


@pytest.fixture()
def full_disk(transactional_db: None) -> Any:
    """The database may not grow any more: SQLite then says what it says of a full disk."""
    if connection.vendor != "sqlite":
        pytest.skip(ELSEWHERE)
    with connection.cursor() as cursor:
        pages = cursor.execute("PRAGMA page_count").fetchone()[0]
        cursor.execute(f"PRAGMA max_page_count = {pages + 40}")
        yield
        cursor.execute("PRAGMA max_page_count = 4294967294")


def test_on_a_full_disk_reading_goes_on_and_writing_says_so(api: Any, job: Job, full_disk: None) -> None:
    note = {**job.document, "note": "x" * 4000}
    for n in range(40):
        answer = api("PUT", f"/jobs/{job.pk}", {"revision": n + 1, "document": {**note, "title": f"{n}"}})
        if answer.status_code != 200:
            break
    assert answer.status_code == 507 and answer.json()["message"] == disk.DISK_FULL
    before = Job.objects.get(pk=job.pk).document
    assert n > 0 and before["title"] == str(n - 1)
    assert api("GET", f"/jobs/{job.pk}").status_code == 200
    assert api.scene(job.pk, before, "artwork")["whole"]
    assert api.upload(f"/jobs/{job.pk}/drawings", "a.svg", svg("<rect width='5' height='5'/>" * 900)).status_code == 507


def test_a_slow_result_that_cannot_be_kept_is_no_failure(job: Job, full_disk: None) -> None:
    KeptResults(job.workshop_id).keep("patch", "k", bytes(3_000_000))
    assert not KeptResult.objects.exists()


def test_a_warning_stands_while_little_room_is_left(api: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    assert api("GET", "/session").json()["warning"] == ""
    monkeypatch.setattr(disk, "free_bytes", lambda: 120_000_000)
    assert "120 MB left" in api("GET", "/session").json()["warning"]
    assert Client().get("/api/session").json()["warning"] == ""


def test_a_workshop_keeps_no_more_than_it_may(api: Any, job: Job, settings: Any) -> None:
    data = svg("<rect width='5' height='5'/>")
    assert api.upload(f"/jobs/{job.pk}/drawings", "a.svg", data).status_code == 201
    settings.MOST_WORKSHOP_BYTES = 2000
    answer = api.upload(f"/jobs/{job.pk}/drawings", "b.svg", data)
    assert answer.status_code == 422 and "0.00 GB are kept" in answer.json()["message"] and answer.json()["hint"]
    assert job.drawings.filter(name="b.svg").count() == 0


# -- copies --------------------------------------------------------------------------------------------------------


@pytest.fixture()
def shop(tmp_path: Path, transactional_db: None) -> Path:
    """A workshop with a job, a drawing and a blank on its Shelf, really written to the disk."""
    from samples import example

    workshop = Workshop.objects.create(name="Hill Decals")
    job = Job.start(workshop, load_job(example("perihelion-cup")))
    Drawing.keep(job, "moon-band.svg", drawing("moon-band.svg"))
    keeping.keep(job, "The cup")
    return tmp_path


def test_a_database_on_a_server_of_its_own_is_not_copied_here(shop: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(connection, "vendor", "postgresql")
    for do in (safekeeping.back_up, safekeeping.restore):
        with pytest.raises(BadDocument, match="server of its own"):
            do(shop / "copy", shop / "new")
    assert not (shop / "copy").exists() and not (shop / "new").exists()


@pytest.mark.skipif(connection.vendor != "sqlite", reason=ELSEWHERE)
def test_a_copy_is_put_back_as_it_was(shop: Path) -> None:
    listed = safekeeping.back_up(shop / "copy", shop)
    assert listed["rows"]["jobs_job"] == listed["rows"]["jobs_drawing"] == listed["rows"]["shelf_shelfblank"] == 1
    assert (shop / "copy").stat().st_mode & 0o077 == 0
    back = shop / "new"
    assert safekeeping.restore(shop / "copy", back)["rows"] == listed["rows"]
    with sqlite3.connect(back / "wimple.sqlite3") as database:
        kept = database.execute("SELECT data, digest FROM jobs_drawing").fetchone()
        document = json.loads(database.execute("SELECT document FROM jobs_job").fetchone()[0])
    assert kept == (drawing("moon-band.svg"), Drawing.objects.get().digest) and document == Job.objects.get().document
    assert back.stat().st_mode & 0o777 == 0o700 and (back / "wimple.sqlite3").stat().st_mode & 0o777 == 0o600


@pytest.mark.skipif(connection.vendor != "sqlite", reason=ELSEWHERE)
def test_no_copy_is_put_over_anything_and_a_spoilt_one_not_at_all(shop: Path) -> None:
    safekeeping.back_up(shop / "copy", shop)
    with pytest.raises(BadDocument, match="already"):
        safekeeping.back_up(shop / "copy", shop)
    with zipfile.ZipFile(shop / "copy") as archive:
        parts = {n: archive.read(n) for n in archive.namelist()}
    listed = json.loads(parts[safekeeping.LIST])
    spoilt = bytearray(parts[safekeeping.DATABASE])
    spoilt[len(spoilt) // 2] ^= 255
    for n, changed in enumerate(
        (
            {safekeeping.DATABASE: bytes(spoilt)},
            {safekeeping.LIST: json.dumps({**listed, "rows": {**listed["rows"], "jobs_job": 9}}).encode()},
            {safekeeping.LIST: json.dumps({**listed, "version": 2}).encode()},
            {safekeeping.LIST: b"{"},
        )
    ):
        with zipfile.ZipFile(shop / f"bad{n}", "w") as archive:
            for name, data in {**parts, **changed}.items():
                archive.writestr(name, data)
        with pytest.raises(BadDocument):
            safekeeping.restore(shop / f"bad{n}", shop / "new")
        assert not (shop / "new" / "wimple.sqlite3").exists()
    (shop / "not a copy").write_bytes(b"hello")
    with pytest.raises(BadDocument, match="cannot be read"):
        safekeeping.restore(shop / "not a copy", shop / "new")
    safekeeping.restore(shop / "copy", shop / "new")
    with pytest.raises(BadDocument, match="holds a database"):
        safekeeping.restore(shop / "copy", shop / "new")


@pytest.mark.skipif(connection.vendor != "sqlite", reason=ELSEWHERE)
def test_what_a_crash_left_beside_a_database_is_not_played_into_a_copy(shop: Path) -> None:
    """A log of another database lies in the folder, as after a kill: refused, nothing touched; without it all is there,
    opened as the program opens it."""
    safekeeping.back_up(shop / "copy", shop)
    new, other = shop / "new", sqlite3.connect(shop / "other")
    new.mkdir()
    other.execute("PRAGMA journal_mode=WAL")
    other.execute("CREATE TABLE jobs_job (title TEXT)")
    other.commit()
    for end in ("-wal", "-shm", "-journal"):
        left = new / f"wimple.sqlite3{end}"
        written = (shop / f"other{end}").read_bytes() if end != "-journal" else b"begun"
        left.write_bytes(written)
        with pytest.raises(BadDocument, match=f"wimple.sqlite3{end}"):
            safekeeping.restore(shop / "copy", new)
        assert [p.name for p in new.iterdir()] == [left.name] and left.read_bytes() == written
        left.unlink()
    other.close()
    assert safekeeping.restore(shop / "copy", new)["rows"]["jobs_job"] == 1
    with sqlite3.connect(new / "wimple.sqlite3") as database:
        assert database.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert database.execute("PRAGMA integrity_check").fetchone()[0] == "ok"


@pytest.mark.skipif(connection.vendor != "sqlite", reason=ELSEWHERE)
@pytest.mark.parametrize("at", range(3))
def test_one_that_is_killed_is_done_again_as_if_it_had_not_begun(
    shop: Path, monkeypatch: pytest.MonkeyPatch, at: int
) -> None:
    """Killed before each of its moves, or before the last look: what stands is nothing, or all of it."""
    safekeeping.back_up(shop / "copy", shop)
    (shop / "secret-key").write_bytes(b"k" * 50)
    (shop / "copy").unlink()
    rows = safekeeping.back_up(shop / "copy", shop)["rows"]
    new, real, moves = shop / "new", os.replace, [0]

    class Killed(BaseException):
        pass

    def replace(a: Path, b: Path) -> None:
        if moves[0] == at:
            raise Killed
        moves[0] += 1
        real(a, b)

    monkeypatch.setattr(os, "replace", replace)
    # A killed process clears nothing away.
    monkeypatch.setattr(tempfile.TemporaryDirectory, "cleanup", lambda self: None)
    monkeypatch.setattr(tempfile.TemporaryDirectory, "__exit__", lambda self, *_: None)
    if at >= 2:
        monkeypatch.setattr(safekeeping, "_check_as_opened", lambda *_: (_ for _ in ()).throw(Killed()))
    with pytest.raises(Killed):
        safekeeping.restore(shop / "copy", new)
    monkeypatch.undo()
    if at < 2:
        assert not (new / "wimple.sqlite3").exists()
        assert safekeeping.restore(shop / "copy", new)["rows"] == rows
        assert not list(new.glob("being-put-back-*"))
    assert safekeeping._counts(new / "wimple.sqlite3") == rows and (new / "secret-key").read_bytes() == b"k" * 50


def test_a_workshop_is_carried_out_as_files_that_build(shop: Path) -> None:
    from wimple_core.command import main

    call_command("export", "Hill Decals", str(shop / "out"), verbosity=0)
    (folder,) = (shop / "out" / "jobs").iterdir()
    assert (folder / "drawings" / "moon-band.svg").read_bytes() == drawing("moon-band.svg")
    assert main([str(folder / "job.wimple.json"), "--out", str(shop / "made")]) == 0
    assert len(json.loads((shop / "out" / "shelf.wimple.json").read_text())["blanks"]) == 1
    with pytest.raises(CommandError, match="not empty"):
        call_command("export", "Hill Decals", str(shop / "out"))
    with pytest.raises(CommandError, match="“Hill Decals”"):
        call_command("export", "Nobody", str(shop / "else"))


# -- old things ----------------------------------------------------------------------------------------------------


def test_what_nobody_needs_is_cleared_away_and_what_undo_needs_is_not(job: Job) -> None:
    past = timezone.now() - LONG_AGO
    for name in ("stray.svg", "of-a-step-back.svg", "new.svg"):
        Drawing.keep(job, name, b"<svg/>")
    step = {**job.document, "elements": [{"id": "x", "source": {"kind": "file", "file": "of-a-step-back.svg"}}]}
    JobState.objects.create(job=job, position=9, revision=9, document=step)
    Drawing.objects.exclude(name="new.svg").update(added=past)
    Job.objects.filter(pk=job.pk).update(changed=past)
    for age, status in ((LONG_AGO, "done"), (LONG_AGO, "waiting"), (dt.timedelta(), "done")):
        work_for(job, status=status, asked=timezone.now() - age)
    gone = tidy()
    assert gone["files"] == 1 and gone["works"] == 1
    assert set(job.drawings.values_list("name", flat=True)) == {"moon-band.svg", "of-a-step-back.svg", "new.svg"}
    assert tidy()["files"] == 0


# -- health and log ------------------------------------------------------------------------------------------------


def test_health_tells_what_is_wrong(job: Job, settings: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    settings.DATA = tmp_path
    answer = Client().get("/health")
    assert answer.status_code == 503 and answer.json()["worker"] == "not started" and answer.json()["database"] == "ok"
    (tmp_path / "worker-alive").touch()
    assert Client().get("/health").json() == dict.fromkeys(("database", "disk", "worker", "queue"), "ok")
    work_for(job, asked=timezone.now() - dt.timedelta(minutes=9))
    monkeypatch.setattr(disk, "free_bytes", lambda: 1_000_000)
    found = Client().get("/health").json()
    assert "1 waiting" in found["queue"] and found["disk"] == "1 MB left"


def test_a_line_says_who_asked_what_and_nothing_of_it(api: Any, job: Job, caplog: pytest.LogCaptureFixture) -> None:
    caplog.set_level(logging.INFO, logger="wimple.asked")
    api.upload(f"/jobs/{job.pk}/drawings", "secret.svg", svg("<rect width='5' height='5' id='hush'/>"))
    line = caplog.records[-1].getMessage()
    assert (
        line.startswith(f"POST /api/jobs/{job.pk}/drawings 201 ")
        and f"ada@hill-decals @ workshop {job.workshop_id}" in line
    )
    assert "secret" not in line and "hush" not in line
    api("GET", "/jobs/%0A2026-11-26 INFO all is well")
    assert "\n" not in caplog.records[-1].getMessage() and " INFO" not in caplog.records[-1].getMessage()


def test_a_fault_is_found_in_the_log_by_what_the_user_is_shown(
    api: Any, job: Job, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def breaks(*args: object, **more: object) -> None:
        raise ZeroDivisionError("inside")

    monkeypatch.setattr("wimple_server.jobs.api.scene_for", breaks)
    answer = api("POST", f"/jobs/{job.pk}/build", {"document": job.document})
    sign = answer.json()["hint"].split()[-1].strip(".")
    assert answer.status_code == 500 and len(sign) == 8 and "inside" not in answer.content.decode()
    assert any(sign in r.getMessage() and r.exc_info for r in caplog.records)
