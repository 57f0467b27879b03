"""The sixth stage: the steps in order, with this job's own figures."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal

import numpy as np
import shapely

from ..figures import LengthStyle, format_quantity
from ..job.document import LayupPlan
from ..job.shipped import TapeStrength
from ..job.tables import SHIPPED, Tables
from ..job.zones import VEHICLE_ZONES
from ..layers import Layers
from ..measure import Measured, kind_of
from ..measure.body import Frustum
from ..sheets import Loads
from ..surface.extent import Extent
from ..verdict import Figure, Verdict
from .cautions import Caution, cautions_for
from .choice import Choice, Order, choices, tape_for, usual_order

LEAST_CURE_HOURS = 48.0
TOLD_APART_MM = 0.05
"""Along the wall and straight up are told apart where they differ by so much."""


@dataclass(frozen=True)
class LayupStep:
    """One thing to do. `text` holds `{name}` for each of its figures."""

    title: str
    text: str
    figures: Mapping[str, Figure] = field(default_factory=dict)

    def words(self, style: LengthStyle = "mm") -> str:
        """The step in words, its figures in the workshop's units."""
        return self.text.format_map({n: format_quantity(v, u, style) for n, (v, u) in self.figures.items()})


@dataclass(frozen=True)
class Layup:
    """How this job is put on its blank."""

    order: Order
    tape: TapeStrength
    steps: tuple[LayupStep, ...]
    cautions: tuple[Caution, ...]
    wash_from: dt.datetime | None
    verdicts: tuple[Verdict, ...]
    choices: tuple[Choice, ...] = ()
    """All ways in which the layers may come together."""
    usual: Order = "tape"


def _names(layers: Layers, outermost_first: bool) -> str:
    """The layers in the order in which they are laid: from the blank outward, or the outermost first."""
    names = [layer.name for layer in layers.outward]
    return ", then ".join(names[::-1] if outermost_first else names)


def _level_step(measured: Measured, lowest: float | None) -> LayupStep | None:
    """How level is found where the lowest edge of the decal lies so high along the side (mm)."""
    if not kind_of(measured.blank).levelled or lowest is None:
        return None
    upright = float(measured.body.heights_at(np.array([lowest]))[0]) if isinstance(measured.body, Frustum) else lowest
    figures: dict[str, Figure] = {"height": (lowest, "mm"), "upright": (upright, "mm")}
    leans = abs(upright - lowest) >= TOLD_APART_MM
    if measured.free.low <= lowest <= measured.free.high:
        volume = kind_of(measured.blank).water_to(measured, lowest)
        if volume > 0:
            return LayupStep(
                "Find level",
                "Stand the cup level and pour {volume} of cold water: its level stands {height} above the lower line"
                + (", along the wall ({upright} straight up)," if leans else ",")
                + " at the lowest edge of the decal. Mark it with a wipeable pen, pour out, dry.",
                {"volume": (volume, "ml"), **figures},
            )
    said = (
        "Put a rubber band {height} above the lower line, along the wall, or set a height gauge {upright} above it,"
        " straight up: at the lowest edge of the decal."
        if leans
        else "Put a rubber band or a height gauge {height} above the lower line, at the lowest edge of the decal."
    )
    return LayupStep("Find level", said, figures)


def _panels_step(panels: int, lap: float) -> LayupStep:
    """How panels come together."""
    return LayupStep(
        "Lay the panels",
        f"The work comes in {panels} panels: lay them in the order of their numbers, the lowest row first. Hinge the"
        " first and lay it; then lay the guide bars of the next on those that lie, bar on bar and notches on notches,"
        " hinge it there, and cut the bars away when both sit. Where a piece is cut apart, the later panel laps over by"
        " {lap}.",
        {"lap": (lap, "mm")},
    )


