"""The seventh stage: cost lines, price, margin and markup, for one piece and for the batch."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from ..job.document import PricePlan
from ..sheets import Sheets
from ..verdict import Level, Verdict

CENT = Decimal("0.01")
_HUNDRED = Decimal(100)


@dataclass(frozen=True)
class CostLine:
    """One line of the cost of one piece, unrounded."""

    name: str
    detail: str
    amount: Decimal


@dataclass(frozen=True)
class Price:
    """Cost and price of one piece and of the batch; margin and markup in per cent."""

    lines: tuple[CostLine, ...]
    cost: Decimal
    price: Decimal
    profit: Decimal
    margin: Decimal
    markup: Decimal
    batch_cost: Decimal
    batch_price: Decimal
    verdicts: tuple[Verdict, ...]


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


def price_job(sheets: Sheets, plan: PricePlan, quantity: int) -> Price:
    """Cost and price of one piece of the batch."""
    pieces = Decimal(quantity)
    film_lines = []
    seen: dict[str, Decimal] = {}
    for s in sheets.sheets:
        amount = Decimal(s.film_area * s.times) / Decimal(1_000_000) * s.layer.film.price_per_m2 / pieces
        seen[s.layer.name] = seen.get(s.layer.name, Decimal(0)) + amount
    film_lines = [CostLine(f"Film, {name}", "with its margin", amount) for name, amount in seen.items()]
    largest = max((s.film_area / s.sets for s in sheets.sheets), default=0.0)
    tape = Decimal(largest) / Decimal(1_000_000) * plan.tape_per_m2
    minutes = Decimal(str(plan.labour_minutes))
    lines = (
        *film_lines,
        CostLine("Transfer tape", "as large as the largest layer", tape),
        CostLine("Blank", "", plan.blank_cost),
        CostLine("Labour", f"{plan.labour_minutes:g} min at {plan.rate_per_hour}/h", minutes * plan.rate_per_hour / 60),
        CostLine("Overhead", "", plan.overhead),
    )
    cost = sum((line.amount for line in lines), Decimal(0))
    price = to_cents(price_of(cost, plan))
    cost = to_cents(cost)
    margin, markup = margin_and_markup(cost, price)
    level: Level = "stop" if price < cost else "look" if margin < 20 else "ok"
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
        20.0,
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
    return Price(lines, cost, price, price - cost, margin, markup, cost * quantity, price * quantity, (verdict,))
