"""How layers may come together, what each way asks and what a mistake costs in it, and which is taken unasked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal, get_args

from ..job.shipped import Film, TapeStrength
from ..job.tables import Tables
from ..layers import Layers
from ..sheets import Loads

Order = Literal["tape", "blank", "mat"]
ORDERS: tuple[Order, ...] = get_args(Order)
LARGE_MM2 = 100_000.0
LONG_MM = 500.0
"""Work larger than this, or longer, is too large to handle as a whole pile on tape (common practice, no source)."""


@dataclass(frozen=True)
class Choice:
    """One way: how often something is laid on the blank and how often film on film or tape, what is lost by a mistake
    in its last step (films, and with them the blank), the tape it takes, by name, and why it is taken or not."""

    order: Order
    on_blank: int
    on_film: int
    films_lost: int
    film_cost: Decimal
    blank_lost: bool
    blank_cost: Decimal
    tape: str
    why: str

    @property
    def mistake(self) -> Decimal:
        """What a mistake costs."""
        return self.film_cost + (self.blank_cost if self.blank_lost else Decimal(0))


def layer_costs(sheets: Loads, layers: Layers) -> list[Decimal]:
    """What the film of each layer that is laid costs, of one piece, its margin with it."""
    spent: dict[str, Decimal] = {}
    sets: dict[str, int] = {}
    for load in sheets.loads:
        for patch in load.patches:
            area = Decimal(patch.area * load.times) / Decimal(1_000_000)
            spent[patch.name] = spent.get(patch.name, Decimal(0)) + area * patch.film.price_per_m2
            sets[patch.name] = sets.get(patch.name, 0) + load.sets_of(patch.name) * load.times
    of = {name: cost / max(sets[name], 1) for name, cost in spent.items()}
    return [of.get(layer.name, Decimal(0)) for layer in layers.outward]


def usual_order(layers: Layers) -> tuple[Order, str]:
    """Which way is taken where nobody chose one, and why."""
    some = layers.outward
    if len(some) < 2:
        return "tape", "one layer needs no lining up"
    if any(la.film.heat_applied for la in some):
        return "blank", "heat-transfer film is pressed on layer by layer"
    boxes = [la.region.bounds for la in some if not la.region.is_empty]
    wide = max(b[2] for b in boxes) - min(b[0] for b in boxes)
    tall = max(b[3] for b in boxes) - min(b[1] for b in boxes)
    if wide * tall > LARGE_MM2 or max(wide, tall) > LONG_MM:
        return "blank", "work as large as this is hard to handle as a whole pile"
    return "tape", "it is laid on the blank once, and a mistake costs film, not the blank"


def tape_for(films: Sequence[Film], tables: Tables) -> TapeStrength:
    """The tape that takes up all films of a pile: as strong as the one that asks for most; their own carrier where all
    have one."""
    strengths = [t.id for t in tables.tapes]
    taped = [f.tape for f in films if not f.heat_applied] or [f.tape for f in films]
    return max(taped, key=strengths.index, default="medium")


def choices(layers: Layers, sheets: Loads, blank_cost: Decimal, tables: Tables) -> tuple[Choice, ...]:
    """All ways for these layers."""
    some, costs = layers.outward, layer_costs(sheets, layers)
    count, whole = len(some), sum(costs, Decimal(0))
    strengths = [t.id for t in tables.tapes]
    strongest = tape_for([la.film for la in some], tables)
    each = sorted({la.film.tape for la in some}, key=strengths.index)
    usual, why = usual_order(layers)
    reasons: dict[Order, str] = {
        "tape": "one application; films line up on a table",
        "blank": "nothing large to handle, but each film is lined up on the blank",
        "mat": "films line up by their marks while they still lie on the liner; parchment lets them slide",
    }
    out = []
    for order in ORDERS:
        tapes = each if order == "blank" else [strongest]
        out.append(
            Choice(
                order,
                on_blank=count if order == "blank" else 1,
                on_film=0 if order == "blank" else max(count - 1, 0),
                films_lost=count,
                film_cost=whole,
                blank_lost=order == "blank" and count > 1,
                blank_cost=blank_cost,
                tape=", ".join(tables.tape(t).name for t in tapes),
                why=why if order == usual else reasons[order],
            )
        )
    return tuple(out)
