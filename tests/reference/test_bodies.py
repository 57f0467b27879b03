"""Bodies of every kind against handbook formulas and the same bodies as meshes."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import dimension
from scipy.interpolate import RectBivariateSpline
from shapely import affinity
from wimple_core.job import load_job
from wimple_core.measure import Measured, measure
from wimple_core.measure.body import Cap, Frustum, Profile
from wimple_core.measure.capacity import find_level, inner_line, level_volume_ml
from wimple_core.measure.flat_bodies import Panel, RiseSurface
from wimple_core.measure.rectangle import largest_rectangle
from wimple_core.measure.rises import area_of, bends_in_middle, evaluate


def blank(kind: str, **fields: Any) -> Any:
    return load_job({"blank": {"kind": kind, **fields}}).blank


def measured(kind: str, **fields: Any) -> Measured:
    return measure(blank(kind, **fields))


def panel(**fields: Any) -> Panel:
    body = measured("panel", **fields).body
    assert isinstance(body, Panel)
    return body


def test_hexagon_of_the_trade() -> None:
    """8.95 in across corners is 7.75 in across flats, either way (common practice, no source)."""
    corners = panel(shape="hexagon", width=dimension("across_corners", "8.95 in"))
    assert corners.width / 25.4 == pytest.approx(8.95) and round(corners.height / 25.4, 2) == 7.75
    flats = panel(shape="hexagon", width=dimension("across_flats", "7.75 in"))
    assert round(flats.width / 25.4, 2) == 8.95


@pytest.mark.parametrize("sides", [3, 4, 5, 6, 8, 17])
def test_regular_polygons(sides: int) -> None:
    """Area `n s^2 / (4 tan(pi / n))` (CRC Standard Mathematical Tables); every way of reading one gives the same
    polygon."""
    body = panel(shape="polygon", sides=sides, width=dimension("side", 40.0))
    assert body.outline.area == pytest.approx(sides * 40.0**2 / (4 * math.tan(math.pi / sides)), rel=1e-12)
    circumradius = 20.0 / math.sin(math.pi / sides)
    again = panel(shape="polygon", sides=sides, width=dimension("across_corners", 2 * circumradius))
    assert again.outline.area == pytest.approx(body.outline.area, rel=1e-12)
    # Across flats is the polygon's height as it stands on one side, whatever the number of sides.
    third = panel(shape="polygon", sides=sides, width=dimension("across_flats", body.outline.bounds[3]))
    assert third.outline.area == pytest.approx(body.outline.area, rel=1e-12)


def test_round_shapes() -> None:
    """pi r^2, pi a b, and a rectangle less its corners `(4 - pi) r^2` (CRC)."""
    assert panel(shape="circle", width=dimension("diameter", 120)).outline.area == pytest.approx(
        math.pi * 60**2, rel=1e-9
    )
    assert panel(
        shape="circle", width=dimension("circumference", 120 * math.pi), tape_thickness_mm=0
    ).width == pytest.approx(120, abs=0.02)
    assert panel(
        shape="ellipse", width=dimension("width", 120), height=dimension("height", 50)
    ).outline.area == pytest.approx(math.pi * 60 * 25, rel=1e-9)
    rounded = panel(
        shape="rounded", width=dimension("width", 120), height=dimension("height", 50), corner=dimension("radius", 12)
    )
    assert rounded.outline.area == pytest.approx(120 * 50 - (4 - math.pi) * 144, rel=2e-5)


def test_insert_of_the_trade() -> None:
    """A 2.75 in insert with a 5/8 x 3/32 in slot and a 0.34 x 0.5 in tab (common practice, no source)."""
    body = measured(
        "insert", inside=dimension("diameter", "2.75 in"), clearance_mm=0, hole={"form": "slot"}, tab={}
    ).body
    assert isinstance(body, Panel)
    assert body.width == pytest.approx(69.85, abs=0.01)
    tab_corners = 3 * (0.34 * 25.4 / 3) ** 2  # its outer end is rounded
    expected = math.pi * (69.85 / 2) ** 2 - 15.875 * 2.38125 + 0.34 * 25.4 * 0.5 * 25.4
    assert expected - tab_corners < body.outline.area < expected + 1 and len(body.outline.interiors) == 1


def rings(profile: Any, heights: Any) -> list[dict[str, Any]]:
    return [
        {
            "height": dimension("upright", float(z), instrument="ruler"),
            "girth": dimension("diameter", 2 * float(profile(z)), instrument="calliper"),
        }
        for z in heights
    ]


def test_ball_by_its_diameters_against_a_mesh() -> None:
    """A zone of a ball: lateral area 2 pi R h and volume by the handbook, and both of the same body as a mesh
    (trimesh)."""
    ball = lambda z: math.sqrt(60**2 - (z - 45) ** 2)  # noqa: E731
    heights = np.linspace(0, 90, 13)
    m = measured("revolution", rings=rings(ball, heights), lip_band_mm=0, base_band_mm=0)
    body = m.body
    assert isinstance(body, Profile)
    z = np.linspace(0, 90, 1500)
    mesh = trimesh.creation.revolve(
        np.column_stack([np.concatenate([[0], np.sqrt(60**2 - (z - 45) ** 2), [0]]), np.concatenate([[0], z, [90]])]),
        sections=1500,
    )
    assert m.volume_ml is not None and m.volume_ml * 1000 == pytest.approx(mesh.volume, rel=2e-4)
    lateral = mesh.area - 2 * math.pi * (60**2 - 45**2)
    assert (
        sum(p.area for p in m.free.parts)
        == pytest.approx(lateral, rel=5e-4)
        == pytest.approx(2 * math.pi * 60 * 90, rel=5e-4)
    )
    assert body.length == pytest.approx(2 * 60 * math.asin(45 / 60), rel=2e-4)


def test_stack_against_a_mesh_and_the_sum_of_its_frusta() -> None:
    fields = {
        "base": dimension("circumference", 200),
        "tape_thickness_mm": 0,
        "sections": [
            {"upper": dimension("circumference", 230), "side": dimension("slant", 70)},
            {"upper": dimension("circumference", 230), "side": dimension("upright", 90)},
            {"upper": dimension("diameter", 40), "side": dimension("slant", 45)},
        ],
    }
    m = measured("stack", **fields, lip_band_mm=0, base_band_mm=0)
    body = m.body
    assert isinstance(body, Profile)
    mesh = trimesh.creation.revolve(
        np.vstack([[0, 0], np.column_stack([body.r, body.z]), [0, body.z[-1]]]), sections=2000
    )
    assert m.volume_ml is not None and m.volume_ml * 1000 == pytest.approx(mesh.volume, rel=1e-5)
    ends = math.pi * (body.r[0] ** 2 + body.r[-1] ** 2)
    assert sum(p.area for p in m.free.parts) == pytest.approx(mesh.area - ends, rel=1e-5)
    lateral = sum(math.pi * (f.radius_lower + f.radius_upper) * f.slant for f in body.sections)
    assert sum(p.area for p in m.free.parts) == pytest.approx(lateral, rel=1e-9)


def test_cap_by_the_handbook_and_as_a_mesh() -> None:
    """Area 2 pi R h, volume pi h^2 (3 R - h) / 3 (CRC)."""
    m = measured("dome", base=dimension("diameter", 160), rise=dimension("rise", 30))
    cap = m.body
    assert isinstance(cap, Cap) and m.volume_ml is not None
    t = np.linspace(0, cap.angle, 1200)
    mesh = trimesh.creation.revolve(
        np.vstack([np.column_stack([cap.radius * np.sin(t), cap.radius * np.cos(t)]), [0, cap.radius - cap.rise]])[
            ::-1
        ],
        sections=1500,
    )
    assert m.volume_ml * 1000 == pytest.approx(abs(mesh.volume), rel=1e-5)
    assert cap.area == pytest.approx(mesh.area - math.pi * cap.rim**2, rel=1e-5)
    assert sum(p.area for p in m.free.parts) == pytest.approx(cap.area, rel=2e-4)


def grid(function: Any, x: Any, y: Any) -> RiseSurface:
    rises = [[[float(function(a, b))] for a in x] for b in y]
    body = measured("rise_panel", across_mm=list(x), up_mm=list(y), rises=rises).body
    assert isinstance(body, RiseSurface)
    return body


def test_rises_against_scipys_own_surface_and_closed_forms() -> None:
    """The tensor spline against RectBivariateSpline, on uneven places; curvature and area of a cylinder's and a
    ball's patch."""
    x, y = np.array([0, 90, 210, 300, 420.0]), np.array([0, 60, 150, 240.0])
    rough = np.random.default_rng(3).uniform(0, 20, (4, 5))
    body = grid(lambda a, b: rough[list(y).index(b), list(x).index(a)], x, y)
    at_x, at_y = np.linspace(0, 420, 33), np.linspace(0, 240, 21)
    assert np.allclose(evaluate(body, at_x, at_y), RectBivariateSpline(y, x, rough, s=0)(at_y, at_x), atol=1e-9)
    ball = grid(
        lambda a, b: math.sqrt(900**2 - (a - 200) ** 2 - (b - 150) ** 2) - 850,
        np.linspace(0, 400, 9),
        np.linspace(0, 300, 7),
    )
    across, up = bends_in_middle(ball)
    assert across == pytest.approx(1 / 900, rel=2e-3) and up == pytest.approx(1 / 900, rel=2e-3)
    gx, gy = np.meshgrid(np.linspace(0, 400, 900), np.linspace(0, 300, 700))
    h = np.sqrt(900**2 - (gx - 200) ** 2 - (gy - 150) ** 2)
    exact = float((900 / h).mean()) * 400 * 300  # the area element of a ball over its plan is R / z
    assert area_of(ball) == pytest.approx(exact, rel=2e-4)


