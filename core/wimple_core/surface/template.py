"""The second stage: the flat template of a body, its outline, its sector and how sure its seam is."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..errors import BadReading
from ..figures import carried
from ..job.document import Wrap
from ..job.tables import Film
from ..measure import Measured
from ..measure.body import Frustum, Panel
from ..measure.measured import edge_drift, edge_miss
from ..measure.zones import FreeArea
from ..overlay import EMPTY, difference, intersection, mended, union
from ..verdict import Verdict, grade
from .curved import Gore, Slit
from .frustum import Array
from .pieces import SURFACE_GRID, Pieces
from .strain import Strain
from .surface import RoundWall, Surface, surface_of

ARC_TOLERANCE_MM = 0.001
LARGEST_DRAWN_RADIUS_MM = 20_000.0
"""Above this an arc is drawn as exact points, never as an arc of a huge radius."""


@dataclass(frozen=True)
class Sector:
    """The ring piece a tapered wall unrolls to; radii mm, `angle` of one whole turn rad. `centre_y` is where the
    point of the cone lies on the template (x = 0), mm."""

    radius_lower: float
    radius_upper: float
    angle: float
    centre_y: float


@dataclass(frozen=True)
class ZoneOnTemplate:
    """A keep-out zone laid flat: what it is called, its place in the document's list, and where it lies, mm."""

    name: str
    index: int
    region: BaseGeometry


@dataclass(frozen=True)
class Template:
    """A surface unrolled.

    `outline` is what is cut, mm, y up; `left`, `right`, `low`, `high` bound it in the surface's coordinates;
    `free` is the part of the template all zones leave, `zones` those the maker drew; `overlap` the part beyond the
    closing edge (None without).
    """

    surface: Surface
    outline: BaseGeometry
    free: BaseGeometry
    zones: tuple[ZoneOnTemplate, ...]
    overlap: shapely.Polygon | None
    left: float
    right: float
    low: float
    high: float
    sector: Sector | None
    verdicts: tuple[Verdict, ...]
    limits: FreeArea
    """Where a drawing may stand, in the surface's coordinates."""
    strain: Strain | None = None
    before: Strain | None = None
    """The strain without the relief that was chosen."""
    slits: tuple[Slit, ...] = ()
    gores: tuple[Gore, ...] = ()
    joints: tuple[tuple[float, float], ...] = ()
    """Joints of a stack: height along the side, and by how much the wall turns there, rad."""
    hoop: tuple[float, float] | None = None
    """The cone a band lies on: radius at the side's zero, and its taper."""
    plan: Array | None = None
    """Surface coordinates of the strain's corners where the template is in pieces."""
    notes: tuple[str, ...] = ()
    film_thickness: float = 0.0
    """Of the film it was made for, mm."""


def _row(surface: Surface, s: float, a0: float, a1: float) -> np.ndarray:
    """Points of the level line at `s` on the template, (n, 2) mm, chords within ARC_TOLERANCE_MM of the arc."""
    turn = abs(surface.k * (a1 - a0))
    n = 2
    if turn > 1e-12:
        radius = surface.scale_at(s) / abs(surface.k)
        step = 2 * math.acos(max(0.0, 1 - ARC_TOLERANCE_MM / radius))
        n = 1 + max(1, math.ceil(turn / step)) if step > 0 else 2
    a = np.linspace(a0, a1, n)
    return np.column_stack(surface.develop(a, np.full(n, s)))


def band(surface: Surface, left: float, right: float, low: float, high: float, overlap: float = 0.0) -> shapely.Polygon:
    """The flat outline of the surface between two angles and two heights.

    With `overlap` mm its right edge stands that far beyond `right` at every height, an angle of `overlap / r(s)`.
    """

    def beyond(s: float) -> float:
        return right + overlap / surface.scale_at(s)

    heights = np.linspace(low, high, 9)[1:-1] if overlap and surface.k else np.empty(0)
    angles = np.array([beyond(h) for h in heights])
    edge = np.column_stack(surface.develop(angles, heights))
    return shapely.Polygon(
        np.concatenate([_row(surface, low, left, beyond(low)), edge, _row(surface, high, beyond(high), left)])
    )


