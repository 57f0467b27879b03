"""Whether a placed drawing may lie where it does, and what that costs."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ..job.blanks import Blank, RoundBlank
from ..job.document import Drawing
from ..measure.zones import READABLE_HALF_ANGLE
from ..overlay import EMPTY, difference, intersection, together
from ..surface import Surface, Template
from ..surface.pieces import Pieces
from ..verdict import Verdict
from .place import PlacedDrawing, Separated, on_turn


def drawing_verdicts(
    i: int, drawing: Drawing, d: PlacedDrawing, separated: Separated, blank: Blank, template: Template
) -> list[Verdict]:
    """All verdicts on one placed drawing."""
    surface = template.surface
    if not d.colours:
        return [_beside(i, d, template), *_note_verdicts(i, separated)]
    out = [_keep_out(i, d, blank, template)]
    out += _strain_verdicts(i, d, template)
    out += _zone_verdicts(i, d, template)
    if surface.closed:
        out += _round_verdicts(i, drawing, d, surface)
        out += _seam_verdicts(i, drawing, d, math.degrees(template.right))
        if d.tapered:
            out.append(_way_verdict(i, d))
    elif drawing.placement.repeat > 1:
        out.append(
            Verdict(
                "artwork.copies",
                "artwork",
                "look",
                drawing.placement.repeat,
                1,
                "count",
                f"“{_plain(d.file)}” asks for {{value}} copies round it, but only what goes round has room for them:"
                " one is laid.",
                "Set its copies to one, and add the drawing again where it is wanted.",
                field=f"drawings.{i}.placement.repeat",
                fix=1,
            )
        )
    return out + _note_verdicts(i, separated)


def _beside(i: int, d: PlacedDrawing, template: Template) -> Verdict:
    """A drawing of which nothing lies on the pieces the surface is cut into."""
    low, high = template.limits.low, template.limits.high
    tall = d.span_s[1] - d.span_s[0]
    away = max(low - d.span_s[1], d.span_s[0] - high, 0.0)
    up = low + min(tall, high - low) / 2 if d.s_c < low else high - min(tall, high - low) / 2
    return Verdict(
        "artwork.beside",
        "artwork",
        "stop",
        away,
        0.0,
        "mm",
        f"“{_plain(d.file)}” lies {{value}} beside the pieces: nothing of it would be cut.",
        "Place it on the body.",
        field=f"drawings.{i}.placement.up_mm",
        fix=round(up, 1),
    )


def _to_zones(d: PlacedDrawing, template: Template) -> float:
    """How far the nearest zone the maker drew is, mm along the template, round the seam too."""
    cover, surface = together(c.seen for c in d.colours), template.surface
    turns = (0.0, 2 * math.pi, -2 * math.pi) if surface.closed and not isinstance(surface, Pieces) else (0.0,)
    away = [
        cover.distance(shapely.transform(z.region, lambda p, t=t: surface.turned(p, t)) if t else z.region)  # type: ignore[misc]
        for z in template.zones
        for t in turns
    ]
    return min(away, default=math.inf)


def _share_that_fits(centre: float, span: tuple[float, float], low: float, high: float) -> float | None:
    """By how much what spans that, about its centre, must shrink to lie between `low` and `high`; None where there is
    room for it as large as it is. As large as fits where it stands; where it stands outside, as large as fits at all.
    """
    if span[1] - span[0] <= high - low:
        return None
    there = min((high - centre) / (span[1] - centre), (centre - low) / (centre - span[0]))
    return there if there > 0.1 else (high - low) / (span[1] - span[0])


def _keep_out(i: int, d: PlacedDrawing, blank: Blank, template: Template) -> Verdict:
    free, surface = template.limits, template.surface
    below, above = free.low - d.span_s[0], d.span_s[1] - free.high
    out = max(below, above)
    round_out, shift, across = -math.inf, 0.0, None
    if not free.all_round or not surface.closed:
        per = surface.scale_at(d.s_c)
        a0, a1 = d.span_a
        if surface.closed:
            middle = (free.left + free.right) / 2
            turns = on_turn((a0 + a1) / 2, middle) - (a0 + a1) / 2
            a0, a1 = a0 + turns, a1 + turns
        across = _share_that_fits((a0 + a1) / 2, (a0, a1), free.left, free.right)
        left_out, right_out = (free.left - a0) * per, (a1 - free.right) * per
        round_out = max(left_out, right_out)
        shift = left_out if left_out > right_out else -right_out
    field = f"drawings.{i}.placement"
    names = {"room": (free.high - free.low, "mm"), "tall": (d.span_s[1] - d.span_s[0], "mm")}
    if max(out, round_out) <= 0.05:
        least = min(-out, -round_out, _to_zones(d, template))
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
        where = "lip band" if above > below else "base band"
        if not isinstance(blank, RoundBlank):
            where = "margin"
        share, by = _share_that_fits(d.s_c, d.span_s, free.low, free.high), out
        tall = "is {tall} tall, and {room} is free: it " if share is not None else ""
        runs = f"{tall}runs {{value}} into the {where}."
        move = below if below > above else -above
        mends, there, remedy = "up_mm", round(d.s_c + move + math.copysign(0.1, move), 2), "Move it clear."
    elif surface.closed:
        share, by, runs = across, round_out, "runs {value} into the handle."
        there = round(math.degrees(d.a_c + shift / surface.scale_at(d.s_c)) + math.copysign(0.2, shift), 1)
        mends, remedy = "centre_deg", "Move it, or make it smaller."
    else:
        share, by, runs = across, round_out, "runs {value} over the side of the panel."
        there = round(d.a_c + shift + math.copysign(0.1, shift), 2)
        mends, remedy = "across_mm", "Move it, or make it smaller."
    if share is not None:
        mends, there, remedy = "width_mm", math.floor(d.width * share * 0.96 * 10) / 10, "Make it smaller."
    return Verdict(
        "artwork.keep_out",
        "artwork",
        "stop",
        by,
        0.0,
        "mm",
        f"“{_plain(d.file)}” {runs}",
        remedy,
        names,
        field=f"{field}.{mends}",
        fix=there,
    )


def _plain(text: str) -> str:
    """A file name inside a sentence that is filled in later: braces doubled."""
    return text.replace("{", "{{").replace("}", "}}")


def _inside(region: BaseGeometry) -> tuple[float, float]:
    at = shapely.point_on_surface(region)
    return float(at.x), float(at.y)


def _near(parts: np.ndarray, region: BaseGeometry) -> BaseGeometry:
    """Those parts that may touch a region."""
    return together(parts[shapely.STRtree(parts).query(region)]) if len(parts) else EMPTY


def _zone_verdicts(i: int, d: PlacedDrawing, template: Template) -> list[Verdict]:
    """One verdict for each zone the maker drew that the drawing runs into, with the place; and one where it leaves a
    panel's outline."""
    out = []
    parts = shapely.get_parts(np.array([c.seen for c in d.colours], dtype=object))
    for zone in template.zones:
        hit = together(intersection(c, zone.region) for c in shapely.get_parts(_near(parts, zone.region)))
        if hit.area > 0.05:
            out.append(
                Verdict(
                    "artwork.zone",
                    "artwork",
                    "stop",
                    hit.area,
                    0.0,
                    "mm2",
                    f"“{_plain(d.file)}” covers {{value}} of the {_plain(zone.name)}.",
                    "Move it clear, or make it smaller.",
                    field=f"drawings.{i}.placement.up_mm",
                    places=(_inside(hit),),
                )
            )
    if not template.surface.closed and not out:
        shapely.prepare(template.free)
        beyond = parts[~shapely.covers(template.free, parts)]
        over = together(difference(p, template.free) for p in beyond)
        if over.area > 0.05:
            out.append(
                Verdict(
                    "artwork.outline",
                    "artwork",
                    "stop",
                    over.area,
                    0.0,
                    "mm2",
                    f"“{_plain(d.file)}” runs {{value}} over the free area of the panel.",
                    "Make it smaller, or move it in.",
                    field=f"drawings.{i}.placement.width_mm",
                    places=(_inside(over),),
                )
            )
    return out


