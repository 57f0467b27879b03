"""A stack of developable sections laid flat: each exactly, and what a lap at a joint asks of the film."""

from __future__ import annotations

import math

import numpy as np
import shapely

from ..job.document import Wrap
from ..job.shipped import Film
from ..measure import Measured
from ..measure.body import Frustum, Stacked
from ..verdict import Verdict, grade
from . import pieces
from .laying import Laying
from .layout import developed, laid_open, whole_turn, zones_on
from .seam import NARROWEST_MM, checked_band, seam_verdicts
from .surface import RoundWall
from .template import Template

LAP_LIMIT_PERCENT = 2.0
"""Taken where the film states no limit."""

LAP_MM = 1.0
"""Offered where pieces meet edge to edge at a sharp turn."""


def unwrap_stack(body: Stacked, measured: Measured, laying: Laying) -> Template:
    """One exact template for each developable section, and the angle of each joint."""
    wrap, film, thick = laying.wrap, laying.film, laying.thickness
    free = laid_open(measured.free, wrap.seam_deg, body.length)
    left, right = whole_turn(wrap, free)
    walls: list[RoundWall] = []
    lower: list[float] = []
    joints = [free.low]
    turns: list[tuple[float, float]] = []
    verdicts: list[Verdict] = []
    # Where a piece would narrow to a point by the lap, none of them laps.
    may_lap = all(part.radius_at(-LAP_MM) > NARROWEST_MM for part in body.sections[1:])
    for i, part in enumerate(body.sections):
        s0, s1 = float(body.joints[i]), float(body.joints[i + 1])
        if s1 <= free.low + 1e-6 or s0 >= free.high - 1e-6:
            continue
        on = part.thickened(thick / 2)
        walls.append(pieces.wall_of(on.radius_lower, on.radius_upper, on.slant))
        lower.append(s0)
        joints.append(min(s1, free.high))
        if len(walls) > 1:
            turn = math.asin(part.k) - math.asin(body.sections[i - 1].k)
            turns.append((s0, turn))
            verdicts += _joint_verdicts(wrap, film, s0, turn, body.sections[i - 1].thickened(thick / 2), on, may_lap)
    surface = pieces.sections(np.array(joints), tuple(walls), tuple(lower), left, right, wrap.joint_overlap_mm)
    laid = []
    for piece, wall, z in zip(surface.pieces, walls, lower, strict=True):
        _, s0, _, s1 = piece.region.bounds
        outline = checked_band(wall, left, right, s0 - z, s1 - z, wrap)
        laid.append(shapely.transform(outline, lambda p, q=piece: p + q.shift))  # type: ignore[misc]
    return Template(
        surface=surface,
        outline=shapely.MultiPolygon(laid),
        free=developed(surface, free.region),
        zones=zones_on(surface, free),
        left=left,
        right=right,
        low=free.low,
        high=free.high,
        verdicts=tuple(verdicts + seam_verdicts(wrap, measured)),
        limits=free,
        joints=tuple(turns),
        film_thickness=thick,
    )


def lap_strain(lap: float, below: Frustum, above: Frustum) -> float:
    """What the film of a lap suffers, as a share: cut as its own section's wall goes on, `lap` mm below the joint, and
    laid on the wall of the section below (negative: it is too long there)."""
    return below.radius_at(below.slant - lap) / max(above.radius_at(-lap), 1e-6) - 1


def _joint_verdicts(
    wrap: Wrap, film: Film, height: float, turn: float, below: Frustum, above: Frustum, may_lap: bool
) -> list[Verdict]:
    lap = wrap.joint_overlap_mm
    out = []
    if lap == 0:
        out.append(
            Verdict(
                "unwrap.joint",
                "unwrap",
                "look" if abs(turn) > math.radians(25) else "ok",
                abs(math.degrees(turn)),
                25.0,
                "deg",
                "At {height} the wall turns by {value}: the pieces meet there edge to edge.",
                "Keep the artwork off that joint, or let the pieces lap.",
                {"height": (height, "mm")},
                field="wrap.joint_overlap_mm",
                fix=LAP_MM if may_lap else None,
            )
        )
        return out
    strain = lap_strain(lap, below, above)
    takes = LAP_LIMIT_PERCENT if film.takes_strain_percent is None else film.takes_strain_percent
    longer = 2 * math.pi * (above.radius_at(-lap) - below.radius_at(below.slant - lap))
    # Both radii change evenly with the lap, so the widest one the film takes is known.
    share, turn_k = takes / 100, abs(above.k - below.k)
    safe = math.floor(10 * share * above.radius_lower / max(turn_k + share * above.k, 1e-9)) / 10
    return [
        Verdict(
            "unwrap.joint_lap",
            "unwrap",
            grade(100 * abs(strain), takes, 3 * takes),
            100 * abs(strain),
            takes,
            "%",
            (
                "At {height} the wall turns by {turn}. The {lap} lap lies on the section below, where its edge is"
                f" {{longer}} too {'long' if longer > 0 else 'short'}: the film must"
                f" {'shorten' if longer > 0 else 'stretch'} {{value}} there."
            ),
            "Let the pieces lap by {safe} at most, or notch the lap."
            if safe >= 0.2
            else "Notch the lap, or butt them.",
            {
                "height": (height, "mm"),
                "turn": (abs(math.degrees(turn)), "deg"),
                "lap": (lap, "mm"),
                "longer": (abs(longer), "mm"),
                "safe": (safe, "mm"),
            },
            field="wrap.joint_overlap_mm",
            fix=safe if 0.2 <= safe < lap else 0.0,
        )
    ]