def developed(surface: Surface, region: BaseGeometry) -> BaseGeometry:
    """A region of surface coordinates laid flat, its edges cut so finely that no chord leaves its curve by
    ARC_TOLERANCE_MM."""
    if isinstance(surface, Pieces):
        return surface.lay_out(region, lambda a, s: (a, s))
    if surface.k == 0.0 and not surface.closed:
        return region
    scale = max(surface.scale_at(region.bounds[1]), surface.scale_at(region.bounds[3]), 1e-6)
    step = math.sqrt(8 * ARC_TOLERANCE_MM / max(abs(surface.k), 1e-9) * scale) / scale if surface.k else math.inf
    # Angles are cut by `step`; heights run straight on the template and need no cutting of their own.
    fine = (
        shapely.segmentize(shapely.transform(region, lambda p: p * (1, 1e-3)), step) if math.isfinite(step) else region
    )
    back = (1, 1e3) if math.isfinite(step) else (1, 1)
    flat = shapely.transform(fine, lambda p: np.column_stack(surface.develop(p[:, 0] * back[0], p[:, 1] * back[1])))
    return mended(flat)[0]


def windowed(region: BaseGeometry, left: float, right: float, low: float, high: float) -> BaseGeometry:
    """What of a region round a body lies between two angles and two heights, whichever turn it was given on."""
    turns = [shapely.transform(region, lambda p, n=n: p + (2 * math.pi * n, 0)) for n in (-2, -1, 0, 1, 2)]  # type: ignore[misc]
    box = shapely.box(left, low, right, high)
    near = [t for t in turns if shapely.intersects(t, box)]
    return intersection(union(near, SURFACE_GRID), box, SURFACE_GRID) if near else EMPTY


def laid_open(free: FreeArea, seam_deg: float, length: float) -> FreeArea:
    """The free area of a round body with its seam at an angle: its window goes once round from there. One with a handle
    is open there already."""
    if not free.all_round:
        return free
    right = math.radians(seam_deg) % (2 * math.pi)
    right += 2 * math.pi if right <= 0 else 0.0
    left = right - 2 * math.pi
    if (left, right) == (free.left, free.right):
        return free
    zones = tuple(replace(z, region=windowed(z.region, left, right, 0.0, length)) for z in free.zones)
    return replace(free, left=left, right=right, region=windowed(free.region, left, right, 0.0, length), zones=zones)


def zones_on(surface: Surface, free: FreeArea) -> tuple[ZoneOnTemplate, ...]:
    """The zones the maker drew, laid flat."""
    return tuple(
        ZoneOnTemplate(z.name, z.index, developed(surface, z.region))
        for z in free.zones
        if z.index is not None and not z.region.is_empty
    )


def sector_of(surface: Surface, slant: float) -> Sector | None:
    """The ring piece of a tapered wall; None where it unrolls to a straight strip."""
    if surface.k == 0.0 or not isinstance(surface, RoundWall):
        return None
    k = surface.k
    return Sector(surface.scale_at(0) / abs(k), surface.scale_at(slant) / abs(k), 2 * math.pi * abs(k), -surface.r0 / k)


def handle_verdicts(wrap: Wrap, measured: Measured) -> list[Verdict]:
    """A full wrap and a handle do not go together."""
    if wrap.extent != "full" or measured.free.all_round:
        return []
    return [
        Verdict(
            "unwrap.handle",
            "unwrap",
            "stop",
            1,
            0,
            "count",
            "A wrap all round runs into the handle.",
            "Unwrap the free area beside it instead.",
            field="wrap.extent",
            fix="free",
        )
    ]


def whole_turn(wrap: Wrap, free: FreeArea) -> tuple[float, float]:
    """Between which angles a round body is unrolled: the free area, or once round from the seam."""
    if wrap.extent == "free" or free.all_round:
        return free.left, free.right
    right = math.radians(wrap.seam_deg)
    return right - 2 * math.pi, right


def taken_thickness(wrap: Wrap, film: Film) -> float:
    """Thickness of the film in mm: as typed, or the chosen film's own."""
    return (film.thickness_um if wrap.film_thickness_um is None else wrap.film_thickness_um) / 1000


WIDEST_OVERLAP_MM = 20.0
"""The most overlap offered against a seam that is not sure: more film than that on itself stands off the wall (common
practice, no source). Ends less sure than that are measured again."""


