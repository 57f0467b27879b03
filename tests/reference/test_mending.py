"""Mending against closed forms: strips, wedges, dots and gaps of known size, and what it says it will change."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from many_coloured import PLACES, sample
from samples import element, svg
from shapely import affinity
from wimple_core.errors import WimpleError
from wimple_core.job import load_job
from wimple_core.job.document import LayerPlan, Mend
from wimple_core.job.shipped import FILMS
from wimple_core.layers.mending import Mending, could_mend, look_change, mend
from wimple_core.pipeline import build_whole as build
from wimple_core.pipeline import remedies_of
from wimple_core.remedies import with_edits
from wimple_core.thin import narrow_gaps, thin_places

FILM = FILMS["calendered-gloss"]
STROKE, DOT = FILM.least_stroke_mm, FILM.least_dot_mm
ALL = Mend(thicken=True, widen_gaps=True, drop_under_mm=DOT, round_mm=0.3)


def mended(region: shapely.Geometry, plan: Mend) -> tuple[shapely.Geometry, dict[str, Mending]]:
    made = mend([region], [region], [FILM], [plan])
    ((after, seen),) = made.each
    assert shapely.symmetric_difference(after, seen).area < 1e-3, "one film shows whole"
    told = {m.kind: m for m in could_mend([region], [region], [FILM], ["#1c3d7a"], LayerPlan(mend=plan))}
    assert {k: told[k].places for k in made.places} == made.places
    assert set(made.places) == {k for k, m in told.items() if m.done}
    return after, told


def parts(region: shapely.Geometry) -> np.ndarray:
    return np.asarray(shapely.get_parts(region))


@pytest.mark.parametrize("width", [0.2, 0.5, 0.8])
@pytest.mark.parametrize("turn", [0, 40])
def test_a_strip_becomes_as_wide_as_is_safe_and_no_wider(width: float, turn: float) -> None:
    """Between two discs a strip of known width and length: it becomes STROKE wide; what is added is that less its own
    width, by its length; and its edges move by half of it."""
    bell = shapely.union_all(
        [shapely.Point(x, 0).buffer(6, 32) for x in (-30, 30)] + [shapely.box(-30, -width / 2, 30, width / 2)]
    )
    bell = affinity.rotate(bell, turn, origin=(0, 0))
    after, told = mended(bell, Mend(thicken=True))
    assert not len(thin_places(parts(after), STROKE)) and len(parts(after)) == 1
    long = 2 * (30 - math.sqrt(36 - STROKE**2 / 4))
    added = (STROKE - width) * (60 - 2 * 6)
    assert after.area - bell.area == pytest.approx(added, rel=0.12), long
    assert told["thicken"].area == pytest.approx(after.area - bell.area, rel=1e-3)
    assert told["thicken"].shift == pytest.approx((STROKE - width) / 2, abs=0.05) and told["thicken"].done
    before, could = mended(bell, Mend())
    assert before is bell and could["thicken"].area == pytest.approx(told["thicken"].area) and not could["thicken"].done


def test_a_wedge_is_cut_off_where_it_cannot_be_widened() -> None:
    wedge = shapely.union_all([shapely.Polygon([(0, -2), (40, 0), (0, 2)]), shapely.box(-10, -5, 0, 5)])
    after, told = mended(wedge, Mend(thicken=True))
    assert not len(thin_places(parts(after), 0.97 * STROKE)) and after.bounds[2] < 40.6
    assert told["thicken"].shift < STROKE


def test_dots_under_a_size_are_left_out_and_told_by_their_area() -> None:
    dots = [shapely.Point(10 * n, 0).buffer(r, 64) for n, r in enumerate((0.5, 0.8, 1.2, 3))]
    after, told = mended(shapely.MultiPolygon(dots), Mend(drop_under_mm=2.0))
    assert len(parts(after)) == 2 and told["drop"].places == 2
    assert told["drop"].area == pytest.approx(math.pi * (0.25 + 0.64), rel=2e-3)
    assert told["drop"].shift == pytest.approx(1.6, rel=0.02)


@pytest.mark.parametrize("gap", [0.1, 0.3])
def test_a_gap_is_opened_as_far_as_waste_comes_out_whole(gap: float) -> None:
    two = shapely.MultiPolygon([shapely.box(0, 0, 20, 30), shapely.box(20 + gap, 0, 40, 30)])
    after, told = mended(two, Mend(widen_gaps=True))
    assert not len(narrow_gaps(parts(after), 0.99 * STROKE / 2))
    assert two.area - after.area == pytest.approx((STROKE / 2 - gap) * 30, rel=0.12)
    assert told["widen"].shift == pytest.approx((STROKE / 2 - gap) / 2, abs=0.06)
    slot = shapely.box(0, 0, 30, 30).difference(shapely.box(14, 8, 14 + gap, 30))
    opened, _ = mended(slot, Mend(widen_gaps=True))
    assert not len(narrow_gaps(parts(opened), 0.95 * STROKE / 2)) and opened.area < slot.area


@pytest.mark.parametrize("degrees", [15, 25])
def test_a_point_is_rounded_by_its_radius(degrees: float) -> None:
    """What goes of a point of that angle is its tip beyond a circle of the radius in it: closed form."""
    half, r = math.radians(degrees / 2), 0.5
    spike = shapely.Polygon([(0, 0), (60, 60 * math.tan(half)), (60, -60 * math.tan(half))])
    after, told = mended(spike, Mend(round_mm=r))
    gone = r**2 * (1 / math.tan(half) - (math.pi / 2 - half))
    assert spike.area - after.area == pytest.approx(gone, rel=0.03) and told["round"].places == 1
    assert after.bounds[0] == pytest.approx(r / math.sin(half) - r, abs=0.02)
    assert after.bounds[2] == 60, "other corners stay"


def test_a_dot_is_joined_to_what_is_nearest_by_a_bridge() -> None:
    disc, dot, far = shapely.Point(0, 0).buffer(8), shapely.Point(11, 0).buffer(0.7), shapely.Point(40, 0).buffer(0.7)
    after, told = mended(shapely.MultiPolygon([disc, dot, far]), Mend(bridge_mm=4.0))
    assert len(parts(after)) == 2 and told["bridge"].places == 1
    assert after.area - (disc.area + dot.area + far.area) == pytest.approx(STROKE * (3 - 0.7), rel=0.25)
    assert not len(thin_places(parts(after)[[p.area > 100 for p in parts(after)]], 0.97 * STROKE))


def test_what_is_taken_shows_what_lies_beneath_and_what_is_added_hides_it() -> None:
    """A dot on a ground is left out: the ground shows there. A thread on it is widened: the ground is hidden by it."""
    ground = shapely.box(0, 0, 60, 40)
    dot = shapely.Point(10, 10).buffer(0.6)
    bell = shapely.union_all([shapely.Point(x, 25).buffer(4) for x in (20, 45)] + [shapely.box(20, 24.8, 45, 25.2)])
    top = shapely.union_all([dot, bell])
    seen = [shapely.difference(ground, top), top]
    plan = Mend(thicken=True, drop_under_mm=2)
    made = mend([ground, top], seen, [FILM, FILM], [plan, plan])
    films, shown = made.regions, made.seen
    assert films[0].equals(ground) and shown[0].contains(dot) and not shown[1].intersects(dot)
    assert shapely.difference(shown[1], films[1]).area < 1e-6
    assert shapely.intersection(*shown).area < 1e-6
    assert shapely.union_all(shown).area == pytest.approx(ground.area)
    moved = sum(shapely.difference(a, b).area for a, b in zip(shown, seen, strict=True))
    told = look_change([(ground, seen[0]), (top, seen[1])], made.each)
    assert moved == pytest.approx(told.area, rel=0.02) and told.pieces == (3, 2)
    # Asked of the upper one alone it stays away from the ground.
    alone = mend([ground, top], seen, [FILM, FILM], [Mend(), plan])
    assert alone.regions[0] is ground and alone.regions[1].equals(films[1])
    # What is added beneath another film changes nothing that is seen.
    over = shapely.box(25, 15, 40, 35)
    under = [shapely.difference(bell, over), over]
    thick = could_mend([bell, over], under, [FILM, FILM], ["#1c3d7a", "#c62832"], LayerPlan())[0]
    whole = could_mend([bell], [bell], [FILM], ["#1c3d7a"], LayerPlan())[0]
    assert thick.kind == "thicken" and 0 < thick.area < 0.5 * whole.area


def panel_job(layers: dict[str, object], width: float = 60.0):  # type: ignore[no-untyped-def]
    return load_job(
        {"blank": PLACES[0][1], "elements": [element("a.svg", {"width_mm": width, "up_mm": 150})], "layers": layers}
    )


THREAD = {
    "a.svg": svg(
        '<circle cx="20" cy="50" r="12" fill="#1c3d7a"/><circle cx="80" cy="50" r="12" fill="#1c3d7a"/>'
        '<rect x="20" y="49.7" width="60" height="0.6" fill="#1c3d7a"/><circle cx="50" cy="80" r="1" fill="#b98a2f"/>'
    )
}


def test_what_mending_changes_is_said_before_and_so_it_is_after() -> None:
    job = panel_job({})
    (said,) = [v for v in build(job, THREAD, "layers").verdicts if v.code == "layers.thin"]
    assert "A part hangs by one of them" in said.sentence()
    (remedy,) = [r for r in remedies_of(job, THREAD) if r.of.code == "layers.thin"]
    after = build(with_edits(job, remedy.edits), THREAD, "layers")
    assert not [v for v in after.verdicts if v.code == "layers.thin"]
    (ok,) = [v for v in after.verdicts if v.code == "layers.mended"]
    assert ok.level == "ok" and ok.value == pytest.approx(remedy.changed.area, rel=1e-6)
    assert remedy.says().startswith(f"{ok.value:.1f} mm² of the look change") and remedy.says() in ok.sentence()


def test_a_layer_of_which_nothing_is_left_is_said() -> None:
    gone = build(panel_job({"mend": {"drop_under_mm": 3}}), THREAD, "layers")
    assert [la.name for la in gone.layers.layers] == ["midnight"]  # type: ignore[union-attr]
    (said,) = [v for v in gone.verdicts if v.code == "layers.vanished"]
    assert said.level == "look" and "gold" in said.sentence()
    bare = build(panel_job({"mend": {"drop_under_mm": 20}}, 12), THREAD, "layers")
    assert [v.level for v in bare.verdicts if v.code == "layers.vanished"] == ["look"]


@pytest.mark.parametrize("n", range(8))
def test_drawings_nobody_here_made_are_mended_and_stay_whole(n: int) -> None:
    """Mended in every way, small as they are, films are valid and show what they cover; what is thin becomes less."""
    for name, data in list(sample(40, seed=20261129))[5 * n : 5 * n + 5]:
        try:
            plain = build(panel_job({}, 30), {"a.svg": data}, "layers").layers
            b = build(panel_job({"mend": ALL.model_dump()}, 30), {"a.svg": data}, "layers").layers
        except WimpleError:
            continue
        assert plain and b
        above = shapely.Polygon()
        for la in reversed(b.layers):
            assert la.region.is_valid and la.seen.is_valid, name
            shown = shapely.difference(la.region, above)
            assert shapely.symmetric_difference(shown, la.seen).area < 0.01, (name, la.name)
            above = shapely.union(above, la.region)
        wide = build(panel_job({"mend": {"thicken": True, "drop_under_mm": DOT}}, 30), {"a.svg": data}, "layers").layers
        thin = [sum(len(la.inspection.thin) + len(la.inspection.dots) for la in some.layers) for some in (plain, wide)]  # type: ignore[union-attr]
        assert thin[1] <= 0.25 * thin[0] + 1, name


def test_too_many_places_are_not_said_to_be_mended() -> None:
    """Four hundred thin bars are not mended one by one, and that is said; taking the wish back mends the verdict."""
    teeth = "".join(f'<rect x="{0.25 * n:.2f}" y="0" width="0.1" height="20" fill="#1c3d7a"/>' for n in range(400))
    comb = {"a.svg": svg(teeth)}
    b = build(panel_job({"mend": {"thicken": True}}, 250), comb, "layers")
    (said,) = [v for v in b.verdicts if v.code == "layers.unmended"]
    assert said.level == "look" and said.value > 300 and said.field == "layers.mend.thicken" and said.fix is False
    assert not [v for v in b.verdicts if v.code == "layers.mended"]
