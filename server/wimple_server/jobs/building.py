"""Building jobs for the screens: one cache for the process, and as far down the street as a job goes."""

from __future__ import annotations

import contextlib
import json
import socket
import time
from collections.abc import Container, Generator, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from django.conf import settings
from wimple_core.artwork import make_artwork
from wimple_core.built import (
    ALTERNATIVES,
    REMEDIES,
    STEP_OF,
    Build,
    Stage,
    Stop,
    stages_after,
    stages_shown,
    stages_upto,
)
from wimple_core.cache import Breathing, StageCache
from wimple_core.errors import BadDocument, TooMuch, WimpleError
from wimple_core.fit import first_placement, first_reference
from wimple_core.job import Job as JobDocument
from wimple_core.job import load_job
from wimple_core.job.document import Placement, Reference, Source
from wimple_core.job.makeable import MAKEABLE, Makeable
from wimple_core.job.recipes import JarInsert, Tally
from wimple_core.measure.capacity import round_quantities
from wimple_core.measure.kinds.insert import disc_of
from wimple_core.pipeline import Moment, Street, walked
from wimple_core.remedies import Remedy, wanted
from wimple_core.verdict import Step
from wimple_core.views.card import TicketView, ticket_view
from wimple_core.views.scene import DoingView, RestedView, SceneWriter

from ..cutters.keeping import tables_of
from ..deadline import TooLong, no_longer_than
from ..lanes import AGAIN_AFTER_S, LANES, Lane, Late
from ..reading import read_apart
from ..workshops.models import KeptResults
from .models import Job, head_of

CACHE = StageCache(400, settings.CACHE_BYTES)
LATER = "worn"
BESIDE_DEG = 90.0
SHOW_AFTER_S = 0.1
"""A build that has taken so long shows what is laid before its layers are made."""


def _in_time(steps: Generator[Moment, None, Build]) -> Generator[Moment, None, Build]:
    """The same steps, ended where they take longer than a build is given: what was built before it stands."""
    until = time.monotonic() + settings.BUILD_CLOCK_S
    last: Moment | None = None
    while True:
        try:
            with no_longer_than(until - time.monotonic()):
                last = next(steps)
        except StopIteration as end:
            built: Build = end.value
            return built
        except TooLong:
            assert last is not None, "there is always time to say what comes first"
            stage, so_far = last
            return replace(so_far, stopped=Stop(stage, _late(stage, settings.BUILD_CLOCK_S)))
        yield last


def _late(stage: Stage, seconds: float) -> TooMuch:
    return TooMuch(
        f"The {STEP_OF[stage]} step takes more than {seconds:.0f} s.",
        hint="Undo what was changed last, or simplify the drawing.",
    )


def _street(job: Job, document: JobDocument) -> Street:
    return Street(
        document,
        job.files(),
        CACHE,
        at_once=False,
        tables=tables_of(job),
        kept=KeptResults(job.workshop_id),
        run=read_apart,
    )


def built_upto(job: Job, document: JobDocument, upto: Step, leave: Container[Stage] = ()) -> Build:
    """A job as built up to a step, without alternatives, remedies, and the stages of `leave`."""
    stages = [s for s in stages_upto(upto) if s not in (*ALTERNATIVES, *REMEDIES) and s not in leave]
    return walked(_in_time(_street(job, document).walk(stages)))


@dataclass(frozen=True)
class Asked:
    """What is asked of a job: the scene of which step of a document, without the parts that are there already (`have`);
    and whether the rest is to be looked at afterwards, in the lane of a member's `page`, as long as their `line` is
    open."""

    job: Job
    document: JobDocument
    step: Step
    have: Iterable[str] = ()
    rest: bool = False
    member: str = ""
    page: str = ""
    line: socket.socket | None = None


