"""True outlines nested on a strip of film: as many of each as are wanted, on the least length.

The search is spyrrow's (strip packing of irregular shapes, after Gardeyn, Vanden Berghe and Wauters, "An open-source
heuristic to reboot 2D nesting research", 2025); few pieces of straight edges are fitted to each other meanwhile
(`fitted`), and what is found is pressed together (`press`). It is kept only if nothing overlaps and every gap holds.
"""

from __future__ import annotations

import contextlib
import math
import os
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
import spyrrow

from ..arrays import Array
from .fitted import fittings
from .press import Press
from .shape import Place, Shape

LOOK_S = 0.2
ARC = 8
"""Chords to a quarter of a circle."""
SAFE_MM = 0.01
"""The search counts in single precision: it keeps so much more apart than it must."""
NEAR_MM = 1e-5
"""A gap less by so much still holds."""
POLITE = 10
"""The search gives way by so much to what the maker does meanwhile (as `nice` counts)."""
CHECKING = 0.04
"""Of the time, so much at most is for seeing whether what is found holds."""
FIRST = 0.1
"""Of the time, so much is for fitting alone."""
PRESSING = 0.25
PIECE_S = 0.03
"""Of the time, so much at most is for pressing together what was found, and so much for every piece."""


@dataclass(frozen=True)
class Nested:
    """Shapes on a strip: how long it must be (mm), and where each lies; all of it right and above the origin."""

    length: float
    places: tuple[Place, ...]


Watch = Callable[[Nested | None, float], None]
"""Told the best so far and how much of the time is over, a share."""


def _not_watched(best: Nested | None, share: float) -> None:
    pass


def nest(
    shapes: Sequence[Shape], width: float, gap: float, seconds: int, watch: Watch = _not_watched, seed: int = 1
) -> Nested | None:
    """Lay shapes on a strip `width` mm wide with at least `gap` mm between them, on the least length that is found in
    so many seconds. None where one does not go in at all, or nothing was found.

    `watch` is told how it goes; by raising anything it ends the search, and what is best so far is kept.
    """
    if not shapes or any(_narrowest(s) > width + NEAR_MM for s in shapes):
        return None
    began = time.monotonic()
    best: Nested | None = None
    for found in _looked_for(shapes, width, gap, seconds, seed):
        best = _shorter(best, found)
        try:
            watch(best, min((time.monotonic() - began) / seconds, 1.0))
        except Exception:
            if best is None:
                raise
            return best
    return best


def _looked_for(shapes: Sequence[Shape], width: float, gap: float, seconds: int, seed: int) -> Iterator[Nested | None]:
    """What is found in so many seconds, as it is found; None when there is nothing new."""
    began = time.monotonic()
    pressing = min(PRESSING * seconds, PIECE_S * sum(s.count for s in shapes))
    fit = _Fit(shapes, width, gap)
    search: _Search | None = None
    best: Nested | None = None
    while True:
        if fit.over and search:
            search.wait(LOOK_S)
            found = None
        else:
            found = fit.step(LOOK_S)
        found = _shorter(found, search.latest() if search else None)
        best = _shorter(best, found)
        yield found
        if fit.full:
            return
        waited = time.monotonic() - began
        # The search only looks at the clock between its rounds: it comes to its end by itself, and is not waited for.
        if search and (search.over or waited >= seconds - pressing) and (best or (search.over and fit.over)):
            break
        if search is None and (fit.over or waited >= FIRST * seconds):
            search = _Search(shapes, width, gap, max(2, math.ceil(seconds - pressing)), seed)
    found = search.latest(at_once=True)
    best = _shorter(best, found)
    yield found
    if best and all(shapely.Polygon(s.outline).is_valid for s in shapes):
        for places in Press(shapes, best.places, width, gap).steps(began + seconds):
            yield _checked(places, shapes, width, gap) if places else None


def _shorter(one: Nested | None, other: Nested | None) -> Nested | None:
    return other if one is None or (other is not None and other.length < one.length) else one


class _Fit:
    """Straight edges laid to straight edges, a little at a time."""

    def __init__(self, shapes: Sequence[Shape], width: float, gap: float) -> None:
        self.shapes, self.width, self.gap = shapes, width, gap
        self.some = fittings(shapes, width, gap)
        self.over = self.full = False

    def step(self, seconds: float) -> Nested | None:
        """Go on for so long; what was found of late."""
        until = time.monotonic() + seconds
        for found in self.some:
            if found is not None:
                holds = _checked(found.places, self.shapes, self.width, self.gap)
                self.full = found.full and holds is not None
                return holds
            if time.monotonic() > until:
                return None
        self.over = True
        return None


