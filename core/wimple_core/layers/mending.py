"""Mending what a film does not take, on request. What is thin is widened only where there is room for it, and a gap is
opened only where what it parts stays strong; what a way changes of the look is measured on what comes of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY, areas, as_one, holes_in, polygons_only
from ..cache import Keep, digest_of, keep_nothing
from ..job.document import LayerPlan, Mend
from ..job.shipped import Film
from ..overlay import difference, differences, intersection, union
from ..thin import narrow_gaps, narrow_notches, thin_places
from .inspection import corners, least_gap

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
SAME_MM = 0.05
"""A place is one that was there before if it lies no further from it."""
CLOSELY = 50
"""How wide what is gone was is measured to so much of the shorter side of its box."""
MOST_MENDED = 300
"""More places of one film are not mended one by one: the drawing is too small, or the film the wrong one."""


@dataclass(frozen=True, eq=False)
class Change:
    """What a way of mending adds to a film and takes from it, and in how many places it is wanted."""

    added: BaseGeometry
    removed: BaseGeometry
    places: int

    @property
    def nothing(self) -> bool:
        return bool(self.added.is_empty and self.removed.is_empty)


NO_CHANGE = Change(EMPTY, EMPTY, 0)


@dataclass(frozen=True)
class LookChange:
    """What is measured of films before and after: how much of what is seen is another (mm2), how far edges move at most
    (mm), and how many pieces and holes there are, (before, after)."""

    area: float
    shift: float
    pieces: tuple[int, int]
    holes: tuple[int, int]


@dataclass(frozen=True)
class Mending:
    """One way of mending all films: in how many places it is wanted, by how much of the look (mm2) and how far edges
    move at most (mm); and whether it is done."""

    kind: MendKind
    places: int
    area: float
    shift: float
    done: bool
    on: float | bool
    """What it is asked for with."""
    possible: bool = True
    """False where a film has more such places than are mended one by one."""
    pieces: tuple[int, int] = (0, 0)
    holes: tuple[int, int] = (0, 0)
    """How many there are without it and with it."""


def _changed(region: BaseGeometry, change: Change) -> BaseGeometry:
    """A region with what a way of mending changes of it."""
    return union([difference(region, change.removed), change.added])


def _wider(places: np.ndarray, width: float) -> np.ndarray:
    """Thin places (m,) grown by what each lacks of `width` mm at its widest."""
    across = 2 * shapely.length(shapely.maximum_inscribed_circle(places, width / 20))
    lacks = np.maximum(width * SAFE - across, width / 20) / 2
    return np.asarray(shapely.buffer(places, lacks, quad_segs=8))


def _new(places: np.ndarray, before: np.ndarray) -> np.ndarray:
    """Those places (m,) that were not there before."""
    if not len(before) or not len(places):
        return places
    old = shapely.STRtree(before).query(places, predicate="dwithin", distance=SAME_MM)[0]
    return np.delete(places, np.unique(old))


def _holes(region: BaseGeometry) -> int:
    return int(shapely.get_num_interior_rings(_parts(region)).sum())


def _with_room(part: BaseGeometry, grown: BaseGeometry, others: np.ndarray, gap: float) -> BaseGeometry:
    """What is added to a piece, without what would come nearer than `gap` mm to `others` (n,), close a hole of the
    piece or narrow one, or a bay, to less."""
    added = difference(grown, part)
    if len(others):
        added = difference(added, shapely.buffer(shapely.union_all(others), gap * SAFE))
    before = narrow_notches(_parts(part), gap)
    holes = holes_in(_parts(part))[0]
    for _ in range(TIMES):
        now = union([part, added])
        closed = holes[shapely.area(differences(holes, np.full(len(holes), now))) < SPECK_MM2] if len(holes) else holes
        narrow = _new(narrow_notches(_parts(now), gap), before)
        if not len(closed) and not len(narrow):
            return added
        added = difference(added, union([*closed, *shapely.buffer(narrow, gap)]))
    return EMPTY


def _thicken(parts: np.ndarray, film: Film, mend: Mend) -> Change:
    width = film.least_stroke_mm
    boxes = shapely.bounds(parts)
    # What is small all over is a dot, and no stroke.
    strokes = np.flatnonzero((boxes[:, 2:] - boxes[:, :2]).max(axis=1) >= film.least_dot_mm)
    places = thin_places(parts[strokes], width)
    if not len(places) or len(places) > MOST_MENDED:
        return Change(EMPTY, EMPTY, len(places))
    tree, gap = shapely.STRtree(parts), least_gap(width)
    place, of = tree.query(places, predicate="intersects")
    added, removed = list[BaseGeometry](), list[BaseGeometry]()
    became = parts.copy()
    for n in np.unique(of).tolist():
        part, left = parts[n], places[place[of == n]]
        grown = part
        # What is not of one width is widened where it still lacks something.
        for _ in range(TIMES):
            grown = union([grown, *_wider(left, width)])
            left = thin_places(_parts(grown), width)
            if not len(left):
                break
        near_it = tree.query(grown, predicate="dwithin", distance=gap * SAFE + width)
        more = _with_room(part, grown, became[near_it[near_it != n]], gap)
        now = union([part, more])
        # What runs out to a point stays thin at its end: that is cut off, where nothing hangs by it.
        tips = thin_places(_parts(now), width)
        some = tips[shapely.get_dimensions(tips) == 2] if len(tips) else tips
        some = some[[len(_parts(difference(now, tip))) == 1 for tip in some]] if len(some) else some
        after = difference(now, union(list(some))) if len(some) else now
        if len(_parts(after)) == 1:
            now = after
        became[n] = now
        added.append(difference(now, part))
        removed.append(difference(part, now))
    return Change(union(added), union(removed), len(places))


def _widen(parts: np.ndarray, film: Film, mend: Mend) -> Change:
    width, stroke = least_gap(film.least_stroke_mm), film.least_stroke_mm
    gaps = narrow_gaps(parts, width)
    if not len(gaps) or len(gaps) > MOST_MENDED:
        return Change(EMPTY, EMPTY, len(gaps))
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
    filled = difference(union(list(shapely.buffer(notches, width / 20))), whole) if len(notches) else EMPTY
    gone = _as_is_strong(parts[of], difference(whole, now), stroke)
    return Change(filled, gone, len(gaps))


def _as_is_strong(parts: np.ndarray, gone: BaseGeometry, stroke: float) -> BaseGeometry:
    """What is taken of pieces (n,), without what would leave them thinner than `stroke` mm where they were not, or part
    one."""
    lost = list[BaseGeometry]()
    for part in parts:
        taken = intersection(part, gone)
        before = thin_places(_parts(part), stroke)
        for _ in range(TIMES):
            if taken.is_empty:
                break
            left = _parts(difference(part, taken))
            thin = _new(thin_places(left, stroke), before)
            # What was parted hung together by what lies between the parts.
            apart = shapely.buffer(left[1:], stroke) if len(left) > 1 else left[:0]
            if not len(thin) and not len(apart):
                break
            taken = difference(taken, union([*shapely.buffer(thin, stroke), *apart]))
        else:
            taken = EMPTY
        lost.append(taken)
    return union([g for g in lost if not g.is_empty])


def _less(a: BaseGeometry, b: BaseGeometry) -> BaseGeometry:
    """What one region has beyond another; not yet on the grid where the library needs none."""
    left: BaseGeometry = differences(np.array([a], dtype=object), np.array([b], dtype=object))[0]
    return left


def _drop(parts: np.ndarray, film: Film, mend: Mend) -> Change:
    size = mend.drop_under_mm or film.least_dot_mm
    boxes = shapely.bounds(parts)
    may = np.flatnonzero((boxes[:, 2:] - boxes[:, :2]).max(axis=1) < size)
    small = may[2 * shapely.minimum_bounding_radius(parts[may]) < size] if len(may) else may
    return Change(EMPTY, as_one(parts[small]), len(small)) if len(small) else NO_CHANGE


def _round(parts: np.ndarray, film: Film, mend: Mend) -> Change:
    r = mend.round_mm or DEFAULT_ROUND_MM
    at, sharp = corners(parts)
    at = at[sharp < SHARP_DEG]
    half = np.radians(sharp[sharp < SHARP_DEG]) / 2
    if not len(at) or len(at) > MOST_MENDED:
        return Change(EMPTY, EMPTY, len(at))
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


def _bridge(parts: np.ndarray, film: Film, mend: Mend) -> Change:
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
    if len(one) > MOST_MENDED:
        return Change(EMPTY, EMPTY, len(one))
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


WAYS: dict[MendKind, Callable[[np.ndarray, Film, Mend], Change]] = {
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


ORDER: tuple[MendKind, ...] = ("drop", "bridge", "thicken", "widen", "round")
"""In which order they are done."""


@dataclass(frozen=True, eq=False)
class Mended:
    """A film mended: what is cut of it, what of it was `touched`, and for each way asked for in how many places it was
    wanted; of too many nothing was done."""

    region: BaseGeometry
    touched: BaseGeometry
    places: Mapping[MendKind, int]


def mended(region: BaseGeometry, film: Film, plan: Mend) -> Mended:
    """One film mended as its plan asks."""
    now, touched, places = region, list[BaseGeometry](), dict[MendKind, int]()
    for kind in ORDER:
        parts = _parts(now)
        if not is_done(plan, kind) or not len(parts):
            continue
        change = WAYS[kind](parts, film, plan)
        places[kind] = change.places
        if not change.nothing:
            now = _changed(now, change)
            touched += [g for g in (change.added, change.removed) if not g.is_empty]
    return Mended(now, union(touched) if touched else EMPTY, places)


@dataclass(frozen=True, eq=False)
class AllMended:
    """Films mended: what is cut and what is seen of each, and for the ways asked for in how many places they were
    wanted, and whether that was done."""

    regions: list[BaseGeometry]
    seen: list[BaseGeometry]
    places: Mapping[MendKind, int]
    too_many: frozenset[MendKind] = frozenset()

    @property
    def each(self) -> list[tuple[BaseGeometry, BaseGeometry]]:
        """What is cut of each and what is seen of it."""
        return list(zip(self.regions, self.seen, strict=True))


def mend(
    regions: Sequence[BaseGeometry],
    seen: Sequence[BaseGeometry],
    films: Sequence[Film],
    plans: Sequence[Mend],
    keep: Keep = keep_nothing,
) -> AllMended:
    """Films (n,) mended as is asked for of each, and what then shows of each. What `keep` holds is not worked out
    anew."""
    if all(plan == Mend() for plan in plans):
        return AllMended(list(regions), list(seen), {})
    done = []
    for region, film, plan in zip(regions, films, plans, strict=True):
        key = ("mended", digest_of([region]), film.least_stroke_mm, film.least_dot_mm, plan)
        done.append(keep(key, lambda r=region, f=film, p=plan: mended(r, f, p)))  # type: ignore[misc]
    out = [d.region for d in done]
    found = [each for d in done for each in d.places.items()]
    places = {kind: sum(n for k, n in found if k == kind) for kind, _ in found}
    too_many = frozenset(kind for kind, n in found if n > MOST_MENDED and kind != "drop")
    touched = [d.touched for d in done if not d.touched.is_empty]
    return AllMended(out, seen_anew(out, seen, union(touched)) if touched else list(seen), places, too_many)


def look_change(
    before: Sequence[tuple[BaseGeometry, BaseGeometry]], after: Sequence[tuple[BaseGeometry, BaseGeometry]]
) -> LookChange:
    """What is another of films (n,), each by what is cut of it and what is seen of it, measured on both."""
    another, shift = list[BaseGeometry](), 0.0
    pieces, holes = [0, 0], [0, 0]
    for (was, shown), (now, shows) in zip(before, after, strict=True):
        if was is not now:
            change = Change(difference(now, was), difference(was, now), 0)
            shift = max(shift, _shift(change, was))
        if shown is not shows:
            another += [difference(shown, shows), difference(shows, shown)]
        for n, region in enumerate((was, now)):
            pieces[n] += len(_parts(region))
            holes[n] += _holes(region)
    area = float(union([g for g in another if not g.is_empty]).area)
    return LookChange(area, shift, (pieces[0], pieces[1]), (holes[0], holes[1]))


def asked_for(kind: MendKind, films: Sequence[Film]) -> float | bool:
    """What a way is asked for with at first: of pieces too small, the least dot of the film that needs it largest."""
    if kind in ("thicken", "widen"):
        return True
    least = max((film.least_dot_mm for film in films), default=0.0)
    return {"drop": least, "round": DEFAULT_ROUND_MM, "bridge": DEFAULT_BRIDGE_MM}[kind]


def could_mend(
    regions: Sequence[BaseGeometry],
    seen: Sequence[BaseGeometry],
    films: Sequence[Film],
    colours: Sequence[str],
    plan: LayerPlan,
    keep: Keep = keep_nothing,
) -> tuple[Mending, ...]:
    """For every way of mending what it changes, or has changed, of films (n,) of `colours` that are mended as `plan`
    asks: it is done to all, or left undone, and both are measured. What `keep` holds is not worked out anew."""
    now = mend(regions, seen, films, [plan.mend_for(c) for c in colours], keep)
    told = []
    for kind in KINDS:
        done, field, on = is_done(plan.mend, kind), FIELDS[kind], asked_for(kind, films)
        whole = plan.mend.model_copy(update={field: getattr(Mend(), field) if done else on})
        toggled = plan.model_copy(update={"mend": whole})
        other = mend(regions, seen, films, [toggled.mend_for(c) for c in colours], keep)
        before, after = (other, now) if done else (now, other)
        change = look_change(before.each, after.each)
        wanted, possible = after.places.get(kind, 0), kind not in after.too_many
        told.append(Mending(kind, wanted, change.area, change.shift, done, on, possible, change.pieces, change.holes))
    return tuple(told)


def seen_anew(
    regions: Sequence[BaseGeometry], seen: Sequence[BaseGeometry], changed: BaseGeometry
) -> list[BaseGeometry]:
    """What shows of each film once some of them were changed, within what was `changed`."""
    out, above = list[BaseGeometry](), EMPTY
    for region, was in zip(reversed(regions), reversed(list(seen)), strict=True):
        here = intersection(region, changed)
        out.append(union([difference(was, changed), difference(here, above)]))
        above = union([above, here])
    return out[::-1]
