"""What the layers are judged by: what may tear or be lost, what will not show, what a hand will not line up."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import areas, prepared
from ..job.document import LayerPlan, Mend
from ..overlay import differences, together
from ..thin import LEAST_CUT_MM
from ..verdict import Verdict
from .colours import colour_difference, contrast_ratio
from .films import DoneMending, Hairs
from .inspection import least_gap
from .joints import JointPlaces, Rim
from .layer import Layer, Layers, Weakest
from .mending import FIELDS, MOST_MENDED, MendKind, is_done
from .misregistration import SHOWN, Hand, overlap_needed
from .pile import Pile

LEAST_OVER_MM2 = 0.05
"""Less of a film beyond an edge is nothing a hand could trim."""
LEAST_CONTRAST = 2.0
MANY_LAYERS = 6
"""More than this is not laid up by hand as a rule (common practice, no source)."""
MOST_PLACES = 400
Shows = tuple[tuple[int, ...], ...]
BESIDE_MM = 0.2


def layer_verdicts(
    field: str, layer: Layer, on_blank: bool, grounds: tuple[str, ...], plan: LayerPlan
) -> list[Verdict]:
    """Verdicts on one layer, whose film is chosen in `field`; `on_blank` tells whether it borders on the bare blank,
    `grounds` the blank's colour and what is seen behind it. What is mended is asked for by the plan."""
    out = _care_verdicts(field, layer, plan)
    if on_blank:
        out.append(_contrast_verdict(field, layer, grounds))
    return out


def _so_many(n: int, what: str) -> str:
    return f"{n} {what}s are" if n > 1 else f"one {what} is"


def _care_verdicts(field: str, layer: Layer, plan: LayerPlan) -> list[Verdict]:
    film, found, where = layer.film, layer.inspection, layer.name
    out = []
    n = len(found.dots)
    if n:
        out.append(
            Verdict(
                "layers.dots",
                "layers",
                "look",
                found.smallest_dot_mm,
                film.least_dot_mm,
                "mm",
                f"{where}: {_so_many(n, 'dot')} smaller than the {{limit}} safe in this film, the least {{value}}.",
                "Count them on the waste before it is thrown away.",
                places=found.dots[:MOST_PLACES],
                field=field,
            )
        )
    n = len(found.thin)
    if n:
        out.append(
            Verdict(
                THIN,
                "layers",
                "look",
                float(n),
                film.least_stroke_mm,
                "count",
                f"{where}: {_so_many(n, 'place')} thinner than the {{safe}} safe in this film."
                f"{_threads(len(found.threads))}",
                "Make the drawing larger, its strokes wider, or choose a film that holds.",
                {"safe": (film.least_stroke_mm, "mm")},
                places=found.thin[:MOST_PLACES],
                field=field,
                fixes=_mended_by("thicken", n, layer, plan),
                subject=where,
            )
        )
    n, safe = len(found.gaps), least_gap(film.least_stroke_mm)
    if n:
        out.append(
            Verdict(
                GAPS,
                "layers",
                "look",
                float(n),
                safe,
                "count",
                f"{where}: {_so_many(n, 'gap')} narrower than the {{safe}} that waste comes out of whole.",
                "Weed there with a needle, set the pieces further apart, or join them.",
                {"safe": (safe, "mm")},
                places=found.gaps[:MOST_PLACES],
                field=field,
                fixes=_mended_by("widen", n, layer, plan),
                subject=where,
            )
        )
    return out


THIN, GAPS = "layers.thin", "layers.gaps"


def _mended_by(kind: MendKind, places: int, layer: Layer, plan: LayerPlan) -> dict[str, object]:
    """What asks for a way of mending of that layer alone."""
    if places > MOST_MENDED or is_done(plan.mend_for(layer.colour), kind):
        return {}
    return {"layers.mend_of": plan.mending_also(layer.colour, **{FIELDS[kind]: True})}


def _threads(n: int) -> str:
    """What is said where parts hang by such places."""
    return "" if not n else " A part hangs by one of them." if n == 1 else f" Parts hang by {n} of them."


DONE: dict[MendKind, str] = {
    "thicken": "widened where the film was too thin",
    "drop": "without pieces that are too small",
    "widen": "its narrow gaps opened",
    "round": "its points rounded",
    "bridge": "its dots joined by bridges",
}


def _became(n: tuple[int, int], what: str) -> str:
    before, after = n
    return "" if before == after else f", {before} {what}{'' if before == 1 else 's'} become {after}"


