"""What is found in a layer, and how it is weeded, against closed forms and a rendering nobody here computed."""

from __future__ import annotations

import io
import json
import math

import numpy as np
import pypdfium2 as pdfium
import pytest
import scipy.ndimage
import shapely
from many_coloured import PLACES, sample
from samples import cup, element, svg
from shapely import affinity
from wimple_core.cuts import together
from wimple_core.errors import WimpleError
from wimple_core.export.files import all_files
from wimple_core.export.report import make_report
from wimple_core.export.weed_sheet import group_size, weed_sheet_pdf
from wimple_core.job import load_job
from wimple_core.job.document import Weeding
from wimple_core.layers.inspection import by_size, inspect
from wimple_core.layers.layers import count_weeded
from wimple_core.layers.weeding import looking_order, plan_weeding
from wimple_core.pipeline import build_whole as build
from wimple_core.thin import least_width

EMPTY = shapely.Polygon()


def disc(r: float, x: float = 0, y: float = 0) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(r, quad_segs=64)


@pytest.mark.parametrize("rings", [1, 2, 3, 6])
def test_nested_rings_are_counted_in_closed_form(rings: int) -> None:
    """`n` rings about a disc: n + 1 pieces stay; the surround and n gaps between them go; and all within the outermost
    are islands."""
    every = [disc(10.0 * k + 14).difference(disc(10.0 * k + 9)) for k in range(rings)]
    work = shapely.MultiPolygon([disc(4.0), *every])
    found = inspect(work, 1.0, 2.0)
    assert sum(found.stay) == rings + 1 and sum(found.go) == rings + 1 == count_weeded(work, EMPTY)
    assert len(found.islands) == rings
    # Across: discs of 8 mm and rings of 28, 48, 68 ...; holes of 18, 38, 58 ...
    assert found.stay == by_size(np.array([8.0, *(20.0 * k + 28 for k in range(rings))]))
    assert found.go[:-1] == by_size(np.array([20.0 * k + 18 for k in range(rings)]))[:-1] or rings > 2
    (hole,) = [s for s in found.spots if s.kind == "hole"]
    assert hole.value == pytest.approx(18.0, rel=1e-3)
    (piece,) = [s for s in found.spots if s.kind == "piece"]
    assert piece.value == pytest.approx(8.0, rel=1e-3) and np.hypot(*piece.at) < 4


@pytest.mark.parametrize("width", [0.2, 0.45, 0.8])
@pytest.mark.parametrize("turn", [0, 31])
def test_a_dumbbell_hangs_by_a_thread_of_known_width(width: float, turn: float) -> None:
    """Two discs joined by a strip: one neck, as wide as the strip. And by the distance transform of a rendering
    (scipy): the widest disc that fits the strip's middle is of that width."""
    bell = shapely.union_all([disc(5, -12), disc(5, 12), shapely.box(-12, -width / 2, 12, width / 2)])
    bell = affinity.rotate(bell, turn, origin=(0, 0))
    found = inspect(bell, 1.0, 2.0)
    assert len(found.threads) == len(found.thin) == 1 and np.hypot(*found.threads[0]) < 8
    (spot,) = [s for s in found.spots if s.kind == "stroke"]
    assert spot.value == pytest.approx(width, rel=0.07)
    fine = 0.02
    x, y = np.meshgrid(np.arange(-2, 2, fine), np.arange(-2, 2, fine))
    inside = shapely.contains_xy(bell, x, y)
    assert 2 * fine * scipy.ndimage.distance_transform_edt(inside).max() == pytest.approx(width, abs=4 * fine)
    # A strip that ends in the open is thin, but nothing hangs by it.
    comb = affinity.rotate(shapely.union_all([disc(5, -12), shapely.box(-12, -width / 2, 12, width / 2)]), turn)
    alone = inspect(comb, 1.0, 2.0)
    assert len(alone.thin) == 1 and not alone.threads


def test_the_thinnest_of_a_wedge_and_a_strip() -> None:
    strip = shapely.box(0, 0, 20, 0.6)
    assert least_width(np.array([strip], dtype=object), 1.0)[0] == pytest.approx(0.6, rel=0.06)
    assert least_width(np.array([shapely.box(0, 0, 20, 1.4)], dtype=object), 1.0)[0] == math.inf
    wedge = shapely.Polygon([(0, -1), (40, 0), (0, 1)])
    assert least_width(np.array([wedge], dtype=object), 1.0)[0] < 0.1, "it runs out to a point"


