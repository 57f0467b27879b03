"""Long work: files, photographs, patches, a Shelf brought in, tickets. It reports progress, can be stopped, and is
taken up again after a restart."""

from __future__ import annotations

import hashlib
import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Any

from django.conf import settings
from django.db import OperationalError, connection, transaction
from django.utils import timezone
from django_tasks import task
from wimple_core.errors import BadDocument, WimpleError, seen_from
from wimple_core.export import all_files, zip_files
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole, make_slow
from wimple_core.slow import Wanted, outline_in_photo
from wimple_core.taking_in import photo_in
from wimple_core.views.so_far import lay_view

from ..cutters.keeping import tables_of
from ..cutters.running import cut_on
from ..errors import error_body
from ..jobs.building import write_ticket
from ..jobs.models import Drawing, Job
from ..reading import read_apart
from ..shelf.keeping import import_shelf
from ..workshops.models import KeptResults
from .models import LEASE, LEFT, MOST_TRIES, WAIT, Status, Stopped, Work, ended_by

Result = dict[str, Any]
"""What is written down of a work that is done: fields of its row."""


def _job_of(work: Work) -> Job:
    if work.job is None:
        raise RuntimeError(f"{work} has no job")
    return work.job


def _files(work: Work) -> Result:
    """The zip of one revision of a job."""
    job = _job_of(work)
    document = load_job(work.about["document"])
    files = job.files()
    built = build_whole(
        document,
        files,
        progress=lambda stage: work.say(working_on=stage),
        tables=tables_of(job),
        kept=KeptResults(job.workshop_id),
        run=read_apart,
    )
    drawings = {name: files.read(name) for name in job.names_in(document) if name in files}
    made = all_files(
        built, drawings, job.workshop.style, lambda n, total, name: work.say(share=n / max(total, 1), working_on=name)
    )
    return {"made": zip_files(made), "result": {"names": [f.path for f in made]}}


def _picture(work: Work) -> Result:
    """A photograph taken in: kept upright and without its metadata, its outline found and kept."""
    job = _job_of(work)
    with seen_from("blank.photo.file"):
        photo = read_apart(photo_in, bytes(work.brought or b""), progress=lambda what, share: work.say(working_on=what))
    slow = outline_in_photo(lambda: photo.data, hashlib.sha256(photo.data).hexdigest())
    known, axis = photo.marks
    with transaction.atomic():
        work.say(working_on="keeping it")
        wanted = str(work.about["name"]).rpartition(".")[0] + ".jpg"
        name = Drawing.take_in(job, wanted, photo.data, Drawing.Kind.PHOTO).name
        KeptResults(work.workshop_id).keep(slow.wanted.kind, slow.wanted.key, slow.write(photo.outline))
    marks = {"known": known, "axis": axis, "width": photo.outline.width, "height": photo.outline.height}
    return {"result": {"photo": {"name": name, "marks": marks}}}


def _slow(work: Work) -> Result:
    """A slow result that a job waits for."""
    job = _job_of(work)
    wanted = Wanted(work.kind, work.key)
    data = make_slow(
        load_job(work.about["document"]),
        job.files(),
        wanted,
        lambda what, share: work.say(working_on=what, share=share),
        tables_of(job),
        read_apart,
        lambda so_far: work.say(result={"lay": lay_view(so_far).model_dump(mode="json")}),
    )
    if work.kind != Work.Kind.LAY:
        # A search that is ended has come to something all the same; nothing else has.
        work.say(working_on="keeping it")
    KeptResults(work.workshop_id).keep(wanted.kind, wanted.key, data)
    return {"result": {}}


def _shelf(work: Work) -> Result:
    """The blanks of an exported Shelf."""
    taken = import_shelf(
        work.workshop,
        bytes(work.brought or b""),
        lambda n, total: work.say(share=n / max(total, 1), working_on=f"blank {n} of {total}"),
    )
    return {"result": {"taken": taken}}


def _tickets(work: Work) -> Result:
    """The tickets of all jobs that were changed since theirs was written."""
    stale = [job for job in work.workshop.jobs.select_related("workshop") if job.ticket_revision != job.revision]
    for n, job in enumerate(stale):
        work.say(share=n / len(stale), working_on=str(job)[:200])
        write_ticket(job)
    return {}


