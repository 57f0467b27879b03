"""Work that is larger than a machine cuts, parted into panels: what lies in which, the laps where a piece is crossed,
and the guide bars by which the panels are lined up when they are laid."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..arrangement import areas
from ..arrays import Array
from ..artwork.pieces import is_letter
from ..cuts import NO_PIECE, ROLES, Cuts, cuts_along, cuts_round, together
from ..job.document import PanelPlan
from ..layers import Layer
from ..overlay import difference, intersection
from .seams import PIECE, Window, line_through

BAR_MM, BAR_HIGH_MM, NOTCH_MM, BAR_AWAY_MM = 30.0, 6.0, 2.0, 4.0
"""A guide bar lies across a joint, so long and so high; as many notches are cut into it as its joint's number."""
LEAST_WINDOW_MM = 4.0
MOST_PANELS = 60
MORE_STRIPS = 2
"""Where a joint would cross a piece, so many more strips are tried."""
FAR_MM = 1e5


@dataclass(frozen=True, eq=False)
class Panel:
    """One panel of a layer: which it is of how many, as they are laid; what is cut of it, its film that stays (mm2)."""

    number: int
    of: int
    cuts: Cuts
    area: float


@dataclass(frozen=True, eq=False)
class Parted:
    """A layer in panels: its joints (n, 2) mm, and the names of pieces that they cross."""

    panels: tuple[Panel, ...]
    joints: tuple[Array, ...]
    crossed: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class _Work:
    """The pieces (m,) of a layer with their names, and which of them are letters."""

    parts: NDArray[np.object_]
    names: tuple[str, ...]
    letters: NDArray[np.bool_]

    @classmethod
    def of(cls, layer: Layer) -> _Work:
        cuts = layer.cuts.only("piece", "hole")
        parts = shapely.get_parts(cuts.region)
        rings = cuts.pieces[cuts.roles == ROLES.index("piece")]
        names = tuple(cuts.ids[n] if n != NO_PIECE else "" for n in rings.tolist())
        letters = [is_letter(n.rpartition("/")[2].partition(":")[0].partition(".")[0]) for n in names]
        return cls(parts, names, np.array(letters, dtype=bool))

    def turned(self) -> _Work:
        """The same with across and along swapped."""
        return replace(self, parts=shapely.transform(self.parts, lambda p: p[:, ::-1]))

    def only(self, keep: NDArray[np.bool_]) -> _Work:
        names = tuple(n for n, kept in zip(self.names, keep.tolist(), strict=True) if kept)
        return _Work(self.parts[keep], names, self.letters[keep])


def _lines(work: _Work, room: float, moved: Sequence[float], across: tuple[float, float]) -> tuple[list[Array], float]:
    """Lines that part work, which lies within `across` (mm), into as few strips as have room, or a few more where
    fewer would cross a piece; and what they cost. `moved` are places from the left (mm) where a hand wants them."""
    _, low, _, high = shapely.total_bounds(work.parts).tolist()
    left, wide = across[0], across[1] - across[0]
    if wide <= room:
        return [], 0.0
    count = math.ceil(wide / (room - LEAST_WINDOW_MM) - 1e-9)
    best: tuple[list[Array], float] | None = None
    for strips in range(count, count + MORE_STRIPS + 1):
        pitch = wide / strips
        window = max(room - pitch, LEAST_WINDOW_MM)
        found, spent = [], 0.0
        for k in range(1, strips):
            middle, half = left + k * pitch, window / 2
            if k <= len(moved):
                middle, half = left + moved[k - 1], LEAST_WINDOW_MM / 2
            there = Window(middle - half, middle + half, low - BAR_HIGH_MM, high + BAR_HIGH_MM)
            near = (shapely.bounds(work.parts)[:, 2] > there.left - 5) & (
                shapely.bounds(work.parts)[:, 0] < there.right + 5
            )
            line, cost = line_through(work.parts[near], work.letters[near], there)
            found.append(line)
            spent += cost
        if best is None or spent < best[1]:
            best = (found, spent)
        if spent < PIECE or moved:
            break
    assert best is not None
    return best


def _between(lower: Array | None, upper: Array | None) -> BaseGeometry:
    """What lies between two lines that run up, or beside one; all of it without any."""
    left = np.array([[-FAR_MM, -FAR_MM], [-FAR_MM, FAR_MM]]) if lower is None else _endless(lower)
    right = np.array([[FAR_MM, -FAR_MM], [FAR_MM, FAR_MM]]) if upper is None else _endless(upper)
    return shapely.Polygon(np.concatenate([left, right[::-1]]))