@pytest.mark.parametrize("degrees", [12, 20, 33, 50])
def test_the_sharpest_point_is_as_sharp_as_it_was_made(degrees: float) -> None:
    half = math.radians(degrees / 2)
    spike = shapely.Polygon([(0, 0), (30, 30 * math.tan(half)), (30, -30 * math.tan(half))])
    work = shapely.MultiPolygon([affinity.rotate(spike, 40, origin=(0, 0)), disc(5, -30, -30)])
    (point,) = [s for s in inspect(work, 0.2, 0.2).spots if s.kind == "point"]
    assert point.value == pytest.approx(degrees, abs=0.3) and np.hypot(*point.at) < 0.1
    hollow = shapely.box(-50, -50, 50, 50).difference(spike)
    assert not [s for s in inspect(hollow, 0.2, 0.2).spots if s.kind == "point"], "a notch is no point"


def test_the_narrowest_gap_is_measured() -> None:
    two = shapely.MultiPolygon([shapely.box(0, 0, 10, 10), shapely.box(10.23, 0, 20, 10), shapely.box(20.4, 0, 30, 10)])
    (gap,) = [s for s in inspect(two, 1.0, 2.0).spots if s.kind == "gap"]
    assert gap.value == pytest.approx(0.23) and gap.at[0] == pytest.approx(10.115)
    notched = shapely.box(0, 0, 20, 20).difference(shapely.box(9, 5, 9.3, 20))
    (gap,) = [s for s in inspect(notched, 1.0, 2.0).spots if s.kind == "gap"]
    assert gap.value == pytest.approx(0.3, rel=0.07)


@pytest.mark.parametrize("n", range(10))
def test_no_frame_and_no_line_meets_a_piece(n: int) -> None:
    """Of many-coloured drawings nobody here made, sixty a side to half a metre wide, frames and lines keep to the
    waste; a frame goes round whole pieces only, and no part of the waste is left larger than was asked for."""
    for k, (name, data) in enumerate(list(sample(60, seed=20261128))[6 * n : 6 * n + 6]):
        wide = (40.0, 150.0, 480.0)[k % 3]
        panel = {
            **PLACES[0][1],
            "width": {"reads": "width", "readings": [900]},
            "height": {"reads": "height", "readings": [900]},
        }
        raw = {
            "blank": panel,
            "elements": [element("a.svg", {"width_mm": wide, "up_mm": 450})],
            "layers": {"weeding": {"largest_mm": 100, "frame_away_mm": 2}},
        }
        try:
            b = build(load_job(raw), {"a.svg": data}, "sheets")
        except WimpleError:
            continue
        for la in b.layers.layers:  # type: ignore[union-attr]
            work = shapely.union_all([la.region, la.marks])
            for line in la.weeding.lines:
                assert not shapely.intersects(shapely.LineString(line), work), (name, la.name)
            frames = shapely.get_parts(la.weeding.frames)
            for frame in frames[~shapely.is_empty(frames)]:
                assert not shapely.intersects(shapely.boundary(frame), work), (name, la.name)
                assert shapely.contains(frame, shapely.point_on_surface(shapely.get_parts(la.region))).any()
            left, low, right, high = la.cuts.only("piece", "hole", "mark").bounds
            assert bool(la.weeding.lines) is (max(right - left, high - low) + 8 > 100)


def test_lines_part_plain_waste_into_what_a_hand_holds() -> None:
    """Round a small disc in a large box the lines go right across; where to begin is the corner furthest from it."""
    marks = shapely.MultiPolygon([shapely.box(0, 0, 5, 5), shapely.box(295, 195, 300, 200)])
    found = plan_weeding(
        disc(10, 250, 50), marks, ["1"], inspect(disc(10, 250, 50), 1, 2), 1, Weeding(largest_mm=110), 5
    )
    box = shapely.box(-5, -5, 305, 205)
    cut = shapely.union_all([shapely.LineString(line).buffer(0.02, cap_style="square") for line in found.lines])
    left = shapely.get_parts(box.difference(cut))
    size = shapely.bounds(left)
    assert len(left) == 6 and (size[:, 2:] - size[:, :2]).max() < 1.4 * 110
    assert found.corner == "upper left" and found.start == (-5, 205)
    assert found.minutes == pytest.approx(0.5 * 20 * math.pi / 1000 + 0.03, rel=1e-3)
    none = plan_weeding(disc(10, 250, 50), marks, ["1"], inspect(EMPTY, 1, 2), 1, Weeding(parts=False, frames=False), 5)
    assert not none.lines and none.frames.is_empty


