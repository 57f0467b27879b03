"""Lay-up and price, for the screens."""

from __future__ import annotations

import datetime as dt

from ..figures import LengthStyle
from ..layup import Layup
from ..pricing import Price
from .drawn import View


class StepView(View):
    title: str
    text: str


class LayupView(View):
    order: str
    tape: str
    steps: list[StepView]
    cautions: list[str]
    wash_from: dt.datetime | None


class CostLineView(View):
    name: str
    detail: str
    amount: str


class PriceView(View):
    currency: str
    lines: list[CostLineView]
    cost: str
    price: str
    profit: str
    margin: float
    markup: float
    batch_cost: str
    batch_price: str
    shares: list[float]


def layup_view(layup: Layup, style: LengthStyle) -> LayupView:
    """The steps in words."""
    return LayupView(
        order=layup.order,
        tape=layup.tape,
        cautions=[c.text for c in layup.cautions],
        steps=[StepView(title=s.title, text=s.words(style)) for s in layup.steps],
        wash_from=layup.wash_from,
    )


def price_view(p: Price, currency: str) -> PriceView:
    """Cost and price; `shares` of each line in whichever is larger."""
    total = max(float(p.price), float(p.cost), 0.01)
    return PriceView(
        currency=currency,
        lines=[CostLineView(name=x.name, detail=x.detail, amount=str(x.amount)) for x in p.lines],
        cost=str(p.cost),
        price=str(p.price),
        profit=str(p.profit),
        margin=float(p.margin),
        markup=float(p.markup),
        batch_cost=str(p.batch_cost),
        batch_price=str(p.batch_price),
        shares=[float(x.amount) / total for x in p.lines],
    )
