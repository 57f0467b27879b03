"""Nothing lost, nothing twice: the pieces of a drawing as it was drawn, counted against its colours as they are now."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely import STRtree

from ..artwork import ColourRegion
from ..job.edits import Align, Common, CutOut, Divide, Edit, Give, Join, Move, Outline, Spread
from ..overlay import commons
from ..verdict import Verdict, plain

SHARE = 0.02
"""Less of a piece than this is what is lost where curves are cut anew."""


@dataclass(frozen=True)
class Count:
    """How many pieces were drawn; of them by name those left out on purpose, those that are not in the colour they
    should have, and those in two or more."""

    drawn: int
    left_out: tuple[str, ...]
    lost: tuple[str, ...]
    twice: tuple[str, ...]


def _aside(edits: tuple[Edit, ...]) -> set[str]:
    """Pieces that are meant to lie elsewhere, in parts, beneath a rim, or nowhere."""
    out: set[str] = set()
    for e in edits:
        rim = isinstance(e, Outline) and e.by_mm < 0
        used = isinstance(e, CutOut) and not e.stay
        if rim or used or isinstance(e, (Move, Align, Spread, Divide)):
            out |= set(e.pieces)
    return out


def _wanted(drawn: tuple[ColourRegion, ...], edits: tuple[Edit, ...]) -> dict[str, str]:
    """The colour each piece should have, by what was done to it."""
    out = {name: c.colour for c in drawn for name in c.pieces[1]}
    for e in edits:
        if isinstance(e, Give):
            out |= dict.fromkeys(e.pieces, e.colour)
        elif isinstance(e, (Join, Common)) and e.pieces[0] in out:
            out |= dict.fromkeys(e.pieces, out[e.pieces[0]])
    return out


def count_pieces(
    drawn: tuple[ColourRegion, ...], now: tuple[ColourRegion, ...], gone: set[str], edits: tuple[Edit, ...]
) -> Count:
    """Count the pieces of a drawing whose pieces were worked on; `gone` are those left out."""
    pieces = [(n, g) for c in drawn for g, n in zip(*c.pieces, strict=True)]
    names = [n for n, _ in pieces]
    before = np.array([g for _, g in pieces], dtype=object)
    parts = [c.pieces[0] for c in now]
    after = np.concatenate(parts)
    colour = np.repeat(np.arange(len(parts)), [len(p) for p in parts])
    one, other = STRtree(after).query(before, predicate="intersects")
    share = np.zeros((len(before), len(parts)))
    np.add.at(share, (one, colour[other]), shapely.area(commons(before[one], after[other])))
    share /= shapely.area(before)[:, None]
    aside = _aside(edits) | gone
    open_ = [n not in aside for n in names]
    if any(isinstance(e, Outline) and e.by_mm < 0 and not e.pieces for e in edits):
        open_ = [False] * len(names)
    wanted, numbers = _wanted(drawn, edits), {c.colour: n for n, c in enumerate(now)}
    mine = np.array([numbers.get(wanted[n], -1) for n in names])
    lost = (mine < 0) | (share[np.arange(len(names)), mine] <= SHARE)

    def which(test: np.ndarray) -> tuple[str, ...]:
        return tuple(n for n, o, t in zip(names, open_, test.tolist(), strict=True) if o and t)

    return Count(
        len(names), tuple(n for n in names if n in gone), which(lost), which(~lost & ((share > SHARE).sum(axis=1) > 1))
    )


def _listed(names: tuple[str, ...]) -> str:
    more = f" and {len(names) - 6} more" if len(names) > 6 else ""
    return ", ".join(names[:6]) + more


def count_verdict(name: str, count: Count) -> Verdict:
    """Every piece of the drawing of that name has a film and none has two, or which have not."""
    bad = len(count.lost) + len(count.twice)
    out = f"; {len(count.left_out)} left out" if count.left_out else ""
    if not bad:
        said = f"Every one of the {count.drawn} pieces of “{plain(name)}” has a film, none has two{out}."
        return Verdict("artwork.pieces", "artwork", "ok", 0, 0, "count", said, field="edits")
    some = []
    if count.lost:
        some.append(f"{len(count.lost)} given to no film ({_listed(count.lost)})")
    if count.twice:
        some.append(f"{len(count.twice)} to two ({_listed(count.twice)})")
    said = f"Of the {count.drawn} pieces of “{plain(name)}” {' and '.join(some)}{out}."
    remedy = "Look at them in the bill, and undo what was done to them if it was not meant."
    return Verdict("artwork.pieces", "artwork", "look", bad, 0, "count", said, remedy, field="edits")
