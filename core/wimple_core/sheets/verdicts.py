"""What is said of a batch's loads: whether they fit, what ways of laying cost, and where the film goes."""

from __future__ import annotations

from collections.abc import Sequence

from ..job.document import SheetPlan
from ..job.shipped import Cutter
from ..job.tables import Tables
from ..verdict import Verdict
from .batch import Batch
from .loads import Load, Loads, Way, film_by_cause, medium_of
from .panels import Parted
from .stock_verdicts import stock_verdicts
from .supply import Allotted


def _larger(load: Load, tables: Tables) -> Cutter | None:
    """A cutter of the shop's on which the work of a load has room."""
    item = load.items[0].item
    w, h = item.size
    for cutter in tables.cutters:
        room = medium_of(cutter)
        if (w <= room.width and h <= room.length) or (
            not item.film.directional and h <= room.width and w <= room.length
        ):
            return cutter
    return None


def _fits_without_marks(load: Load) -> bool:
    """Would the work of a load that does not fit have room if it had no marks?"""
    cuts = load.items[0].cuts
    if not len(cuts.only("mark")):
        return False
    left, low, right, high = cuts.only("piece", "hole").bounds
    # Its weed box stands round the work then.
    all_left, all_low, all_right, all_high = cuts.only("piece", "hole", "mark").bounds
    w = load.width - (all_right - all_left) + right - left
    h = load.height - (all_high - all_low) + high - low
    return w <= load.medium.width + 1e-9 and h <= load.medium.length + 1e-9


def fits_verdict(load: Load, tables: Tables) -> Verdict:
    """Whether a load has room on the cutter, and what would give it room."""
    directional = any(i.item.film.directional for i in load.items)
    if load.fits:
        turned = ", turned on the sheet" if load.turned else ""
        return Verdict(
            "sheets.fits",
            "sheets",
            "ok",
            max(load.size),
            None,
            "mm",
            f"{load.name}: {{w}} by {{h}}, inside the cutter's safe area{turned}.",
            figures={"w": (load.width, "mm"), "h": (load.height, "mm")},
        )
    over_w, over_h = load.width - load.medium.width, load.height - load.medium.length
    side = "wide" if over_w >= over_h else "long"
    larger = _larger(load, tables)
    marked = _fits_without_marks(load)
    return Verdict(
        "sheets.fits",
        "sheets",
        "stop",
        max(over_w, over_h),
        0.0,
        "mm",
        f"{load.name}: it is {{value}} too {side} for the cutter's safe area of {{w}} by {{h}}"
        f"{', and this film must not be turned' if directional else ''}.",
        (
            "Without its marks it would have room: set them nearer, smaller or elsewhere."
            if marked
            else f"Make it smaller or cut it on the {'roll cutter' if larger.medium == 'roll' else larger.name}."
            if larger
            else "Make it smaller, or have it cut in panels."
        ),
        {"w": (load.medium.width, "mm"), "h": (load.medium.length, "mm")},
        field="layers.marks.kind" if marked else "sheets.cutter" if larger else "sheets.panels.part",
        fix=None if marked else larger.id if larger else True,
    )


def panels_verdict(name: str, one: Parted, plan: SheetPlan) -> Verdict:
    """In how many panels a layer is cut, and whether a joint crosses a piece."""
    count, crossed = len(one.panels), len(one.crossed)
    joints = f"{len(one.joints)} joint{'s' if len(one.joints) != 1 else ''}"
    cross = "crosses" if len(one.joints) == 1 else "cross"
    said = f"{name} is cut in {count} panels; its {joints} {cross} "
    if not crossed:
        return Verdict("sheets.panels", "sheets", "ok", count, None, "count", f"{said}no piece.")
    return Verdict(
        "sheets.panels",
        "sheets",
        "look",
        crossed,
        0.0,
        "count",
        f"{said}{crossed} piece{'s' if crossed != 1 else ''}: there the panel laid later laps over by {{lap}}.",
        "Look whether the lap shows, or move the joint.",
        {"lap": (plan.panels.lap_mm, "mm")},
        field="sheets.panels.lap_mm",
        subject=name,
    )


