"""Loose pieces and their numbers: on the load, on the screen and on the plan of 1 : 1 that they are set by."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
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
from wimple_core.export.tiles import Tiles
from wimple_core.export.type import width_of
from wimple_core.export.weed_sheet import weed_sheet_pdf
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.views.loads import loads_view

# Every piece has an area of its own; the gold one is a layer of its own, far from the others.
WORK = svg(
    '<circle cx="80" cy="90" r="4" fill="#1c3d7a"/>'
    '<path fill="#1c3d7a" fill-rule="evenodd" d="M2 2H62V42H2ZM7 7V37H57V7Z"/>'
    '<rect x="15" y="12" width="12" height="14" fill="#1c3d7a"/>'
    '<rect x="40" y="20" width="6" height="11" fill="#1c3d7a"/>'
    '<circle cx="80" cy="10" r="6" fill="#1c3d7a"/>'
    '<rect x="5" y="60" width="30" height="30" fill="#b98a2f"/>'
)
POINT_MM = 25.4 / 72


def planned(quantity: int = 4, seen: str = "from_outside", wide: float = 86, **sheets: Any) -> Build:
    raw = {
        "blank": board(380, 290),
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": wide, "up_mm": 145})],
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


def _corner(words: str, tiles: Tiles) -> np.ndarray:
    """What stands at the lower left of a page of a tiled drawing, mm."""
    row, column = re.search(r"sheet ([A-Z])(\d+) of", words).groups()  # type: ignore[union-attr]
    steps = np.array([int(column) - 1, ord(row) - ord("A")])
    return np.array(tiles.bounds[:2]) + steps * (np.array(tiles.room) - 10) - (12, 12 + 16)


@pytest.mark.parametrize("seen", ["from_outside", "through_glass"])
def test_the_plan_shows_each_film_where_it_lies_at_its_true_size(seen: str) -> None:
    """On four sheets: each number is where its piece is, by the sheet's place among the others, and on its film."""
    b = planned(seen=seen, wide=200)
    assert b.layers is not None and b.template is not None
    pages = list(pdfium.PdfDocument(setting_plan_pdf(b, "A4")))
    flip = np.array((-1, 1) if seen == "through_glass" else (1, 1))
    left, low, right, high = b.template.outline.bounds
    tiles = Tiles.of((left, low, right, high) if flip[0] == 1 else (-right, low, -left, high), "A4")
    assert tiles.most == 4
    for layer in b.layers.layers:
        parts = shapely.get_parts(layer.region)
        at = dict(zip(layer.numbers, shapely.get_coordinates(shapely.point_on_surface(parts)) * flip, strict=True))
        shade = 255 * (0.7 + 0.3 * np.array([int(layer.film_colour[k : k + 2], 16) for k in (1, 3, 5)]) / 255)
        seen_on = set()
        for page in pages:
            words = page.get_textpage().get_text_range()
            if f", {layer.name}: sheet" not in words:
                continue
            assert ("mirrored" in words) == (seen == "through_glass")
            corner = _corner(words, tiles)
            picture = np.asarray(page.render(scale=4).to_pil().convert("RGB")).astype(float)
            for number, places in numbers_on(page).items():
                (place,) = places
                assert place + corner == pytest.approx(at[int(number)], abs=0.6)
                # A little beside the number lies its film, where the sheet's window shows it.
                x, y = place + (0, 2.0)
                if 13 < x < tiles.size[0] - 13 and 29 < y < tiles.size[1] - 13:
                    there = picture[round((tiles.size[1] - y) / POINT_MM * 4), round(x / POINT_MM * 4)]
                    assert np.abs(there - shade).max() < 8
                    seen_on.add(int(number))
        assert seen_on == set(at)


def test_a_load_on_paper_has_each_number_on_its_piece() -> None:
    b = planned(12, wide=200)
    assert b.sheets is not None
    document = pdfium.PdfDocument(setting_plan_pdf(b, "Letter"))
    shares = set()
    for load, page in zip(b.sheets.loads, document, strict=False):
        words = page.get_textpage().get_text_range()
        share = int(re.search(r"(\d+) % of its size", words).group(1)) / 100  # type: ignore[union-attr]
        shares.add(share)
        boxes = np.array([p.box for p in load.patches])
        width, height = boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)
        top = page.get_size()[1] * POINT_MM - 12 - 3 - 12
        found = [(int(n), p) for n, places in numbers_on(page).items() for p in places if p[1] < top]
        wanted = [
            (n, p)
            for patch in load.patches
            for numbers, pieces in [load.numbered(patch)]
            for n, p in zip(numbers, shapely.get_coordinates(shapely.point_on_surface(pieces)), strict=True)
        ]
        assert len(found) == len(wanted)
        on_paper = np.array([p for _, p in found])
        for n, p in wanted:
            x, y = (p - boxes[:, :2].min(axis=0)) * share + (12, top - height * share)
            near = np.hypot(*(on_paper - (x, y)).T)
            assert any(m == n and d < 3 for (m, _), d in zip(found, near, strict=True))
        assert 12 + width * share < page.get_size()[0] * POINT_MM
    # What is not 1 : 1 is not nearly so.
    assert min(shares) < 0.9 and not [s for s in shares if 0.75 < s < 1]


