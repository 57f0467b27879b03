"""Layers: what is thin, what is weeded, marks, films; sheets, lay-up and files that follow from them."""

from __future__ import annotations

import datetime as dt
import io
import itertools
import math
import re

import ezdxf
import numpy as np
import pypdfium2 as pdfium
import pytest
import shapely
from samples import cup, element, svg
from shapely import affinity
from wimple_core.cuts import NOTHING, cuts_round, together
from wimple_core.cutting.order import Contour, contours_of, order_contours, with_overcut
from wimple_core.export.dxf import dxf_file
from wimple_core.export.files import all_files, file_name
from wimple_core.job import load_job
from wimple_core.job.document import Marks
from wimple_core.layers.inspection import inspect
from wimple_core.layers.layers import count_weeded
from wimple_core.layers.marks import place_marks
from wimple_core.layers.names import name_colours
from wimple_core.pipeline import build_whole as build
from wimple_core.pricing.price import film_cost

EMPTY = shapely.Polygon()
TWO = {
    "a.svg": svg(
        '<rect x="5" y="30" width="90" height="40" fill="#1c3d7a"/><circle cx="50" cy="50" r="15" fill="#b98a2f"/>'
    )
}


def job(width: float = 60, **more: object):  # type: ignore[no-untyped-def]
    return load_job({**cup(), "elements": [element("a.svg", {"width_mm": width, "up_mm": 45})], **more})


@pytest.mark.parametrize("width", [0.5, 0.9, 1.1, 2.0])
@pytest.mark.parametrize("turn", [0, 30, 77])
def test_strokes_thinner_than_safe_are_found(width: float, turn: float) -> None:
    bar = shapely.affinity.rotate(shapely.box(0, 0, 30, width), turn)
    dumbbell = shapely.union_all([bar, shapely.affinity.rotate(shapely.box(-10, -5, 1, 5), turn, origin=bar.centroid)])
    assert bool(inspect(dumbbell, 1.0, 2.0).thin) is (width < 1.0)


def test_discs_and_plain_corners_are_not_thin() -> None:
    assert not inspect(shapely.Point(0, 0).buffer(4), 1.0, 2.0).thin
    assert not inspect(shapely.box(0, 0, 20, 20), 1.0, 2.0).thin
    found = inspect(
        shapely.union_all([shapely.Point(9 * i, 0).buffer(r, quad_segs=32) for i, r in enumerate((0.8, 0.95, 1.2))]),
        1.0,
        2.0,
    )
    assert len(found.dots) == 2 and found.smallest_dot_mm == pytest.approx(1.6, rel=1e-3)


def test_pieces_of_waste() -> None:
    """The surround, and every hole: a ring with a disc in it leaves the surround and the gap between them."""
    ring = shapely.Point(0, 0).buffer(10).difference(shapely.Point(0, 0).buffer(7))
    assert count_weeded(ring, EMPTY) == 2
    assert count_weeded(ring.union(shapely.Point(0, 0).buffer(3)), EMPTY) == 2
    holes = shapely.box(0, 0, 50, 50).difference(
        shapely.union_all([shapely.Point(10 * i, 25).buffer(2) for i in (1, 2, 3, 4)])
    )
    assert count_weeded(holes, EMPTY) == 5


WORK = shapely.union_all([shapely.Point(40, 25).buffer(25), shapely.box(0, 20, 80, 30)])
BOX = (0.0, 0.0, 80.0, 50.0)


@pytest.mark.parametrize("kind", ["crosses", "squares", "strips", "corners"])
@pytest.mark.parametrize("within", [False, True])
def test_a_turned_or_mirrored_layer_is_seen_by_its_marks(kind: str, within: bool) -> None:
    """In whichever way a layer is laid wrong, its marks do not cover those of the others; and they keep away from the
    work."""
    plan = Marks(kind=kind, within=within)  # type: ignore[arg-type]
    placed = place_marks(plan, [WORK, WORK], BOX)
    assert placed is not None
    marks = placed.region
    assert marks.distance(WORK) >= 6 - 1e-4 and marks.is_valid and placed.apart > 50
    middle = shapely.box(*shapely.union_all([marks, WORK]).bounds).centroid
    wrong = [
        affinity.scale(marks, x, y, origin=o)
        for x, y in ((-1, 1), (1, -1), (-1, -1))
        for o in (middle, shapely.Point(*placed.middle))
    ]
    for other in wrong:
        assert shapely.symmetric_difference(marks, other).area > 1