def _count_verdict(pieces: int, sheets: Loads) -> Verdict:
    """How many pieces are to be counted on the work: on that of each line of a list of names as many as it has."""
    of_row: dict[int, int] = {}
    for load in sheets.loads:
        for placed in load.items:
            row = placed.item.row
            of_row[row] = of_row.get(row, 0) + len(placed.item.cuts.only("piece"))
    least, most = min(of_row.values(), default=pieces), max(of_row.values(), default=pieces)
    if len(of_row) > 1 and least < most:
        said = "Count the pieces of each name by itself: from {least} to {value} on the work."
        return Verdict("layup.pieces", "layup", "ok", most, None, "count", said, figures={"least": (least, "count")})
    said = "One piece of film: see that nothing of it stayed on the waste."
    if pieces != 1:
        said = "Count {value} pieces on the work."
    return Verdict("layup.pieces", "layup", "ok", pieces, None, "count", said)


def plan_layup(
    measured: Measured,
    extent: Extent | None,
    layers: Layers,
    sheets: Loads,
    plan: LayupPlan,
    tables: Tables = SHIPPED,
    blank_cost: Decimal = Decimal(0),
    bleed: float = 0.0,
) -> Layup:
    """The steps of the job in their order. The decal reaches as far as `extent` tells and stands over the edge by
    `bleed` mm, to be trimmed; the blank costs `blank_cost`."""
    blank = measured.blank
    sheet = blank.cut_out is not None
    laid = layers.outward
    many = len(laid) > 1
    films = [layer.film for layer in laid or layers.layers]
    usual, _ = usual_order(layers)
    order: Order = usual if plan.order == "auto" else plan.order
    tape = tape_for(films, tables)
    heat = any(f.heat_applied for f in films)
    printed = [page.face.contour for page in sheets.pages if page.face]
    pieces = sum(layer.pieces for layer in layers.layers) + int(shapely.get_num_geometries(printed).sum())
    loads, pages = sum(s.times for s in sheets.loads), sum(s.times for s in sheets.pages)
    on = " and ".join(
        [f"{loads} load{'s' if loads != 1 else ''}"] * bool(loads or not pages)
        + [f"{pages} printed page{'s, each' if pages != 1 else ','} found by its marks,"] * bool(pages)
    )
    steps = [
        LayupStep(
            "Cut",
            f"{on} on the {sheets.cutter.name.lower()}. Test cut first: through the"
            " film, not the liner. Check a corner before unloading."
            + (" Take the clear cap sheet off first." if any(f.cap_sheet for f in films) else ""),
        ),
        LayupStep(
            "Weed",
            "Burnish, then lift the waste slowly and flat."
            + " Keep it until the pieces are counted: " * bool(layers.layers)
            + "; ".join(f"{la.name} {la.pieces} stay, {la.weeded} go" for la in layers.layers)
            + "." * bool(layers.layers),
        ),
    ]
    if sheet:
        steps.append(
            LayupStep(
                "Lift it off",
                f"Bend the waste away from {blank.name}, not it from the waste, and lay it flat, face up.",
            )
        )
    else:
        steps.append(
            LayupStep(
                "Clean",
                "Wipe the blank with rubbing alcohol of about 70 %, let it dry, and keep fingers off the place.",
            )
        )
    level = _level_step(measured, extent.low if extent else None)
    if level:
        steps.append(level)
    loose = any(i.item.loose for load in sheets.loads for i in load.items)
    if loose:
        steps.append(
            LayupStep(
                "Set the pieces",
                f"The pieces were cut loose, {pieces} to a set: lay the setting plan of 1 : 1 under parchment, and set"
                " each piece on it with tweezers where its number is drawn, before the next set's.",
            )
        )
    # From inside, what is seen through glass lies the other way round.
    glass, side = layers.through_glass, "left" if layers.through_glass else "right"
    by = "the plan under them" if loose else f"all marks each time, the one that differs on the {side}"
    if many and order == "tape":
        steps.append(
            LayupStep(
                "Lay up on the tape",
                f"{'The layer furthest from the glass' if glass else 'Top layer'} first: {_names(layers, True)}."
                f" Line up {by}; parchment between lets the layers slide until they sit.",
            )
        )
    elif many and order == "mat":
        steps.append(
            LayupStep(
                "Lay up on the mat",
                f"{'The layer next to the glass' if glass else 'Lowest layer'} first: {_names(layers, False)}."
                " Parchment between the layers, a strip "
                f"left uncovered as the hinge; line up {'the plan' if loose else 'the marks'}.",
            )
        )
    tape_words = tables.tape(tape).name
    why = next((f.name.lower() for f in films if f.tape == tape), "this film")
    taped = bool(laid) or not sheet
    if taped:
        steps.append(
            LayupStep(
                "Tape",
                f"Transfer tape: {tape_words}, for {why}. Turn the work over and peel the liner off the film, "
                "not the film off the liner."
                + (" Burnish longer over the matt film." if any(f.lifts_slowly for f in films) else ""),
            )
        )
    panels = max((i.item.panel[1] for load in sheets.loads for i in load.items), default=0)
    if panels > 1:
        steps.append(_panels_step(panels, sheets.lap_mm))
    if many and not loose:
        steps.append(LayupStep("Trim the marks", "Cut the marks away once the layers sit on one another."))
    if many and order == "blank":
        steps.append(
            LayupStep(
                "Lay layer on layer",
                f"{'On the inside of the glass, what is seen uppermost' if glass else 'On the blank, lowest'} first:"
                f" {_names(layers, False)}. Let each one sit before the next.",
            )
        )
    if taped:
        steps.append(
            LayupStep(
                "Apply",
                "Hinge a strip at one edge, stick the middle first and go out to both sides with the squeegee; "
                "then peel the tape back flat at a sharp angle."
                + (" Start at the front and close the seam last." if extent and extent.all_round else ""),
            )
        )
    if bleed > 0:
        steps.append(
            LayupStep(
                "Trim the edge",
                "The pattern stands over the edge by {bleed}: burnish the edge, then trim along it with a new blade,"
                " held flat, cutting away from yourself.",
                {"bleed": (bleed, "mm")},
            )
        )
    if heat:
        steps.append(
            LayupStep("Heat", "Press heat-transfer film with the heat and time its maker gives, through a cover sheet.")
        )
    wash_from = plan.apply_on + dt.timedelta(hours=plan.cure_hours) if plan.apply_on else None
    until = f"until {wash_from:%a %d %b %Y, %H:%M}" if wash_from else f"for {plan.cure_hours:g} hours"
    steps.append(LayupStep("Cure", f"Leave it {until} before the first wash. 48 hours at least, 72 are better."))
    verdicts = [
        Verdict(
            "layup.cure",
            "layup",
            "look" if plan.cure_hours < LEAST_CURE_HOURS else "ok",
            plan.cure_hours,
            LEAST_CURE_HOURS,
            "h",
            f"The decal cures for {plan.cure_hours:g} h"
            + (
                ", and needs {limit} before the first wash."
                if plan.cure_hours < LEAST_CURE_HOURS
                else " before the first wash."
            ),
            "Leave it for 72 h.",
            field="layup.cure_hours",
            fix=72.0,
        ),
        _count_verdict(pieces, sheets),
    ]
    if any(f.microwave_never for f in films) and blank.drinkware:
        verdicts.append(
            Verdict(
                "layup.microwave",
                "layup",
                "look",
                1,
                0,
                "count",
                "This cup wears metallic film: it must never go into a microwave.",
                "Put a care card with it.",
            )
        )
    cautions = cautions_for(
        metal=any(f.microwave_never for f in films),
        heat=heat,
        drinkware=blank.drinkware,
        heat_change=any(f.changes_at_c is not None for f in films),
        vehicle=blank.vehicle or any(z.kind in VEHICLE_ZONES for z in blank.zones),
        candle=blank.burns,
    )
    ways = choices(layers, sheets, blank_cost, tables)
    return Layup(order, tape, tuple(steps), cautions, wash_from, tuple(verdicts), ways, usual)
