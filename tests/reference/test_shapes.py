"""Shapes and recipes against closed forms of geometry (handbook formulas, each named beside its check)."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from pydantic import TypeAdapter
from samples import cup
from wimple_core.artwork import make_artwork
from wimple_core.artwork.shapes import region_of
from wimple_core.errors import BadDrawing, WimpleError
from wimple_core.job import load_job
from wimple_core.job.document import Source
from wimple_core.job.lettering import Lettering
from wimple_core.job.recipes import RECIPES
from wimple_core.job.shapes import FORMS, Form, Shape
from wimple_core.pipeline import build_whole

FORM: TypeAdapter[Any] = TypeAdapter(Form)
SOURCE: TypeAdapter[Any] = TypeAdapter(Source)


def area(**form: Any) -> float:
    return float(region_of(FORM.validate_python(form), 1e-4).area)


def test_areas_in_closed_form() -> None:
    assert area(form="disc", across_mm=30) == pytest.approx(math.pi * 225, rel=1e-4)
    assert area(form="ring", outside_mm=50, inside_mm=40) == pytest.approx(math.pi / 4 * (2500 - 1600), rel=1e-4)
    # Rounded corners take (4 - pi) r^2 of a rectangle.
    assert area(form="rectangle", across_mm=60, tall_mm=40, corner_mm=5) == pytest.approx(
        2400 - (4 - math.pi) * 25, rel=1e-5
    )
    assert area(form="rectangle", across_mm=60, tall_mm=40, corner_mm=0) == 2400
    # A regular polygon in a circle: n / 2 R^2 sin(2 pi / n).
    for n in (3, 6, 17):
        assert area(form="polygon", corners=n, across_mm=50) == pytest.approx(n / 2 * 625 * math.sin(2 * math.pi / n))
    # A star of n points: n R r sin(pi / n).
    for n in (3, 5, 12):
        assert area(form="star", points=n, outside_mm=50, inside_mm=20) == pytest.approx(
            n * 25 * 10 * math.sin(math.pi / n)
        )
    assert area(form="slot", long_mm=20, wide_mm=4) == pytest.approx(16 * 4 + math.pi * 4, rel=1e-4)
    assert area(form="tab", wide_mm=12, long_mm=16) == pytest.approx(12 * 10 + math.pi * 18, rel=1e-4)
    # A sector of a ring: angle times mean radius times width; round ends add a whole circle.
    band = {"form": "arc_band", "radius_mm": 40, "wide_mm": 8, "span_deg": 90}
    assert area(**band) == pytest.approx(math.pi / 2 * 40 * 8, rel=1e-4)
    assert area(**band, round_ends=True) == pytest.approx(math.pi / 2 * 320 + math.pi * 16, rel=1e-4)
    assert area(form="arrow", long_mm=60, shaft_mm=8, head_mm=22, head_long_mm=18) == 42 * 8 + 22 * 18 / 2
    # A hanging middle shears a banner upright and changes no area; each notch takes half its depth times the height.
    for sag in (0, 6, -9):
        banner = area(form="banner", across_mm=80, tall_mm=18, notch_mm=8, sag_mm=sag)
        assert banner == pytest.approx(80 * 18 - 8 * 18, rel=2e-3)


def test_rounded_corners_of_polygons() -> None:
    """A corner of angle a rounded by r loses r^2 (cot(a / 2) - (pi - a) / 2)."""
    for n in (3, 4, 6):
        angle = math.pi * (n - 2) / n
        less = 9 * (1 / math.tan(angle / 2) - (math.pi - angle) / 2)
        sharp = area(form="polygon", corners=n, across_mm=60)
        assert area(form="polygon", corners=n, across_mm=60, corner_mm=3) == pytest.approx(sharp - n * less, rel=1e-4)


def test_all_forms_lie_about_their_middle_or_foot_and_are_valid() -> None:
    for kind in FORMS:
        region = region_of(kind())
        left, low, right, high = region.bounds
        assert region.is_valid and region.geom_type == "Polygon", kind
        assert left == pytest.approx(-right, abs=1e-6), kind


def made(**source: Any) -> Any:
    return make_artwork(SOURCE.validate_python(source))


def radii(art: Any, before: str) -> np.ndarray:
    p = np.concatenate([shapely.get_coordinates(x.region) for x in art.paints if x.name.startswith(before)])
    return np.hypot(p[:, 0], p[:, 1])


def test_words_of_a_ring_stand_in_the_middle_of_the_band() -> None:
    """Capitals of 8 mm in a band from radius 24 to 40 stand between 28 and 36, upper and lower alike; upper words read
    from outside, lower from inside: their feet are nearer the middle above, and further from it below."""
    ring = {"kind": "ring_words", "outside_mm": 80, "band_mm": 16, "letters_mm": 8, "font": "heebo", "tracking": 0}
    art = made(**ring, upper="HILL", lower="HILL")
    for word, feet in (("upper", 28.0), ("lower", 36.0)):
        r = radii(art, word)
        assert r.max() == pytest.approx(36, abs=0.45) and r.min() == pytest.approx(28, abs=0.15)
        (last,) = [p.region for p in art.paints if p.name == f"{word}-1-4"]
        # The foot of an L is where it is widest round.
        points = shapely.get_coordinates(last)
        away = np.hypot(points[:, 0], points[:, 1])
        near = np.abs(away - feet) < 1.2
        a = np.arctan2(points[:, 0], points[:, 1] * (1 if word == "upper" else -1))
        assert np.ptp(a[near]) > 1.5 * np.ptp(a[np.abs(away - (64 - feet)) < 1.2])
    assert shapely.total_bounds([p.region for p in art.paints]).tolist() == pytest.approx([-40, -40, 40, 40], abs=0.01)


def test_lengths_of_ring_words_are_arc_lengths() -> None:
    """A word whose middle line is as long on the circle as on a straight line: middles of its first and last letters
    are as far apart as set straight, along the foot of the letters."""
    ring = made(kind="ring_words", outside_mm=120, band_mm=16, letters_mm=8, font="heebo", upper="HIOHIOH", lower="",
                tracking=0)  # fmt: skip
    straight = made(kind="lettering", text="HIOHIOH", size_mm=8, font="heebo")

    def middle(region: Any) -> np.ndarray:
        return np.array(region.centroid.coords[0])

    letters = [p for p in ring.paints if p.name.startswith("upper")]
    a = [math.atan2(*middle(p.region)) for p in letters]
    x = [middle(p.region)[0] for p in straight.paints]
    foot = 60 - 8 - 4
    assert (a[-1] - a[0]) * foot == pytest.approx(x[-1] - x[0], rel=2e-3)


def test_a_band_knocked_out_is_the_band_less_its_letters() -> None:
    ring = {"kind": "ring_words", "outside_mm": 80, "band_mm": 16, "letters_mm": 8, "rim_mm": 0}
    letters = sum(p.region.area for p in made(**ring).paints)
    (band,) = made(**ring, knocked_out=True).paints
    assert band.region.area == pytest.approx(math.pi * (1600 - 576) - letters, rel=1e-3)


def test_an_insert_is_as_large_as_its_jar_less_the_clearance() -> None:
    bare = {"kind": "jar_insert", "inside_mm": 80, "clearance_mm": 1.5, "face": "", "caution": "", "tab_mm": 0}
    r = 38.5
    assert made(**bare, opening="none").paints[0].region.area == pytest.approx(math.pi * r**2, rel=1e-3)
    assert made(**bare, opening="hole", opening_mm=6).paints[0].region.area == pytest.approx(
        math.pi * (r**2 - 9), rel=1e-3
    )
    # A slot from the edge to a half-round end about the middle: a strip less what the edge's own bow lacks.
    slot = made(**bare, opening="slot", opening_mm=6).paints[0].region
    strip = 2 * (9 * math.sqrt(r**2 - 9) / 6 + r**2 / 2 * math.asin(3 / r)) + math.pi * 9 / 2
    assert slot.area == pytest.approx(math.pi * r**2 - strip, rel=1e-3) and not slot.interiors
    tabbed = made(**{**bare, "tab_mm": 12}, opening="none").paints[0].region
    assert tabbed.bounds[3] == pytest.approx(r + 12, abs=0.02) and tabbed.geom_type == "Polygon"


def test_filled_words_fill_their_rectangle() -> None:
    art = made(kind="filled_words", text="look\nup at night\nO", across_mm=70, tall_mm=55)
    assert art.bounds == pytest.approx((-35, -27.5, 35, 27.5), abs=1e-6)
    lines = [shapely.total_bounds([p.region for p in art.paints if p.name.startswith(f"{n}-")]) for n in (1, 2, 3)]
    assert all(x[0] == pytest.approx(-35) and x[2] == pytest.approx(35) for x in lines)
    gaps = [lines[0][1] - lines[1][3], lines[1][1] - lines[2][3]]
    assert gaps[0] == pytest.approx(gaps[1]) and gaps[0] > 0


def job_fields(source: dict[str, Any]) -> set[str]:
    """All fields a source of that kind may have, and those of its form."""
    of = {m.model_fields["kind"].default: set(m.model_fields) for m in (Lettering, Shape, *RECIPES)}
    forms = {f for form in FORMS for f in form.model_fields}
    return of.get(source["kind"], set()) | forms


@pytest.mark.parametrize(
    ("source", "field"),
    [
        ({"kind": "shape", "form": {"form": "ring", "outside_mm": 30, "inside_mm": 30}}, "form"),
        ({"kind": "shape", "form": {"form": "rectangle", "across_mm": 30, "tall_mm": 9, "corner_mm": 5}}, "corner_mm"),
        ({"kind": "shape", "form": {"form": "star", "points": 2}}, "points"),
        ({"kind": "shape", "form": {"form": "polygon", "across_mm": 20, "corner_mm": 15}}, "corner_mm"),
        ({"kind": "shape", "form": {"form": "arrow", "long_mm": 10, "head_long_mm": 10}}, "head_long_mm"),
        ({"kind": "shape", "form": {"form": "banner", "notch_mm": 40}}, "notch_mm"),
        ({"kind": "shape", "form": {"form": "arc_band", "radius_mm": 3, "wide_mm": 8}}, "wide_mm"),
        ({"kind": "ring_words", "upper": "long " * 30, "letters_mm": 8}, "letters_mm"),
        ({"kind": "ring_words", "upper": "", "lower": ""}, "source"),
        ({"kind": "ring_words", "letters_mm": 15}, "source"),
        ({"kind": "ring_words", "upper": "two\nlines"}, "upper"),
        ({"kind": "jar_insert", "face": "far too wide a name for it"}, "face_mm"),
        ({"kind": "jar_insert", "caution_mm": 6}, "caution_mm"),
        ({"kind": "jar_insert", "inside_mm": 12}, "source"),
        ({"kind": "filled_words", "text": " "}, "text"),
        ({"kind": "ring_words", "font": "none"}, "font"),
        ({"kind": "ring_words", "lower": "😀"}, "source.lower"),
        ({"kind": "jar_insert", "face": "😀"}, "source.face"),
        ({"kind": "shape", "form": {"form": "disc", "across_mm": 50_000}}, "source.form.across_mm"),
        ({"kind": "shape", "form": {"form": "disc", "across_mm": -5}}, "source.form.across_mm"),
        ({"kind": "shape", "form": {"form": "hat"}}, "source.form"),
        ({"kind": "cloud"}, "source"),
    ],
)
def test_measures_that_make_nothing_are_said_at_their_field(source: dict[str, Any], field: str) -> None:
    raw = {**cup(), "elements": [{"source": source, "placements": [{"up_mm": 45}]}]}
    with pytest.raises(WimpleError) as bad:
        build_whole(load_job(raw), {})
    known = {"elements", "0", "source", "form", *job_fields(source)}
    assert bad.value.field.startswith("elements.0.source") and field in bad.value.field
    assert set(bad.value.field.split(".")) <= known, bad.value.field  # no names of alternatives
    assert bad.value.hint or bad.value.faults[0].hint
    assert BadDrawing


def test_what_is_knocked_out_is_gone_from_all_beneath_and_from_nothing_above() -> None:
    def disc(mm: float, **more: Any) -> dict[str, Any]:
        shape = {"kind": "shape", "form": {"form": "disc", "across_mm": mm}, "colour": more.pop("colour", "#1c3d7a")}
        return {"source": shape, "placements": [{"up_mm": 100}], **more}

    panel = {"blank": {"kind": "panel", "width": {"reads": "width", "readings": [300]},
                       "height": {"reads": "height", "readings": [200]}}}  # fmt: skip
    every = [disc(60), disc(40, colour="#aa0000"), disc(20, knocks_out=True), disc(10, colour="#00aa00")]
    b = build_whole(load_job({**panel, "elements": every}), {})
    by = {c.colour: c for c in b.fit.colours}  # type: ignore[union-attr]
    quarter = math.pi / 4
    assert by["#aa0000"].seen.area == pytest.approx(quarter * (1600 - 400), rel=1e-3)
    assert by["#1c3d7a"].painted.area == pytest.approx(quarter * (3600 - 400), rel=1e-3)
    assert by["#00aa00"].seen.area == pytest.approx(quarter * 100, rel=4e-3)
    assert b.layers is not None and len(b.layers.layers) == 3


def test_tally_marks_stand_where_their_volumes_do() -> None:
    """Volume of a frustum, pi H / 3 (r0^2 + r0 r1 + r1^2) (CRC Standard Mathematical Tables), from the inner floor,
    3 mm up (common practice, no source), to each line's middle; lines between two part their volume evenly."""
    quantities = [50, 125, 290.5]
    raw = {**cup(262.5, 205.0, 96.0, wall_mm=0, tape_thickness_mm=0)}
    raw["elements"] = [{"source": {"kind": "tally", "quantities": "290.5 50 125", "between": 2, "thick_mm": 0.8}}]
    for up in (10, 80):
        raw["elements"][0]["placements"] = [{"up_mm": up, "centre_deg": 180, "turn_deg": 40}]
        b = build_whole(load_job(raw), {}, "artwork")
        r0, r1 = 205 / (2 * math.pi), 262.5 / (2 * math.pi)
        upright = math.sqrt(96**2 - (r1 - r0) ** 2) / 96

        def held(s: float, r0: float = r0, r1: float = r1, upright: float = upright) -> float:
            low, high = 3.0, s * upright
            a, c = (r0 + (r1 - r0) * h / (96 * upright) for h in (low, high))
            return math.pi * (high - low) / 3 * (a * a + a * c + c * c) / 1000

        found = {}
        for part, name in zip(*b.fit.colours[0].pieces, strict=True):  # type: ignore[union-attr]
            if "line" in name:
                p = shapely.get_coordinates(part)
                s = b.template.surface.wrap(p[:, 0], p[:, 1])[1]  # type: ignore[union-attr]
                found[name.partition("/")[2]] = held((s.min() + s.max()) / 2)
        assert [found[f"line {q:g}"] for q in quantities] == pytest.approx(quantities, rel=1e-4)
        assert found["line 1 under 125"] == pytest.approx(75, rel=1e-4)
        assert found["line 2 under 290.5"] == pytest.approx(125 + 2 * 165.5 / 3, rel=1e-4)


