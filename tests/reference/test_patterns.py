"""Patterns: counts, pitches and closure in closed form (geometry of lattices, derived by hand), distances measured on
what was laid."""

from __future__ import annotations

import math
import subprocess
import sys
from functools import partial
from typing import Any

import numpy as np
import pytest
import shapely
from samples import ROOT, cup, element, svg
from scipy.spatial import cKDTree
from wimple_core.built import Build
from wimple_core.errors import BadDocument, DoesNotFit
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole
from wimple_core.surface.surface import RoundWall

DISC = {"kind": "shape", "form": {"form": "disc", "across_mm": 6}}
FLAG = svg('<path d="M10 10h40v20h-20v20h-20z" fill="#1c3d7a"/><path d="M12 12h8v8h-8z" fill="#d8a21b"/>')
STRAIGHT = cup(250, 250, 100)["blank"]
TAPERED = cup(270, 200, 100)["blank"]
PANEL = {
    "kind": "panel",
    "width": {"reads": "width", "readings": [300]},
    "height": {"reads": "height", "readings": [200]},
}


def build(blank: dict[str, Any], source: Any = DISC, up: float = 50, upto: str = "artwork", **pattern: Any) -> Build:
    one = {"source": source, "placements": [{"up_mm": up, "width_mm": 6}], "pattern": pattern}
    return build_whole(load_job({"blank": blank, "elements": [one]}), {"a.svg": FLAG}, upto)  # type: ignore[arg-type]


def middles(b: Build) -> np.ndarray:
    """Middles of all pieces on the surface: angle and height."""
    assert b.fit is not None and b.template is not None
    parts = np.concatenate([c.pieces[0] for c in b.fit.colours])
    p = shapely.get_coordinates(shapely.centroid(parts))
    return np.column_stack(b.template.surface.wrap(p[:, 0], p[:, 1]))


def places(b: Build) -> Any:
    assert b.fit is not None
    return b.fit.drawings[0].pattern.places  # type: ignore[union-attr]


def rows_of(s: np.ndarray) -> list[float]:
    return sorted({round(float(x), 2) for x in s})


@pytest.mark.parametrize("pitch", [11.0, 17.3, 23.9])
def test_round_a_cylinder_the_pitch_is_changed_to_meet_itself(pitch: float) -> None:
    """n = round(C / p) motifs at angles 2 pi / n apart, the one that lies over the seam in two parts of one circle."""
    b = build(STRAIGHT, lattice="square", pitch_mm=pitch)
    surface = b.template.surface  # type: ignore[union-attr]
    around = 2 * math.pi * surface.scale_at(0)
    n = round(around / pitch)
    p = places(b)
    assert p.number == (n, n) and p.pitch == pytest.approx(around / n)
    a = np.sort(np.mod(p.a[p.row == 0], 2 * math.pi))
    assert len(a) == n and np.allclose(np.diff(a), 2 * math.pi / n)
    assert np.allclose(np.diff(rows_of(p.s)), pitch, atol=0.011)
    area = sum(c.seen.area for c in b.fit.colours)  # type: ignore[union-attr]
    assert area == pytest.approx(len(p) * math.pi * 9, rel=5e-3)
    (said,) = [v for v in b.verdicts if v.code == "artwork.pattern"]
    assert said.value == pytest.approx(abs(100 * (around / n / pitch - 1))) and f"{len(p)} in all" in said.sentence()


@pytest.mark.parametrize(
    ("lattice", "even", "row", "odd_shift"),
    [("square", False, 1.0, 0.0), ("brick", False, 1.0, 0.5), ("hexagonal", False, math.sqrt(3) / 2, 0.5)],
)
def test_lattices_round_a_cylinder(lattice: str, even: bool, row: float, odd_shift: float) -> None:
    b = build(STRAIGHT, lattice=lattice, pitch_mm=17)
    p = places(b)
    n = p.number[0]
    heights = rows_of(p.s)
    assert np.allclose(np.diff(heights), 17 * row, atol=0.011)
    first = np.mod(p.a[p.row == 0] * n / (2 * math.pi), 1)
    odd = np.mod(p.a[p.row == 1] * n / (2 * math.pi), 1)
    assert np.allclose(np.mod(odd - first[0] + 1e-6, 1), odd_shift, atol=1e-5)


