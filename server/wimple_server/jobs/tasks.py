"""Long work: making all files of a job. It reports progress, can be stopped, and is taken up again after a restart."""

from __future__ import annotations

import logging

from django_tasks import task
from wimple_core.errors import WimpleError
from wimple_core.export import all_files, zip_files
from wimple_core.job import load_job
from wimple_core.pipeline import build

from ..errors import error_body
from .models import Export


class Stopped(Exception):
    """Somebody asked for this work to stop."""


def _report(export: Export, **change: object) -> None:
    """Write progress down, unless the work was stopped meanwhile. Raises Stopped."""
    if not Export.objects.filter(pk=export.pk).exclude(status=Export.Status.STOPPED).update(**change):
        raise Stopped


@task()
def make_files(export_id: int) -> None:
    """Make the zip of one export."""
    export = Export.objects.select_related("job__workshop").filter(pk=export_id).first()
    if export is None or export.status in (Export.Status.DONE, Export.Status.STOPPED):
        return
    style = export.job.workshop.length_style
    try:
        _report(export, status=Export.Status.RUNNING)
        drawings = export.job.drawing_bytes()
        built = build(load_job(export.document), drawings, progress=lambda step: _report(export, working_on=step))
        files = all_files(built, drawings, style, lambda n, total, name: _report(export, done=n, total=total, working_on=name))
        _report(export, status=Export.Status.DONE, zip=zip_files(files), names=[f.path for f in files], working_on="")
    except Stopped:
        return
    except WimpleError as bad:
        Export.objects.filter(pk=export.pk).update(status=Export.Status.FAILED, error=bad.as_dict())
    except Exception:
        logging.getLogger("wimple").exception("export %s", export_id)
        Export.objects.filter(pk=export.pk).update(
            status=Export.Status.FAILED,
            error=error_body("our_fault", "The files could not be made, and it is not your doing.", "Try again."),
        )


def take_up_again() -> int:
    """Enqueue what was waiting or running when the program was last stopped; returns how many."""
    left = Export.objects.filter(status__in=[Export.Status.WAITING, Export.Status.RUNNING])
    for export in left:
        make_files.enqueue(export.pk)
    return len(left)
