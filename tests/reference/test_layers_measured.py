"""Joints, misregistration and thin parts against scipy, simulation by other means, and a distance transform."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import pytest
import scipy.stats
import shapely
from samples import board, cup, element, svg
from shapely import affinity
from wimple_core import thin
from wimple_core.artwork import ColourRegion
from wimple_core.built import Build
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.layers.inspection import inspect
from wimple_core.layers.joints import JointPlaces, join, joint_places, rim
from wimple_core.layers.misregistration import Hand, gap_chance, overlap_needed
from wimple_core.pipeline import build_whole as build
from wimple_core.thin import narrow_gaps, thin_places

SIGMA = 0.3


def disc(r: float, x: float = 0.0, y: float = 0.0) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(r, quad_segs=48)


def colours(*regions: Any) -> tuple[ColourRegion, ...]:
    """Colours of which each was cut out of the ones below before it came here: nothing is painted beneath."""
    out = []
    for i, region in enumerate(regions):
        above = shapely.union_all(regions[i + 1 :]) if i + 1 < len(regions) else shapely.Polygon()
        seen = shapely.difference(region, above)
        out.append(ColourRegion(f"#{i:06x}", seen, seen))
    return tuple(out)


def _shown(found: tuple[ColourRegion, ...]) -> tuple[list[Any], list[Any]]:
    """What is seen of each colour, and its rim."""
    return [c.seen for c in found], [rim(c.seen) for c in found]


def chance(regions: list[Any], overlap: float, hand: Hand, far: float = 5.0, hands: int = 20_000) -> float:
    found = colours(*regions)
    cut = join(found, lambda a, b: "knocked_out", overlap)
    joints = joint_places(*_shown(found), cut, overlap, far)
    return float((overlap_needed(joints, len(found), hand, hands) > 0).any(axis=0).mean())


@pytest.mark.parametrize("overlap", [0.3, 0.5, 0.7])
def test_one_joint_all_round_is_rayleigh(overlap: float) -> None:
    """Two films, no turn: a gap shows where the shift is longer than the overlap: Rayleigh (scipy.stats)."""
    got = chance([disc(30), disc(15)], overlap, Hand(SIGMA, (0.0, 0.0), math.inf))
    wanted = scipy.stats.rayleigh(scale=SIGMA).sf(overlap)
    assert (
        got
        == pytest.approx(wanted, abs=4 * math.sqrt(wanted / 20_000))
        == pytest.approx(gap_chance(overlap, SIGMA), abs=0.02)
    )


@pytest.mark.parametrize("eye", [0.1, 0.2, 0.4])
def test_what_the_eye_does_not_see_is_no_gap(eye: float) -> None:
    """A gap wider than that shows where the shift is longer than the overlap and it together."""
    found = colours(disc(30), disc(15))
    joints = joint_places(*_shown(found), join(found, lambda a, b: "knocked_out", 0.4), 0.4, 5.0)
    needed = overlap_needed(joints, 2, Hand(SIGMA, (0.0, 0.0), math.inf), 20_000, eye=eye)
    wanted = scipy.stats.rayleigh(scale=SIGMA).sf(0.4 + eye)
    assert needed.shape == (1, 20_000)
    assert (needed > 0).mean() == pytest.approx(wanted, abs=4 * math.sqrt(wanted / 20_000))
    # By so much overlap as nineteen of twenty need, nineteen of twenty show none.
    enough = float(np.quantile(needed.max(axis=0), 0.95, method="higher"))
    if enough:
        assert enough + eye == pytest.approx(scipy.stats.rayleigh(scale=SIGMA).ppf(0.95), rel=0.04)


def test_the_joint_that_fails_first_is_the_one_with_the_longest_lever() -> None:
    """Three discs upon one ground, the marks about the first: the furthest opens most by the turn."""
    ground = shapely.box(-40, -20, 140, 20)
    discs = [disc(6, x) for x in (0.0, 60.0, 120.0)]
    found = colours(ground, *discs)
    joints = joint_places(*_shown(found), join(found, lambda a, b: "knocked_out", 0.7), 0.7, 3.0)
    each = (overlap_needed(joints, 4, Hand(SIGMA, (0.0, 0.0), 60.0), 20_000) > 0).mean(axis=1)
    assert [(j.lower, j.upper) for j in joints] == [(0, 1), (0, 2), (0, 3)]
    assert each[0] < each[1] < each[2]
    assert each[0] == pytest.approx(scipy.stats.rayleigh(scale=SIGMA).sf(0.7), abs=0.02)


def test_the_turn_by_other_means() -> None:
    """A joint that runs upright 100 mm from the marks' middle opens by the shift and by the turn times its lever: a
    normal distribution of both variances together."""
    place = JointPlaces(
        0,
        1,
        np.column_stack([np.zeros(1), np.full(1, 100.0)]),
        np.array([[1.0, 0.0]]),
        np.array([0.7]),
        np.array([9.0]),
    )
    hand = Hand(SIGMA, (0.0, 0.0), 80.0)
    got = float((overlap_needed([place], 2, hand, 40_000) > 0).mean())
    spread = math.hypot(SIGMA, 100.0 * math.sqrt(2) * SIGMA / 80.0)
    assert got == pytest.approx(scipy.stats.norm(scale=spread).sf(0.7), abs=0.01)
    needed = overlap_needed([place], 2, hand, 40_000)
    assert np.quantile(needed, 0.95) == pytest.approx(scipy.stats.norm(scale=spread).ppf(0.95), rel=0.05)
    narrow = overlap_needed([replace(place, room=np.array([0.7]))], 2, hand, 40_000)
    assert (np.isinf(narrow) == (needed > 0)).all()


def test_five_layers_of_200_mm_are_more_likely_than_not() -> None:
    """An overlap that one joint needs for 6.6 % shows a gap in more than half of the lay-ups of five layers 200 mm wide
    (from the geometry's own worked case)."""
    overlap = SIGMA * math.sqrt(-2 * math.log(0.066))
    nested = [disc(r) for r in (100, 80, 60, 40, 20)]
    assert gap_chance(overlap, SIGMA) == pytest.approx(0.066)
    assert chance(nested, overlap, Hand(SIGMA, (0.0, 115.0), 190.0)) > 0.5
    assert chance(nested[:2], overlap, Hand(SIGMA, (0.0, 115.0), 190.0)) < 0.4


def built(body: str, **layers: Any) -> Build:
    raw = {
        "blank": board(200, 200),
        "elements": [element("a.svg", {"width_mm": 100, "up_mm": 100})],
        "layers": {"overlap_mm": 0.8, **layers},
    }
    return build(load_job(raw), {"a.svg": svg(body)}, "layers")


ABUT = (
    '<path d="M0 0H100V60H0zM30 20V40H70V20z" fill-rule="evenodd" fill="#1c3d7a"/>'
    '<rect x="30" y="20" width="40" height="20" fill="#b98a2f"/>'
)
"""A gold bar in a hole of its own size."""


@pytest.mark.parametrize("joint", ["stacked", "knocked_out"])
def test_colours_that_only_abut_overlap_as_asked(joint: str) -> None:
    """Measured on the result: knocked out the lighter bar goes on under the ground by the overlap on every side;
    stacked, in the order of the drawing, the ground goes on under the bar."""
    b = built(ABUT, joint=joint)
    lower, upper = b.layers.layers  # type: ignore[union-attr]
    hidden = shapely.intersection(lower.region, upper.region)
    ground, bar = (lower, upper) if joint == "stacked" else (upper, lower)
    assert (ground.colour, bar.colour) == ("#1c3d7a", "#b98a2f")
    box = shapely.box(*bar.seen.bounds)
    wanted = (
        box.area - box.buffer(-0.8, join_style="mitre").area if joint == "stacked" else box.buffer(0.8).area - box.area
    )
    assert hidden.area == pytest.approx(wanted, rel=0.01)
    assert not [v for v in b.verdicts if v.code == "layers.reach"]


def test_a_part_too_narrow_for_its_overlap_is_said() -> None:
    """A stripe of 0.5 mm with the blank on its other side cannot hide an overlap of 0.8."""
    b = built(
        '<rect width="60" height="60" fill="#1c3d7a"/><rect x="60" width="0.5" height="60" fill="#b98a2f"/>'
        '<rect x="99" y="99" width="1" height="1" fill="#b98a2f"/>',
        joint="stacked",
    )
    said = next(v for v in b.verdicts if v.code == "layers.reach")
    assert said.level == "look" and said.value < 0.8 and said.places


def test_two_drawings_keep_the_film_beneath() -> None:
    """The second drawing's presence does not cut the film under the first one's upper colour away."""
    raw = {
        "blank": board(200, 200),
        "elements": [
            element("a.svg", {"width_mm": 60, "up_mm": 60, "across_mm": -50}),
            element("b.svg", {"width_mm": 30, "up_mm": 60, "across_mm": 50}),
        ],
        "layers": {"joint": "stacked"},
    }
    files = {
        "a.svg": svg('<rect width="60" height="60" fill="#1c3d7a"/><circle cx="30" cy="30" r="20" fill="#b98a2f"/>'),
        "b.svg": svg('<rect width="60" height="60" fill="#c22a2a"/>'),
    }
    layers = build(load_job(raw), files, "layers").layers
    blue = next(la for la in layers.layers if la.colour == "#1c3d7a")  # type: ignore[union-attr]
    assert blue.region.area == pytest.approx(3600) and blue.seen.area == pytest.approx(3600 - math.pi * 400, rel=1e-3)


def thin_by_distance(part: shapely.Polygon, stroke: float, cell: float = 0.02) -> bool:
    """Is anything but corners' tips thinner than `stroke`, by an exact distance transform of a rendering? It is where
    the middles of discs of that width fall into parts, and where what such discs cannot reach goes on for long."""
    left, low, right, high = part.buffer(1).bounds
    h, w = round((high - low) / cell), round((right - left) / cell)
    image = np.zeros((h, w), np.uint8)
    points = ((shapely.get_coordinates(part.exterior) - (left, low)) / cell).astype(np.int32)
    cv2.fillPoly(image, [points], 1)
    inside = cv2.distanceTransform(image, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) * cell
    core = (inside >= stroke / 2).astype(np.uint8)
    if not core.any() or cv2.connectedComponents(core, connectivity=8)[0] > 2:
        return True
    reached = cv2.distanceTransform(1 - core, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) * cell
    rest = ((image > 0) & (reached > stroke / 2 * 1.04)).astype(np.uint8)
    kept = ((image > 0) & (rest == 0)).astype(np.uint8)
    away = cv2.distanceTransform(1 - kept, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) * cell
    count, labels = cv2.connectedComponents(rest)
    return any((labels == n).sum() > 8 and away[labels == n].max() > 1.5 * stroke for n in range(1, count))


def dumbbell(neck: float, length: float) -> shapely.Polygon:
    return shapely.union_all(
        [
            disc(5, -5 - length / 2),
            disc(5, 5 + length / 2),
            shapely.box(-length / 2 - 1, -neck / 2, length / 2 + 1, neck / 2),
        ]
    )


def star(n: int, outer: float, inner: float) -> shapely.Polygon:
    a = np.arange(2 * n) * math.pi / n
    r = np.where(np.arange(2 * n) % 2 == 0, outer, inner)
    return shapely.Polygon(np.column_stack([r * np.sin(a), r * np.cos(a)]))


SHAPES = {
    "neck shorter than wide": (dumbbell(0.6, 0.2), True),
    "neck": (dumbbell(0.6, 3), True),
    "wide neck": (dumbbell(1.4, 0.3), False),
    "strip": (shapely.box(0, 0, 20, 0.8), True),
    "wide strip": (shapely.box(0, 0, 20, 1.2), False),
    "five points of 38 degrees": (star(5, 10, 4), False),
    "blunt points": (star(8, 10, 7), False),
    "needle": (shapely.Polygon([(0, -2), (40, 0), (0, 2)]), True),
    "limb": (shapely.union(shapely.box(0, 0, 5, 5), shapely.box(5, 2, 9, 2.7)), True),
    "square": (shapely.box(0, 0, 5, 5), False),
    "disc": (disc(4), False),
}


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("turn", [0, 17, 45, 90])
def test_thin_parts_however_they_are_turned(name: str, turn: float) -> None:
    shape, thin = SHAPES[name]
    turned = affinity.rotate(shape, turn)
    found = thin_places(np.array([turned], dtype=object), 1.0)
    assert bool(len(found)) is thin is thin_by_distance(turned, 1.0)
    if thin:
        # Where it is said to be thin, it is: no disc of that width fits round the place.
        at = shapely.get_coordinates(shapely.point_on_surface(found))[0]
        inner = turned.buffer(-0.5, quad_segs=32)
        assert inner.is_empty or inner.distance(shapely.Point(at)) > 0.4
    assert len(found) <= 1 or name == "needle"


@pytest.mark.parametrize("turn", [0, 30, 45, 77])
def test_dots_are_small_in_every_direction(turn: float) -> None:
    """A square of 1.9 mm is 2.69 from corner to corner however it is turned; one of 1.3 is 1.84."""
    both = [affinity.rotate(shapely.box(x, 0, x + a, a), turn, origin=(0, 0)) for x, a in ((0, 1.9), (10, 1.3))]
    found = inspect(shapely.MultiPolygon(both), 1.0, 2.0)
    assert len(found.dots) == 1 and found.smallest_dot_mm == pytest.approx(1.3 * math.sqrt(2), rel=1e-6)


def test_edges_are_as_long_as_the_outline_and_point_out_of_it() -> None:
    region = shapely.union_all([shapely.box(0, 0, 10, 10) - shapely.box(4, 4, 6, 6), shapely.box(50, 0, 60, 7)])
    middles, outward, length = rim(region)
    assert length.sum() == pytest.approx(region.length)
    assert not shapely.contains_xy(region, *(middles + 1e-3 * outward).T).any()
    assert shapely.contains_xy(region, *(middles - 1e-3 * outward).T).all()


@pytest.mark.parametrize("joint", ["stacked", "knocked_out"])
@pytest.mark.parametrize(("apart", "reach"), [(0.0, 0.5), (0.2, 0.0), (1.0, 0.0)])
def test_film_reaches_under_what_it_borders_on_only(joint: Any, apart: float, reach: float) -> None:
    """A neighbour that comes near hides no gap: film beneath it would be a scrap by itself."""
    low, high = join(colours(shapely.box(0, 0, 10, 10), shapely.box(10 + apart, 0, 20, 10)), lambda a, b: joint, 0.5)
    assert low.geom_type == "Polygon" and low.area == pytest.approx(100 + 10 * reach, rel=1e-3)
    assert high.area == pytest.approx(100 - 10 * apart)


def test_film_goes_no_further_than_the_border_it_hides() -> None:
    """A U stands on the film with one leg, its other leg 0.3 mm beyond: film goes beneath the first only."""
    film, u = (
        shapely.box(0, 0, 10, 10),
        shapely.Polygon(
            [(10, 9), (12, 9), (12, 12), (-0.3, 12), (-0.3, 0), (-2, 0), (-2, 14), (14, 14), (14, 2), (10, 2)]
        ),
    )
    low, _ = join(colours(film, u), lambda a, b: "knocked_out", 0.5)
    assert low.geom_type == "Polygon" and low.bounds == pytest.approx((0, 0, 10.5, 10))
    assert low.area == pytest.approx(100 + 0.5 * 8 - 0.5 * 0.5, abs=0.6)


def test_stacked_film_goes_on_beneath_as_it_was_painted() -> None:
    """A square painted wholly, half of it and a dot besides under another: both stay, and the hidden dot too."""
    square, dot, over = shapely.box(0, 0, 10, 10), shapely.box(16, 4, 17, 5), shapely.box(5, 0, 20, 10)
    painted = shapely.union_all([square, dot])
    found = (ColourRegion("#000001", shapely.difference(painted, over), painted), ColourRegion("#000002", over, over))
    assert join(found, lambda a, b: "stacked", 0.5)[0].equals(painted)
    assert join(found, lambda a, b: "knocked_out", 0.5)[0].bounds == pytest.approx((0, 0, 5.5, 10))


@pytest.mark.parametrize("seed", range(4))
def test_dots_are_told_as_by_the_circle_round_each(seed: int) -> None:
    rng = np.random.default_rng(seed)
    boxes = [affinity.rotate(shapely.box(0, 0, *rng.uniform(0.2, 2.4, 2)), rng.uniform(0, 90)) for _ in range(30)]
    every = [*boxes, *(disc(r) for r in rng.uniform(0.3, 1.5, 30))]
    parts = [affinity.translate(shape, 5.0 * n) for n, shape in enumerate(every)]
    across = 2 * shapely.minimum_bounding_radius(np.array(parts, dtype=object))
    found = inspect(shapely.MultiPolygon(parts), 0.1, 2.0)
    assert len(found.dots) == (across < 2).sum() and found.smallest_dot_mm == pytest.approx(across.min())


def test_room_beneath_is_told_from_reach() -> None:
    """A film that reaches 0.5 mm under its neighbour has room up to the blank beyond that one."""
    for wide, room in ((30.0, 5.0), (1.0, 1.0)):
        found = colours(shapely.box(0, 0, 20, 30), shapely.box(20, 0, 20 + wide, 30))
        place = joint_places(*_shown(found), join(found, lambda a, b: "knocked_out", 0.5), 0.5, 5.0)[0]
        assert np.median(place.reach) == pytest.approx(0.5) and np.median(place.room) == pytest.approx(room, abs=0.6)


def test_the_overlap_offered_hides_the_gaps() -> None:
    body = '<rect width="60" height="60" fill="#1c3d7a"/><circle cx="30" cy="30" r="18" fill="#b98a2f"/>'
    for asked in (0.1, 0.4):
        said = next(
            v for v in built(body, joint="knocked_out", overlap_mm=asked).verdicts if v.code == "layers.overlap"
        )
        assert said.level == "look" and isinstance(said.fix, float) and said.fix > asked
        for offered, level in ((said.fix, "ok"), (said.fix - 0.11, "look")):
            again = built(body, joint="knocked_out", overlap_mm=offered)
            assert next(v for v in again.verdicts if v.code == "layers.overlap").level == level


def test_thin_places_do_not_depend_on_what_was_looked_at_before() -> None:
    """The same pieces elsewhere, in another order, and among others, have the same thin places as alone and unknown."""
    strip = shapely.box(0, 0, 9, 0.7)
    bell = shapely.union_all([shapely.Point(x, 0).buffer(3) for x in (0, 9)] + [shapely.box(0, -0.3, 9, 0.3)])
    frame = shapely.box(0, 0, 20, 20) - shapely.box(0.6, 0.6, 19.4, 19.4)
    plain = shapely.box(0, 0, 5, 5)

    def area(*parts: Any) -> float:
        return float(shapely.area(thin_places(np.array(parts, dtype=object), 1.0)).sum())

    thin._KNOWN.clear()
    alone = [area(g) for g in (strip, bell, frame, plain)]
    assert alone[0] == pytest.approx(strip.area) and alone[3] == 0 and alone[2] > 30
    moved = [affinity.translate(g, 3.7 * n, 41.3) for n, g in enumerate((plain, frame, strip, bell, strip))]
    assert area(*moved) == pytest.approx(sum(alone) + alone[0], rel=1e-6)
    found = thin_places(np.array(moved, dtype=object), 1.0)
    assert shapely.dwithin(shapely.union_all(moved), found, 1e-6).all()
    # A hole makes another shape of the same corners; another width is another question.
    assert area(shapely.Polygon(frame.exterior)) == 0
    assert float(shapely.area(thin_places(np.array([strip], dtype=object), 0.5)).sum()) == 0


def comb(gap: float, teeth: int = 6) -> Any:
    """A comb of teeth 3 mm wide and 10 tall, `gap` apart, on a back 4 mm tall."""
    bars = [shapely.box(n * (3 + gap), 0, n * (3 + gap) + 3, 10) for n in range(teeth)]
    return shapely.union_all([*bars, shapely.box(0, -4, teeth * (3 + gap) - gap, 0)])


@pytest.mark.parametrize("turn", [0, 33])
def test_narrow_gaps_by_their_known_widths(turn: float) -> None:
    """Between pieces, in notches, in holes, and in wedges that narrow to a point; a gap just wide enough is none."""

    def found(*parts: Any) -> int:
        turned = [affinity.rotate(g, turn, origin=(0, 0)) for g in parts]
        return len(narrow_gaps(np.array(turned, dtype=object), 0.5))

    one, other = shapely.box(0, 0, 10, 10), shapely.box(10.45, 0, 20, 10)
    assert found(one, other) == 1
    assert found(one, affinity.translate(other, 0.1, 0)) == 0
    # Where they pass each other for a while only, there is the gap.
    (place,) = narrow_gaps(np.array([one, affinity.translate(other, 0, 7)], dtype=object), 0.5)
    assert 10 <= place.centroid.x <= 10.45 and 6.5 < place.centroid.y < 10.5
    assert found(comb(0.45)) == 5 and found(comb(0.55)) == 0
    ring = shapely.Point(0, 0).buffer(6) - shapely.Point(0, 0).buffer(0.2)
    assert found(ring) == 1 and found(shapely.Point(0, 0).buffer(6) - shapely.Point(0, 0).buffer(0.4)) == 0
    discs = [shapely.Point(0, 0).buffer(5, 90), shapely.Point(10.3, 0).buffer(5, 90)]
    assert found(*discs) == 1
    assert found(discs[0]) == 0 and found(shapely.box(0, 0, 5, 5)) == 0
    # A plain inner corner is no gap, a crack is.
    angle = shapely.box(0, 0, 10, 10) - shapely.box(4, 4, 11, 11)
    cracked = shapely.Polygon([(0, 0), (10, 0), (10, 10), (5.2, 10), (5, 3), (4.8, 10), (0, 10)])
    assert found(angle) == 0 and found(cracked) == 1


def test_gaps_are_said_with_their_places_and_reported() -> None:
    body = '<rect width="20" height="20"/><rect x="20.4" width="20" height="20"/><rect x="45" width="10" height="20"/>'
    one = {"source": {"kind": "file", "file": "a.svg"}, "placements": [{"width_mm": 55, "up_mm": 50}]}
    b = build(load_job({**cup(260, 260, 110), "elements": [one]}), {"a.svg": svg(body)})
    (said,) = [v for v in b.verdicts if v.code == "layers.gaps"]
    assert said.value == 1 and said.limit == 0.5 and len(said.places) == 1 and "one gap is narrower" in said.sentence()
    x, y = said.places[0]
    assert x == pytest.approx(20.2 - 27.5, abs=0.05) and 40 <= y <= 60
    assert [la.gaps for la in make_report(b).layers] == [1]
