"""The body and its flattened patch as meshes: STL of what was measured, OBJ with texture coordinates in millimetres."""

from __future__ import annotations

import math
from functools import singledispatch

import numpy as np
import shapely
import trimesh

from ..job.turned import RoundBase
from ..measure import Measured
from ..measure.bodies import Body
from ..measure.body import Frustum
from ..measure.flat_bodies import BentPanel, MeshBody, Panel
from ..surface.strain import Strain
from ..views.solid import PLATE_MM, solid_of

SPOKES = 180


def _turned(line: np.ndarray) -> trimesh.Trimesh:
    """A side line (radius, height) turned on the axis, y up."""
    t = np.linspace(0, 2 * math.pi, SPOKES, endpoint=False)
    line = np.where(np.arange(2) == 0, np.where(line < 0.02, 0.0, line), line)
    r, z = line[:, :1], np.repeat(line[:, 1:], SPOKES, axis=1)
    vertices = np.stack([r * np.sin(t), z, r * np.cos(t)], axis=-1).reshape(-1, 3)
    i = np.arange(len(line) * SPOKES).reshape(len(line), SPOKES)
    a, b, c, d = i[:-1], np.roll(i[:-1], -1, axis=1), i[1:], np.roll(i[1:], -1, axis=1)
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([c, b, d], -1).reshape(-1, 3)])
    mesh = trimesh.Trimesh(vertices, faces, process=True)
    mesh.update_faces(mesh.nondegenerate_faces())
    return mesh


def _plate(panel: Panel) -> trimesh.Trimesh:
    """A flat panel PLATE_MM thick, its front at z = 0; triangulated by shapely."""
    triangles = shapely.get_parts(shapely.constrained_delaunay_triangles(shapely.simplify(panel.outline, 0.005)))
    front = np.stack([shapely.get_coordinates(t)[:3] for t in triangles])
    turned = np.cross(front[:, 1] - front[:, 0], front[:, 2] - front[:, 0]) < 0
    front[turned] = front[turned][:, ::-1]
    flat = np.concatenate([front, np.zeros((*front.shape[:2], 1))], axis=2)
    back = flat[:, ::-1] - (0, 0, PLATE_MM)
    walls = []
    for ring in (panel.outline.exterior, *panel.outline.interiors):
        p = shapely.get_coordinates(shapely.simplify(ring, 0.005))
        outer = ring is panel.outline.exterior
        p = p if bool(shapely.is_ccw(ring)) == outer else p[::-1]
        a, b = np.column_stack([p[:-1], np.zeros(len(p) - 1)]), np.column_stack([p[1:], np.zeros(len(p) - 1)])
        down = np.array([0, 0, PLATE_MM])
        walls += [np.stack([a, a - down, b], axis=1), np.stack([b, a - down, b - down], axis=1)]
    everything = np.concatenate([flat, back, *walls])
    return trimesh.Trimesh(everything.reshape(-1, 3), np.arange(len(everything) * 3).reshape(-1, 3), process=True)


@singledispatch
def solid_mesh(body: Body, measured: Measured) -> trimesh.Trimesh:
    """The triangles of a body, closed where it is, by what it is."""
    solid = solid_of(measured)
    if solid.line is not None:
        return _turned(solid.line)
    return trimesh.Trimesh(solid.positions, solid.triangles, process=False)


@solid_mesh.register
def _(body: Frustum, measured: Measured) -> trimesh.Trimesh:
    assert isinstance(measured.blank, RoundBase)
    z, r = body.outside(*measured.blank.beyond)
    return _turned(np.vstack([[1e-3, 0.0], np.column_stack([r, z]), [1e-3, z[-1]]]))


@solid_mesh.register
def _(body: MeshBody, measured: Measured) -> trimesh.Trimesh:
    return trimesh.Trimesh(body.vertices, body.triangles, process=False)


@solid_mesh.register
def _(body: Panel, measured: Measured) -> trimesh.Trimesh:
    return _plate(body)


@solid_mesh.register
def _(body: BentPanel, measured: Measured) -> trimesh.Trimesh:
    solid = solid_of(measured)
    return trimesh.Trimesh(solid.positions, solid.triangles, process=False)


def body_stl(measured: Measured) -> bytes:
    """The measured body in millimetres (binary STL), y up, z toward the eye."""
    mesh = solid_mesh(measured.body, measured)
    if mesh.is_watertight and mesh.volume < 0:
        mesh.invert()
    data = mesh.export(file_type="stl")
    assert isinstance(data, bytes)
    return data


def patch_obj(strain: Strain) -> str:
    """The surface and its flat template in one OBJ: corners in space, and as texture coordinates their places on the
    template, both mm."""
    lines = ["# lengths in millimetres; vt are places on the flat template"]
    lines += [f"v {x:.6f} {y:.6f} {z:.6f}" for x, y, z in strain.space.tolist()]
    lines += [f"vt {x:.6f} {y:.6f}" for x, y in strain.flat.tolist()]
    lines += [f"f {a}/{a} {b}/{b} {c}/{c}" for a, b, c in (strain.triangles + 1).tolist()]
    return "\n".join(lines) + "\n"
