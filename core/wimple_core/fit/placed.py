"""The third stage: every drawing where it sits on the template, and whether it may sit there."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..artwork import Artwork, ColourRegion, Paint, separate
from ..errors import DoesNotFit
from ..job.blanks import Blank, RoundBlank
from ..job.document import Drawing, Placement, Way
from ..measure import Measured
from ..measure.zones import READABLE_HALF_ANGLE, FreeArea
from ..surface import Surface, Template
from ..surface.pieces import Pieces
from ..verdict import Verdict
from .ways import WAYS, WayFigures, figures_for, lay, longest_edge, suggest


@dataclass(frozen=True)
class Separated:
    """A drawing read and separated, with the figures placing it needs."""

    artwork: Artwork
    colours: tuple[ColourRegion, ...]
    roundness: float
    """Area-weighted 4 pi A / P^2 of its pieces: 1 for discs."""


def prepare(artwork: Artwork) -> Separated:
    """Separate a drawing into its colours and note how round its pieces are."""
    colours = separate(artwork.paints)
    pieces = np.concatenate([shapely.get_parts(c.painted) for c in colours])
    hulls = shapely.convex_hull(pieces)
    area, around = shapely.area(hulls), shapely.length(hulls)
    return Separated(artwork, colours, float(np.average(4 * math.pi * area / around**2, weights=area)))


@dataclass(frozen=True)
class PlacedDrawing:
    """One drawing on the surface.

    `colours` on the template, copies included; `outline` the box of its first copy, laid the same way, four edges of
    points (m, 2); `a_c`, `s_c` its middle in surface coordinates; `span_a`, `span_s` what it covers there.
    """

    file: str
    colours: tuple[ColourRegion, ...]
    outline: np.ndarray
    width: float
    height: float
    a_c: float
    s_c: float
    span_a: tuple[float, float]
    span_s: tuple[float, float]
    way: Way
    suggested: Way
    ways: tuple[WayFigures, ...]


@dataclass(frozen=True)
class Fit:
    """All drawings placed, and the regions of each colour on the template, the lowest colour first."""

    drawings: tuple[PlacedDrawing, ...]
    colours: tuple[ColourRegion, ...]
    verdicts: tuple[Verdict, ...]


def tolerance_for(natural_width: float, placed_width: float) -> float:
    """Tolerance in mm at which to read a drawing so that it is drawn to 0.01 mm where it is placed: a power of two,
    so that a drawing being sized by hand is not read anew each time."""
    wanted = 0.01 * natural_width / placed_width
    return float(2.0 ** math.floor(math.log2(min(max(wanted, 1e-7), 1.0))))


def _lay_region(
    region: BaseGeometry,
    matrix: np.ndarray,
    middle: np.ndarray,
    way: Way,
    surface: Surface,
    a_c: float,
    s_c: float,
    longest: float,
) -> BaseGeometry:
    flat = shapely.transform(region, lambda p: (p - middle) @ matrix.T)
    if math.isfinite(longest):
        flat = shapely.segmentize(flat, longest)
    return shapely.transform(flat, lambda p: np.column_stack(lay(p[:, 0], p[:, 1], way, surface, a_c, s_c)))


def _turned(region: BaseGeometry, surface: Surface, by: float) -> BaseGeometry:
    """The region moved round the surface by an angle."""

    def move(p: np.ndarray) -> np.ndarray:
        a, s = surface.wrap(p[:, 0], p[:, 1])
        return np.column_stack(surface.develop(a + by, s))

    return shapely.transform(region, move)


def _box_outline(half_w: float, half_h: float) -> np.ndarray:
    n = 24
    t = np.linspace(-1, 1, n, endpoint=False)
    one = np.ones(n)
    edges = [(t, -one), (one, t), (-t, one), (-one, -t)]
    return np.concatenate([np.column_stack([x * half_w, y * half_h]) for x, y in edges])


def place(drawing: Drawing, separated: Separated, surface: Surface) -> PlacedDrawing:
    """Lay one drawing on the surface where its placement says."""
    p: Placement = drawing.placement
    left, low, right, high = separated.artwork.bounds
    if right - left <= 0 or high - low <= 0:
        raise DoesNotFit(
            f"“{drawing.file}” has no width or no height.", field="drawings", hint="Draw something that covers an area."
        )
    scale = p.width_mm / (right - left)
    height = (high - low) * scale
    turn = math.radians(p.turn_deg)
    matrix = scale * np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    middle = np.array([(left + right) / 2, (low + high) / 2])
    a_c = math.radians(p.centre_deg) if surface.closed else p.across_mm
    s_c = p.up_mm
    # In pieces: laid on the one it stands on as if that went on, then cut along the joints.
    whole = surface
    if isinstance(whole, Pieces):
        surface = whole.locally(s_c)
    half_w = abs(math.cos(turn)) * p.width_mm / 2 + abs(math.sin(turn)) * height / 2
    half_h = abs(math.sin(turn)) * p.width_mm / 2 + abs(math.cos(turn)) * height / 2
    if surface.scale_at(s_c) <= 0:
        raise DoesNotFit(
            f"At {s_c:.1f} mm up the wall has come to a point.",
            field="drawings.0.placement.up_mm",
            hint="Place the drawing on the cup.",
        )
    suggested = suggest(surface, s_c, half_w, half_h, separated.roundness)
    way: Way = suggested if p.way == "suggested" else p.way
    longest = longest_edge(surface, s_c - half_h, s_c + half_h, way)
    colours = [
        ColourRegion(
            c.colour, *(_lay_region(g, matrix, middle, way, surface, a_c, s_c, longest) for g in (c.seen, c.painted))
        )
        for c in separated.colours
    ]
    if not all(shapely.is_valid(g) for c in colours for g in (c.seen, c.painted)):
        raise DoesNotFit(
            f"Laid on this wall, “{drawing.file}” runs over itself or into the point of the cone.",
            field="drawings.0.placement.width_mm",
            hint="Make it smaller, or place it nearer the wide end.",
        )
    box = _box_outline(p.width_mm / 2, height / 2) @ (matrix.T / scale)
    outline = np.column_stack(lay(box[:, 0], box[:, 1], way, surface, a_c, s_c))
    if isinstance(whole, Pieces):
        outline = np.column_stack(whole.develop(*surface.wrap(outline[:, 0], outline[:, 1])))
    points = np.concatenate([shapely.get_coordinates(c.seen) for c in colours])
    a, s = surface.wrap(points[:, 0], points[:, 1])
    if surface.closed and p.repeat > 1:
        steps = [2 * math.pi * i / p.repeat for i in range(p.repeat)]
        colours = [
            ColourRegion(
                c.colour,
                *(shapely.union_all([_turned(g, surface, by) for by in _centred(steps)]) for g in (c.seen, c.painted)),
            )
            for c in colours
        ]
    if isinstance(whole, Pieces):
        colours = [
            ColourRegion(c.colour, *(whole.lay_out(g, surface.wrap) for g in (c.seen, c.painted))) for c in colours
        ]
        colours = [c for c in colours if not c.seen.is_empty]
        if not colours:
            raise DoesNotFit(
                f"“{drawing.file}” lies wholly beside the pieces.",
                field="drawings.0.placement.up_mm",
                hint="Place it on the body.",
            )
    return PlacedDrawing(
        drawing.file,
        tuple(colours),
        outline,
        p.width_mm,
        height,
        a_c,
        s_c,
        (float(a.min()), float(a.max())),
        (float(s.min()), float(s.max())),
        way,
        suggested,
        tuple(figures_for(w, surface, s_c, half_w, half_h) for w in WAYS),
    )


def _centred(steps: list[float]) -> list[float]:
    return [b - 2 * math.pi if b > math.pi + 1e-9 else b for b in steps]


def _combine(placed: list[PlacedDrawing]) -> tuple[ColourRegion, ...]:
    if len(placed) == 1:
        return placed[0].colours
    paints = [Paint(c.seen, c.colour) for d in placed for c in d.colours]
    return separate(tuple(paints))


def _keep_out(i: int, d: PlacedDrawing, blank: Blank, free: FreeArea, surface: Surface) -> Verdict:
    below, above = free.low - d.span_s[0], d.span_s[1] - free.high
    out = max(below, above)
    round_out, shift = 0.0, 0.0
    if not free.all_round or not surface.closed:
        per = surface.scale_at(d.s_c)
        a0, a1 = d.span_a
        if surface.closed:
            turns = round((a0 + a1 - free.left - free.right) / (4 * math.pi)) * 2 * math.pi
            a0, a1 = a0 - turns, a1 - turns
        left_out, right_out = (free.left - a0) * per, (a1 - free.right) * per
        round_out = max(left_out, right_out)
        shift = left_out if left_out > right_out else -right_out
    field = f"drawings.{i}.placement"
    names = {"room": (free.high - free.low, "mm"), "tall": (d.span_s[1] - d.span_s[0], "mm")}
    if max(out, round_out) <= 0.05:
        least = min(d.span_s[0] - free.low, free.high - d.span_s[1])
        return Verdict(
            "artwork.keep_out",
            "artwork",
            "ok",
            max(0.0, least),
            0.0,
            "mm",
            "“" + _plain(d.file) + "” is clear of the keep-out zones by {value}.",
            figures=names,
        )
    if out >= round_out:
        tall = d.span_s[1] - d.span_s[0]
        where = "lip band" if above > below else "base band"
        if not isinstance(blank, RoundBlank):
            where = "margin"
        if tall > free.high - free.low:
            # As large as fits where it stands; where it stands outside, as large as fits at all.
            there = min((free.high - d.s_c) / (d.span_s[1] - d.s_c), (d.s_c - free.low) / (d.s_c - d.span_s[0]))
            share = there if there > 0.1 else (free.high - free.low) / tall
            return Verdict(
                "artwork.keep_out",
                "artwork",
                "stop",
                out,
                0.0,
                "mm",
                "“" + _plain(d.file) + f"” is {{tall}} tall, and {{room}} is free: it runs {{value}} into the {where}.",
                "Make it smaller.",
                names,
                field=f"{field}.width_mm",
                fix=math.floor(d.width * share * 0.96 * 10) / 10,
            )
        move = below if below > above else -above
        return Verdict(
            "artwork.keep_out",
            "artwork",
            "stop",
            out,
            0.0,
            "mm",
            "“" + _plain(d.file) + f"” runs {{value}} into the {where}.",
            "Move it clear.",
            names,
            field=f"{field}.up_mm",
            fix=round(d.s_c + move + math.copysign(0.1, move), 2),
        )
    if surface.closed:
        fix = math.degrees(d.a_c + shift / surface.scale_at(d.s_c))
        return Verdict(
            "artwork.keep_out",
            "artwork",
            "stop",
            round_out,
            0.0,
            "mm",
            "“" + _plain(d.file) + "” runs {value} into the handle.",
            "Move it clear, or make it smaller.",
            names,
            field=f"{field}.centre_deg",
            fix=round(fix + math.copysign(0.2, shift), 1),
        )
    return Verdict(
        "artwork.keep_out",
        "artwork",
        "stop",
        round_out,
        0.0,
        "mm",
        "“" + _plain(d.file) + "” runs {value} over the side of the panel.",
        "Move it, or make it smaller.",
        names,
        field=f"{field}.across_mm",
        fix=round(d.a_c + shift, 1),
    )


def _plain(text: str) -> str:
    """A file name inside a sentence that is filled in later: braces doubled."""
    return text.replace("{", "{{").replace("}", "}}")


def _zone_verdicts(i: int, d: PlacedDrawing, template: Template) -> list[Verdict]:
    """One verdict for each zone the maker drew that the drawing runs into, with the place; and one where it leaves a
    panel's outline."""
    out = []
    seen = [c.seen for c in d.colours]
    for zone in template.zones:
        hit = shapely.union_all(shapely.intersection(seen, zone.region))
        if hit.area > 0.05:
            at = shapely.point_on_surface(hit)
            out.append(
                Verdict(
                    "artwork.zone",
                    "artwork",
                    "stop",
                    hit.area,
                    0.0,
                    "mm2",
                    "“" + _plain(d.file) + f"” covers {{value}} of the {_plain(zone.name)}.",
                    "Move it clear, or make it smaller.",
                    field=f"drawings.{i}.placement.up_mm",
                    places=((float(at.x), float(at.y)),),
                )
            )
    if not template.surface.closed and not out:
        over = shapely.union_all(shapely.difference(seen, template.free))
        if over.area > 0.05:
            at = shapely.point_on_surface(over)
            out.append(
                Verdict(
                    "artwork.outline",
                    "artwork",
                    "stop",
                    over.area,
                    0.0,
                    "mm2",
                    "“" + _plain(d.file) + "” runs {value} over the free area of the panel.",
                    "Make it smaller, or move it in.",
                    field=f"drawings.{i}.placement.width_mm",
                    places=((float(at.x), float(at.y)),),
                )
            )
    return out


