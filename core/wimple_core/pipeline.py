"""The street: a job walks through its stages in the order in which the maker works.

Each stage is a function of frozen values, and its result is kept under what it reads, so that a change is computed
from the first stage that sees it. A stage that cannot go on ends the street there; what was built before it stands.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Container, Generator, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from .apart import Progress as SlowProgress
from .apart import Run, here
from .bringing import Bringer
from .built import STAGES, STEP_OF, Build, Stage, Stop
from .cache import Key, Result, StageCache
from .cuts import together as all_cuts
from .cutting import plan_cutting
from .errors import BadDocument, CannotTell, NotMade, WimpleError, seen_from
from .files import Files, as_files
from .fit import Fit, Named, NamedRow, Separated, edited, fit, name_rows
from .job import Job
from .job.blank import BlankBase
from .job.document import Element
from .job.panels import MeshBlank
from .job.tables import SHIPPED, Tables
from .layers import Layers, make_layers, moved
from .layers.layer import with_tick
from .layers.marks import centre_tick
from .layers.verdicts import base_verdict
from .layup import plan_layup
from .measure import files_of, given_of, measure
from .measure.capacity import heights_in
from .measure.flat_bodies import MeshBody
from .overlay import together
from .pricing import price_job
from .sheets import plan_names, plan_sheets
from .sheets.loads import Load, Loads, medium_of
from .sheets.pages import pages_of, with_pages
from .sheets.search import Searched, Show, closer_lay, unseen
from .slow import Kept, NothingKept, Wanted, flat_patch
from .surface import Laying, unwrap
from .surface.patch import Patch
from .surface.template import Template
from .verdict import Step

T = TypeVar("T")
Progress = Callable[[Stage], None]
INLINE_TRIANGLES = 6000
"""A patch of more than that takes so long that it is waited for."""


@dataclass
class _Walk:
    """One walk down the street: what it was given, and what it found so far."""

    job: Job
    bring: Bringer
    tables: Tables
    show: Show = unseen
    found: dict[str, Any] = field(default_factory=dict)
    keys: dict[Stage, Key] = field(default_factory=dict)
    read_from: dict[str, Key] = field(default_factory=dict)

    def keep(self, stage: Stage, key: Key, make: Callable[[], T]) -> T:
        made = self.bring.cache.result((stage, *key), make)
        self.keys[stage] = (stage, made.number)
        self.found[stage] = made.value
        return made.value

    def built(self, stopped: Stop | None = None) -> Build:
        """What is built so far."""
        f = self.found
        return Build(
            self.job,
            self.tables,
            f.get("measure"),
            f.get("unwrap"),
            f.get("names"),
            f.get("read"),
            f.get("artwork"),
            f.get("layers"),
            f.get("sheets"),
            f.get("cutting"),
            f.get("layup"),
            f.get("price"),
            stopped,
            dict(self.keys),
            tuple(self.bring.asked),
        )

    def measure(self) -> None:
        blank: BlankBase = self.job.blank
        files = self.bring.files
        digests = tuple(files.digest(n) if n in files else "" for n in files_of(blank))
        given = given_of(blank, self.bring)
        self.keep("measure", (blank, digests, given.photo is None), lambda: measure(blank, given))

    def patch(self, body: MeshBody) -> Patch:
        blank = self.job.blank
        assert isinstance(blank, MeshBlank)
        choice = self.job.wrap.patch
        quick = choice.mode == "loop" or len(body.triangles) <= INLINE_TRIANGLES
        wanted = flat_patch(body, blank, self.bring.files.digest(blank.file), choice)
        found = self.bring.slow(wanted, quick)
        if found is None:
            raise NotMade(
                f"A patch of {len(body.triangles):,} triangles takes a while to flatten.",
                field="wrap.patch.mode",
                hint="Start its flattening: it is done once, with its progress shown.",
            )
        return found

    def unwrap(self) -> None:
        film = self.tables.film(self.job.layers.default_film, "layers.default_film")
        laying = Laying(self.job.wrap, film, self.tables.films)
        key = (*self.keys["measure"], self.job.wrap, film, self.tables.films)
        self.keep("unwrap", key, lambda: unwrap(self.found["measure"], laying, self.patch))

    def names(self) -> None:
        """The lines of its list of names, each with the elements as they are there."""
        job, bring = self.job, self.bring
        fonts = bring.font_digests(job)
        key = (job.elements, job.names, fonts)
        self.keep("names", key, lambda: name_rows(job.elements, job.names, bring.face, bring.cache.get, fonts))

    def read(self) -> None:
        """The elements of the line that is shown, each source read and separated."""
        out, keys, self.read_from = self._all_separated(self._row(self.found["names"].row))
        self.keep("read", keys, lambda: out)

    @staticmethod
    def _row(row: NamedRow) -> tuple[Element, ...]:
        if row.trouble is not None:
            raise row.trouble
        return row.elements

    def _all_separated(self, elements: tuple[Element, ...]) -> tuple[dict[str, Separated], Key, dict[str, Key]]:
        """Each element's source read and separated, as finely as its largest placement needs: by their ids, with a key
        for all, and what each was read from."""
        out, keys = dict[str, Separated](), dict[str, Key]()
        for i, element in enumerate(elements):
            with seen_from(f"elements.{i}", f"“{element.name}”: "):
                made = self._separated(element, elements)
            out[element.id] = made.value
            keys[element.id] = (made.number,)
        return out, tuple(keys.items()), keys

    def _separated(self, element: Element, among: tuple[Element, ...]) -> Result[Separated]:
        source, cache = element.source, self.bring.cache
        alike = (e for e in among if e.source.files == source.files)
        widest = max(p.width_mm for e in alike for p in e.placements)
        heights = heights_in(self.job.blank, self.found["measure"].body) if source.stands else None
        made = self.bring.made(source, widest, heights, self.keys["measure"])
        left, _, right, _ = made.value.frame
        scale = element.scale(right - left)
        for n, edit in enumerate(element.edits):
            key = ("edited", made.number, n, edit, scale if edit.on_blank else 0.0)
            made = cache.result(key, lambda was=made, n=n, edit=edit: edited(was.value, edit, n, scale))  # type: ignore[misc]
        return made

    def artwork(self) -> None:
        f, elements, get = self.found, self.found["names"].row.elements, self.bring.cache.get
        row: NamedRow = f["names"].row
        least, bases, rooms = self._least_stroke, row.bases, row.rooms
        key = (*self.keys["unwrap"], *self.keys["read"], elements, least, tuple(rooms.items()))
        self.keep(
            "artwork",
            key,
            lambda: fit(self.job.blank, elements, f["read"], f["unwrap"], get, self.read_from, least, bases, rooms),
        )

    @property
    def _least_stroke(self) -> float:
        """What is safe in the film, mm."""
        return self.tables.film(self.job.layers.default_film, "layers.default_film").least_stroke_mm

    def layers(self) -> None:
        fit = self.found["artwork"]
        key = (*self.keys["artwork"], self.job.layers, self.job.blank.grounds, *self._of_layers)
        self.keep("layers", key, lambda: self._layers_of(fit))

    def _layers_of(self, fit: Fit) -> Layers:
        made, marks, base = self._made_layers(fit), self.job.layers.marks, self.job.layers.base
        template: Template = self.found["unwrap"]
        # What goes all round has no edge at its sides.
        if made.based and base is not None and not (template.surface.closed and template.limits.all_round):
            over = base_verdict(made.layers[0].region, template.free, base.outline_mm)
            made = replace(made, verdicts=(*made.verdicts, *([over] if over else [])))
        if len(made.layers) < 2 or marks.kind == "none" or not marks.centre:
            return made
        work = together(la.region for la in made.layers)
        placed = all_cuts(la.cuts.only("piece", "hole", "mark") for la in made.layers).bounds
        # The template's centre line is where the front is, or the middle of what is flat.
        return with_tick(made, centre_tick(marks, work, placed, 0.0))

    def _made_layers(self, fit: Fit) -> Layers:
        slits = self.found["unwrap"].slit_lines
        plan, grounds, tables = self.job.layers, self.job.blank.grounds, self.tables
        still = None if len(slits) else fit.still
        if still is None:
            return make_layers(fit.colours, plan, grounds, tables, slits, self._box, self.bring.cache.get)
        # What moves rigidly is parted into layers once, wherever it lies.
        key = ("still", still.key, plan, grounds, *self._of_layers)
        get = self.bring.cache.get
        made = get(key, lambda: make_layers(still.colours, plan, grounds, tables, (), self._box, get))
        return moved(made, still.move)

    @property
    def _of_layers(self) -> Key:
        """What else than the job's own layers says what they become."""
        return (self.tables.films, self.tables.colours, self.tables.log.pace, self._box)

    @property
    def _box(self) -> float:
        """How far the weed box stands from the work, mm."""
        return self.job.sheets.frame_mm

    def sheets(self) -> None:
        job, tables = self.job, self.tables
        key = (*self.keys["layers"], job.sheets, job.quantity, tables.cutters, tables.stock, tables.remnant_mm)
        if any(e.printed for e in job.elements):
            key = (*key, *self.keys["artwork"], job.layers.default_film)
        if job.names is None:
            made, marks = self.found["layers"], job.layers.marks
            wanted = job.sheets.lay == "searched" and bool(made.layers)
            wanted = wanted and (job.quantity > 1 or job.sheets.pieces == "loose")
            closer = self._closer(made) if wanted else None
            looking = wanted and closer is None
            self.keep(
                "sheets",
                (*key, closer is None),
                lambda: with_pages(
                    plan_sheets(made, job.sheets, job.quantity, tables, marks, closer, looking),
                    self._pages(self.found["names"].row.elements, self.found["artwork"]),
                ),
            )
        else:
            key = (*key, *self.keys["names"])
            self.keep("sheets", key, self._sheets_of_rows)

    def _pages(self, elements: tuple[Element, ...], fit: Fit) -> tuple[Load, ...]:
        """What is printed of elements and cut."""
        job, tables = self.job, self.tables
        if not any(e.printed for e in elements):
            return ()
        cutter = tables.cutter(job.sheets.cutter, "sheets.cutter")
        return pages_of(fit, elements, tables, cutter, job.layers.default_film, job.quantity)

    def _sheets_of_rows(self) -> Loads:
        """Loads of a whole list of names."""
        rows = self._each_row()
        shown = self.found["artwork"]
        layers = {n: self.found["layers"] if lies is shown else self._layers_of(lies) for n, (_, lies) in rows.items()}
        pages = [page for elements, lies in rows.values() for page in self._pages(elements, lies)]
        return with_pages(plan_names(layers, self.job.sheets, self.job.quantity, self.tables), tuple(pages))

    def _closer(self, made: Layers) -> Searched | None:
        """A closer lay of the batch; None where it is still to be looked for."""
        cutter = self.tables.cutter(self.job.sheets.cutter, "sheets.cutter")
        plan, medium = self.job.sheets, medium_of(cutter)
        return self.bring.slow(closer_lay(made, plan, medium, self.job.quantity, self.show), quick=False)

    def _each_row(self) -> dict[int, tuple[tuple[Element, ...], Fit]]:
        """Every line of the list that can be made, as its elements lie."""
        named: Named = self.found["names"]
        out = {named.shown: (named.row.elements, self.found["artwork"])}
        for n, row in enumerate(named.rows):
            if n not in out and row.trouble is None:
                made, _, of = self._all_separated(row.elements)
                template = self.found["unwrap"]
                out[n] = row.elements, fit(self.job.blank, row.elements, made, template, self.bring.cache.get, of)
        return dict(sorted(out.items()))

    def cutting(self) -> None:
        self.keep(
            "cutting",
            self.keys["sheets"],
            lambda: plan_cutting(self.found["sheets"], self.job.sheets, self.bring.cache.get),
        )

    def layup(self) -> None:
        cost = self.job.price.blank_cost
        key = (*self.keys["sheets"], self.job.layup, self.tables.tapes, cost)
        f = self.found
        self.keep(
            "layup",
            key,
            lambda: plan_layup(f["measure"], f["artwork"], f["layers"], f["sheets"], self.job.layup, self.tables, cost),
        )

    def price(self) -> None:
        key = (*self.keys["layup"], self.job.price)
        f = self.found
        self.keep("price", key, lambda: price_job(f["sheets"], self.job.price, f["layup"], self.job.pieces))


