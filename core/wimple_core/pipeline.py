"""The street: a job walks through its stages in the order in which the maker works.

Each stage is a function of frozen values, and its result is kept under what it reads, so that a change is computed
from the first stage that sees it. A stage that cannot go on ends the street there; what was built before it stands.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Generator, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import shapely
from shapely.geometry.base import BaseGeometry

from .apart import Progress as SlowProgress
from .apart import Run, here
from .artwork import ColourRegion
from .artwork.recipes import NOTHING_SAID, Disc, OfBlank
from .bringing import Bringer
from .built import ALTERNATIVES, NEEDS, REMEDIES, STAGES, STEP_OF, Build, Stage, Stop, stages_upto
from .cache import Caching, Key, Result, StageCache
from .cuts import together as all_cuts
from .cutting import plan_cutting
from .errors import BadDocument, CannotTell, NotMade, WimpleError, seen_from
from .files import Files, as_files
from .fit import Fit, Named, NamedRow, Separated, edited, fit, name_rows
from .fit.place import Still
from .job import Job
from .job.blank import BlankBase
from .job.document import Base, Element
from .job.panels import MeshBlank
from .job.tables import SHIPPED, Tables
from .layers import Films, Layers, make_films, make_layers, mending_of, moved, with_mending
from .layers.layer import with_tick
from .layers.marks import centre_tick
from .layers.pile import Sheet
from .layers.verdicts import base_verdict, marks_looked_at
from .layup import plan_layup
from .measure import files_of, given_of, measure
from .measure.capacity import heights_in
from .measure.flat_bodies import MeshBody
from .measure.kinds.insert import disc_of
from .pricing import price_job
from .remedies import Remedy, tried, wanted
from .sheets import Planned, plan_names, plan_sheets, with_other_ways
from .sheets.loads import Load, Loads, medium_of
from .sheets.pages import pages_of, with_pages
from .sheets.search import Searched, Show, closer_lay, unseen
from .slow import Kept, NothingKept, Wanted, flat_patch
from .surface import Laying, unwrap
from .surface.extent import Extent, extent_of
from .surface.patch import Patch
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
    planned: Planned | None = None
    read_from: dict[str, Key] = field(default_factory=dict)
    took: dict[Stage, float] = field(default_factory=dict)
    broke: dict[Stage, WimpleError] = field(default_factory=dict)
    still: Layers | None = None
    """The layers where they lie still, if all of them move as one and rigidly."""
    lying: Key = ()
    """What tells those from others."""

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
            f.get("films"),
            f.get("layers"),
            f.get("sheets"),
            f.get("cutting"),
            f.get("layup"),
            f.get("price"),
            stopped,
            dict(self.keys),
            tuple(self.bring.asked),
            dict(self.took),
            dict(self.broke),
        )

    def go(self, stage: Stage) -> WimpleError | None:
        """Make a stage of what was found so far; what it broke on, if it did."""
        began = time.perf_counter()
        try:
            getattr(self, stage)()
        except WimpleError as bad:
            return bad
        except Exception:
            # No document may break what shows others; what was built before it stands.
            logging.getLogger("wimple").exception("stage %s", stage)
            return _our_fault(stage)
        finally:
            self.took[stage] = time.perf_counter() - began
        return None

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
        says = self._says if source.of_blank else NOTHING_SAID
        made = self.bring.made(source, widest, says, self.keys["measure"], bool(element.printed))
        left, _, right, _ = made.value.frame
        scale = element.scale(right - left)
        for n, edit in enumerate(element.edits):
            key = ("edited", made.number, n, edit, scale if edit.on_blank else 0.0)
            made = cache.result(key, lambda was=made, n=n, edit=edit: edited(was.value, edit, n, scale))  # type: ignore[misc]
        return made

    @property
    def _says(self) -> OfBlank:
        """What the blank says of what is drawn by its measures."""
        blank, measured = self.job.blank, self.found["measure"]
        disc = disc_of(blank, measured)
        return OfBlank(heights_in(blank, measured.body), Disc(*disc) if disc else None)

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

    @property
    def _still(self) -> Still | None:
        """The artwork where it lies still, if all of it moves as one and rigidly."""
        still: Still | None = self.found["artwork"].still
        return still

    @property
    def _sheet(self) -> Sheet | None:
        """The blank, where it is cut out with what is on it."""
        blank, template = self.job.blank, self.found["unwrap"]
        return None if blank.cut_out is None else Sheet(template.outline, blank.colour, blank.cut_out)

    def films(self) -> None:
        still, fit, job = self._still, self.found["artwork"], self.job
        key: Key = self.keys["artwork"] if still is None else ("still", *still.key)
        key = (*key, job.layers, job.blank.grounds, self.tables.films, self.tables.colours)
        if self._sheet is not None:
            key = (*key, *self.keys["unwrap"], job.blank.cut_out)
        colours = fit.colours if still is None else still.colours
        self.keep("films", key, lambda: self._made_films(colours, fit))

    def _made_films(self, colours: tuple[ColourRegion, ...], fit: Fit) -> Films:
        """Colours as films; what is printed is cut out with its page."""
        job, get = self.job, self.bring.cache.get
        sheet = None if fit.printed else self._sheet
        return make_films(colours, job.layers, job.blank.grounds, self.tables, get, sheet)

    def layers(self) -> None:
        """The layers as they lie: what moves rigidly is parted into layers once, and moved."""
        still, template, result = self._still, self.found["unwrap"], self.bring.cache.result
        films, move = self.found["films"], (0.0, 0.0) if still is None else still.move
        key = (*self.keys["films"], self.tables.log.pace, self._box, *(() if still else self.keys["unwrap"]))
        made = result(("layers made", *key), lambda: self._made_layers(films))
        # The tick stands on the template's centre line, however the work lies there.
        tick = self._tick(made.value, films, -move[0])
        at = None if tick is None else tick.bounds
        self.lying = ("lying", made.number, at)
        self.still = lying = result(self.lying, lambda: marks_looked_at(with_tick(made.value, tick))).value
        base = self.job.layers.base
        # What goes all round has no edge at its sides.
        open_sides = not (template.surface.closed and template.limits.all_round)
        based = lying.under > lying.sheet and base is not None and open_sides
        key = (*self.lying, move, *(self.keys["unwrap"] if based else ()))
        self.keep("layers", key, lambda: self._laid_layers(lying, move, base if based else None))

    def _made_layers(self, films: Films) -> Layers:
        """Films as layers, where they lie still."""
        job, slits, cache = self.job, self.found["unwrap"].slit_lines, self.bring.cache
        grounds = job.blank.grounds
        return make_layers(films, job.layers, grounds, self.tables, slits, self._box, cache.get, cache.at_once)

    def _tick(self, made: Layers, films: Films, x: float) -> BaseGeometry | None:
        marks = self.job.layers.marks
        if len(made.layers) < 2 or marks.kind == "none" or not marks.centre:
            return None
        placed = all_cuts(la.cuts.only("piece", "hole", "mark") for la in made.layers).bounds
        return centre_tick(marks, films.regions, placed, x)

    def _laid_layers(self, lying: Layers, move: tuple[float, float], base: Base | None) -> Layers:
        made, template = moved(lying, move), self.found["unwrap"]
        if base is None:
            return made
        over = base_verdict(made.layers[made.under - 1].region, template.free, base.outline_mm)
        return replace(made, verdicts=(*made.verdicts, *([over] if over else [])))

    def mends(self) -> None:
        """What every way of mending would change, for the verdicts of the layers that are there already."""
        films, layers, get = self.found["films"], self.found["layers"], self.bring.cache.get
        mending = self.keep("mends", self.keys["films"], lambda: mending_of(films, self.job.layers, get))
        key = ("mending", *self.keys["layers"], *self.keys["mends"])
        self.found["layers"] = get(key, lambda: with_mending(layers, mending))

    @property
    def _box(self) -> float:
        """How far the weed box stands from the work, mm."""
        return self.job.sheets.frame_mm

    def sheets(self) -> None:
        """The loads: they do not depend on where on the blank the layers lie, as long as they lie there alike."""
        job, tables = self.job, self.tables
        plan = job.sheets.model_copy(update={"setting": "", "overcut_mm": 0.0})
        key: Key = (plan, job.quantity, tables.cutters, tables.stock, tables.remnant_mm)
        if any(e.printed for e in job.elements):
            key = (*key, *self.keys["artwork"], job.layers.default_film)
        if job.names is not None:
            key = (*self.keys["layers"], *key, *self.keys["names"])
            self.keep("sheets", key, self._sheets_of_rows)
            return
        assert self.still is not None
        made = self.still
        wanted = plan.lay == "searched" and bool(made.layers) and (job.quantity > 1 or plan.pieces == "loose")
        closer = self._closer(made) if wanted else None
        looking = wanted and closer is None
        key = (*self.lying, *key, closer is None)
        planned = self.bring.cache.result(
            ("planned", *key), lambda: plan_sheets(made, plan, job.quantity, tables, closer, looking)
        )
        self.planned = planned.value
        pages = self._pages(self.found["names"].row.elements, self.found["artwork"])
        self.keep("sheets", key, lambda: with_pages(planned.value.loads, pages))

    def ways(self) -> None:
        """What other ways of laying the batch would take."""
        made, loads, marks = self.found["layers"], self.found["sheets"], self.job.layers.marks
        planned = self.planned
        if planned is not None:
            self.keep("ways", (*self.keys["sheets"], marks), lambda: with_other_ways(planned, loads, made, marks))
            self.found["sheets"] = self.found["ways"]
        else:
            self.keep("ways", self.keys["sheets"], lambda: loads)

    def _pages(self, elements: tuple[Element, ...], fit: Fit) -> tuple[Load, ...]:
        """What is printed of elements and cut."""
        job, tables = self.job, self.tables
        if not any(e.printed for e in elements):
            return ()
        cutter = tables.cutter(job.sheets.cutter, "sheets.cutter")
        return pages_of(fit, elements, tables, cutter, job.layers.default_film, job.quantity, self._sheet)

    def _sheets_of_rows(self) -> Loads:
        """Loads of a whole list of names."""
        rows = self._each_row()
        shown = self.found["artwork"]
        layers = {n: self.found["layers"] if lies is shown else self._of_row(lies) for n, (_, lies) in rows.items()}
        pages = [page for elements, lies in rows.values() for page in self._pages(elements, lies)]
        return with_pages(plan_names(layers, self.job.sheets, self.job.quantity, self.tables), tuple(pages))

    def _of_row(self, lies: Fit) -> Layers:
        """The layers of another line of the list."""
        job, get = self.job, self.bring.cache.get
        still = lies.still

        def make() -> Layers:
            colours = lies.colours if still is None else still.colours
            films = self._made_films(colours, lies)
            made = self._made_layers(films)
            return with_tick(made, self._tick(made, films, 0.0 if still is None else -still.move[0]))

        if still is None:
            return make()
        of = (job.layers, job.blank.grounds, self.tables.films, self.tables.colours, self.tables.log.pace, self._box)
        return moved(get(("row", *still.key, still.move[0], *of), make), still.move)

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
            (*self.keys["sheets"], self.job.sheets.overcut_mm),
            lambda: plan_cutting(self.found["sheets"], self.job.sheets, self.bring.cache.get),
        )

    def layup(self) -> None:
        cost = self.job.blank_cost
        read = (*self.keys["measure"], *self.keys["artwork"], *self.keys["layers"], *self.keys["sheets"])
        key = (*read, self.job.layup, self.tables.tapes, cost)
        f = self.found
        self.keep(
            "layup",
            key,
            lambda: plan_layup(
                f["measure"], self._extent(), f["layers"], f["sheets"], self.job.layup, self.tables, cost, self._bleed
            ),
        )

    def _extent(self) -> Extent | None:
        """How far all that is laid reaches, borders of what is printed included."""
        fit: Fit = self.found["artwork"]
        borders = {e.id: e.printed.border_mm for e in self.found["names"].row.elements if e.printed}
        bordered = [(borders[d.element], c.seen) for d in fit.drawings if d.element in borders for c in d.colours]
        printed = [shapely.buffer(seen, border) for border, seen in bordered]
        return extent_of([*(la.region for la in self.found["layers"].layers), *printed], self.found["unwrap"].surface)

    @property
    def _bleed(self) -> float:
        """How far a pattern stands over the edge, to be trimmed in place, mm."""
        return max((e.pattern.bleed_mm for e in self.job.elements if e.pattern), default=0.0)

    def price(self) -> None:
        job, f = self.job, self.found
        layers = f["layers"].layers
        weeding = sum(la.weeding.minutes for la in layers)
        read = (*self.keys["layers"], *self.keys["sheets"], *self.keys["layup"])
        key = (*read, job.price, job.blank_cost, job.pieces, self.tables.tapes)
        plan = job.price.model_copy(update={"blank_cost": job.blank_cost})
        made = (f["sheets"], plan, f["layup"], job.pieces, self.tables, weeding, len(layers))
        self.keep("price", key, lambda: price_job(*made))


def _our_fault(stage: Stage) -> CannotTell:
    return CannotTell(
        f"From what was typed the {STEP_OF[stage]} step cannot be worked out, and it is not your doing.",
        hint="Undo what was changed last; whoever runs the program finds more in its log.",
    )


class Street:
    """One walk of a job down the street, which can be gone on with.

    Files are read by `run`. Slow results that are not in `kept` are made here only if `at_once`; else the build says
    which it waits for.
    """

    def __init__(
        self,
        job: Job,
        files: Files | Mapping[str, bytes],
        cache: Caching | None = None,
        at_once: bool = True,
        tables: Tables = SHIPPED,
        kept: Kept | None = None,
        run: Run = here,
    ) -> None:
        keep = NothingKept() if kept is None else kept
        self._bring = Bringer(job.blank, as_files(files), cache or StageCache(), keep, at_once, run)
        self._walk = _Walk(job, self._bring, tables)
        self._stopped: Stop | None = None

    def built(self) -> Build:
        """What is built so far."""
        return self._walk.built(self._stopped)

    def walk(self, stages: Iterable[Stage]) -> Generator[tuple[Stage, Build], None, Build]:
        """Make stages in their order, as far as it goes: before each its name and what is built so far is yielded, and
        at the end all of it returned. What stopped it is in the build; `whole` raises it."""
        for stage in stages:
            yield stage, self.built()
            bad = self._walk.go(stage)
            if bad is not None:
                self._stopped = Stop(stage, bad)
                break
        return self.built()

    def later(self, stage: Stage, cache: Caching) -> None:
        """Go on with a stage, kept in `cache`, if what it needs is there. What breaks is told in the build, and what
        does not need it can be made all the same."""
        self._bring.cache = cache
        if self.built().judged(stage) or NEEDS[stage] not in self._walk.keys:
            return
        bad = self._walk.go(stage)
        if bad is not None:
            self._walk.broke[stage] = bad

    def remedies(self, cache: Caching, first: Step | None = None) -> Iterator[Callable[[], Remedy | None]]:
        """What tries, one after the other, what would mend the verdicts that were found, those of one step `first`,
        each by building the job with it in; kept in `cache`."""
        before, bring, tables = self.built(), self._bring, self._walk.tables

        def rebuild(job: Job) -> Build:
            street = Street(job, bring.files, cache, bring.at_once, tables, bring.kept, bring.run)
            return walked(street.walk(JUDGED))

        for v in wanted(before, first):
            key = ("remedy", *before.keys.values(), v.code, v.field, v.subject, repr((v.fix, v.fixes, v.others)))
            yield lambda v=v, key=key: cache.get(key, lambda: tried(v, before, rebuild))  # type: ignore[misc]

    def break_off(self, stage: Stage, why: WimpleError) -> None:
        """Take a stage that was not made as one that cannot be."""
        self._walk.broke[stage] = why


Moment = tuple[Stage, Build]
JUDGED = tuple(s for s in STAGES if s not in (*ALTERNATIVES, *REMEDIES, "cutting"))
"""All that a job is judged by, the order of its cuts apart."""


def walked(steps: Generator[Moment, None, Build], progress: Progress = lambda stage: None) -> Build:
    """Walk to the end of some steps. `progress` hears of each stage before it begins, and may raise to stop."""
    while True:
        try:
            progress(next(steps)[0])
        except StopIteration as end:
            built: Build = end.value
            return built


def building(
    job: Job, files: Files | Mapping[str, bytes], upto: Step = "price", cache: Caching | None = None, **more: Any
) -> Generator[tuple[Stage, Build], None, Build]:
    """Build a job as far as a step of the work, or as far as it goes, with all alternatives and ways of mending: as
    `Street.walk`, which takes `more`."""
    return Street(job, files, cache, **more).walk(stages_upto(upto))


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
    return walked(building(job, files, upto, cache, **more), progress)


def remedies_of(
    job: Job, files: Files | Mapping[str, bytes], cache: StageCache | None = None, **more: Any
) -> list[Remedy]:
    """All that mends a job's verdicts, each tried by building the job with it in."""
    cache = cache or StageCache()
    street = Street(job, files, cache, **more)
    walked(street.walk(JUDGED))
    return [found for one in street.remedies(cache) if (found := one()) is not None]


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
        for stage in (
            walk.measure,
            walk.unwrap,
            walk.names,
            walk.read,
            walk.artwork,
            walk.films,
            walk.layers,
            walk.sheets,
        ):
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