def _strain_verdicts(i: int, d: PlacedDrawing, template: Template) -> list[Verdict]:
    """What the film suffers under one drawing, where the surface is curved twice."""
    strain = template.strain
    if strain is None:
        return []
    middle = strain.flat[strain.triangles].mean(axis=1)
    cover = shapely.union_all([c.seen for c in d.colours])
    under = shapely.contains_xy(shapely.convex_hull(cover), middle[:, 0], middle[:, 1])
    if not under.any():
        under = np.zeros(len(middle), dtype=bool)
        under[int(np.argmin(((middle - np.array(cover.centroid.coords[0])) ** 2).sum(axis=1)))] = True
    severity = np.where(under, strain.severity, 0.0)
    worst = 100 * float(severity.max())
    at = middle[int(np.argmax(severity))]
    limit = 100 * strain.limit if strain.limit is not None else None
    place = ((float(at[0]), float(at[1])),)
    if limit is None or worst <= limit:
        return [
            Verdict(
                "artwork.strain",
                "artwork",
                "ok",
                worst,
                limit,
                "%",
                "Under “" + _plain(d.file) + "” the film changes length by {value} at most.",
                places=place,
            )
        ]
    # Strain grows with the square of the size (Gauss), so the safe size is known well enough to offer.
    fix = math.floor(d.width * math.sqrt(limit / worst) * 10) / 10
    return [
        Verdict(
            "artwork.strain",
            "artwork",
            "look" if worst < 2 * limit else "stop",
            worst,
            limit,
            "%",
            "Under “" + _plain(d.file) + "” the film changes length by {value}; it takes {limit}.",
            "Make it smaller, slit it, or take a film that gives.",
            field=f"drawings.{i}.placement.width_mm",
            fix=fix,
            places=place,
        )
    ]