def test_lettering_is_framed_as_words_and_a_dense_place_as_one() -> None:
    letters = [shapely.box(6 * n, 0, 6 * n + 4, 8) for n in range(8)]
    far = shapely.box(0, 60, 90, 90)
    work = shapely.MultiPolygon([*letters, far])
    names = [f"e1/1-{n + 1}" for n in range(8)] + ["e1/7"]
    found = plan_weeding(work, EMPTY, names, inspect(work, 1, 2), 1, Weeding(), 4)
    (frame,) = shapely.get_parts(found.frames)
    assert frame.bounds == pytest.approx((-3, -3, 49, 11), abs=0.1)
    few = shapely.MultiPolygon([*letters[:4], far])
    assert plan_weeding(few, EMPTY, ["1", "2", "3", "4", "5"], inspect(few, 1, 2), 1, Weeding(), 4).frames.is_empty


def test_pieces_are_looked_at_as_one_reads() -> None:
    at = [(x, y) for y in (40, 20, 0) for x in (0, 15, 30, 45)]
    rng = np.random.default_rng(3)
    mixed = rng.permutation(12)
    parts = np.array([disc(2, *at[n]) for n in mixed], dtype=object)
    assert [int(mixed[n]) for n in looking_order(parts)] == list(range(12))


DOTS = "".join(f'<circle cx="{5 + 9 * (i % 10)}" cy="{5 + 9 * (i // 10)}" r="1" fill="#b98a2f"/>' for i in range(60))


@pytest.mark.parametrize("style", ["mm", "in_fraction"])
def test_the_weed_sheet_is_one_page_with_a_box_for_every_piece(style: str) -> None:
    """Drawn 1:1 where it fits: a disc measures on paper what it does on film; all sixty dots have their boxes, and the
    names and counts are there."""
    raw = {**cup(), "elements": [element("a.svg", {"width_mm": 60, "up_mm": 45})]}
    body = DOTS + '<rect x="0" y="60" width="100" height="5" fill="#1c3d7a"/>'
    b = build(load_job(raw), {"a.svg": svg(body)})
    page = pdfium.PdfDocument(weed_sheet_pdf(b, style))  # type: ignore[arg-type]
    assert len(page) == 1
    text = page[0].get_textpage().get_text_range()
    assert "1 : 1" in text and "60 stay" in text and "midnight" in text and "gold" in text
    step = group_size(60)
    assert all(f"{k * step + 1}-{(k + 1) * step}" in text for k in range(60 // step))
    picture = np.asarray(page[0].render(scale=4).to_pil().convert("RGB")).astype(int)
    shade = 255 * (0.55 + 0.45 * np.array([0x1C, 0x3D, 0x7A]) / 255)
    bar = np.abs(picture - shade).sum(axis=2) < 12
    columns = np.flatnonzero(bar.any(axis=0))
    assert (columns[-1] - columns[0]) / 4 / 72 * 25.4 == pytest.approx(60, abs=1.0)


def test_files_and_report_hold_the_weeding() -> None:
    raw = {**cup(), "elements": [element("a.svg", {"width_mm": 60, "up_mm": 45})]}
    body = DOTS + '<circle cx="90" cy="90" r="9" fill="#b98a2f"/>'
    b = build(load_job(raw), {"a.svg": svg(body)})
    files = {f.path: f.data for f in all_files(b, {"a.svg": svg(body)})}
    assert files["weed-sheet.pdf"].startswith(b"%PDF")
    told = json.loads(files["report.json"])["layers"][0]["weeding"]
    assert sum(p["stay"] for p in told["pieces"]) == 61 and told["pieces"][0] == {"under_mm": 2.0, "stay": 60, "go": 0}
    assert told["frames"] == len(b.layers.layers[0].cuts.only("frame")) and told["minutes"] > 0  # type: ignore[union-attr]
    assert make_report(b).layers[0].weeding.start in ("lower left", "lower right", "upper left", "upper right")
    assert len(pdfium.PdfDocument(io.BytesIO(files["job-sheet.pdf"]))) >= 1


def test_twenty_thousand_pieces_and_none() -> None:
    """Bad input: as many as there may be are looked at and planned; nothing at all is nothing."""
    x, y = np.meshgrid(np.arange(200) * 3.0, np.arange(100) * 3.0)
    dots = shapely.buffer(shapely.points(x.ravel(), y.ravel()), 0.8, quad_segs=3)
    work = shapely.multipolygons(dots)
    found = inspect(work, 1.0, 2.0)
    assert len(found.dots) == 20_000 == sum(found.stay)
    plan = plan_weeding(work, EMPTY, ["1"] * 20_000, found, 1, Weeding(), 4)
    assert plan.minutes > 100 and all(not shapely.intersects(shapely.LineString(p), work) for p in plan.lines)
    nothing = inspect(EMPTY, 1.0, 2.0)
    assert not plan_weeding(EMPTY, EMPTY, [], nothing, 1, Weeding(), 4).lines and not len(together([]))
