"""Pieces left out, given another colour, joined, cut out of one another, kept where they overlap, divided."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ...job.edits import Common, CutOut, Divide, Give, Join, LeaveOut
from ...overlay import difference, intersection, union
from ..artwork import Paint
from .around import offset
from .stack import Piece, Stack, region_of


def _others(stack: Stack, pieces: Sequence[Piece]) -> list[Piece]:
    names = {p.name for p in pieces}
    return [p for p in stack.pieces.values() if p.name not in names]


def leave_out(stack: Stack, edit: LeaveOut, pieces: Sequence[Piece], scale: float) -> Stack:
    """What lies beneath them is seen."""
    left, _ = stack.lift(pieces)
    return stack.seen_anew(left.with_paints([]), _others(stack, pieces))


def give(stack: Stack, edit: Give, pieces: Sequence[Piece], scale: float) -> Stack:
    """They stay where they lie in the stack, with what of them lies hidden."""
    left, lifts = stack.lift(pieces)
    laid = [(x.level, Paint(x.region, edit.colour, stack.paints[x.level].name)) for x in lifts]
    names = {p.name for p in pieces}
    expected = [replace(p, colour=edit.colour) if p.name in names else p for p in stack.pieces.values()]
    return stack.seen_anew(left.with_paints(laid), expected)


def _in_place_of(stack: Stack, pieces: Sequence[Piece], make: Callable[[list[BaseGeometry]], BaseGeometry]) -> Stack:
    """One shape instead of the pieces, made of their regions, at the level of the uppermost."""
    left, lifts = stack.lift(pieces)
    regions = [region_of(lifts, n) for n in range(len(pieces))]
    made = make(regions)
    level = max(x.level for x in lifts)
    first = pieces[0]
    laid = [(level, Paint(made, first.colour, stack.paints[level].name))]
    return stack.seen_anew(left.with_paints(laid), [replace(first, region=made), *_others(stack, pieces)])


def join(stack: Stack, edit: Join, pieces: Sequence[Piece], scale: float) -> Stack:
    """One piece of all they cover, seen or hidden."""
    return _in_place_of(stack, pieces, union)


def common(stack: Stack, edit: Common, pieces: Sequence[Piece], scale: float) -> Stack:
    """What all of them cover, seen or hidden."""

    def of_all(regions: list[BaseGeometry]) -> BaseGeometry:
        out = regions[0]
        for region in regions[1:]:
            out = intersection(out, region)
        return out

    return _in_place_of(stack, pieces, of_all)


def cut_out(stack: Stack, edit: CutOut, pieces: Sequence[Piece], scale: float) -> Stack:
    """Their shape, grown by the gap, is taken out of the others wherever it covers them."""
    others, _ = stack.named(edit.of)
    others = [p for p in others if p.name not in {q.name for q in pieces}]
    _, lifts = stack.lift(pieces)
    knife = union([x.region for x in lifts])
    if edit.gap_mm:
        knife = offset(knife, edit.gap_mm / scale, stack.tolerance)
    left, lifted = stack.lift([*others, *([] if edit.stay else pieces)])
    laid = [
        (x.level, replace(stack.paints[x.level], region=stack.without_splinters(difference(x.region, knife))))
        for x in lifted
        if x.piece < len(others)
    ]
    expected = [p for p in stack.pieces.values() if edit.stay or p.name not in {q.name for q in pieces}]
    cut = {p.name for p in others}
    return stack.seen_anew(
        left.with_paints(laid),
        [replace(p, region=difference(p.region, knife)) if p.name in cut else p for p in expected],
    )


def divide(stack: Stack, edit: Divide, pieces: Sequence[Piece], scale: float) -> Stack:
    """A strip of the gap's width along the line, as long as the pieces reach, is taken out of them."""
    a, b = np.array(edit.start), np.array(edit.end)
    along = (b - a) / max(float(np.hypot(*(b - a))), 1e-9)
    box = shapely.total_bounds(np.array([p.region for p in pieces], dtype=object))
    far = float(np.hypot(box[2] - box[0], box[3] - box[1])) + float(np.hypot(*(b - a)))
    across = np.array([-along[1], along[0]]) * edit.gap_mm / scale / 2
    ends = a - along * far, b + along * far
    strip = shapely.Polygon([ends[0] - across, ends[1] - across, ends[1] + across, ends[0] + across])
    left, lifts = stack.lift(pieces)
    laid = [(x.level, replace(stack.paints[x.level], region=difference(x.region, strip))) for x in lifts]
    cut = [replace(p, region=difference(p.region, strip)) for p in pieces]
    return stack.seen_anew(left.with_paints(laid), [*_others(stack, pieces), *cut])
