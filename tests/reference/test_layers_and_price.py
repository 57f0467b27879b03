"""Overlap, colour and price against published figures."""

from __future__ import annotations

import math
from decimal import Decimal

import numpy as np
import pytest
import scipy.stats
import shapely
from coloraide import Color
from wimple_core.job.document import PricePlan
from wimple_core.layers.colours import colour_difference, contrast_ratio
from wimple_core.layers.misregistration import gap_chance, overlap_for
from wimple_core.pricing.price import margin_and_markup, price_of
from wimple_core.sheets.sheets import grid


@pytest.mark.parametrize("overlap", [0.2, 0.5, 0.75, 1.0])
def test_gap_chance_is_rayleigh(overlap: float) -> None:
    """A joint shows where the shift, normal in x and y, is longer than the overlap: Rayleigh (scipy.stats), and by
    trying."""
    assert gap_chance(overlap, 0.3) == pytest.approx(scipy.stats.rayleigh(scale=0.3).sf(overlap), rel=1e-12)
    shifts = np.random.default_rng(5).normal(0, 0.3, (400_000, 2))
    assert gap_chance(overlap, 0.3) == pytest.approx((np.hypot(*shifts.T) > overlap).mean(), abs=0.002)
    assert overlap_for(gap_chance(overlap, 0.3), 0.3) == pytest.approx(overlap, rel=1e-12)


# Pairs 1 to 7, 13, 17, 20, 25, 30 and 34 of Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula", Color
# Research
# and Application 30 (2005), table 1, from memory; coloraide is the second opinion the product itself uses.
SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
    ((50, 3.1571, -77.2803), (50, 0, -82.7485), 2.8615),
    ((50, 2.8361, -74.0200), (50, 0, -82.7485), 3.4412),
    ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, -1.1848, -84.8006), (50, 0, -82.7485), 1.0000),
    ((50, -0.9009, -85.5211), (50, 0, -82.7485), 1.0000),
    ((50, 0, 0), (50, -1, 2), 2.3669),
    ((50, 2.5, 0), (50, 0, -2.5), 4.3065),
    ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((50, 2.5, 0), (50, 3.2592, 0.3350), 1.0000),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("a", "b", "wanted"), SHARMA)
def test_ciede2000(a: tuple[float, ...], b: tuple[float, ...], wanted: float) -> None:
    found = Color("lab-d65", list(a)).delta_e(Color("lab-d65", list(b)), method="2000")
    assert found == pytest.approx(wanted, abs=6e-5)


def test_contrast() -> None:
    """WCAG 2.2: #767676 on white is 4.54; black on white 21."""
    assert round(contrast_ratio("#767676", "#ffffff"), 2) == 4.54
    assert contrast_ratio("#000000", "#ffffff") == pytest.approx(21)
    assert colour_difference("#101010", "#111111") < 1 < colour_difference("#101010", "#b98a2f")


def test_worked_price() -> None:
    """The worked price of the trade (common practice, no source): 0.38 + 0.26 + 0.10 + 3.99 + 8 min at 12.00/h is 6.33;
    sold at 17.00 it makes 10.67, a margin of 62.8 % and a markup of 168.6 %."""
    cost = Decimal("0.38") + Decimal("0.26") + Decimal("0.10") + Decimal("3.99") + Decimal(8) * Decimal("12.00") / 60
    assert cost == Decimal("6.33")
    margin, markup = margin_and_markup(cost, Decimal("17.00"))
    assert (round(margin, 1), round(markup, 1)) == (Decimal("62.8"), Decimal("168.6"))
    price = price_of(cost, PricePlan(price_from="margin", margin_percent=62.8))
    assert price == pytest.approx(Decimal("17.02"), abs=Decimal("0.01"))
    assert price_of(Decimal(10), PricePlan(price_from="markup", markup_percent=50)) == Decimal(15)


def test_hexagonal_board() -> None:
    """8.95 in across corners is 7.75 in across flats (common practice, no source): 2 f / sqrt 3."""
    assert 2 * 7.75 / math.sqrt(3) == pytest.approx(8.95, abs=0.005)


@pytest.mark.parametrize(
    ("count", "w", "h", "room", "wanted"),
    [(12, 90, 60, (280, 280), (3, 4)), (2, 90, 60, (280, 280), (2, 1)), (5, 300, 10, (280, 280), (0, 0))],
)
def test_sets_on_a_load(count: int, w: float, h: float, room: tuple[float, float], wanted: tuple[int, int]) -> None:
    """Closed-form counts of evenly spaced boxes: floor((W + gap) / (w + gap))."""
    assert grid(count, w, h, *room, gap=2) == wanted


def test_layers_show_the_artwork_when_stacked(perihelion) -> None:  # type: ignore[no-untyped-def]
    """Laid on one another, lowest first, layers show exactly each colour's region, whichever way they are joined."""
    from wimple_core.layers.joints import join

    built, _ = perihelion
    for joint in ("stacked", "knocked_out"):
        regions = join(built.fit.colours, joint, 0.75)
        above = shapely.Polygon()
        for c, region in reversed(list(zip(built.fit.colours, regions, strict=True))):
            showing = shapely.difference(region, above)
            assert shapely.symmetric_difference(showing, c.seen).area < 0.02
            above = shapely.union(above, region)
