"""Measuring and unwrapping against published figures and general libraries."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
import uncertainties
import uncertainties.umath as um
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import cup, example, laid
from wimple_core.figures import ML_PER_FLUID_OUNCE, MM_PER_INCH
from wimple_core.job import load_job
from wimple_core.measure import measure
from wimple_core.measure.body import Frustum
from wimple_core.measure.capacity import frustum_volume, level_volume_ml
from wimple_core.measure.readings import summarise
from wimple_core.measure.taper import edge_drift
from wimple_core.surface.frustum import develop, undevelop
from wimple_core.units import parse_length, parse_volume


def test_units() -> None:
    """NIST SP 811 (inch), NIST Handbook 44 appendix C (fluid ounce)."""
    assert MM_PER_INCH == 25.4 and ML_PER_FLUID_OUNCE == 29.5735295625
    assert parse_length("1 in") == 25.4
    assert parse_volume("1 fl oz") == 29.5735295625


def test_nist_numacc1() -> None:
    """NIST StRD univariate NumAcc1 (10000001, 10000003, 10000002): mean 10000002, standard deviation 1, certified."""
    r = summarise((10000001.0, 10000003.0, 10000002.0), 0.5)
    assert r.mean == 10000002.0
    assert r.deviation == 1.0
    assert r.error == pytest.approx(1 / math.sqrt(3), rel=1e-15)


def test_errors_carried_through() -> None:
    """First-order propagation against the `uncertainties` package."""
    c1, c0, height = (uncertainties.ufloat(v, 0.5) for v in (262.5, 205.0, 80.0))
    d = cup(262.5, 205.0, 80.0, tape_thickness_mm=0.2)
    d["blank"]["side"]["reads"] = "upright"
    d["blank"]["side"]["instrument"] = "ruler"
    body = measure(load_job(d).blank).body
    assert isinstance(body, Frustum)
    # The tape stands square to the wall: of its half thickness its lean's cosine counts.
    step = (c1 - c0).n / (2 * math.pi)
    cosine = height.n / math.hypot(height.n, step)
    r1, r0 = c1 / (2 * math.pi) - 0.1 * cosine, c0 / (2 * math.pi) - 0.1 * cosine
    slant = um.sqrt(height**2 + (r1 - r0) ** 2)
    assert body.radius_upper == pytest.approx(r1.n, rel=1e-14) and body.error_upper == pytest.approx(r1.s, rel=1e-12)
    assert body.slant == pytest.approx(slant.n, rel=1e-14) and body.error_slant == pytest.approx(slant.s, rel=1e-12)


def test_edge_drift_of_the_worked_case() -> None:
    """2 mm of error in one of two circumferences 100 mm apart on a cup of r = 40 drifts the edge by 0.6 mm
    (worked by hand from (pi^2 / 2) r dk with dk = 2 / (2 pi 100))."""
    f = Frustum(40, 40, 100, 0, 2 / (2 * math.pi), 0)
    assert edge_drift(f) == pytest.approx(math.pi**2 / 2 * 40 * 2 / (2 * math.pi) / 100)
    assert round(edge_drift(f), 1) == 0.6


@pytest.mark.parametrize(("r0", "r1", "height"), [(30, 45, 100), (40, 40, 90), (50, 20, 60)])
def test_frustum_against_a_mesh_and_the_handbook(r0: float, r1: float, height: float) -> None:
    """Lateral area pi (r0 + r1) L and volume pi H / 3 (...) (CRC Standard Mathematical Tables); volume of the same body
    as a fine mesh, by trimesh; area of the flat template equals the wall's."""
    slant = math.hypot(height, r1 - r0)
    profile = np.array([[0, 0], [r0, 0], [r1, height], [0, height]], dtype=float)
    mesh = trimesh.creation.revolve(profile, sections=2000)
    assert frustum_volume(r0, r1, height) == pytest.approx(mesh.volume, rel=1e-5)
    d = load_job(
        {**cup(2 * math.pi * r1, 2 * math.pi * r0, slant, tape_thickness_mm=0), "wrap": {"film_thickness_um": 0}}
    )
    template = laid(d.wrap, measure(d.blank))
    lateral = math.pi * (r0 + r1) * slant
    assert template.outline.area == pytest.approx(lateral, rel=2e-5)
    assert mesh.area - math.pi * (r0**2 + r1**2) == pytest.approx(lateral, rel=1e-5)


def test_level_volume_against_a_mesh() -> None:
    """Volume poured to a level, against the same inside as a mesh (trimesh)."""
    f = Frustum(30, 42, math.hypot(100, 12))
    up = 100 / f.slant
    poured = level_volume_ml(f, 60 / up, wall=1.5, foot=0, floor=4)
    r = lambda z: 30 + 12 * z / 100 - 1.5 / up  # noqa: E731
    mesh = trimesh.creation.revolve(np.array([[0, 4], [r(4), 4], [r(60), 60], [0, 60]]), sections=2000)
    assert poured * 1000 == pytest.approx(mesh.volume, rel=1e-5)