def test_neighbours_that_alternate_are_even_in_number() -> None:
    for lattice in ("half_drop", "mirrored"):
        for pitch in (13.0, 19.5, 33.0, 40.0):
            p = places(build(STRAIGHT, lattice=lattice, pitch_mm=pitch))
            assert p.number[0] % 2 == 0 and abs(p.pitch - pitch) <= p.pitch * 1.0 / (p.number[0] - 1) * 1.1
    p = places(build(STRAIGHT, lattice="half_drop", pitch_mm=20))
    # Every other column stands half a row higher.
    column = np.rint(np.mod(p.a, 2 * math.pi) / (2 * math.pi) * p.number[0]).astype(int) % 2
    assert np.allclose(np.mod(p.s[column == 1] - p.s[column == 0][0], 20), 10)
    mirrored = build(STRAIGHT, {"kind": "file", "file": "a.svg"}, lattice="mirrored", pitch_mm=20)
    assert places(mirrored).mirrored.mean() == pytest.approx(0.5, abs=0.1)


def test_conformal_on_a_taper_keeps_shapes_and_grows_as_the_wall() -> None:
    """Tiles keep their shape: every motif is as large as the radius where it lies, and the distance to its neighbours
    in the row and in the next row keeps its proportion (rows scaled by exp(k h / r_c))."""
    b = build(TAPERED, lattice="square", pitch_mm=15)
    p, surface = places(b), b.template.surface  # type: ignore[union-attr]
    assert isinstance(surface, RoundWall) and abs(surface.k) > 0.05
    r = surface.r0 + surface.k * p.s
    assert np.allclose(p.size, r / surface.scale_at(50))
    heights = np.array(sorted({round(float(s), 9) for s in p.s}))
    radii = surface.r0 + surface.k * heights
    assert np.allclose(radii[1:] / radii[:-1], math.exp(surface.k * 15 / surface.scale_at(50)))
    assert {int((p.row == n).sum()) for n in np.unique(p.row)} == {p.number[0]}
    parts = np.concatenate([c.pieces[0] for c in b.fit.colours])  # type: ignore[union-attr]
    # Circles stay round, but those that the seam parts: 4 pi A / P^2 of a disc of as many corners.
    round_ = 4 * math.pi * shapely.area(parts) / shapely.length(parts) ** 2
    assert (round_ > 0.99).sum() >= len(p) - len(np.unique(p.row))


def test_rings_on_a_taper_have_motifs_of_one_size_and_their_own_number() -> None:
    b = build(TAPERED, lattice="brick", pitch_mm=15, taper="rings")
    p, surface = places(b), b.template.surface  # type: ignore[union-attr]
    assert np.all(p.size == 1)
    for n in np.unique(p.row):
        mine = p.row == n
        r = surface.scale_at(float(p.s[mine][0]))
        assert mine.sum() == round(2 * math.pi * r / 15)
    parts = np.concatenate([c.pieces[0] for c in b.fit.colours])  # type: ignore[union-attr]
    whole = shapely.area(parts)[shapely.area(parts) > 25]
    assert np.ptp(whole) < 0.4 and p.number[0] < p.number[1]


def test_at_the_seam_it_meets_exactly() -> None:
    """What is cut off at one end is what stands at the other: turned once round, both make the motif."""
    for blank in (STRAIGHT, TAPERED):
        b = build(blank, lattice="square", by="number", number=12)
        t = b.template
        assert t is not None and b.fit is not None
        cover = shapely.union_all([c.seen for c in b.fit.colours])
        again = shapely.union_all([cover, shapely.transform(cover, partial(t.surface.turned, by=2 * math.pi))])
        heights = np.linspace(t.low, t.high, 50)
        seam = shapely.LineString(np.column_stack(t.surface.develop(np.full(50, t.right), heights)))
        joined = [g for g in shapely.get_parts(shapely.buffer(again, 1e-4)) if g.intersects(seam)]
        assert len(joined) >= 3
        for g in joined:
            assert 4 * math.pi * g.area / g.length**2 > 0.98