def _cut(work: Work) -> Result:
    """A load on a cutter, from where it stands on."""
    return cut_on(work.about["on"], work.tries)


_DO: dict[str, tuple[Callable[[Work], Result], str]] = {
    Work.Kind.FILES: (_files, "files could not be made"),
    Work.Kind.PICTURE: (_picture, "photograph could not be read"),
    Work.Kind.PHOTO: (_slow, "outline could not be found"),
    Work.Kind.PATCH: (_slow, "patch could not be flattened"),
    Work.Kind.TRACE: (_slow, "picture could not be traced"),
    Work.Kind.LAY: (_slow, "closer lay could not be looked for"),
    Work.Kind.SHELF: (_shelf, "Shelf could not be brought in"),
    Work.Kind.TICKETS: (_tickets, "tickets could not be written"),
    Work.Kind.CUT: (_cut, "load could not be cut"),
}
"""How each kind of work is done, and what is said where it fails by a fault of ours."""


@contextmanager
def _held(work: Work) -> Iterator[None]:
    """Renews the lease on a work while it is done."""
    over = threading.Event()

    def renew() -> None:
        try:
            while not over.wait(LEASE.total_seconds() / 4):
                # Where the database is busy, the next beat comes before the lease is over.
                with suppress(OperationalError):
                    work.renew()
        finally:
            connection.close()

    beat = threading.Thread(target=renew, daemon=True)
    beat.start()
    try:
        yield
    finally:
        over.set()
        beat.join()


@task()
def carry_out(work_id: int) -> None:
    """Do one work if it is still wanted and nobody else does it; however it ends is written down."""
    work = Work.take(work_id)
    if work is None:
        return
    do, failed = _DO[work.kind]
    try:
        if work.tries > MOST_TRIES:
            raise BadDocument(
                f"The {failed}: it ended without a word {MOST_TRIES} times.", hint="Try it with something smaller."
            )
        with _held(work):
            made = do(work)
        work.say(status=Status.DONE, working_on="", share=1.0, brought=None, **made)
    except Stopped:
        work.end()
    except WimpleError as bad:
        said = bad.as_dict(work.workshop.style)
        work.end(status=Status.FAILED, error={**said, "places": list(bad.places)})
    except Exception:
        logging.getLogger("wimple").exception("%s", work)
        work.end(
            status=Status.FAILED,
            error=error_body("our_fault", f"The {failed}, and it is not your doing.", "Try again."),
        )


def start(work: Work) -> Work:
    """Have a work done, which is written down with its task or not at all; others of its kind and about the same that
    are over are forgotten."""
    with transaction.atomic():
        work.lease = timezone.now() + WAIT
        work.save()
        same = Work.objects.filter(workshop=work.workshop, job=work.job, kind=work.kind)
        same.exclude(pk=work.pk).exclude(status__in=LEFT).delete()
        _enqueue(work.pk)
    work.refresh_from_db()
    return work


def _enqueue(pk: int) -> None:
    """Put a work into the queue of its kind: in the transaction under way where that is in the same database, else
    after it."""
    cuts = Work.objects.filter(pk=pk, kind=Work.Kind.CUT).exists()
    there = carry_out.using(queue_name=settings.CUTTING) if cuts else carry_out
    if carry_out.get_backend().__class__.__module__.startswith(("django_tasks_db", "django_tasks.backends.immediate")):
        there.enqueue(pk)
    else:
        transaction.on_commit(lambda: there.enqueue(pk))


def take_up(work: Work) -> None:
    """Enqueue a work again."""
    with transaction.atomic():
        Work.objects.filter(pk=work.pk, status=Status.WAITING).update(lease=timezone.now() + WAIT)
        _enqueue(work.pk)


def take_up_stale() -> int:
    """Enqueue again what nobody does any more, since whoever did it is gone; returns how many."""
    stale = list(Work.objects.filter(ended_by(timezone.now()), status__in=LEFT).only("pk"))
    for work in stale:
        take_up(work)
    return len(stale)


def take_up_again() -> int:
    """Enqueue what was waiting or running when the program was last stopped; returns how many."""
    Work.objects.filter(status=Status.RUNNING).update(status=Status.WAITING)
    left = list(Work.objects.filter(status__in=LEFT).only("pk"))
    for work in left:
        take_up(work)
    return len(left)
