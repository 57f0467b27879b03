"""Ways to lay layers up: what they ask, what a mistake costs, which is usual; the thickness of the pile."""

from __future__ import annotations

from decimal import Decimal

import pytest
import shapely
from samples import cup, element, svg
from wimple_core.artwork import ColourRegion
from wimple_core.job import load_job
from wimple_core.layers.joints import join, joint_places, rim
from wimple_core.layers.thickness import Thickness, measure_pile, thickness_verdict
from wimple_core.pipeline import build_whole as build
from wimple_core.pricing.price import film_cost

TWO = {
    "a.svg": svg(
        '<rect x="5" y="30" width="90" height="40" fill="#1c3d7a"/><circle cx="50" cy="50" r="15" fill="#b98a2f"/>'
    )
}


def built(blank: dict[str, object] | None = None, width: float = 60, **more: object):  # type: ignore[no-untyped-def]
    raw = {**(blank or cup()), "elements": [element("a.svg", {"width_mm": width, "up_mm": 45})], **more}
    return build(load_job(raw), TWO)


def test_each_way_says_what_it_asks_and_what_a_mistake_costs() -> None:
    b = built(price={"blank_cost": "7.50"}, layers={"films": [{"colour": "#b98a2f", "film": "glitter"}]})
    assert b.layup and b.sheets
    ways = {c.order: c for c in b.layup.choices}
    film = film_cost(b.sheets)
    assert {o: (c.on_blank, c.on_film) for o, c in ways.items()} == {"tape": (1, 1), "blank": (2, 0), "mat": (1, 1)}
    assert ways["tape"].mistake == ways["mat"].mistake == film
    assert ways["blank"].mistake == film + Decimal("7.50")
    assert "strong" in ways["tape"].tape.lower() and "," in ways["blank"].tape, "each film its own on the blank"
    assert b.layup.order == b.layup.usual == "tape" and "not the blank" in ways["tape"].why
    batch = built(quantity=8, price={"blank_cost": "7.50"}).layup
    alone = built(price={"blank_cost": "7.50"}).layup
    assert batch and alone
    assert float(batch.choices[0].film_cost) < float(alone.choices[0].film_cost), "sets share a sheet's margin"


PANEL = {
    "blank": {
        "kind": "panel",
        "width": {"reads": "width", "readings": [900]},
        "height": {"reads": "height", "readings": [700]},
    }
}


@pytest.mark.parametrize(
    ("width", "film", "order"),
    [(60, "calendered-gloss", "tape"), (600, "cast", "blank"), (60, "heat-transfer", "blank")],
)
def test_large_work_and_heat_go_on_layer_by_layer(width: float, film: str, order: str) -> None:
    raw = {"layers": {"default_film": film}, "sheets": {"cutter": "roll-24"}}
    b = built(PANEL, width, **raw)
    assert b.layup and b.layup.order == order
    chosen = built(PANEL, width, layup={"order": "mat"}, **raw).layup
    assert chosen and chosen.order == "mat" and chosen.usual == order


def disc(r: float) -> shapely.Geometry:
    return shapely.Point(0, 0).buffer(r, 64)


@pytest.mark.parametrize(("joint", "films", "high", "step"), [("stacked", 3, 210, 70), ("knocked_out", 2, 140, 70)])
def test_the_pile_is_as_thick_as_the_films_that_lie_on_each_other(
    joint: str, films: int, high: float, step: float
) -> None:
    """Three discs on each other: stacked, three films in the middle; knocked out, two where they overlap. What lies
    hidden is by circles."""
    colours = (
        ColourRegion("#a", disc(30).difference(disc(20)), disc(30)),
        ColourRegion("#b", disc(20).difference(disc(10)), disc(20)),
        ColourRegion("#c", disc(10), disc(10)),
    )
    regions = join(colours, lambda a, b: joint, 1.0)  # type: ignore[arg-type, return-value]
    seen = [c.seen for c in colours]
    rims = [rim(g) for g in seen]
    found = measure_pile(regions, seen, rims, joint_places(seen, rims, regions, 1.0, 4.0), [70, 70, 70])
    assert (found.films, found.highest_um) == (films, high)
    assert found.edge_um == step and not found.edges
    hidden = {"stacked": 400 + 100, "knocked_out": (20**2 - 19**2) + (10**2 - 9**2)}[joint]
    assert found.hidden_mm2 == pytest.approx(hidden * 3.14159, rel=0.02)
    thick = measure_pile(regions, seen, rims, joint_places(seen, rims, regions, 1.0, 4.0), [70, 70, 160])
    assert (
        thick.edge_um >= 160
        and len(thick.edges)
        and all(abs(shapely.Point(p).distance(shapely.Point(0, 0)) - 10) < 0.1 for p in thick.edges)
    )


def test_a_high_edge_is_said_with_its_places() -> None:
    b = built(layers={"films": [{"colour": "#b98a2f", "film": "reflective"}]})
    (said,) = [v for v in b.verdicts if v.code == "layers.pile"]
    assert said.level == "look" and said.places and "catches a nail" in said.sentence() and said.fix is None
    plain = [v for v in built().verdicts if v.code == "layers.pile"]
    assert [v.level for v in plain] == ["ok"]
    # Knocked out helps where two films on each other do not catch: three of 70 um do, and a single one of 150.
    for thickest, stacked, fix in ((70.0, True, "knocked_out"), (120.0, True, None), (70.0, False, None)):
        (told,) = thickness_verdict(Thickness(210.0, (0.0, 0.0), 3, 210.0, ((1.0, 2.0),), 9.0, thickest), stacked)
        assert told.level == "look" and told.fix == fix and ("Knock" in told.remedy) is (fix is not None)
