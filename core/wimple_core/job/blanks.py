"""The blanks: what each kind is measured by."""

from __future__ import annotations

from typing import Annotated, get_args

from pydantic import Field

from .blank import BlankBase
from .panels import CurvedPanelBlank, InsertBlank, MeshBlank, PanelBlank, RisePanelBlank
from .turned import CupBlank, DomeBlank, RevolutionBlank, StackBlank

Blank = Annotated[
    CupBlank
    | StackBlank
    | RevolutionBlank
    | DomeBlank
    | PanelBlank
    | CurvedPanelBlank
    | RisePanelBlank
    | InsertBlank
    | MeshBlank,
    Field(discriminator="kind"),
]


_EVERY: tuple[type[BlankBase], ...] = get_args(get_args(Blank)[0])


BLANK_KINDS: tuple[str, ...] = tuple(kind.model_fields["kind"].default for kind in _EVERY)
