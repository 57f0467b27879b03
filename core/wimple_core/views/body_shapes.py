"""Figures of every body, told apart by their kind: shared by the report and the screens."""

from __future__ import annotations

from typing import Literal

from .drawn import View


class WallFigures(View):
    """A straight or tapered wall: radii at its lines, the taper `k` and the slant; `rim_mm` and `foot_mm` of wall
    beyond the lines, `readable_top_mm` what is read from the front at the upper edge of the free area."""

    kind: Literal["frustum"] = "frustum"
    k: float
    k_error: float
    taper_deg: float
    radius_lower_mm: float
    radius_upper_mm: float
    radius_lower_error_mm: float
    radius_upper_error_mm: float
    slant_mm: float
    slant_error_mm: float
    upright_mm: float
    rim_mm: float
    foot_mm: float
    readable_top_mm: float
    outside_volume_ml: float


class SectionFigures(View):
    """One straight or tapered part of a stack, from the foot up."""

    radius_lower_mm: float
    radius_upper_mm: float
    radius_lower_error_mm: float
    radius_upper_error_mm: float
    slant_mm: float
    slant_error_mm: float
    upright_mm: float
    k: float


class _TurnedFigures(View):
    joints_mm: list[float]
    joint_radii_mm: list[float]
    joint_radius_errors_mm: list[float]
    side_mm: float
    side_error_mm: float
    upright_mm: float
    upright_error_mm: float
    outside_volume_ml: float
    radius_lower_mm: float
    radius_upper_mm: float
    radius_lower_error_mm: float
    radius_upper_error_mm: float


class StackFigures(_TurnedFigures):
    """Sections on one axis: the radii at their joints."""

    kind: Literal["stack"] = "stack"
    sections: list[SectionFigures]


class RevolutionFigures(_TurnedFigures):
    """A bellied body: the radii at the heights where it was read."""

    kind: Literal["revolution"] = "revolution"


class CapFigures(View):
    """A dome: the ball's radius, rim and rise; the angle from its middle to the rim, seen from the ball's centre."""

    kind: Literal["cap"] = "cap"
    radius_mm: float
    radius_error_mm: float
    rim_radius_mm: float
    rim_radius_error_mm: float
    rise_mm: float
    rise_error_mm: float
    angle_deg: float
    area_mm2: float
    volume_ml: float


class PanelFigures(View):
    """A flat outline."""

    kind: Literal["panel"] = "panel"
    width_mm: float
    height_mm: float
    width_error_mm: float
    height_error_mm: float
    area_mm2: float


class CurvedPanelFigures(View):
    """A panel bent one way."""

    kind: Literal["curved_panel"] = "curved_panel"
    width_mm: float
    height_mm: float
    width_error_mm: float
    height_error_mm: float
    area_mm2: float
    bend_radius_mm: float
    bend_radius_error_mm: float


class RisesFigures(View):
    """A panel curved both ways: its bends in the middle (1 per m, positive toward the eye), and by how much each
    reading stands off the fairest surface."""

    kind: Literal["rises"] = "rises"
    width_mm: float
    height_mm: float
    area_mm2: float
    rise_mm: float
    rise_error_mm: float
    rise_residuals_mm: list[list[float]]
    bend_across_per_m: float
    bend_across_error_per_m: float
    bend_up_per_m: float
    bend_up_error_per_m: float


class MeshFigures(View):
    """A mesh: its size, area, and volume where it is closed."""

    kind: Literal["mesh"] = "mesh"
    width_mm: float
    height_mm: float
    depth_mm: float
    area_mm2: float
    triangles: int
    volume_ml: float | None
