"""Pieces moved, turned, mirrored, made even with the first, spread out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from ...job.edits import Align, Group, Move, Spread
from .stack import Piece, Stack

Affine = tuple[NDArray[np.float64], NDArray[np.float64]]
"""A matrix (2, 2) and what is added (2,): `p @ matrix + added`."""


def _boxes(pieces: Sequence[Piece]) -> NDArray[np.float64]:
    """Left, low, right, high (n, 4)."""
    return np.asarray(shapely.bounds(np.array([p.region for p in pieces], dtype=object)), dtype=np.float64)


def _put(region: BaseGeometry, by: Affine) -> BaseGeometry:
    matrix, added = by
    out: BaseGeometry = shapely.transform(region, lambda p: p @ matrix + added)
    # A mirrored ring runs the other way.
    return shapely.orient_polygons(out) if np.linalg.det(matrix) < 0 else out


def _moved(stack: Stack, pieces: Sequence[Piece], by: Sequence[Affine]) -> Stack:
    """Each piece moved by its own, with what of it lies hidden, and laid where it was in the stack."""
    left, lifts = stack.lift(pieces)
    laid = [(x.level, replace(stack.paints[x.level], region=_put(x.region, by[x.piece]))) for x in lifts]
    names = {p.name for p in pieces}
    moved = [replace(p, region=_put(p.region, m)) for p, m in zip(pieces, by, strict=True)]
    others = [p for p in stack.pieces.values() if p.name not in names]
    return stack.seen_anew(left.with_paints(laid), [*moved, *others])


def move(stack: Stack, edit: Move, pieces: Sequence[Piece], scale: float) -> Stack:
    """All as one: mirrored and turned about the middle of their common box, then moved."""
    boxes = _boxes(pieces)
    middle = np.array([boxes[:, 0].min() + boxes[:, 2].max(), boxes[:, 1].min() + boxes[:, 3].max()]) / 2
    turn = math.radians(edit.turn_deg)
    c, s = math.cos(turn), math.sin(turn)
    matrix = np.diag([-1.0 if edit.mirrored else 1.0, 1.0]) @ np.array([[c, s], [-s, c]])
    added = middle - middle @ matrix + (edit.across_mm, edit.up_mm)
    return _moved(stack, pieces, [(matrix, added)] * len(pieces))


def group(stack: Stack, edit: Group, pieces: Sequence[Piece], scale: float) -> Stack:
    """Other groups lose what goes into this one; one that is left alone is none."""
    mine = frozenset(p.name for p in pieces)
    others = tuple(g - mine for g in stack.groups)
    return replace(stack, groups=(*(g for g in others if len(g) > 1), mine))


def _units(stack: Stack, pieces: Sequence[Piece]) -> NDArray[np.int64]:
    """For each piece the number of what it is moved with, those met first having the lowest: a piece by itself, or a
    group."""
    of = {name: g for g in stack.groups for name in g}
    first: dict[object, int] = {}
    return np.array([first.setdefault(of.get(p.name, p.name), len(first)) for p in pieces])


def _boxes_of(units: NDArray[np.int64], pieces: Sequence[Piece]) -> NDArray[np.float64]:
    """Left, low, right, high (n, 4) of each unit."""
    boxes = _boxes(pieces)
    low, high = np.full((int(units.max()) + 1, 2), np.inf), np.full((int(units.max()) + 1, 2), -np.inf)
    np.minimum.at(low, units, boxes[:, :2])
    np.maximum.at(high, units, boxes[:, 2:])
    return np.hstack([low, high])


def align(stack: Stack, edit: Align, pieces: Sequence[Piece], scale: float) -> Stack:
    """Each moved to stand even with the first; a group as one."""
    units = _units(stack, pieces)
    boxes = _boxes_of(units, pieces)
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    edges = {
        "left": (boxes[:, 0], None),
        "right": (boxes[:, 2], None),
        "middle": (middles[:, 0], None),
        "bottom": (None, boxes[:, 1]),
        "top": (None, boxes[:, 3]),
        "half_way": (None, middles[:, 1]),
        "concentric": (middles[:, 0], middles[:, 1]),
    }
    by = np.zeros((len(boxes), 2))
    for axis, edge in enumerate(edges[edit.at]):
        if edge is not None:
            by[:, axis] = edge[0] - edge
    return _moved(stack, pieces, [(np.eye(2), by[u]) for u in units])


def spread(stack: Stack, edit: Spread, pieces: Sequence[Piece], scale: float) -> Stack:
    """The outermost two stay; the gaps between neighbours become `(W - sum of widths) / (n - 1)`; a group goes as
    one."""
    axis = 0 if edit.along == "across" else 1
    units = _units(stack, pieces)
    boxes = _boxes_of(units, pieces)
    low, high = boxes[:, axis], boxes[:, axis + 2]
    by = np.zeros((len(boxes), 2))
    if len(boxes) > 2:
        order = np.argsort(low + high, kind="stable")
        wide = (high - low)[order]
        gap = (high[order[-1]] - low[order[0]] - wide.sum()) / (len(boxes) - 1)
        starts = low[order[0]] + np.concatenate([[0.0], np.cumsum(wide[:-1] + gap)])
        by[order, axis] = starts - low[order]
    return _moved(stack, pieces, [(np.eye(2), by[u]) for u in units])
