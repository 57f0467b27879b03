"""Templates: areas in closed form, zones, continuity from cone to cylinder, and the drawing out of them."""

from __future__ import annotations

import math
import re
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import cup, element, example, laid, svg
from wimple_core.cache import StageCache
from wimple_core.errors import WimpleError
from wimple_core.export.svg import layer_svg, template_svg, to_page
from wimple_core.job import load_job
from wimple_core.measure import measure
from wimple_core.pipeline import build_whole as build
from wimple_core.surface.frustum import develop, undevelop
from wimple_core.surface.layout import ARC_TOLERANCE_MM, band
from wimple_core.surface.surface import RoundWall
from wimple_core.verdict import STEPS, Verdict, grade, worst


def template(raw: dict):  # type: ignore[no-untyped-def, type-arg]
    job = load_job(raw)
    measured = measure(job.blank)
    return measured, laid(job.wrap, measured)


@settings(max_examples=80, deadline=None)
@given(
    k=st.floats(-0.3, 0.3),
    r0=st.floats(20, 60),
    left=st.floats(-3, 0),
    right=st.floats(0.05, 3),
    low=st.floats(0, 20),
    tall=st.floats(1, 40),
    overlap=st.floats(0, 5),
)
def test_area_of_a_band(
    k: float, r0: float, left: float, right: float, low: float, tall: float, overlap: float
) -> None:
    """Integral of r over angle and height, and an overlap of the same length at every height: (right - left) (r0 + k
    s) ds + o ds."""
    high = low + tall
    if r0 + k * high < 2:
        return
    area = (right - left) * (r0 * tall + k * (high**2 - low**2) / 2) + overlap * tall
    outline = band(RoundWall(r0, k), left, right, low, high, overlap)
    # A chord leaves its arc by no more than that, whatever the area between the two arcs.
    assert outline.area == pytest.approx(area, rel=2e-4, abs=ARC_TOLERANCE_MM * outline.length)


@pytest.mark.parametrize("tiny", [1e-6, 1e-9, 1e-12, 1e-14, -1e-9, -1e-13])
def test_cone_becomes_cylinder_without_a_jump(tiny: float) -> None:
    phi, s = np.linspace(-3, 3, 41), np.linspace(0, 100, 41)
    x, y = develop(phi, s, 40.0, tiny)
    assert np.abs(x - 40 * phi).max() < 500 * abs(tiny) + 1e-10
    assert np.abs(y - s).max() < 500 * abs(tiny) + 1e-10
    back_phi, back_s = undevelop(x, y, 40.0, tiny)
    assert np.abs(back_phi - phi).max() < 1e-11 and np.abs(back_s - s).max() < 1e-9


def test_a_cup_upside_down_has_the_same_template_turned() -> None:
    _, up = template(cup(262.5, 205.0, 96.0, tape_thickness_mm=0))
    _, down = template(cup(205.0, 262.5, 96.0, tape_thickness_mm=0))
    assert up.outline.area == pytest.approx(down.outline.area, rel=1e-9)
    assert up.sector.angle == pytest.approx(down.sector.angle, rel=1e-12)
    turned = shapely.transform(down.outline, lambda p: p * (1, -1))
    moved = shapely.transform(turned, lambda p: p - turned.bounds[:2] + up.outline.bounds[:2])
    assert shapely.symmetric_difference(moved, up.outline).area < 1e-3


@pytest.mark.parametrize("hand", ["left", "right"])
def test_free_template_leaves_out_lip_base_and_handle(hand: str) -> None:
    raw = {
        **cup(262.5, 205.0, 96.0, handle={"width_mm": 46}, hand=hand, lip_band_mm=14, base_band_mm=9),
        "wrap": {"extent": "free"},
    }
    measured, t = template(raw)
    coords = shapely.get_coordinates(t.outline)
    a, s = t.surface.wrap(coords[:, 0], coords[:, 1])
    assert s.min() == pytest.approx(9, abs=1e-6) and s.max() == pytest.approx(96 - 14, abs=1e-6)
    from_handle = np.abs((a - measured.free.handle + math.pi) % (2 * math.pi) - math.pi)
    narrowest = min(t.surface.scale_at(9), t.surface.scale_at(82))
    assert from_handle.min() * narrowest >= 23 - 0.05


def test_lines_read_below_the_rim_use_up_the_lip_band() -> None:
    at_rim, _ = template(cup(lip_band_mm=12, base_band_mm=6))
    below, _ = template(cup(lip_band_mm=12, base_band_mm=6, rim_mm=12, foot_mm=6))
    assert (at_rim.free.low, at_rim.free.high) == (6, 84) and (below.free.low, below.free.high) == (0, 96)
    assert below.volume_ml > at_rim.volume_ml


def test_overlap_is_the_part_beyond_the_seam() -> None:
    _, t = template({**cup(), "wrap": {"overlap_mm": 4}})
    assert t.overlap.area == pytest.approx(4 * 96, rel=0.01) and t.outline.contains(t.overlap.buffer(-0.01))
    gap = template({**cup(), "wrap": {"overlap_mm": -4}})[1]
    assert gap.overlap is None and gap.outline.area < t.outline.area - 7 * 96


