"""A disc-shaped piece of a mesh: checked, chosen, laid flat, and turned so that a chosen line stays true."""

from __future__ import annotations

import io
from dataclasses import dataclass

import igl
import numpy as np
import shapely

from ..arrays import Array
from ..errors import BadReading, seen_from
from ..figures import carried
from ..job.document import PatchChoice
from ..measure.body import Triangles
from ..measure.flat_bodies import MeshBody, RiseSurface
from ..measure.rises import evaluate
from .flatten import Progress, flatten, unheard
from .strain import frames

SLIVER = 1e-3
"""A triangle whose height is less than this share of its longest side is a sliver."""
RISE_STEPS = 26


@dataclass(frozen=True, eq=False)
class Patch:
    """A piece of a body laid flat: `space` (n, 3) mm, `triangles` (m, 3), `flat` (n, 2) mm; what was taken as it was
    not quite whole
    is said in `notes`."""

    space: Array
    triangles: Triangles
    flat: Array
    notes: tuple[str, ...] = ()

    @property
    def outline(self) -> shapely.Polygon:
        """Its edge on the template."""
        return shapely.Polygon(self.flat[igl.boundary_loop(self.triangles)])

    def as_bytes(self) -> bytes:
        """For keeping beside the mesh."""
        out = io.BytesIO()
        np.savez_compressed(out, space=self.space, triangles=self.triangles, flat=self.flat, notes=np.array(self.notes))
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Patch:
        """What `as_bytes` kept."""
        with np.load(io.BytesIO(data), allow_pickle=False) as kept:
            return cls(kept["space"], kept["triangles"], kept["flat"], tuple(str(n) for n in kept["notes"]))


def _bad(message: str, hint: str, at: Array | None = None) -> BadReading:
    bad = BadReading(message, field="wrap.patch.mode", hint=hint)
    if at is not None and len(at):
        bad.places = tuple((float(p[0]), float(p[1]), float(p[2])) for p in at[:40])
    return bad


