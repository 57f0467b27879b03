"""Overlap, colours and sets on a load against published figures."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
import pytest
import scipy.stats
import shapely
from wimple_core.layers.colours import colour_difference, contrast_ratio
from wimple_core.layers.misregistration import gap_chance, overlap_for
from wimple_core.sheets.batch import grid


@pytest.mark.parametrize("overlap", [0.2, 0.5, 0.75, 1.0])
def test_gap_chance_is_rayleigh(overlap: float) -> None:
    """A joint shows where the shift, normal in x and y, is longer than the overlap: Rayleigh (scipy.stats), and by
    trying."""
    assert gap_chance(overlap, 0.3) == pytest.approx(scipy.stats.rayleigh(scale=0.3).sf(overlap), rel=1e-12)
    shifts = np.random.default_rng(5).normal(0, 0.3, (400_000, 2))
    assert gap_chance(overlap, 0.3) == pytest.approx((np.hypot(*shifts.T) > overlap).mean(), abs=0.002)
    assert overlap_for(gap_chance(overlap, 0.3), 0.3) == pytest.approx(overlap, rel=1e-12)


# Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula", Color Research and Application 30 (2005): formulas 2
# to 22 and pairs of its table 1, both from memory.
SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
    ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 0, 0), (50, -1, 2), 2.3669),
    ((50, 2.5, 0), (50, 0, -2.5), 4.3065),
    ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]


def ciede2000(one: Sequence[float], other: Sequence[float]) -> float:
    """The formula of the paper, written out."""
    (l1, a1, b1), (l2, a2, b2) = one, other
    c7 = ((math.hypot(a1, b1) + math.hypot(a2, b2)) / 2) ** 7
    g = 1.5 - 0.5 * math.sqrt(c7 / (c7 + 25**7))
    c1, c2 = math.hypot(a1 * g, b1), math.hypot(a2 * g, b2)
    h1, h2 = (math.degrees(math.atan2(b, a * g)) % 360 for a, b in ((a1, b1), (a2, b2)))
    apart = ((h2 - h1 + 180) % 360 - 180) if c1 * c2 else 0.0
    d_h = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(apart / 2))
    c, light = (c1 + c2) / 2, ((l1 + l2) / 2 - 50) ** 2
    h = math.radians((h1 + apart / 2) % 360 if c1 * c2 else h1 + h2)
    t = 1 - 0.17 * math.cos(h - math.radians(30)) + 0.24 * math.cos(2 * h)
    t += 0.32 * math.cos(3 * h + math.radians(6)) - 0.20 * math.cos(4 * h - math.radians(63))
    turn = math.radians(60 * math.exp(-(((math.degrees(h) - 275) / 25) ** 2)))
    in_l = (l2 - l1) / (1 + 0.015 * light / math.sqrt(20 + light))
    in_c, in_h = (c2 - c1) / (1 + 0.045 * c), d_h / (1 + 0.015 * c * t)
    return math.sqrt(in_l**2 + in_c**2 + in_h**2 - 2 * math.sqrt(c**7 / (c**7 + 25**7)) * math.sin(turn) * in_c * in_h)


def lab(colour: str) -> tuple[float, ...]:
    """sRGB (IEC 61966-2-1) to CIELAB under D65 (CIE 15)."""
    rgb = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    rgb = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]) @ rgb
    x, y, z = xyz / (0.9505, 1.0, 1.0890)
    x, y, z = (t ** (1 / 3) if t > (6 / 29) ** 3 else t / (3 * (6 / 29) ** 2) + 4 / 29 for t in (x, y, z))
    return 116 * y - 16, 500 * (x - y), 200 * (y - z)


def test_colours_are_as_far_apart_as_ciede2000_says() -> None:
    for one, other, wanted in SHARMA:
        assert ciede2000(one, other) == pytest.approx(wanted, abs=6e-5)
    some = np.random.default_rng(3).integers(0, 256, (60, 3))
    colours = ["#" + bytes(c).hex() for c in some.astype(np.uint8)] + ["#1c3d7a", "#1b3d7c", "#000000", "#ffffff"]
    for one, other in itertools.pairwise(colours):
        assert colour_difference(one, other) == pytest.approx(ciede2000(lab(one), lab(other)), abs=0.02)


def test_contrast() -> None:
    """WCAG 2.2: #767676 on white is 4.54; black on white 21."""
    assert round(contrast_ratio("#767676", "#ffffff"), 2) == 4.54
    assert contrast_ratio("#000000", "#ffffff") == pytest.approx(21)
    assert colour_difference("#101010", "#111111") < 1 < colour_difference("#101010", "#b98a2f")


@pytest.mark.parametrize(
    ("w", "h", "room", "wanted"),
    [
        (90, 60, (280, 280), (3, 4)),
        (90, 60, (275, 247), (3, 4)),
        (90, 60, (273, 245), (2, 3)),
        (300, 10, (280, 280), (0, 0)),
    ],
)
def test_sets_on_a_load(w: float, h: float, room: tuple[float, float], wanted: tuple[int, int]) -> None:
    """Closed-form counts of evenly spaced boxes: floor((W + gap) / (w + gap))."""
    assert grid((w, h), room, gap=2) == wanted


def test_layers_show_the_artwork_when_stacked(perihelion) -> None:  # type: ignore[no-untyped-def]
    """Laid on one another, lowest first, layers show exactly each colour's region, whichever way they are joined."""
    from wimple_core.layers.joints import join

    built, _ = perihelion
    for joint in ("stacked", "knocked_out"):
        regions = join(built.fit.colours, lambda a, b, j=joint: j, 0.75)
        above = shapely.Polygon()
        for c, region in reversed(list(zip(built.fit.colours, regions, strict=True))):
            showing = shapely.difference(region, above)
            assert shapely.symmetric_difference(showing, c.seen).area < 0.02
            above = shapely.union(above, region)