LEAST_SHARE = 0.05
"""A drawing is not asked to shrink to less than that for its film's sake: it had better go elsewhere."""


def _share_clear_of(cover: BaseGeometry, points: NDArray[np.float64]) -> float | None:
    """How small a drawing must become, about its middle, to leave those points (n, 2) out; None where it cannot."""
    hull = shapely.convex_hull(cover)
    x0, y0, x1, y1 = cover.bounds
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    for share in np.geomspace(0.96, LEAST_SHARE, 60):
        # Under a drawing so much smaller lies what, so much further out, would lie under it as it is.
        if not shapely.contains_xy(hull, *(middle + (points - middle) / share).T).any():
            return 0.97 * float(share)
    return None


def _strain_verdicts(i: int, d: PlacedDrawing, template: Template) -> list[Verdict]:
    """What the film suffers under one drawing, where the surface is curved twice."""
    strain = template.strain
    if strain is None:
        return []
    middle = strain.flat[strain.triangles].mean(axis=1)
    cover = together(c.seen for c in d.colours)
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
    too_much = middle[under & (100 * strain.severity > limit)]
    share = _share_clear_of(cover, too_much)
    return [
        Verdict(
            "artwork.strain",
            "artwork",
            "look" if worst < 2 * limit else "stop",
            worst,
            limit,
            "%",
            "Under “" + _plain(d.file) + "” the film changes length by {value}; it takes {limit}.",
            "Make it smaller, slit it, or take a film that gives."
            if share
            else "Move it where the film stays calmer, slit it, or take a film that gives.",
            field=f"drawings.{i}.placement.width_mm" if share else f"drawings.{i}.placement.up_mm",
            fix=math.floor(d.width * share * 10) / 10 if share else None,
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
                "artwork.readable",
                "artwork",
                "ok",
                wide,
                readable,
                "mm",
                f"All {{value}} of “{_plain(d.file)}” are readable from the front.",
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
                f"Of the {{value}} of “{_plain(d.file)}” {{limit}} are readable from the front.",
                "Narrow it to {limit} if it is to be read at a glance.",
                field=field,
                fix=None if band else math.floor(d.width * readable / wide * 10) / 10,
            )
        )
    return out


