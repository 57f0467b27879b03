"""Where the surface's own coordinates lie in space: what the object view wears its decal on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..measure.body import Body, Cap, Frustum, Panel, Profile, Triangles, grid_triangles
from ..measure.mesh import thinned
from ..measure.solids import bent_places
from .frustum import Array
from .strain import Strain
from .template import Template

MOST_SHOWN = 9000


@dataclass(frozen=True, eq=False)
class Skin:
    """`coordinates` (n, 2) in the surface's own numbers, `space` (n, 3) mm, `triangles` (m, 3); `strain` (n,) the
    signed severity
    (positive: stretched), where there is any; `left`, `right`, `low`, `high` bound the coordinates."""

    coordinates: Array
    space: Array
    triangles: Triangles
    strain: Array | None

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        low, high = self.coordinates.min(axis=0), self.coordinates.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _at_corners(strain: Strain) -> Array:
    """Signed severity at the corners: the mean of the triangles that meet there."""
    signed = np.where(strain.most - 1 >= 1 - strain.least, strain.most - 1, strain.least - 1)
    n = len(strain.flat)
    corners = strain.triangles.ravel()
    return np.bincount(corners, np.repeat(signed, 3), n) / np.maximum(np.bincount(corners, minlength=n), 1)


def skin_of(body: Body, template: Template | None) -> Skin | None:
    """The skin of a body; None for a cup and a flat panel, which the screen makes itself."""
    if isinstance(body, Frustum) or (isinstance(body, Panel) and body.bend_radius is None):
        return None
    if isinstance(body, Panel):
        left, low, right, high = body.outline.bounds
        columns, rows = (48, 2) if body.bend == "across" else (2, 48)
        gx, gy = (g.ravel() for g in np.meshgrid(np.linspace(left, right, columns), np.linspace(low, high, rows)))
        return Skin(np.column_stack([gx, gy]), bent_places(body, gx, gy), grid_triangles(rows, columns), None)
    if template is None:
        return None
    strain = template.strain
    if isinstance(body, Profile):
        s, a = np.linspace(0, body.length, 41), np.linspace(-np.pi, np.pi, 73)
        gs, ga = (g.ravel() for g in np.meshgrid(s, a, indexing="ij"))
        r = body.radii_at(gs)
        space = np.column_stack([r * np.sin(ga), np.interp(gs, body.s, body.z), r * np.cos(ga)])
        signed = None
        if template.hoop is not None:
            c0, c1 = template.hoop
            signed = np.where((gs >= template.low - 1e-6) & (gs <= template.high + 1e-6), r / (c0 + c1 * gs) - 1, 0.0)
        return Skin(np.column_stack([ga, gs]), space, grid_triangles(41, 73), signed)
    if strain is None:
        return None
    if isinstance(body, Cap):
        return (
            Skin(template.plan, strain.space, strain.triangles[:, ::-1], _at_corners(strain))
            if template.plan is not None
            else None
        )
    signed = _at_corners(strain)
    both = np.column_stack([strain.space, strain.flat, signed])
    thin, triangles = thinned(both, strain.triangles, MOST_SHOWN)
    return Skin(thin[:, 3:5], thin[:, :3], triangles.astype(np.int64), thin[:, 5])