@settings(max_examples=40, deadline=None)
@given(st.floats(5, 80), st.booleans())
def test_level_both_ways(height: float, single: bool) -> None:
    """What is poured for a height comes back from that volume."""
    fields = {"rings": rings(lambda z: 30 + 8 * math.sin(z / 30), np.linspace(0, 90, 7)), "wall_mm": 2}
    there = find_level(
        b := blank("revolution", **fields, level={"given": "height", "height_mm": height}), measure(b).body
    )  # type: ignore[arg-type]
    assert there is not None and there.volume_ml is not None
    if there.volume_ml < 1:
        return
    back = find_level(
        b := blank("revolution", **fields, level={"given": "volume", "volume_ml": there.volume_ml}), measure(b).body
    )  # type: ignore[arg-type]
    assert back is not None and back.height_mm == pytest.approx(height, abs=1e-6)


def test_level_of_a_ball_by_the_handbook() -> None:
    """Water in a ball cut off at its foot: the volume between two heights of a ball is pi (R^2 h - h^3 / 3) between
    its ends."""
    # A wall of 1.5 mm square to itself: the outside is the ball of 61.5 mm round the same middle.
    ball = lambda z: math.sqrt(61.5**2 - (z - 45) ** 2)  # noqa: E731
    b = blank(
        "revolution", rings=rings(ball, np.linspace(0, 90, 19)), wall_mm=1.5, level={"given": "height", "height_mm": 60}
    )
    found = find_level(b, measure(b).body)  # type: ignore[arg-type]
    inner = lambda z: math.pi * (60**2 * (z - 45) - (z - 45) ** 3 / 3)  # noqa: E731
    assert found is not None and found.volume_ml == pytest.approx((inner(60) - inner(3)) / 1000, rel=1e-4)