def test_marks_stand_where_film_is_used_anyway() -> None:
    """Beside a disc and a bar in one box there is room in the corners; beside what fills its box there is none."""
    saved = place_marks(Marks(), [WORK, WORK], BOX)
    above = place_marks(Marks(within=False), [WORK, WORK], BOX)
    assert saved and above and above.region.bounds[1] == 56
    assert shapely.box(*BOX).covers(saved.region) and saved.apart == pytest.approx(70)
    full = shapely.box(*BOX)
    assert place_marks(Marks(), [full, full], BOX).region.bounds[1] == 56  # type: ignore[union-attr]
    narrow = shapely.box(0, 0, 5, 5)
    wide = place_marks(Marks(), [narrow, narrow], (0, 0, 5, 5))
    assert wide and wide.region.bounds[2] - wide.region.bounds[0] == 30
    # One corner of each side is enough: they need not be level.
    slope = shapely.Polygon([(0, 0), (60, 0), (80, 50), (20, 50)])
    aslant = place_marks(Marks(size_mm=5, away_mm=2), [slope, slope], BOX)
    assert aslant and shapely.box(*BOX).covers(aslant.region) and aslant.region.distance(slope) > 1.9


def test_one_layer_has_no_marks_and_all_layers_have_the_same() -> None:
    one = build(load_job({**cup(), "elements": [element("a.svg")]}), {"a.svg": svg('<rect width="9" height="9"/>')})
    assert all(la.marks.is_empty for la in one.layers.layers)  # type: ignore[union-attr]
    for kind in ("crosses", "squares", "strips", "corners"):
        b = build(job(layers={"marks": {"kind": kind}}), TWO)
        first, second = (la.marks for la in b.layers.layers)  # type: ignore[union-attr]
        assert not first.is_empty and first.equals(second)
    none = build(job(layers={"marks": {"kind": "none"}}), TWO)
    assert all(la.marks.is_empty for la in none.layers.layers)  # type: ignore[union-attr]


@pytest.mark.parametrize("kind", ["crosses", "squares", "strips", "corners"])
def test_a_tick_points_along_the_centre_line_of_the_template(kind: str) -> None:
    """However the work lies, the tick is at the template's own middle, the same in every layer, where no film is added
    for it; and none where the line does not cross the work."""
    for turned in (0, 4):
        raw = job(60, layers={"marks": {"kind": kind, "within": False}}).model_dump(mode="json")
        raw["elements"][0]["placements"][0]["centre_deg"] = turned
        with_it = build(load_job(raw), TWO).layers
        raw["layers"]["marks"]["centre"] = False
        without = build(load_job(raw), TWO).layers
        assert with_it and without
        ticks = [a.marks.difference(b.marks) for a, b in zip(with_it.layers, without.layers, strict=True)]
        assert ticks[0].equals(ticks[1])
        assert ticks[0].centroid.x == pytest.approx(0, abs=1e-6)
        lowest = min(shapely.get_coordinates(ticks[0]), key=lambda p: p[1])
        assert lowest[0] == pytest.approx(0, abs=1e-6)
        above = max(a.cuts.bounds[3] for a in with_it.layers) - max(a.cuts.bounds[3] for a in without.layers)
        assert (above == 0) is (kind == "crosses"), "beside crosses there is film for it"
    raw["elements"][0]["placements"][0]["centre_deg"] = 120
    raw["layers"]["marks"]["centre"] = True
    far = build(load_job(raw), TWO).layers
    assert far and far.layers[0].marks.bounds[0] > 5


