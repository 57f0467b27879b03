"""Readings and what their spread does, against published data and a general library."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import uncertainties
import uncertainties.umath as um
from samples import cup, dimension
from scipy import stats
from wimple_core.job import load_job
from wimple_core.measure import measure
from wimple_core.measure.kinds.cup import frustum_from
from wimple_core.measure.readings import grubbs_limit, outlier_of, summarise

# NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.1: eight mass spectrometer readings, the last an outlier.
SPECTROMETER = (199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57)


def test_grubbs_of_the_handbook() -> None:
    """G = 2.4687 against a one-sided critical value of 2.032 at 5 %, both as the handbook gives them."""
    x = np.array(SPECTROMETER)
    assert abs(x - x.mean()).max() / x.std(ddof=1) == pytest.approx(2.4687, abs=1e-4)
    assert grubbs_limit(8, sides=1) == pytest.approx(2.032, abs=5e-4)
    assert outlier_of(x, 0.5) == 7 and outlier_of(x[:-1], 0.5) is None


@pytest.mark.parametrize("count", [3, 5, 12, 40])
def test_grubbs_limit_against_students_distribution(count: int) -> None:
    """The limit's t quantile through scipy.stats instead of its inverse function."""
    t = stats.t.isf(0.05 / (2 * count), count - 2)
    assert grubbs_limit(count) == pytest.approx(
        (count - 1) / math.sqrt(count) * math.sqrt(t * t / (count - 2 + t * t)), rel=1e-9
    )


@pytest.mark.parametrize(
    ("values", "mean", "deviation"),
    [
        # NIST StRD, univariate: NumAcc1 whole, NumAcc3 by its rule (1000000.2, then .1 and .3 in turn, 1001 of them).
        # From memory.
        ((10000001.0, 10000003.0, 10000002.0), 10000002.0, 1.0),
        ((1000000.2, *([1000000.1, 1000000.3] * 500)), 1000000.2, 0.1),
        ((1.2, *([1.1, 1.3] * 500)), 1.2, 0.1),
        ((10000000.2, *([10000000.1, 10000000.3] * 500)), 10000000.2, 0.1),
    ],
)
def test_nist_univariate_sets(values: tuple[float, ...], mean: float, deviation: float) -> None:
    r = summarise(values, 0.5)
    assert r.mean == pytest.approx(mean, rel=1e-15)
    assert r.deviation == pytest.approx(deviation, rel=1e-7)


def figure(raw: dict[str, Any], name: str):  # type: ignore[no-untyped-def]
    found = measure(load_job(raw).blank).consequence(name)
    assert found is not None
    return found


def test_figures_of_a_tapered_cup_by_uncertainties() -> None:
    """Seam, side, drift and free area of a cup by upright height, each by the `uncertainties` package."""
    raw = cup(262.5, 205.0, 80.0)
    raw["blank"]["side"] = dimension("upright", 80.0, instrument="ruler")
    c1, c0, h = (uncertainties.ufloat(v, 0.5) for v in (262.5, 205.0, 80.0))
    step = (c1 - c0) / (2 * math.pi)
    tape = 0.1 * h / um.sqrt(h**2 + step**2)
    r1, r0 = c1 / (2 * math.pi) - tape, c0 / (2 * math.pi) - tape
    slant = um.sqrt(h**2 + (r1 - r0) ** 2)
    k = (r1 - r0) / slant
    low, high = 6.0, slant - 12.0
    area = 2 * math.pi * (r0 * (high - low) + k * (high**2 - low**2) / 2)
    # An edge of curvature kappa laid with d kappa too much leaves it by n, n'' + kappa^2 n = d kappa: at the arc
    # length s n = d kappa (1 - cos(kappa s)) / kappa^2. Here kappa = k / r, s = pi r.
    drift = r1.n * (1 - math.cos(math.pi * k.n)) / k.n**2 * k
    for name, expected in (
        ("seam_top", 2 * math.pi * r1),
        ("seam_bottom", 2 * math.pi * r0),
        ("side", slant),
        ("free_area", area),
        ("edge_drift", drift),
    ):
        got = figure(raw, name)
        assert got.value == pytest.approx(expected.n, rel=1e-5) and got.error == pytest.approx(expected.s, rel=2e-5), (
            name
        )
    shares = dict(figure(raw, "edge_drift").shares)
    parts = {v: abs(d) for v, d in drift.error_components().items()}
    assert shares["upper"] == pytest.approx((parts[c1] / drift.s) ** 2, rel=1e-4) and sum(
        shares.values()
    ) == pytest.approx(1)
    assert (
        figure(raw, "edge_drift").first
        == max((("upper", parts[c1]), ("lower", parts[c0]), ("side", parts[h])), key=lambda p: p[1])[0]
    )