def mending_verdicts(done: DoneMending | None, gone: Sequence[str]) -> list[Verdict]:
    """What was mended, what came of it, and which films it left nothing of."""
    out = []
    asked = {} if done is None else {kind: n for kind, n in done.places.items() if n}
    mended = [kind for kind in asked if done is not None and kind not in done.too_many]
    if done is not None and mended:
        change = done.change
        out.append(
            Verdict(
                "layers.mended",
                "layers",
                "ok",
                change.area,
                None,
                "mm²",
                f"Mended: {', '.join(DONE[kind] for kind in mended)}. {{value}} of the look change, edges move by"
                f" {{shift}} at most{_became(change.pieces, 'piece')}{_became(change.holes, 'hole')}.",
                figures={"shift": (change.shift, "mm")},
                field="layers.mend",
            )
        )
    for kind, n in asked.items():
        if done is not None and kind in done.too_many:
            out.append(
                Verdict(
                    "layers.unmended",
                    "layers",
                    "look",
                    n,
                    MOST_MENDED,
                    "count",
                    f"Not {DONE[kind]}: there are {{value}} such places, more than the {{limit}} of one film that are"
                    " mended one by one.",
                    "Draw it larger, or take a film that holds.",
                    field=f"layers.mend.{FIELDS[kind]}",
                    fix=getattr(Mend(), FIELDS[kind]),
                )
            )
    if gone:
        of = f"{gone[0]}: nothing of it is" if len(gone) == 1 else f"{', '.join(gone)}: nothing of them is"
        left_out = done is not None and "drop" in done.places
        out.append(
            Verdict(
                "layers.vanished",
                "layers",
                "look",
                len(gone),
                0,
                "count",
                f"{of} left once what is too small was left out." if left_out else f"{of} wide enough to be cut.",
                "Leave out only what is smaller, or draw it larger." if left_out else "Draw it larger.",
                field="layers.mend.drop_under_mm",
                fix=0 if left_out else None,
            )
        )
    return out


def hair_verdicts(hairs: Hairs) -> list[Verdict]:
    """What is drawn, and too thin to be cut at all."""
    if not hairs.pieces:
        return []
    n = hairs.pieces
    return [
        Verdict(
            "layers.hairs",
            "layers",
            "look",
            n,
            0,
            "count",
            f"{_so_many(n, 'piece')[0].upper()}{_so_many(n, 'piece')[1:]} nowhere as wide as {{least}}: no blade goes"
            " round such, and so nothing of it is cut.",
            "Draw it larger, or leave it out.",
            {"least": (LEAST_CUT_MM, "mm")},
            places=hairs.places[:MOST_PLACES],
            field="layers.films",
        )
    ]


def _contrast_verdict(field: str, layer: Layer, grounds: tuple[str, ...]) -> Verdict:
    ratios = [contrast_ratio(layer.film_colour, ground) for ground in grounds]
    ratio = min(ratios)
    what = "the blank" if ratios[0] == ratio else "what is seen behind the blank"
    level: Literal["ok", "look"] = "look" if ratio < LEAST_CONTRAST else "ok"
    too_little = ", too little (limit {limit}): it will hardly show" if level == "look" else ""
    return Verdict(
        "layers.contrast",
        "layers",
        level,
        ratio,
        LEAST_CONTRAST,
        "ratio",
        f"{layer.name}: it stands out from {what} by {{value}}{too_little}.",
        "Choose another film colour, or put an outline behind it.",
        field=field,
    )


def base_verdict(base: BaseGeometry, free: BaseGeometry, outline: float) -> Verdict | None:
    """Does the film under all others run over what is free, by its outline of so many mm?"""
    parts = areas(np.array([base], dtype=object))
    beyond = parts[~shapely.covers(prepared(free), parts)]
    over = together(differences(beyond, np.full(len(beyond), free)))
    if over.area <= LEAST_OVER_MM2:
        return None
    far = float(shapely.distance(shapely.points(shapely.get_coordinates(over)), free).max())
    room = math.floor(10 * (outline - far)) / 10
    return Verdict(
        "layers.base_room",
        "layers",
        "stop",
        far,
        max(room, 0.0),
        "mm",
        "The base runs over the edge of what is free by {value}.",
        "Give it an outline of {limit}." if room >= 0 else "Move the work in, or leave the base out.",
        field="layers.base.outline_mm",
        fix=room if room >= 0 else None,
        places=tuple((float(x), float(y)) for x, y in shapely.get_coordinates(shapely.point_on_surface(over))),
    )


