"""A load on a machine, over HTTP: laid on, tested, cut, looked at, unloaded."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import numpy as np
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field
from wimple_core.cutting.advice import advise, from_test, is_muddled
from wimple_core.errors import BadDocument
from wimple_core.job.cut_log import Blade, Corner, Force, Setting, Speed, Weeded
from wimple_core.job.shipped import LINER_UM, MachineScale
from wimple_core.job.tables import Tables

from ..jobs.building import built_upto
from ..jobs.reaching import ERRORS, job_of
from ..people.accounts import who
from ..people.roles import viewers
from ..works.models import Work
from ..works.tasks import start
from ..workshops.models import workshop_of
from . import running
from .loads import LoadIn, loads_of
from .models import CutEntryRow, OnCutter, Stage
from .printed_page import lie_of
from .strokes import Passes

router = Router(tags=["cutters"])
STRAY_MM = 0.05
"""A cut that strays by less is as good as the drawing."""


class AdviceOut(Schema):
    """A setting that is advised, how likely a corner comes out right with it, and what that rests on, in words."""

    force_gf: float | None
    speed_mm_s: float
    chance: float | None
    known: bool
    words: str


class PassOut(Schema):
    """A film that is cut with one setting. `round` is how often it was cut in the same place."""

    name: str
    film: str
    film_um: float
    seconds: float
    metres: float
    strokes: int
    smallest_mm: float | None
    setting: Setting
    words: str
    blade: str
    round: int
    corner: Corner | None


class LieOut(Schema):
    """How a printed page lies: to the right and up of where it should, mm; turned to the left, degrees; its size in
    percent of what it should be, and by how much a mark is off at most, mm."""

    right: float
    up: float
    turn_deg: float
    percent: float
    off: float


class OnCutterOut(Schema):
    """A load on a machine. `found` is what the stand-in really cut, from the stroke on that was asked for: mm of each
    stroke, by how much it strayed (mm), and how deep it went (um)."""

    id: int
    job: int | None
    cutter: str
    cutter_name: str
    load: str
    name: str
    stage: Stage
    wish: str
    at_pass: int
    done: int
    place: int
    passes: list[PassOut]
    patches: list[str]
    error: dict[str, str] | None
    printed: bool
    """Is it a printed page? Then it is found by its marks before it is cut."""
    lie: LieOut | None
    found: list[tuple[float, float, float]]
    found_in_all: int
    stray: float
    stray_limit: float
    liner_um: float
    simulated: bool
    scale: MachineScale | None
    blades: list[Blade]
    advice: AdviceOut | None


class LinesOut(Schema):
    """What is to be cut, as the load lies: for each pass its strokes, x and y one after the other, mm."""

    passes: list[list[list[float]]]
    width: float
    length: float


class NextIn(Schema):
    """What is done next at the machine. `find` looks for a printed page's marks; `cut` takes a setting and a blade;
    `corner` what it showed; `unload` how it weeded; `trial` the force its row stands round."""

    do: Literal["loaded", "set", "find", "cut", "pause", "stop", "again", "corner", "unload"]
    setting: Setting | None = None
    blade: str = Field("", max_length=24)
    corner: Corner | None = None
    weeded: Weeded | None = None
    tore: str = Field("", max_length=200)


class TrialIn(Schema):
    force_gf: Force
    speed_mm_s: Speed | None = None


class TrialOut(Schema):
    """A row of test figures: the force of each, and how deep the stand-in cut it (nothing of a real machine)."""

    forces: list[float]
    depths: list[float]


class TappedIn(Schema):
    """What each figure of a test cut did."""

    forces: list[float] = Field(max_length=20)
    corners: list[Corner] = Field(max_length=20)


class TappedOut(Schema):
    """The force that a test cut tells, and its margin each way; null where none came out right, and where the row is
    `muddled`: more force went less deep."""

    force_gf: float | None
    margin_gf: float | None
    muddled: bool


def _on(request: HttpRequest, on_id: int) -> OnCutter:
    found = OnCutter.objects.select_related("workshop", "job").defer("strokes")
    return get_object_or_404(found, pk=on_id, workshop=workshop_of(request))


def _advice(on: OnCutter, tables: Tables) -> AdviceOut | None:
    one = on.passes[on.at_pass]
    film = next((f for f in tables.films if f.id == one["film"]), None)
    cutter = next((c for c in tables.cutters if c.id == on.cutter), None)
    if film is None or cutter is None:
        return None
    blade = next((b for b in tables.blades if b.cutter == on.cutter and not b.worn_out), None)
    film = film.model_copy(update={"thickness_um": one["film_um"]})
    found = advise(CutEntryRow.of(on.workshop), film, cutter, blade, tables.blades, one.get("smallest_mm"))
    return AdviceOut(
        force_gf=found.force_gf,
        speed_mm_s=found.speed_mm_s,
        chance=found.chance,
        known=found.known,
        words=found.words(),
    )


def _lie_out(on: OnCutter) -> LieOut | None:
    lie = lie_of(on) if on.page and on.page["lie"] else None
    if lie is None or on.page is None:
        return None
    first = np.array(on.page["marks"][:1])
    right, up = (lie.of(first) - first)[0].tolist()
    return LieOut(right=right, up=up, turn_deg=math.degrees(lie.turn), percent=100 * lie.scale, off=lie.off)


def _on_out(on: OnCutter, since: int = 0) -> OnCutterOut:
    tables = on.workshop.load_tables()
    cutter = next((c for c in tables.cutters if c.id == on.cutter), None)
    settings = [Setting.model_validate(p["setting"]) for p in on.passes]
    return OnCutterOut(
        id=on.pk,
        job=on.job_id,
        cutter=on.cutter,
        cutter_name=cutter.name if cutter else on.cutter,
        load=on.load,
        name=on.name,
        stage=Stage(on.stage),
        wish=on.wish,
        at_pass=on.at_pass,
        done=on.done,
        place=on.place,
        passes=[
            PassOut(**{**p, "setting": s, "words": s.words(cutter) if cutter else ""})
            for p, s in zip(on.passes, settings, strict=True)
        ],
        patches=on.name.split(", "),
        error=on.error,
        printed=on.page is not None,
        lie=_lie_out(on),
        found=on.found[since:],
        found_in_all=len(on.found),
        stray_limit=STRAY_MM,
        liner_um=LINER_UM,
        stray=max((f[1] for f in on.found), default=0.0),
        simulated=bool(cutter and cutter.simulated),
        scale=cutter.scale if cutter else None,
        blades=[b for b in tables.blades if b.cutter == on.cutter],
        advice=_advice(on, tables) if on.stage in (Stage.LOADING, Stage.READY) else None,
    )


@router.post("/jobs/{int:job_id}/cutting", response={201: OnCutterOut, **ERRORS})
def begin(request: HttpRequest, job_id: int, wanted: LoadIn) -> tuple[int, OnCutterOut]:
    """Begin to cut a load of a job on its machine."""
    job = job_of(request, job_id)
    built = built_upto(job, job.load(), "sheets")
    if built.sheets is None or built.cutting is None:
        raise BadDocument("This job has no loads yet.", field="load", hint="Look at its Sheets first.")
    return 201, _on_out(running.lay_on(job, built.sheets, built.cutting.every, wanted.load))


@router.get("/jobs/{int:job_id}/cutting", response={200: OnCutterOut | None, **ERRORS})
def on_now(request: HttpRequest, job_id: int) -> OnCutterOut | None:
    """The load of a job that is on a machine, if one is."""
    job = job_of(request, job_id)
    on = job.on_cutters.exclude(stage=Stage.OVER).select_related("workshop").defer("strokes").first()
    return _on_out(on) if on is not None else None


@router.get("/cutting/{int:on_id}", response={200: OnCutterOut, **ERRORS})
def get_on(request: HttpRequest, on_id: int, since: Annotated[int, Field(ge=0, le=10**7)] = 0) -> OnCutterOut:
    """Where a load on a machine stands, and what was found of it from a stroke on."""
    return _on_out(_on(request, on_id), since)


@router.get("/cutting/{int:on_id}/lines", response={200: LinesOut, **ERRORS})
def get_lines(request: HttpRequest, on_id: int) -> LinesOut:
    """What is to be cut on it."""
    on = _on(request, on_id)
    passes = Passes.from_bytes(bytes(on.strokes))
    every = np.concatenate([p for one in passes.wanted for p in one])
    width, length = every.max(axis=0)
    return LinesOut(
        passes=[[p.round(3).ravel().tolist() for p in one] for one in passes.wanted],
        width=float(width),
        length=float(length),
    )


@router.post("/cutting/{int:on_id}/next", response={200: OnCutterOut, **ERRORS})
def go_on(request: HttpRequest, on_id: int, wanted: NextIn) -> OnCutterOut:
    """Do the next thing at the machine."""
    on = _on(request, on_id)
    if wanted.setting is not None and wanted.do in ("set", "cut"):
        running.set_pass(on, wanted.setting, wanted.blade)
    match wanted.do:
        case "loaded":
            running.loaded(on)
        case "find":
            running.find_page(on)
        case "cut":
            running.begin(on)
            start(Work(workshop=on.workshop, job=on.job, kind=Work.Kind.CUT, key=str(on.pk), about={"on": on.pk}))
        case "pause" | "stop":
            running.ask(on, wanted.do)
        case "again":
            running.again(on)
        case "corner":
            running.corner(on, wanted.corner or "right")
        case "unload":
            loads = loads_of(on.job) if on.job is not None else None
            running.unload(on, loads, who(request), wanted.weeded, wanted.tore)
    return _on_out(_on(request, on_id))


@router.post("/cutting/{int:on_id}/trial", response={200: TrialOut, **ERRORS})
def trial(request: HttpRequest, on_id: int, wanted: TrialIn) -> dict[str, Any]:
    """Cut a row of test figures on a scrap of the film that comes next."""
    return running.trial_row(_on(request, on_id), wanted.force_gf, wanted.speed_mm_s)


@router.post("/cutting/tapped", response={200: TappedOut, **ERRORS}, auth=viewers)
def tapped(request: HttpRequest, wanted: TappedIn) -> TappedOut:
    """What a test cut tells."""
    if len(wanted.forces) != len(wanted.corners):
        raise BadDocument("Not every figure is judged.", field="corners", hint="Say of each what it did.")
    found = from_test(wanted.forces, wanted.corners)
    muddled = is_muddled(wanted.forces, wanted.corners)
    return TappedOut(force_gf=found[0] if found else None, margin_gf=found[1] if found else None, muddled=muddled)
