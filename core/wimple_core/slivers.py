"""Slivers: what two curves that should be one leave between them, given to what they lie along."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from .arrangement import Arrangement
from .arrays import Array


def _by_length(rows: NDArray[np.int64], labels: NDArray[np.int64], length: Array) -> dict[int, int]:
    """For each row the label with the greatest length in all."""
    order = np.lexsort((labels, rows))
    rows, labels, length = rows[order], labels[order], length[order]
    starts = np.flatnonzero(np.concatenate([[True], (np.diff(rows) != 0) | (np.diff(labels) != 0)]))
    total = np.add.reduceat(length, starts)
    best: dict[int, tuple[float, int]] = {}
    for row, label, much in zip(rows[starts].tolist(), labels[starts].tolist(), total.tolist(), strict=True):
        if row not in best or much > best[row][0]:
            best[row] = (much, label)
    return {row: label for row, (_, label) in best.items()}


def without_slivers(
    found: Arrangement, label: NDArray[np.int64], drawn: NDArray[np.bool_], width: float, area: float
) -> NDArray[np.int64]:
    """Labels (m,) of the faces (-1: nothing) in which slivers have gone to what they lie along.

    A sliver is a face narrower than `width` (mm), or a piece of one label smaller than `area` (mm2); faces that are
    `drawn` (m,) so small stay. Each goes to the label with which it shares most of its edge.
    """
    if not len(label):
        return label
    label = label.copy()
    one, other, length = found.edges()
    narrow = (2 * found.area < width * shapely.length(found.faces)) & ~drawn
    if narrow.any():
        from_ = np.concatenate([one, other[other >= 0]])
        to = np.concatenate([other, one[other >= 0]])
        much = np.concatenate([length, length[other >= 0]])
        for _ in range(4):
            # What lies beyond another sliver is not asked for until that one has gone somewhere.
            ask = narrow[from_] & ((to < 0) | ~narrow[np.maximum(to, 0)])
            if not ask.any():
                break
            there = np.where(to[ask] < 0, -1, label[np.maximum(to[ask], 0)])
            goes = _by_length(from_[ask], there, much[ask])
            rows = np.fromiter(goes.keys(), dtype=np.int64)
            label[rows] = np.fromiter(goes.values(), dtype=np.int64)
            narrow[rows] = False
    inner = other >= 0
    joined = inner & (label[one] == label[np.maximum(other, 0)])
    n = len(label)
    _, piece = connected_components(
        coo_matrix((np.ones(int(joined.sum())), (one[joined], other[joined])), shape=(n, n)), directed=False
    )
    small = np.bincount(piece, found.area) < area
    small &= np.bincount(piece, drawn) == 0
    small &= np.bincount(piece, label >= 0) > 0
    if small.any():
        a, b = piece[one], np.where(inner, piece[np.maximum(other, 0)], -1)
        label_of = np.full(len(small), -1, dtype=np.int64)
        label_of[piece] = label
        ends = ((a, b), (b, a))
        rows = np.concatenate([p[(p >= 0) & (p != q) & small[np.maximum(p, 0)]] for p, q in ends])
        to = np.concatenate([q[(p >= 0) & (p != q) & small[np.maximum(p, 0)]] for p, q in ends])
        much = np.concatenate([length[(p >= 0) & (p != q) & small[np.maximum(p, 0)]] for p, q in ends])
        large = (to < 0) | ~small[np.maximum(to, 0)]
        if large.any():
            there = np.where(to[large] < 0, -1, label_of[np.maximum(to[large], 0)])
            for p, goes_to in _by_length(rows[large], there, much[large]).items():
                label[piece == p] = goes_to
    return label