def test_films_are_laid_in_the_order_that_was_chosen_and_show_the_same() -> None:
    """Whichever lies lower reaches under the other; what is seen from above does not change."""
    plain = build(job(), TWO).layers
    assert plain and [la.colour for la in plain.layers] == ["#1c3d7a", "#b98a2f"]
    turned = build(job(layers={"order": ["#b98a2f", "#1c3d7a", "#abcdef"], "joint": "knocked_out"}), TWO).layers
    assert turned and [la.colour for la in turned.layers] == ["#b98a2f", "#1c3d7a"]
    (gold,) = [la for la in plain.layers if la.colour == "#b98a2f"]
    assert turned.layers[0].region.area > gold.region.area * 1.05 and turned.layers[0].seen.equals(gold.seen)
    assert shapely.intersection(turned.layers[1].region, turned.layers[0].seen).area < 1e-6


FOUR = {
    "a.svg": svg(
        '<rect width="100" height="20" fill="#1c3d7a"/><circle cx="50" cy="10" r="6" fill="#b98a2f"/>'
        '<circle cx="93" cy="10" r="6" fill="#efe6c8"/><circle cx="25" cy="10" r="2" fill="#c22a2a"/>'
    )
}


def test_what_no_order_names_lies_on_what_it_lay_on() -> None:
    """One film alone says no order; two do, and the others stay on what they lay on."""
    four = build(job(150, layers={"joint": "stacked", "order": ["#efe6c8"]}), FOUR).layers
    assert four and [la.colour for la in four.layers] == ["#1c3d7a", "#b98a2f", "#efe6c8", "#c22a2a"]
    two = build(job(150, layers={"joint": "stacked", "order": ["#c22a2a", "#1c3d7a"]}), FOUR).layers
    assert two and [la.colour for la in two.layers] == ["#c22a2a", "#1c3d7a", "#b98a2f", "#efe6c8"]


def test_the_joint_that_fails_first_is_named() -> None:
    """Laid by eye about the middle of the work, what lies furthest from it opens most by the turn."""
    order = ["#1c3d7a", "#b98a2f", "#efe6c8", "#c22a2a"]
    plan = {"marks": {"kind": "none"}, "joint": "knocked_out", "accuracy_mm": 0.4, "order": order}
    b = build(job(150, layers=plan), FOUR)
    assert b.layers and b.layers.weakest and (b.layers.weakest.lower, b.layers.weakest.upper) == ("midnight", "cream")
    (said,) = [v for v in b.verdicts if v.code == "layers.overlap"]
    assert "first between midnight and cream" in said.sentence()
    assert 0 < b.layers.weakest.chance < b.layers.gap_chance


def test_edge_to_edge_no_film_reaches_under_another_and_it_is_said_how_often_that_shows() -> None:
    b = build(job(layers={"joint": "butted"}), TWO)
    low, high = (la.region for la in b.layers.layers)  # type: ignore[union-attr]
    assert shapely.intersection(low, high).area < 1e-6 and b.layers.overlap == 0  # type: ignore[union-attr]
    (said,) = [v for v in b.verdicts if v.code == "layers.overlap"]
    assert said.level == "look" and "hopeless" in said.sentence() and said.fixes["layers.joint"] == "knocked_out"
    mended = build(job(layers={"joint": "knocked_out", "overlap_mm": said.fixes["layers.overlap_mm"]}), TWO)
    assert [v.level for v in mended.verdicts if v.code == "layers.overlap"] == ["ok"]
    steady = build(job(layers={"joint": "butted", "accuracy_mm": 0.03}), TWO)
    assert [v.level for v in steady.verdicts if v.code == "layers.overlap"] == ["ok"]


def test_marks_lie_apart_from_the_work_and_alike_on_all_layers() -> None:
    layers = build(job(), TWO, "layers").layers.layers  # type: ignore[union-attr]
    assert len(layers) == 2 and layers[0].marks == layers[1].marks and len(shapely.get_parts(layers[0].marks)) == 3
    assert all(la.marks.disjoint(la.region) for la in layers)


def test_names_tell_colours_apart() -> None:
    names = name_colours(["#101010", "#111111", "#1c3d7a", "#ffffff"])
    assert len(set(names.values())) == 4 and names["#101010"] == "black" and names["#111111"] == "black 2"