def test_radius_of_a_bend_and_of_a_dome_by_uncertainties() -> None:
    """r = c^2 / (8 h) + h / 2 (segment of a circle, Machinery's Handbook)."""
    c, h = uncertainties.ufloat(400, 0.5), uncertainties.ufloat(12, 0.5)
    r = c**2 / (8 * h) + h / 2
    bend = {
        "blank": {
            "kind": "curved_panel",
            "width": dimension("arc", 600),
            "height": dimension("height", 300),
            "places": [
                {
                    "chord": dimension("chord", 400, instrument="ruler"),
                    "rise": dimension("rise", 12, instrument="ruler"),
                }
            ],
        }
    }
    got = figure(bend, "panel_radius")
    assert (
        got.value == pytest.approx(r.n, rel=1e-12)
        and got.error == pytest.approx(r.s, rel=1e-4)
        and got.first == "places.0.rise"
    )
    base, rise = uncertainties.ufloat(240, 0.1), uncertainties.ufloat(30, 0.5)
    ball = (base / 2) ** 2 / (2 * rise) + rise / 2
    arc = 2 * ball * um.asin(base / 2 / ball)
    dome = {
        "blank": {
            "kind": "dome",
            "base": dimension("diameter", 240, instrument="calliper"),
            "rise": dimension("rise", 30, instrument="ruler"),
        }
    }
    for name, expected in (("panel_radius", ball), ("arc", arc)):
        got = figure(dome, name)
        assert got.value == pytest.approx(expected.n, rel=1e-12) and got.error == pytest.approx(expected.s, rel=1e-3), (
            name
        )


@pytest.mark.parametrize("seed", range(20))
def test_trial_fit_recovers_the_body(seed: int) -> None:
    """A body known exactly, measured wrong at random: the gaps its paper template would show give it back to 1e-6
    mm."""
    g = np.random.default_rng(seed)
    true_top, true_bottom = g.uniform(150, 400, 2)
    side = abs(true_top - true_bottom) + g.uniform(40, 150)
    raw = cup(true_top + g.normal(0, 4), true_bottom + g.normal(0, 4), side, tape_thickness_mm=0)
    body = frustum_from(load_job(raw).blank, measure(load_job(raw).blank).readings)  # type: ignore[arg-type]
    for _ in range(2):  # a second trial of the corrected template shows no gap, and changes nothing
        template = 2 * math.pi * body.radius_upper, 2 * math.pi * body.radius_lower
        trial = {
            "top_mm": true_top - template[0],
            "bottom_mm": true_bottom - template[1],
            "template_top_mm": template[0],
            "template_bottom_mm": template[1],
        }
        raw["blank"].setdefault("trials", []).append(trial)
        measured = measure(load_job(raw).blank)
        body = measured.body  # type: ignore[assignment]
        assert (
            abs(2 * math.pi * body.radius_upper - true_top) < 1e-6
            and abs(2 * math.pi * body.radius_lower - true_bottom) < 1e-6
        )
        assert body.slant == side
    assert len(load_job(raw).blank.trials) == 2  # type: ignore[union-attr]