def test_on_a_panel_it_is_anchored_and_evenly_spaced() -> None:
    free = build(PANEL).template.limits  # type: ignore[union-attr]
    middle = places(build(PANEL, lattice="square", pitch_mm=25))
    assert any(
        np.allclose(m, ((free.left + free.right) / 2, (free.low + free.high) / 2))
        for m in zip(middle.a, middle.s, strict=True)
    )
    corner = places(build(PANEL, lattice="square", pitch_mm=25, anchor="corner"))
    assert (corner.a.min(), corner.s.min()) == pytest.approx((free.left + 3, free.low + 3))
    here = places(build(PANEL, lattice="square", pitch_mm=25, anchor="here"))
    assert np.min(np.hypot(here.a, here.s - 50)) < 1e-9
    # n of width w in W: gaps (W - n w) / (n + 1), at both ends too.
    by = places(build(PANEL, lattice="square", by="number", number=9))
    x = np.array(sorted({round(float(a), 6) for a in by.a}))
    gap = (free.right - free.left - 9 * 6) / 10
    assert len(x) == 9 and x[0] - 3 - free.left == pytest.approx(gap, abs=1e-5) and np.allclose(np.diff(x), gap + 6)
    # Of the area: pi 9 to p squared.
    share = places(build(PANEL, lattice="square", by="coverage", coverage_percent=10))
    assert share.pitch == pytest.approx(math.sqrt(math.pi * 9 / 0.1), rel=3e-3)


def test_whole_motifs_only_or_cut_off_beyond_the_edge() -> None:
    whole = build(PANEL, lattice="square", pitch_mm=13)
    free = whole.template.free  # type: ignore[union-attr]
    cover = shapely.union_all([c.seen for c in whole.fit.colours])  # type: ignore[union-attr]
    assert free.buffer(1e-6).covers(cover) and len(shapely.get_parts(cover)) == len(places(whole))
    cut = build(PANEL, lattice="square", pitch_mm=13, edge="cut", bleed_mm=2, anchor="here")
    cover = shapely.union_all([c.seen for c in cut.fit.colours])  # type: ignore[union-attr]
    outline = cut.template.outline  # type: ignore[union-attr]
    assert outline.buffer(2.001).covers(cover) and not outline.buffer(1.5).covers(cover)


def test_what_is_kept_out_stays_free() -> None:
    zone = {"form": "sector", "name": "latch", "centre_mm": 0, "width_mm": 60, "low_mm": 60, "high_mm": 120}
    blank = {**PANEL, "zones": [zone]}
    for edge in ("whole", "cut"):
        b = build(blank, lattice="hexagonal", pitch_mm=11, edge=edge)
        cover = shapely.union_all([c.seen for c in b.fit.colours])  # type: ignore[union-attr]
        (on,) = b.template.zones  # type: ignore[union-attr]
        assert cover.intersection(on.region).area < 1e-6


@pytest.mark.parametrize("blank", [STRAIGHT, TAPERED, PANEL])
def test_a_scatter_keeps_its_distance_and_is_thrown_alike_by_one_seed(blank: dict[str, Any]) -> None:
    b = build(blank, lattice="scatter", least_mm=14, seed=3)
    again = places(build(blank, lattice="scatter", least_mm=14, seed=3))
    p, surface = places(b), b.template.surface  # type: ignore[union-attr]
    assert np.array_equal(p.a, again.a) and not np.array_equal(
        p.a[:5], places(build(blank, lattice="scatter", least_mm=14, seed=4)).a[:5]
    )
    flat = np.column_stack(surface.develop(p.a, p.s))
    turns = (0.0, 2 * math.pi, -2 * math.pi) if surface.closed else (0.0,)
    around = np.concatenate([surface.turned(flat, t) for t in turns])
    assert cKDTree(around).query(flat, k=2)[0][:, 1].min() >= 14
    # Full: random packing of discs covers about 54.7 % of the plane at saturation (Renyi's parking in two dimensions,
    # from memory); at least 0.8 of that, edges included.
    free = b.template.limits  # type: ignore[union-attr]
    wide = (free.right - free.left) * (surface.scale_at((free.low + free.high) / 2) if surface.closed else 1)
    covered = len(p) * math.pi * 49 / ((wide + 14 * (not surface.closed)) * (free.high - free.low + 14))
    assert 0.4 < covered < 0.6