def test_knocked_out_reaches_under_by_the_overlap() -> None:
    b = build(job(layers={"joint": "knocked_out", "overlap_mm": 0.8}), TWO, "layers")
    lower, upper = b.layers.layers  # type: ignore[union-attr]
    hole = shapely.difference(upper.seen, lower.region)
    assert hole.area > 0
    reach = shapely.hausdorff_distance(shapely.boundary(hole), shapely.boundary(upper.seen))
    assert reach == pytest.approx(0.8, abs=0.02)
    assert build(job(), TWO, "layers").layers.layers[0].region.contains(upper.seen.buffer(-0.01))  # type: ignore[union-attr]


def test_too_many_layers_are_judged() -> None:
    stripes = "".join(f'<rect x="{i * 10}" width="10" height="60" fill="#{i:x}{9 - i}4"/>' for i in range(9))
    bad = next(v for v in build(job(), {"a.svg": svg(stripes)}, "layers").verdicts if v.code == "layers.count")
    assert bad.value == 9 and bad.level == "look" and bad.fix is True


def test_film_with_a_direction_is_never_turned() -> None:
    """A band too wide for the mat but not for its length on the roll: turned in plain film, not in brushed."""
    band = {"a.svg": svg('<rect x="40" width="12" height="100" fill="#1c3d7a"/>')}
    raw = {
        "blank": {
            "kind": "panel",
            "width": {"reads": "width", "readings": [900]},
            "height": {"reads": "height", "readings": [500]},
        },
        "elements": [element("a.svg", {"width_mm": 700 / 8, "up_mm": 250, "turn_deg": 90})],
        "sheets": {"cutter": "roll-24"},
    }
    plain = build(load_job(raw), band).sheets.loads[0]  # type: ignore[union-attr]
    assert plain.turned and plain.fits
    brushed = build(load_job({**raw, "layers": {"default_film": "brushed"}}), band)
    assert not brushed.sheets.loads[0].turned and any(
        v.code == "sheets.fits" and v.level == "stop" for v in brushed.verdicts
    )  # type: ignore[union-attr]


def test_heat_transfer_film_is_cut_mirrored() -> None:
    letter = {"a.svg": svg('<path d="M20 10H80V25H35V90H20z" fill="#101010"/>')}
    plain, mirrored = (
        build(job(30, layers={"default_film": f, "marks": {"kind": "none"}}), letter)
        .sheets.loads[0]
        .cuts.only("piece", "hole")
        .region
        for f in ("cast", "heat-transfer")
    )  # type: ignore[union-attr]
    back = shapely.affinity.scale(mirrored, -1, 1, origin=shapely.box(*mirrored.bounds).centroid)
    assert shapely.symmetric_difference(plain, back).area < 0.01 < shapely.symmetric_difference(plain, mirrored).area


def test_film_used_by_a_six_inch_square() -> None:
    """A 6 x 6 in design uses about 7 x 7 in of film (common practice, no source), at 0.14 in plain and 0.80 in
    glitter."""
    square = {"a.svg": svg('<rect width="100" height="100" fill="#1c3d7a"/>')}
    raw = {
        "blank": {
            "kind": "panel",
            "width": {"reads": "width", "readings": [400]},
            "height": {"reads": "height", "readings": [300]},
        },
        "elements": [element("a.svg", {"width_mm": 152.4, "up_mm": 150})],
        "sheets": {"weed_box": False},
        "layers": {"marks": {"kind": "none"}},
    }
    for film, cost in (("calendered-gloss", 0.14), ("glitter", 0.80)):
        sheets = build(load_job({**raw, "layers": {"marks": {"kind": "none"}, "default_film": film}}), square).sheets
        assert sheets.film_area / 25.4**2 == pytest.approx(49, rel=1e-3)  # type: ignore[union-attr]
        assert float(film_cost(sheets)) == pytest.approx(cost, abs=0.005)  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("order", "there", "first"),
    [
        ("tape", "Lay up on the tape", "gold"),
        ("mat", "Lay up on the mat", "midnight"),
        ("blank", "Lay layer on layer", "midnight"),
    ],
)
def test_lay_up_follows_its_order(order: str, there: str, first: str) -> None:
    lay = build(job(layup={"order": order}), TWO).layup
    step = next(s for s in lay.steps if s.title == there)  # type: ignore[union-attr]
    names = step.text.split(": ", 1)[1]
    assert names.index(first) < names.index("midnight" if first == "gold" else "gold")
    titles = [s.title for s in lay.steps]  # type: ignore[union-attr]
    assert titles.index("Weed") < titles.index("Clean") < titles.index("Apply") < titles.index("Cure")


