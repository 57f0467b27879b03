"""The kinds of blank, one module each."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ...errors import seen_from
from ...figures import LengthStyle
from ...job.blank import BlankBase
from ..drawing import Sketch
from ..measured import Given, Measured
from .cup import Cup
from .curved_panel import CurvedPanel
from .dome import Dome
from .insert import Insert
from .kind import AnyKind, Bring, Kind
from .mesh import Mesh
from .panel import FlatPanel
from .revolution import Revolution
from .rise_panel import RisePanel
from .stack import Stack

KINDS: tuple[AnyKind, ...] = (
    Cup(),
    Stack(),
    Revolution(),
    Dome(),
    FlatPanel(),
    CurvedPanel(),
    RisePanel(),
    Insert(),
    Mesh(),
)
_OF: dict[type, AnyKind] = {kind.blank: kind for kind in KINDS}


BLANK = "blank"
"""Where the job keeps it: in the kinds and all that measures, fields are named as seen from the blank."""


def kind_of(blank: BlankBase) -> AnyKind:
    """What kind of blank it is."""
    return _OF[type(blank)]


def starting_blanks() -> dict[str, dict[str, Any]]:
    """An example of each kind to be typed over, by the name under which a maker asks for it. What starts from its file
    has none."""
    return {name: dict(raw) for kind in KINDS for name, raw in kind.starts.items()}


def files_of(blank: BlankBase) -> tuple[str, ...]:
    """The files a blank names: they travel beside the document, with the drawings."""
    return kind_of(blank).files(blank)


def given_of(blank: BlankBase, bring: Bring) -> Given:
    """What a blank's files hold. Raises as what reads them does."""
    with seen_from(BLANK):
        return kind_of(blank).given(blank, bring)


def measure(blank: BlankBase, given: Given | None = None) -> Measured:
    """Read a blank: its body with spread, free areas, figures and verdicts. Raises BadReading for what no blank can
    be."""
    with seen_from(BLANK):
        measured = kind_of(blank).measure(blank, given or Given())
    return replace(measured, verdicts=tuple(v.within(BLANK) for v in measured.verdicts))


def sketch_of(measured: Measured, style: LengthStyle = "mm") -> Sketch:
    """The dimensioned drawing of a measured blank."""
    return kind_of(measured.blank).sketch(measured.blank, measured, style).within(BLANK)


__all__ = ["KINDS", "Bring", "Kind", "files_of", "given_of", "kind_of", "measure", "sketch_of", "starting_blanks"]
