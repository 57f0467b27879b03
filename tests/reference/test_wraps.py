"""What wrong readings, laps, slits and gores do, each laid again on the body it belongs to."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from samples import cup, dimension, laid
from wimple_core.job import load_job
from wimple_core.job.document import Wrap
from wimple_core.job.shipped import FILMS
from wimple_core.measure import measure
from wimple_core.measure.body import Frustum
from wimple_core.measure.taper import edge_drift, edge_miss, off_level
from wimple_core.surface.frustum import develop, undevelop
from wimple_core.surface.gores import gore_map
from wimple_core.surface.stack import lap_strain

DK = 2 / (2 * math.pi) / 100
"""2 mm of error in one of two circumferences 100 mm apart."""


def laid_again(k: float, dk: float, at: float, reach: float) -> float:
    """A template cut for a taper of k + dk, laid on a cup of taper k true at the angle `at`: by how much its lower edge
    stands off level `reach` further round. Nothing but the exact development, forth on one cone and back on the
    other."""
    r0 = 40.0
    x, y = develop(np.array([at, at + reach]), np.zeros(2), r0, k + dk)
    # The wrong template held so that it is true, in place and direction, where the wrap is begun.
    own = np.array([math.cos((k + dk) * at), -math.sin((k + dk) * at)])
    dx, dy = x[1] - x[0], y[1] - y[0]
    along, across = dx * own[0] + dy * own[1], -dx * own[1] + dy * own[0]
    x0, y0 = develop(np.array([at]), np.zeros(1), r0, k)
    true = np.array([math.cos(k * at), -math.sin(k * at)])
    px, py = x0[0] + along * true[0] - across * true[1], y0[0] + along * true[1] + across * true[0]
    return float(undevelop(np.array([px]), np.array([py]), r0, k)[1][0])


@pytest.mark.parametrize("k", [0.0, 0.0716, -0.2])
def test_edges_of_a_wrong_template(k: float) -> None:
    """Begun at the front both ends stand off level by (pi^2 / 2) r dk, to the same side, and meet; begun at one edge
    the other end misses it by 2 pi^2 r dk, each times a sinc^2 on steep walls: by laying a wrong template on
    the right cup."""
    right, left = laid_again(k, DK, 0.0, math.pi), laid_again(k, DK, 0.0, -math.pi)
    assert right == pytest.approx(left, rel=1e-6) and abs(right) == pytest.approx(
        off_level(40, k, math.pi) * DK, rel=0.01
    )
    far = laid_again(k, DK, -math.pi, 2 * math.pi)
    assert abs(far) == pytest.approx(off_level(40, k, 2 * math.pi) * DK, rel=0.02) and math.copysign(
        1, far
    ) == math.copysign(1, right)
    straight = Frustum(40, 40, 100, 0, 2 / (2 * math.pi), 0)
    assert (round(edge_drift(straight), 1), round(edge_miss(straight), 1)) == (0.6, 2.5)


@pytest.mark.parametrize(
    ("film", "typed", "wanted"), [("reflective", None, 0.150), ("cast", None, 0.050), ("reflective", 70, 0.070)]
)
@pytest.mark.parametrize("lean", [0.0, 40.0])
def test_film_wraps_at_its_own_thickness(film: str, typed: float | None, wanted: float, lean: float) -> None:
    """A template is pi t cos a longer than the bare wall, t the chosen film's own unless typed."""
    side = 50.0
    step = side * math.sin(math.radians(lean))
    blank = load_job(cup(2 * math.pi * (40 + step), 2 * math.pi * 40, side, tape_thickness_mm=0)).blank
    wrap = Wrap() if typed is None else Wrap(film_thickness_um=typed)
    t = laid(wrap, measure(blank), FILMS[film])
    assert 2 * math.pi * (t.surface.scale_at(0) - 40) == pytest.approx(
        math.pi * wanted * math.cos(math.radians(lean)), rel=1e-9
    )
    assert t.film_thickness == pytest.approx(wanted)


def mug(rings: list[tuple[float, float]], film: str = "calendered-gloss", **wrap: Any) -> Any:
    blank = {
        "kind": "revolution",
        "lip_band_mm": 0,
        "base_band_mm": 0,
        "tape_thickness_mm": 0,
        "rings": [
            {
                "height": dimension("upright", z, instrument="ruler"),
                "girth": dimension("diameter", 2 * r, instrument="calliper"),
            }
            for z, r in rings
        ],
    }
    job = load_job({"blank": blank, "wrap": {"film_thickness_um": 0, **wrap}})
    return laid(job.wrap, measure(job.blank), FILMS[film]), measure(job.blank).body


BELLY = [(0.0, 36.0), (20.0, 41.0), (40.0, 42.0), (60.0, 39.0), (80.0, 31.0)]
LOPSIDED = [(0.0, 35.0), (25.0, 41.5), (45.0, 42.0), (65.0, 38.0), (90.0, 26.0)]


def strain_by_hand(t: Any, body: Any, s: np.ndarray) -> np.ndarray:
    """Hoop strain of the flat piece at heights: true radius over the cone's, which is the template's own."""
    return body.radii_at(s) / np.array([t.surface.scale_at(v) for v in s]) - 1


@pytest.mark.parametrize("edge", ["lower", "upper"])
def test_an_edge_that_is_not_slit_keeps_its_strain(edge: str) -> None:
    t, body = mug(LOPSIDED, relief="slits", slit_edge=edge)
    s = np.linspace(0, body.length, 400)
    e = strain_by_hand(t, body, s)
    slit_to = max(x.depth for x in t.slits)
    free = s > slit_to if edge == "lower" else s < body.length - slit_to
    worst = max(0.02, float(np.abs(e[free]).max()))
    assert t.strain.worst == pytest.approx(worst, rel=0.01) and worst > 0.05
    assert all((x.start[1] < x.end[1]) is (edge == "lower") for x in t.slits)