def _round_verdicts(i: int, drawing: Drawing, d: PlacedDrawing, surface: Surface) -> list[Verdict]:
    """Verdicts on a closed surface: laps over itself, and what is read from the front."""
    per, span, repeat = surface.scale_at(d.s_c), d.span_a[1] - d.span_a[0], drawing.placement.repeat
    room = 2 * math.pi / repeat
    out, field = [], f"drawings.{i}.placement.width_mm"
    if span > room * (1 + 1e-9) and (span - room) * per > 0.05:
        what = "its own other end" if repeat == 1 else "its neighbours"
        out.append(
            Verdict(
                "artwork.laps_itself",
                "artwork",
                "stop",
                (span - room) * per,
                0.0,
                "mm",
                "“" + _plain(d.file) + f"” runs {{value}} over {what}.",
                "Make it smaller.",
                field=field,
                fix=math.floor(d.width * room / span * 0.93 * 10) / 10,
            )
        )
    readable = 2 * READABLE_HALF_ANGLE * per
    wide = span * per
    if span <= 2 * READABLE_HALF_ANGLE:
        out.append(
            Verdict(
                "artwork.readable", "artwork", "ok", wide, readable, "mm", "All {value} are readable from the front."
            )
        )
    else:
        band = span > math.pi
        out.append(
            Verdict(
                "artwork.readable",
                "artwork",
                "ok" if band else "look",
                wide,
                readable,
                "mm",
                "{limit} of {value} are readable from the front.",
                "Narrow it to {limit} if it is to be read at a glance.",
                field=field,
                fix=None if band else math.floor(d.width * readable / wide * 10) / 10,
            )
        )
    return out