tapers = st.one_of(st.just(0.0), st.floats(-0.35, 0.35), st.floats(-1e-9, 1e-9), st.floats(-1e-14, 1e-14))


@settings(max_examples=200, deadline=None)
@given(k=tapers, r0=st.floats(15, 80), seed=st.integers(0, 2**31))
def test_there_and_back(k: float, r0: float, seed: int) -> None:
    """Back to 1e-9 mm from the template, for any taper, 0 and both signs."""
    g = np.random.default_rng(seed)
    s = g.uniform(0, 30, 50)
    phi = g.uniform(-math.pi, math.pi, 50)
    phi2, s2 = undevelop(*develop(phi, s, r0, k), r0, k)
    assert np.abs(s2 - s).max() < 1e-9
    assert (np.abs(phi2 - phi) * (r0 + k * s)).max() < 1e-9


@settings(max_examples=60, deadline=None)
@given(k=tapers, r0=st.floats(20, 60), seed=st.integers(0, 2**31))
def test_development_is_an_isometry(k: float, r0: float, seed: int) -> None:
    """Lengths of random curves on the body (in space) and in the template agree to 1e-9 of their length, and so do
    the angles at which two of them cross. The space curve is measured in three dimensions, not by the development."""
    g = np.random.default_rng(seed)
    t = np.linspace(0, 1, 20001)
    rise = math.sqrt(1 - k * k)

    def both(a: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        phi = a[0] + a[1] * t + a[2] * np.sin(3 * t)
        s = 15 + a[3] * t + a[4] * np.cos(2 * t)
        r = r0 + k * s
        space = np.column_stack([r * np.sin(phi), r * np.cos(phi), s * rise])
        return space, np.column_stack(develop(phi, s, r0, k))

    length = lambda c: np.linalg.norm(np.diff(c, axis=0), axis=1).sum()  # noqa: E731
    space, flat = both(g.uniform(-1, 1, 5) * (0.2, 1.5, 0.4, 6, 4))
    assert length(flat) == pytest.approx(length(space), rel=1e-8)
    # Angle between two directions at one point, by finite differences on both sides.
    phi, s, h = g.uniform(-2, 2), g.uniform(2, 25), 1e-6
    step = g.uniform(-1, 1, (2, 2)) * h

    def angle(to: object) -> float:
        a, b = (np.asarray(to(phi + d[0] / r0, s + d[1])) - np.asarray(to(phi, s)) for d in step)  # type: ignore[operator]
        return math.acos(np.clip(a @ b / np.linalg.norm(a) / np.linalg.norm(b), -1, 1))

    wall = lambda p, q: ((r0 + k * q) * math.sin(p), (r0 + k * q) * math.cos(p), q * rise)  # noqa: E731
    plane = lambda p, q: tuple(float(v[0]) for v in develop(np.array([p]), np.array([q]), r0, k))  # noqa: E731
    assert angle(plane) == pytest.approx(angle(wall), abs=2e-5)


def test_acceptance_cup() -> None:
    """8 1/4 in and 10 1/2 in round, 5 in along the side, no tape: k = (10.5 - 8.25) / (2 pi 5), sector radii r / k."""
    job = load_job(example("acceptance-cup"))
    measured = measure(job.blank)
    body = measured.body
    assert isinstance(body, Frustum)
    assert body.k == pytest.approx(2.25 / (10 * math.pi), rel=1e-12)
    sector = laid(job.wrap, measured).sector
    assert sector is not None
    assert round(sector.radius_lower, 2) == 465.67 and round(sector.radius_upper, 2) == 592.67
    assert round(math.degrees(sector.angle), 2) == 25.78


@pytest.mark.parametrize("overlap", [0.0, 3.0, -2.0])
def test_ends_close_with_film_on(overlap: float) -> None:
    """A strip of thickness t on a wall that leans by a wraps at r + (t / 2) cos a: the template is pi t cos a longer
    than the bare cup (common practice, no source for the neutral middle), plus the overlap at every height."""
    job = load_job(
        {**cup(262.5, 205.0, 96.0, tape_thickness_mm=0), "wrap": {"film_thickness_um": 140, "overlap_mm": overlap}}
    )
    t = laid(job.wrap, measure(job.blank))
    coords = np.asarray(t.outline.exterior.coords)
    a, s = t.surface.wrap(coords[:, 0], coords[:, 1])
    lean = math.asin((262.5 - 205.0) / (2 * math.pi) / 96.0)
    for low, bare in ((0.0, 205.0), (96.0, 262.5)):
        row = np.abs(s - low) < 1e-6
        turn = (a[row].max() - a[row].min()) * t.surface.scale_at(low)
        assert turn == pytest.approx(bare + math.pi * 0.14 * math.cos(lean) + overlap, abs=1e-6)
