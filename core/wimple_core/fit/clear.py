"""Is a placed drawing clear of what must stay bare: bands, handle, edges, zones?"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..job.blank import BlankBase
from ..job.document import Placement
from ..overlay import commons, differences, together
from ..surface import Template
from ..surface.pieces import Pieces
from ..verdict import Verdict, plain
from .place import PlacedDrawing
from .turns import on_turn

CLOSE_MM = 0.05
SPARE_MM = 0.1
"""What is moved clear is so clear."""
OVER_JOINT_MM = 0.1
"""Less over a joint is no more than a cut of the blade."""


def beside(d: PlacedDrawing, template: Template) -> Verdict:
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
        f"“{plain(d.name)}” lies {{value}} beside the pieces: nothing of it would be cut.",
        "Place it on the body.",
        field=f"{d.at}.up_mm",
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


@dataclass(frozen=True)
class _Beyond:
    """By how much something reaches beyond what is free on each side, mm (less than nothing: so much is left), and what
    would bring it in: by how much it would have to be moved (up in mm, round in the surface's own), or to what share
    of its size to be shrunk."""

    below: float
    above: float
    left: float = -math.inf
    right: float = -math.inf
    per: float = 1.0
    tall_share: float | None = None
    wide_share: float | None = None

    @property
    def upright(self) -> float:
        return max(self.below, self.above)

    @property
    def sideways(self) -> float:
        return max(self.left, self.right)

    @property
    def up(self) -> float:
        """How far up it has to go, mm, with a little to spare."""
        by = self.below if self.below > self.above else -self.above
        return by + math.copysign(SPARE_MM, by) if self.upright > CLOSE_MM else 0.0

    @property
    def across(self) -> float:
        """How far to the right, in the surface's own, with a little to spare."""
        by = self.left if self.left > self.right else -self.right
        return (by + math.copysign(SPARE_MM, by)) / self.per if self.sideways > CLOSE_MM else 0.0


def _beyond(placement: Placement, d: PlacedDrawing, template: Template) -> _Beyond:
    """All copies of a drawing against what is free."""
    free, surface = template.limits, template.surface
    found = _Beyond(
        free.low - d.span_s[0],
        d.span_s[1] - free.high,
        tall_share=_share_that_fits(d.s_c, d.span_s, free.low, free.high),
    )
    if free.all_round and surface.closed:
        return found
    per = surface.scale_at(d.s_c)
    copies = placement.repeat if surface.closed else 1
    worst = found
    for n in range(copies):
        a0, a1 = (a + 2 * math.pi * n / copies for a in d.span_a)
        if surface.closed:
            turns = on_turn((a0 + a1) / 2, (free.left + free.right) / 2) - (a0 + a1) / 2
            a0, a1 = a0 + turns, a1 + turns
        share = _share_that_fits((a0 + a1) / 2, (a0, a1), free.left, free.right)
        one = replace(found, left=(free.left - a0) * per, right=(a1 - free.right) * per, per=per, wide_share=share)
        if n == 0 or one.sideways > worst.sideways:
            worst = one
    return worst


def keep_out(placement: Placement, d: PlacedDrawing, blank: BlankBase, template: Template) -> Verdict:
    """Is a drawing, in all its copies, clear of what is kept free on every side? Where not, what brings it in on all
    sides at once."""
    free, surface = template.limits, template.surface
    found = _beyond(placement, d, template)
    names = {"room": (free.high - free.low, "mm"), "tall": (d.span_s[1] - d.span_s[0], "mm")}
    if max(found.upright, found.sideways) <= CLOSE_MM:
        least = min(-found.upright, -found.sideways, _to_zones(d, template))
        return Verdict(
            "artwork.keep_out",
            "artwork",
            "ok",
            max(0.0, least),
            0.0,
            "mm",
            "“" + plain(d.name) + "” is clear of the keep-out zones by {value}.",
            figures=names,
        )
    upright = found.upright >= found.sideways
    if upright:
        over = found.above > found.below
        where = "into the lip band" if over else "into the base band"
        if not blank.drinkware:
            margin = template.high - free.high if over else free.low - template.low
            where = "into the margin" if margin > CLOSE_MM else "over the edge"
        tall = "is {tall} tall, and {room} is free: it " if found.tall_share is not None else ""
        runs = f"{tall}runs {{value}} {where}."
    else:
        runs = "runs {value} into the handle." if surface.closed else "runs {value} over the side of the panel."
    one_of = "A copy of " if surface.closed and placement.repeat > 1 and not upright else ""
    fixes: dict[str, float] = {}
    shares = [s for s in (found.tall_share, found.wide_share) if s is not None]
    if shares:
        fixes["width_mm"] = math.floor(d.width * min(shares) * 0.96 * 10) / 10
    if found.up and found.tall_share is None:
        fixes["up_mm"] = round(d.s_c + found.up, 2)
    if found.across and found.wide_share is None:
        if surface.closed:
            fixes["centre_deg"] = round(math.degrees(d.a_c + found.across) + math.copysign(0.05, found.across), 1)
        else:
            fixes["across_mm"] = round(d.a_c + found.across, 2)
    order = (
        ["width_mm", "up_mm", "centre_deg", "across_mm"]
        if upright
        else ["width_mm", "centre_deg", "across_mm", "up_mm"]
    )
    first = next(name for name in order if name in fixes)
    remedy = "Make it smaller." if shares else "Move it clear." if upright else "Move it, or make it smaller."
    return Verdict(
        "artwork.keep_out",
        "artwork",
        "stop",
        max(found.upright, found.sideways),
        0.0,
        "mm",
        f"{one_of}“{plain(d.name)}” {runs}",
        remedy,
        names,
        field=f"{d.at}.{first}",
        fix=fixes.pop(first),
        fixes={f"{d.at}.{name}": value for name, value in fixes.items()},
    )


def _inside(region: BaseGeometry) -> tuple[float, float]:
    at = shapely.point_on_surface(region)
    return float(at.x), float(at.y)


def _near(parts: np.ndarray, region: BaseGeometry) -> np.ndarray:
    """Those parts that may touch a region."""
    near: np.ndarray = parts[shapely.STRtree(parts).query(region)] if len(parts) else parts
    return near


def zone_verdicts(d: PlacedDrawing, template: Template) -> list[Verdict]:
    """One verdict for each zone the maker drew that the drawing runs into, with the place; and one where it leaves a
    panel's outline."""
    out = []
    parts = shapely.get_parts(np.array([c.seen for c in d.colours], dtype=object))
    for zone in template.zones:
        near = _near(parts, zone.region)
        hit = together(commons(near, np.full(len(near), zone.region)))
        if hit.area > 0.05:
            out.append(
                Verdict(
                    "artwork.zone",
                    "artwork",
                    "stop",
                    hit.area,
                    0.0,
                    "mm2",
                    f"“{plain(d.name)}” covers {{value}} of the {plain(zone.name)}.",
                    "Move it clear, or make it smaller.",
                    field=f"{d.at}.up_mm",
                    places=(_inside(hit),),
                )
            )
    if not template.surface.closed and not out:
        beyond = parts[~shapely.covers(prepared(template.free), parts)]
        over = together(differences(beyond, np.full(len(beyond), template.free)))
        if over.area > 0.05:
            out.append(
                Verdict(
                    "artwork.outline",
                    "artwork",
                    "stop",
                    over.area,
                    0.0,
                    "mm2",
                    f"“{plain(d.name)}” runs {{value}} over the free area of the panel.",
                    "Make it smaller, or move it in.",
                    field=f"{d.at}.width_mm",
                    places=(_inside(over),),
                )
            )
    return out


def joint_verdicts(d: PlacedDrawing, template: Template) -> list[Verdict]:
    """One verdict for each joint between sections that the drawing lies over: there it is cut in two."""
    out = []
    low, high = d.span_s
    edges = [template.limits.low, *(at for at, _ in template.joints), template.limits.high]
    for n, (at, turn) in enumerate(template.joints, start=1):
        over = min(at - low, high - at)
        if over <= OVER_JOINT_MM:
            continue
        # The nearer of the two sections that has room for it whole.
        rooms = [(a, b) for a, b in ((edges[n - 1], at), (at, edges[n + 1])) if b - a >= high - low]
        places = [d.s_c + (b - high if b == at else a - low) for a, b in rooms]
        fix = min(places, key=lambda s: abs(s - d.s_c), default=None)
        out.append(
            Verdict(
                "artwork.joint",
                "artwork",
                "look",
                over,
                0.0,
                "mm",
                f"“{plain(d.name)}” reaches {{value}} over the joint at {{at}}, where the wall turns by {{turn}}: it is"
                " cut in two there, and the parts must be laid edge to edge.",
                "Place it on one section." if fix is not None else "Make it smaller, or place it on one section.",
                {"at": (at, "mm"), "turn": (abs(math.degrees(turn)), "deg")},
                field=f"{d.at}.up_mm",
                fix=None if fix is None else round(fix, 2),
            )
        )
    return out