def ends_verdict(wrap: Wrap, sure: float, narrow: float) -> Verdict:
    """How sure the ends of a whole wrap meet: `sure` mm, on a wall at least `narrow` mm in radius."""
    overlap = wrap.overlap_mm
    if overlap < 0:
        return Verdict(
            "unwrap.seam",
            "unwrap",
            "ok",
            -overlap,
            None,
            "mm",
            "A gap of {value} is left between the ends.",
            field="wrap.overlap_mm",
        )
    need = math.ceil(4 * sure) / 2
    offered = need <= min(WIDEST_OVERLAP_MM, narrow)
    return Verdict(
        "unwrap.seam",
        "unwrap",
        "look" if (sure > 0.5 and not overlap) or 0 < overlap < 2 * sure else "ok",
        sure,
        0.5,
        "mm",
        (
            "The ends overlap by {overlap}, and are sure to ± {value}."
            if overlap
            else "The ends meet edge to edge, and are sure to ± {value}."
        ),
        (
            "Let them overlap by {need}, or measure again, so that no gap can show."
            if offered
            else "Measure again: no overlap hides that."
        ),
        {"overlap": (overlap, "mm"), "need": (need, "mm")},
        field="wrap.overlap_mm",
        fix=need if offered else None,
    )


def wrap_verdicts(wrap: Wrap, measured: Measured, frustum: Frustum) -> list[Verdict]:
    verdicts = []
    if wrap.extent == "full":
        sure = 2 * math.pi * max(frustum.error_upper, frustum.error_lower)
        narrow = min(frustum.radius_upper, frustum.radius_lower)
        verdicts = [ends_verdict(wrap, sure, narrow), *handle_verdicts(wrap, measured)]
    drift = edge_drift(frustum)
    verdicts.append(
        Verdict(
            "unwrap.edge_drift",
            "unwrap",
            grade(drift, 0.5),
            drift,
            0.5,
            "mm",
            (
                "Laid from the front, both ends of the template may stand {value} off level, to the same side,"
                " and meet; begun at one edge, its other end may miss it by {edge}."
            ),
            "Measure both ways round again, or begin at the front.",
            {"edge": (edge_miss(frustum), "mm")},
            field="blank.side.readings.0",
        )
    )
    return verdicts


def unwrap_exact(wrap: Wrap, measured: Measured, film: Film) -> Template:
    """Unroll a wall or a panel, exactly. Raises BadReading where the wrap cannot be."""
    thickness = taken_thickness(wrap, film)
    surface = surface_of(measured.body, thickness)
    free = measured.free
    if isinstance(measured.body, Panel):
        outline = measured.body.outline
        left, low, right, high = outline.bounds
        return Template(
            surface,
            outline,
            free.region,
            zones_on(surface, free),
            None,
            left,
            right,
            low,
            high,
            None,
            (),
            free,
            film_thickness=thickness,
        )
    assert isinstance(measured.body, Frustum) and isinstance(surface, RoundWall)
    frustum = measured.body
    free = laid_open(free, wrap.seam_deg, frustum.slant)
    left, right = whole_turn(wrap, free)
    surface = replace(surface, middle=(left + right) / 2)
    free_outline = band(surface, free.left, free.right, free.low, free.high)
    free_region = developed(surface, free.region) if free.zones else free_outline
    overlap_part = None
    if wrap.extent == "free":
        left, right, low, high = free.left, free.right, free.low, free.high
        outline = free_outline
    else:
        low, high = 0.0, frustum.slant
        narrow = min(surface.scale_at(0), surface.scale_at(frustum.slant))
        extra = wrap.overlap_mm / narrow
        if abs(extra) > 1.0:
            raise BadReading(
                f"{'An overlap' if extra > 0 else 'A gap'} of {carried(abs(wrap.overlap_mm))} is too much for a cup of "
                f"{carried(2 * math.pi * narrow)} round.",
                field="wrap.overlap_mm",
                hint=f"Keep it under {carried(narrow)}; {carried(2)} to {carried(5)} is usual.",
            )
        outline = band(surface, left, right, low, high, wrap.overlap_mm)
        if not outline.is_valid:
            raise BadReading(
                f"A wall that leans {math.degrees(math.asin(min(1.0, abs(surface.k)))):.0f}° from upright unrolls to"
                f" almost a whole disc; with {carried(wrap.overlap_mm)} of overlap its template runs over itself.",
                field="wrap.overlap_mm",
                hint="Take less overlap, or check that round and across were not mixed up.",
            )
        if wrap.overlap_mm > 0:
            beyond = shapely.get_parts(difference(outline, band(surface, left, right, low, high)))
            overlap_part = max(beyond, key=lambda g: g.area)
    verdicts = tuple(wrap_verdicts(wrap, measured, frustum))
    return Template(
        surface,
        outline,
        free_region,
        zones_on(surface, free),
        overlap_part,
        left,
        right,
        low,
        high,
        sector_of(surface, frustum.slant),
        verdicts,
        free,
        film_thickness=thickness,
    )
