"""Where level is found: the lowest edge of what is really laid, against 10,000 places along its own edges, carried back
to the wall by the closed form (geometry.md, "One formula for cylinder and cone")."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
import shapely
from samples import EXAMPLES, cup, element, example, svg
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build

DRAWN = svg('<rect x="5" y="20" width="90" height="60" fill="#1c3d7a"/><circle cx="50" cy="50" r="15" fill="#efc22a"/>')


def reach_by_hand(regions: list[shapely.Geometry], r0: float, k: float) -> tuple[float, float]:
    """s = (k (x^2 + y^2) + 2 r0 y) / (m + r0), m = hypot(k x, k y + r0): the lowest and the highest."""
    low, high = math.inf, -math.inf
    for part in shapely.get_parts(regions):
        for ring in [part.exterior, *part.interiors]:
            at = shapely.get_coordinates(shapely.line_interpolate_point(ring, np.linspace(0, ring.length, 10_000)))
            x, y = at.T
            s = (k * (x**2 + y**2) + 2 * r0 * y) / (np.hypot(k * x, k * y + r0) + r0)
            low, high = min(low, float(s.min())), max(high, float(s.max()))
    return low, high


def level_of(b):  # type: ignore[no-untyped-def]
    step = next(s for s in b.layup.steps if s.title == "Find level")
    return step.figures["height"][0], step.figures["upright"][0], step


def lay(**more):  # type: ignore[no-untyped-def]
    place = {"width_mm": 90, "up_mm": 50, **more.pop("place", {})}
    one = {**element("a.svg", place), **more.pop("element", {})}
    return build(load_job({**cup(262, 205, 80), "elements": [one], **more}), {"a.svg": DRAWN})


CASES = {
    "plain": {},
    "flat": {"place": {"way": "flat"}},
    "flat and turned": {"place": {"way": "flat", "turn_deg": 20}},
    "with a base": {"layers": {"base": {"colour": "#ffffff", "outline_mm": 3}}},
    "repeated": {"place": {"width_mm": 30, "repeat": 5}},
    "a pattern": {"place": {"width_mm": 12}, "element": {"pattern": {"lattice": "half_drop", "pitch_mm": 15}}},
    "printed with a border": {"element": {"printed": {"border_mm": 4}}},
}


@pytest.mark.parametrize("name", CASES)
def test_level_is_found_at_the_lowest_edge_of_what_is_laid(name: str) -> None:
    b = lay(**json.loads(json.dumps(CASES[name])))
    surface = b.template.surface
    regions = [la.region for la in b.layers.layers]
    if "printed" in name:
        regions = [shapely.union_all([c.seen for d in b.fit.drawings for c in d.colours]).buffer(4)]
    height, upright, _ = level_of(b)
    wanted, _ = reach_by_hand(regions, surface.scale_at(0.0), surface.k)
    assert height == pytest.approx(wanted, abs=0.02), name
    # A gauge stands upright: by the lean of the wall, of which k is the sine.
    body = b.body.body
    assert upright == pytest.approx(height * math.cos(math.asin(body.k)), abs=1e-6)


def test_a_gauge_on_a_leaning_cup_is_not_told_the_way_along_the_wall() -> None:
    raw = cup(2 * math.pi * 60, 2 * math.pi * 25, 90)
    raw["blank"]["wall"] = "double"
    one = element("a.svg", {"width_mm": 40, "up_mm": 45})
    b = build(load_job({**raw, "elements": [one]}), {"a.svg": DRAWN})
    height, upright, step = level_of(b)
    assert math.degrees(math.asin(b.body.body.k)) == pytest.approx(22.9, abs=0.1)
    assert upright == pytest.approx(height * math.cos(math.radians(22.9)), abs=0.02) and height - upright > 1
    words = step.words()
    assert f"{height:.1f} mm above the lower line, along the wall" in words
    assert f"height gauge {upright:.1f} mm above it, straight up" in words


def test_the_lowest_star_of_a_pattern() -> None:
    raw = example("taper-stars")
    job = load_job(raw)
    files = {f: (EXAMPLES / "drawings" / f).read_bytes() for f in job.drawings}
    b = build(job, files)
    surface = b.template.surface
    wanted, _ = reach_by_hand([la.region for la in b.layers.layers], surface.scale_at(0.0), surface.k)
    assert level_of(b)[0] == pytest.approx(wanted, abs=0.02) and wanted < 5


@pytest.mark.parametrize(("width", "closes"), [(60, False), (150, False), (231, True)])
def test_only_what_goes_all_round_is_told_to_close_its_seam(width: float, closes: bool) -> None:
    words = " ".join(s.words() for s in lay(place={"width_mm": width, "up_mm": 40}).layup.steps)
    assert ("close the seam last" in words) is closes


def test_a_bleed_is_trimmed_and_nothing_else_is() -> None:
    raw = example("case-lid-stars")
    raw["elements"][0]["pattern"]["bleed_mm"] = 3
    trimmed = {}
    for bleed in (3, 0):
        raw["elements"][0]["pattern"]["bleed_mm"] = bleed
        files = {f: (EXAMPLES / "drawings" / f).read_bytes() for f in load_job(raw).drawings}
        steps = build(load_job(raw), files).layup.steps
        trimmed[bleed] = [s.words() for s in steps if s.title == "Trim the edge"]
        titles = [s.title for s in steps]
        assert not bleed or titles.index("Trim the edge") == titles.index("Apply") + 1
    assert trimmed[0] == [] and "3.0 mm" in trimmed[3][0]


WHOLE_CUP = svg('<rect width="110" height="40" fill="#1c3d7a"/>')


@pytest.mark.parametrize(
    ("place", "drawn"),
    [
        ({"width_mm": 110, "up_mm": 21, "way": "flat"}, WHOLE_CUP),
        ({"width_mm": 110, "up_mm": 21, "way": "flat", "turn_deg": 12}, WHOLE_CUP),
        ({"width_mm": 90, "up_mm": 44, "way": "flat"}, DRAWN),
        ({"width_mm": 90, "up_mm": 44, "way": "conformal"}, DRAWN),
        ({"width_mm": 90, "up_mm": 44, "way": "even", "turn_deg": -30}, DRAWN),
    ],
)
def test_what_is_clear_and_what_runs_over_is_so_along_every_edge(place: dict[str, object], drawn: bytes) -> None:
    one = element("a.svg", place)
    b = build(load_job({**cup(262, 205, 80), "elements": [one]}), {"a.svg": drawn}, "artwork")
    surface, free = b.template.surface, b.template.limits

    def out_of(b) -> float:  # type: ignore[no-untyped-def]
        low, high = reach_by_hand([c.seen for c in b.fit.colours], surface.scale_at(0.0), surface.k)
        return max(free.low - low, high - free.high)

    out, said = out_of(b), next(v for v in b.verdicts if v.code == "artwork.keep_out")
    assert (said.level == "stop") == (out > 0.05)
    assert said.value == pytest.approx(out, abs=0.02) if out > 0 else said.value <= -out + 0.02


def test_a_copy_that_runs_into_the_handle_is_said_though_the_first_does_not() -> None:
    handled = cup(handle={"width_mm": 30})["blank"]
    one = element("a.svg", {"width_mm": 30, "up_mm": 45, "repeat": 4, "centre_deg": 0})
    b = build(load_job({"blank": handled, "elements": [one]}), {"a.svg": DRAWN}, "artwork")
    said = next(v for v in b.verdicts if v.code == "artwork.keep_out")
    reach = max(math.degrees(abs(math.remainder(a - math.pi, 2 * math.pi))) for a in b.fit.drawings[0].span_a)
    assert said.level == "stop" and "A copy of" in said.sentence() and "handle" in said.sentence(), (said, reach)
    one["placements"][0]["repeat"] = 1
    b = build(load_job({"blank": handled, "elements": [one]}), {"a.svg": DRAWN}, "artwork")
    assert next(v for v in b.verdicts if v.code == "artwork.keep_out").level == "ok"
