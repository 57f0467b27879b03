"""A blank that is itself a sheet is cut out with what is on it: beneath all of it, or along its edge where printed."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, element, example, svg
from wimple_core.built import Build
from wimple_core.job import load_job
from wimple_core.pipeline import build_whole as build
from wimple_core.views.wearing import lies_view, worn_view

DISC = {"a.svg": svg('<circle cx="20" cy="20" r="20" fill="#1c3d7a"/><circle cx="20" cy="20" r="9" fill="#b98a2f"/>')}
R = (2.751 * 25.4) / 2 - 0.6


def insert(*elements: dict[str, Any], **blank: Any) -> Build:
    raw = example("lid-insert")
    return build(load_job({**raw, "blank": {**raw["blank"], **blank}, "elements": list(elements)}), DISC)


def of_disc(region: Any) -> None:
    """Disc, tab and slot in closed form: the tab stands 12.7 mm out at 8.636 wide, its corners rounded by a third of
    that; the slot is 5/8 by 3/32 in."""
    (part,) = shapely.get_parts(region)
    assert len(part.interiors) == 1 and shapely.Polygon(part.interiors[0]).area == pytest.approx(15.875 * 2.38125)
    w, corner = 8.636, 8.636 / 3
    half = math.asin(w / 2 / R)
    bulge = R * R * (half - math.sin(half) * math.cos(half))
    tab = w * 12.7 - bulge - (2 - math.pi / 2) * corner**2
    assert part.area == pytest.approx(math.pi * R * R + tab - 15.875 * 2.38125, abs=0.5)
    left, low, right, high = part.bounds
    assert (right - left) == pytest.approx(2 * R, abs=0.01)
    # From where the tab's foot stands on the disc it stands out.
    assert high - low == pytest.approx(R + math.sqrt(R * R - w * w / 4) + 12.7, abs=0.01)


def test_an_insert_is_cut_out_beneath_what_is_on_it() -> None:
    b = insert(element("a.svg", {"width_mm": 30, "up_mm": 34}))
    sheet, *above = b.layers.layers  # type: ignore[union-attr]
    of_disc(sheet.cuts.only("piece", "hole").region)
    assert [la.name for la in above] == ["midnight", "gold"] and b.layers.under == 1  # type: ignore[union-attr]
    assert not [v for v in b.verdicts if v.code == "layers.contrast" and v.subject == sheet.name]
    steps = {s.title: s.words() for s in b.layup.steps}  # type: ignore[union-attr]
    assert "Clean" not in steps and "gold, then midnight." in steps["Lay up on the tape"]
    # Plain it is cut all the same, and nothing is taped.
    bare = insert()
    (only,) = bare.layers.layers  # type: ignore[union-attr]
    of_disc(only.cuts.region)
    assert [s.title for s in bare.layup.steps] == ["Cut", "Weed", "Lift it off", "Cure"]  # type: ignore[union-attr]


def test_how_layers_come_together_counts_what_is_laid_on_it() -> None:
    """Two films on an insert: film on film once on tape, twice on the insert; what a mistake costs is theirs."""
    b = insert(element("a.svg", {"width_mm": 30, "up_mm": 34}))
    ways = {c.order: (c.on_blank, c.on_film, c.films_lost) for c in b.layup.choices}  # type: ignore[union-attr]
    assert ways == {"tape": (1, 1, 2), "blank": (2, 0, 2), "mat": (1, 1, 2)}
    one = insert(element("a.svg", {"width_mm": 30, "up_mm": 34}), colour="#b98a2f")
    assert len(one.layers.layers) == 2 and one.layup.choices[0].films_lost == 1  # type: ignore[union-attr]


def test_a_film_under_all_others_on_a_printed_insert_is_laid() -> None:
    """The page is the insert: a base under what is cut besides is a film like any other."""
    raw = example("lid-insert")
    printed = element("a.svg", {"width_mm": 20, "up_mm": 24}) | {"printed": {}}
    raw |= {"elements": [printed, element("a.svg", {"width_mm": 20, "up_mm": 52})]}
    raw["layers"] = {"base": {"colour": "#ffffff", "outline_mm": 1}}
    b = build(load_job(raw), DISC)
    assert [la.name for la in b.layers.outward] == ["white", "midnight", "gold"]  # type: ignore[union-attr]


def test_it_is_cut_of_the_film_that_is_said_and_lies_beneath_a_base() -> None:
    b = insert(element("a.svg", {"width_mm": 20, "up_mm": 34}), cut_from="glitter")
    films = [la.film.id for la in b.layers.layers]  # type: ignore[union-attr]
    assert films == ["glitter", "calendered-gloss", "calendered-gloss"]
    raw = example("lid-insert")
    raw |= {"elements": [element("a.svg", {"width_mm": 20, "up_mm": 34})]}
    raw["layers"] = {"base": {"colour": "#ffffff", "outline_mm": 2, "holes": "filled"}}
    layers = build(load_job(raw), DISC).layers
    assert [la.name for la in layers.layers] == ["cream", "white", "midnight", "gold"] and layers.under == 2  # type: ignore[union-attr]
    assert layers.layers[1].region.area == pytest.approx(math.pi * 12**2, rel=0.001)  # type: ignore[union-attr]


def test_printed_it_is_one_page_cut_along_its_edge() -> None:
    drawn = element("a.svg", {"width_mm": 30, "up_mm": 24}) | {"printed": {}}
    other = element("a.svg", {"width_mm": 10, "up_mm": 54}) | {"printed": {"border_mm": 3}}
    b = insert(drawn, other)
    (page,) = b.sheets.pages  # type: ignore[union-attr]
    of_disc(page.face.contour)  # type: ignore[union-attr]
    assert not b.layers.layers and len(page.face.inks) >= 4  # type: ignore[union-attr]


def test_what_is_there_already_is_not_cut() -> None:
    on = element("a.svg", {"width_mm": 30, "up_mm": 34})
    assert len(insert(on, cut_from=None).layers.layers) == 2  # type: ignore[union-attr]
    tag = {"blank": {**board(90, 55), "cut_from": ""}, "elements": []}
    assert build(load_job(tag), {}).layers.layers[0].cuts.region.area == pytest.approx(90 * 55)  # type: ignore[union-attr]
    assert not build(load_job({**tag, "blank": board(90, 55)}), {}).layers.layers  # type: ignore[union-attr]


@pytest.mark.parametrize("up", [30.0, 41.0])
def test_on_the_object_its_film_lies_on_the_insert(up: float) -> None:
    """Carried by as much as all that is worn is said to be moved, the films lie on the template, as they are cut."""
    raw = example("lid-insert") | {"elements": [element("a.svg", {"width_mm": 20, "up_mm": up})]}
    b = build(load_job(raw), {"a.svg": svg('<circle cx="50" cy="50" r="40" fill="#c22a2a"/>')}, "layers")
    assert b.fit is not None and b.films is not None and b.template is not None
    lies = lies_view(b.fit, b.template)
    for worn, film in zip(worn_view(b.films, b.fit, b.template), b.films.each, strict=True):
        ring = np.array(worn.rings[0]).reshape(-1, 2) + (lies.da, lies.ds)
        left, low, right, high = film.seen.bounds
        assert np.concatenate([ring.min(axis=0), ring.max(axis=0)]) == pytest.approx([left, low, right, high], abs=0.05)
    assert b.films.each[0].seen.bounds[3] == pytest.approx(b.template.outline.bounds[3], abs=0.05)