def test_lay_up_says_until_when_and_with_which_cautions() -> None:
    films = [{"colour": "#b98a2f", "film": "glitter"}]
    lay = build(job(layup={"apply_on": "2026-11-27T10:00:00", "cure_hours": 72}, layers={"films": films}), TWO).layup
    assert lay.wash_from == dt.datetime(2026, 11, 30, 10)  # type: ignore[union-attr]
    assert lay.tape == "strong" and "Mon 30 Nov 2026" in lay.steps[-1].text  # type: ignore[union-attr]
    codes = {c.code for c in lay.cautions}  # type: ignore[union-attr]
    assert {"blades", "alcohol", "food", "wash", "microwave"} <= codes and "vehicle" not in codes
    short = build(job(layup={"cure_hours": 24}), TWO)
    assert next(v for v in short.verdicts if v.code == "layup.cure").level == "look"


def test_double_walls_are_levelled_without_water() -> None:
    single, double = (
        build(load_job({**cup(wall=w), "elements": [element("a.svg", {"width_mm": 50, "up_mm": 45})]}), TWO).layup
        for w in ("single", "double")
    )
    level = lambda lay: next(s for s in lay.steps if s.title == "Find level")  # noqa: E731
    assert "pour" in level(single).text and "pour" not in level(double).text


def rings(n: int, seed: int) -> list[Contour]:
    g = np.random.default_rng(seed)
    places = g.permutation(n * 3)[:n, None] * (7, 0) + g.uniform(0, 60, (n, 2)) * (0, 1)
    return contours_of(cuts_round(shapely.union_all([shapely.Point(x, y).buffer(2) for x, y in places])))


def travel(order: list[Contour]) -> float:
    at, total = np.zeros(2), 0.0
    for c in order:
        total += math.dist(at, c.points[0])
        at = c.points[0]
    return total


@pytest.mark.parametrize("seed", range(4))
def test_travel_against_brute_force(seed: int) -> None:
    """Six contours, every order tried, each entered at its nearest point: ours is within a third of the best."""
    found = rings(6, seed)
    best = math.inf
    for p in itertools.permutations(found):
        at, total = np.zeros(2), 0.0
        for c in p:
            i = int(np.argmin(np.hypot(*(c.points - at).T)))
            total += math.dist(at, c.points[i])
            at = c.points[i]
        best = min(best, total)
    assert travel(order_contours(found)) <= best * 1.34


def test_overcut_runs_past_the_start_along_the_contour() -> None:
    square = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10]])
    path = with_overcut(square, 0.5)
    assert np.allclose(path[-1], [0.5, 0]) and shapely.LineString(path).length == pytest.approx(40.5)
    assert shapely.LineString(with_overcut(square, 12)).length == pytest.approx(52)
    assert np.allclose(with_overcut(square, 0)[-1], square[0])


def test_odd_names_in_files() -> None:
    assert file_name("Größe / weiß <2>") == "gr-e-wei-2" and file_name("…") == "layer"
    doc = ezdxf.read(io.StringIO(dxf_file({"a/b*c?": cuts_round(shapely.box(0, 0, 5, 5)), "empty": NOTHING})))
    assert not doc.audit().errors and len(doc.modelspace()) == 1


def test_pdfs_take_any_title_and_the_job_sheet_is_one_page() -> None:
    title = "月の杯 «Ω» " + "long " * 20
    built = build(
        load_job(
            {
                **cup(),
                "title": title[:120],
                "quantity": 40,
                "elements": [element("a.svg", {"width_mm": 50, "up_mm": 45})],
            }
        ),
        TWO,
    )
    made = {f.path: f.data for f in all_files(built, TWO, "in_fraction")}
    assert len(pdfium.PdfDocument(made["job-sheet.pdf"])) == 1
    text = pdfium.PdfDocument(made["job-sheet.pdf"])[0].get_textpage().get_text_range()
    assert "Transfer tape" in text and " in by " in text and "Cautions" in text


