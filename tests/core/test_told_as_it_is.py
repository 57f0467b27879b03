"""What screens and reports tell of a load, a pile and a film is what was computed of it: no two fields swapped, nothing
left out."""

from __future__ import annotations

import re

import pytest
import shapely
from samples import cup, element, example, files_of, svg
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.job.document import Mend, Weeding
from wimple_core.job.shipped import FILMS
from wimple_core.layers.inspection import inspect
from wimple_core.layers.mending import mend
from wimple_core.layers.weeding import PER_CARE, plan_weeding
from wimple_core.pipeline import build_whole as build
from wimple_core.views.finishing import layup_view
from wimple_core.views.loads import loads_view
from wimple_core.views.rows import rows_beside

FILM = FILMS["calendered-gloss"]


def a_load():  # type: ignore[no-untyped-def]
    """Two films on one mat: long bars, so that wide is not tall and in is not up."""
    drawn = svg(
        '<rect width="90" height="20" fill="#1c3d7a"/><rect x="10" y="5" width="30" height="8" fill="#efc22a"/>',
        'width="90mm" height="20mm" viewBox="0 0 90 20"',
    )
    raw = {
        **cup(),
        "elements": [element("a.svg", {"width_mm": 90, "up_mm": 40})],
        "layers": {"joint": "stacked"},
        "sheets": {"cutter": "desktop-mat"},
        "quantity": 2,
    }
    return build(load_job(raw), {"a.svg": drawn})


def test_a_load_is_as_wide_and_as_tall_as_its_report_says() -> None:
    b = a_load()
    report = make_report(b)
    for said, load in zip(report.sheets, b.sheets.loads, strict=True):
        points = load.cuts.points
        wide, tall = points[:, 0].max() - points[:, 0].min(), points[:, 1].max() - points[:, 1].min()
        assert load.width != pytest.approx(load.height, abs=5)
        assert said.width_mm >= wide and said.height_mm >= tall
        assert (said.width_mm > said.height_mm) is bool(wide > tall), (said, wide, tall)


def test_a_patch_lies_in_and_up_where_the_screen_says() -> None:
    b = a_load()
    view = loads_view(b.sheets, b.cutting, b.tables.stock, "mm", False)
    beyond = set()
    for shown, load in zip(view.loads, b.sheets.loads, strict=True):
        for told, patch in zip(shown.patches, load.patches, strict=True):
            left, low, right, high = patch.box
            wide, tall = (float(n) for n in re.findall(r"[\d.]+", told.size))
            assert (wide, tall) == (pytest.approx(right - left, abs=0.051), pytest.approx(high - low, abs=0.051))
            across, up = (float(n) for n in re.findall(r"[\d.]+", told.place))
            # The mat's rule begins a fixed way off, across and up.
            beyond.add((round(across - left), round(up - low)))
    assert len(beyond) == 1
    assert len({round(p.box[1] - p.box[0]) for load in b.sheets.loads for p in load.patches}) > 1


def test_the_edge_that_is_told_is_the_highest_edge_and_not_the_whole_pile() -> None:
    b = a_load()
    thick = b.layers.thickness
    view = layup_view(b.layup, b.layers, "", "mm")
    assert thick.edge_um < thick.highest_um
    assert float(view.edge.removesuffix(" mm")) == pytest.approx(thick.edge_um / 1000, abs=0.006)
    assert float(view.thickness.removesuffix(" mm")) == pytest.approx(thick.highest_um / 1000, abs=0.006)


@pytest.mark.parametrize(("under", "left"), [(1.5, 2), (0.9, 3), (3.0, 1)])
def test_pieces_are_left_out_under_the_size_that_was_typed(under: float, left: int) -> None:
    dots = shapely.MultiPolygon([shapely.Point(10 * n, 0).buffer(r, 32) for n, r in enumerate((0.4, 0.6, 1.2, 4))])
    after = mend([dots], [dots], [FILM], [Mend(drop_under_mm=under)]).regions[0]
    assert len(shapely.get_parts(after)) == left


def test_every_narrow_gap_costs_minutes_of_weeding() -> None:
    """Two boards with a gap that waste does not come out of whole, and the same further apart."""
    took = []
    for gap in (0.2, 3.0):
        two = shapely.MultiPolygon([shapely.box(0, 0, 20, 30), shapely.box(20 + gap, 0, 40 + gap, 30)])
        found = inspect(two, FILM.least_stroke_mm, FILM.least_dot_mm)
        took.append((len(found.gaps), plan_weeding(two, shapely.Polygon(), ["a", "b"], found, 2, Weeding(), 4).minutes))
    assert [n for n, _ in took] == [1, 0]
    assert took[0][1] - took[1][1] == pytest.approx(PER_CARE)


@pytest.mark.parametrize("name", ["two-section-bottle", "lettered-bottle"])
def test_one_reading_is_named_to_be_taken_again_first(name: str) -> None:
    """In the sentence and in the row beside the drawing it is the same one, with the same share."""
    b = build(load_job(example(name)), files_of(example(name)), "unwrap")
    said = next(v for v in b.verdicts if v.code == "measure.again_first")
    (row,) = [r.text for r in rows_beside(b, "measure", "mm") if r.name == "Again first"]
    named, _, share = row.removesuffix(" %)").rpartition(" (")
    assert f"take {named} again first" in said.sentence() and float(share) == pytest.approx(said.value, abs=0.5)
