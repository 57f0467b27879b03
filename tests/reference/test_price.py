"""What a job costs, worked by hand from its loads; the worked price of the trade (common practice, no source)."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import board, cup, element, example, files_of, svg
from wimple_core.built import Build
from wimple_core.export.report import make_report
from wimple_core.job import load_job
from wimple_core.job.document import PricePlan
from wimple_core.job.tables import SHIPPED
from wimple_core.pipeline import build_whole as build
from wimple_core.pricing.price import adding_up, film_cost, margin_and_markup, price_of, to_cents

TWO = svg('<rect width="60" height="40" fill="#1c3d7a"/><rect x="20" y="10" width="20" height="20" fill="#b98a2f"/>')
PANEL = board(300, 200)


def priced(
    quantity: int = 1, order: str = "tape", cutter: str = "desktop-mat", sheets: Any = None, **price: Any
) -> Build:
    """Two layers of 60 x 40 and 20 x 20 mm, no marks: with 12.7 mm all round 85.4 x 65.4 and 45.4 x 45.4 of film."""
    raw = {
        "blank": PANEL,
        "quantity": quantity,
        "elements": [element("a.svg", {"width_mm": 60, "up_mm": 100})],
        "layers": {
            "marks": {"kind": "none"},
            "joint": "stacked",
            "overlap_mm": 0,
            "films": [{"colour": "#b98a2f", "film": "glitter"}],
        },
        "sheets": {
            "cutter": cutter,
            "weed_box": False,
            "margin_mm": 12.7,
            "mats": "one_film",
            "lay": "boxes",
            **(sheets or {}),
        },
        "layup": {"order": order},
        "price": price,
    }
    return build(load_job(raw), {"a.svg": TWO})


def lines(b: Build) -> dict[str, Decimal]:
    assert b.price is not None
    return {line.name: line.exact for line in b.price.lines}


BLUE, GOLD = Decimal("85.4") * Decimal("65.4") / 10**6, Decimal("45.4") * Decimal("45.4") / 10**6


def test_every_line_of_one_piece_by_hand() -> None:
    """Film by its own price (4.43 plain, 25.31 glitter), tape as large as the largest layer, minutes at a rate."""
    b = priced(labour_minutes=8, rate_per_hour="12.00", blank_cost="3.99", overhead="0.5", tape_per_m2="3.16")
    found = lines(b)
    assert found["Film, midnight"] == pytest.approx(BLUE * Decimal("4.43"), rel=Decimal("1e-9"))
    assert found["Film, gold"] == pytest.approx(GOLD * Decimal("25.31"), rel=Decimal("1e-9"))
    assert found["Transfer tape"] == pytest.approx(BLUE * Decimal("3.16"), rel=Decimal("1e-9"))
    assert (found["Labour"], found["Blank"], found["Overhead"]) == (Decimal("1.6"), Decimal("3.99"), Decimal("0.5"))
    assert b.price is not None and b.sheets is not None
    assert b.price.cost == to_cents(sum(found.values(), Decimal(0)))
    assert film_cost(b.sheets) == found["Film, midnight"] + found["Film, gold"]


def test_the_worked_price_of_the_trade() -> None:
    """0.38 + 0.26 of film, 0.10 of tape, 3.99 the blank, 8 min at 12.00/h: 6.33; at 17.00 a profit of 10.67, a margin
    of 62.8 % and a markup of 168.6 % (common practice, no source), through the program's own sum."""
    share = BLUE * Decimal("4.43") + GOLD * Decimal("25.31")
    rest = Decimal("6.33") - Decimal("3.99") - Decimal("1.60") - share
    b = priced(
        labour_minutes=8,
        rate_per_hour=12,
        blank_cost="3.99",
        tape_per_m2="0",
        overhead=str(round(rest, 6)),
        price_from="price",
        price="17.00",
    ).price
    assert b is not None and (b.cost, b.price, b.profit) == (Decimal("6.33"), Decimal("17.00"), Decimal("10.67"))
    assert (round(b.margin, 1), round(b.markup, 1)) == (Decimal("62.8"), Decimal("168.6"))


def test_laid_one_by_one_every_layer_takes_tape() -> None:
    assert lines(priced(order="blank"))["Transfer tape"] == pytest.approx(
        (BLUE + GOLD) * Decimal("3.16"), rel=Decimal("1e-9")
    )