@pytest.mark.parametrize(
    ("source", "blank", "field", "said"),
    [
        ({"quantities": "100 9000"}, {}, "elements.0.source.quantities", "run over"),
        ({"quantities": "100", "between": 9, "thick_mm": 3}, {}, "elements.0.source.between", "apart"),
        ({}, {"wall": "double"}, "elements.0.source.kind", "double"),
    ],
)
def test_tally_marks_that_cannot_be_are_said(source: Any, blank: Any, field: str, said: str) -> None:
    raw = {**cup(**blank), "elements": [{"source": {"kind": "tally", **source}}]}
    with pytest.raises(BadDrawing) as bad:
        build_whole(load_job(raw), {}, "artwork")
    assert bad.value.field == field and said in bad.value.message and bad.value.hint


@pytest.mark.parametrize("quantities", ["", "100 x", "0 5", "5 5", "-3"])
def test_quantities_are_numbers_each_once(quantities: str) -> None:
    with pytest.raises(WimpleError) as bad:
        load_job({**cup(), "elements": [{"source": {"kind": "tally", "quantities": quantities}}]})
    assert bad.value.field == "elements.0.source.quantities"


def test_an_outline_is_as_wide_as_it_says() -> None:
    """Steiner's formula for a convex shape: A + P d + pi d^2 (of each letter I, a bar); the second lies over it."""
    raw = {"kind": "outlined_words", "text": "I", "font": "barlow-condensed", "letters_mm": 20, "outline_mm": 2}
    art = make_artwork(SOURCE.validate_python({**raw, "second_mm": 1.5}))
    second, first, bar = (p.region for p in art.paints)
    for grown, by in ((first, 2.0), (second, 3.5)):
        assert grown.area == pytest.approx(bar.area + bar.length * by + math.pi * by**2, rel=2e-3)
    hollow = make_artwork(SOURCE.validate_python({**raw, "text": "O", "filled": False})).paints[0].region
    filled = make_artwork(SOURCE.validate_python({**raw, "text": "O"})).paints[0].region
    assert len(hollow.interiors if hollow.geom_type == "Polygon" else hollow.geoms[0].interiors) == 1
    assert shapely.get_num_interior_rings(shapely.get_parts(filled)).sum() == 0
