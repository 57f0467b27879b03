"""The figures of a measured body, by what it is: one shape for the report and for the screens. Lengths mm, errors are
standard errors."""

from __future__ import annotations

import math
from functools import singledispatch
from typing import Annotated

from pydantic import Field

from ..measure import Measured
from ..measure.bodies import Body
from ..measure.body import Cap, Frustum, Profile, Stacked
from ..measure.flat_bodies import BentPanel, MeshBody, Panel, RiseSurface
from ..measure.taper import readable_width
from .body_shapes import (
    CapFigures,
    CurvedPanelFigures,
    MeshFigures,
    PanelFigures,
    RevolutionFigures,
    RisesFigures,
    SectionFigures,
    StackFigures,
    WallFigures,
)

BodyFigures = Annotated[
    WallFigures
    | StackFigures
    | RevolutionFigures
    | CapFigures
    | PanelFigures
    | CurvedPanelFigures
    | RisesFigures
    | MeshFigures,
    Field(discriminator="kind"),
]


AnyFigures = (
    WallFigures
    | StackFigures
    | RevolutionFigures
    | CapFigures
    | PanelFigures
    | CurvedPanelFigures
    | RisesFigures
    | MeshFigures
)


def body_figures(m: Measured) -> AnyFigures:
    """The figures of what was measured."""
    return figures_of(m.body, m)


@singledispatch
def figures_of(body: Body, m: Measured) -> AnyFigures:
    """A body's figures, by what it is."""
    raise TypeError(type(body).__name__)


@figures_of.register
def _(body: Frustum, m: Measured) -> WallFigures:
    rim, foot = m.beyond
    return WallFigures(
        k=body.k,
        k_error=body.error_k,
        taper_deg=math.degrees(math.asin(body.k)),
        radius_lower_mm=body.radius_lower,
        radius_upper_mm=body.radius_upper,
        radius_lower_error_mm=body.error_lower,
        radius_upper_error_mm=body.error_upper,
        slant_mm=body.slant,
        slant_error_mm=body.error_slant,
        upright_mm=body.upright,
        rim_mm=rim,
        foot_mm=foot,
        readable_top_mm=readable_width(body, m.free.high),
        outside_volume_ml=m.volume_ml or 0.0,
    )


def _turned(body: Profile, m: Measured) -> dict[str, object]:
    radii = body.radii_at(body.joints)
    return {
        "joints_mm": body.joints.tolist(),
        "joint_radii_mm": radii.tolist(),
        "joint_radius_errors_mm": body.errors.tolist(),
        "side_mm": body.length,
        "side_error_mm": m.error_of("side"),
        "upright_mm": body.upright,
        "upright_error_mm": m.error_of("height"),
        "outside_volume_ml": m.volume_ml,
        "radius_lower_mm": float(radii[0]),
        "radius_upper_mm": float(radii[-1]),
        "radius_lower_error_mm": float(body.errors[0]),
        "radius_upper_error_mm": float(body.errors[-1]),
    }


@figures_of.register
def _(body: Stacked, m: Measured) -> StackFigures:
    sections = [
        SectionFigures(
            radius_lower_mm=f.radius_lower,
            radius_upper_mm=f.radius_upper,
            radius_lower_error_mm=f.error_lower,
            radius_upper_error_mm=f.error_upper,
            slant_mm=f.slant,
            slant_error_mm=f.error_slant,
            upright_mm=f.upright,
            k=f.k,
        )
        for f in body.sections
    ]
    return StackFigures.model_validate({**_turned(body, m), "sections": sections})


@figures_of.register
def _(body: Profile, m: Measured) -> RevolutionFigures:
    return RevolutionFigures.model_validate(_turned(body, m))


@figures_of.register
def _(body: Cap, m: Measured) -> CapFigures:
    return CapFigures(
        radius_mm=body.radius,
        radius_error_mm=body.error_radius,
        rim_radius_mm=body.rim,
        rim_radius_error_mm=body.error_rim,
        rise_mm=body.rise,
        rise_error_mm=body.error_rise,
        angle_deg=math.degrees(body.angle),
        area_mm2=body.area,
        volume_ml=m.volume_ml or 0.0,
    )


@figures_of.register
def _(body: Panel, m: Measured) -> PanelFigures:
    return PanelFigures(
        width_mm=body.width,
        height_mm=body.height,
        width_error_mm=m.error_of("width") or 0.0,
        height_error_mm=m.error_of("height") or 0.0,
        area_mm2=body.outline.area,
    )


@figures_of.register
def _(body: BentPanel, m: Measured) -> CurvedPanelFigures:
    return CurvedPanelFigures(
        width_mm=body.width,
        height_mm=body.height,
        width_error_mm=m.error_of("width") or 0.0,
        height_error_mm=m.error_of("height") or 0.0,
        area_mm2=body.outline.area,
        bend_radius_mm=body.bend_radius,
        bend_radius_error_mm=body.error_bend_radius,
    )


@figures_of.register
def _(body: RiseSurface, m: Measured) -> RisesFigures:
    found = {c.name: c for c in m.consequences}
    return RisesFigures(
        width_mm=body.width,
        height_mm=body.height,
        area_mm2=found["area"].value,
        rise_mm=found["rise"].value,
        rise_error_mm=found["rise"].error,
        rise_residuals_mm=body.residuals.tolist(),
        bend_across_per_m=found["bend_across"].value,
        bend_across_error_per_m=found["bend_across"].error,
        bend_up_per_m=found["bend_up"].value,
        bend_up_error_per_m=found["bend_up"].error,
    )


@figures_of.register
def _(body: MeshBody, m: Measured) -> MeshFigures:
    return MeshFigures(
        width_mm=body.width,
        height_mm=body.height,
        depth_mm=body.size[2],
        area_mm2=body.area,
        triangles=len(body.triangles),
        volume_ml=body.volume_ml,
    )