def test_motifs_of_several_colours_turned_at_random_keep_their_shape() -> None:
    b = build(TAPERED, {"kind": "file", "file": "a.svg"}, lattice="brick", pitch_mm=14, turned="random")
    by = {c.colour: c for c in b.fit.colours}  # type: ignore[union-attr]
    blue, gold = by["#1c3d7a"], by["#d8a21b"]
    n = len(places(b))
    size = places(b).size
    scale = 6 / 40
    assert gold.seen.area == pytest.approx(64 * scale**2 * float((size**2).sum()), rel=1e-3)
    assert blue.painted.area == pytest.approx(1200 * scale**2 * float((size**2).sum()), rel=1e-3)
    assert len(set(blue.names)) == len(blue.names) and len(blue.names) >= n


def test_it_goes_down_the_whole_street() -> None:
    b = build(PANEL, {"kind": "file", "file": "a.svg"}, upto="price", lattice="half_drop", pitch_mm=24)
    assert b.layers is not None and {la.pieces for la in b.layers.layers} == {len(places(b))}


@pytest.mark.parametrize(
    ("pattern", "field", "words"),
    [
        ({"pitch_mm": 0.5}, "pattern.pitch_mm", "motifs"),
        ({"pitch_mm": 5}, "pattern.pitch_mm", "lie over each other"),
        ({"by": "number", "number": 60}, "pattern.number", "do not go"),
        ({"lattice": "scatter", "least_mm": 0.5}, "pattern.least_mm", "motifs"),
        ({"by": "coverage", "coverage_percent": 95}, "pattern.coverage_percent", "lie over each other"),
    ],
)
def test_patterns_that_cannot_be_are_said_with_a_way_out(pattern: dict[str, Any], field: str, words: str) -> None:
    with pytest.raises(DoesNotFit, match=words) as bad:
        build(PANEL, **pattern)
    assert bad.value.field.startswith(f"elements.0.{field}") and bad.value.hint
    big = {"kind": "shape", "form": {"form": "disc", "across_mm": 190}}
    with pytest.raises(DoesNotFit, match="No motif"):
        build(PANEL, big, pitch_mm=400, anchor="here", up=20)
    assert element


THREADS = """
import sys, threading
sys.path[:0] = sys.argv[1:]
from samples import cup
from wimple_core.cache import StageCache
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole
cache = StageCache()
def build(mm):
    star = {"kind": "shape", "form": {"form": "star", "outside_mm": mm, "inside_mm": mm / 2}}
    one = {"source": star, "placements": [{"up_mm": 45}], "pattern": {"pitch_mm": 3.3}}
    build_whole(load_job({**cup(), "elements": [one]}), {}, "artwork", cache=cache)
build(2.4)
def many(mm):
    for k in range(8):
        build(mm + k / 100)
every = [threading.Thread(target=many, args=(mm,)) for mm in (2.2, 2.4, 2.6)]
[t.start() for t in every], [t.join() for t in every]
"""


