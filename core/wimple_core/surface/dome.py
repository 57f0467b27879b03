"""A dome laid flat from its middle: whole, slit at its rim, or as petals."""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.spatial import cKDTree

from ..arrays import Array
from ..measure import Measured
from ..measure.body import Cap
from ..overlay import intersection
from . import curved
from .gores import gore_map, petals
from .laying import Laying
from .layout import developed, zones_on
from .relief import after_slits, strain_verdicts
from .strain import Strain
from .surface import Flat
from .template import Template, ZoneOnTemplate


def unwrap_dome(cap: Cap, measured: Measured, laying: Laying) -> Template:
    """A dome laid out from its middle by true distances, slit at its rim, or as petals."""
    wrap, limit, free = laying.wrap, laying.limit, measured.free
    left, low, right, high = free.left, free.low, free.right, free.high
    reach = (right - left) / 2
    before = curved.strain_of_cap(cap, reach, limit)
    t = np.linspace(0, 2 * math.pi, 721)[:-1]
    disc = shapely.Polygon(reach * np.column_stack([np.cos(t), np.sin(t)]))
    safe = 2 * curved.safe_reach(cap, limit) if limit else None
    zones = tuple(
        ZoneOnTemplate(z.name, z.index, intersection(z.region, disc)) for z in free.zones if z.index is not None
    )
    if wrap.relief == "gores":

        def radius(p: Array) -> Array:
            return np.asarray(cap.radius * np.sin(p / cap.radius), dtype=np.float64)

        def slope(p: Array) -> Array:
            return np.asarray(np.cos(p / cap.radius), dtype=np.float64)

        side = curved.Side(radius, slope, 1e-3, reach)
        count = wrap.gores if wrap.gores >= 3 else curved.gores_needed(side, 2 * math.pi, limit)
        surface = petals(count, cap.radius, reach)
        one = curved.strain_of_gore(count, side, 2 * math.pi, limit)
        plan = before.flat
        x, y = surface.develop(plan[:, 0], plan[:, 1])
        p = np.hypot(*plan[before.triangles].mean(axis=1).T)
        turn = np.arctan2(*plan[before.triangles].mean(axis=1).T)
        wide = 2 * math.pi / count
        turn = (turn + wide / 2) % wide - wide / 2
        laid = np.column_stack(gore_map(radius, slope)[0](turn, p))
        pick = cKDTree(one.flat[one.triangles].mean(axis=1)).query(laid)[1]
        strain = Strain(
            np.column_stack([x, y]),
            before.space,
            before.triangles,
            one.most[pick],
            one.least[pick],
            before.weight,
            limit,
            one.extremes,
        )
        made = tuple(
            curved.Gore(2 * math.pi / count * cap.radius * math.sin(reach / cap.radius), reach) for _ in range(count)
        )
        return Template(
            surface=surface,
            outline=surface.outline(),
            free=developed(surface, free.region),
            zones=zones_on(surface, free),
            left=left,
            right=right,
            low=low,
            high=high,
            verdicts=tuple(strain_verdicts(strain, before, laying, safe, "diameter", made)),
            limits=free,
            strain=strain,
            before=before,
            gores=made,
            plan=plan,
            film_thickness=laying.thickness,
        )
    slits = curved.slits_of_cap(cap, reach, limit, wrap.slit_overlap_mm) if wrap.relief == "slits" and limit else ()
    strain = after_slits(before, limit, slits, disc) if slits else before
    return Template(
        surface=Flat(),
        outline=disc,
        free=free.region,
        zones=zones,
        left=left,
        right=right,
        low=low,
        high=high,
        verdicts=tuple(strain_verdicts(strain, before, laying, safe, "diameter", (), slits)),
        limits=free,
        strain=strain,
        before=before,
        slits=slits,
        plan=before.flat,
        film_thickness=laying.thickness,
    )
