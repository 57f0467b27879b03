"""Where the surface's own coordinates lie in space: what the object view wears its decal on."""

from __future__ import annotations

from dataclasses import dataclass
from functools import singledispatch

import numpy as np

from ..arrays import Array
from ..measure import Measured
from ..measure.bodies import Body
from ..measure.body import Cap, Frustum, Profile, Triangles, grid_triangles
from ..measure.flat_bodies import BentPanel, MeshBody, Panel, RiseSurface
from ..measure.mesh import thinned
from ..surface import Template
from ..surface.strain import Strain
from .drawn import View, flat
from .solid import bent_places
from .strain_map import severity_steps

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


def skin_of(measured: Measured, template: Template | None) -> Skin | None:
    """The skin of a body; None where what it is laid out from is not there."""
    return cover(measured.body, measured, template)


@singledispatch
def cover(body: Body, measured: Measured, template: Template | None) -> Skin | None:
    """A body's skin, by what it is."""
    return None


@cover.register
def _(body: Frustum, measured: Measured, template: Template | None) -> Skin:
    rim, foot = measured.beyond
    s, a = np.array([-foot, body.slant + rim]), np.linspace(-np.pi, np.pi, 129)
    gs, ga = (g.ravel() for g in np.meshgrid(s, a, indexing="ij"))
    r = np.maximum(body.radii_at(gs), 0.01)
    space = np.column_stack([r * np.sin(ga), body.heights_at(gs), r * np.cos(ga)])
    return Skin(np.column_stack([ga, gs]), space, grid_triangles(2, 129), None)


@cover.register
def _(body: Panel, measured: Measured, template: Template | None) -> Skin:
    left, low, right, high = body.outline.bounds
    gx, gy = (g.ravel() for g in np.meshgrid([left, right], [low, high]))
    return Skin(np.column_stack([gx, gy]), np.column_stack([gx, gy, np.zeros(4)]), grid_triangles(2, 2), None)


@cover.register
def _(body: BentPanel, measured: Measured, template: Template | None) -> Skin:
    left, low, right, high = body.outline.bounds
    columns, rows = (48, 2) if body.bend == "across" else (2, 48)
    gx, gy = (g.ravel() for g in np.meshgrid(np.linspace(left, right, columns), np.linspace(low, high, rows)))
    return Skin(np.column_stack([gx, gy]), bent_places(body, gx, gy), grid_triangles(rows, columns), None)


@cover.register
def _(body: Profile, measured: Measured, template: Template | None) -> Skin | None:
    if template is None:
        return None
    s, a = np.linspace(0, body.length, 41), np.linspace(-np.pi, np.pi, 73)
    gs, ga = (g.ravel() for g in np.meshgrid(s, a, indexing="ij"))
    r = body.radii_at(gs)
    space = np.column_stack([r * np.sin(ga), body.heights_at(gs), r * np.cos(ga)])
    signed = None
    if template.hoop is not None:
        c0, c1 = template.hoop
        signed = np.where((gs >= template.low - 1e-6) & (gs <= template.high + 1e-6), r / (c0 + c1 * gs) - 1, 0.0)
    return Skin(np.column_stack([ga, gs]), space, grid_triangles(41, 73), signed)


@cover.register
def _(body: Cap, measured: Measured, template: Template | None) -> Skin | None:
    if template is None or template.strain is None or template.plan is None:
        return None
    strain = template.strain
    return Skin(template.plan, strain.space, strain.triangles[:, ::-1], _at_corners(strain))


@cover.register(RiseSurface)
@cover.register(MeshBody)
def _(body: Body, measured: Measured, template: Template | None) -> Skin | None:
    if template is None or template.strain is None:
        return None
    strain = template.strain
    both = np.column_stack([strain.space, strain.flat, _at_corners(strain)])
    thin, triangles = thinned(both, strain.triangles, MOST_SHOWN)
    return Skin(thin[:, 3:5], thin[:, :3], triangles.astype(np.int64), thin[:, 5])


class SkinView(View):
    """Where surface coordinates lie in space: corners with their place in the surface's own numbers (`coordinates`,
    pairs), in space
    (`positions`, mm) and, where the film has to give, its step of severity (`strain_map.STEPS`, negative where it is
    shortened)."""

    left: float
    right: float
    low: float
    high: float
    coordinates: list[float]
    positions: list[float]
    triangles: list[int]
    strain: list[int]


def skin_view(measured: Measured, template: Template | None) -> SkinView | None:
    """The skin in numbers, where there is one."""
    skin = skin_of(measured, template)
    if skin is None:
        return None
    left, low, right, high = skin.bounds
    limit = template.strain.limit if template and template.strain else None
    return SkinView(
        left=left,
        right=right,
        low=low,
        high=high,
        coordinates=flat(skin.coordinates, 5),
        positions=flat(skin.space),
        triangles=skin.triangles.ravel().tolist(),
        strain=[] if skin.strain is None else severity_steps(skin.strain, limit).tolist(),
    )