def test_y_is_turned_for_the_page_and_names_are_escaped(perihelion) -> None:  # type: ignore[no-untyped-def]
    assert to_page(np.array([[1.0, 2.0]]), (0, 0, 10, 10)).tolist() == [[1.0, 8.0]]
    built, _ = perihelion
    text = template_svg(built.template)
    root = ElementTree.fromstring(text)
    outline = next(e for e in root if e.get("id") == "outline").get("d") or ""
    ys = [float(v) for v in re.findall(r"-?[\d.]+ (-?[\d.]+)", outline)]
    assert min(ys) == pytest.approx(0, abs=0.3) and max(ys) == pytest.approx(
        built.template.outline.bounds[3] - built.template.outline.bounds[1], abs=0.3
    )
    strange = build(
        load_job({**cup(), "elements": [element("a.svg", {"width_mm": 30, "up_mm": 45})]}),
        {"a.svg": svg('<rect width="9" height="9"/>')},
        "layers",
    )
    layer = strange.layers.layers[0]
    ElementTree.fromstring(layer_svg(layer, layer.cuts.bounds))


def test_levels() -> None:
    assert grade(0.5, 0.5) == "ok" and grade(0.51, 0.5) == "look" and grade(4, 0.5, 3) == "stop"
    assert worst([]) is None
    plain = Verdict(
        "measure.x", "measure", "look", 1.0, 0.5, "mm", "{value} (limit {limit}).", "Do {n}.", {"n": (25.4, "mm")}
    )
    assert plain.sentence() == "1.0 mm (limit 0.5 mm). Do 25.4 mm." and plain.sentence("in_fraction").endswith(
        "Do 1 in."
    )
    assert worst([plain]) == "look"


@pytest.mark.parametrize("name", ["perihelion-cup", "star-atlas-mug", "comet-door", "acceptance-cup"])
def test_verdicts_are_whole(name: str) -> None:
    """A code that starts with its step, a sentence that ends, a unit that is known, a field that is there."""
    raw = example(name)
    from samples import drawing

    job = load_job(raw)
    built = build(job, {name: drawing(name) for name in job.drawings})
    dumped = built.job.model_dump()
    for v in built.verdicts:
        assert (
            v.step in STEPS
            and v.sentence()[-1] in ".!"
            and v.unit in ("mm", "ml", "mm2", "%", "deg", "ratio", "count", "h", "s", "")
        )
        node = dumped
        for part in [p for p in v.field.split(".") if p][:-1]:
            node = (
                node[int(part)]
                if part.isdigit() and int(part) < len(node)
                else node.get(part, {})
                if isinstance(node, dict)
                else {}
            )


def test_one_cache_serves_many_threads() -> None:
    art = {"a.svg": svg('<rect width="60" height="20" fill="#1c3d7a"/><circle cx="30" cy="10" r="6" fill="#f2d22e"/>')}
    jobs = [
        load_job({**cup(), "elements": [element("a.svg", {"width_mm": 20 + n % 7, "up_mm": 40 + n % 5})]})
        for n in range(40)
    ]
    cache = StageCache(size=20)
    with ThreadPoolExecutor(8) as pool:
        together = list(pool.map(lambda j: build(j, art, cache=cache), jobs))
    for job, built in zip(jobs, together, strict=True):
        alone = build(job, art)
        assert [v.sentence() for v in built.verdicts] == [v.sentence() for v in alone.verdicts]
        assert built.layers.layers[0].area == alone.layers.layers[0].area  # type: ignore[union-attr]


def test_nothing_is_kept_of_a_stage_that_failed() -> None:
    cache, calls = StageCache(), []

    def fail() -> object:
        calls.append(1)
        raise WimpleError("no")

    for _ in range(2):
        with pytest.raises(WimpleError):
            cache.get(("k",), fail)
    assert len(calls) == 2 and cache.get(("k",), lambda: 7) == 7 and cache.get(("k",), lambda: 8) == 7


def test_a_cache_keeps_to_its_bytes() -> None:
    """Ten results of a megabyte each in three: the newest three are there, whatever they are held in."""
    cache = StageCache(most_bytes=3_200_000)
    ring = shapely.Point(0, 0).buffer(1, quad_segs=15_625)
    makes: list[Any] = [
        lambda: np.zeros(125_000),
        lambda: {"deep": [(np.zeros(62_500), "x" * 500_000)]},
        lambda: shapely.MultiPolygon([ring]),
        lambda: SimpleNamespace(parts=np.array([ring, ring, None], dtype=object)),
    ]
    for n in range(10):
        cache.get((n,), makes[n % 4])
    assert 2_900_000 < cache.held_bytes < 3_200_000
    assert [isinstance(cache.get((n,), lambda: "gone"), str) for n in (6, 7, 8, 9)] == [True, False, False, False]
    cache.get(("huge",), lambda: np.zeros(1_000_000))
    assert isinstance(cache.get(("huge",), lambda: "gone"), np.ndarray) and cache.held_bytes < 8_100_000
