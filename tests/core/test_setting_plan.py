"""Loose pieces and their numbers: on the load, on the screen and on the plan of 1 : 1 that they are set by."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pytest
import shapely
from samples import board, element, svg
from wimple_core.built import Build
from wimple_core.export import all_files
from wimple_core.export.numbered import Frame, put_numbers
from wimple_core.export.setting_plan import setting_plan_pdf
from wimple_core.export.type import width_of
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.views.loads import loads_view

# Every piece has an area of its own; the gold one is a layer of its own, far from the others.
WORK = svg(
    '<path fill="#1c3d7a" fill-rule="evenodd" d="M2 2H62V42H2ZM7 7V37H57V7Z"/>'
    '<rect x="15" y="12" width="12" height="14" fill="#1c3d7a"/>'
    '<rect x="40" y="20" width="6" height="11" fill="#1c3d7a"/>'
    '<circle cx="80" cy="10" r="6" fill="#1c3d7a"/><circle cx="80" cy="90" r="4" fill="#1c3d7a"/>'
    '<rect x="5" y="60" width="30" height="30" fill="#b98a2f"/>'
)
POINT_MM = 25.4 / 72


def planned(quantity: int = 4, seen: str = "from_outside", **sheets: Any) -> Build:
    raw = {
        "blank": board(250, 160),
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": 86, "up_mm": 80})],
        "layers": {"seen": seen},
        "sheets": {"cutter": "desktop-mat", "pieces": "loose", **sheets},
    }
    return build(load_job(raw), {"a.svg": WORK})


def numbers_on(page: pdfium.PdfPage) -> dict[str, list[np.ndarray]]:
    """The middle of every number on a page, mm from its lower left."""
    text = page.get_textpage()
    out: dict[str, list[np.ndarray]] = {}
    for n in range(text.count_rects()):
        left, low, right, high = text.get_rect(n)
        words = text.get_text_bounded(left, low, right, high).strip()
        if words.isdigit():
            out.setdefault(words, []).append(np.array([(left + right) / 2, (low + high) / 2]) * POINT_MM)
    return out


def test_a_piece_has_one_number_on_the_weed_sheet_and_on_every_load() -> None:
    b = planned()
    assert b.layers is not None and b.sheets is not None and b.cutting is not None
    for layer in b.layers.layers:
        own = dict(zip(layer.numbers, shapely.area(shapely.get_parts(layer.region)), strict=True))
        assert sorted(own) == list(range(1, layer.pieces + 1))
        found: list[tuple[int, float]] = []
        for load in b.sheets.loads:
            for patch in load.patches:
                if patch.name == layer.name:
                    numbers, pieces = load.numbered(patch)
                    found += list(zip(numbers, shapely.area(pieces), strict=True)) * load.times
        assert Counter(n for n, _ in found) == dict.fromkeys(own, 4)
        assert all(area == pytest.approx(own[n]) for n, area in found)
    # Numbered as one reads: rows from the top, each from the left.
    blue = max(b.layers.layers, key=lambda layer: layer.pieces)
    at = shapely.get_coordinates(shapely.centroid(shapely.get_parts(blue.region)))[np.argsort(blue.numbers)]
    assert at[-1, 1] == at[:, 1].min() and (at[:3, 1] > at[3:, 1].max()).all()
    seen = loads_view(b.sheets, b.cutting, (), "mm")
    for load, shown in zip(b.sheets.loads, seen.loads, strict=True):
        for patch, view in zip(load.patches, shown.patches, strict=True):
            _, pieces = load.numbered(patch)
            for (_, x, y, side), piece in zip(view.numbers, pieces, strict=True):
                left, low, right, high = piece.bounds
                assert piece.contains(shapely.Point(x, y)) and side == pytest.approx(
                    min(right - left, high - low), abs=0.01
                )


@pytest.mark.parametrize("seen", ["from_outside", "through_glass"])
def test_the_plan_shows_each_film_at_its_true_size(seen: str) -> None:
    """Numbers that are borne by their pieces stand as far apart on paper as those do, and the same way round."""
    b = planned(seen=seen)
    assert b.layers is not None
    pages = [(page, page.get_textpage().get_text_range()) for page in pdfium.PdfDocument(setting_plan_pdf(b, "A4"))]
    for layer in b.layers.layers:
        ((mine, words),) = [one for one in pages if f", {layer.name}: sheet" in one[1]]
        parts = shapely.get_parts(layer.region)
        at = dict(zip(layer.numbers, shapely.get_coordinates(shapely.point_on_surface(parts)), strict=True))
        found = {int(n): p for n, (p,) in numbers_on(mine).items()}
        assert set(found) == set(at) and ("mirrored" in words) == (seen == "through_glass")
        first = min(at)
        for n, place in found.items():
            wanted = (at[n] - at[first]) * ((-1, 1) if seen == "through_glass" else (1, 1))
            assert place - found[first] == pytest.approx(wanted, abs=0.6)


def test_numbers_stand_over_nothing_and_over_no_other() -> None:
    """Six hundred dots, some of them close: what is written lies on no piece but its own."""
    random = np.random.default_rng(5)
    every = shapely.buffer(shapely.points(random.uniform(0, 180, (600, 2))), random.uniform(0.4, 1.2, 600))
    tree = shapely.STRtree(every)
    alone = [n for n, dot in enumerate(every) if len(tree.query(dot, predicate="intersects")) == 1]
    dots = every[alone]
    said: dict[int, tuple[float, float, float, float]] = {}

    class Paper:
        """Keeps where words are put."""

        def __getattr__(self, name: str) -> Any:
            return lambda *_, **__: None

        def drawString(self, x: float, y: float, text: str, mode: int = 0) -> None:
            if mode == 0:
                right = x + width_of(text, 5)
                said[int(text)] = (x * POINT_MM, y * POINT_MM, right * POINT_MM, (y + 3.6) * POINT_MM)

    put_numbers(Paper(), dots, range(1, len(dots) + 1), Frame(0, 0, 1, 0, 0))  # type: ignore[arg-type]
    boxes = shapely.box(*np.array(list(said.values())).T)
    assert 0.6 * len(dots) < len(said) <= len(dots)
    on, dot = shapely.STRtree(dots).query(boxes, predicate="intersects")
    assert (np.array(list(said))[on] == dot + 1).all()
    one, other = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    assert shapely.area(shapely.intersection(boxes[one], boxes[other]))[one != other].max(initial=0) < 1e-6


def test_only_loose_pieces_have_a_plan() -> None:
    loose, drawn = planned(1), planned(1, pieces="as_drawn")
    names = {f.path for f in all_files(loose, {"a.svg": WORK})} - {f.path for f in all_files(drawn, {"a.svg": WORK})}
    assert names == {"setting-plan-a4.pdf", "setting-plan-letter.pdf"}
    assert "setting plan" in next(s.text for s in loose.layup.steps if s.title == "Set the pieces")  # type: ignore[union-attr]
    assert all(not p.numbers for x in loads_view(drawn.sheets, drawn.cutting, (), "mm").loads for p in x.patches)  # type: ignore[arg-type]
