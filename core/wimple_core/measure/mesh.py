"""Meshes from files: read, checked, turned upright, in millimetres."""

from __future__ import annotations

import io
import logging
import re
import struct

import numpy as np
import shapely
import trimesh

from ..arrays import Array
from ..errors import BadReading
from ..figures import MM_PER_INCH, carried
from .flat_bodies import MeshBody

MOST_TRIANGLES = 400_000
MM: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH}
_UPRIGHT: dict[str, Array] = {
    "y": np.eye(3),
    "z": np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]),
    "x": np.array([[0.0, -1, 0], [1, 0, 0], [0, 0, 1]]),
}
_FORMATS = "STL, OBJ or PLY"


def _bad(message: str, hint: str, field: str = "") -> BadReading:
    return BadReading(message, field=field, hint=hint)


def _triangles_said(data: bytes, kind: str) -> int | None:
    """How many triangles the file says it has, where that is cheap to know. Raises BadReading for a truncated STL."""
    if kind == "stl" and len(data) >= 84 and not (data[:5].lower() == b"solid" and b"facet" in data[:2000]):
        (said,) = struct.unpack("<I", data[80:84])
        holds = (len(data) - 84) // 50
        if holds < said:
            raise _bad(
                f"The mesh is cut short: it says {said:,} triangles and holds {holds:,}.",
                "Save or copy the file again.",
            )
        return int(said)
    if kind == "stl":
        if b"endsolid" not in data[-400:].lower():
            raise _bad("The mesh is cut short: its last triangle is not closed.", "Save or copy the file again.")
        return data.count(b"endfacet")
    if kind == "obj":
        return data.count(b"\nf ")
    head = data[: data.find(b"end_header") + 10]
    for line in head.splitlines():
        words = line.split()
        if words[:2] == [b"element", b"face"] and len(words) == 3 and words[2].isdigit():
            return int(words[2])
    return None


def load_mesh(data: bytes, name: str) -> trimesh.Trimesh:
    """The triangles of a file, equal corners joined. Raises BadReading for what is no surface, in words."""
    kind = name.lower().rpartition(".")[2]
    if kind not in ("stl", "obj", "ply"):
        raise _bad(f"“{name}” is not a mesh that is read here.", f"Give {_FORMATS}.")
    if not data.strip():
        raise _bad("The mesh is empty.", f"Give {_FORMATS} with at least one triangle.")
    said = _triangles_said(data, kind)
    if said is not None and said > MOST_TRIANGLES:
        raise _bad(
            f"The mesh has {said:,} triangles.",
            f"At most {MOST_TRIANGLES:,} are taken: thin it out where it is made; 50,000 show a cup to 0.1 mm.",
        )
    logging.getLogger("trimesh").setLevel(logging.CRITICAL)
    try:
        # A resolver that finds nothing: a mesh brings no other files in.
        mesh = trimesh.load(
            io.BytesIO(data),
            file_type=kind,
            force="mesh",
            process=True,
            resolver=None,
            skip_materials=True,
            maintain_order=False,
        )
    except Exception as bad:  # the readers raise whatever their parsing stumbles over
        raise _bad(
            f"“{name}” cannot be read as a mesh: it is cut short or not in its format.", f"Save it again as {_FORMATS}."
        ) from bad
    if not isinstance(mesh, trimesh.Trimesh) or len(mesh.faces) == 0:
        raise _bad(
            "The file holds points or lines but no triangles: it is not a surface.", "Have the scan meshed first."
        )
    if kind == "obj" and re.search(rb"^v[^\n]*nan", data, re.M | re.I):
        raise _bad("Some corners of the mesh are not numbers.", "Repair the mesh where it was made.")
    if said is not None and len(mesh.faces) < 0.5 * said and kind == "ply":
        raise _bad(
            f"The mesh is cut short: it says {said:,} faces and holds {len(mesh.faces):,}.",
            "Save or copy the file again.",
        )
    if len(mesh.faces) > MOST_TRIANGLES:
        raise _bad(
            f"The mesh has {len(mesh.faces):,} triangles.",
            f"At most {MOST_TRIANGLES:,} are taken: thin it out where it is made.",
        )
    if not np.isfinite(mesh.vertices).all():
        raise _bad("Some corners of the mesh are not numbers.", "Repair the mesh where it was made.")
    if mesh.faces.min() < 0 or mesh.faces.max() >= len(mesh.vertices):
        raise _bad(
            "The mesh is cut short: a triangle names a corner that is not there.", "Save or copy the file again."
        )
    mesh.update_faces(mesh.nondegenerate_faces())
    if len(mesh.faces) == 0 or np.ptp(mesh.vertices, axis=0).max() <= 0:
        raise _bad(
            "All triangles of the mesh are empty: it is not a surface.",
            "Check that the file holds a body and not a single point.",
        )
    return mesh


