"""A bellied band laid flat on its best cone, slit at its edges, or as gores."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.spatial import cKDTree

from ..arrays import Array
from ..measure import Measured
from ..measure.body import Profile, grid_triangles
from . import curved
from .frustum import LEAST_TAPER
from .gores import gores
from .laying import Laying
from .layout import developed, laid_open, sector_of, whole_turn, windowed, zones_on
from .pieces import Pieces
from .relief import strain_verdicts
from .seam import checked_band, seam_verdicts
from .strain import Strain, flat_areas
from .surface import RoundWall
from .template import Template


def _thickened(c0: float, c1: float, by: float, middle: float) -> RoundWall:
    """The cone `c0 + c1 s` with `by` mm laid on it, square to it."""
    return RoundWall(c0 + by * math.sqrt(max(0.0, 1 - c1 * c1)), 0.0 if abs(c1) < LEAST_TAPER else c1, middle=middle)


def unwrap_belly(body: Profile, measured: Measured, laying: Laying) -> Template:
    """A band on its best cone, or as gores."""
    wrap, limit, thick = laying.wrap, laying.limit, laying.thickness
    free = laid_open(measured.free, wrap.seam_deg, body.length)
    left, right = whole_turn(wrap, free)
    low, high = free.low, free.high
    s, r = curved.band_of(body, low, high)
    c0, c1 = curved.minimax_line(s, r)
    before = curved.strain_of_band(body, c0, c1, (low, high), (left, right), limit)
    safe = curved.safe_band(body, low, high, limit) if limit else None
    verdicts = seam_verdicts(wrap, measured)
    if wrap.relief == "gores":
        fair = CubicSpline(body.s, body.r)

        def slope(z: Array) -> Array:
            return np.asarray(np.clip(fair(z, 1), -0.999, 0.999), dtype=np.float64)

        def radius(z: Array) -> Array:
            return np.asarray(fair(z) + thick / 2 * np.sqrt(1 - slope(z) ** 2), dtype=np.float64)

        side = curved.Side(radius, slope, low, high)
        count = wrap.gores if wrap.gores >= 3 else curved.gores_needed(side, right - left, limit)
        cone = _thickened(c0, c1, thick / 2, (left + right) / 2)
        surface = gores(count, (left, right), (low, high), radius, slope, cone)
        one = curved.strain_of_gore(count, side, right - left, limit)
        strain = _of_gores(one, surface, radius, lambda z: np.interp(z, body.s, body.z), low, high)
        wide = (right - left) / count
        made = tuple(curved.Gore(wide * float(r.max() + thick / 2), high - low) for _ in range(count))
        return Template(
            surface=surface,
            outline=surface.outline(),
            free=developed(surface, free.region),
            zones=zones_on(surface, free),
            left=left,
            right=right,
            low=low,
            high=high,
            verdicts=tuple(strain_verdicts(strain, before, laying, safe, "height", made) + verdicts),
            limits=free,
            strain=strain,
            before=before,
            gores=made,
            film_thickness=thick,
        )
    slits: tuple[curved.Slit, ...] = ()
    strain = before
    if wrap.relief == "slits" and limit and before.worst > limit:
        found = [
            curved.slit_band(body, line, (low, high), (left, right), limit, wrap.slit_overlap_mm, wrap.slit_edge)
            for line in ((c0, c1), curved.widest_line(s, r, c0, c1))
        ]
        # The cone between the widest and the narrowest place, or the one on the widest: where the film suffers less,
        # and where both are as good, with the fewer slits.
        (c0, c1), strain, slits = min(found, key=lambda f: (round(max(f[1].worst, limit), 6), len(f[2])))
    cone = _thickened(c0, c1, thick / 2, (left + right) / 2)
    outline = checked_band(cone, left, right, low, high, wrap)
    return Template(
        surface=cone,
        outline=outline,
        free=developed(cone, windowed(free.region, left, right, 0.0, body.length)),
        zones=zones_on(cone, free),
        left=left,
        right=right,
        low=low,
        high=high,
        sector=sector_of(cone, body.length),
        verdicts=tuple(strain_verdicts(strain, before, laying, safe, "height", (), slits) + verdicts),
        limits=free,
        strain=strain,
        before=before,
        slits=slits,
        hoop=(c0, c1),
        film_thickness=thick,
    )


def _of_gores(
    one: Strain,
    surface: Pieces,
    radius: Callable[[Array], Array],
    height: Callable[[Array], Array],
    low: float,
    high: float,
) -> Strain:
    """Strain of all gores from that of one, each where it lies on the template and on the body."""
    rows, columns = 25, 7
    grid = grid_triangles(rows, columns)
    nearest = cKDTree(one.flat[one.triangles].mean(axis=1))
    flats, spaces, picks = [], [], []
    for piece in surface.pieces:
        a0, _, a1, _ = piece.region.bounds
        gs, ga = (
            g.ravel() for g in np.meshgrid(np.linspace(low, high, rows), np.linspace(a0, a1, columns), indexing="ij")
        )
        flat = np.column_stack(piece.flat(ga, gs))
        picks.append(nearest.query((flat - piece.shift)[grid].mean(axis=1))[1])
        r = radius(gs)
        flats.append(flat)
        spaces.append(np.column_stack([r * np.sin(ga), height(gs), r * np.cos(ga)]))
    flat, pick = np.concatenate(flats), np.concatenate(picks)
    triangles = np.concatenate([grid + i * rows * columns for i in range(len(flats))])
    return Strain(
        flat,
        np.concatenate(spaces),
        triangles,
        one.most[pick],
        one.least[pick],
        flat_areas(flat, triangles),
        one.limit,
        one.extremes,
    )
