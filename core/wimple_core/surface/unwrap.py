"""The second stage: every measured body laid flat, with what the film suffers and how it is relieved."""

from __future__ import annotations

from collections.abc import Callable
from functools import singledispatch

from ..measure import Measured
from ..measure.bodies import Body
from ..measure.body import Cap, Frustum, Profile, Stacked
from ..measure.flat_bodies import MeshBody, Panel, RiseSurface
from .belly import unwrap_belly
from .dome import unwrap_dome
from .laying import Laying
from .patch import Patch, patch_of_mesh
from .patches import unwrap_mesh, unwrap_rises
from .stack import unwrap_stack
from .template import Template
from .wall import unwrap_panel, unwrap_wall

Flattened = Callable[[MeshBody], Patch]
"""The chosen patch of a mesh, laid flat."""


def unwrap(measured: Measured, laying: Laying, flattened: Flattened | None = None) -> Template:
    """Lay the measured body flat; `flattened` brings the patch of a mesh, which is made here where it is left out.

    Raises BadReading where the wrap cannot be, and what `flattened` raises.
    """
    here = flattened or (lambda body: patch_of_mesh(body, laying.wrap.patch))
    return lay_flat(measured.body, measured, laying, here)


@singledispatch
def lay_flat(body: Body, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    """A body laid flat, by what it is."""
    raise TypeError(type(body).__name__)


@lay_flat.register
def _(body: Frustum, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_wall(body, measured, laying)


@lay_flat.register
def _(body: Panel, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_panel(body, measured, laying)


@lay_flat.register
def _(body: Stacked, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_stack(body, measured, laying)


@lay_flat.register
def _(body: Profile, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_belly(body, measured, laying)


@lay_flat.register
def _(body: Cap, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_dome(body, measured, laying)


@lay_flat.register
def _(body: RiseSurface, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_rises(body, measured, laying)


@lay_flat.register
def _(body: MeshBody, measured: Measured, laying: Laying, flattened: Flattened) -> Template:
    return unwrap_mesh(flattened(body), measured, laying)