def scene_in_lines(asked: Asked) -> Iterator[bytes]:
    """The scene of one step of a job as it comes, whether the document is saved or not: lines of JSON, each a
    `DoingView` or a `Scene`, the last one of which is whole; then, where that is asked for, a `LaterView` for each of
    what is left to look at, and a `RemediesView` for each remedy that was tried and helps. Raises WimpleError, before
    the first line, for a document that cannot even be measured."""
    street = _street(asked.job, asked.document)
    written: SceneWriter | None = None
    steps = _foreground(asked, street)
    while True:
        # Who reads slowly keeps no lane waiting.
        with LANES.foreground():
            what = next(steps, None)
        if isinstance(what, bytes):
            yield what
        else:
            written = what
            break
    if not asked.rest or written is None:
        return
    left = [stage for stage in stages_after(asked.step) if not street.built().judged(stage)]
    if left or wanted(street.built()):
        yield from _in_lane(asked, street, written, left)
    else:
        yield written.remedies((), True) + b"\n"


def _foreground(asked: Asked, street: Street) -> Iterator[bytes | SceneWriter]:
    """The lines of the open step, and at last what wrote them."""
    style, began, step, have = asked.job.workshop.style, time.monotonic(), asked.step, asked.have
    stages = stages_shown(step)
    steps = _in_time(street.walk(stages))
    shown = step not in ("unwrap", "artwork")
    while True:
        try:
            stage, so_far = next(steps)
        except StopIteration as end:
            written = SceneWriter(end.value, style, step, CACHE, have)
            if LATER in written.large:
                # The drawing is seen before what the object wears has come.
                yield written.json(whole=False, leave=(LATER,)) + b"\n"
            yield written.json() + b"\n"
            yield written
            return
        if stage == "measure":
            continue
        so_far.body  # noqa: B018
        if stage == "films" and not shown and time.monotonic() - began > SHOW_AFTER_S:
            # What is laid can be seen already while the object is dressed.
            written = SceneWriter(so_far, style, step, CACHE, have)
            yield written.json(whole=False) + b"\n"
            have = written.have
        doing = DoingView(doing=STEP_OF[stage], share=stages.index(stage) / len(stages))
        yield doing.model_dump_json().encode() + b"\n"


def _in_lane(asked: Asked, street: Street, written: SceneWriter, stages: list[Stage]) -> Iterator[bytes]:
    """The lines of what is left to look at, made in a lane."""

    def pieces(lane: Lane) -> Iterator[bytes]:
        cache = Breathing(CACHE, lane.breathe)
        for stage in stages:
            try:
                with lane.within(settings.LANE_CLOCK_S):
                    street.later(stage, cache)
            except Late:
                street.break_off(stage, _late(stage, settings.LANE_CLOCK_S))
            yield written.later(street.built(), stage, cache) + b"\n"
        found: list[Remedy] = []
        for trying in street.remedies(cache, asked.step):
            # One that takes too long is not offered.
            remedy = None
            with contextlib.suppress(Late), lane.within(settings.LANE_CLOCK_S):
                remedy = trying()
            if remedy is not None:
                found.append(remedy)
                yield written.remedies(found, False) + b"\n"
        yield written.remedies(found, True) + b"\n"

    with LANES.lane(asked.member, asked.page, pieces) as lane:
        if lane is None:
            yield RestedView(again_after=AGAIN_AFTER_S).model_dump_json().encode() + b"\n"
        else:
            yield from lane.lines(asked.line)


def scene_for(asked: Asked) -> bytes:
    """The same whole, as one JSON document."""
    with LANES.foreground():
        built = walked(_in_time(_street(asked.job, asked.document).walk(stages_shown(asked.step))))
        return SceneWriter(built, asked.job.workshop.style, asked.step, CACHE, asked.have).json()


def suggested_placement(job: Job, width: float, height: float) -> Placement:
    """Where a drawing of that size (mm) goes first on a job's blank as it was saved."""
    b = built_upto(job, job.load(), "unwrap")
    if b.measured is None:
        return Placement()
    closed = b.template is not None and b.template.surface.closed
    return first_placement(b.template.limits if b.template else b.measured.free, closed, width, height)


