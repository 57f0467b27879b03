"""Cautions, shown where they apply. Where a rule is local or a trade is licensed, they defer to it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Caution:
    """What can hurt, and what to do about it."""

    code: str
    text: str


BLADES = Caution(
    "blades", "Blades and hooks cut: cut away from yourself, cap the hook, keep blades out of children's reach."
)
ALCOHOL = Caution("alcohol", "Rubbing alcohol catches fire: air the room, no flame, follow its label.")
FOOD = Caution(
    "food", "Keep the lip band and the inside free of film: nothing here is made for contact with food or drink."
)
WASH = Caution("wash", "Hand wash only, and only after curing: no film is truly dishwasher-proof.")
MICROWAVE = Caution("microwave", "This film holds metal: never in a microwave. Say so to whoever gets it.")
HEAT = Caution(
    "heat", "Heat presses and guns burn skin and film: wear gloves, air the room, follow their makers' limits."
)
HOT_HANDS = Caution("hot-hands", "The film changes colour with warmth: keep hands off it while lining up.")
VEHICLE = Caution(
    "vehicle",
    "On a vehicle: nothing on lights, plates, cameras, sensors, airbag covers, warning or fuel labels, or where it"
    " takes the driver's view; local rules decide, so ask. Try the tack on hidden paint first, and never work on a"
    " vehicle in traffic.",
)
CANDLE = Caution(
    "candle",
    "A paper or film cover on a candle must carry “remove before lighting” and is never left on while the candle is"
    " lit.",
)
CUP_HEAT = Caution("filled", "Never fill a cup with anything hot to smooth a film; level with cold water only.")


def cautions_for(
    *, metal: bool, heat: bool, heat_change: bool, drinkware: bool, vehicle: bool = False, candle: bool = False
) -> tuple[Caution, ...]:
    """The cautions for a job of that kind."""
    out = [BLADES, ALCOHOL]
    if drinkware:
        out += [FOOD, WASH, CUP_HEAT]
    if vehicle:
        out.append(VEHICLE)
    if candle:
        out.append(CANDLE)
    if metal:
        out.append(MICROWAVE)
    if heat:
        out.append(HEAT)
    if heat_change:
        out.append(HOT_HANDS)
    return tuple(out)
