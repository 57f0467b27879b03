"""Lay-up and price, for the screens."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence

from ..figures import LengthStyle, format_quantity
from ..fit import NamedRow
from ..job import Job
from ..layers import Layers
from ..layup import Choice, Layup
from ..pricing import Price
from ..pricing.price import to_cents
from .drawn import View


class StepView(View):
    title: str
    text: str


class ChoiceView(View):
    """One way in which the layers may come together: what it is called by, what it asks and what a mistake costs in
    words, and whether it is the one that is taken, unasked."""

    order: str
    asks: str
    mistake: str
    tape: str
    why: str
    usual: bool


class LayupView(View):
    order: str
    choices: list[ChoiceView]
    thickness: str
    films: int
    edge: str
    catches: bool
    tape: str
    steps: list[StepView]
    cautions: list[str]
    wash_from: dt.datetime | None


class CostLineView(View):
    name: str
    detail: str
    amount: str


class NamePriceView(View):
    """What a piece of one line of the list costs and is sold for."""

    name: str
    cost: str
    price: str


class PriceView(View):
    """Cost and price of one piece, of so many (`of`), and of each line of a list."""

    of: int
    each: list[NamePriceView]
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


def _times(n: int, once: str, more: str) -> str:
    return once if n == 1 else more.format(n)


def _choice_view(c: Choice, usual: str, currency: str) -> ChoiceView:
    money = f"{currency} " if currency else ""
    asks = _times(c.on_blank, "laid on the blank once", "laid on the blank {} times")
    if c.on_film:
        asks += ", film on film " + _times(c.on_film, "once", "{} times")
    lost = _times(c.films_lost, "one film", "{} films")
    if c.blank_lost:
        lost += " and the blank"
    return ChoiceView(
        order=c.order,
        asks=asks,
        mistake=f"{lost}, {money}{to_cents(c.mistake)}",
        tape=c.tape,
        why=c.why,
        usual=c.order == usual,
    )


def layup_view(layup: Layup, layers: Layers, currency: str, style: LengthStyle) -> LayupView:
    """The steps in words, and the ways there are to bring layers together, where there are some."""
    thick = layers.thickness
    return LayupView(
        order=layup.order,
        choices=[_choice_view(c, layup.usual, currency) for c in layup.choices] if layers.layers else [],
        thickness=format_quantity(thick.highest_um / 1000 if thick else 0.0, "mm", style),
        films=thick.films if thick else 0,
        edge=format_quantity(thick.edge_um / 1000 if thick else 0.0, "mm", style),
        catches=bool(thick and thick.edges),
        tape=layup.tape,
        cautions=[c.text for c in layup.cautions],
        steps=[StepView(title=s.title, text=s.words(style)) for s in layup.steps],
        wash_from=layup.wash_from,
    )


def price_view(p: Price, job: Job, rows: Sequence[NamedRow]) -> PriceView:
    """Cost and price; `shares` of each line in whichever is larger."""
    total = max(float(p.price), float(p.cost), 0.01)
    return PriceView(
        of=job.pieces,
        each=[NamePriceView(name=rows[n].name, cost=str(cost), price=str(price)) for n, cost, price in p.each],
        currency=job.price.currency,
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