def _way_verdict(i: int, d: PlacedDrawing) -> Verdict:
    f = next(w for w in d.ways if w.way == d.way)
    field = f"drawings.{i}.placement.way"
    if d.way == "flat":
        bad = f.sag > 0.5 and d.suggested != "flat"
        return Verdict(
            "artwork.sag",
            "artwork",
            "look" if bad else "ok",
            f.sag,
            0.5,
            "mm",
            "Laid flat: horizontals sag {value} at the ends." + (" (limit {limit})." if bad else ""),
            f"Lay it {d.suggested}.",
            field=field,
            fix=d.suggested,
        )
    if d.way == "even":
        return Verdict(
            "artwork.lean",
            "artwork",
            "look" if math.degrees(f.lean) > 5 else "ok",
            math.degrees(f.lean),
            5.0,
            "deg",
            "Laid even: verticals lean {value} at the ends.",
            f"Lay it {d.suggested}.",
            field=field,
            fix=d.suggested,
        )
    what = "width" if d.way == "level" else "size"
    return Verdict(
        f"artwork.{what}_change",
        "artwork",
        "look" if f.width_change_percent > 12 else "ok",
        f.width_change_percent,
        12.0,
        "%",
        f"Laid {d.way}: {what} changes by ± {{value}} between its middle and its edges, {{mm}} at most.",
        "Expected on a strong taper: look at it on the object.",
        {"mm": (f.width_change, "mm")},
        field=field,
    )


