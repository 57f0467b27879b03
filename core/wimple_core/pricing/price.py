"""The seventh stage: cost lines, price, margin and markup, for one piece and for the batch."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import ROUND_FLOOR, ROUND_HALF_UP, Decimal

from ..job.document import PricePlan
from ..job.shipped import TapeStrength
from ..job.tables import SHIPPED, Tables
from ..layup import Layup
from ..sheets import Loads, film_by_name
from ..verdict import Level, Verdict

CENT = Decimal("0.01")
_HUNDRED = Decimal(100)
_MM2_PER_M2 = Decimal(1_000_000)
LEAST_MARGIN_PERCENT = 20
LAYING_MIN, LAYING_EACH_MIN = 4.0, 2.0
"""So many minutes a decal is laid up in: cleaning, finding its place, looking it over; and so many more for each layer
(common practice, no source)."""


@dataclass(frozen=True)
class CostLine:
    """One line of the cost of one piece: in cents, so that the lines add up to the cost, and exactly."""

    name: str
    detail: str
    amount: Decimal
    exact: Decimal


@dataclass(frozen=True)
class Price:
    """Cost and price of one piece and of the batch, in cents; margin and markup in per cent.

    The batch is counted from what one piece costs exactly, and rounded once.
    """

    lines: tuple[CostLine, ...]
    cost: Decimal
    price: Decimal
    profit: Decimal
    margin: Decimal
    markup: Decimal
    batch_cost: Decimal
    batch_price: Decimal
    verdicts: tuple[Verdict, ...]
    each: tuple[tuple[int, Decimal, Decimal], ...] = ()
    """Of each line of a list of names: its number, and what a piece of it costs and is sold for."""


def to_cents(amount: Decimal) -> Decimal:
    """Rounded once, half up."""
    return amount.quantize(CENT, ROUND_HALF_UP)


def price_of(cost: Decimal, plan: PricePlan) -> Decimal:
    """The price: as given, or `cost / (1 - margin)`, or `cost (1 + markup)`."""
    if plan.price_from == "price":
        return plan.price
    if plan.price_from == "markup":
        return cost * (1 + Decimal(str(plan.markup_percent)) / _HUNDRED)
    return cost / (1 - Decimal(str(plan.margin_percent)) / _HUNDRED)


def margin_and_markup(cost: Decimal, price: Decimal) -> tuple[Decimal, Decimal]:
    """Margin = profit / price, markup = profit / cost, both in per cent (0 where there is nothing to divide by)."""
    profit = price - cost
    margin = profit / price * _HUNDRED if price else Decimal(0)
    markup = profit / cost * _HUNDRED if cost else Decimal(0)
    return margin, markup


def adding_up(amounts: Sequence[Decimal], total: Decimal) -> list[Decimal]:
    """Amounts in cents whose sum is `total`: each rounded down, and a cent more to those that lost most by it."""
    cents = [a.quantize(CENT, ROUND_FLOOR) for a in amounts]
    left = int((total - sum(cents, Decimal(0))) / CENT)
    for i in sorted(range(len(cents)), key=lambda i: cents[i] - amounts[i])[:left]:
        cents[i] += CENT
    return cents


def _film_of_batch(loads: Loads) -> dict[str, tuple[Decimal, Decimal, Decimal]]:
    """Of each film on the loads, by its name in the job: m2 that all of them take together, m2 that are really cut off
    for them, and its price for one."""
    out = {}
    for name, (film, areas) in film_by_name(loads.loads).items():
        laid = sum((Decimal(a * times) / _MM2_PER_M2 for a, times in areas), Decimal(0))
        out[name] = (laid, laid + Decimal(loads.allotted.lost_of(name)) / _MM2_PER_M2, film.price_per_m2)
    for name, (film, areas) in film_by_name(loads.pages).items():
        laid = sum((Decimal(a * times) / _MM2_PER_M2 for a, times in areas), Decimal(0))
        out[f"printed {name}"] = (laid, laid, film.price_per_m2)
    return out


def film_cost(loads: Loads) -> Decimal:
    """What the film of all loads costs, exactly."""
    return sum((area * price for _, area, price in _film_of_batch(loads).values()), Decimal(0))


def _tape(
    loads: Loads, plan: PricePlan, layup: Layup, tables: Tables, laid: Mapping[str, Decimal]
) -> tuple[str, Decimal]:
    """The transfer tape of a batch, in words, and what it costs: as much of each film's as is `laid` (m2) where layers
    are laid one by one, else one as large as the largest layer's, as strong as the strongest must be."""
    kinds = {name: film.tape for name, (film, _) in film_by_name(loads.loads).items()}
    kinds |= {f"printed {name}": film.tape for name, (film, _) in film_by_name(loads.pages).items()}

    def price(strength: TapeStrength) -> Decimal:
        return tables.tape(strength).price_per_m2 if plan.tape_per_m2 is None else plan.tape_per_m2

    if layup.order == "blank":
        return "over every layer by itself", sum((a * price(kinds[n]) for n, a in laid.items()), Decimal(0))
    if not laid:
        return "", Decimal(0)
    order = [tape.id for tape in tables.tapes]
    strongest = max((kinds[name] for name in laid), key=order.index)
    return f"{tables.tape(strongest).name}, as large as the largest layer's loads", max(laid.values()) * price(
        strongest
    )


