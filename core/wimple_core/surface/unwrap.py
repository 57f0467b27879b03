"""The second stage: every measured body laid flat, with what the film suffers and how it is relieved."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely
from scipy.interpolate import CubicSpline, LinearNDInterpolator
from scipy.spatial import cKDTree
from shapely.geometry.base import BaseGeometry

from ..errors import BadReading, NotFlattened
from ..job.blanks import Blank, RevolutionBlank, StackBlank
from ..job.document import Wrap
from ..job.tables import FILMS, Film
from ..measure import Measured
from ..measure.body import Cap, MeshBody, Profile, RiseSurface, grid_triangles
from ..measure.zones import FreeArea, KeptOut, flat_zones, free_area_of_outline
from ..verdict import Level, Verdict
from . import curved, pieces
from .frustum import Array
from .patch import Patch, patch_of_mesh, patch_of_rises
from .strain import Strain, flat_areas, of_triangles
from .surface import Flat, RoundWall
from .template import Template, ZoneOnTemplate, band, developed, handle_verdicts, sector_of, unwrap_exact, zones_on

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
    thick = wrap.film_thickness_um / 1000
    if isinstance(body, Profile):
        assert isinstance(blank, (StackBlank, RevolutionBlank))
        return (
            _sections(wrap, measured, body, thick)
            if body.sections
            else _belly(wrap, measured, body, thick, limit, chosen)
        )
    if isinstance(body, Cap):
        return _dome(wrap, measured, body, limit, chosen)
    if isinstance(body, RiseSurface):
        laid = patch_of_rises(body, wrap.patch.line)
        forth = LinearNDInterpolator(laid.space[:, :2], laid.flat)

        def over(region: BaseGeometry) -> BaseGeometry:
            inner = shapely.intersection(
                region, shapely.box(-body.width / 2 + 1e-6, 1e-6, body.width / 2 - 1e-6, body.height - 1e-6)
            )
            return shapely.transform(
                shapely.segmentize(inner, max(body.width, body.height) / 60), lambda p: np.asarray(forth(p))
            )

        kept = tuple(KeptOut(z.kind, z.name, over(z.region), z.index) for z in measured.free.zones)
        whole = over(shapely.union_all([measured.free.region, *(z.region for z in measured.free.zones)]))
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
    return unwrap_exact(blank, wrap, measured)


def _span(wrap: Wrap, free: FreeArea) -> tuple[float, float]:
    return (free.left, free.right) if wrap.extent == "free" else (-math.pi, math.pi)


def _checked_band(wall: RoundWall, left: float, right: float, low: float, high: float, wrap: Wrap) -> shapely.Polygon:
    """The outline of a piece of wall. Raises BadReading where it would reach beyond the wall's point or run over
    itself."""
    overlap = wrap.overlap_mm if wrap.extent == "full" else 0.0
    narrow = min(wall.scale_at(low), wall.scale_at(high))
    if narrow < 0.5 or abs(overlap) > narrow:
        raise BadReading(
            f"The wall narrows to {max(2 * narrow, 0):.1f} mm across: no template with {overlap:g} mm of overlap goes"
            " round that.",
            field="wrap.overlap_mm" if narrow >= 0.5 else "blank.lip_band_mm",
            hint="Keep the narrow end out by its band, or take less overlap.",
        )
    outline = band(wall, left, right, low, high, overlap)
    if not outline.is_valid:
        raise BadReading(
            "The wall leans so far that its template runs over itself.",
            field="wrap.overlap_mm",
            hint="Take less overlap, or check that round and across were not mixed up.",
        )
    return outline


def _within(region: BaseGeometry, left: float, right: float, height: float) -> BaseGeometry:
    """What of a region round a body lies between two angles, whichever turn it was given on."""
    turns = [shapely.transform(region, lambda p, n=n: p + (2 * math.pi * n, 0)) for n in (-1, 0, 1)]  # type: ignore[misc]
    return shapely.intersection(shapely.union_all(turns), shapely.box(left, 0, right, height))


def _sections(wrap: Wrap, measured: Measured, body: Profile, thick: float) -> Template:
    """One exact template for each developable section, and the angle of each joint."""
    free = measured.free
    left, right = _span(wrap, free)
    walls, lower, joints = [], [], [free.low]
    turns: list[tuple[float, float]] = []
    for i, part in enumerate(body.sections):
        s0, s1 = float(body.joints[i]), float(body.joints[i + 1])
        if s1 <= free.low + 1e-6 or s0 >= free.high - 1e-6:
            continue
        walls.append(pieces.wall_of(part.radius_lower + thick / 2, part.radius_upper + thick / 2, part.slant))
        lower.append(s0)
        joints.append(min(s1, free.high))
        if len(walls) > 1:
            turns.append((s0, math.asin(part.k) - math.asin(body.sections[i - 1].k)))
    surface = pieces.sections(np.array(joints), tuple(walls), tuple(lower), left, right, wrap.joint_overlap_mm)
    laid = []
    for piece, wall, z in zip(surface.pieces, walls, lower, strict=True):
        _, s0, _, s1 = piece.region.bounds
        outline = _checked_band(wall, left, right, s0 - z, s1 - z, wrap)
        laid.append(shapely.transform(outline, lambda p, q=piece: p + q.shift))  # type: ignore[misc]
    verdicts = [
        Verdict(
            "unwrap.joint",
            "unwrap",
            "look" if abs(turn) > math.radians(25) else "ok",
            abs(math.degrees(turn)),
            25.0,
            "deg",
            "At {height} the wall turns by {value}: the pieces meet there edge to edge.",
            "Keep the artwork off that joint, or let the pieces lap.",
            {"height": (at, "mm")},
            field="wrap.joint_overlap_mm",
            fix=1.0 if wrap.joint_overlap_mm == 0 else None,
        )
        for at, turn in turns
    ]
    return Template(
        surface,
        shapely.MultiPolygon(laid),
        developed(surface, free.region),
        zones_on(surface, free),
        None,
        left,
        right,
        free.low,
        free.high,
        None,
        tuple(verdicts + _seam(wrap, measured)),
        free,
        joints=tuple(turns),
    )


def _seam(wrap: Wrap, measured: Measured) -> list[Verdict]:
    """How sure the seam of a body in pieces or on a cone is, and whether it runs into the handle."""
    errors = [c.error for c in measured.consequences if c.name.startswith("seam")]
    sure = max(errors, default=0.0)
    need = math.ceil(4 * sure) / 2
    level: Level = "look" if wrap.extent == "full" and sure > 0.5 and wrap.overlap_mm < 2 * sure else "ok"
    return [
        Verdict(
            "unwrap.seam",
            "unwrap",
            level,
            sure,
            0.5,
            "mm",
            "The seam is sure to ± {value}.",
            "Add {need} of overlap, or measure again.",
            {"need": (need, "mm")},
            field="wrap.overlap_mm",
            fix=need,
        ),
        *handle_verdicts(wrap, measured),
    ]


def _belly(wrap: Wrap, measured: Measured, body: Profile, thick: float, limit: float | None, film: Film) -> Template:
    """A band on its best cone, or as gores."""
    free = measured.free
    left, right = _span(wrap, free)
    low, high = free.low, free.high
    s, r = curved.band_of(body, low, high)
    c0, c1 = curved.minimax_line(s, r)
    before = curved.strain_of_band(body, c0, c1, low, high, left, right, limit)
    safe = curved.safe_band(body, low, high, limit) if limit else None
    if wrap.relief == "gores":
        fair = CubicSpline(body.s, body.r)

        def radius(z: Array) -> Array:
            return np.asarray(fair(z) + thick / 2, dtype=np.float64)

        def slope(z: Array) -> Array:
            return np.asarray(np.clip(fair(z, 1), -0.999, 0.999), dtype=np.float64)

        count = wrap.gores if wrap.gores >= 3 else curved.gores_needed(radius, slope, low, high, limit)
        surface = pieces.gores(count, low, high, radius, slope, RoundWall(c0 + thick / 2, c1))
        one = curved.strain_of_gore(count, radius, slope, low, high, limit)
        strain = _of_gores(one, surface, radius, lambda z: np.interp(z, body.s, body.z), low, high)
        wide = 2 * math.pi / count
        made = tuple(curved.Gore(wide * float(r.max() + thick / 2), high - low) for _ in range(count))
        return Template(
            surface,
            surface.outline(),
            developed(surface, free.region),
            zones_on(surface, free),
            None,
            -math.pi,
            math.pi,
            low,
            high,
            None,
            tuple(_verdicts(strain, before, film, wrap, safe, "height", made) + _seam(wrap, measured)),
            free,
            strain,
            before,
            (),
            made,
        )
    cone = RoundWall(c0 + thick / 2, 0.0 if abs(c1) < 1e-15 else c1)
    outline = _checked_band(cone, left, right, low, high, wrap)
    slits: tuple[curved.Slit, ...] = ()
    if wrap.relief == "slits" and limit:
        slits = curved.slits_of_band(body, c0, c1, low, high, left, right, limit, wrap.slit_overlap_mm, wrap.slit_edge)
    strain = _after_slits(before, limit) if slits else before
    return Template(
        cone,
        outline,
        developed(cone, _within(free.region, left, right, body.length)),
        zones_on(cone, free),
        None,
        left,
        right,
        low,
        high,
        sector_of(cone, body.length),
        tuple(_verdicts(strain, before, film, wrap, safe, "height", (), slits) + _seam(wrap, measured)),
        free,
        strain,
        before,
        slits,
        hoop=(c0, c1),
    )


def _of_gores(
    one: Strain,
    surface: pieces.Pieces,
    radius: Callable[[Array], Array],
    height: Callable[[Array], Array],
    low: float,
    high: float,
) -> Strain:
    """Strain of all gores from that of one, each where it lies on the template and on the body."""
    rows, columns = 25, 7
    grid = grid_triangles(rows, columns)
    nearest = cKDTree(one.flat[one.triangles].mean(axis=1))
    flats, spaces, picks = [], [], []
    for piece in surface.pieces:
        a0, _, a1, _ = piece.region.bounds
        gs, ga = (
            g.ravel() for g in np.meshgrid(np.linspace(low, high, rows), np.linspace(a0, a1, columns), indexing="ij")
        )
        flat = np.column_stack(piece.flat(ga, gs))
        picks.append(nearest.query((flat - piece.shift)[grid].mean(axis=1))[1])
        r = radius(gs)
        flats.append(flat)
        spaces.append(np.column_stack([r * np.sin(ga), height(gs), r * np.cos(ga)]))
    flat, pick = np.concatenate(flats), np.concatenate(picks)
    triangles = np.concatenate([grid + i * rows * columns for i in range(len(flats))])
    return Strain(
        flat,
        np.concatenate(spaces),
        triangles,
        one.most[pick],
        one.least[pick],
        flat_areas(flat, triangles),
        one.limit,
        one.extremes,
    )


def _after_slits(before: Strain, limit: float | None) -> Strain:
    """What is left once slits let the excess lap: shortening no worse than what the film takes."""
    floor = 1 - (limit or 0.0)
    return Strain(
        before.flat,
        before.space,
        before.triangles,
        before.most,
        np.maximum(before.least, floor),
        before.weight,
        limit,
        (before.extremes[0], max(before.extremes[1], floor)),
    )


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
        ZoneOnTemplate(z.name, z.index, shapely.intersection(z.region, disc)) for z in free.zones if z.index is not None
    )
    if wrap.relief == "gores":

        def radius(p: Array) -> Array:
            return np.asarray(cap.radius * np.sin(p / cap.radius), dtype=np.float64)

        def slope(p: Array) -> Array:
            return np.asarray(np.cos(p / cap.radius), dtype=np.float64)

        count = wrap.gores if wrap.gores >= 3 else curved.gores_needed(radius, slope, 1e-3, reach, limit)
        surface = pieces.petals(count, cap.radius, reach)
        one = curved.strain_of_gore(count, radius, slope, 1e-3, reach, limit)
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
            tuple(_verdicts(strain, before, film, wrap, safe, "diameter", made)),
            free,
            strain,
            before,
            (),
            made,
            plan=plan,
        )
    slits = curved.slits_of_cap(cap, reach, limit, wrap.slit_overlap_mm) if wrap.relief == "slits" and limit else ()
    strain = _after_slits(before, limit) if slits else before
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
        tuple(_verdicts(strain, before, film, wrap, safe, "diameter", (), slits)),
        free,
        strain,
        before,
        slits,
        plan=before.flat,
    )


def _patch(
    patch: Patch, kept: tuple[KeptOut, ...], free: FreeArea, limit: float | None, film: Film, wrap: Wrap
) -> Template:
    """A flattened patch: its edge, its free area, its strain, slits where its edge is too long."""
    before = of_triangles(patch.flat, patch.space, patch.triangles, limit)
    outline = patch.outline
    outline = outline if outline.is_valid else outline.buffer(0)
    slits = _slits_of_patch(patch, before, limit, wrap.slit_overlap_mm) if wrap.relief == "slits" and limit else ()
    strain = _after_slits(before, limit) if slits else before
    left, low, right, high = outline.bounds
    zones = tuple(ZoneOnTemplate(z.name, z.index, z.region) for z in kept if z.index is not None)
    safe = None
    if limit and before.worst > limit:
        # Strain grows with the square of the size (Gauss): the safe share of it is the root of what the film takes.
        safe = math.sqrt(limit / before.worst) * min(right - left, high - low)
    verdicts = _verdicts(strain, before, film, wrap, safe, "width", (), slits)
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
    )


def _slits_of_patch(patch: Patch, strain: Strain, limit: float | None, lap: float) -> tuple[curved.Slit, ...]:
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


def _verdicts(
    strain: Strain,
    before: Strain,
    film: Film,
    wrap: Wrap,
    safe: float | None,
    what: str,
    gores: tuple[curved.Gore, ...] = (),
    slits: tuple[curved.Slit, ...] = (),
) -> list[Verdict]:
    """What the film suffers against what it takes, before and after relief, and the ways out."""
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
                f"The film must {kind} by {{value}} in the worst place; {film.name} states no limit.",
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
                f"The film must {kind} by at most {{value}}{relieved}; it takes {{limit}}.",
                figures=names,
                places=place,
            )
        ]
    films = [
        f
        for f in FILMS.values()
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
            f"The film must {kind} by {{value}} in the worst place{relieved} and takes {{limit}}; {{share}} of it is"
            " over that.",
            remedy,
            names,
            field="wrap.relief",
            fixes=fixes,
            places=place,
        )
    ]