def _note_verdicts(i: int, separated: Separated) -> list[Verdict]:
    """One verdict for each kind of thing the drawing had that was not taken as it stood."""
    by_code: dict[str, list[str]] = {}
    reason: dict[str, str] = {}
    for note in separated.artwork.notes:
        by_code.setdefault(note.code, []).append(note.what)
        reason.setdefault(note.code, note.reason)
    out = []
    for code, things in by_code.items():
        more = f" and {len(things) - 2} more" if len(things) > 2 else ""
        said = f"{', '.join(things[:2])}{more}: {reason[code]}."
        out.append(
            Verdict(
                code,
                "artwork",
                "look",
                len(things),
                0,
                "count",
                _plain(said[0].upper() + said[1:]),
                field=f"drawings.{i}.file",
            )
        )
    return out


def fit(
    blank: Blank,
    drawings: tuple[Drawing, ...],
    separated: Mapping[str, Separated],
    measured: Measured,
    template: Template,
) -> Fit:
    """Place all drawings on the template. `separated` holds each by its file name."""
    surface = template.surface
    placed: list[PlacedDrawing] = []
    verdicts: list[Verdict] = []
    for i, drawing in enumerate(drawings):
        sep = separated[drawing.file]
        try:
            d = place(drawing, sep, surface)
        except DoesNotFit as bad:
            raise DoesNotFit(
                bad.message, field=bad.field.replace("drawings.0.", f"drawings.{i}."), hint=bad.hint
            ) from None
        placed.append(d)
        verdicts.append(_keep_out(i, d, blank, template.limits, surface))
        verdicts += _strain_verdicts(i, d, template)
        verdicts += _zone_verdicts(i, d, template)
        local = surface.locally(d.s_c) if isinstance(surface, Pieces) else surface
        if surface.closed:
            verdicts += _round_verdicts(i, drawing, d, surface)
            if local.k:
                verdicts.append(_way_verdict(i, d))
        verdicts += _note_verdicts(i, sep)
    return Fit(tuple(placed), _combine(placed) if placed else (), tuple(verdicts))
