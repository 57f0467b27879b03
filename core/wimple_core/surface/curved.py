"""Double curves in closed form: the best cone of a band, the strain of bands, caps and gores, slits, and the largest
safe size."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import brentq
from scipy.spatial import ConvexHull, QhullError

from ..arrays import Array
from ..measure.body import Cap, Profile, grid_triangles
from .frustum import develop
from .gores import gore_map
from .strain import Strain, flat_areas, of_triangles

COLUMNS, ROWS = 73, 33


def minimax_line(s: Array, r: Array) -> tuple[float, float]:
    """The straight line `c0 + c1 s` whose greatest distance from r(s), measured in r, is least.

    The narrowest strip (upright width) holding all points has one side along an edge of their convex hull; its
    middle is the line
    (Chebyshev's linear fit).
    """
    points = np.column_stack([s, r])
    try:
        hull = points[ConvexHull(points).vertices]
    except QhullError:
        slope = float((r[-1] - r[0]) / (s[-1] - s[0]))
        return float(r[0] - slope * s[0]), slope
    ahead = np.roll(hull, -1, axis=0) - hull
    steep = np.abs(ahead[:, 0]) > 1e-9 * (s[-1] - s[0])
    slopes = ahead[steep, 1] / ahead[steep, 0]
    rest = hull[:, 1][None, :] - slopes[:, None] * hull[:, 0][None, :]
    width = rest.max(axis=1) - rest.min(axis=1)
    i = int(np.argmin(width))
    return float((rest[i].max() + rest[i].min()) / 2), float(slopes[i])


def band_of(profile: Profile, low: float, high: float, places: int = 241) -> tuple[Array, Array]:
    """Heights along the side and radii (n,) of a band."""
    s = np.linspace(low, high, places)
    return s, profile.radii_at(s)


def hoop_strain(profile: Profile, c0: float, c1: float, s: Array) -> Array:
    """`e(s) = r(s) / r_cone(s) - 1`: positive where the film must stretch, negative where it is too long."""
    return profile.radii_at(s) / (c0 + c1 * s) - 1


def _in_space(radii: Array, heights: Array, a: Array) -> Array:
    """Places (n, 3) of angles and radii: x right, y up, z toward the eye."""
    return np.column_stack([radii * np.sin(a), heights, radii * np.cos(a)])


def strain_of_band(
    profile: Profile,
    c0: float,
    c1: float,
    heights: tuple[float, float],
    angles: tuple[float, float],
    limit: float | None,
    slit: tuple[tuple[float, float], ...] = (),
) -> Strain:
    """Strain of a band laid on its cone: lengths along the side are kept, hoops change by `e(s)`.

    Between the heights of each of `slit` the film is slit, and shortens no further than what it takes.
    """
    low, high = heights
    s, a = np.linspace(low, high, ROWS), np.linspace(*angles, COLUMNS)
    gs, ga = (g.ravel() for g in np.meshgrid(s, a, indexing="ij"))
    flat = np.column_stack(develop(ga, gs, c0, c1))
    space = _in_space(profile.radii_at(gs), np.interp(gs, profile.s, profile.z), ga)
    triangles = grid_triangles(ROWS, COLUMNS)

    def hoop_at(z: Array) -> Array:
        hoop = 1 + hoop_strain(profile, c0, c1, z)
        for start, stop in slit:
            within = (z >= min(start, stop)) & (z <= max(start, stop))
            hoop = np.where(within, np.maximum(hoop, 1 - (limit or 0.0)), hoop)
        return hoop

    hoop, fine = hoop_at(gs[triangles].mean(axis=1)), hoop_at(np.linspace(low, high, 401))
    weight = flat_areas(flat, triangles)
    return Strain(
        flat,
        space,
        triangles,
        np.maximum(hoop, 1.0),
        np.minimum(hoop, 1.0),
        weight,
        limit,
        (max(float(fine.max()), 1.0), min(float(fine.min()), 1.0)),
    )


def strain_of_cap(cap: Cap, reach: float, limit: float | None) -> Strain:
    """Strain of a dome laid out from its middle by true distances: hoops shorten to `sin(p / R) / (p / R)`."""
    p, t = np.linspace(0, reach, 25), np.linspace(0, 2 * math.pi, 97)
    gp, gt = (g.ravel() for g in np.meshgrid(p, t, indexing="ij"))
    flat = np.column_stack([gp * np.cos(gt), gp * np.sin(gt)])
    u = gp / cap.radius
    # Seen from the front the dome stands on its rim; y is up on the template and away on the dome.
    around = cap.radius * np.sin(u)
    space = np.column_stack([around * np.cos(gt), cap.rise - cap.radius * (1 - np.cos(u)), -around * np.sin(gt)])
    triangles = grid_triangles(25, 97)
    middle = gp[triangles].mean(axis=1) / cap.radius
    hoop = np.sinc(middle / math.pi)
    weight = flat_areas(flat, triangles)
    keep = weight > 1e-9
    edge = reach / cap.radius
    return Strain(
        flat,
        space,
        triangles[keep],
        np.ones(int(keep.sum())),
        hoop[keep],
        weight[keep],
        limit,
        (1.0, float(np.sinc(edge / math.pi))),
    )


@dataclass(frozen=True)
class Side:
    """The side line of a turned body between two heights along it: its radius and slope at any height."""

    radius: Callable[[Array], Array]
    slope: Callable[[Array], Array]
    low: float
    high: float


def _stretches(side: Side, s: Array, t: Array) -> tuple[Array, Array]:
    """Greatest and least length change of the film at places of a gore: heights `s`, angles `t` from its middle (n,).

    The singular values of the map from body to plane, by central differences of both coordinates.
    """
    forth = gore_map(side.radius, side.slope)[0]
    step = 1e-4 * (side.high - side.low)
    up, down = np.minimum(s + step, side.high), np.maximum(s - step, side.low)
    by_s = (np.column_stack(forth(t, up)) - np.column_stack(forth(t, down))) / (up - down)[:, None]
    by_t = (np.column_stack(forth(t + 1e-6, s)) - np.column_stack(forth(t - 1e-6, s))) / 2e-6
    by_t /= np.maximum(side.radius(s), 1e-9)[:, None]
    half_sum = np.hypot(by_t[:, 0] + by_s[:, 1], by_t[:, 1] - by_s[:, 0]) / 2
    half_difference = np.hypot(by_t[:, 0] - by_s[:, 1], by_t[:, 1] + by_s[:, 0]) / 2
    return 1 / (half_sum - half_difference), 1 / (half_sum + half_difference)


def strain_of_gore(
    count: int, side: Side, span: float, limit: float | None, rows: int = 49, columns: int = 13
) -> Strain:
    """Strain of one of `count` gores over `span` rad, by a net laid on it (positions in space on the axis's own scale
    of heights); its extremes where they are greatest, along its edges."""
    half = span / count / 2
    s, t = np.linspace(side.low, side.high, rows), np.linspace(-half, half, columns)
    gs, gt = (g.ravel() for g in np.meshgrid(s, t, indexing="ij"))
    flat = np.column_stack(gore_map(side.radius, side.slope)[0](gt, gs))
    fine = np.linspace(side.low, side.high, 2001)
    rise = np.sqrt(np.maximum(1 - side.slope(fine) ** 2, 0.0))
    heights = np.concatenate([[0.0], np.cumsum((rise[1:] + rise[:-1]) / 2 * np.diff(fine))])
    space = _in_space(side.radius(gs), np.interp(gs, fine, heights), gt)
    triangles = grid_triangles(rows, columns)
    first, second = space[triangles[:, 1]] - space[triangles[:, 0]], space[triangles[:, 2]] - space[triangles[:, 0]]
    found = of_triangles(flat, space, triangles[np.linalg.norm(np.cross(first, second), axis=1) > 1e-9], limit)
    edge = np.linspace(side.low, side.high, 801)
    most, least = _stretches(side, np.tile(edge, 2), np.concatenate([np.full(801, half), np.full(801, half / 2)]))
    return replace(found, extremes=(max(float(most.max()), 1.0), min(float(least.min()), 1.0)))


def gores_needed(side: Side, span: float, limit: float | None, most: int = 60) -> int:
    """As few gores over `span` rad as keep every place within the limit (2 % where it is not known), at least three all
    round.

    The strain falls with the square of their number, so two tries tell it.
    """
    allowed = 0.02 if limit is None else max(limit, 1e-4)
    fewest = max(1, math.ceil(3 * span / (2 * math.pi) - 1e-9))

    def worst(count: int) -> float:
        return strain_of_gore(count, side, span, limit, 25, 9).worst

    n = 12
    for _ in range(6):
        now = worst(n)
        wanted = int(np.clip(math.ceil(n * math.sqrt(now / allowed)), fewest, most))
        if wanted == n or (wanted < n and now <= allowed and worst(n - 1) > allowed):
            return n
        n = wanted if wanted != n else n + 1
    while n < most and worst(n) > allowed:
        n += 1
    return n


@dataclass(frozen=True)
class Slit:
    """A cut from the edge inward, mm on the template."""

    start: tuple[float, float]
    end: tuple[float, float]
    depth: float


@dataclass(frozen=True)
class Gore:
    """One gore: its greatest width and its length, mm."""

    width: float
    length: float


def slits_needed(excess: float, width: float, lap: float) -> int:
    """`n = ceil(|e| w / d)` over an arc of width w with strain e, slits that may each lap or gape by d."""
    return max(0, math.ceil(abs(excess) * width / lap - 1e-9))


def slits_of_cap(cap: Cap, reach: float, limit: float, lap: float) -> tuple[Slit, ...]:
    """Slits round the rim of a dome: over its whole edge, as deep as where the shortening falls to what the film
    takes."""
    excess = 1 - float(np.sinc(reach / cap.radius / math.pi))
    if excess <= limit:
        return ()
    count = slits_needed(excess, 2 * math.pi * reach, lap)
    stop = safe_reach(cap, limit)
    t = math.pi / 2 + 2 * math.pi * np.arange(count) / count
    return tuple(
        Slit((reach * math.cos(u), reach * math.sin(u)), (stop * math.cos(u), stop * math.sin(u)), reach - stop)
        for u in t
    )


def safe_reach(cap: Cap, limit: float) -> float:
    """The distance from the middle of a dome at which the shortening is what the film takes: `sin u / u = 1 - e`."""
    if 1 - float(np.sinc(cap.angle / math.pi)) <= limit:
        return cap.arc
    return cap.radius * float(brentq(lambda u: 1 - float(np.sinc(u / math.pi)) - limit, 1e-9, cap.angle))


def widest_line(s: Array, r: Array, c0: float, c1: float) -> tuple[float, float]:
    """The cone of that taper that sits on the widest place of a band: nowhere must the film stretch."""
    return c0 + float((r - c0 - c1 * s).max()), c1


SlitBand = tuple[tuple[float, float], Strain, tuple[Slit, ...]]
"""A cone `c0 + c1 s`, what the film suffers on it, and its slits."""


def slit_band(
    profile: Profile,
    line: tuple[float, float],
    heights: tuple[float, float],
    angles: tuple[float, float],
    limit: float,
    lap: float,
    edge: str,
) -> SlitBand:
    """A band on a cone, with slits at the lower or upper edge, or both, where the film is too long there, in to where
    it no longer is; and the strain that is left, at an edge that is not slit as it was."""
    c0, c1 = line
    (low, high), (left, right) = heights, angles
    out: list[Slit] = []
    slit: list[tuple[float, float]] = []
    s = np.linspace(low, high, 801)
    e = hoop_strain(profile, c0, c1, s)
    for name, order in (("lower", np.arange(801)), ("upper", np.arange(801)[::-1])):
        if edge not in ("both", name) or e[order[0]] >= -limit:
            continue
        inside = int(np.argmax(e[order] >= -limit)) if (e[order] >= -limit).any() else 800
        start, stop = float(s[order[0]]), float(s[order[inside]])
        slit.append((start, stop))
        count = slits_needed(float(e[order[0]]), (right - left) * (c0 + c1 * start), lap)
        a = left + (right - left) * (np.arange(count) + 0.5) / count
        x0, y0 = develop(a, np.full(count, start), c0, c1)
        x1, y1 = develop(a, np.full(count, stop), c0, c1)
        ends = zip(x0.tolist(), y0.tolist(), x1.tolist(), y1.tolist(), strict=True)
        out += [Slit((p, q), (u, v), abs(stop - start)) for p, q, u, v in ends]
    strain = strain_of_band(profile, c0, c1, heights, angles, limit, tuple(slit))
    return line, strain, tuple(out)


def safe_band(profile: Profile, low: float, high: float, limit: float) -> float:
    """The height of the largest band round the middle of this one whose strain stays within what the film takes, mm."""
    middle, half = (low + high) / 2, (high - low) / 2

    def worst(share: float) -> float:
        s, r = band_of(profile, middle - half * share, middle + half * share, 101)
        c0, c1 = minimax_line(s, r)
        return float(np.abs(hoop_strain(profile, c0, c1, s)).max()) - limit

    if worst(1.0) <= 0:
        return high - low
    return (high - low) * float(brentq(worst, 1e-3, 1.0, xtol=1e-6)) if worst(1e-3) < 0 else 0.0
