"""What the film suffers against what it takes, and the ways out, in words; slits and what they leave."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from ..verdict import Level, Verdict
from . import curved
from .laying import Laying
from .patch import Patch
from .strain import Strain


def after_slits(before: Strain, limit: float | None, slits: tuple[curved.Slit, ...], outline: BaseGeometry) -> Strain:
    """What is left once slits let the excess lap: shortening no worse than what the film takes, as far in from the edge
    as the slits reach."""
    floor = 1 - (limit or 0.0)
    middle = before.flat[before.triangles].mean(axis=1)
    edge = shapely.boundary(outline)
    nearest = cKDTree(np.array([s.start for s in slits])).query(middle)[1]
    reach = np.array([s.depth for s in slits])[nearest]
    within = shapely.distance(edge, shapely.points(middle)) <= reach * (1 + 1e-9)
    least = np.where(within, np.maximum(before.least, floor), before.least)
    # Where every triangle that shortens too far is within reach, so is the edge itself, where it shortens most.
    worst = float(least.min()) if (least < floor).any() else max(before.extremes[1], floor)
    return replace(before, least=least, limit=limit, extremes=(before.extremes[0], worst))


def slits_of_patch(patch: Patch, strain: Strain, limit: float | None, lap: float) -> tuple[curved.Slit, ...]:
    """Slits where the edge of a patch is too long: over each run of edge that shortens more than the film takes, as
    many as its excess
    needs, inward until the shortening is what the film takes."""
    allowed = limit or 0.02
    ring = np.asarray(patch.outline.exterior.coords)[:-1]
    legs = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
    middles = (ring + np.roll(ring, -1, axis=0)) / 2
    tree = cKDTree(strain.flat[strain.triangles].mean(axis=1))
    shortening = 1 - strain.least
    excess = shortening[tree.query(middles)[1]]
    needed = np.where(excess > allowed, excess * legs / lap, 0.0)
    total = np.cumsum(needed)
    count = math.ceil(float(total[-1]) - 1e-9)
    if count == 0:
        return ()
    ccw = patch.outline.exterior.is_ccw
    out = []
    for n in range(count):
        i = int(np.searchsorted(total, (n + 0.5) * total[-1] / count))
        i = min(i, len(ring) - 1)
        along = np.roll(ring, -1, axis=0)[i] - ring[i]
        inward = np.array([-along[1], along[0]]) / max(float(np.linalg.norm(along)), 1e-9) * (1 if ccw else -1)
        steps = np.linspace(0, math.sqrt(patch.outline.area) / 2, 60)
        path = middles[i] + steps[:, None] * inward
        severe = shortening[tree.query(path)[1]]
        calm = np.flatnonzero(severe <= allowed)
        depth = float(steps[calm[0]]) if len(calm) else float(steps[-1])
        if depth > 0:
            end = middles[i] + depth * inward
            out.append(curved.Slit((float(middles[i][0]), float(middles[i][1])), (float(end[0]), float(end[1])), depth))
    return tuple(out)


def strain_verdicts(
    strain: Strain,
    before: Strain,
    laying: Laying,
    safe: float | None,
    what: str,
    gores: tuple[curved.Gore, ...] = (),
    slits: tuple[curved.Slit, ...] = (),
) -> list[Verdict]:
    """What the film suffers against what it takes, before and after relief, and the ways out."""
    wrap, film = laying.wrap, laying.film
    worst = 100 * strain.worst
    kind = "stretch" if strain.stretch_max >= strain.shorten_max else "shorten"
    names = {"before": (100 * before.worst, "%"), "share": (100 * strain.share_over_limit, "%")}
    place = (strain.worst_at,)
    if strain.limit is None:
        return [
            Verdict(
                "unwrap.strain",
                "unwrap",
                "look",
                worst,
                None,
                "%",
                f"In the worst place the film must {kind} {{value}}; how much {film.name.lower()} takes is not known.",
                "Choose a film whose limit is known, or try it on a scrap.",
                names,
                field="layers.default_film",
                places=place,
            )
        ]
    takes = 100 * strain.limit
    level: Level = "ok" if worst <= takes * (1 + 1e-9) else "stop" if worst > 2 * takes else "look"
    relieved = ""
    if gores:
        relieved = f" as {len(gores)} gores, where one piece would take {{before}}"
    elif slits:
        relieved = f" with {len(slits)} slits, {{before}} without them"
    if level == "ok":
        return [
            Verdict(
                "unwrap.strain",
                "unwrap",
                "ok",
                worst,
                takes,
                "%",
                f"In the worst place the film must {kind} {{value}}{relieved}, and takes {{limit}}.",
                figures=names,
                places=place,
            )
        ]
    films = [
        f
        for f in laying.films
        if f.takes_strain_percent is not None and f.takes_strain_percent >= worst and not f.mirrored
    ]
    ways = []
    if wrap.relief == "none":
        ways.append("slit the edge" if strain.shorten_max >= strain.stretch_max else "cut it as gores")
    if films:
        ways.append("take " + " or ".join(f.name.lower() for f in films[:3]))
    if safe:
        ways.append("keep it to {safe} in " + what + ", which is safe")
        names["safe"] = (safe, "mm")
    remedy = (", or ".join(ways)[0].upper() + ", or ".join(ways)[1:] + ".") if ways else "Cut it smaller."
    fixes: dict[str, object] = {}
    if wrap.relief == "none":
        fixes = {"wrap.relief": "slits" if strain.shorten_max >= strain.stretch_max else "gores"}
        if what == "width":
            fixes = {"wrap.relief": "slits"}
    elif films:
        fixes = {"layers.default_film": films[0].id}
    return [
        Verdict(
            "unwrap.strain",
            "unwrap",
            level,
            worst,
            takes,
            "%",
            f"In the worst place the film must {kind} {{value}}{relieved}, but takes only {{limit}}; {{share}} of it is"
            " over that.",
            remedy,
            names,
            field="wrap.relief",
            fixes=fixes,
            places=place,
        )
    ]
