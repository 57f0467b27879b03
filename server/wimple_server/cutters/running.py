"""A load on a cutter: loaded, cut pass by pass, looked at, cut again in the same place, unloaded. What is done is
written down as it is done, so that it goes on where it broke and nothing is cut twice unasked."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
import shapely
from django.db import transaction
from django.utils import timezone
from wimple_core.cutting import CutPlan
from wimple_core.cutting.advice import blade_metres, smallest_piece
from wimple_core.cutting.found_marks import Lie
from wimple_core.cutting.frame import on_machine
from wimple_core.cutting.plotter import setting_commands
from wimple_core.cutting.seconds import path_length
from wimple_core.cutting.sending import CutterFault, Done, cut
from wimple_core.cutting.trial_cut import forces_round, trial_strokes
from wimple_core.errors import BadDocument, WimpleError
from wimple_core.job.cut_log import CutEntry, Setting
from wimple_core.job.shipped import Cutter
from wimple_core.sheets import Loads

from ..jobs.models import Job
from .keeping import load_of, mark_cut
from .lines import address_of, hand, line_to
from .models import CutEntryRow, OnCutter, Stage
from .printed_page import lie_of, look_for
from .strokes import Passes

WRITE_EVERY_S = 0.15
OPEN = [s for s in Stage.values if s != Stage.OVER]
GOES_ON_FROM = (Stage.READY, Stage.PAUSED, Stage.FAULT)
Result = dict[str, Any]


class Halted(Exception):
    """Somebody asked it to pause or to stop."""


def _wrong(message: str, hint: str) -> BadDocument:
    return BadDocument(message, field="stage", hint=hint)


def cutter_of(on: OnCutter) -> Cutter:
    """The machine it is on. Raises BadDocument where the workshop has it no more."""
    return on.workshop.load_tables().cutter(on.cutter, "cutter")


def lay_on(job: Job, loads: Loads, plans: tuple[CutPlan, ...], digest: str) -> OnCutter:
    """Begin with a load: what is to be cut is kept as it is now. Raises BadDocument for a load there is none of, one
    that does not go on the machine, and a machine that is taken."""
    load, cutter = load_of(loads, digest), loads.cutter
    address_of(cutter)
    marks = on_machine(load.face.marks, cutter, load.reach).tolist() if load.face else None
    if not load.fits:
        raise BadDocument(f"{load.name} is larger than the safe area.", field="load", hint="Make it go on first.")
    plan = next(p for p in plans if p.load.digest == digest)
    passes: list[dict[str, Any]] = [
        {
            "film": p.film.id,
            "name": ", ".join(dict.fromkeys(x.name for x in load.patches if x.film.id == p.film.id)),
            "film_um": p.film.thickness_um,
            "seconds": p.seconds,
            "metres": sum(path_length(path.points) for path in p.paths) / 1000,
            "strokes": len(p.paths),
            "smallest_mm": smallest_piece(load, p.film.id),
            "setting": {},
            "blade": "",
            "round": 1,
            "corner": None,
        }
        for p in plan.passes
    ]
    with transaction.atomic():
        taken = OnCutter.objects.select_for_update().filter(workshop=job.workshop, cutter=cutter.id, stage__in=OPEN)
        other = taken.first()
        if other is not None:
            raise _wrong(f"{cutter.name} is busy with {other.name}.", "Unload that first.")
        return OnCutter.objects.create(
            workshop=job.workshop,
            job=job,
            cutter=cutter.id,
            load=digest,
            name=load.name[:400],
            strokes=Passes.of(plan, cutter).as_bytes(),
            passes=passes,
            page={"marks": marks, "lie": None} if marks else None,
        )


def loaded(on: OnCutter) -> None:
    """The film is on the machine."""
    _must(on, (Stage.LOADING,), "Its film is loaded already.")
    page = {"page": on.page["marks"]} if on.page else {}
    hand(cutter_of(on), {"load": {"film_um": on.passes[0]["film_um"], **page}})
    on.stage, on.seen, on.found = Stage.READY, 0, []
    on.save()


def find_page(on: OnCutter) -> None:
    """Look for the marks of a printed page. Raises PageNotFound where they are not where they should be, and
    CutterFault where the cutter is not there or sees no marks."""
    _must(on, GOES_ON_FROM, "It is not ready to be looked at.")
    if on.page is None:
        raise _wrong("Nothing is printed on this load.", "Cut it as it lies.")
    if (on.done, on.place) != (0, 0):
        raise _wrong("A part of it is cut: it lies where it was found.", "Go on where it stands.")
    look_for(on, cutter_of(on))
    on.save()


def set_pass(on: OnCutter, setting: Setting, blade: str) -> None:
    """How the pass that comes next is cut. Raises BadDocument for what the machine does not do."""
    _must(on, (Stage.LOADING, Stage.READY), "It is set before it is cut.")
    with _refused():
        setting.of(cutter_of(on))
    on.passes[on.at_pass] |= {"setting": setting.model_dump(mode="json"), "blade": blade}
    on.save()


@contextmanager
def _refused() -> Iterator[None]:
    """What a setting lacks, as what the maker is told."""
    try:
        yield
    except ValueError as bad:
        message, _, hint = str(bad).partition("|")
        raise BadDocument(message, field="setting", hint=hint) from None


def _must(on: OnCutter, stages: tuple[str, ...], otherwise: str) -> None:
    if on.stage not in stages:
        raise _wrong(otherwise, "Look at where the load stands.")


def begin(on: OnCutter) -> None:
    """Cut, or go on where it stands."""
    _must(on, GOES_ON_FROM, "It is not ready to be cut.")
    if on.stage == Stage.READY:
        with _refused():
            Setting.model_validate(on.passes[on.at_pass]["setting"]).begun(cutter_of(on))
    lie_of(on)
    hand(cutter_of(on), {"under": on.passes[on.at_pass]["film_um"]})
    on.stage, on.wish, on.error = Stage.CUTTING, "", None
    on.save()


def ask(on: OnCutter, wish: str) -> None:
    """Ask what is under way to pause, or to stop for good."""
    if wish == "stop" and on.stage in (Stage.PAUSED, Stage.FAULT, Stage.READY, Stage.LOADING, Stage.LOOK):
        on.stage = Stage.OVER
        hand(cutter_of(on), {"unload": True})
        on.save()
        return
    _must(on, (Stage.CUTTING,), "Nothing is being cut.")
    OnCutter.objects.filter(pk=on.pk).update(wish=wish)


def again(on: OnCutter) -> None:
    """Make the last pass ready once more, in the same place. Raises BadDocument where the film is not on the machine
    any more."""
    if on.stage == Stage.OVER:
        raise _wrong(
            "The film was unloaded: a second pass would not land in the same place.", "Cut it anew on other film."
        )
    _must(on, (Stage.LOOK,), "It is not cut to its end yet.")
    one = on.passes[on.at_pass]
    one["round"] += 1
    on.stage, on.done, on.place = Stage.READY, 0, 0
    on.save()


def corner(on: OnCutter, showed: str) -> None:
    """What a lifted corner showed of the pass that is cut; where it is right the next one comes."""
    _must(on, (Stage.LOOK,), "There is nothing to lift yet.")
    on.passes[on.at_pass]["corner"] = showed
    if showed == "not_through":
        on.save()
        return
    if on.at_pass + 1 < len(on.passes):
        on.at_pass, on.done, on.place, on.stage = on.at_pass + 1, 0, 0, Stage.READY
    else:
        on.stage = Stage.CUT
    on.save()


def unload(on: OnCutter, loads: Loads | None, by: str, weeded: str | None = None, tore: str = "") -> None:
    """Take the film off: each pass is written into the log, and the load marked as cut where the job still has it and
    its film is in stock."""
    _must(on, (Stage.CUT,), "Lift a corner of the last film first.")
    cutter, blades = cutter_of(on), on.workshop.load_tables().blades
    with transaction.atomic():
        for one in on.passes:
            blade = next((b for b in blades if b.id == one["blade"]), None)
            metres = blade_metres(blade, CutEntryRow.of(on.workshop))
            CutEntryRow.write(on.workshop, _entry(one, cutter, metres, weeded, tore), by)
        on.stage = Stage.OVER
        on.save()
        if on.job is not None and loads is not None and any(x.digest == on.load for x in loads.every):
            try:
                with transaction.atomic():
                    mark_cut(on.job, loads, on.load, by)
            except BadDocument as bad:
                # It is cut all the same.
                on.error = {"message": bad.message, "hint": bad.hint}
                on.save()
    hand(cutter, {"unload": True})


def _entry(one: dict[str, Any], cutter: Cutter, blade_m: float, weeded: str | None, tore: str) -> CutEntry:
    setting = Setting.model_validate(one["setting"] | {"passes": min(one["round"], 9)})
    return CutEntry.model_validate(
        {
            "at": timezone.now(),
            "cutter": cutter.id,
            "blade": one["blade"],
            "blade_m": blade_m,
            "film": one["film"],
            "colour": one["name"][:200],
            "film_um": one["film_um"],
            "setting": setting,
            "metres": one["metres"] * one["round"],
            "corner": one["corner"],
            "weeded": weeded,
            "tore": tore[:200],
        }
    )


def cut_on(pk: int, tries: int = 1) -> Result:
    """Cut the pass that a load stands at to its end, or to where it breaks or is halted. One that is taken up again
    after the program ended in its midst is not cut unasked."""
    on = OnCutter.objects.select_related("workshop").get(pk=pk)
    if on.stage != Stage.CUTTING:
        return {}
    if tries > 1:
        said = "The program ended in the midst of it."
        _end(on, Stage.FAULT, error={"message": said, "hint": "Look at the sheet, and go on where it stands."})
        return {}
    cutter, passes = cutter_of(on), Passes.from_bytes(bytes(on.strokes))
    setting = Setting.model_validate(on.passes[on.at_pass]["setting"])
    written, lie = [0.0], lie_of(on)
    strokes = [lie.of(p) for p in passes.pivots[on.at_pass]] if lie else passes.pivots[on.at_pass]

    def tell(done: Done) -> None:
        on.done, on.place = done.strokes, done.place
        if time.monotonic() - written[0] < WRITE_EVERY_S:
            return
        written[0] = time.monotonic()
        _look(on, cutter, passes)
        OnCutter.objects.filter(pk=pk).update(done=on.done, place=on.place, found=on.found, seen=on.seen)
        if OnCutter.objects.values_list("wish", flat=True).get(pk=pk):
            raise Halted

    try:
        with line_to(cutter) as line:
            from_ = Done(on.done, on.place)
            last = cut(line, strokes, tell, from_, setting_commands(setting), cutter.steps_per_mm)
        on.done, on.place = last.strokes, last.place
        _look(on, cutter, passes)
        _end(on, Stage.LOOK)
    except Halted:
        wish = OnCutter.objects.values_list("wish", flat=True).get(pk=pk)
        _look(on, cutter, passes)
        _end(on, Stage.OVER if wish == "stop" else Stage.PAUSED)
    except WimpleError as bad:
        done = getattr(bad, "done", None) if isinstance(bad, CutterFault) else None
        if done is not None:
            on.done, on.place = done.strokes, done.place
        _look(on, cutter, passes)
        _end(on, Stage.FAULT, error={"message": bad.message, "hint": bad.hint})
    return {}


def _end(on: OnCutter, stage: str, **more: Any) -> None:
    state = {"done": on.done, "place": on.place, "found": on.found, "seen": on.seen}
    OnCutter.objects.filter(pk=on.pk).update(stage=stage, wish="", **state, **more)


def _look(on: OnCutter, cutter: Cutter, passes: Passes) -> None:
    """Look at what the stand-in really cut since: of each stroke its length, how far it strayed, how deep it went."""
    seen = hand(cutter, {"cut": True, "from": on.seen})
    if not seen or "strokes" not in seen:
        return
    targets, first = passes.targets[on.at_pass], passes.pivots[on.at_pass][0]
    if (lie := lie_of(on)) is not None:
        # Strayed from what is printed, wherever that really lies.
        right, up, turn, scale = seen.get("lie") or (*lie.shift, lie.turn, lie.scale)
        targets, first = [Lie((right, up), turn, scale, 0.0).of(p) for p in targets], lie.of(first)
    wanted = shapely.multilinestrings([shapely.LineString(p) for p in targets if len(p) > 1])
    for stroke in seen["strokes"]:
        tip = np.array(stroke["tip"]).reshape(-1, 2)
        # The stroke that turns the blade begins wherever the blade points.
        turns = cutter.blade_offset_mm > 0 and _alike(stroke["wanted"], first)
        stray = 0.0 if turns else float(shapely.distance(shapely.points(tip), wanted).max())
        on.found.append([round(path_length(tip), 2), round(stray, 4), round(stroke["depth_um"], 1)])
        on.seen += 1


def _alike(told: list[float], stroke: np.ndarray) -> bool:
    """Is that the stroke, but for what the machine's units round off?"""
    return len(told) == stroke.size and bool(np.abs(np.array(told).reshape(-1, 2) - stroke).max() < 0.05)