def marks_looked_at(layers: Layers) -> Layers:
    """The same layers, said so where a mark is cut through a piece of any of them: it is cut in every film."""
    if len(layers.layers) < 2 or not len(layers.layers[0].cuts.only("mark")):
        return layers
    marks = areas(np.array([layers.layers[0].marks], dtype=object))
    pieces = areas(np.array([la.region for la in layers.layers], dtype=object))
    through = np.unique(shapely.STRtree(pieces).query(marks, predicate="intersects")[0])
    if not len(through):
        return layers
    said = Verdict(
        "layers.marks",
        "layers",
        "stop",
        len(through),
        0,
        "count",
        "A registration mark would be cut through the work, in every film."
        if len(through) == 1
        else f"{len(through)} registration marks would be cut through the work, in every film.",
        "Set the marks further away, choose others, or leave the tick out.",
        field="layers.marks.away_mm",
        places=tuple((float(x), float(y)) for x, y in shapely.get_coordinates(shapely.centroid(marks[through]))),
    )
    return replace(layers, verdicts=(*layers.verdicts, said))


def borders_blank(edge: Rim, covered: BaseGeometry) -> bool:
    """Does a fair part of what is seen of a layer, its rim, lie next to the bare blank? `covered` is what all layers
    cover."""
    middles, outward, length = edge
    bare = ~shapely.contains_xy(prepared(covered), *(middles + BESIDE_MM * outward).T)
    return bool((length * bare).sum() > 0.05 * length.sum())


def joint_verdicts(
    names: Sequence[str], joints: list[JointPlaces], plan: LayerPlan, pile: Pile, hand: Hand
) -> tuple[list[Verdict], float, Weakest | None, Shows]:
    """Verdicts on how films meet, the chance that a gap shows anywhere in one lay-up, the joint that fails first, and
    which joints show one in the first lay-ups."""
    if not joints:
        return [], 0.0, None, ()
    out = _short_verdicts(names, [j for j in joints if pile.meet(j.lower, j.upper) != "butted"], plan.overlap_mm)
    needed = overlap_needed(joints, len(names), hand, eye=plan.eye_mm)
    whole = needed.max(axis=0)
    chance, each, risk = float((whole > 0).mean()), (needed > 0).mean(axis=1), plan.risk_percent / 100
    first = joints[int(np.argmax(each))]
    butted = pile.meet(first.lower, first.upper) == "butted"
    asked = 0.0 if butted else plan.overlap_mm
    weakest = Weakest(names[first.lower], names[first.upper], float(each.max()))
    enough = float(np.quantile(whole, 1 - risk, method="higher"))
    # More overlap helps where what lies above has room for it; where that is narrow, only the drawing does.
    need = math.ceil(enough * 10) / 10 if math.isfinite(enough) else asked
    helps = need > asked
    of = f"one of its {len(joints)} joints" if len(joints) > 1 else "its joint"
    where = f", first between {weakest.lower} and {weakest.upper}" if len(joints) > 1 and chance > risk else ""
    if butted:
        holds = "is enough for" if chance <= risk else "is hopeless for"
        say = f"Edge to edge {holds} a hand that misses by {{sigma}}"
        remedy = "Let them overlap by {limit}."
        fixes = _no_longer_butted(plan, pile, (first.lower, first.upper), need) if helps else {}
    else:
        holds = "hides" if chance <= risk else "is little for" if helps else "cannot hide at narrow parts"
        say = f"An overlap of {{value}} {holds} a hand that misses by {{sigma}}"
        remedy = "Overlap by {limit}." if helps else "Widen what is narrower than the overlap."
        fixes = {}
    out.append(
        Verdict(
            "layers.overlap",
            "layers",
            "look" if chance > risk else "ok",
            asked,
            need,
            "mm",
            f"{say}: a gap shows at {of} in {{share}} of lay-ups{where}.",
            remedy,
            {"sigma": (hand.accuracy, "mm"), "share": (100 * chance, "%")},
            field="layers.joint" if butted else "layers.overlap_mm",
            fix=need if helps and not butted else None,
            fixes=fixes,
        )
    )
    return out, chance, weakest, tuple(tuple(np.flatnonzero(row > 0).tolist()) for row in needed.T[:SHOWN])


