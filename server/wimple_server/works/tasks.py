"""Long work: files, photographs, patches, a Shelf brought in, tickets. It reports progress, can be stopped, and is
taken up again after a restart."""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Callable
from typing import Any

from django.db import transaction
from django_tasks import task
from wimple_core.errors import WimpleError, seen_from
from wimple_core.export import all_files, zip_files
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole, make_slow
from wimple_core.slow import Wanted, outline_in_photo
from wimple_core.taking_in import photo_in

from ..errors import error_body
from ..jobs.building import write_ticket
from ..jobs.models import Drawing, Job
from ..reading import read_apart
from ..shelf.keeping import import_shelf
from ..workshops.models import KeptResults
from .models import LEFT, Status, Stopped, Work

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
        tables=job.workshop.load_tables(),
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
    name = job.free_name(str(work.about["name"]).rpartition(".")[0] + ".jpg")
    with transaction.atomic():
        work.say(working_on="keeping it")
        Drawing.keep(job, name, photo.data, Drawing.Kind.PHOTO)
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
        job.workshop.load_tables(),
        read_apart,
    )
    work.say(working_on="keeping it")
    KeptResults(work.workshop_id).keep(wanted.kind, wanted.key, data)
    return {}


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


_DO: dict[str, tuple[Callable[[Work], Result], str]] = {
    Work.Kind.FILES: (_files, "files could not be made"),
    Work.Kind.PICTURE: (_picture, "photograph could not be read"),
    Work.Kind.PHOTO: (_slow, "outline could not be found"),
    Work.Kind.PATCH: (_slow, "patch could not be flattened"),
    Work.Kind.SHELF: (_shelf, "Shelf could not be brought in"),
    Work.Kind.TICKETS: (_tickets, "tickets could not be written"),
}
"""How each kind of work is done, and what is said where it fails by a fault of ours."""


@task()
def carry_out(work_id: int) -> None:
    """Do one work if it is still wanted; however it ends is written down."""
    work = Work.objects.select_related("workshop", "job__workshop").filter(pk=work_id, status__in=LEFT).first()
    if work is None:
        return
    do, failed = _DO[work.kind]
    try:
        work.say(status=Status.RUNNING)
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
    """Have a work done; others of its kind and about the same that are over are forgotten."""
    same = Work.objects.filter(workshop=work.workshop, job=work.job, kind=work.kind)
    same.exclude(pk=work.pk).exclude(status__in=LEFT).delete()
    carry_out.enqueue(work.pk)
    work.refresh_from_db()
    return work


def take_up_again() -> int:
    """Enqueue what was waiting or running when the program was last stopped; returns how many."""
    left = list(Work.objects.filter(status__in=LEFT).values_list("pk", flat=True))
    for pk in left:
        carry_out.enqueue(pk)
    return len(left)
