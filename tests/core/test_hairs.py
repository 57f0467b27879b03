"""What no blade goes round is no contour: looked at by shrinking every contour that is cut, on all examples."""

from __future__ import annotations

import pytest
import shapely
from samples import EXAMPLES, element, example, files_of, svg
from wimple_core.job import load_job
from wimple_core.pipeline import build

NARROWEST = 0.25
CUP = example("acceptance-cup")["blank"]


@pytest.mark.parametrize("name", [p.name.split(".")[0] for p in sorted(EXAMPLES.glob("*.wimple.json"))])
def test_every_contour_that_is_cut_is_wider_than_a_blade_trails(name: str) -> None:
    raw = example(name)
    b = build(load_job(raw), files_of(raw), "layers")
    for layer in b.layers.layers if b.layers else ():
        rings = [shapely.Polygon(p) for p in layer.cuts.only("piece", "hole").paths()]
        gone = [r for r in rings if shapely.is_empty(shapely.buffer(r, -NARROWEST / 2 + 1e-3))]
        assert not gone, (name, layer.name, [g.area for g in gone])


def test_a_hair_is_said_and_not_cut_and_what_lies_beneath_shows_there() -> None:
    drawn = svg(
        '<rect x="5" y="5" width="90" height="90" fill="#1c3d7a"/>'
        '<rect x="20" y="20" width="60" height="0.2" fill="#efc22a"/>'
        '<circle cx="50" cy="60" r="10" fill="#efc22a"/>'
    )
    raw = {"blank": CUP, "elements": [element("a.svg", {"width_mm": 60, "up_mm": 50}, fine="kept")]}
    b = build(load_job(raw), {"a.svg": drawn}, "layers")
    (said,) = [v for v in b.verdicts if v.code == "layers.hairs"]
    assert said.level == "look" and "One piece is nowhere as wide as 0.25 mm" in said.sentence()
    assert len(said.places) == 1
    ground, gold = b.layers.layers
    assert [la.pieces for la in (ground, gold)] == [1, 1]
    assert ground.seen.contains(shapely.Point(said.places[0]))
    raw["elements"][0]["placements"][0]["width_mm"] = 100
    raw["elements"][0]["placements"][0]["way"] = "level"
    wide = build(load_job(raw), {"a.svg": drawn.replace(b'height="0.2"', b'height="0.5"')}, "layers")
    assert not [v for v in wide.verdicts if v.code == "layers.hairs"] and wide.layers.layers[1].pieces == 2