def suggested_reference(job: Job, file: str, width: float, height: float) -> Reference:
    """Where a picture to work by of so many pixels lies first on a job's blank as it was saved."""
    return first_reference(built_upto(job, job.load(), "unwrap").template, file, width, height)


def makeable(make: str) -> Makeable:
    """What can be made, by its id. Raises BadDocument."""
    found = next((m for m in MAKEABLE if m.id == make), None)
    if found is None:
        known = ", ".join(m.id for m in MAKEABLE)
        raise BadDocument(f"“{make}” is nothing that can be made.", field="make", hint=f"Choose one of: {known}.")
    return found


def suggested_source(job: Job, starts: Makeable) -> tuple[Source, Placement]:
    """Something made without a file, its lengths changed so that it is as large as goes first on a job's blank as it
    was saved, and where. What has its measures from elsewhere than the blank is made smaller only."""

    def made(source: dict[str, Any]) -> Source:
        return load_job({**job.document, "elements": [{"source": source}]}).elements[0].source

    source = made(starts.starts)
    if source.of_blank:
        b = built_upto(job, job.load(), "unwrap")
        if isinstance(source, Tally):
            return _standing(job, source, b)
        disc = disc_of(b.job.blank, b.measured) if b.measured else None
        if isinstance(source, JarInsert) and disc is not None:
            # On what is an insert already: where that is, its words as much smaller as it is.
            factor = min(1.0, 2 * disc[0] / (source.inside_mm - 2 * source.clearance_mm))
            smaller = {f: max(round(getattr(source, f) * factor, 1), 0.5) for f in ("face_mm", "caution_mm")}
            return source.model_copy(update=smaller), Placement(up_mm=round(disc[0], 2))
    left, low, right, high = make_artwork(source).bounds
    placement = suggested_placement(job, right - left, high - low)
    factor = placement.width_mm / (right - left)
    if starts.group != "words":
        factor = min(factor, 1.0)
    raw = source.model_dump(mode="json")
    for path, mm in source.sizes.items():
        put(raw, path, max(round(mm * factor, 1), 0.5) if factor != 1 else mm)
    return made(raw), placement


def _standing(job: Job, source: Tally, b: Build) -> tuple[Source, Placement]:
    """What stands by the blank's own heights: with quantities that it holds."""
    amounts = round_quantities(b.job.blank, b.measured.body) if b.measured else []
    raw = source.model_dump(mode="json")
    if amounts:
        raw["quantities"] = " ".join(f"{ml:g}" for ml in amounts)
    # Beside the face, and off the seam, which goes up the back as a rule.
    placement = Placement(centre_deg=BESIDE_DEG if b.template and b.template.surface.closed else 0.0)
    return load_job({**job.document, "elements": [{"source": raw}]}).elements[0].source, placement


def put(raw: dict[str, Any], path: str, value: object) -> None:
    """Set what lies at a path of a document."""
    *above, last = path.split(".")
    for name in above:
        raw = raw[name]
    raw[last] = value


def write_ticket(job: Job) -> None:
    """Write what a ticket on the Bench shows, for the job as it is; figures in its sentence are still to be written
    out."""
    try:
        ticket = ticket_view(built_upto(job, job.load(), "price", leave=("cutting",)))
    except WimpleError as bad:
        first = bad.carried[0]
        sentence = f"{first.message} {first.hint}".strip()
        ticket = TicketView(
            outline=[], paints=[], bounds=(0.0, 0.0, 1.0, 1.0), worst="stop", step="measure", sentence=sentence
        )
    head = head_of(job.document)
    Job.objects.filter(pk=job.pk, revision=job.revision).update(
        ticket=json.dumps({**head, **ticket.model_dump(mode="json", exclude={"sentence"})}, separators=(",", ":")),
        sentence=ticket.sentence,
        ticket_revision=job.revision,
    )
