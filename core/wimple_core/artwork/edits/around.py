"""What is made round pieces: outlines, shadows, backgrounds, and the bridges of a stencil."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ...job.edits import Background, Bridges, Outline, Shadow
from ...overlay import difference, together, union
from ..artwork import Paint
from .stack import Piece, Stack, region_of

Corners = Literal["round", "mitred", "blunt"]
JOINS = {"round": "round", "mitred": "mitre", "blunt": "bevel"}
MITRE = 4.0
"""How many times the offset a mitred corner may reach before it is cut off."""


def segments_for(radius: float, tolerance: float) -> int:
    """Chords to a quarter circle so that none leaves it by more than the tolerance: `r (1 - cos(a / 2)) <= t`."""
    if radius <= tolerance:
        return 1
    return min(max(math.ceil(math.pi / 4 / math.acos(1 - tolerance / radius)), 2), 180)


def offset(region: BaseGeometry, by: float, tolerance: float, corners: Corners = "round") -> BaseGeometry:
    """The region grown by `by` mm, or shrunk where that is below zero.

    Half of the tolerance goes into the chords of its arcs, half into leaving out corners that make none: without that a
    rim round a rim round a rim would have twice as many each time.
    """
    quads = segments_for(abs(by), tolerance / 2)
    parts = shapely.get_parts(region)
    grown = shapely.buffer(parts, by, quad_segs=quads, join_style=JOINS[corners], mitre_limit=MITRE)
    thinned = list(shapely.simplify(grown, tolerance / 2))
    return union(thinned) if by > 0 else together(thinned)


def filled(region: BaseGeometry) -> BaseGeometry:
    """The region with its holes filled."""
    parts = shapely.get_parts(region)
    return union([shapely.Polygon(ring) for ring in shapely.get_exterior_ring(parts)])


def _chosen(stack: Stack, pieces: Sequence[Piece]) -> BaseGeometry:
    return union([p.region for p in pieces])


def _name(stack: Stack, kind: str) -> str:
    """The first name of that kind that no paint has."""
    taken = {p.name for p in stack.paints}
    return next(n for n in (kind, *(f"{kind}{i}" for i in range(2, len(taken) + 3))) if n not in taken)


def _laid(stack: Stack, region: BaseGeometry, colour: str, kind: str, under: bool) -> Stack:
    """The drawing with another shape beneath it all, or upon it."""
    name = _name(stack, kind)
    paint = Paint(region, colour, name)
    paints = (paint, *stack.paints) if under else (*stack.paints, paint)
    theirs = list(stack.pieces.values())
    if under:
        shown = difference(region, union([p.region for p in stack.paints]))
        return stack.seen_anew(paints, [*theirs, *(Piece(name, colour, g) for g in shapely.get_parts(shown))])
    mine = [Piece(name, colour, g) for g in shapely.get_parts(region)]
    return stack.seen_anew(paints, [*mine, *(replace(p, region=difference(p.region, region)) for p in theirs)])


def outline(stack: Stack, edit: Outline, pieces: Sequence[Piece], scale: float) -> Stack:
    """A rim outward lies beneath them, one inward upon them: their colour stands round it."""
    rim = offset(_chosen(stack, pieces), edit.by_mm / scale, stack.tolerance, edit.corners)
    return _laid(stack, filled(rim) if edit.filled else rim, edit.colour, "outline", edit.by_mm >= 0)


def swept(region: BaseGeometry, by: np.ndarray) -> BaseGeometry:
    """All that a region covers while it is moved by (2,): itself, the end, and what its edges pass over."""
    edges = []
    for ring in shapely.get_rings(shapely.get_parts(region)):
        p = shapely.get_coordinates(ring)
        edges.append(np.stack([p[:-1], p[1:], p[1:] + by, p[:-1] + by, p[:-1]], axis=1))
    quads = shapely.polygons(np.concatenate(edges))
    wide = quads[shapely.area(quads) > 0]
    return union([region, shapely.transform(region, lambda c: c + by), *shapely.orient_polygons(wide)])


def shadow(stack: Stack, edit: Shadow, pieces: Sequence[Piece], scale: float) -> Stack:
    """Beneath them all."""
    by = np.array([edit.across_mm, edit.up_mm]) / scale
    region = _chosen(stack, pieces)
    made = swept(region, by) if edit.swept else shapely.transform(region, lambda c: c + by)
    return _laid(stack, made, edit.colour, "shadow", True)


def background(stack: Stack, edit: Background, pieces: Sequence[Piece], scale: float) -> Stack:
    """Beneath them all: grown and shrunk again, their hull, or their box, and a margin round it."""
    region, margin = _chosen(stack, pieces), edit.margin_mm / scale
    if edit.shape == "close":
        reach = edit.reach_mm / scale
        made = offset(filled(offset(region, reach + margin, stack.tolerance)), -reach, stack.tolerance)
    else:
        whole = region.convex_hull if edit.shape == "hull" else shapely.box(*region.bounds)
        made = offset(whole, margin, stack.tolerance) if margin else whole
    return _laid(stack, made, edit.colour, "background", True)


def _strips(piece: BaseGeometry, width: float, across: float, turn: float) -> list[BaseGeometry]:
    """For each hole of a piece two strips, upward and downward (turned by `turn`) to what lies beyond the piece."""
    out = []
    up = np.array([-math.sin(turn), math.cos(turn)])
    side = np.array([math.cos(turn), math.sin(turn)])
    far = float(np.hypot(*np.subtract(piece.bounds[2:], piece.bounds[:2])))
    for ring in (r for part in shapely.get_parts(piece) for r in part.interiors):
        hole = shapely.Polygon(ring)
        inside = hole.centroid if hole.contains(hole.centroid) else hole.representative_point()
        middle = np.array(inside.coords[0]) + across * side
        for way in (up, -up):
            line = shapely.intersection(shapely.LineString([middle, middle + far * way]), piece)
            spans = [np.sort((shapely.get_coordinates(g) - middle) @ way) for g in shapely.get_parts(line)]
            spans = [s for s in spans if len(s) > 1 and s[-1] > s[0]]
            if not spans:
                continue
            start, end = min((float(s[0]), float(s[-1])) for s in spans)
            # A little beyond both edges, which may run aslant across the strip.
            a, b = middle + (start - width) * way, middle + (end + width) * way
            half = side * width / 2
            strip = shapely.Polygon([a - half, b - half, b + half, a + half])
            out.append(strip)
    return out


def bridges(stack: Stack, edit: Bridges, pieces: Sequence[Piece], scale: float) -> Stack:
    """Taken out of the pieces, so that what lies within their holes is held."""
    width, across, turn = edit.width_mm / scale, edit.across_mm / scale, math.radians(edit.turn_deg)
    left, lifts = stack.lift(pieces)
    strips = [together(_strips(region_of(lifts, n), width, across, turn)) for n in range(len(pieces))]
    laid = [(x.level, replace(stack.paints[x.level], region=difference(x.region, strips[x.piece]))) for x in lifts]
    names = {p.name for p in pieces}
    cut = [replace(p, region=difference(p.region, strips[n])) for n, p in enumerate(pieces)]
    others = [p for p in stack.pieces.values() if p.name not in names]
    return stack.seen_anew(left.with_paints(laid), [*others, *cut])