def likely_unit(extents: Array) -> str:
    """In which unit a mesh of that size (3,) probably is, in its own numbers: nobody wraps a body of half a millimetre
    or of five metres (common practice, no source)."""
    return "m" if float(extents.max()) < 1.5 else "mm"


def thinned(vertices: Array, triangles: np.ndarray, most: int) -> tuple[Array, np.ndarray]:
    """About `most` triangles at most: corners in one cell of a grid become one, with whatever stands in further
    columns. For showing,
    never for measuring."""
    cells = 160.0
    while len(triangles) > most and cells > 6:
        size = float(np.ptp(vertices[:, :3], axis=0).max()) / cells
        keys = np.floor((vertices[:, :3] - vertices[:, :3].min(axis=0)) / size).astype(np.int64)
        _, place = np.unique(keys @ np.array([1, 10_000, 100_000_000]), return_inverse=True)
        place = place.ravel()
        count = np.bincount(place)
        middle = np.column_stack([np.bincount(place, weights=vertices[:, i]) / count for i in range(vertices.shape[1])])
        moved = place[triangles]
        whole = (moved[:, 0] != moved[:, 1]) & (moved[:, 1] != moved[:, 2]) & (moved[:, 0] != moved[:, 2])
        if whole.sum() <= most or cells <= 8:
            return middle, moved[whole]
        cells *= 0.75
    return vertices, triangles


def _front_view(vertices: Array, triangles: np.ndarray) -> shapely.MultiPolygon:
    """What is seen of the body from the front: the union of its triangles, from a thinned copy."""
    v, t = thinned(vertices, triangles, 3000)
    flat = shapely.polygons(v[t][:, :, :2])
    flat = flat[shapely.area(flat) > 1e-9]
    size = float(np.ptp(vertices[:, :2], axis=0).max())
    grow = size / 2000
    seen = shapely.simplify(
        shapely.buffer(shapely.union_all(shapely.buffer(flat, grow, quad_segs=1)), -grow), size / 800
    )
    return shapely.MultiPolygon([p for p in shapely.get_parts(seen) if p.area > size * size * 1e-5])


def body_from(mesh: trimesh.Trimesh, unit: str, up: str) -> MeshBody:
    """The mesh in mm, its `up` axis upward, its middle at x = 0 and z = 0, standing on y = 0."""
    v = np.asarray(mesh.vertices, dtype=np.float64) @ _UPRIGHT[up].T * MM[unit]
    low, high = v.min(axis=0), v.max(axis=0)
    if (high - low).max() > 20_000 or (high - low).max() < 1:
        raise _bad(
            f"In {unit} the mesh is {carried((high - low).max())} large.", "Choose the unit its numbers are in.", "unit"
        )
    v = v - ((low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2)
    triangles = np.asarray(mesh.faces, dtype=np.int64)
    edges = np.sort(mesh.edges, axis=1)
    keys, count = np.unique(edges, axis=0, return_counts=True)
    open_edges = keys[count == 1]
    loops = len(trimesh.graph.connected_components(open_edges, min_len=2)) if len(open_edges) else 0
    scale = MM[unit]
    return MeshBody(
        v,
        triangles,
        loops,
        int(mesh.body_count),
        float(mesh.area) * scale**2,
        abs(float(mesh.volume)) * scale**3 / 1000 if mesh.is_watertight else None,
        _front_view(v, triangles),
    )