@pytest.mark.parametrize("cutter", ["desktop-mat", "roll-24"])
def test_a_batch_takes_the_film_of_its_loads(cutter: str) -> None:
    """All loads together, the last and smaller one with its own margins, shared by every piece; labour is each's."""
    b = priced(7, cutter=cutter, labour_minutes=8, rate_per_hour=12, blank_cost=0, overhead=0)
    assert b.sheets is not None and b.price is not None
    film: dict[str, float] = {}
    for s in b.sheets.loads:
        film[s.name] = film.get(s.name, 0.0) + (s.width + 25.4) * (s.height + 25.4) * s.times
    assert sum(s.sets * s.times for s in b.sheets.loads) == 14
    found = lines(b)
    assert float(found["Film, midnight"]) == pytest.approx(film["midnight"] / 1e6 * 4.43 / 7)
    assert float(found["Transfer tape"]) == pytest.approx(max(film.values()) / 1e6 * 3.16 / 7)
    assert found["Labour"] == Decimal("1.6")
    exact = sum(found.values(), Decimal(0))
    assert b.price.batch_cost == to_cents(7 * exact) and b.price.batch_price == to_cents(
        7 * price_of(exact, b.job.price)
    )


def test_margin_and_weed_frame_are_counted_once() -> None:
    """A frame 4 mm out stands in the 12.7 mm kept round the work; one 20 mm out takes film of its own."""
    for away, kept in ((0.0, 12.7), (4.0, 12.7), (12.7, 12.7), (20.0, 20.0)):
        b = priced(sheets={"weed_box": away > 0, "weed_box_away_mm": away})
        largest = max(s.film_area for s in b.sheets.loads)  # type: ignore[union-attr]
        assert largest == pytest.approx((60 + 2 * kept) * (40 + 2 * kept))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.decimals(0, 50, places=6), min_size=1, max_size=9))
def test_lines_add_up_to_the_cost_shown(amounts: list[Decimal]) -> None:
    """Each line within a cent of what it is, all of them to the cent."""
    total = to_cents(sum(amounts, Decimal(0)))
    shown = adding_up(amounts, total)
    assert sum(shown) == total
    assert all(abs(s - a) < Decimal("0.01") and s == to_cents(s) for s, a in zip(shown, amounts, strict=True))


def test_the_report_says_what_was_computed() -> None:
    b = priced(3, labour_minutes=11, rate_per_hour=17, blank_cost="2.35", price_from="margin", margin_percent=40)
    p, said = b.price, make_report(b).price
    assert p is not None and said is not None and p.price > p.cost
    assert (said.cost, said.price, said.profit) == (str(p.cost), str(p.price), str(p.price - p.cost))
    assert said.margin_percent == pytest.approx(40, abs=0.1) and said.batch_price == str(p.batch_price)
    assert sum(Decimal(line["amount"]) for line in said.lines) == p.cost
    assert said.markup_percent == pytest.approx(100 * (float(p.price) / float(p.cost) - 1), abs=0.01)


@pytest.mark.parametrize(("price", "level"), [("1.00", "stop"), ("7.00", "look"), ("20.00", "ok")])
def test_a_price_below_cost_is_said(price: str, level: str) -> None:
    b = priced(price_from="price", price=price, blank_cost="4.00", labour_minutes=8, rate_per_hour=12)
    verdict = next(v for v in b.verdicts if v.code == "price.margin")
    assert verdict.level == level and price.rstrip("0").rstrip(".") in verdict.sentence()
    assert ("loses" in verdict.sentence()) is (level == "stop")


def test_margin_is_not_markup() -> None:
    assert price_of(Decimal(10), PricePlan(price_from="margin", margin_percent=50)) == Decimal(20)
    assert price_of(Decimal(10), PricePlan(price_from="markup", markup_percent=50)) == Decimal(15)
    assert margin_and_markup(Decimal(10), Decimal(20)) == (Decimal(50), Decimal(100))
    assert margin_and_markup(Decimal(0), Decimal(0)) == (Decimal(0), Decimal(0))


