"""A mesh patch laid flat: conformal start, isometric energy, then its worst place lowered.

Start: least squares conformal maps; then a few steps of scalable locally injective mappings on the symmetric
Dirichlet energy
(both libigl). Film fails where it is strained most, so the last word has the p-norm of the logarithms of the
singular values: minimised
by limited-memory BFGS whose first metric is the mesh's own Laplacian (so that the number of steps does not grow with
the mesh), every
step short of turning a triangle over.
"""

from __future__ import annotations

from collections.abc import Callable

import igl
import numpy as np
import scipy.sparse as sparse
import shapely
from scipy.interpolate import RBFInterpolator
from scipy.sparse.linalg import splu
from scipy.spatial import Delaunay

from ..arrays import Array
from ..errors import BadReading
from ..measure.body import Triangles
from .strain import frames, singular_values

Progress = Callable[[str, float], None]
DIRECT_TRIANGLES = 8000
"""A patch of more is flattened by way of a coarse one."""
COARSE_EDGE, COARSE_CELLS = 160, 2400
FLAT_ENOUGH = 1.004
EXACT = 1 + 2e-5
"""Where the conformal map already keeps every length, as on a wall that unrolls, nothing need follow."""
NORMS = (150.0, 400.0)
"""The p of the norm: the larger, the nearer to the worst place alone."""


def unheard(what: str, share: float) -> None:
    """Progress that nobody hears."""
    return None


def _energy(flat: Array, triangles: Triangles, inverse: Array, weight: Array, p: float) -> tuple[float, Array | None]:
    """`log (sum w (s1^p + s2^-p)) / p` and its gradient (n, 2); infinite where a triangle is flipped."""
    large, small, j = singular_values(flat, triangles, inverse)
    if small.min() <= 1e-6:
        return np.inf, None
    up, down = np.log(large), -np.log(small)
    top = max(float(up.max()), float(down.max()))
    first, second = weight * np.exp(p * (up - top)), weight * np.exp(p * (down - top))
    total = float((first + second).sum())
    to_large, to_small = first / (total * large), -second / (total * small)
    half_sum, half_difference = to_large + to_small, to_large - to_small
    a, b, c, d = j.T
    sum4 = half_sum / (4 * np.maximum(large + small, 1e-300) / 2)
    difference4 = half_difference / (4 * np.maximum((large - small) / 2, 1e-12))
    x, y, u, v = sum4 * (a + d), sum4 * (c - b), difference4 * (a - d), difference4 * (c + b)
    ga, gb, gc, gd = x + u, v - y, y + v, x - u
    # Chain through the inverse edge matrix back to the two edges, then to the three corners.
    ex, ey = ga * inverse[:, 0] + gb * inverse[:, 1], gc * inverse[:, 0] + gd * inverse[:, 1]
    fx, fy = gb * inverse[:, 2], gd * inverse[:, 2]
    n = len(flat)
    gradient = np.empty((n, 2))
    corners = triangles.T
    for axis, (e, f) in enumerate(((ex, fx), (ey, fy))):
        gradient[:, axis] = (
            np.bincount(corners[1], e, n) + np.bincount(corners[2], f, n) - np.bincount(corners[0], e + f, n)
        )
    return top + float(np.log(total)) / p, gradient


def _longest_step(flat: Array, step: Array, triangles: Triangles) -> float:
    """How far along `step` one may go before the first triangle has no area: the least positive root of its area."""
    p, q = flat[triangles[:, 0]], step[triangles[:, 0]]
    e, f = flat[triangles[:, 1]] - p, flat[triangles[:, 2]] - p
    de, df = step[triangles[:, 1]] - q, step[triangles[:, 2]] - q
    c = e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]
    a = de[:, 0] * df[:, 1] - de[:, 1] * df[:, 0]
    b = e[:, 0] * df[:, 1] + de[:, 0] * f[:, 1] - e[:, 1] * df[:, 0] - de[:, 1] * f[:, 0]
    square = b * b - 4 * a * c
    q2 = -0.5 * (b + np.copysign(np.sqrt(np.maximum(square, 0)), b))
    with np.errstate(all="ignore"):
        roots = np.stack([q2 / a, c / q2])
    roots[~np.isfinite(roots) | (roots <= 0)] = np.inf
    roots[:, square < 0] = np.inf
    return float(roots.min())