def test_a_number_goes_to_the_right_the_left_above_or_below_whatever_is_free() -> None:
    """One dot, walled in side by side: what is left is taken, and where nothing is, no number."""
    walls = [shapely.box(1.5, -9, 9, 9), shapely.box(-9, -9, -1.5, 9), shapely.box(-1.4, 1.2, 1.4, 9)]
    walls.append(shapely.box(-1.4, -9, 1.4, -1.2))
    for n, side in enumerate([(1, 0), (-1, 0), (0, 1), (0, -1), None]):
        every = np.array([shapely.Point(0, 0).buffer(0.7), *walls[:n]])
        said = written(every, [100, *range(1, n + 1)]).get(100)
        if side is None:
            assert said is None
            continue
        assert said is not None
        x, y = (said[0] + said[2]) / 2, (said[1] + said[3]) / 2
        assert max((1, 0), (-1, 0), (0, 1), (0, -1), key=lambda s: s[0] * x + s[1] * y) == side


def test_a_thin_piece_has_its_number_beside_it_and_crowded_ones_where_a_box_begins() -> None:
    bar = shapely.box(0, 0, 20, 0.5)
    assert not shapely.box(*written(np.array([bar]), [7])[7]).intersects(bar)
    crowd = shapely.buffer(shapely.points([(0.7 * (n % 7), 0.7 * (n // 7)) for n in range(100)]), 0.3)
    assert len(written(crowd, range(1, 101))) < 40
    assert set(range(1, 101, 10)) <= set(written(crowd, range(1, 101), step=10))


def test_the_weed_sheet_has_the_same_numbers_on_the_same_pieces() -> None:
    b = planned()
    assert b.layers is not None
    (page,) = pdfium.PdfDocument(weed_sheet_pdf(b))
    assert "1 : 1" in page.get_textpage().get_text_range()
    blue = max(b.layers.layers, key=lambda layer: layer.pieces)
    at = shapely.get_coordinates(shapely.point_on_surface(shapely.get_parts(blue.region)))
    places = {n: p for n, p in zip(blue.numbers, at, strict=True)}
    # On paper each stands at its piece and once more at its box: the piece's is the higher one.
    found = {int(n): max(some, key=lambda p: p[1]) for n, some in numbers_on(page).items()}
    for n in range(2, 6):
        assert found[n] - found[1] == pytest.approx(places[n] - places[1], abs=0.6)


def test_the_weed_sheet_begins_where_the_plan_of_weeding_does() -> None:
    """The filled corner points into the work at that corner of its box, found among all that the PDF paints."""
    b = planned()
    assert b.layers is not None
    (page,) = pdfium.PdfDocument(weed_sheet_pdf(b))
    boxes = np.array([o.get_bounds() for o in page.get_objects() if o.type == pdfium.raw.FPDF_PAGEOBJ_PATH]) * POINT_MM
    small = boxes[np.abs(boxes[:, 2:] - boxes[:, :2] - 3).max(axis=1) < 0.05]
    blue = max(b.layers.layers, key=lambda layer: layer.pieces)
    at = dict(
        zip(
            blue.numbers, shapely.get_coordinates(shapely.point_on_surface(shapely.get_parts(blue.region))), strict=True
        )
    )
    # Any piece tells where the work lies on paper.
    move = max(numbers_on(page)["2"], key=lambda p: p[1]) - at[2]
    left, low, right, high = blue.cuts.only("piece", "hole", "mark", "frame").bounds
    corner = blue.weeding.corner
    across, up = (0 if "left" in corner else 2), (1 if "lower" in corner else 3)
    wanted = np.array([left if across == 0 else right, low if up == 1 else high]) + move
    assert np.abs(small[:, [across, up]] - wanted).max(axis=1).min() < 1.0


def written(pieces: np.ndarray, numbers: Sequence[int], **more: int) -> dict[int, tuple[float, float, float, float]]:
    """The box of every number, mm."""
    said: dict[int, tuple[float, float, float, float]] = {}

    class Paper:
        """Keeps where words are put."""

        def __getattr__(self, name: str) -> Any:
            return lambda *_, **__: None

        def drawString(self, x: float, y: float, text: str, mode: int = 0) -> None:
            if mode == 0:
                right = x + width_of(text, 5)
                said[int(text)] = (x * POINT_MM, y * POINT_MM, right * POINT_MM, (y + 3.6) * POINT_MM)

    put_numbers(Paper(), pieces, numbers, Frame(0, 0, 1, 0, 0), **more)  # type: ignore[arg-type]
    return said


def test_numbers_stand_over_nothing_and_over_no_other() -> None:
    """Six hundred dots, some of them close: what is written lies on no piece but its own."""
    random = np.random.default_rng(5)
    every = shapely.buffer(shapely.points(random.uniform(0, 180, (600, 2))), random.uniform(0.4, 1.2, 600))
    tree = shapely.STRtree(every)
    alone = [n for n, dot in enumerate(every) if len(tree.query(dot, predicate="intersects")) == 1]
    dots = every[alone]
    said = written(dots, range(1, len(dots) + 1))
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
