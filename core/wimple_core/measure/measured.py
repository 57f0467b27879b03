"""The first stage: everything the readings say."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from ..job.blanks import (
    Blank,
    CupBlank,
    CurvedPanelBlank,
    DomeBlank,
    FlatBlank,
    InsertBlank,
    MeshBlank,
    PanelBlank,
    RevolutionBlank,
    RisePanelBlank,
    RoundBlank,
    StackBlank,
)
from ..job.dimension import Dimension
from ..job.zones import VEHICLE_ZONES
from ..verdict import Verdict, grade
from .body import Body, Frustum, MeshBody, Panel, RiseSurface, RoundBody
from .capacity import LevelFound, capacity_verdict, find_level, outside_volume_ml
from .consequences import Consequence, propagate
from .photo import PHOTO_ERROR_MM, Outline, PhotoProfile, profile_from
from .readings import Reading, dimensions_of, read_blank, read_dimension
from .rises import area_rule, bends_rule, surface_from
from .shapes import curved_panel_from, insert_from, panel_from
from .slips import capacity_remedies, cross_checks, looks_like, out_of_round, outliers, spoken
from .turned import cap_from, frustum_from, radius_from, revolution_from, spline_profile, stack_from
from .zones import (
    READABLE_HALF_ANGLE,
    FreeArea,
    blocked_widths,
    free_area_of_cap,
    free_area_of_panel,
    free_area_of_rises,
    free_area_of_round,
)

SEAM_LIMIT_MM = 0.5
"""A seam that gapes or overlaps by more is seen (common practice, no source)."""
DRIFT_LIMIT_MM = 0.5
SIZE_LIMIT_MM = 1.0
MOST_TO_ASK_FOR = 5
"""Where more readings than this were needed, the readings disagree rather than scatter."""
Readings = Mapping[str, Reading]


@dataclass(frozen=True, eq=False)
class Given:
    """What a blank is known by besides its readings: the outline of its drawing, its mesh, the outline in its
    photograph."""

    outline: shapely.Polygon | None = None
    mesh: MeshBody | None = None
    photo: Outline | None = None


@dataclass(frozen=True)
class PhotoCheck:
    """One place taken off the photograph and read by hand: its name, both radii and the spread of their difference,
    mm."""

    name: str
    height: float
    by_photo: float
    by_hand: float
    spread: float


@dataclass(frozen=True, eq=False)
class PhotoFound:
    """What the photograph says: the side line, and each place that was read by hand too."""

    profile: PhotoProfile
    checks: tuple[PhotoCheck, ...]
    outline: Outline


@dataclass(frozen=True, eq=False)
class Measured:
    """A body, its readings by path, its free area, what its spread does, and the verdicts on them."""

    body: Body
    readings: dict[str, Reading]
    free: FreeArea
    volume_ml: float | None
    verdicts: tuple[Verdict, ...]
    consequences: tuple[Consequence, ...] = ()
    level: LevelFound | None = None
    photo: PhotoFound | None = None

    def consequence(self, name: str) -> Consequence | None:
        """The figure of that name, if the blank has it."""
        return next((c for c in self.consequences if c.name == name), None)


def off_level(radius: float, k: float, turn: float) -> float:
    """By how many mm an edge stands off level for each unit of error in the taper, at the angle `turn` (rad) from where
    the wrap was begun: `(r turn^2 / 2) sinc(k turn / 2)^2`, which is `x^2 / (2 r)` for small tapers (x the arc length).

    It is what the development's `y` loses where its taper is wrong.
    """
    return radius * turn**2 / 2 * float(np.sinc(k * turn / 2 / math.pi)) ** 2


def edge_drift(frustum: Frustum) -> float:
    """Standard error in mm of how far the ends of a template laid from the front stand off level: both, half a turn
    away, to the same side, so that they still meet."""
    widest = max(frustum.radius_lower, frustum.radius_upper)
    return off_level(widest, frustum.k, math.pi) * frustum.error_k


def edge_miss(frustum: Frustum) -> float:
    """Standard error in mm of how far the far end misses the first where the wrap was begun at one edge: a whole turn
    away, so four times as much on all but steep walls."""
    widest = max(frustum.radius_lower, frustum.radius_upper)
    return off_level(widest, frustum.k, 2 * math.pi) * frustum.error_k


def readable_width(body: RoundBody, s: float) -> float:
    """Width in mm, round the cup at `s`, that is readable from the front: 60 degrees each side."""
    return 2 * READABLE_HALF_ANGLE * body.radius_at(s)


def _seam_verdict(where: str, code: str, path: str, reading: Reading, error: float, trial: bool = False) -> Verdict:
    """How sure the seam is at one way round; `error` mm of the way round."""
    level = grade(round(error, 9), SEAM_LIMIT_MM, 6 * SEAM_LIMIT_MM)
    times = max(1, math.ceil((error / SEAM_LIMIT_MM) ** 2 * reading.count) - reading.count)
    name = where[0].upper() + where[1:]
    if trial:
        return Verdict(
            code,
            "measure",
            level,
            error,
            SEAM_LIMIT_MM,
            "mm",
            f"{name}: set by the trial fit, the seam is sure to ± {{value}}.",
            "Read the gap again.",
            field=f"blank.{path}",
        )
    if level == "ok":
        say = f"{name}: the readings agree, and the seam is sure to ± {{value}}."
        if reading.count == 1:
            say = f"{name}: by one reading the seam is sure to ± {{value}}."
    remedy = f"Measure the {where} {times} more time{'s' if times > 1 else ''}."
    if reading.count > 1 and times > MOST_TO_ASK_FOR:
        remedy = f"The readings disagree: look for the one that is off, or measure the {where} anew."
    if level != "ok":
        said = "one reading" if reading.count == 1 else f"{reading.count} readings"
        say = f"{name}: by {said} the seam is sure only to ± {{value}}, and may miss by {{limit}}."
    return Verdict(
        code, "measure", level, error, SEAM_LIMIT_MM, "mm", say, remedy, field=f"blank.{path}.readings.{reading.count}"
    )


def _ring_paths(blank: RoundBlank) -> list[str]:
    """The ways round, from the foot up, by their path."""
    if isinstance(blank, CupBlank):
        return ["lower", "upper"]
    if isinstance(blank, StackBlank):
        return ["base", *(f"sections.{i}.upper" for i in range(len(blank.sections)))]
    return [f"rings.{i}.girth" for i in range(len(blank.rings))]


def _body_of(blank: RoundBlank, readings: Readings) -> RoundBody:
    if isinstance(blank, CupBlank):
        return frustum_from(blank, readings)
    return stack_from(blank, readings) if isinstance(blank, StackBlank) else revolution_from(blank, readings)


def _as_first(blank: Blank, readings: Readings, dimensions: dict[str, Dimension]) -> dict[str, float]:
    """What each second way of reading says the first should have read, mm."""
    out: dict[str, float] = {}
    tau = getattr(blank, "tape_thickness_mm", 0.0)
    for path, d in dimensions.items():
        if d.check is None:
            continue
        second = read_dimension(d.check)
        if d.reads == d.check.reads:
            out[path] = second.mean
        elif {d.reads, d.check.reads} == {"circumference", "diameter"}:
            r, _ = radius_from(d.check, second, tau, f"blank.{path}.check")
            own = tau / 2 if d.instrument == "tape" else 0.0
            out[path] = 2 * math.pi * (r + own) if d.reads == "circumference" else 2 * r
        elif {d.reads, d.check.reads} == {"slant", "upright"}:
            step = _step_at(blank, readings, path)
            square = second.mean**2 + (step**2 if d.reads == "slant" else -(step**2))
            out[path] = math.sqrt(max(square, 0.0))
        elif {d.reads, d.check.reads} == {"across_flats", "across_corners"}:
            out[path] = second.mean * (2 / math.sqrt(3) if d.reads == "across_corners" else math.sqrt(3) / 2)
    return out


def _step_at(blank: Blank, readings: Readings, path: str) -> float:
    """The difference of the radii above and below a side, mm."""
    if isinstance(blank, CupBlank):
        pair = [(blank.upper, "upper"), (blank.lower, "lower")]
    elif isinstance(blank, StackBlank):
        i = int(path.split(".")[1])
        below = (blank.base, "base") if i == 0 else (blank.sections[i - 1].upper, f"sections.{i - 1}.upper")
        pair = [(blank.sections[i].upper, f"sections.{i}.upper"), below]
    else:
        return 0.0
    a, b = (radius_from(d, readings[p], blank.tape_thickness_mm, f"blank.{p}")[0] for d, p in pair)
    return a - b


_PROPAGATED_POINTS = 120
"""A side line is drawn coarser where it is built once for every reading."""


def _fast_body(blank: RoundBlank, readings: Readings) -> Callable[[Readings], RoundBody]:
    """The body from readings, over and over: radii of rings are straight in their readings, so only that line is
    kept."""
    if not isinstance(blank, RevolutionBlank):
        return lambda r: _body_of(blank, r)
    n = len(blank.rings)
    girths, heights = [f"rings.{i}.girth" for i in range(n)], [f"rings.{i}.height" for i in range(n)]
    scale = np.array([0.5 if ring.girth.reads == "diameter" else 1 / (2 * math.pi) for ring in blank.rings])
    # Where the tape leans with the wall its share is taken as it is on the body as read.
    nominal = revolution_from(blank, readings)
    offset = nominal.radii_at(nominal.joints) - scale * np.array([readings[p].mean for p in girths])
    none = np.zeros(n)

    def build(r: Readings) -> RoundBody:
        z = np.array([r[p].mean for p in heights])
        return spline_profile(
            z - z[0], scale * np.array([r[p].mean for p in girths]) + offset, none, _PROPAGATED_POINTS
        )

    return build


def _round_figures(blank: RoundBlank, free: FreeArea, nominal: RoundBody, readings: Readings):  # type: ignore[no-untyped-def]
    """A function from readings to what a maker cares about on a round body, and the units of its figures."""
    s, blocked = blocked_widths(free, nominal)
    cut = nominal.length - free.high
    share = (s - free.low) / (free.high - free.low)
    widest = max(nominal.radius_lower, nominal.radius_upper) if isinstance(nominal, Frustum) else float(nominal.r.max())
    fixed_high = "handle.free_height" in readings
    nominal_k, tapers = (nominal.k, ()) if isinstance(nominal, Frustum) else (0.0, nominal.sections)
    build = _fast_body(blank, readings)

    def figures(r: Readings) -> dict[str, float]:
        body = build(r)
        high = free.low + r["handle.free_height"].mean if fixed_high else body.length - cut
        places = free.low + share * (high - free.low)
        taken = blocked
        if "handle.free_width" in r:
            middle = 2 * math.pi * body.radius_at((free.low + high) / 2)
            taken = blocked + (middle - r["handle.free_width"].mean) - free.handle_width
        open_width = 2 * math.pi * body.radii_at(places) - taken
        out = {"free_area": float(np.trapezoid(open_width, places))}
        if isinstance(body, Frustum):
            out |= {
                "seam_top": 2 * math.pi * body.radius_upper,
                "seam_bottom": 2 * math.pi * body.radius_lower,
                "side": body.slant,
                "edge_drift": off_level(widest, nominal_k, math.pi) * body.k,
            }
        else:
            radii = body.radii_at(body.joints)
            out |= {
                "seam_top": 2 * math.pi * float(radii[-1]),
                "seam_bottom": 2 * math.pi * float(radii[0]),
                "side": body.length,
                "height": body.upright,
            }
            out |= {f"seam_{i}": 2 * math.pi * float(radii[i]) for i in range(1, len(radii) - 1)}
            out |= {
                f"edge_drift_{i}": off_level(widest, was.k, math.pi) * part.k
                for i, (part, was) in enumerate(zip(body.sections, tapers, strict=True))
            }
        return out

    return figures, {"free_area": "mm2"}


def _again_first(consequences: tuple[Consequence, ...]) -> Verdict | None:
    """Which reading to take again first: the one that spreads the worst seam figure most."""
    seams = [c for c in consequences if c.name.startswith(("seam", "edge_drift")) and c.shares]
    if not seams:
        return None
    worst = max(seams, key=lambda c: c.error)
    path, share = worst.shares[0]
    how = "nearly all" if share > 0.95 else "{value}"
    say = f"To make the seam surer, take {spoken(path)} again first: {how} of what is unsure comes from it."
    return Verdict("measure.again_first", "measure", "ok", 100 * share, None, "%", say, field=f"blank.{path}")


def _photo(blank: RoundBlank, body: RoundBody, given: Given) -> tuple[PhotoFound | None, list[Verdict]]:
    if blank.photo is None or given.photo is None:
        return None, []
    profile = profile_from(given.photo, blank.photo)
    checks, verdicts = [], []
    if isinstance(body, Frustum):
        upward = body.upright / body.slant
        foot = blank.foot_mm if isinstance(blank, CupBlank) else 0.0
        places = [
            ("lower", foot * upward, body.radius_lower, body.error_lower),
            ("upper", (foot + body.slant) * upward, body.radius_upper, body.error_upper),
        ]
    else:
        z = np.interp(body.joints, body.s, body.z)
        radii = body.radii_at(body.joints)
        up = z + body.foot
        places = [(p, float(up[i]), float(radii[i]), float(body.errors[i])) for i, p in enumerate(_ring_paths(blank))]
    for path, z_at, radius, error in places:
        if z_at > profile.z[-1] + 6:
            continue
        seen = profile.radius_at(z_at)
        checks.append(PhotoCheck(path, z_at, seen, radius, 2 * math.hypot(error, PHOTO_ERROR_MM)))
    if checks:
        worst = max(checks, key=lambda c: abs(c.by_photo - c.by_hand) / c.spread)
        apart = abs(worst.by_photo - worst.by_hand)
        level = grade(apart, worst.spread, 3 * worst.spread)
        names = {"photo": (2 * worst.by_photo, "mm"), "hand": (2 * worst.by_hand, "mm")}
        path = worst.name
        say = (
            "Photograph and readings agree within {value} in radius."
            if level == "ok"
            else (
                f"{spoken(path).capitalize()}: {{photo}} across by the photograph, {{hand}} by hand; the radius is"
                " {value} apart (spread {limit})."
            )
        )
        verdicts.append(
            Verdict(
                "measure.photo",
                "measure",
                level,
                apart,
                worst.spread,
                "mm",
                say,
                "Take that reading again; then check the known length and the distance of the lens.",
                names,
                field=f"blank.{path}.readings.0",
            )
        )
    return PhotoFound(profile, tuple(checks), given.photo), verdicts


def _measure_round(blank: RoundBlank, given: Given) -> Measured:
    readings = read_blank(blank)
    dimensions = dict(dimensions_of(blank))
    body = _body_of(blank, readings)
    free = free_area_of_round(blank, body, readings)
    figures, units = _round_figures(blank, free, body, readings)
    consequences = propagate(figures, readings, units)
    errors = {c.name: c.error for c in consequences}
    rings = _ring_paths(blank)
    verdicts: list[Verdict] = []
    if isinstance(blank, CupBlank):
        trial = len(blank.trials) - 1
        for name, where, edge in (("upper", "top", "top_mm"), ("lower", "bottom", "bottom_mm")):
            path = f"trials.{trial}.{edge}" if blank.trials else name
            verdicts.append(
                _seam_verdict(
                    where, f"measure.seam_{where}", path, readings[path], errors[f"seam_{where}"], bool(blank.trials)
                )
            )
    else:
        names = ["seam_bottom", *(f"seam_{i}" for i in range(1, len(rings) - 1)), "seam_top"]
        worst = max(range(len(rings)), key=lambda i: errors[names[i]])
        verdicts.append(
            _seam_verdict(
                spoken(rings[worst]).removeprefix("the "),
                "measure.seam",
                rings[worst],
                readings[rings[worst]],
                errors[names[worst]],
            )
        )
    drift_names = [n for n in errors if n.startswith("edge_drift")]
    if drift_names:
        drift = max(errors[n] for n in drift_names)
        verdicts.append(
            Verdict(
                "measure.edge_drift",
                "measure",
                grade(drift, DRIFT_LIMIT_MM, 6 * DRIFT_LIMIT_MM),
                drift,
                DRIFT_LIMIT_MM,
                "mm",
                "The ends of a template laid from the front stand level to ± {value}.",
                "Readings further apart along the side, or more of them, bring it down.",
                field="blank.side.readings.0" if isinstance(blank, CupBlank) else "blank.sections.0.side.readings.0",
            )
        )
    capacity = capacity_verdict(blank, body, {dimensions[p].reads for p in rings}, capacity_remedies(blank))
    if capacity:
        verdicts.append(capacity)
    steep_k = abs(body.k) if isinstance(body, Frustum) else 0.0
    steep = math.degrees(math.asin(min(1.0, steep_k)))
    if steep > 30:
        verdicts.append(
            Verdict(
                "measure.taper",
                "measure",
                "look",
                steep,
                30.0,
                "deg",
                "The wall leans {value} from upright, more than cups do (limit {limit}).",
                "Check that round and across were not mixed up between top and bottom.",
                field="blank.upper.readings.0",
            )
        )
    items = list(dimensions.items())
    radii = {p: radius_from(dimensions[p], readings[p], blank.tape_thickness_mm, f"blank.{p}")[0] for p in rings}
    verdicts += (
        outliers(items, readings)
        + cross_checks(items, readings, _as_first(blank, readings, dimensions))
        + out_of_round(items)
    )
    if not (isinstance(blank, CupBlank) and blank.trials):
        verdicts += looks_like(blank, readings, radii)
    photo, photo_verdicts = _photo(blank, body, given)
    verdicts += photo_verdicts
    again = _again_first(consequences)
    if again:
        verdicts.append(again)
    rim, foot = (blank.rim_mm, blank.foot_mm) if isinstance(blank, CupBlank) else (0.0, 0.0)
    return Measured(
        body,
        readings,
        free,
        outside_volume_ml(body, rim, foot),
        tuple(verdicts),
        consequences,
        find_level(blank, body),
        photo,
    )


def _size_verdict(
    consequences: tuple[Consequence, ...], names: tuple[str, ...], limit: float = SIZE_LIMIT_MM
) -> Verdict:
    """How sure the size is, by its least sure figure."""
    worst = max((c for c in consequences if c.name in names), key=lambda c: c.error)
    field = (
        f"blank.{worst.first}.readings.0"
        if worst.first and not worst.first.startswith("rises")
        else f"blank.{worst.first}.0"
        if worst.first
        else ""
    )
    return Verdict(
        "measure.panel",
        "measure",
        grade(worst.error, limit),
        worst.error,
        limit,
        "mm",
        "The size of the panel is sure to ± {value}.",
        "Measure it again.",
        field=field,
    )


def _common_flat(blank: Blank, readings: Readings) -> list[Verdict]:
    """Sense checks of everything that is not turned on an axis."""
    dimensions = dict(dimensions_of(blank))
    out = outliers(dimensions.items(), readings) + cross_checks(
        dimensions.items(), readings, _as_first(blank, readings, dimensions)
    )
    sizes = [(p, readings[p].mean) for p in ("width", "height") if p in dimensions]
    if len(sizes) == 2:
        (small_path, small), (_, large) = sorted(sizes, key=lambda q: q[1])
        if small * 12 < large and 0.15 < small * 25.4 / large < 3:
            d = dimensions[small_path]
            field = f"blank.{small_path}.readings"
            out.append(
                Verdict(
                    "measure.inches",
                    "measure",
                    "look",
                    small,
                    None,
                    "mm",
                    f"{{value}} is little for {spoken(small_path)}: it looks like inches.",
                    "Read it as inches.",
                    field=f"{field}.0",
                    fixes={field: [v * 25.4 for v in d.readings]},
                )
            )
    return out


_VEHICLE_WORDS = {
    "light": "light",
    "plate": "number plate",
    "sensor": "sensor",
    "label": "warning label",
    "sight": "line of sight",
}


def _vehicle(blank: Blank) -> list[Verdict]:
    marked = [k for k in VEHICLE_ZONES if any(z.kind == k for z in blank.zones)]
    if not getattr(blank, "on_vehicle", False):
        return []
    if marked:
        return [
            Verdict(
                "measure.vehicle",
                "measure",
                "ok",
                len(marked),
                None,
                "count",
                f"Kept clear on the vehicle: {', '.join(sorted(_VEHICLE_WORDS[k] for k in marked))}. Local rules"
                " decide: ask where they are not plain.",
            )
        ]
    return [
        Verdict(
            "measure.vehicle",
            "measure",
            "look",
            0,
            1,
            "count",
            "No light, plate, sensor, warning label or line of sight is marked on this vehicle.",
            "Mark those there are; where none is near, say so in the note. Local rules decide.",
            field="blank.on_vehicle",
        )
    ]


def _measure_flat(blank: FlatBlank, given: Given) -> Measured:
    readings = read_blank(blank)

    def body_from_readings(r: Readings) -> Panel:
        if isinstance(blank, PanelBlank):
            return panel_from(blank, r, given.outline)
        return insert_from(blank, r) if isinstance(blank, InsertBlank) else curved_panel_from(blank, r)

    body = body_from_readings(readings)
    free = free_area_of_panel(body, blank.margin_mm, blank.zones)
    taken = body.outline.area - free.region.area
    edge = body.outline.length * blank.margin_mm

    def figures(r: Readings) -> dict[str, float]:
        b = body_from_readings(r)
        # The margin's share grows with the edge, the zones' does not.
        out = {
            "width": b.width,
            "height": b.height,
            "free_area": b.outline.area - taken - (b.outline.length * blank.margin_mm - edge),
        }
        if b.bend_radius is not None:
            out["panel_radius"] = b.bend_radius
        if isinstance(blank, InsertBlank):
            out["insert_diameter"] = (
                r["inside"].mean / (1 if blank.inside.reads == "diameter" else math.pi) - 2 * blank.clearance_mm
            )
        return out

    consequences = propagate(figures, readings, {"free_area": "mm2"})
    verdicts = [_size_verdict(consequences, ("width", "height"))]
    if isinstance(blank, CurvedPanelBlank):
        verdicts += _bend_verdicts(blank, body, readings, consequences)
    if isinstance(blank, InsertBlank):
        verdicts += _insert_verdicts(blank, consequences)
    return Measured(
        body, readings, free, None, tuple(verdicts + _common_flat(blank, readings) + _vehicle(blank)), consequences
    )


def _bend_verdicts(
    blank: CurvedPanelBlank, body: Panel, readings: Readings, consequences: tuple[Consequence, ...]
) -> list[Verdict]:
    radius = next(c for c in consequences if c.name == "panel_radius")
    share = 100 * radius.error / radius.value
    names = {"radius": (radius.value, "mm"), "spread": (radius.error, "mm")}
    out = [
        Verdict(
            "measure.panel_radius",
            "measure",
            grade(share, 10.0, 50.0),
            share,
            10.0,
            "%",
            "The panel is bent to a radius of {radius}, sure to ± {spread}.",
            f"Take {spoken(radius.first)} again first, over a longer chord.",
            names,
            field=f"blank.{radius.first}.readings.0",
        )
    ]
    bends = [
        8
        * readings[f"places.{i}.rise"].mean
        / (readings[f"places.{i}.chord"].mean ** 2 + 4 * readings[f"places.{i}.rise"].mean ** 2)
        for i in range(len(blank.places))
    ]
    if len(bends) > 1:
        radii = [1 / b for b in bends]
        spread = [
            3 * readings[f"places.{i}.rise"].error / max(readings[f"places.{i}.rise"].mean, 1e-9) * radii[i]
            for i in range(len(bends))
        ]
        apart = max(radii) - min(radii)
        limit = max(spread[radii.index(max(radii))], spread[radii.index(min(radii))])
        if apart > limit:
            out.append(
                Verdict(
                    "measure.bend_uneven",
                    "measure",
                    "look",
                    apart,
                    limit,
                    "mm",
                    "The panel is not bent alike everywhere: its radius differs by {value} between the places.",
                    "It may be curved both ways or tapered: measure it by rises on a grid.",
                    field="blank.places.0.rise.readings.0",
                )
            )
    return out


MOST_CLEARANCE = 0.1
"""The most clearance offered, as a share of the insert's width: an insert looser than that is measured again (common
practice, no source)."""


def _insert_verdicts(blank: InsertBlank, consequences: tuple[Consequence, ...]) -> list[Verdict]:
    diameter = next(c for c in consequences if c.name == "insert_diameter")
    out = []
    need = math.ceil(20 * diameter.error) / 10
    offered = need <= MOST_CLEARANCE * diameter.value
    if blank.clearance_mm < 2 * diameter.error:
        out.append(
            Verdict(
                "measure.clearance",
                "measure",
                "look",
                blank.clearance_mm,
                2 * diameter.error,
                "mm",
                "A clearance of {value} is little for a diameter that may be out by {limit}: the insert may not go in.",
                "Measure the inside again, or leave more clearance." if offered else "Measure the inside again.",
                field="blank.clearance_mm",
                fix=need if offered else None,
            )
        )
    else:
        out.append(
            Verdict(
                "measure.clearance",
                "measure",
                "ok",
                diameter.value,
                None,
                "mm",
                "The insert, cut {value} across, goes in with room to spare.",
            )
        )
    if blank.candle:
        out.append(
            Verdict(
                "measure.candle",
                "measure",
                "look",
                1,
                0,
                "count",
                "A cover on a candle must carry “remove before lighting”.",
                "Put the words on it; it is never left on while lit.",
                field="blank.candle",
            )
        )
    return out


def _measure_dome(blank: DomeBlank) -> Measured:
    readings = read_blank(blank)
    body = cap_from(blank, readings)
    free = free_area_of_cap(body, blank.margin_mm, blank.zones)
    taken = body.area - sum(p.area for p in free.parts)

    def figures(r: Readings) -> dict[str, float]:
        c = cap_from(blank, r)
        return {"panel_radius": c.radius, "arc": 2 * c.arc, "rim": 2 * c.rim, "free_area": c.area - taken}

    consequences = propagate(figures, readings, {"free_area": "mm2"})
    arc, radius = consequences[1], consequences[0]
    verdicts = [
        Verdict(
            "measure.dome",
            "measure",
            grade(arc.error, SIZE_LIMIT_MM),
            arc.error,
            SIZE_LIMIT_MM,
            "mm",
            "Over the dome it is {arc} from rim to rim, sure to ± {value}; it is part of a ball of radius {radius}.",
            f"Take {spoken(arc.first)} again first.",
            {"arc": (arc.value, "mm"), "radius": (radius.value, "mm")},
            field=f"blank.{arc.first}.readings.0",
        )
    ]
    return Measured(
        body,
        readings,
        free,
        math.pi * body.rise**2 * (3 * body.radius - body.rise) / 3000,
        tuple(verdicts + _common_flat(blank, readings)),
        consequences,
    )


def _measure_rises(blank: RisePanelBlank) -> Measured:
    readings = read_blank(blank)
    body = surface_from(blank, readings)
    free = free_area_of_rises(body, blank.margin_mm, blank.zones)
    area, bends = area_rule(body, 16), bends_rule(body)
    taken = area(body.rises) - sum(p.area for p in free.parts)
    sign = 1.0 if blank.reads == "rise" else -1.0
    paths = [[f"rises.{j}.{i}" for i in range(len(body.x))] for j in range(len(body.y))]

    def figures(r: Readings) -> dict[str, float]:
        rises = sign * np.array([[r[p].mean for p in row] for row in paths])
        across, up = bends(rises)
        whole = area(rises)
        return {
            "bend_across": 1000 * across,
            "bend_up": 1000 * up,
            "area": whole,
            "free_area": whole - taken,
            "rise": float(np.ptp(rises)),
        }

    consequences = propagate(
        figures, readings, {"bend_across": "per m", "bend_up": "per m", "free_area": "mm2", "area": "mm2"}
    )
    across, up = consequences[0], consequences[1]
    twice = min(abs(across.value) / max(across.error, 1e-9), abs(up.value) / max(up.error, 1e-9))
    names = {"across": (across.value, "per m"), "up": (up.value, "per m"), "rise": (consequences[4].value, "mm")}
    out_of_line = [
        Verdict(
            "measure.bends",
            "measure",
            "ok",
            twice,
            2.0,
            "",
            "In its middle the panel bends {across} across and {up} upward, and it rises {rise} in all."
            + (
                " It is surely curved both ways."
                if twice > 2
                else " One of the two bends is no larger than what the readings leave unsure."
            ),
            figures=names,
        )
    ]
    return Measured(
        body,
        readings,
        free,
        None,
        tuple(out_of_line + _uneven_rises(body) + _common_flat(blank, readings) + _vehicle(blank)),
        consequences,
    )


def _uneven_rises(body: RiseSurface) -> list[Verdict]:
    """A rise that stands out from its neighbours: the four round it foretell it, on a fair surface, to a part of
    their bend."""
    z = body.rises
    out = []
    worst, at, limit = 0.0, (0, 0), 1.0
    for j in range(z.shape[0]):
        for i in range(z.shape[1]):
            told = []
            if 0 < i < z.shape[1] - 1:
                w = (body.x[i] - body.x[i - 1]) / (body.x[i + 1] - body.x[i - 1])
                told.append(z[j, i] - ((1 - w) * z[j, i - 1] + w * z[j, i + 1]))
            if 0 < j < z.shape[0] - 1:
                w = (body.y[j] - body.y[j - 1]) / (body.y[j + 1] - body.y[j - 1])
                told.append(z[j, i] - ((1 - w) * z[j - 1, i] + w * z[j + 1, i]))
            if len(told) == 2 and abs(min(told, key=abs)) > worst and told[0] * told[1] > 0:
                worst, at = abs(min(told, key=abs)), (j, i)
    inner = [
        abs(z[j, i] - (z[j, i - 1] + z[j, i + 1]) / 2) for j in range(z.shape[0]) for i in range(1, z.shape[1] - 1)
    ]
    limit = max(4 * float(np.median(inner)), 6 * float(np.median(body.errors)))
    if worst > limit:
        j, i = at
        out.append(
            Verdict(
                "measure.rise_apart",
                "measure",
                "look",
                worst,
                limit,
                "mm",
                f"The rise in row {j + 1}, column {i + 1} stands {{value}} off what the rises beside it foretell.",
                "Read it again.",
                field=f"blank.rises.{j}.{i}.0",
            )
        )
    return out


def _measure_mesh(blank: MeshBlank, given: Given) -> Measured:
    assert given.mesh is not None
    body = given.mesh
    readings = read_blank(blank)
    left, low, right, high = (
        body.front.bounds if not body.front.is_empty else (-body.width / 2, 0, body.width / 2, body.height)
    )
    free = FreeArea(left, right, low, high, region=body.front)
    verdicts = [
        Verdict(
            "measure.mesh",
            "measure",
            "ok",
            len(body.triangles),
            None,
            "count",
            "The mesh has {value} triangles and is {w} wide, {h} high and {d} deep.",
            figures={"w": (body.size[0], "mm"), "h": (body.size[1], "mm"), "d": (body.size[2], "mm")},
        )
    ]
    if body.shells > 1:
        verdicts.append(
            Verdict(
                "measure.mesh_shells",
                "measure",
                "look",
                body.shells,
                1,
                "count",
                "The mesh is in {value} parts that do not hang together.",
                "Keep the one to be wrapped, or join them where it was made.",
                field="blank.file",
            )
        )
    if blank.check is not None:
        read = readings["check"]
        own = body.height if blank.check.reads in ("height", "upright") else body.width
        apart, spread = abs(own - read.mean), max(3 * read.error, 0.01 * read.mean)
        level = grade(apart, spread, 4 * spread)
        fixes: dict[str, object] = {}
        remedy = "Measure again, or check the mesh's unit."
        mm = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
        for unit, scale in mm.items():
            if level != "ok" and abs(own / mm[blank.unit] * scale - read.mean) < 0.03 * read.mean:
                remedy, fixes = f"Its numbers look like {unit}.", {"blank.unit": unit}
        verdicts.append(
            Verdict(
                "measure.mesh_size",
                "measure",
                level,
                apart,
                spread,
                "mm",
                f"{'Height' if own == body.height else 'Width'}: {{mesh}} in the mesh, {{hand}} by hand, {{value}}"
                " apart (limit {limit}).",
                remedy,
                {"mesh": (own, "mm"), "hand": (read.mean, "mm")},
                field="blank.check.readings.0",
                fixes=fixes,
            )
        )
    sizes = tuple(
        Consequence(n, v, 0.0, u, ())
        for n, v, u in (
            ("width", body.width, "mm"),
            ("height", body.height, "mm"),
            ("depth", body.size[2], "mm"),
            ("area", body.area, "mm2"),
        )
    )
    return Measured(body, readings, free, body.volume_ml, tuple(verdicts + _vehicle(blank)), sizes)


def measure(blank: Blank, given: Given | None = None) -> Measured:
    """Read a blank: its body with spread, free areas, figures and verdicts. Raises BadReading for what no blank can
    be."""
    known = given or Given()
    if isinstance(blank, (CupBlank, StackBlank, RevolutionBlank)):
        return _measure_round(blank, known)
    if isinstance(blank, (PanelBlank, CurvedPanelBlank, InsertBlank)):
        return _measure_flat(blank, known)
    if isinstance(blank, DomeBlank):
        return _measure_dome(blank)
    if isinstance(blank, RisePanelBlank):
        return _measure_rises(blank)
    return _measure_mesh(blank, known)