def _lower_worst(
    flat: Array,
    triangles: Triangles,
    inverse: Array,
    weight: Array,
    p: float,
    solve: Callable[[Array], Array],
    steps: int,
    heard: Callable[[float], None],
) -> Array:
    """Minimise the p-norm energy from a flat start without flips."""
    value, gradient = _energy(flat, triangles, inverse, weight, p)
    if gradient is None:
        return flat
    moves: list[tuple[Array, Array]] = []
    still = 0
    for count in range(steps):
        heard(count / steps)
        q = gradient.copy()
        kept = []
        for s, y in reversed(moves):
            rho = 1 / float((s * y).sum())
            alpha = rho * float((s * q).sum())
            kept.append((alpha, rho, s, y))
            q -= alpha * y
        direction = solve(q)
        if moves:
            s, y = moves[-1]
            direction *= float((s * y).sum()) / float((y * solve(y)).sum())
        for alpha, rho, s, y in reversed(kept):
            direction += s * (alpha - rho * float((y * direction).sum()))
        direction = -direction
        slope = float((gradient * direction).sum())
        if slope >= 0:
            if not moves:
                break
            moves = []
            continue
        free = _longest_step(flat, direction, triangles)
        t = min(1.0, 0.9 * free) if moves else 0.3 * min(free, 1e12)
        for _ in range(24):
            tried, ahead = _energy(flat + t * direction, triangles, inverse, weight, p)
            if ahead is not None and tried <= value + 1e-4 * t * slope:
                break
            t *= 0.5
        else:
            if not moves:
                break
            moves = []
            continue
        move, turn = t * direction, ahead - gradient
        if float((move * turn).sum()) > 1e-16:
            moves = [*moves[-11:], (move, turn)]
        still = still + 1 if value - tried < 1e-7 else 0
        flat, gradient, value = flat + move, ahead, tried
        if still > 4:
            break
    return flat


