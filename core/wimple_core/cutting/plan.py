"""The cutting stage: what the blade does on each load, in order, with compensation and overcut, and how long."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..cache import Keep, keep_nothing
from ..cuts import ROLES, Cuts, Role, together
from ..job.document import SheetPlan
from ..job.shipped import Cutter, Film
from ..sheets import Load, Loads
from ..verdict import Verdict
from .compensation import end_heading, pivot_path
from .order import contours_of, order_contours, with_overcut
from .seconds import seconds_for

_INSIDE_FIRST: tuple[tuple[Role, ...], ...] = ("slit",), ("piece", "hole", "mark"), ("weed",), ("frame",)
"""What is cut before what: a slit while its piece still holds, the waste's lines when all pieces are cut."""


FIRST_MM = 6.0
"""So long a stroke turns a blade whose offset is less than a millimetre into its way."""
FEED_MM = 250.0
"""A roll is not fed back by more than about that (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class CutPath:
    """One stroke of the blade: where its pivot runs (n, 2) mm, its role's place in `cuts.ROLES`, and what its tip is to
    cut."""

    points: Array
    role: int
    wanted: Array | None = None
    """What its tip is to cut; as its pivot runs, where nothing else is said."""


@dataclass(frozen=True, eq=False)
class Pass:
    """What is cut with one setting: all work of one film on a load."""

    film: Film
    paths: tuple[CutPath, ...]
    seconds: float


@dataclass(frozen=True, eq=False)
class CutPlan:
    """One load as it is cut: its passes in order, without unloading between them. Seconds are for one load."""

    load: Load
    passes: tuple[Pass, ...]

    @property
    def seconds(self) -> float:
        return sum(p.seconds for p in self.passes)

    @property
    def paths(self) -> tuple[CutPath, ...]:
        """All strokes in order."""
        return tuple(path for p in self.passes for path in p.paths)


@dataclass(frozen=True, eq=False)
class Cutting:
    """All loads as they are cut, and the seconds of the whole batch, its loads as often as they are cut."""

    plans: tuple[CutPlan, ...]
    seconds: float
    verdicts: tuple[Verdict, ...]
    pages: tuple[CutPlan, ...] = ()
    """Printed pages as they are cut."""

    @property
    def every(self) -> tuple[CutPlan, ...]:
        """All that goes on the cutter."""
        return (*self.plans, *self.pages)


def ordered_paths(cuts: Cuts, overcut: float, blade_offset: float = 0.0, feed_mm: float | None = None) -> list[CutPath]:
    """The strokes for some cuts: inner contours before outer ones, weed lines and frames last, travel short. Closed
    ones run past their start by `overcut` mm; the pivot leads the tip by `blade_offset` mm. On a roll, what lies
    within `feed_mm` along the feed is cut before what lies further on."""
    out: list[CutPath] = []
    heading = 0.0
    if blade_offset > 0 and len(cuts):
        # Nobody knows where a blade points that was set in by hand: a first stroke in the film that is kept round the
        # work, along the edge of its frame, turns it.
        first = np.array([[0.0, 0.0], [FIRST_MM, 0.0]])
        out.append(CutPath(first, ROLES.index("frame"), first - (blade_offset, 0.0)))
    for roles in _INSIDE_FIRST:
        for c in order_contours(contours_of(cuts.only(*roles)), feed_mm=feed_mm):
            path = with_overcut(c.points, overcut) if c.closed else c.points
            out.append(CutPath(pivot_path(path, blade_offset, heading), c.role, path))
            heading = end_heading(path)
    return out


def _passes(load: Load, overcut: float, cutter: Cutter) -> tuple[Pass, ...]:
    passes = []
    feed = FEED_MM if load.medium.kind == "roll" else None
    for film in dict.fromkeys(patch.film.id for patch in load.patches):
        of_it = [patch for patch in load.patches if patch.film.id == film]
        paths = ordered_paths(together(load.on(patch) for patch in of_it), overcut, cutter.blade_offset_mm, feed)
        passes.append(Pass(of_it[0].film, tuple(paths), seconds_for([p.points for p in paths], cutter)))
    return tuple(passes)


def plan_cutting(loads: Loads, plan: SheetPlan, keep: Keep = keep_nothing) -> Cutting:
    """What the blade does on every load; `keep` keeps what was planned of each."""
    every = tuple(
        CutPlan(
            load,
            keep(
                ("passes", load.digest, load.cuts.roles.tobytes(), plan.overcut_mm, loads.cutter),
                lambda load=load: _passes(load, plan.overcut_mm, loads.cutter),  # type: ignore[misc]
            ),
        )
        for load in loads.every
    )
    plans, pages = every[: len(loads.loads)], every[len(loads.loads) :]
    seconds = sum(p.seconds * p.load.times for p in every)
    verdicts: tuple[Verdict, ...] = ()
    if every:
        verdicts = (
            Verdict(
                "sheets.time",
                "sheets",
                "ok",
                seconds,
                None,
                "s",
                "The blade is under way for about {time} in all, by the cutter's speed.",
                figures={"time": (seconds / 60, "min")},
            ),
        )
    return Cutting(plans, seconds, verdicts, pages)