def test_tiles_cover_the_template() -> None:
    """A panel of 700 x 500 mm on A4: the pages' windows, laid with 10 mm of overlap, cover it."""
    raw = {
        "blank": {
            "kind": "panel",
            "width": {"reads": "width", "readings": [700]},
            "height": {"reads": "height", "readings": [500]},
        }
    }
    made = {f.path: f.data for f in all_files(build(load_job(raw), {}), {})}
    pdf = pdfium.PdfDocument(made["template-a4.pdf"])
    w, h = (v / 72 * 25.4 for v in pdf[0].get_size())
    columns, rows = math.ceil((700 - 10) / (w - 24 - 10)), math.ceil((500 - 10) / (h - 24 - 16 - 10))
    assert len(pdf) == columns * rows
    names = [p.get_textpage().get_text_range() for p in pdf]
    assert "sheet A1 of" in names[0] and f"sheet {chr(64 + rows)}{columns} of {len(pdf)}" in names[-1]


@pytest.mark.parametrize(
    ("body", "hardly"),
    [
        ('<rect width="60" height="40" fill="#fefefe"/>', True),
        # All round another film: nobody sees it against the blank.
        (
            '<rect width="60" height="40" fill="#101010"/><rect x="20" y="10" width="9" height="9" fill="#fefefe"/>',
            False,
        ),
        # Two of three dots lie on other film, the third on the blank.
        (
            '<rect width="60" height="40" fill="#101010"/><circle cx="15" cy="20" r="4" fill="#fefefe"/>'
            '<circle cx="40" cy="20" r="4" fill="#fefefe"/><circle cx="75" cy="20" r="4" fill="#fefefe"/>',
            True,
        ),
        ('<rect width="60" height="40" fill="#101010"/>', False),
    ],
)
def test_what_hardly_shows_is_said_where_it_lies_on_the_blank(body: str, hardly: bool) -> None:
    """The cup is white."""
    verdicts = build(job(), {"a.svg": svg(body)}, "layers").verdicts
    assert any(v.code == "layers.contrast" and v.level == "look" for v in verdicts) is hardly


def test_plain_corners_are_no_thin_places_in_whatever_order_they_come() -> None:
    """Triangles and stars with no corner under 40 degrees, turned and begun anywhere: their tips hold."""
    rng = np.random.default_rng(5)
    parts = []
    for n in range(60):
        if n % 2:
            turns = np.cumsum([0.0, *rng.uniform(100, 140, 2)])
            points = 8 * np.column_stack([np.cos(np.radians(turns)), np.sin(np.radians(turns))])
        else:
            around = np.radians(np.arange(10) * 36)
            points = np.where(np.arange(10) % 2, 5.5, 9.0)[:, None] * np.column_stack([np.cos(around), np.sin(around)])
        points = np.roll(points, int(rng.integers(10)), axis=0)
        parts.append(affinity.rotate(shapely.Polygon(points + (30.0 * n, 0)), rng.uniform(0, 360)))
    assert not inspect(shapely.MultiPolygon(parts), 1.0, 2.0).thin


def test_marks_that_do_not_fit_the_sheet_are_said() -> None:
    """A band that has room on the mat without strips at its sides, and none with them."""
    band = {
        "a.svg": svg('<rect width="100" height="20" fill="#1c3d7a"/><circle cx="50" cy="10" r="6" fill="#b98a2f"/>')
    }
    panel = {
        "kind": "panel",
        "width": {"reads": "width", "readings": [600]},
        "height": {"reads": "height", "readings": [300]},
    }

    def judged(kind: str):  # type: ignore[no-untyped-def]
        plan = {"marks": {"kind": kind, "centre": False}, "default_film": "brushed"}
        raw = {"blank": panel, "elements": [element("a.svg", {"width_mm": 268, "up_mm": 150})], "layers": plan}
        return [v for v in build(load_job(raw), band).verdicts if v.code == "sheets.fits"]

    assert {v.level for v in judged("crosses")} == {"ok"}
    bad = judged("squares")
    assert {v.level for v in bad} == {"stop"} and all("Without its marks" in v.sentence() for v in bad)
    assert all(v.field == "layers.marks.kind" for v in bad)


