"""The second stage: every measured body laid flat, with what the film suffers and how it is relieved."""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.interpolate import LinearNDInterpolator
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from ..errors import NotFlattened
from ..job.blanks import Blank
from ..job.document import Wrap
from ..job.tables import FILMS, Film
from ..measure import Measured
from ..measure.body import Cap, MeshBody, Profile, RiseSurface
from ..measure.zones import FreeArea, KeptOut, flat_zones, free_area_of_outline
from ..overlay import intersection, mended, union
from ..verdict import Verdict
from . import curved, pieces
from .belly import unwrap_belly
from .frustum import Array
from .patch import Patch, patch_of_mesh, patch_of_rises
from .relief import after_slits, slits_of_patch, strain_verdicts
from .stack import unwrap_stack
from .strain import Strain, of_triangles
from .surface import Flat
from .template import Template, ZoneOnTemplate, developed, taken_thickness, unwrap_exact, zones_on

INLINE_TRIANGLES = 6000
"""A patch of more is flattened by a task."""


def unwrap(
    blank: Blank,
    wrap: Wrap,
    measured: Measured,
    film: Film | None = None,
    patch: Patch | None = None,
    at_once: bool = True,
) -> Template:
    """Lay the measured body flat. `patch` is that of a mesh, where it was flattened before; a large one that was not
    is flattened
    here only if `at_once`.

    Raises BadReading where the wrap cannot be, NotFlattened where a large patch still waits for its flattening.
    """
    body = measured.body
    chosen = film or FILMS["calendered-gloss"]
    limit = None if chosen.takes_strain_percent is None else chosen.takes_strain_percent / 100
    if isinstance(body, Profile):
        if body.sections:
            return unwrap_stack(wrap, measured, body, chosen)
        return unwrap_belly(wrap, measured, body, chosen, limit)
    if isinstance(body, Cap):
        return _dome(wrap, measured, body, limit, chosen)
    if isinstance(body, RiseSurface):
        laid = patch_of_rises(body, wrap.patch.line)
        forth = LinearNDInterpolator(laid.space[:, :2], laid.flat)

        def over(region: BaseGeometry) -> BaseGeometry:
            inner = intersection(
                region, shapely.box(-body.width / 2 + 1e-6, 1e-6, body.width / 2 - 1e-6, body.height - 1e-6)
            )
            return shapely.transform(
                shapely.segmentize(inner, max(body.width, body.height) / 60), lambda p: np.asarray(forth(p))
            )

        kept = tuple(KeptOut(z.kind, z.name, over(z.region), z.index) for z in measured.free.zones)
        whole = over(union([measured.free.region, *(z.region for z in measured.free.zones)]))
        return _patch(laid, kept, free_area_of_outline(whole, 0.0, kept), limit, chosen, wrap)
    if isinstance(body, MeshBody):
        laid_mesh = patch
        if laid_mesh is None:
            if not at_once and wrap.patch.mode != "loop" and len(body.triangles) > INLINE_TRIANGLES:
                raise NotFlattened(
                    f"A patch of {len(body.triangles):,} triangles takes a while to flatten.",
                    field="wrap.patch.mode",
                    hint="Start its flattening: it is done once, with its progress shown.",
                )
            laid_mesh = patch_of_mesh(body, wrap.patch)
        margin = getattr(blank, "margin_mm", 0.0)
        outline = laid_mesh.outline
        kept = flat_zones(blank.zones, outline)
        return _patch(laid_mesh, kept, free_area_of_outline(outline, margin, kept), limit, chosen, wrap)
    return unwrap_exact(wrap, measured, chosen)


def _dome(wrap: Wrap, measured: Measured, cap: Cap, limit: float | None, film: Film) -> Template:
    """A dome laid out from its middle by true distances, slit at its rim, or as petals."""
    free = measured.free
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
        surface = pieces.petals(count, cap.radius, reach)
        one = curved.strain_of_gore(count, side, 2 * math.pi, limit)
        plan = before.flat
        x, y = surface.develop(plan[:, 0], plan[:, 1])
        p = np.hypot(*plan[before.triangles].mean(axis=1).T)
        turn = np.arctan2(*plan[before.triangles].mean(axis=1).T)
        wide = 2 * math.pi / count
        turn = (turn + wide / 2) % wide - wide / 2
        laid = np.column_stack(pieces.gore_map(radius, slope)[0](turn, p))
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
            surface,
            surface.outline(),
            developed(surface, free.region),
            zones_on(surface, free),
            None,
            left,
            right,
            low,
            high,
            None,
            tuple(strain_verdicts(strain, before, film, wrap, safe, "diameter", made)),
            free,
            strain,
            before,
            (),
            made,
            plan=plan,
            film_thickness=taken_thickness(wrap, film),
        )
    slits = curved.slits_of_cap(cap, reach, limit, wrap.slit_overlap_mm) if wrap.relief == "slits" and limit else ()
    strain = after_slits(before, limit, slits, disc) if slits else before
    return Template(
        Flat(),
        disc,
        free.region,
        zones,
        None,
        left,
        right,
        low,
        high,
        None,
        tuple(strain_verdicts(strain, before, film, wrap, safe, "diameter", (), slits)),
        free,
        strain,
        before,
        slits,
        plan=before.flat,
        film_thickness=taken_thickness(wrap, film),
    )


def _patch(
    patch: Patch, kept: tuple[KeptOut, ...], free: FreeArea, limit: float | None, film: Film, wrap: Wrap
) -> Template:
    """A flattened patch: its edge, its free area, its strain, slits where its edge is too long."""
    before = of_triangles(patch.flat, patch.space, patch.triangles, limit)
    outline = patch.outline
    outline = mended(outline)[0]
    slits = slits_of_patch(patch, before, limit, wrap.slit_overlap_mm) if wrap.relief == "slits" and limit else ()
    strain = after_slits(before, limit, slits, outline) if slits else before
    left, low, right, high = outline.bounds
    zones = tuple(ZoneOnTemplate(z.name, z.index, z.region) for z in kept if z.index is not None)
    safe = None
    if limit and before.worst > limit:
        # Strain grows with the square of the size (Gauss): the safe share of it is the root of what the film takes.
        safe = math.sqrt(limit / before.worst) * min(right - left, high - low)
    verdicts = strain_verdicts(strain, before, film, wrap, safe, "width", (), slits)
    for note in patch.notes:
        verdicts.append(
            Verdict(
                "unwrap.mesh_mended",
                "unwrap",
                "look",
                1,
                0,
                "count",
                f"The mesh was mended: {note}.",
                "Look at the object there.",
                field="wrap.patch.mode",
            )
        )
    return Template(
        Flat(),
        outline,
        free.region,
        zones,
        None,
        left,
        right,
        low,
        high,
        None,
        tuple(verdicts),
        free,
        strain,
        before,
        slits,
        notes=patch.notes,
        film_thickness=taken_thickness(wrap, film),
    )
