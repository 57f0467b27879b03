"""Edits applied to a drawing, one after the other."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from ...errors import BadDrawing
from ...job.edits import (
    Align,
    Background,
    Bridges,
    Common,
    CutOut,
    Divide,
    Edit,
    Give,
    Group,
    Join,
    LeaveOut,
    Move,
    Outline,
    Shadow,
    Spread,
)
from ..artwork import Note
from .around import background, bridges, outline, shadow
from .moving import align, group, move, spread
from .parting import common, cut_out, divide, give, join, leave_out
from .stack import Piece, Stack

Worker = Callable[[Stack, Any, list[Piece], float], Stack]
WORK: Mapping[type, tuple[str, Worker]] = {
    LeaveOut: ("to be left out", leave_out),
    Give: ("to be given another colour", give),
    Join: ("to be joined", join),
    CutOut: ("to be cut out of others", cut_out),
    Common: ("to be kept where they overlap", common),
    Divide: ("to be divided", divide),
    Move: ("to be moved", move),
    Align: ("to stand even", align),
    Spread: ("to be spread", spread),
    Group: ("to go as one", group),
    Outline: ("to get an outline", outline),
    Shadow: ("to get a shadow", shadow),
    Background: ("to get a background", background),
    Bridges: ("to get bridges", bridges),
}


@dataclass(frozen=True)
class Applied:
    """A drawing after an edit, the pieces it left out, and what is to be said of it."""

    stack: Stack
    gone: tuple[Piece, ...] = ()
    notes: tuple[Note, ...] = ()


def apply(stack: Stack, edit: Edit, number: int, scale: float) -> Applied:
    """A drawing after one edit, the `number`th of its element; `scale` is mm on the blank for one of the drawing's.

    Pieces that are not there any more are noted, and the edit is done to the others. Raises BadDrawing where nothing
    would be left.
    """
    said, work = WORK[type(edit)]
    wanted = [*edit.pieces, *getattr(edit, "of", ())]
    _, lost = stack.named(wanted)
    pieces, _ = stack.named(edit.pieces)
    if not edit.pieces:
        pieces = list(stack.pieces.values())
    notes = [
        Note("artwork.lost_piece", f"piece {n}", f"it was {said} and is not there any more", "look", f"edits.{number}")
        for n in lost
    ]
    if not pieces:
        return Applied(stack, (), tuple(notes))
    after = work(stack, edit, pieces, scale)
    if not after.paints:
        raise BadDrawing(
            "Nothing of this drawing is left.", field=f"edits.{number}", hint="Put a piece back, or undo the last."
        )
    gone = tuple(pieces) if isinstance(edit, LeaveOut) else ()
    return Applied(after, gone, tuple(notes))