@pytest.mark.parametrize("kind", ["crosses", "squares", "strips", "corners"])
def test_marks_are_the_same_in_every_layer_after_svg_dxf_and_hpgl(kind: str) -> None:
    """Read back from the files, by another program each: each layer's marks lie where the first one's do, to a
    thousandth of a millimetre in what writes lengths, and to a step of the plotter in HP-GL."""
    b = build(job(150, layers={"marks": {"kind": kind}}), FOUR)
    files = {f.path: f.data.decode() for f in all_files(b, FOUR) if f.path.startswith("layers/")}
    left, low, _, _ = together(la.cuts for la in b.layers.layers).bounds  # type: ignore[union-attr]
    corners = (shapely.get_coordinates(b.layers.layers[0].marks) - (left, low)) * 40  # type: ignore[union-attr]
    marks: dict[str, list[np.ndarray]] = {"svg": [], "dxf": [], "plt": []}
    for path, text in files.items():
        if path.endswith(".svg"):
            (drawn,) = re.findall(r'<path id="marks"[^>]* d="([^"]*)"', text)
            points = [float(n) for n in re.findall(r"-?[0-9.]+", drawn)]
        elif path.endswith(".dxf"):
            rings = ezdxf.read(io.StringIO(text)).modelspace().query('LWPOLYLINE[layer=="marks"]')
            points = [c for ring in rings for p in ring.get_points() for c in p[:2]]
        else:
            every = np.array([[int(x), int(y)] for x, y in re.findall(r"(-?\d+),(-?\d+)", text)])
            away = np.hypot(*(corners[:, None] - every[None]).transpose(2, 0, 1))
            assert away.min(axis=1).max() < 25, "the pivot comes near every corner of the marks"
            points = every[away.argmin(axis=1)].ravel().tolist()
        marks[path[-3:]].append(np.array(points, dtype=float))
    for some in marks.values():
        assert len(some) == 4 and len(some[0]) > 3
    for ending, within in (("svg", 1e-3), ("dxf", 1e-3), ("plt", 1.0)):
        first, *others = marks[ending]
        assert all(o.shape == first.shape and np.abs(o - first).max() <= within for o in others), ending


def test_where_a_hand_puts_the_films_on_the_object_is_where_it_puts_them_on_the_template() -> None:
    """On a panel the map of the surface's own coordinates is the rigid move itself: a turn to the left about the
    middle of the marks, and the shift."""
    from wimple_core.layers.misregistration import lay_ups
    from wimple_core.views.wearing import worn_view

    panel = {
        "kind": "panel",
        "width": {"reads": "width", "readings": [200]},
        "height": {"reads": "height", "readings": [200]},
    }
    raw = {"blank": panel, "elements": [element("a.svg", {"width_mm": 60, "up_mm": 90})]}
    b = build(load_job(raw), TWO, "layers")
    layers, hand = b.layers, b.layers.hand  # type: ignore[union-attr]
    assert layers and hand and b.fit and b.template
    laid, worn = lay_ups(2, hand), worn_view(b.films, b.fit, b.template, layers)
    (dx, dy), place = b.fit.still.move if b.fit.still else (0.0, 0.0), np.array([17.0, 101.0])
    for n in (0, 7, 39):
        a, shift = laid.turn[n, 1], laid.shift[n, 1]
        x, y = place - hand.middle
        wanted = np.array([x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a)]) + hand.middle + shift
        m = np.array(worn[1].moves[n]).reshape(2, 3)
        assert m @ [place[0] - dx, place[1] - dy, 1] == pytest.approx(wanted - (dx, dy), abs=1e-4)
    far = load_job({**raw, "elements": [element("a.svg", {"width_mm": 60, "up_mm": 110, "across_mm": 20})]})
    moved = build(far, TWO, "layers").layers
    assert moved and moved.hand and np.subtract(moved.hand.middle, hand.middle) == pytest.approx((20, 20), abs=1e-6)