class _Search:
    """The library's search, in a thread of its own."""

    def __init__(self, shapes: Sequence[Shape], width: float, gap: float, seconds: int, seed: int) -> None:
        self.shapes, self.width, self.gap = shapes, width, gap
        allowed = {"never": [0.0], "half": [0.0, 180.0], "any": None}
        some = [(n, s) for n, s in enumerate(shapes) if s.count]
        items = [spyrrow.Item(str(n), _across(s.outline), s.count, allowed[s.turns]) for n, s in some]
        apart = gap + SAFE_MM
        # It keeps off the strip's edges as well, and those are no work.
        self.strip = spyrrow.StripPackingInstance("", width + 2 * apart, items)
        self.config = spyrrow.StripPackingConfig(
            early_termination=True,
            total_computation_time=None,
            # What it would shorten at the end is pressed together.
            exploration_time=seconds - 1,
            compression_time=1,
            min_items_separation=apart,
            num_workers=None,
            seed=seed,
        )
        self.queue = spyrrow.ProgressQueue()
        self.found: list[spyrrow.StripPackingSolution] = []
        self.untold: list[spyrrow.StripPackingSolution] = []
        self.checks_again = 0.0
        # The program does not end under it: it is not to be broken off in the middle of a call.
        self.thread = threading.Thread(target=self._run)
        self.thread.start()

    def _run(self) -> None:
        # On every core there is, but after all else: its threads are as polite as the one that starts them.
        with contextlib.suppress(AttributeError, OSError):
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), POLITE)
        # Where a piece is as wide as the strip, all but a hair, it breaks off: then it found nothing.
        with contextlib.suppress(BaseException):
            self.found.append(self.strip.solve(self.config, self.queue))

    @property
    def over(self) -> bool:
        return not self.thread.is_alive()

    def wait(self, seconds: float) -> None:
        self.thread.join(seconds)

    def latest(self, at_once: bool = False) -> Nested | None:
        """The last that it found and did not tell yet. Where one was told a moment ago, it is kept for later, unless it
        is wanted at once."""
        fits = (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas)
        some = self.untold + [now for kind, now in self.queue.drain() if kind.phase_name() == "final" or kind in fits]
        some += [self.found.pop()] if self.over and self.found else []
        began = time.monotonic()
        self.untold = some[-1:] if began < self.checks_again and not (self.over or at_once) else []
        if not some or self.untold:
            return None
        places = [
            Place(int(p.id), float(p.rotation), (-float(p.translation[1]), float(p.translation[0])))
            for p in some[-1].placed_items
        ]
        checked = _checked(places, self.shapes, self.width, self.gap)
        now = time.monotonic()
        self.checks_again = now + (now - began) / CHECKING
        return checked


def _across(outline: Array) -> list[tuple[float, float]]:
    """An outline as the search wants it: its strip runs to the right, ours upwards."""
    return [(float(y), float(-x)) for x, y in outline]


def _narrowest(shape: Shape) -> float:
    """How wide a strip must be at least for a shape to go in."""
    if shape.turns != "any":
        return float(np.ptp(shape.outline[:, 0]))
    # The least width of a hull lies square to one of its edges (Houle and Toussaint, 1988).
    hull = shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(shape.outline)))
    legs = np.diff(hull, axis=0)
    normal = np.column_stack([-legs[:, 1], legs[:, 0]]) / np.maximum(np.hypot(*legs.T), 1e-12)[:, None]
    return float(np.ptp(hull @ normal.T, axis=0).min())


def _checked(places: Sequence[Place], shapes: Sequence[Shape], width: float, gap: float) -> Nested | None:
    """What was found, laid into the corner; None where it does not hold."""
    lying = np.array([shapely.Polygon(p.of(shapes[p.shape].outline)) for p in places], dtype=object)
    if len(lying) != sum(s.count for s in shapes) or not gaps_hold(lying, gap):
        return None
    left, low, right, high = shapely.total_bounds(lying).tolist()
    if right - left > width + NEAR_MM:
        return None
    moved = tuple(Place(p.shape, p.turn, (p.at[0] - left, p.at[1] - low)) for p in places)
    return Nested(high - low, moved)


def beyond(gap: float) -> float:
    """How far an outline that is `grown` reaches beyond itself at most, mm."""
    # The arcs round its corners are chords of a circle so much wider that they stay outside of theirs.
    return (gap / 2 + SAFE_MM) / math.cos(math.pi / (4 * ARC))


def grown(outline: Array, gap: float) -> shapely.Polygon:
    """An outline (n, 2) with at least half a gap round it, mm."""
    return shapely.buffer(shapely.Polygon(outline), beyond(gap), quad_segs=ARC)


def gaps_hold(lying: np.ndarray, gap: float) -> bool:
    """Do polygons (n,) lie apart by at least that, mm, and none over another?"""
    one, other = shapely.STRtree(lying).query(lying, predicate="dwithin", distance=gap)
    one, other = lying[one[one < other]], lying[other[one < other]]
    if not bool((shapely.distance(one, other) >= gap - NEAR_MM).all()):
        return False
    # What touches has no gap, and neither has what lies over another.
    inside = shapely.buffer(one, -NEAR_MM, join_style="mitre")
    return gap > NEAR_MM or not bool(shapely.intersects(inside, other).any())