def stages_upto(step: Step) -> Iterator[Stage]:
    """The stages that a step of the work needs, in their order."""
    last = max(STAGES.index(stage) for stage in STAGES if STEP_OF[stage] == step)
    yield from STAGES[: last + 1]


def _our_fault(stage: Stage) -> CannotTell:
    return CannotTell(
        f"From what was typed the {STEP_OF[stage]} step cannot be worked out, and it is not your doing.",
        hint="Undo what was changed last; whoever runs the program finds more in its log.",
    )


def building(
    job: Job,
    files: Files | Mapping[str, bytes],
    upto: Step = "price",
    cache: StageCache | None = None,
    at_once: bool = True,
    tables: Tables = SHIPPED,
    kept: Kept | None = None,
    skip: Container[Stage] = (),
    run: Run = here,
) -> Generator[tuple[Stage, Build], None, Build]:
    """Build a job as far as a step of the work, or as far as it goes: before each stage its name and what is built so
    far is yielded, and at the end all of it returned. What stopped it is in the build; `whole` raises it.

    Files are read by `run`. Stages of `skip` that nothing after them needs are left out. Slow results that are not in
    `kept` are made here only if `at_once`; else the build says which it waits for.
    """
    keep = NothingKept() if kept is None else kept
    bring = Bringer(job.blank, as_files(files), cache or StageCache(), keep, at_once, run)
    walk = _Walk(job, bring, tables)
    for stage in stages_upto(upto):
        if stage in skip:
            continue
        yield stage, walk.built()
        try:
            getattr(walk, stage)()
        except WimpleError as bad:
            return walk.built(Stop(stage, bad))
        except Exception:
            # No document may break what shows others; what was built before it stands.
            logging.getLogger("wimple").exception("stage %s", stage)
            return walk.built(Stop(stage, _our_fault(stage)))
    return walk.built()