def _endless(line: Array) -> Array:
    """The same, its ends drawn far up and down."""
    return np.concatenate([[(line[0, 0], -FAR_MM)], line, [(line[-1, 0], FAR_MM)]])


def _bar(at: tuple[float, float], upright: bool, notches: int) -> BaseGeometry:
    """A guide bar across a joint, notched along one side, its last end bevelled so that it is never laid turned."""
    half, high = BAR_MM / 2, BAR_HIGH_MM / 2
    x = -half + 3.0 + np.arange(notches) * 2 * NOTCH_MM
    corners = [(-half, -high), (half, -high), (half, high - 2.0), (half - 2.0, high)]
    for a in x[::-1]:
        corners += [(a + NOTCH_MM, high), (a + NOTCH_MM, high - NOTCH_MM), (a, high - NOTCH_MM), (a, high)]
    corners.append((-half, high))
    points = np.array(corners)
    if upright:
        points = points[:, ::-1] * (-1.0, 1.0)
    return shapely.Polygon(points + at)


def _bars(
    joint: Array, upright_joint: bool, work: _Work, regions: NDArray[np.object_], number: int
) -> list[BaseGeometry]:
    """Two guide bars across a joint, as far apart as there is room for them: outside the work, or within it where no
    piece lies; each on the two panels of some `regions` that meet there, and on no third one."""
    line = shapely.LineString(joint)
    run = np.arange(0.0, line.length + 1e-9, 5.0)
    places = shapely.get_coordinates(shapely.line_interpolate_point(line, run))
    notches = (number - 1) % 5 + 1
    made = [_bar((float(x), float(y)), not upright_joint, notches) for x, y in places]
    met = shapely.intersects(np.array(made, dtype=object)[:, None], regions[None, :]).sum(axis=1) != 2
    if len(work.parts):
        tree = shapely.STRtree(work.parts)
        met[np.unique(tree.query(np.array(made, dtype=object), predicate="dwithin", distance=1.0)[0])] = True
    free = np.flatnonzero(~met)
    if not len(free):
        return []
    return [made[n] for n in dict.fromkeys((int(free[0]), int(free[-1])))]


def _out_to_the_edge(joint: Array, upright: bool, bounds: Array) -> Array:
    """A joint drawn out so far beyond the work that a guide bar has room there."""
    beyond = BAR_AWAY_MM + BAR_HIGH_MM / 2
    low, high = (bounds[1], bounds[3]) if upright else (bounds[0], bounds[2])
    along = 1 if upright else 0
    first, last = joint[0].copy(), joint[-1].copy()
    if first[along] <= low:
        first[along] = low - beyond
    if last[along] >= high:
        last[along] = high + beyond
    return np.concatenate([[first], joint[1:-1], [last]])


def _inner(bounds: Array, room: tuple[float, float], kept_off: float) -> tuple[float, float]:
    """How wide and how long the work in a panel may be: guide bars reach over a joint on either side, and stand outside
    the work."""
    wide, tall = bounds[2] - bounds[0], bounds[3] - bounds[1]
    across, along = (side - 2 * kept_off for side in room)
    outside = 2 * (BAR_AWAY_MM + BAR_HIGH_MM)
    free_across = across - (outside if tall > along else 0.0)
    free_along = along - (outside if wide > across else 0.0)
    return (
        free_across if wide <= free_across else free_across - BAR_MM,
        free_along if tall <= free_along else free_along - BAR_MM,
    )


def fewest(layer: Layer, room: tuple[float, float], kept_off: float) -> int | None:
    """In how many panels a layer goes at best; None where there would be too many."""
    bounds = np.array(layer.cuts.only("piece", "hole").bounds)
    across, along = _inner(bounds, room, kept_off)
    if not np.isfinite(bounds).all() or min(across, along) < 3 * BAR_MM:
        return None
    wide, tall = bounds[2] - bounds[0], bounds[3] - bounds[1]
    columns, rows = (
        1 if full <= side else math.ceil(full / (side - LEAST_WINDOW_MM) - 1e-9)
        for full, side in ((wide, across), (tall, along))
    )
    count = columns * rows
    return count if 1 < count <= MOST_PANELS else None


