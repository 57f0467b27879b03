"""The measured body in three dimensions, for showing: a turned side line, a plate, or triangles; x right, y up, z
toward the eye."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import singledispatch

import numpy as np
from shapely.geometry.base import BaseGeometry

from ..arrays import Array
from ..job.blank import BlankBase
from ..job.turned import RoundBase
from ..measure import Measured
from ..measure.bodies import Body
from ..measure.body import Cap, Frustum, Profile, Triangles, grid_triangles
from ..measure.flat_bodies import BentPanel, MeshBody, Panel, RiseSurface
from ..measure.mesh import thinned
from ..measure.rises import evaluate
from .drawn import Ring, View, flat, rings_of

PLATE_MM = 3.0
LEAST_WALL_MM = 0.8
"""A thinner wall is drawn so thick."""
MOST_SHOWN = 12_000
_SKIN = 48


@dataclass(frozen=True, eq=False)
class Solid:
    """One of three: `line` (n, 2) radius and height turned on the axis; `plate` a flat outline; or `positions` (n,
    3) with `triangles` (m, 3)."""

    line: Array | None = None
    plate: BaseGeometry | None = None
    positions: Array | None = None
    triangles: Triangles | None = None
    size: tuple[float, float, float] = field(default=(1.0, 1.0, 1.0))
    low: float = 0.0
    """Its lowest height."""


def _turned(profile: Profile, wall: float) -> Array:
    """Outside and inside of an open body as one line, from the middle of the foot over the rim to the inner floor."""
    keep = np.unique(
        np.concatenate(
            [np.linspace(0, len(profile.s) - 1, min(len(profile.s), 44)).astype(int), [0, len(profile.s) - 1]]
        )
    )
    r, z = profile.r[keep], profile.z[keep]
    wall = min(max(wall, LEAST_WALL_MM), 0.5 * float(r.min()))
    inner = np.column_stack([np.maximum(r - wall, 0.01), z])[::-1]
    inner = inner[inner[:, 1] > wall]
    return np.vstack(
        [
            [0.01, 0.0],
            np.column_stack([r, z]),
            inner,
            [[max(float(profile.radius_at(0.0)) - wall, 0.01), wall], [0.01, wall]],
        ]
    )


def bent_places(panel: BentPanel, a: Array, s: Array) -> Array:
    """Places (n, 3) of surface coordinates on a panel bent as a cylinder; the middle touches z = 0."""
    r, sign = panel.bend_radius, -1.0 if panel.hollow else 1.0
    if panel.bend == "across":
        t = a / r
        return np.column_stack([r * np.sin(t), s, sign * r * (np.cos(t) - 1)])
    t = (s - panel.height / 2) / r
    return np.column_stack([a, panel.height / 2 + r * np.sin(t), sign * r * (np.cos(t) - 1)])


def solid_of(measured: Measured) -> Solid:
    """The body for showing."""
    return shape_of(measured.body, measured.blank)


@singledispatch
def shape_of(body: Body, blank: BlankBase) -> Solid:
    """A body in space, by what it is."""
    raise TypeError(type(body).__name__)


@shape_of.register
def _(body: Frustum, blank: BlankBase) -> Solid:
    assert isinstance(blank, RoundBase)
    rim, foot = blank.beyond
    s = np.array([-foot, body.slant + rim])
    (r0, r1), (z0, z1) = np.maximum(body.radii_at(s), 0.02), body.heights_at(s)
    wall = min(max(blank.wall_mm, LEAST_WALL_MM), 0.5 * min(r0, r1))
    floor = min(z0 + wall, z1)
    inner = max(body.radius_at(-foot + wall) - wall, 0.01)
    line = np.array([[0.01, z0], [r0, z0], [r1, z1], [r1 - wall, z1], [inner, floor], [0.01, floor]])
    wide = 2 * max(r0, r1)
    return Solid(line=line, size=(wide, z1 - z0, wide), low=float(z0))


@shape_of.register
def _(body: Profile, blank: BlankBase) -> Solid:
    assert isinstance(blank, RoundBase)
    return Solid(line=_turned(body, blank.wall_mm), size=(2 * body.widest, body.upright, 2 * body.widest))


@shape_of.register
def _(body: Cap, blank: BlankBase) -> Solid:
    t = np.linspace(0, body.angle, 60)
    line = np.column_stack([np.maximum(body.radius * np.sin(t), 0.01), body.rise - body.radius * (1 - np.cos(t))])
    return Solid(line=line[::-1], size=(2 * body.rim, body.rise, 2 * body.rim))


@shape_of.register
def _(body: Panel, blank: BlankBase) -> Solid:
    left, low, right, high = body.outline.bounds
    return Solid(plate=body.outline, size=(right - left, high - low, PLATE_MM))


@shape_of.register
def _(body: BentPanel, blank: BlankBase) -> Solid:
    left, low, right, high = body.outline.bounds
    across, up = (_SKIN, 2) if body.bend == "across" else (2, _SKIN)
    gx, gy = np.meshgrid(np.linspace(left, right, across), np.linspace(low, high, up))
    places = bent_places(body, gx.ravel(), gy.ravel())
    return Solid(positions=places, triangles=grid_triangles(up, across), size=(right - left, high - low, PLATE_MM))


@shape_of.register
def _(body: RiseSurface, blank: BlankBase) -> Solid:
    x, y = np.linspace(body.x[0], body.x[-1], 44), np.linspace(body.y[0], body.y[-1], 44)
    z = evaluate(body, x, y)
    gx, gy = np.meshgrid(x - body.x[0] - body.width / 2, y - body.y[0])
    places = np.stack([gx, gy, z - z.mean()], axis=-1)
    return Solid(
        positions=places.reshape(-1, 3),
        triangles=grid_triangles(44, 44),
        size=(body.width, body.height, float(np.ptp(z)) + 1),
    )


@shape_of.register
def _(body: MeshBody, blank: BlankBase) -> Solid:
    vertices, triangles = thinned(body.vertices, body.triangles, MOST_SHOWN)
    return Solid(positions=vertices, triangles=triangles, size=body.size)


class SolidView(View):
    """The body for showing: a side line to be turned (r, y, ...), a plate's contours, or triangles."""

    line: Ring
    plate: list[Ring]
    positions: Ring
    triangles: list[int]
    size: tuple[float, float, float]
    low: float


def solid_view(measured: Measured) -> SolidView:
    """The body in numbers."""
    solid = solid_of(measured)
    return SolidView(
        line=flat(solid.line) if solid.line is not None else [],
        plate=rings_of(solid.plate) if solid.plate is not None else [],
        positions=flat(solid.positions) if solid.positions is not None else [],
        triangles=solid.triangles.ravel().tolist() if solid.triangles is not None else [],
        size=solid.size,
        low=solid.low,
    )