def build(
    job: Job,
    files: Files | Mapping[str, bytes],
    upto: Step = "price",
    cache: StageCache | None = None,
    progress: Progress = lambda stage: None,
    **more: Any,
) -> Build:
    """The same at once, with what else `building` takes. `progress` hears of each stage before it begins, and may raise
    to stop."""
    steps = building(job, files, upto, cache, **more)
    while True:
        try:
            progress(next(steps)[0])
        except StopIteration as end:
            built: Build = end.value
            return built


def build_whole(job: Job, files: Files | Mapping[str, bytes], upto: Step = "price", **more: Any) -> Build:
    """The same where nothing stops it. Raises WimpleError for a job that cannot be built that far."""
    return build(job, files, upto, **more).whole()


def make_slow(
    job: Job,
    files: Files | Mapping[str, bytes],
    wanted: Wanted,
    progress: SlowProgress,
    tables: Tables = SHIPPED,
    run: Run = here,
    show: Show = unseen,
) -> bytes:
    """Make a slow result that a job waits for, to be kept; a lay that is looked for is shown as it gets better.

    Raises WimpleError as measuring, flattening and tracing do, and BadDocument where the job does not wait for it."""
    bring = Bringer(job.blank, as_files(files), StageCache(), NothingKept(), False, run)
    walk = _Walk(job, bring, tables, show)
    try:
        for stage in (walk.measure, walk.unwrap, walk.names, walk.read, walk.artwork, walk.layers, walk.sheets):
            stage()
            if wanted in bring.asked:
                break
    except WimpleError as bad:
        if wanted not in bring.asked and not isinstance(bad, NotMade):
            raise
    if wanted not in bring.asked:
        raise BadDocument("This job does not wait for that.", field="key", hint="Build it again to see what it wants.")
    slow = bring.asked[wanted]
    with seen_from(slow.below):
        return bytes(slow.write(slow.make(progress)))
