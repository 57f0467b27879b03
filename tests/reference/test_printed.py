"""Printed and cut: the face and its contour in one frame, and a page found by its marks wherever it lies."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from typing import Any

import ezdxf
import numpy as np
import pytest
import shapely
from samples import EXAMPLES, board, element, svg
from wimple_core.cuts import cuts_round
from wimple_core.cutting import ordered_paths
from wimple_core.cutting.found_marks import Lie, PageNotFound, eye_over, find, lie_of
from wimple_core.cutting.sending import cut
from wimple_core.cutting.simulated import Machine, Sheet
from wimple_core.export import all_files
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.job.document import Print
from wimple_core.pipeline import build_whole as build
from wimple_core.sheets.pages import with_pages
from wimple_core.sheets.printed import Face, face_of, faces_of
from wimple_core.views.card import ticket_view
from wimple_core.views.wearing import worn_view

ART = svg(
    '<rect width="80" height="50" fill="#e8822a"/><circle cx="25" cy="25" r="15" fill="#1c3d7a"/>'
    '<rect x="60" width="20" height="50" fill="#ffffff"/>'
)
MARKS = np.array([(5.0, 5.0), (205.0, 5.0), (41.0, 305.0)])


def face(**plan: Any) -> Face:
    round_ = shapely.Point(40, 40).buffer(30)
    colours = [("#e8822a", round_), ("#1c3d7a", shapely.box(30, 30, 90, 50))]
    made = face_of("sun", "e1", colours, Print.model_validate(plan))
    assert made is not None
    return made


def lying(shift: tuple[float, float], degrees: float, scale: float = 1.0) -> Lie:
    return Lie(shift, np.radians(degrees), scale, 0.0)


def test_the_recovered_lie_is_within_a_twentieth_of_a_millimetre_under_noise() -> None:
    """150 pages, each mark seen 0.02 mm off (one standard deviation each way): anywhere among the marks."""
    rng = np.random.default_rng(5)
    inside = rng.uniform((5, 5), (205, 305), (200, 2))
    worst = []
    for n in range(150):
        true = lying(tuple(rng.uniform(-40, 40, 2)), float(rng.uniform(-5, 5)), float(rng.uniform(0.98, 1.02)))
        machine = Machine()
        machine.load(Sheet(75.0, marks=tuple(map(tuple, true.of(MARKS)))))  # type: ignore[arg-type]
        machine.eye = np.random.default_rng(n)
        found = find(MARKS, eye_over(machine.take))
        worst.append(np.hypot(*(found.of(inside) - true.of(inside)).T).max())
    assert max(worst) < 0.05
    exact = lie_of(MARKS, lying((3.0, -7.0), 4.0, 1.01).of(MARKS))
    assert (exact.scale, np.degrees(exact.turn)) == pytest.approx((1.01, 4.0)) and exact.shift == pytest.approx((3, -7))
    assert exact.off < 1e-9


def test_the_machine_finds_the_page_and_cuts_its_contour() -> None:
    """The whole way: the page lies somewhere, the eye looks, the strokes go where the print is."""
    made = face(border_mm=2)
    rng = np.random.default_rng(2)
    for _ in range(12):
        true = lying((float(rng.uniform(0, 40)), float(rng.uniform(0, 40))), float(rng.uniform(-4, 4)), 1.004)
        machine = Machine(0.25, force_gf=90)
        machine.load(Sheet(75.0, marks=tuple(map(tuple, true.of(made.marks)))))  # type: ignore[arg-type]
        lie = find(made.marks, eye_over(machine.take))

        class Direct:
            answers = b""

            def send(self, data: bytes, machine: Machine = machine) -> None:
                self.answers += machine.take(data)

            def receive(self) -> bytes:
                out, self.answers = self.answers, b""
                return out

        contour = cuts_round(made.contour).transform(lie.of)
        strokes = [p.points for p in ordered_paths(contour, 0.5, 0.25)]
        shift = np.minimum(np.concatenate(strokes).min(axis=0), 0.0)
        cut(Direct(), [s - shift for s in strokes], lambda done: None)
        wanted = shapely.boundary(shapely.transform(made.contour, lambda p, t=true: t.of(p)))  # type: ignore[misc]
        tips = shapely.points(np.concatenate([s.tip + shift for s in machine.strokes[1:]]))
        # 0.05 for the page, and 0.05 for the blade.
        assert shapely.distance(tips, wanted).max() < 0.1


def test_a_page_that_lies_wrong_is_refused_in_words() -> None:
    def eye(true: Lie, marks: np.ndarray = MARKS) -> Any:
        machine = Machine()
        machine.load(Sheet(75.0, marks=tuple(map(tuple, true.of(marks)))))  # type: ignore[arg-type]
        return eye_over(machine.take)

    assert find(MARKS, eye(lying((20, 30), 2.0))).turn == pytest.approx(np.radians(2.0), abs=1e-3)
    middle = MARKS.mean(axis=0)
    turned = Lie((2 * middle[0], 2 * middle[1]), np.pi, 1.0, 0.0)
    with pytest.raises(PageNotFound, match="not where they should be"):
        find(MARKS, eye(turned))
    mirrored = MARKS * (-1, 1) + (210, 0)
    with pytest.raises(PageNotFound, match="not where they should be"):
        find(MARKS, eye(lying((0, 0), 0.0), mirrored))
    with pytest.raises(PageNotFound, match=r"printed at 94\.0 %"):
        find(MARKS, eye(lying((0, 0), 0.0, 0.94)))
    with pytest.raises(PageNotFound):
        find(MARKS, eye(lying((150, 150), 0.0)))
    bare = Machine()
    bare.load(Sheet())
    with pytest.raises(PageNotFound):
        find(MARKS, eye_over(bare.take))


def test_colours_bleed_over_the_edge_and_nowhere_else() -> None:
    made = face(bleed_mm=2)
    painted = shapely.union_all([region for _, region in made.inks])
    wide = shapely.buffer(made.contour, 2)
    assert painted.symmetric_difference(wide).area < 0.02 * (wide.area - made.contour.area)
    # Each colour goes on past its own edge: beside the bar its blue, beside the disc its orange.
    inside = {c: shapely.union_all([r for k, r in made.inks[2:] if k == c]) for c in ("#e8822a", "#1c3d7a")}
    for colour, region in made.inks[:2]:
        assert shapely.distance(shapely.points(shapely.get_coordinates(region)), inside[colour]).max() < 2.01
    # With a border nothing bleeds: what is cut through is white.
    white = face(border_mm=3)
    art = shapely.union_all([region for _, region in white.inks])
    assert len(white.inks) == 2 and shapely.covers(shapely.buffer(white.contour, -2.95), art)
    assert all(len(p.interiors) == 0 for p in shapely.get_parts(white.contour))
    for one, painted in ((made, wide), (white, white.contour)):
        assert not shapely.intersects(shapely.union_all(one.mark_regions), painted)
        assert shapely.box(0, 0, *one.size).covers(shapely.union_all(one.mark_regions))


def test_a_printed_element_is_no_layer_and_comes_as_face_and_cut() -> None:
    raw = {
        "blank": board(300, 200),
        "quantity": 3,
        "elements": [
            element("a.svg", {"width_mm": 80, "up_mm": 120}) | {"printed": {"bleed_mm": 1.5}},
            element("b.svg", {"width_mm": 30, "up_mm": 40}) | {"id": "e2"},
        ],
        "layers": {"marks": {"kind": "none"}},
    }
    plain = svg('<rect width="30" height="10" fill="#c22a2a"/>')
    b = build(load_job(raw), {"a.svg": ART, "b.svg": plain})
    assert [la.colour for la in b.layers.layers] == ["#c22a2a"]
    # The object wears it all the same.
    worn = {w.colour for w in worn_view(b.films, b.fit, b.template)}
    assert worn == {"#c22a2a", "#e8822a", "#1c3d7a", "#ffffff"}
    assert {p.colour for p in ticket_view(b).paints} == worn
    files = {f.path: f.data for f in all_files(b, {"a.svg": ART, "b.svg": plain})}
    stem = "printed/01-a-svg"
    assert {f"{stem}.pdf", f"{stem}-cut.svg", f"{stem}-cut.dxf", f"{stem}-cut.plt"} <= set(files)
    (made,) = faces_of(b.fit, b.elements)
    assert made.contour.area == pytest.approx(80 * 50, rel=1e-3)
    drawn = ezdxf.read(io.StringIO(files[f"{stem}-cut.dxf"].decode()))  # type: ignore[arg-type]
    assert {e.dxf.layer for e in drawn.modelspace()} == {"cut", "guides"}
    # It is told as a load of its own, its film counted and priced: one page of its frame's size.
    told = make_report(b)
    (page,) = told.pages
    wide, tall = made.size
    assert (page.name, page.element, page.film, page.fits) == (made.name, "e1", "calendered-gloss", True)
    assert page.size_mm == pytest.approx((wide, tall)) and page.marks_mm == [tuple(m) for m in made.marks.tolist()]
    assert page.strokes == 1 and page.seconds > 0
    use = told.film_use
    assert use is not None and use.printed_mm2 == pytest.approx(3 * wide * tall)
    parts = use.work_mm2 + use.between_mm2 + use.round_mm2 + use.lost_mm2 + use.printed_mm2
    assert use.whole_mm2 == pytest.approx(parts)
    assert (b.cutting.seconds, page.times) == (pytest.approx(sum(p.seconds * p.load.times for p in b.cutting.every)), 3)
    (fits,) = (v for v in b.sheets.verdicts if v.code == "sheets.page")
    assert fits.level == "ok" and fits.value == pytest.approx(max(wide, tall))
    # The one contour of its face, and the bar that is cut from film.
    (count,) = (v for v in b.layup.verdicts if v.code == "layup.pieces")
    assert count.value == 2 and "3 printed pages, each found by its marks" in b.layup.steps[0].text
    (line,) = (x for x in told.price.lines if "printed" in x["name"])  # type: ignore[union-attr]
    assert float(line["amount"]) == pytest.approx(wide * tall / 1e6 * 4.43, abs=0.006)
    # The page is as large as its frame and 10 mm round it, to the point.
    box = files[f"{stem}.pdf"].split(b"/MediaBox [")[1].split(b"]")[0].split()
    assert [float(v) / 72 * 25.4 for v in box[2:]] == pytest.approx([s + 20 for s in made.size], abs=0.01)
    units = [float(v) / 40 for v in files[f"{stem}-cut.plt"].split(b"PD")[1].split(b";")[0].split(b",")]
    left, low, right, high = made.contour.bounds
    assert min(units[::2]) == pytest.approx(left, abs=0.03) and max(units[1::2]) == pytest.approx(high, abs=0.03)
    assert max(units[::2]) == pytest.approx(right, abs=0.03) and min(units[1::2]) == pytest.approx(low, abs=0.03)


def test_a_page_larger_than_the_safe_area_is_told_and_not_parted() -> None:
    raw = {
        "blank": board(400, 300),
        "elements": [element("a.svg", {"width_mm": 270, "up_mm": 150}) | {"printed": {}}],
        "sheets": {"cutter": "desktop-mat"},
    }
    b = build(load_job(raw), {"a.svg": ART})
    (page,) = b.sheets.pages
    room = page.medium.width
    assert page.width > room and not page.fits
    (told,) = (v for v in b.sheets.verdicts if v.code == "sheets.page")
    assert told.level == "look" and told.value == pytest.approx(page.width - room) and "larger machine" in told.remedy
    assert not make_report(b).pages[0].fits


def test_every_name_of_a_list_has_its_own_page() -> None:
    """A printed list: one page for each line, as often as there are pieces of a name, each with its own word."""
    raw = json.loads((EXAMPLES / "visitor-names.wimple.json").read_text())
    raw["elements"] = [e | {"printed": {"border_mm": 1.5}} for e in raw["elements"]]
    raw["quantity"] = 2
    files = {p.name: p.read_bytes() for p in (EXAMPLES / "drawings").iterdir() if p.is_file()}
    b = build(load_job(raw), files)
    pages = b.sheets.pages
    lines = len([row for row in b.named.rows if row.trouble is None])
    assert b.sheets.loads == () and len(pages) >= lines > 3 and all(page.times == 2 for page in pages)
    # One that is on the list twice is the same page, wanted twice as often; one in another colour is another.
    twice = with_pages(b.sheets, (*pages, pages[1]))
    assert [p.times for p in twice.pages] == [2, 4, *[2] * (len(pages) - 2)]
    red = replace(pages[1], face=replace(pages[1].face, inks=(("#c22a2a", pages[1].face.inks[0][1]),)))
    assert len(with_pages(b.sheets, (*pages, red)).pages) == len(pages) + 1
    assert len({round(page.face.contour.area, 3) for page in pages}) > lines / 2
    (told,) = (v for v in b.sheets.verdicts if v.code == "sheets.page")
    assert told.reason.startswith(f"{len(pages)} printed pages") and told.value == max(max(p.size) for p in pages)
    made = [f.path for f in all_files(b, files) if f.path.endswith(".pdf") and f.path.startswith("printed/")]
    assert len(made) == len(set(made)) == len(pages)