def gone_verdict(films: Sequence[str], plan: SheetPlan) -> Verdict:
    """What was laid by hand of films that there are none of any more, by their names."""
    left = [place.model_dump(mode="json") for place in plan.by_hand if place.film not in films]
    return Verdict(
        "sheets.gone",
        "sheets",
        "look",
        len(films),
        0.0,
        "count",
        f"Sets of {', '.join(films)} were laid by hand, and no film has that name now: they lie by themselves.",
        "Name the film so again, or forget where they lay.",
        field="sheets.by_hand",
        fixes={"sheets.by_hand": left},
    )


def hand_verdict(now: Batch, alone: Batch) -> Verdict:
    """What laying by hand, and holding corners free, costs."""
    more, loads = now.film_area - alone.film_area, now.count - alone.count
    words = "as much film" if abs(more) < 1 else "{more} more film" if more > 0 else "{more} less film"
    if loads:
        words += f" and {abs(loads)} load{'s' if abs(loads) != 1 else ''} {'more' if loads > 0 else 'less'}"
    return Verdict(
        "sheets.by_hand",
        "sheets",
        "look" if loads > 0 or not now.fits else "ok",
        now.count,
        None,
        "count",
        f"As it was laid by hand it takes {words} {'as' if words == 'as much film' else 'than'} by itself.",
        "Let the sets lie by themselves, or move them closer.",
        {"more": (abs(more), "mm2")},
        field="sheets.by_hand",
        fixes={"sheets.by_hand": [], "sheets.held": []},
    )


def crowded_verdict(films: Sequence[str]) -> Verdict:
    """Films of which no set has room beside what is held free."""
    return Verdict(
        "sheets.by_hand",
        "sheets",
        "stop",
        len(films),
        0,
        "count",
        f"{', '.join(dict.fromkeys(films))}: no set has room beside the corners held free.",
        "Use the corners again, or hold less of them free.",
        field="sheets.held",
        fixes={"sheets.held": []},
    )


def not_held_verdict(what: str) -> Verdict:
    """What is laid without regard to corners held free."""
    return Verdict(
        "sheets.by_hand",
        "sheets",
        "look",
        1,
        0,
        "count",
        f"{what} is laid over the corners that are held free.",
        "Look whether that film is good, or use the corners again.",
        field="sheets.held",
        fixes={"sheets.held": []},
    )


def loose_verdict(now: Way, drawn: Way) -> Verdict:
    """What laying pieces loose saves, and what it asks of the hand."""
    saved = drawn.film_area - now.film_area
    more = now.placements - drawn.placements
    return Verdict(
        "sheets.loose",
        "sheets",
        "ok" if saved > 0 else "look",
        now.placements,
        None,
        "count",
        f"The pieces lie loose: {now.placements:,} are placed by hand, {more:,} more than as drawn, and no"
        " marks are cut;" + (" {saved} of film is saved." if saved > 0 else " no film is saved by it."),
        "Keep the sets as they are drawn.",
        {"saved": (saved, "mm2")},
        field="sheets.pieces",
        fix="as_drawn",
    )


def judged(loads: list[Load], verdicts: list[Verdict], cutter: Cutter, allotted: Allotted) -> Loads:
    """The loads with what is to be said of all of them."""
    lost = allotted.all_lost
    area = sum(load.film_area * load.times for load in loads) + lost
    count = sum(load.times for load in loads)
    if loads:
        work, between, round_ = (100 * part / area for part in film_by_cause(loads))
        verdicts.append(
            Verdict(
                "sheets.film",
                "sheets",
                "ok",
                area,
                None,
                "mm2",
                f"{'The load uses' if count == 1 else f'The {count} loads use'} {{value}} of film: {{share}} ends on"
                " the work, {between} lies between it, {round} is kept round it"
                + (", {lost} is left beside it and too small to keep." if lost > 0 else "."),
                figures={
                    "share": (work, "%"),
                    "between": (between, "%"),
                    "round": (round_, "%"),
                    "lost": (100 * lost / area, "%"),
                },
            )
        )
    verdicts += stock_verdicts(allotted)
    if any(i.item.film.mirrored for load in loads for i in load.items):
        verdicts.append(
            Verdict("sheets.mirrored", "sheets", "ok", 1, None, "count", "The heat-transfer film is cut mirrored.")
        )
    return Loads(tuple(loads), cutter, area, tuple(verdicts), allotted=allotted)