def check_disc(space: Array, triangles: Triangles) -> tuple[Array, Triangles, tuple[str, ...]]:
    """The patch made usable, or the reason why it is no disc: non-manifold edges, several shells, a closed body, holes.

    Triangles turned the wrong way are turned back and slivers taken out, and it is said. Raises BadReading with places.
    """
    notes = []
    a, b, c = (space[triangles[:, i]] for i in range(3))
    sides = np.stack([np.linalg.norm(b - a, axis=1), np.linalg.norm(c - b, axis=1), np.linalg.norm(a - c, axis=1)])
    double = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    thin = double < SLIVER * sides.max(axis=0) ** 2
    if thin.any():
        space, triangles, gone = _without_slivers(space, triangles, thin)
        notes.append(f"{gone} sliver{'s' if gone != 1 else ''} closed up")
    edges = np.sort(triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    keys, counts = np.unique(edges, axis=0, return_counts=True)
    if (counts > 2).any():
        wrong = keys[counts > 2]
        raise _bad(
            f"{len(wrong)} edge{'s' if len(wrong) > 1 else ''} of the mesh join more than two triangles.",
            "Take the inner walls out where the mesh was made, or choose a part without them.",
            space[wrong[:, 0]],
        )
    turned, parts = igl.bfs_orient(triangles)
    turned = np.asarray(turned, dtype=np.int64)
    count = int(np.asarray(parts).max()) + 1
    if count > 1:
        sizes = np.bincount(np.asarray(parts).ravel())
        least = int(np.argmin(sizes))
        raise _bad(
            f"The patch is in {count} parts that do not hang together.",
            "Choose one: grow it from a place on it.",
            space[triangles[np.asarray(parts).ravel() == least][:, 0]],
        )
    flipped = int((turned != triangles).any(axis=1).sum())
    flipped = min(flipped, len(triangles) - flipped)
    if flipped:
        notes.append(f"{flipped} triangle{'s' if flipped != 1 else ''} turned the right way")
        triangles = turned
        centre = space.mean(axis=0)
        out = np.cross(space[triangles[:, 1]] - space[triangles[:, 0]], space[triangles[:, 2]] - space[triangles[:, 0]])
        if float((out * (space[triangles].mean(axis=1) - centre)).sum()) < 0 and float(out[:, 2].sum()) < 0:
            triangles = triangles[:, ::-1].copy()
    open_edges = keys[counts == 1]
    if not len(open_edges):
        raise _bad(
            "The body is closed: no flat piece goes all round it.",
            "Choose a part: grow it from a place, or draw a loop round it.",
        )
    loops = igl.boundary_loop_all(triangles)
    if len(loops) > 1:
        lengths = [len(loop) for loop in loops]
        hole = loops[int(np.argmin(lengths))]
        raise _bad(
            f"The patch has {len(loops) - 1} hole{'s' if len(loops) > 2 else ''} in it: it is no disc.",
            "Fill the hole where the mesh was made, or choose a part beside it.",
            space[np.asarray(hole)],
        )
    used, place = np.unique(triangles, return_inverse=True)
    space, triangles = space[used], place.reshape(triangles.shape).astype(np.int64)
    if (
        len(space)
        - len(np.unique(np.sort(triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1), axis=0))
        + len(triangles)
        != 1
    ):
        raise _bad("The patch is no disc: it has a handle or touches itself in a corner.", "Choose a smaller part.")
    return space, triangles, tuple(notes)


def _without_slivers(space: Array, triangles: Triangles, thin: np.ndarray) -> tuple[Array, Triangles, int]:
    """Slivers with one short side are closed up along it; those with three long sides lose their flat corner to the
    opposite side's end."""
    parent = np.arange(len(space))
    for t in triangles[thin]:
        sides = [np.linalg.norm(space[t[i]] - space[t[(i + 1) % 3]]) for i in range(3)]
        i = int(np.argmin(sides))
        a, b = int(t[i]), int(t[(i + 1) % 3])
        while parent[a] != a:
            a = int(parent[a])
        while parent[b] != b:
            b = int(parent[b])
        parent[max(a, b)] = min(a, b)
    while (parent[parent] != parent).any():
        parent = parent[parent]
    moved = parent[triangles]
    whole = (moved[:, 0] != moved[:, 1]) & (moved[:, 1] != moved[:, 2]) & (moved[:, 0] != moved[:, 2])
    return space, moved[whole].astype(np.int64), int(thin.sum())


def choose(body: MeshBody, choice: PatchChoice) -> tuple[Array, Triangles]:
    """The part of the mesh that is to be wrapped. Raises BadReading where nothing is chosen."""
    space, triangles = body.vertices, body.triangles
    if choice.mode == "whole":
        return space, triangles
    if choice.mode == "grow":
        seed = int(np.argmin(((space - np.array(choice.seed)) ** 2).sum(axis=1)))
        data = igl.HeatGeodesicsData()
        igl.heat_geodesics_precompute(space, triangles, data)
        far = np.asarray(igl.heat_geodesics_solve(data, np.array([seed], dtype=np.int64)), dtype=np.float64).ravel()
        far = far - far[seed]
        cut_space, cut = _clipped(space, triangles, far, choice.radius_mm)
        if len(cut) < 4:
            raise _bad(
                f"Within {carried(choice.radius_mm)} of that place there is nothing to wrap.",
                "Take a larger radius, or another place.",
                space[[seed]],
            )
        return cut_space, _hanging_together(cut_space, cut, np.array(choice.seed))
    loop = shapely.Polygon(choice.loop) if len(choice.loop) >= 3 else shapely.Polygon()
    if not loop.is_valid or loop.is_empty:
        raise _bad("The loop crosses itself or has too few corners.", "Draw it round the part without crossing.")
    middle = space[triangles].mean(axis=1)
    facing = (
        np.cross(space[triangles[:, 1]] - space[triangles[:, 0]], space[triangles[:, 2]] - space[triangles[:, 0]])[:, 2]
        > 0
    )
    inside = shapely.contains_xy(loop, middle[:, 0], middle[:, 1]) & facing
    if inside.sum() < 4:
        raise _bad("Nothing of the body faces the eye inside the loop.", "Draw it round what is seen from the front.")
    chosen = triangles[inside]
    centre = np.array([loop.centroid.x, loop.centroid.y, float(middle[inside][:, 2].max())])
    return space, _hanging_together(space, chosen, centre)


def _hanging_together(space: Array, triangles: Triangles, near: Array) -> Triangles:
    """The part of some triangles that hangs together with the one nearest to a place."""
    parts = np.asarray(igl.bfs_orient(triangles)[1]).ravel()
    middle = space[triangles].mean(axis=1)
    nearest = int(np.argmin(((middle - near) ** 2).sum(axis=1)))
    return np.asarray(triangles[parts == parts[nearest]], dtype=np.int64)


def _clipped(space: Array, triangles: Triangles, value: Array, level: float) -> tuple[Array, Triangles]:
    """The part of a mesh where a value at its corners is at most `level`, its edge cut clean through the triangles."""
    inside = value <= level
    count = inside[triangles].sum(axis=1)
    whole = triangles[count == 3]
    keys: dict[tuple[int, int], int] = {}
    added: list[Array] = []

    def between(a: int, b: int) -> int:
        key = (min(a, b), max(a, b))
        if key not in keys:
            t = float(np.clip((level - value[a]) / (value[b] - value[a]), 0.02, 0.98))
            keys[key] = len(space) + len(added)
            added.append(space[a] + t * (space[b] - space[a]))
        return keys[key]

    more: list[tuple[int, int, int]] = []
    for t, n in zip(
        triangles[(count == 1) | (count == 2)].tolist(), count[(count == 1) | (count == 2)].tolist(), strict=True
    ):
        flags = [bool(inside[v]) for v in t]
        lone = flags.index(n == 1)  # the one inside of one, the one outside of two
        a, b, c = t[lone], t[(lone + 1) % 3], t[(lone + 2) % 3]
        p, q = between(a, b), between(a, c)
        more += [(a, p, q)] if n == 1 else [(p, b, c), (p, c, q)]
    all_space = np.vstack([space, np.array(added)]) if added else space
    return all_space, np.concatenate([whole, np.array(more, dtype=np.int64).reshape(-1, 3)]).astype(np.int64)


def _true_along(space: Array, triangles: Triangles, flat: Array, line: str) -> Array:
    """Turn and scale the flat patch so that the chosen line across its middle, level or upright, is level or upright
    and as long as
    it is on the body; its middle at x = 0, its lowest place at y = 0."""
    axis = 1 if line == "across" else 0
    centre = (space.min(axis=0) + space.max(axis=0)) / 2
    value = space[:, axis] - centre[axis]
    value = np.where(np.abs(value) < 1e-9 * max(float(np.ptp(space)), 1.0), 1e-9, value)
    sign = value[triangles] > 0
    crossing = triangles[(sign.sum(axis=1) == 1) | (sign.sum(axis=1) == 2)]
    body_points, flat_points = [], []
    for i, j in ((0, 1), (1, 2), (2, 0)):
        a, b = crossing[:, i], crossing[:, j]
        cut = (value[a] > 0) != (value[b] > 0)
        t = np.where(cut, value[a] / np.where(cut, value[a] - value[b], 1.0), np.nan)[:, None]
        body_points.append(space[a] + t * (space[b] - space[a]))
        flat_points.append(flat[a] + t * (flat[b] - flat[a]))
    p, q = np.stack(body_points, axis=1), np.stack(flat_points, axis=1)
    ok = ~np.isnan(p[:, :, 0])
    two = ok.sum(axis=1) == 2
    if not two.any():
        return flat
    p2, q2 = p[two][ok[two]].reshape(-1, 2, 3), q[two][ok[two]].reshape(-1, 2, 2)
    true, drawn = np.linalg.norm(p2[:, 1] - p2[:, 0], axis=1).sum(), np.linalg.norm(q2[:, 1] - q2[:, 0], axis=1).sum()
    along = 0 if line == "across" else 1
    pieces_body, pieces_flat = p2.reshape(-1, 3), q2.reshape(-1, 2)
    first, last = int(np.argmin(pieces_body[:, along])), int(np.argmax(pieces_body[:, along]))
    toward = pieces_flat[last] - pieces_flat[first]
    angle = np.arctan2(toward[1], toward[0]) - (0.0 if line == "across" else np.pi / 2)
    cos, sin = np.cos(angle), np.sin(angle)
    out = flat @ np.array([[cos, -sin], [sin, cos]]) * (true / drawn)
    low, high = out.min(axis=0), out.max(axis=0)
    return np.asarray(out - ((low[0] + high[0]) / 2, low[1]), dtype=np.float64)


def patch_of_mesh(body: MeshBody, choice: PatchChoice, progress: Progress = unheard) -> Patch:
    """The chosen part of a mesh laid flat. Raises BadReading, with places, for what is no disc."""
    space, triangles = choose(body, choice)
    space, triangles, notes = check_disc(space, triangles)
    with seen_from("wrap.patch.mode"):
        flat = flatten(space, triangles, progress)
    return Patch(space, triangles, _true_along(space, triangles, flat, choice.line), notes)


def patch_of_rises(surface: RiseSurface, line: str = "across") -> Patch:
    """A panel curved both ways as a fine mesh of its spline, laid flat."""
    columns = RISE_STEPS
    rows = max(8, min(40, round(RISE_STEPS * surface.height / surface.width)))
    x, y = np.linspace(surface.x[0], surface.x[-1], columns), np.linspace(surface.y[0], surface.y[-1], rows)
    z = evaluate(surface, x, y)
    gx, gy = np.meshgrid(x - surface.x[0] - surface.width / 2, y - surface.y[0])
    space = np.column_stack([gx.ravel(), gy.ravel(), (z - z.mean()).ravel()])
    i = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = i[:-1, :-1].ravel(), i[:-1, 1:].ravel(), i[1:, :-1].ravel(), i[1:, 1:].ravel()
    # Diagonals in turn, so that the net has no grain.
    even = ((np.arange(len(a)) + np.arange(len(a)) // (columns - 1)) % 2 == 0)[:, None]
    first = np.where(even, np.column_stack([a, b, c]), np.column_stack([a, b, d]))
    second = np.where(even, np.column_stack([c, b, d]), np.column_stack([a, d, c]))
    triangles = np.concatenate([first, second]).astype(np.int64)
    return Patch(space, triangles, _true_along(space, triangles, flatten(space, triangles), line))


def area_of(patch: Patch) -> float:
    """True area of the patch, mm2."""
    return float(frames(patch.space, patch.triangles)[1].sum())