def trial_row(on: OnCutter, middle: float, speed: float | None) -> dict[str, Any]:
    """Cut a row of test figures on a scrap of the pass's film, each with its force, at a speed (mm/s); what forces,
    left to right."""
    _must(on, (Stage.LOADING, Stage.READY), "A test cut comes before the load.")
    cutter = cutter_of(on)
    if cutter.scale is not None:
        raise BadDocument(
            f"{cutter.name} is not set in grams-force.",
            field="setting",
            hint="Cut a figure at each mark of its scale by hand.",
        )
    forces = forces_round(middle, cutter.most_force_gf)
    hand(cutter, {"load": {"film_um": on.passes[on.at_pass]["film_um"]}})
    for force, row in zip(forces, trial_strokes(len(forces), 0.5, cutter.blade_offset_mm), strict=True):
        with line_to(cutter) as line:
            strokes = [on_machine(p.points, cutter, cutter.safe_length_mm) for p in row]
            cut(line, strokes, lambda done: None, Done(), setting_commands(Setting(force_gf=force, speed_mm_s=speed)))
    seen = hand(cutter, {"cut": True})
    hand(cutter, {"unload": True})
    on.stage = Stage.LOADING
    on.save()
    return {"forces": forces, "depths": _depths(seen, len(forces))}


def _depths(seen: dict[str, Any] | None, count: int) -> list[float]:
    """How deep the stand-in cut each figure, um; nothing of a real machine."""
    strokes = seen.get("strokes", []) if seen else []
    per = len(strokes) // count if count else 0
    return [round(float(strokes[n * per + per - 1]["depth_um"]), 1) for n in range(count)] if per else []