def conformal(space: Array, triangles: Triangles) -> Array:
    """Least squares conformal map (n, 2) of a disc, its mean area that of the body, right side up."""
    loop = igl.boundary_loop(triangles)
    ends = np.array([loop[0], loop[len(loop) // 2]])
    flat = np.asarray(igl.lscm(space, triangles, ends, np.array([[0.0, 0.0], [1.0, 0.0]]))[0])
    inverse, area = frames(space, triangles)
    _, _, j = singular_values(flat, triangles, inverse)
    turned = j[:, 0] * j[:, 3] - j[:, 1] * j[:, 2]
    if float((turned * area).sum()) < 0:
        flat, turned = flat * (1, -1), -turned
    if turned.min() <= 0:
        # A conformal map may fold at its ends: lay the boundary on a circle instead, which cannot.
        ring = igl.map_vertices_to_circle(space, loop)
        flat = np.asarray(igl.harmonic(space, triangles, loop, ring, 1))
        _, _, j = singular_values(flat, triangles, inverse)
        turned = j[:, 0] * j[:, 3] - j[:, 1] * j[:, 2]
        if float((turned * area).sum()) < 0:
            flat, turned = flat * (1, -1), -turned
    return flat * float(np.sqrt(area.sum() / np.abs(turned * area).sum()))


def _coarse(space: Array, triangles: Triangles, flat: Array) -> tuple[Array, Triangles] | None:
    """A coarse disc through some of the corners: which (k,), and its triangles; None where the outline is too ragged
    for one.

    Every n-th corner of the edge and one corner of each cell inside, joined by Delaunay's triangles in the conformal
    plane.
    """
    loop = np.asarray(igl.boundary_loop(triangles))
    ring = loop[:: max(1, len(loop) // COARSE_EDGE)]
    outline = shapely.Polygon(flat[ring])
    if not outline.is_valid:
        return None
    size = float(np.sqrt(outline.area / COARSE_CELLS))
    inner = np.setdiff1d(np.arange(len(flat)), loop)
    inner = inner[shapely.contains_xy(outline.buffer(-0.55 * size), flat[inner, 0], flat[inner, 1])]
    cell = np.floor((flat[inner] - flat.min(axis=0)) / size).astype(np.int64)
    off = np.linalg.norm((flat[inner] - flat.min(axis=0)) / size - cell - 0.5, axis=1)
    order = np.argsort(off, kind="stable")
    _, first = np.unique(cell[order] @ np.array([1, 100_000]), return_index=True)
    chosen = np.concatenate([ring, inner[order][first]])
    net = Delaunay(flat[chosen]).simplices.astype(np.int64)
    middle = flat[chosen][net].mean(axis=1)
    net = net[shapely.contains_xy(outline, middle[:, 0], middle[:, 1])]
    a, b, c = (flat[chosen][net[:, i]] for i in range(3))
    turned = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    net[turned < 0] = net[turned < 0][:, ::-1]
    net = net[np.abs(turned) > 1e-6 * size * size]
    edges = np.unique(np.sort(net[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1), axis=0)
    if len(np.unique(net)) != len(chosen) or len(chosen) - len(edges) + len(net) != 1:
        return None
    return chosen, net


def _through_coarse(
    space: Array, triangles: Triangles, flat: Array, inverse: Array, progress: Progress
) -> Array | None:
    """A large patch by way of a coarse one: that is flattened with care, and the fine corners follow it smoothly
    (thin plates through
    the nearest coarse corners). None where that turns a triangle over."""
    found = _coarse(space, triangles, flat)
    if found is None:
        return None
    chosen, net = found
    laid = flatten(space[chosen], net, lambda what, share: progress(what, 0.2 + 0.5 * share))
    progress("fine corners follow", 0.75)
    follow = RBFInterpolator(flat[chosen], laid, neighbors=24, kernel="thin_plate_spline", degree=1)
    out = np.concatenate([np.asarray(follow(part)) for part in np.array_split(flat, max(1, len(flat) // 20_000))])
    _, small, _ = singular_values(out, triangles, inverse)
    return out if small.min() > 0 else None


def flatten(space: Array, triangles: Triangles, progress: Progress = unheard) -> Array:
    """Lay a disc-shaped patch flat, (n, 2) mm: with as little strain in its worst place as a few seconds give.

    The scale balances stretch and shortening; nothing is flipped. `progress` hears what is done and its share, and
    may raise to stop.
    """
    progress("conformal start", 0.0)
    flat = conformal(space, triangles)
    inverse, area = frames(space, triangles)
    weight = area / area.sum()
    many = len(triangles)
    large, small, _ = singular_values(flat, triangles, inverse)
    if small.min() > 0 and large.max() / small.min() < EXACT:
        progress("done", 1.0)
        return flat
    if many > DIRECT_TRIANGLES:
        laid = _through_coarse(space, triangles, flat, inverse, progress)
        if laid is not None:
            conformal_ratio = large.max() / small.min() if small.min() > 0 else np.inf
            large, small, _ = singular_values(laid, triangles, inverse)
            # A patch that hardly strains is wanted exactly; one that does has its worst place found on the coarse one.
            if large.max() / small.min() > FLAT_ENOUGH:
                progress("done", 1.0)
                return laid / float(np.exp((np.log(large.max()) + np.log(small.min())) / 2))
            if large.max() / small.min() < conformal_ratio:
                flat = laid
    rounds = 5 if many <= 6000 else 3
    data = igl.slim_precompute(
        np.asfortranarray(space),
        np.asfortranarray(triangles.astype(np.int32)),
        np.asfortranarray(flat),
        igl.MappingEnergyType.SYMMETRIC_DIRICHLET,
        np.zeros(0, np.int32),
        np.zeros((0, 2), order="F"),
        0.0,
    )
    for i in range(rounds):
        progress("isometric energy", 0.1 + 0.3 * i / rounds)
        flat = np.asarray(igl.slim_solve(data, 1))[:, :2]
    large, small, _ = singular_values(flat, triangles, inverse)
    if small.min() <= 0:
        flat = conformal(space, triangles)
        large, small, _ = singular_values(flat, triangles, inverse)
    progress("lowering the worst place", 0.4)
    if large.max() / small.min() > 1 + 2e-4:
        laplacian = (-igl.cotmatrix(space, triangles)).tocsc()
        laplacian = laplacian + 1e-8 * abs(laplacian.diagonal()).mean() * sparse.identity(len(space), format="csc")
        factor = splu(laplacian, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
        steps = int(np.clip(400_000 / many, 12, 90))
        for i, p in enumerate(NORMS):
            balance = float(np.exp((np.log(large.max()) + np.log(small.min())) / 2))
            flat = _lower_worst(
                flat / balance,
                triangles,
                inverse,
                weight,
                p,
                factor.solve,
                steps,
                lambda share, i=i: progress("lowering the worst place", 0.4 + 0.3 * (i + share)),  # type: ignore[misc]
            )
            large, small, _ = singular_values(flat, triangles, inverse)
    progress("done", 1.0)
    if not (small.min() > 0 and np.isfinite(large.max()) and np.isfinite(flat).all()):
        raise BadReading(
            "Laid flat, this surface folds over itself: it is too steep.",
            hint="Look through what was measured for a slip, or lay a smaller part flat.",
        )
    return flat / float(np.exp((np.log(large.max()) + np.log(small.min())) / 2))