def _no_longer_butted(plan: LayerPlan, pile: Pile, pair: tuple[int, int], overlap: float) -> dict[str, object]:
    """What makes two films overlap that meet edge to edge: by all joints, or by their own."""
    if pile.joint == "butted":
        return {"layers.joint": "knocked_out", "layers.overlap_mm": overlap}
    two = {pile.colours[n].colour for n in pair}
    kept = [m.model_dump(mode="json") for m in plan.meetings if set(m.colours) != two]
    under = next((m.under for m in plan.meetings if set(m.colours) == two), None)
    return {
        "layers.meetings": [*kept, {"colours": sorted(two), "joint": "knocked_out", "under": under}],
        "layers.overlap_mm": overlap,
    }


def _short_verdicts(names: Sequence[str], joints: list[JointPlaces], asked: float) -> list[Verdict]:
    """Where a film has less room beneath another than it is to reach."""
    short = [j for j in joints if float(j.reach.min()) < asked * 0.99]
    if not short:
        return []
    worst = min(short, key=lambda j: float(j.reach.min()))
    places = np.concatenate([j.at[j.reach < asked * 0.99] for j in short])[:MOST_PLACES]
    return [
        Verdict(
            "layers.reach",
            "layers",
            "look",
            float(worst.reach.min()),
            asked,
            "mm",
            f"{names[worst.lower].capitalize()} reaches only {{value}} under {names[worst.upper]} where that is"
            " narrower than the overlap of {limit}.",
            "Widen that part of the drawing, or take less overlap.",
            field="layers.overlap_mm",
            places=tuple((float(x), float(y)) for x, y in places),
        )
    ]


def near_verdicts(layers: Sequence[Layer], plan: LayerPlan) -> list[Verdict]:
    """The two colours that are most alike, where nobody would cut two films for them."""
    pairs = [(colour_difference(a.colour, b.colour), a, b) for n, a in enumerate(layers) for b in layers[n + 1 :]]
    if plan.merge_near or not pairs:
        return []
    apart, one, other = min(pairs, key=lambda p: p[0])
    if apart > plan.merge_delta_e:
        return []
    return [
        Verdict(
            "layers.near",
            "layers",
            "look",
            apart,
            plan.merge_delta_e,
            "ΔE",
            f"{one.name.capitalize()} and {other.name} are nearly one colour: they differ by {{value}}.",
            "Let colours nearer than {limit} become one.",
            field="layers.merge_near",
            fix=True,
        )
    ]


def glass_verdicts(layers: Sequence[Layer], plan: LayerPlan) -> list[Verdict]:
    """What is laid on the inside of glass is cut mirrored; heat-transfer film is not laid there."""
    if plan.seen != "through_glass" or not layers:
        return []
    hot = next((la for la in layers if la.film.heat_applied), None)
    if hot is not None:
        return [
            Verdict(
                "layers.glass",
                "layers",
                "stop",
                1,
                0,
                "count",
                f"{hot.name}: heat-transfer film is pressed on from outside, and not on the inside of glass.",
                "Take an adhesive film, or lay it from outside.",
                field="layers.seen",
                fix="from_outside",
            )
        ]
    return [
        Verdict(
            "layers.glass",
            "layers",
            "ok",
            len(layers),
            None,
            "count",
            "All is cut mirrored, to be laid on the inside of the glass and read through it; what is seen uppermost is"
            " laid first.",
            field="layers.seen",
        )
    ]


def count_verdicts(layers: Sequence[Layer], plan: LayerPlan) -> list[Verdict]:
    """More layers than a hand lays up, and layers without marks."""
    out = []
    if len(layers) > MANY_LAYERS:
        out.append(
            Verdict(
                "layers.count",
                "layers",
                "stop" if len(layers) > 2 * MANY_LAYERS else "look",
                len(layers),
                MANY_LAYERS,
                "count",
                "{value} layers are more than a hand lays up well ({limit} are).",
                "Let near colours become one, or take colours out of the drawing.",
                field="layers.merge_near",
                fix=None if plan.merge_near else True,
            )
        )
    if len(layers) > 1 and plan.marks.kind == "none":
        out.append(
            Verdict(
                "layers.marks",
                "layers",
                "look",
                0,
                2,
                "count",
                f"The {len(layers)} layers have no registration marks.",
                "Add marks, so that they can be lined up.",
                field="layers.marks.kind",
                fix="crosses",
            )
        )
    return out