def test_several_builds_at_once_share_what_is_kept() -> None:
    """A template that is kept is asked by several threads at once: none of them may end the process."""
    paths = [str(ROOT / "core" / ""), str(ROOT / "tests")]
    done = subprocess.run([sys.executable, "-c", THREADS, *paths], capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr[-800:]


def test_a_motif_larger_than_its_room_is_said_at_once() -> None:
    huge = {"kind": "shape", "form": {"form": "star", "outside_mm": 360, "inside_mm": 150}}
    for blank in (STRAIGHT, TAPERED, PANEL):
        with pytest.raises(DoesNotFit, match="No motif"):
            build(blank, huge, pitch_mm=20)


@pytest.mark.parametrize(
    ("lattice", "blank"), [("square", STRAIGHT), ("half_drop", STRAIGHT), ("brick", TAPERED), ("square", PANEL)]
)
def test_motifs_that_take_turns_share_one_lattice_and_leave_no_place(lattice: str, blank: dict[str, Any]) -> None:
    """Three in turn: together as many, and at the same places, as one alone whose number is a multiple of three; no two
    neighbours in a row are the same, across the seam too."""
    ids = ("a", "b", "c")
    colours = ("#112233", "#aa3311", "#22aa55")
    elements = [
        {
            "id": i,
            "source": {**DISC, "colour": colour},
            "placements": [{"up_mm": 50 + 9 * n, "centre_deg": 40 * n}],
            "pattern": {"lattice": lattice, "pitch_mm": 14} if n == 0 else {"turns_with": "a", "pitch_mm": 99},
        }
        for n, (i, colour) in enumerate(zip(ids, colours, strict=True))
    ]
    b = build_whole(load_job({"blank": blank, "elements": elements}), {}, "artwork")  # type: ignore[arg-type]
    some = [d.pattern.places for d in b.fit.drawings]  # type: ignore[union-attr]
    assert {p.number for p in some} == {some[0].number} and {p.pitch for p in some} == {some[0].pitch}
    if blank is not PANEL:
        assert some[0].number[0] % 3 == 0
    every = np.concatenate([np.column_stack([p.a, p.s, np.full(len(p), n), p.row]) for n, p in enumerate(some)])
    assert len(np.unique(np.round(every[:, :2], 6), axis=0)) == len(every)
    for row in np.unique(every[:, 3]):
        mine = every[every[:, 3] == row]
        which = mine[np.argsort(mine[:, 0]), 2]
        assert (np.diff(which) != 0).all() and (blank is PANEL or which[0] != which[-1])
    if blank is not TAPERED:
        area = {c.colour: c.seen.area for c in b.fit.colours}  # type: ignore[union-attr]
        assert [area[c] for c in colours] == pytest.approx([len(p) * math.pi * 9 for p in some], rel=5e-3)


def test_motifs_in_turn_that_lie_over_each_other_are_said_with_their_places() -> None:
    """Discs in turn along rows 10 mm apart overlap where their radii together are more than that."""

    def said(radius: float) -> list[Any]:
        small, large = ({**DISC, "form": {"form": "disc", "across_mm": 2 * r}} for r in (4.0, radius))
        elements = [
            {
                "id": "a",
                "source": large,
                "placements": [{"up_mm": 100}],
                "pattern": {"lattice": "square", "pitch_mm": 10},
            },
            {"id": "b", "source": small, "placements": [{"up_mm": 100}], "pattern": {"turns_with": "a"}},
        ]
        elements[0]["pattern"] |= {"row_mm": 30}  # type: ignore[operator]
        b = build_whole(load_job({"blank": PANEL, "elements": elements}), {}, "artwork")  # type: ignore[arg-type]
        return [v for v in b.verdicts if v.code == "artwork.turns"]

    assert not said(5.9)
    (over,) = said(6.3)
    assert over.level == "look" and over.field == "elements.1.pattern" and len(over.places) > 20
    # From 6.0 to 6.3 mm from the middle of a large one, which stand 20 mm apart.
    away = np.abs(np.remainder([x for x, _ in over.places], 20) - 10)
    assert np.minimum(np.abs(away - 6.15), np.abs(away - 3.85)).max() < 0.15


def test_turns_are_taken_with_what_has_a_pattern() -> None:
    elements = [{"id": "a", "source": DISC}, {"id": "b", "source": DISC, "pattern": {"turns_with": "a"}}]
    with pytest.raises(BadDocument) as bad:
        load_job({"blank": PANEL, "elements": elements})
    assert bad.value.field == "elements" and "pattern first" in bad.value.hint


@pytest.mark.parametrize("turn", [0, 35])
def test_a_mirrored_motif_is_repeated_as_it_is_laid_once(turn: float) -> None:
    """Among the motifs is the one that its placement alone would lay, piece for piece."""

    def laid(**more: Any) -> Any:
        placement = {"up_mm": 100, "width_mm": 20, "turn_deg": turn, "mirrored": True}
        one = {"source": {"kind": "file", "file": "a.svg"}, "placements": [placement], **more}
        b = build_whole(load_job({"blank": PANEL, "elements": [one]}), {"a.svg": FLAG}, "artwork")  # type: ignore[arg-type]
        return shapely.union_all([c.seen for c in b.fit.colours])  # type: ignore[union-attr]

    once, many = laid(), laid(pattern={"lattice": "square", "pitch_mm": 40, "anchor": "here"})
    assert many.covers(once.buffer(-1e-6)) and many.area > 10 * once.area
