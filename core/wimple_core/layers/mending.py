"""Mending what a film does not take, on request: what each way would change of the look is told before it is done."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY, areas, as_one, polygons_only
from ..cache import Keep, digest_of, keep_nothing
from ..job.document import Mend
from ..job.shipped import Film
from ..overlay import commons, difference, differences, intersection, union
from ..thin import narrow_gaps, thin_places
from .inspection import corners, least_gap
from .joints import near

MendKind = Literal["thicken", "drop", "widen", "round", "bridge"]
KINDS: tuple[MendKind, ...] = get_args(MendKind)
SHARP_DEG = 30.0
"""Points sharper than this are rounded."""
DEFAULT_ROUND_MM, DEFAULT_BRIDGE_MM = 0.4, 4.0
"""What rounding and bridges are reckoned with before they are asked for."""
SAFE = 1.02
"""What is widened is a little wider than it must be, so that no rounding makes it thin again."""
TIMES = 3
SPECK_MM2 = 1e-4
EVERY_MM = 0.5
MOST_MEASURED = 60
CLOSELY = 50
"""How wide what is gone was is measured to so much of the shorter side of its box."""
FEW = 25
"""Of so many places what mending changes is worked out; of more it is reckoned by their sizes."""
MOST_MENDED = 300
"""More places of one film are not mended one by one: the drawing is too small, or the film the wrong one."""


@dataclass(frozen=True, eq=False)
class Change:
    """What a way of mending adds to a film and takes from it."""

    added: BaseGeometry
    removed: BaseGeometry
    places: int
    about: tuple[float, float] | None = None
    """What it changes (mm2) and how far edges move (mm), where that is reckoned only."""

    @property
    def nothing(self) -> bool:
        return bool(self.added.is_empty and self.removed.is_empty)


NO_CHANGE = Change(EMPTY, EMPTY, 0)


@dataclass(frozen=True)
class Mending:
    """One way of mending: in how many places, by how much of the look (mm2) and how far edges move at most (mm); and
    whether it is done."""

    kind: MendKind
    places: int
    area: float
    shift: float
    done: bool
    about: bool = False
    """Is it reckoned only?"""
    possible: bool = True
    """False where a film has more such places than are mended one by one."""
    films: tuple[int, ...] = ()
    """Which of the films have such places, by their numbers."""


def _changed(region: BaseGeometry, change: Change) -> BaseGeometry:
    """A region with what a way of mending changes of it."""
    return union([difference(region, change.removed), change.added])


def _wider(places: np.ndarray, width: float) -> np.ndarray:
    """Thin places (m,) grown by what each lacks of `width` mm at its widest."""
    across = 2 * shapely.length(shapely.maximum_inscribed_circle(places, width / 20))
    lacks = np.maximum(width * SAFE - across, width / 20) / 2
    return np.asarray(shapely.buffer(places, lacks, quad_segs=8))


def _thicken(parts: np.ndarray, film: Film, mend: Mend, doing: bool) -> Change:
    width = film.least_stroke_mm
    boxes = shapely.bounds(parts)
    # What is small all over is a dot, and no stroke.
    parts = parts[(boxes[:, 2:] - boxes[:, :2]).max(axis=1) >= film.least_dot_mm]
    places = thin_places(parts, width)
    if not len(places) or len(places) > (MOST_MENDED if doing else FEW):
        return Change(EMPTY, EMPTY, len(places), _about(places, width))
    of = np.unique(shapely.STRtree(parts).query(places, predicate="intersects")[1])
    whole = as_one(parts[of])
    grown, left = whole, places
    # What is not of one width is widened where it still lacks something.
    for _ in range(TIMES):
        grown = union([grown, *_wider(left, width)])
        left = thin_places(_parts(grown), width)
        if not len(left):
            break
    # What runs out to a point stays thin at its end: that is cut off.
    after = difference(grown, union(list(left))) if len(left) else grown
    change = Change(difference(after, whole), difference(whole, after), len(places))
    if not doing and len(thin_places(_parts(_changed(whole, change)), width)) >= len(places):
        return NO_CHANGE  # It would help nothing.
    return change


def _about(places: np.ndarray, width: float) -> tuple[float, float]:
    """What is changed in thin places, and how far edges move, reckoned from some of them: what each lacks of the width,
    along its length."""
    if not len(places):
        return 0.0, 0.0
    some = places[np.linspace(0, len(places) - 1, min(len(places), MOST_MEASURED)).astype(int)]
    areal = some[shapely.get_dimensions(some) == 2]
    if not len(areal):
        return len(places) * width**2, width / 2
    lacks = np.maximum(width - 2 * shapely.length(shapely.maximum_inscribed_circle(areal, width / 10)), 0.0)
    mean = float((lacks * shapely.length(areal) / 2).mean())
    return len(places) * mean, float(lacks.max()) / 2


def _widen(parts: np.ndarray, film: Film, mend: Mend, doing: bool) -> Change:
    width = least_gap(film.least_stroke_mm)
    gaps = narrow_gaps(parts, width)
    if not len(gaps) or len(gaps) > (MOST_MENDED if doing else FEW):
        return Change(EMPTY, EMPTY, len(gaps), _about(gaps, width))
    of = np.unique(shapely.STRtree(parts).query(gaps, predicate="dwithin", distance=width)[1])
    whole = now = as_one(parts[of])
    left = gaps
    for _ in range(TIMES):
        closed = polygons_only(shapely.buffer(shapely.buffer(now, width / 2), -width / 2 * SAFE))
        places = np.concatenate([_parts(_less(closed, now)), left[shapely.get_dimensions(left) == 2]])
        places = places[shapely.area(places) > SPECK_MM2]
        if not len(places):
            break
        now = _less(now, union(list(_wider(places, width))))
        left = narrow_gaps(_parts(now), width)
        if not len(left):
            break
    # Where waste runs out to a point it is as narrow as can be, however far it is opened: there it is filled.
    notches = left[shapely.get_dimensions(left) == 2] if len(left) else left
    if len(notches):
        now = union([now, *shapely.buffer(notches, width / 20)])
    change = Change(difference(now, whole), difference(whole, now), len(gaps))
    if not doing and len(narrow_gaps(_parts(_changed(whole, change)), width)) >= len(gaps):
        return NO_CHANGE  # It would help nothing.
    return change


def _less(a: BaseGeometry, b: BaseGeometry) -> BaseGeometry:
    """What one region has beyond another; not yet on the grid where the library needs none."""
    left: BaseGeometry = differences(np.array([a], dtype=object), np.array([b], dtype=object))[0]
    return left


def _drop(parts: np.ndarray, film: Film, mend: Mend, doing: bool) -> Change:
    size = mend.drop_under_mm or film.least_dot_mm
    boxes = shapely.bounds(parts)
    may = np.flatnonzero((boxes[:, 2:] - boxes[:, :2]).max(axis=1) < size)
    small = may[2 * shapely.minimum_bounding_radius(parts[may]) < size] if len(may) else may
    return Change(EMPTY, as_one(parts[small]), len(small)) if len(small) else NO_CHANGE


def _round(parts: np.ndarray, film: Film, mend: Mend, doing: bool) -> Change:
    r = mend.round_mm or DEFAULT_ROUND_MM
    at, sharp = corners(parts)
    at = at[sharp < SHARP_DEG]
    half = np.radians(sharp[sharp < SHARP_DEG]) / 2
    if not len(at) or len(at) > (MOST_MENDED if doing else FEW):
        # Of a point what lies beyond a circle of that radius in it.
        gone = float((r**2 * (1 / np.tan(half) - (np.pi / 2 - half))).sum())
        return Change(EMPTY, EMPTY, len(at), (gone, float((r / np.sin(half) - r).max(initial=0.0))))
    points = shapely.points(at)
    of = np.unique(shapely.STRtree(parts).query(points, predicate="dwithin", distance=1e-6)[1])
    whole = parts[of]
    blunt = shapely.buffer(shapely.buffer(whole, -r), r, quad_segs=16)
    tips = shapely.get_parts(shapely.difference(whole, blunt))
    reach = r / np.sin(half)
    at_tips = np.unique(
        shapely.STRtree(tips).query(shapely.buffer(points, reach / 8 + 0.01), predicate="intersects")[1]
    )
    # Of a piece that is a point altogether nothing would be left: it stays.
    some = tips[at_tips][shapely.get_dimensions(tips[at_tips]) == 2]
    keep = shapely.area(blunt) > 0
    gone = union(list(some)) if len(some) else EMPTY
    return Change(EMPTY, intersection(gone, as_one(whole[keep])) if keep.any() else EMPTY, len(at))


def _bridge(parts: np.ndarray, film: Film, mend: Mend, doing: bool) -> Change:
    most = mend.bridge_mm or DEFAULT_BRIDGE_MM
    boxes = shapely.bounds(parts)
    small = (boxes[:, 2:] - boxes[:, :2]).max(axis=1) < film.least_dot_mm
    if not small.any() or small.all():
        return NO_CHANGE
    large = parts[~small]
    one, other = shapely.STRtree(large).query_nearest(parts[small], max_distance=most, all_matches=False)
    if not len(one):
        return NO_CHANGE
    dots = parts[small][one]
    lines = shapely.shortest_line(dots, large[other])
    if len(one) > (MOST_MENDED if doing else FEW):
        long = shapely.length(lines)
        return Change(EMPTY, EMPTY, len(one), (float(long.sum()) * film.least_stroke_mm, film.least_stroke_mm / 2))
    ends = shapely.get_coordinates(lines).reshape(-1, 2, 2)
    way = ends[:, 1] - ends[:, 0]
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    wide = film.least_stroke_mm
    middle = shapely.get_coordinates(shapely.centroid(dots))
    far = ends[:, 1] + wide * way
    strips = shapely.buffer(
        shapely.linestrings(np.stack([middle, ends[:, 0], far], axis=1)), wide / 2 * SAFE, cap_style="flat"
    )
    return Change(
        difference(union(list(strips)), as_one(np.concatenate([dots, large[np.unique(other)]]))), EMPTY, len(one)
    )


WAYS: dict[MendKind, Callable[[np.ndarray, Film, Mend, bool], Change]] = {
    "thicken": _thicken,
    "drop": _drop,
    "widen": _widen,
    "round": _round,
    "bridge": _bridge,
}


FIELDS: dict[MendKind, str] = {
    "thicken": "thicken",
    "drop": "drop_under_mm",
    "widen": "widen_gaps",
    "round": "round_mm",
    "bridge": "bridge_mm",
}
"""Where each way is asked for."""


def is_done(mend: Mend, kind: MendKind) -> bool:
    """Is a way of mending asked for?"""
    return bool(getattr(mend, FIELDS[kind]) > 0)


def _parts(region: BaseGeometry) -> np.ndarray:
    return areas(np.array([region], dtype=object))


def _seen_area(changed: BaseGeometry, above: np.ndarray) -> float:
    """How much (mm2) of what changed is not hidden by the parts above it."""
    if changed.is_empty:
        return 0.0
    parts = _parts(changed)
    one, other = near(parts, above, 0.0)
    hidden = commons(parts[one], above[other])
    order = np.argsort(one, kind="stable")
    covered = 0.0
    for some in np.split(hidden[order], np.flatnonzero(np.diff(one[order])) + 1):
        covered += float(some[0].area) if len(some) == 1 else float(union(list(some)).area) if len(some) else 0.0
    return max(float(changed.area) - covered, 0.0)


def _shift(change: Change, before: BaseGeometry) -> float:
    """How far edges move at most: of what is added the furthest from what was there, of what is gone its width."""
    far = 0.0
    if not change.added.is_empty:
        points = shapely.points(shapely.get_coordinates(shapely.segmentize(change.added, EVERY_MM)))
        tree = shapely.STRtree(_parts(before))
        far = float(tree.query_nearest(points, return_distance=True, all_matches=False)[1].max())
    if not change.removed.is_empty:
        gone = _parts(change.removed)
        sides = shapely.bounds(gone)
        wide = (sides[:, 2:] - sides[:, :2]).min(axis=1)
        some = np.argsort(wide)[-MOST_MEASURED:]
        circles = shapely.maximum_inscribed_circle(gone[some], np.maximum(wide[some] / CLOSELY, 0.005))
        far = max(far, 2 * float(shapely.length(circles).max()))
    return far


def _reckoned(region: BaseGeometry, film: Film, kind: MendKind, plan: Mend) -> tuple[Change, float]:
    """What one way of mending would change of a film, and how far its edges would move."""
    parts = _parts(region)
    change = WAYS[kind](parts, film, plan, False) if len(parts) else NO_CHANGE
    return change, change.about[1] if change.about is not None else _shift(change, region)


def could_mend(
    regions: Sequence[BaseGeometry],
    films: Sequence[Film],
    plan: Mend,
    keep: Keep = keep_nothing,
    kinds: Sequence[MendKind] = KINDS,
) -> tuple[Mending, ...]:
    """For every way of mending films (n,) what it changes of the look. What `keep` holds is not worked out anew."""
    told: list[Mending] = []
    digests = [digest_of([region]) for region in regions] if kinds else []
    for kind in kinds:
        places, area, shift, about, possible, at = 0, 0.0, 0.0, False, True, list[int]()
        for n, (region, film) in enumerate(zip(regions, films, strict=True)):
            key = ("mending", kind, digests[n], film.least_stroke_mm, film.least_dot_mm, plan)
            change, moves = keep(key, lambda r=region, f=film, k=kind: _reckoned(r, f, k, plan))  # type: ignore[misc]
            places += change.places
            at += [n] if change.places else []
            possible &= kind == "drop" or change.places <= MOST_MENDED
            if change.about is not None:
                about |= change.places > 0
                area += change.about[0]
            elif change.places:
                above = shapely.get_parts(np.array(list(regions[n + 1 :]), dtype=object))
                area += _seen_area(change.added, above) + _seen_area(change.removed, above)
            shift = max(shift, moves)
        told.append(Mending(kind, places, area, shift, is_done(plan, kind), about, possible, tuple(at)))
    return tuple(told)


def mend(
    regions: Sequence[BaseGeometry],
    seen: Sequence[BaseGeometry],
    films: Sequence[Film],
    plan: Mend,
    keep: Keep = keep_nothing,
) -> tuple[list[BaseGeometry], list[BaseGeometry], tuple[Mending, ...]]:
    """Films (n,) mended as is asked for, what then shows of each, and for the ways asked for what they changed. What
    `keep` holds is not worked out anew."""
    told = could_mend(regions, films, plan, keep, [kind for kind in KINDS if is_done(plan, kind)])
    if not any(m.places for m in told):
        return list(regions), list(seen), told
    out, changed = [], []
    for region, film in zip(regions, films, strict=True):
        now = region
        for kind in ("drop", "bridge", "thicken", "widen", "round"):
            parts = _parts(now)
            if not is_done(plan, kind) or not len(parts):
                continue
            change = WAYS[kind](parts, film, plan, True)
            if not change.nothing:
                now = _changed(now, change)
                changed += [change.added, change.removed]
        out.append(now)
    return out, _seen_anew(out, seen, union([g for g in changed if not g.is_empty])), told


def _seen_anew(
    regions: Sequence[BaseGeometry], seen: Sequence[BaseGeometry], changed: BaseGeometry
) -> list[BaseGeometry]:
    """What shows of each film once some of them were changed, within what was `changed`."""
    out, above = list[BaseGeometry](), EMPTY
    for region, was in zip(reversed(regions), reversed(list(seen)), strict=True):
        here = intersection(region, changed)
        out.append(union([difference(was, changed), difference(here, above)]))
        above = union([above, here])
    return out[::-1]