def part(layer: Layer, plan: PanelPlan, room: tuple[float, float], kept_off: float) -> Parted:
    """A layer in panels that have `room` (mm, across and along), `kept_off` mm of it on each side for the weed box;
    `fewest` must have told that it goes."""
    work = _Work.of(layer)
    bounds = shapely.total_bounds(work.parts)
    across_room, along_room = _inner(bounds, room, kept_off)
    upright, _ = _lines(work, across_room, plan.moved_mm, (bounds[0], bounds[2]))
    columns = [_between(a, b) for a, b in zip([None, *upright], [*upright, None], strict=True)]
    joints: list[tuple[Array, bool]] = [(line, True) for line in upright]
    cells: list[tuple[int, int, BaseGeometry]] = []
    for n, column in enumerate(columns):
        inside = shapely.intersects(column, work.parts)
        mine = work.only(inside)
        if not len(mine.parts):
            continue
        level, _ = _lines(mine.turned(), along_room, (), (bounds[1], bounds[3]))
        rows = [_between(a, b) for a, b in zip([None, *level], [*level, None], strict=True)]
        for k, row in enumerate(rows):
            cells.append((k, n, intersection(column, shapely.transform(row, lambda p: p[:, ::-1]))))
        joints += [(line[:, ::-1], False) for line in level]
    side = 1 if plan.first == "left" else -1
    cells.sort(key=lambda c: (c[0], side * c[1]))
    regions = [c[2] for c in cells]
    made, crossed = _shared_out(layer, work, regions, plan.lap_mm)
    # Where nothing of the film lies there is no panel: a mark, or a line through the waste, is none.
    some = [n for n, cuts in enumerate(made) if len(cuts.only("piece"))]
    regions, made = [regions[n] for n in some], [made[n] for n in some]
    bars = [
        bar
        for number, (joint, is_upright) in enumerate(joints, start=1)
        for bar in _bars(
            _out_to_the_edge(joint, is_upright, bounds), is_upright, work, np.array(regions, dtype=object), number
        )
    ]
    out = []
    for number, (region, cuts) in enumerate(zip(regions, made, strict=True), start=1):
        mine_bars = [bar for bar in bars if shapely.intersects(region, bar)]
        guides = [cuts_round(bar, "mark") for bar in mine_bars]
        area = float(cuts.only("piece", "hole").region.area)
        out.append(Panel(number, len(regions), together([cuts, *guides]), area))
    return Parted(tuple(out), tuple(j for j, _ in joints), crossed)


def _shared_out(
    layer: Layer, work: _Work, regions: Sequence[BaseGeometry], lap: float
) -> tuple[list[Cuts], tuple[str, ...]]:
    """What is cut of a layer in each of some regions, and the names of the pieces that lie in several: those are cut
    apart, and of two panels the one that is laid later laps over the other."""
    every = np.array(regions, dtype=object)
    whole = np.array([shapely.covers(region, work.parts) for region in every])
    owner = np.where(whole.any(axis=0), whole.argmax(axis=0), -1)
    cut_apart = np.flatnonzero(owner < 0)
    made: list[Cuts] = []
    other = layer.cuts.only("mark", "slit", "weed", "frame")
    for n, region in enumerate(regions):
        mine = np.flatnonzero(owner == n)
        parts, names = list(work.parts[mine]), [work.names[k] for k in mine.tolist()]
        if len(cut_apart):
            wider = shapely.buffer(region, lap, join_style="mitre") if lap > 0 else region
            later = [r for r in regions[n + 1 :]]
            reach = difference(wider, shapely.union_all(later)) if later else wider
            for k in cut_apart.tolist():
                for some in areas(np.array([intersection(work.parts[k], reach)], dtype=object)):
                    parts.append(some)
                    names.append(f"{work.names[k]}/{n + 1}")
        pieces = cuts_round(shapely.multipolygons(parts), "piece", names) if parts else None
        made.append(together([*([pieces] if pieces is not None else []), _within(other, region)]))
    crossed = tuple(dict.fromkeys(work.names[k] for k in cut_apart.tolist()))
    return made, crossed


def _within(cuts: Cuts, region: BaseGeometry) -> Cuts:
    """Of marks and frames those in a region, of lines what lies in it."""
    out: list[Cuts] = []
    for path, closed, role in zip(cuts.paths(), cuts.closed.tolist(), cuts.roles.tolist(), strict=True):
        name = ROLES[role]
        if closed:
            ring = shapely.Polygon(path)
            if shapely.contains(region, ring.representative_point()) and (
                name == "mark" or shapely.covers(region, ring)
            ):
                out.append(cuts_round(ring, name))
            continue
        left = shapely.get_parts(shapely.intersection(shapely.LineString(path), region))
        kept = [shapely.get_coordinates(g) for g in left if shapely.get_dimensions(g) == 1 and not g.is_empty]
        out.append(cuts_along(kept, name))
    return together(out)
