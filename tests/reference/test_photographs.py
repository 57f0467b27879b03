"""Profiles off made-up photographs of bodies known exactly, rendered by projecting the body's own points."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from rendering import BELLIED, jpeg, photograph, profile_of
from wimple_core.job.turned import Photo
from wimple_core.measure.photo import _touching, profile_from, suggest_marks
from wimple_core.measure.silhouette import find_outline

TAPER = (lambda z: 30 + 12 * np.asarray(z) / 100, 100.0)
BELLY = profile_of(BELLIED)


def read(picture: bytes, marks: dict, distance: float, side: str = "both"):  # type: ignore[no-untyped-def, type-arg]
    photo = Photo(file="a.jpg", known=marks["known"], axis=marks["axis"], distance_mm=distance, side=side)  # type: ignore[arg-type]
    return profile_from(find_outline(picture), photo)


@pytest.mark.parametrize("distance", [350.0, 600.0, 1500.0])
@pytest.mark.parametrize("body", [TAPER, BELLY], ids=["taper", "belly"])
def test_profile_within_half_a_millimetre(distance: float, body: tuple) -> None:  # type: ignore[type-arg]
    """Noise, blur, a body off the picture's middle, a lens above its middle: every radius within 0.5 mm (measured:
    0.1 mm)."""
    profile, height = body
    picture, marks = photograph(
        profile, height, distance, noise=5.0, blur=0.7, off_mm=18.0, eye=0.65 * height, seed=int(distance)
    )
    found = read(jpeg(picture), marks, distance)
    inside = (found.z > 1) & (found.z < height - 1)
    assert inside.sum() > 150 and found.z[-1] > 0.9 * height
    assert np.abs(found.r - profile(np.clip(found.z, 0, height)))[inside].max() < 0.5
    assert found.apart is not None and found.apart < 0.3


def test_without_the_distance_the_edge_lies() -> None:
    """What the correction is for: from 350 mm a cup of radius 42 looks 0.3 mm wider, x = r / sqrt(1 - (r / D)^2)."""
    profile, height = (lambda z: np.full_like(np.asarray(z, float), 42.0)), 100.0
    picture, marks = photograph(profile, height, 350.0)
    data = jpeg(picture)
    true = read(data, marks, 350.0)
    far = profile_from(
        find_outline(data), Photo(file="a.jpg", known=marks["known"], axis=marks["axis"], distance_mm=None)
    )
    middle = far.radius_at(50)
    assert middle == pytest.approx(42 / math.sqrt(1 - (42 / 350) ** 2), abs=0.08)
    assert true.radius_at(50) == pytest.approx(42, abs=0.08)


@settings(max_examples=60, deadline=None)
@given(st.floats(20, 60), st.floats(-0.5, 0.5), st.floats(200, 3000), st.floats(-80, 80))
def test_where_lines_of_sight_touch(r0: float, slope: float, distance: float, foot: float) -> None:
    """A cone's outline, found by brute force as the widest direction over all its points, gives back its radii and
    heights."""
    z = np.linspace(0, 60, 241)
    r = r0 + slope * z
    if r.min() < 5 or r.max() > distance * 0.4:
        return
    # The outline of a cone is straight: the tangent plane through the lens touches it along one line. Two of its
    # points suffice.
    phi = np.linspace(0.2, math.pi - 0.2, 40001)
    places = []
    for at in (10.0, 50.0):
        q = r0 + slope * at
        # Of all level circles' points, the silhouette is where the line of sight is square to the normal (cos p, sin
        # p, -slope).
        square = np.cos(phi) * (q * np.cos(phi) - distance) + np.sin(phi) * q * np.sin(phi) - slope * (at + foot)
        p = phi[int(np.argmin(np.abs(square)))]
        depth = distance - q * math.cos(p)
        places.append((q * math.sin(p) * distance / depth, (at + foot) * distance / depth))
    (x0, y0), (x1, y1) = places
    t = np.linspace(0, 1, 50)
    got_r, got_z = _touching(x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, distance)
    assert got_r[0] == pytest.approx(r0 + slope * 10, abs=0.02) and got_r[-1] == pytest.approx(
        r0 + slope * 50, abs=0.02
    )
    assert got_z[0] == pytest.approx(10 + foot, abs=0.05) and got_z[-1] == pytest.approx(50 + foot, abs=0.05)


def test_a_handle_hides_one_edge_and_turned_metadata_is_read() -> None:
    profile, height = BELLY
    picture, marks = photograph(profile, height, 600.0, handle=True, noise=2.0)
    found = read(jpeg(picture, orientation=6), marks, 600.0, side="left")
    inside = (found.z > 1) & (found.z < height - 1)
    assert np.abs(found.r - profile(np.clip(found.z, 0, height)))[inside].max() < 0.5


def test_marks_are_guessed_where_they_are() -> None:
    profile, height = TAPER
    picture, marks = photograph(profile, height, 600.0)
    known, axis = suggest_marks(find_outline(jpeg(picture)))
    assert math.dist(*known) == pytest.approx(math.dist(*marks["known"]), rel=0.01)
    assert max(abs(a[0] - b[0]) for a, b in zip(axis, marks["axis"], strict=True)) < 3