def _shares(loads: Loads) -> dict[int, Decimal]:
    """What share of the film that a batch is cut of each line of a list takes, by its number: as its sets' boxes share
    the loads they lie on; empty where there is one line or none."""
    spent: dict[int, Decimal] = {}
    for load in loads.loads:
        boxes = [(i.item.row, i.item.size[0] * i.item.size[1]) for i in load.items]
        cost = sum((Decimal(p.area * load.times) * p.film.price_per_m2 for p in load.patches), Decimal(0))
        whole = sum(area for _, area in boxes)
        for row, area in boxes:
            spent[row] = spent.get(row, Decimal(0)) + cost * Decimal(area / whole)
    total = sum(spent.values(), Decimal(0))
    return {row: cost / total for row, cost in sorted(spent.items())} if len(spent) > 1 and total else {}


def _labour_verdict(plan: PricePlan, weeding: float) -> list[Verdict]:
    """Is there time for the weeding alone (min a piece), in the labour that was typed?"""
    if plan.labour_minutes is None or weeding <= plan.labour_minutes:
        return []
    return [
        Verdict(
            "price.labour",
            "price",
            "look",
            weeding,
            plan.labour_minutes,
            "min",
            "Weeding alone takes {value} a piece, as this shop weeds, and the labour that is charged is {limit}.",
            "Charge the weeding, and what it takes to lay it up besides.",
            field="price.labour_minutes",
            fix=float(math.ceil(weeding)),
        )
    ]


def _labour(plan: PricePlan, weeding: float, layers: int) -> tuple[str, Decimal]:
    """Minutes of labour in one piece, and what they are: as typed, or its weeding and the laying up of its layers, to a
    tenth."""
    if plan.labour_minutes is not None:
        return f"{plan.labour_minutes:g} min at {plan.rate_per_hour}/h", Decimal(str(plan.labour_minutes))
    weeding, laying = round(weeding, 1), LAYING_MIN + LAYING_EACH_MIN * layers
    minutes = Decimal(str(weeding)) + Decimal(str(laying))
    said = f"{minutes:g} min at {plan.rate_per_hour}/h: {weeding:g} weeding, {laying:g} laying up"
    return said, minutes


def price_job(
    loads: Loads,
    plan: PricePlan,
    layup: Layup,
    quantity: int,
    tables: Tables = SHIPPED,
    weeding: float = 0.0,
    layers: int = 0,
) -> Price:
    """Cost and price of one piece of the batch; one takes so many minutes to weed, and has so many layers to lay."""
    pieces = Decimal(quantity)
    batch = _film_of_batch(loads)
    # Heat-transfer film comes on a carrier of its own.
    own = {name for name, (film, _) in film_by_name(loads.loads).items() if film.heat_applied}
    film = {name: laid for name, (laid, _, _) in batch.items() if name not in own}
    words_of_tape, tape = _tape(loads, plan, layup, tables, film)
    words_of_labour, minutes = _labour(plan, weeding, layers)
    named = [
        *((f"Film, {name}", "with its margin", area * price / pieces) for name, (_, area, price) in batch.items()),
        (
            "Transfer tape",
            "none: heat-transfer film has its own carrier" if own and not film else words_of_tape,
            tape / pieces,
        ),
        ("Blank", "", plan.blank_cost or Decimal(0)),
        ("Labour", words_of_labour, minutes * plan.rate_per_hour / 60),
        ("Overhead", "", plan.overhead),
    ]
    exact_cost = sum((amount for _, _, amount in named), Decimal(0))
    exact_price = price_of(exact_cost, plan)
    cost, price = to_cents(exact_cost), to_cents(exact_price)
    shares = _shares(loads)
    # What is cut, and its tape, differs by the name; all else is alike.
    cut = (sum((batch[name][1] * batch[name][2] for name in film_by_name(loads.loads)), Decimal(0)) + tape) / pieces
    each = []
    for row, share in shares.items():
        of_row = exact_cost + cut * (share * len(shares) - 1)
        each.append((row, to_cents(of_row), to_cents(price_of(of_row, plan))))
    shown = adding_up([amount for _, _, amount in named], cost)
    lines = tuple(CostLine(n, d, cents, exact) for (n, d, exact), cents in zip(named, shown, strict=True))
    margin, markup = margin_and_markup(cost, price)
    level: Level = "stop" if price < cost else "look" if margin < LEAST_MARGIN_PERCENT else "ok"
    words = (
        "Sold at {price}: margin {value}, markup {markup}."
        if level != "stop"
        else "Sold at {price}, it loses {loss} apiece."
    )
    verdict = Verdict(
        "price.margin",
        "price",
        level,
        float(margin),
        LEAST_MARGIN_PERCENT,
        "%",
        words,
        "Raise the price, or bring labour and film down.",
        {
            "price": (float(price), plan.currency),
            "markup": (float(markup), "%"),
            "loss": (float(cost - price), plan.currency),
        },
        field="price.price_from",
    )
    return Price(
        lines,
        cost,
        price,
        price - cost,
        margin,
        markup,
        to_cents(exact_cost * quantity),
        to_cents(exact_price * quantity),
        (verdict, *_labour_verdict(plan, weeding)),
        tuple(each),
    )