def test_rings_that_start_above_the_bench() -> None:
    """A cone of 30 to 42 mm over 100 mm, read from 30 mm up: level, capacity, base band and volume all count from the
    bench, as on the same cone read from its foot, and as pi H / 3 (r0^2 + r0 r1 + r1^2) says (CRC)."""
    cone = lambda z: 30 + 12 * z / 100  # noqa: E731
    up = math.hypot(100, 12) / 100
    for heights in (np.linspace(0, 100, 5), np.linspace(30, 100, 5)):
        low = heights[0]
        for height, along in ((60.0, (60 - low) * up), (100.0, (100 - low) * up), (20.0, (20 - low) * up)):
            level = {"given": "height", "height_mm": height}
            m = measured("revolution", rings=rings(cone, heights), wall_mm=0, base_band_mm=35 * up, level=level)
            assert m.level is not None and m.level.along_mm == pytest.approx(along, abs=1e-6)
            r = cone(height)
            inner = math.pi / 3 * ((height - 3) * (r * r + r * cone(3) + cone(3) ** 2)) / 1000
            assert m.level.volume_ml == pytest.approx(inner, rel=1e-6)
        assert m.volume_ml == pytest.approx(math.pi * 100 / 3 * (30**2 + 30 * 42 + 42**2) / 1000, rel=1e-6)
        assert m.free.low == pytest.approx((35 - low) * up, abs=1e-6)