def _seam_verdicts(i: int, drawing: Drawing, d: PlacedDrawing, seam: float) -> list[Verdict]:
    """What the seam (deg) parts, and the nearest place to move it to where it parts nothing of this drawing."""
    if not d.parted:
        return []
    name, repeat = _plain(d.file), drawing.placement.repeat
    span = d.span_a[1] - d.span_a[0]
    room = 2 * math.pi / repeat - span
    what = f"“{name}” lies" if repeat == 1 else f"A copy of “{name}” lies"
    if room <= 1e-6:
        return [
            Verdict(
                "artwork.seam",
                "artwork",
                "ok",
                len(d.parted),
                None,
                "count",
                f"“{name}” goes all round: the seam parts it, and both ends meet there.",
                field="wrap.seam_deg",
            )
        ]
    # Halfway between this drawing and its neighbour on the turn: nearest to where the seam is now.
    edges = [math.degrees(d.span_a[1] + room / 2 + 2 * math.pi * n / repeat) for n in range(repeat)]
    turned = [(e + 180) % 360 - 180 for e in edges]
    best = min(turned, key=lambda e: abs((e - seam + 180) % 360 - 180))
    return [
        Verdict(
            "artwork.seam",
            "artwork",
            "look",
            len(d.parted),
            0,
            "count",
            f"{what} over the seam, and is parted there.",
            "Move the seam to {to}, where nothing of it lies.",
            {"to": (best % 360, "deg")},
            field="wrap.seam_deg",
            fix=round(best % 360, 1),
        )
    ]


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
            f"“{_plain(d.file)}” is laid flat: its horizontals sag {{value}} at the ends"
            + (" (limit {limit})." if bad else "."),
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
            f"“{_plain(d.file)}” is laid even: its verticals lean {{value}} at the ends.",
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
        f"“{_plain(d.file)}” is laid {d.way}: its {what} changes by ± {{value}} between its middle and its edges,"
        " {mm} at most.",
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