def test_with_slits_the_better_of_two_cones_is_taken() -> None:
    """On the cone between widest and narrowest the belly must stretch by half of the difference, and no slit helps; on
    the one that sits on the widest place it need not stretch at all, and slits take the rest."""
    plain, _ = mug(BELLY)
    slit, body = mug(BELLY, relief="slits")
    s = np.linspace(0, body.length, 400)
    assert float(strain_by_hand(plain, body, s).max()) > 0.05
    assert float(strain_by_hand(slit, body, s).max()) < 1e-6
    assert slit.strain.worst == pytest.approx(0.02, rel=1e-6) and slit.before.worst == pytest.approx(plain.strain.worst)


def test_gores_keep_to_the_free_area() -> None:
    """With a handle of 100 degrees the gores go round the rest, none wider for it."""
    handle = {"width_mm": 60.0}
    rings = [
        {
            "height": dimension("upright", z, instrument="ruler"),
            "girth": dimension("diameter", 2 * r, instrument="calliper"),
        }
        for z, r in BELLY
    ]
    blank = {"kind": "revolution", "rings": rings, "handle": handle}
    job = load_job({"blank": blank, "wrap": {"relief": "gores", "extent": "free"}})
    measured = measure(job.blank)
    t = laid(job.wrap, measured, FILMS["calendered-gloss"])
    spans = [p.region.bounds for p in t.surface.pieces]  # type: ignore[union-attr]
    assert min(b[0] for b in spans) == pytest.approx(measured.free.left) and max(b[2] for b in spans) == pytest.approx(
        measured.free.right
    )
    assert max(b[2] - b[0] for b in spans) == pytest.approx((measured.free.right - measured.free.left) / len(spans))
    assert t.strain is not None and t.strain.worst <= 0.02


@pytest.mark.parametrize("count", [7, 13])
def test_strain_of_gores_at_its_greatest(count: int) -> None:
    """Never under what a far finer net of the same gore shows, and within a thousandth of it."""
    t, body = mug(BELLY, relief="gores", gores=count)
    from scipy.interpolate import CubicSpline

    fair = CubicSpline(body.s, body.r)
    forth = gore_map(lambda z: fair(z), lambda z: np.clip(fair(z, 1), -0.999, 0.999))[0]
    s, half, h = np.linspace(0, body.length, 4001)[1:-1], math.pi / count, 1e-6
    edge = np.full_like(s, half)
    by_s = (np.column_stack(forth(edge, s + h)) - np.column_stack(forth(edge, s - h))) / (2 * h)
    by_t = (np.column_stack(forth(edge + h, s)) - np.column_stack(forth(edge - h, s))) / (2 * h) / fair(s)[:, None]
    least = np.array(
        [
            1 / np.linalg.svd(np.array([[a[0], b[0]], [a[1], b[1]]]), compute_uv=False)[0]
            for a, b in zip(by_t, by_s, strict=True)
        ]
    )
    most = np.array(
        [
            1 / np.linalg.svd(np.array([[a[0], b[0]], [a[1], b[1]]]), compute_uv=False)[1]
            for a, b in zip(by_t, by_s, strict=True)
        ]
    )
    worst = max(1 - least.min(), most.max() - 1)
    assert worst * 0.999 - 1e-5 <= t.strain.worst <= worst * 1.002 + 1e-5


def test_the_strain_of_a_lap_is_said() -> None:
    """A shoulder of 45 degrees lapped by 2 mm on a straight wall of 37.5 mm: its edge is cut at r + 2 sin 45, so it is
    2 pi 2 sin 45 = 8.9 mm too long, and must shorten by 3.6 %."""
    below, above = Frustum(37.5, 37.5, 60), Frustum(37.5, 37.5 - 20 * math.sin(math.pi / 4), 20)
    wanted = 37.5 / (37.5 + 2 * math.sin(math.pi / 4)) - 1
    assert lap_strain(2.0, below, above) == pytest.approx(wanted)
    blank = {
        "kind": "stack",
        "tape_thickness_mm": 0,
        "lip_band_mm": 0,
        "base_band_mm": 0,
        "base": dimension("diameter", 75, instrument="calliper"),
        "sections": [
            {"upper": dimension("diameter", 75, instrument="calliper"), "side": dimension("slant", 60)},
            {
                "upper": dimension("diameter", 75 - 40 * math.sin(math.pi / 4), instrument="calliper"),
                "side": dimension("slant", 20),
            },
        ],
    }
    job = load_job({"blank": blank, "wrap": {"joint_overlap_mm": 2, "film_thickness_um": 0}})
    t = laid(job.wrap, measure(job.blank), FILMS["calendered-gloss"])
    said = next(v for v in t.verdicts if v.code == "unwrap.joint_lap")
    assert said.level == "look" and said.value == pytest.approx(-100 * wanted, rel=1e-6)
    assert said.figures["longer"][0] == pytest.approx(2 * math.pi * 2 * math.sin(math.pi / 4), rel=1e-6)
    safe = load_job({"blank": blank, "wrap": {"joint_overlap_mm": said.fix, "film_thickness_um": 0}})
    again = laid(safe.wrap, measure(safe.blank), FILMS["calendered-gloss"])
    assert next(v for v in again.verdicts if v.code == "unwrap.joint_lap").level == "ok"