def test_a_film_has_its_colours_in_the_cold_and_in_the_warmth_and_half_of_each_between() -> None:
    from wimple_core.layers.colours import warmed

    at = [warmed("#2040c0", "#f0e0d0", 31.0, t) for t in (10, 28, 31, 34, 60)]
    assert at == ["#2040c0", "#2040c0", "#8890c8", "#f0e0d0", "#f0e0d0"]


def test_a_base_that_runs_over_the_edge_says_by_how_much_and_what_fits() -> None:
    raw = {
        "blank": {
            "kind": "panel",
            "width": {"reads": "width", "readings": [100]},
            "height": {"reads": "height", "readings": [80]},
        },
        "elements": [element("a.svg", {"width_mm": 98.0, "up_mm": 40.0})],
        "layers": {"base": {"colour": "#ffffff", "outline_mm": 2.5}},
    }
    files = {"a.svg": svg('<rect width="98" height="60" fill="#1c3d7a"/>')}
    built = build(load_job(raw), files, "layers")
    said = [v for v in built.verdicts if v.code == "layers.base_room"]
    assert [v.level for v in said] == ["stop"]
    # 98 and twice 2.5 are 103 on 100.
    assert said[0].value == pytest.approx(1.5, abs=1e-6)
    assert said[0].fix == pytest.approx(1.0)
    raw["layers"]["base"]["outline_mm"] = said[0].fix
    assert not [v for v in build(load_job(raw), files, "layers").verdicts if v.code == "layers.base_room"]


STAR_UNDER_SQUARE = svg(
    '<path d="M50 0L70 30L100 50L70 70L50 100L30 70L0 50L30 30z" fill="#1c3d7a"/>'
    '<rect x="32" y="32" width="36" height="36" fill="#efc22a"/>'
)
STACK = svg(
    '<rect x="5" y="5" width="90" height="90" fill="#222"/><circle cx="50" cy="50" r="40" fill="#d33"/>'
    '<path d="M50 14L86 50L50 86L14 50z" fill="#fff"/><rect x="40" y="40" width="20" height="20" fill="#27c"/>'
)


@pytest.mark.parametrize("drawn", [STAR_UNDER_SQUARE, STACK], ids=["star", "stack"])
@pytest.mark.parametrize("kind", ["crosses", "squares", "strips", "corners"])
@pytest.mark.parametrize("joint", ["stacked", "knocked_out"])
@pytest.mark.parametrize("based", [False, True])
def test_no_mark_is_cut_through_a_piece_of_any_film(drawn: bytes, kind: str, joint: str, based: bool) -> None:
    """Films lie on one another: what two of them cover is no less covered. By the union of all that is cut."""
    more = {"base": {"colour": "#ffffff", "outline_mm": 2}} if based else {}
    for across in (0.0, 9.0):
        raw = {
            **cup(),
            "elements": [element("a.svg", {"width_mm": 60, "up_mm": 45, "centre_deg": across})],
            "layers": {"joint": joint, "marks": {"kind": kind}, **more},
        }
        layers = build(load_job(raw), {"a.svg": drawn}, "layers").layers
        assert layers is not None
        work = shapely.union_all([la.region for la in layers.layers])
        marks = layers.layers[0].marks
        assert not marks.is_empty and shapely.intersection(work, marks).area == 0 and work.distance(marks) > 0.5
        assert all(la.marks.equals(marks) for la in layers.layers)
        assert not [v for v in layers.verdicts if v.code == "layers.marks"]


def test_a_mark_through_the_work_is_said() -> None:
    from wimple_core.layers.layer import with_tick
    from wimple_core.layers.verdicts import marks_looked_at

    raw = {**cup(), "elements": [element("a.svg", {"width_mm": 60, "up_mm": 45})]}
    layers = build(load_job(raw), {"a.svg": STACK}, "layers").layers
    assert layers is not None
    left, low, right, high = layers.layers[0].region.bounds
    x, y = (left + right) / 2, (low + high) / 2
    through = marks_looked_at(with_tick(layers, shapely.box(x - 1, y - 1, x + 1, y + 1))).verdicts[-1]
    assert (through.code, through.level, through.value) == ("layers.marks", "stop", 1)
    assert through.places[0] == pytest.approx((x, y))