@pytest.mark.parametrize("lean", [0.0, 20.0, 40.0, -30.0])
def test_walls_and_tapes_have_their_thickness_square_to_the_wall(lean: float) -> None:
    """On a wall that leans by a, what stands square to it by t reaches t cos a outward, and a wall of w takes w / cos a
    of the inside at one height: the same body moved inward along its normals, as a mesh (trimesh)."""
    k = math.tan(math.radians(lean))
    outer = lambda z: 60 + k * z  # noqa: E731
    f = Frustum(60, outer(60), 60 / math.cos(math.radians(lean)))
    inner = trimesh.creation.revolve(
        np.array([[0, 3], *([outer(z) - 2 / math.cos(math.radians(lean)), z] for z in (3.0, 50.0)), [0, 50]]),
        sections=3000,
    )
    poured = level_volume_ml(f, 50 / math.cos(math.radians(lean)), wall=2.0)
    assert poured * 1000 == pytest.approx(inner.volume, rel=1e-5)
    # The inside of a stack of two such walls, met along the bisector of their corner.
    z, r = inner_line(np.array([0.0, 60.0, 120.0]), np.array([60.0, outer(60), outer(60)]), 2.0)
    normal = np.array([math.cos(math.radians(lean)), -math.sin(math.radians(lean))])
    assert abs((np.array([r[1], z[1]]) - (60, 0)) @ normal + 2) < 1e-9 and r[1] == pytest.approx(outer(60) - 2)
    taped = measured(
        "cup",
        upper=dimension("circumference", 2 * math.pi * (outer(60) + 0.5 * math.cos(math.radians(lean)))),
        lower=dimension("circumference", 2 * math.pi * (60 + 0.5 * math.cos(math.radians(lean)))),
        side=dimension("upright", 60.0, instrument="ruler"),
        tape_thickness_mm=1.0,
    ).body
    assert isinstance(taped, Frustum) and taped.radius_lower == pytest.approx(60, abs=1e-9)


def test_largest_rectangles_known_in_closed_form() -> None:
    """In a circle the square r sqrt 2; in an ellipse a sqrt 2 by b sqrt 2; in a triangle half its base by half its
    height;
    in an L-shaped room the larger of its arms."""
    circle = shapely.Point(0, 0).buffer(50, quad_segs=64)
    left, low, right, high = largest_rectangle(circle) or (0, 0, 0, 0)
    assert (right - left) * (high - low) == pytest.approx(2 * 50**2, rel=3e-3)
    ellipse = affinity.scale(circle, 1.0, 0.4)
    left, low, right, high = largest_rectangle(ellipse) or (0, 0, 0, 0)
    assert (right - left) * (high - low) == pytest.approx(2 * 50 * 20, rel=3e-3)
    triangle = shapely.Polygon([(0, 0), (80, 0), (20, 60)])
    left, low, right, high = largest_rectangle(triangle) or (0, 0, 0, 0)
    assert (right - left) * (high - low) == pytest.approx(80 * 60 / 4, rel=3e-3)
    room = shapely.Polygon([(0, 0), (100, 0), (100, 30), (40, 30), (40, 90), (0, 90)])
    assert largest_rectangle(room) == pytest.approx((0, 0, 40, 90))


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**31))
def test_largest_rectangle_lies_inside_and_beats_brute_force(seed: int) -> None:
    """Inside a random room with random holes: nothing of it lies outside, and no box between any two grid lines is
    larger."""
    g = np.random.default_rng(seed)
    region = shapely.box(0, 0, 100, 70)
    for _ in range(4):
        x, y, w, h = g.uniform(0, 90), g.uniform(0, 60), *g.uniform(4, 25, 2)
        region = region.difference(shapely.box(x, y, x + w, y + h))
    found = largest_rectangle(region)
    assert found is not None
    box = shapely.box(*found)
    assert box.difference(region).area < 0.01
    coords = shapely.get_coordinates(region)
    xs, ys = np.unique(coords[:, 0].round(9)), np.unique(coords[:, 1].round(9))
    best = max(
        (b - a) * (d - c)
        for a in xs
        for b in xs[xs > a]
        for c in ys
        for d in ys[ys > c]
        if region.buffer(1e-6).covers(shapely.box(a, c, b, d))
    )
    assert box.area >= best * 0.999