def test_heat_transfer_film_is_charged_no_tape() -> None:
    """It comes on a carrier of its own (common practice, no source): beside a plain film only that one is taped."""
    from samples import board, element, svg
    from wimple_core.job import load_job
    from wimple_core.pipeline import build_whole

    two = svg('<rect width="100" height="100" fill="#1c3d7a"/><circle cx="50" cy="50" r="30" fill="#efe6c8"/>')
    paid = {}
    for hot in ((), ("#1c3d7a",), ("#efe6c8",), ("#1c3d7a", "#efe6c8")):
        films = [{"colour": c, "film": "heat-transfer"} for c in hot]
        raw = {
            "blank": board(200, 200),
            "elements": [element("a.svg", {"width_mm": 80, "up_mm": 100})],
            "layers": {"films": films, "marks": {"kind": "none"}, "joint": "stacked"},
            "layup": {"order": "blank"},
        }
        b = build_whole(load_job(raw), {"a.svg": two})
        assert b.price and b.sheets
        areas = {p.film_colour: p.area / 1e6 for load in b.sheets.loads for p in load.patches}
        line = next(line for line in b.price.lines if line.name == "Transfer tape")
        taped = sum(area for colour, area in areas.items() if colour not in hot)
        assert float(line.exact) == pytest.approx(taped * 3.16, rel=1e-9), hot
        paid[hot] = line.exact
    assert paid["#1c3d7a", "#efe6c8"] == 0 < paid["#1c3d7a",] < paid[()]


def test_tape_costs_what_the_table_says_of_the_one_that_is_taken() -> None:
    """Strong tape three times as dear as the others; a price that is typed goes before it."""
    dear = SHIPPED.model_copy(
        update={
            "tapes": tuple(
                t.model_copy(update={"price_per_m2": Decimal("9.48")}) if t.id == "strong" else t for t in SHIPPED.tapes
            )
        }
    )
    found = {}
    for film in ("calendered-gloss", "brushed"):
        raw = example("star-atlas-mug")
        raw["layers"] = {**raw.get("layers", {}), "default_film": film, "films": []}
        raw.setdefault("price", {}).pop("tape_per_m2", None)
        for tables in (SHIPPED, dear):
            b = build(load_job(raw), files_of(raw), tables=tables)
            line = next(x for x in b.price.lines if x.name == "Transfer tape")
            found[film, tables is dear] = (b.layup.tape, float(line.exact), line.detail)
    strengths = {film: found[film, False][0] for film in ("calendered-gloss", "brushed")}
    for film, strength in strengths.items():
        times = 9.48 / float(SHIPPED.tape("strong").price_per_m2) if strength == "strong" else 1.0
        assert found[film, True][1] == pytest.approx(times * found[film, False][1], rel=1e-9), film
        assert strength in found[film, True][2]
    assert "strong" in strengths.values()
    raw["price"]["tape_per_m2"] = "6.32"
    b = build(load_job(raw), files_of(raw), tables=dear)
    typed = float(next(x for x in b.price.lines if x.name == "Transfer tape").exact)
    assert typed == pytest.approx(
        found["brushed", False][1] * 6.32 / float(SHIPPED.tape(strengths["brushed"]).price_per_m2)
    )


def test_weeding_that_takes_longer_than_what_is_charged_is_told() -> None:
    """As many minutes as the layers say, against those typed; nothing is said once they are charged."""
    b = priced(labour_minutes=0.1)
    weeding = sum(la.weeding.minutes for la in b.layers.layers)
    said = next(v for v in b.verdicts if v.code == "price.labour")
    assert said.value == pytest.approx(weeding) and said.value > said.limit == 0.1
    assert not [v for v in priced(labour_minutes=said.fix).verdicts if v.code == "price.labour"]


def test_labour_that_nobody_typed_is_its_weeding_and_its_laying_up() -> None:
    """Weeding as the layers say, four minutes for a decal and two for each of its layers (common practice, no source),
    at the rate; and the detail says both."""
    b = priced(rate_per_hour="30.00")
    weeding = round(sum(la.weeding.minutes for la in b.layers.layers), 1)
    laying = 4 + 2 * len(b.layers.layers)
    line = next(x for x in b.price.lines if x.name == "Labour")
    assert float(line.exact) == pytest.approx((weeding + laying) / 2, rel=1e-9)
    assert f"{weeding:g} weeding, {laying:g} laying up" in line.detail
    assert not [v for v in b.verdicts if v.code == "price.labour"]


def test_a_blank_costs_what_it_usually_does_until_somebody_says() -> None:
    """A cup is bought; a panel is there already."""
    drawn = {"elements": [element("a.svg", {"width_mm": 60, "up_mm": 45})]}
    for blank, cost in ((cup(), "3.99"), ({"blank": PANEL}, "0.00")):
        assert lines(build(load_job({**blank, **drawn}), {"a.svg": TWO}))["Blank"] == Decimal(cost)
