"""Bodies that are flattened as a patch: a panel curved both ways, and a mesh."""

from __future__ import annotations

import math

import numpy as np
import shapely
from scipy.interpolate import LinearNDInterpolator
from shapely.geometry.base import BaseGeometry

from ..arrangement import mended
from ..errors import seen_from
from ..measure import BLANK, Measured
from ..measure.flat_bodies import RiseSurface
from ..measure.free import FreeArea, KeptOut
from ..measure.free_area import flat_zones, free_area_of_outline
from ..overlay import intersection, union
from ..verdict import Verdict
from .laying import Laying
from .patch import Patch, patch_of_rises
from .relief import after_slits, slits_of_patch, strain_verdicts
from .strain import of_triangles
from .surface import Flat
from .template import Template, ZoneOnTemplate


def unwrap_rises(body: RiseSurface, measured: Measured, laying: Laying) -> Template:
    """A panel curved both ways: flattened, its zones with it."""
    with seen_from(f"{BLANK}.rises"):
        laid = patch_of_rises(body, laying.wrap.patch.line)
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
    with seen_from(BLANK):
        free = free_area_of_outline(whole, 0.0, kept)
    return _template(laid, kept, free, laying)


def unwrap_mesh(patch: Patch, measured: Measured, laying: Laying) -> Template:
    """A patch of a mesh, its zones laid on the flat outline."""
    with seen_from(BLANK):
        kept = flat_zones(measured.blank.zones, patch.outline)
        free = free_area_of_outline(patch.outline, measured.blank.margin, kept)
    return _template(patch, kept, free, laying)


def _template(patch: Patch, kept: tuple[KeptOut, ...], free: FreeArea, laying: Laying) -> Template:
    """A flattened patch: its edge, its free area, its strain, slits where its edge is too long."""
    wrap, limit = laying.wrap, laying.limit
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
    verdicts = strain_verdicts(strain, before, laying, safe, "width", (), slits)
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
        surface=Flat(),
        outline=outline,
        free=free.region,
        zones=zones,
        left=left,
        right=right,
        low=low,
        high=high,
        verdicts=tuple(verdicts),
        limits=free,
        strain=strain,
        before=before,
        slits=slits,
        notes=patch.notes,
        film_thickness=laying.thickness,
    )
