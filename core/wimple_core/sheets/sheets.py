"""The fifth stage: loads. A layer keeps its arrangement; sets of a batch stand in rows on one load."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..job.document import SheetPlan
from ..job.tables import Cutter, cutter_by_id
from ..layers import Layer, Layers
from ..verdict import Verdict


@dataclass(frozen=True)
class Sheet:
    """One load: `cut` is what the blade follows, mm from the lower left of the safe area, y up.

    `sets` copies of the layer stand on it; it is cut `times` times. `turned` tells that the work stands on end.
    `film_area` is the film one load uses, mm2: the work with the film kept round it, or with its frame where that
    stands further out.
    """

    layer: Layer
    cutter: Cutter
    cut: BaseGeometry
    frames: BaseGeometry
    sets: int
    times: int
    turned: bool
    width: float
    height: float
    film_area: float
    fits: bool


@dataclass(frozen=True)
class Sheets:
    """All loads, and the film the whole batch uses by layer index (mm2)."""

    sheets: tuple[Sheet, ...]
    cutter: Cutter
    film_area: float
    verdicts: tuple[Verdict, ...]


def grid(count: int, width: float, height: float, room_width: float, room_height: float, gap: float) -> tuple[int, int]:
    """Columns and rows in which at most `count` boxes stand in the room: the fewest rows that hold them."""
    columns = max(0, math.floor((room_width + gap + 1e-9) / (width + gap)))
    rows = max(0, math.floor((room_height + gap + 1e-9) / (height + gap)))
    if columns == 0 or rows == 0:
        return 0, 0
    columns = min(columns, count)
    return columns, min(rows, math.ceil(count / columns))


def _layout(layer: Layer, plan: SheetPlan, cutter: Cutter, count: int) -> list[Sheet]:
    pieces = layer.cut
    if layer.film.mirrored:
        pieces = shapely.transform(pieces, lambda p: p * (-1.0, 1.0))
    away = plan.weed_box_away_mm if plan.weed_box else 0.0
    left, low, right, high = pieces.bounds
    w, h = right - left + 2 * away, high - low + 2 * away
    may_turn = not layer.film.directional
    stands = w <= cutter.safe_width_mm and h <= cutter.safe_length_mm
    turned = may_turn and not stands and h <= cutter.safe_width_mm and w <= cutter.safe_length_mm
    if turned:
        pieces = shapely.transform(pieces, lambda p: np.column_stack([-p[:, 1], p[:, 0]]))
        left, low, right, high = pieces.bounds
        w, h = h, w
    fits = stands or turned
    frame = shapely.box(0, 0, w, h) if plan.weed_box else shapely.Polygon()
    base = shapely.transform(pieces, lambda p: p + (away - left, away - low))
    gap = max(2.0, away / 2)
    columns, rows = grid(count, w, h, cutter.safe_width_mm, cutter.safe_length_mm, gap) if fits else (1, 1)
    per = columns * rows
    out = []
    # The frame stands in the film kept round the work: both are there, but only the wider one takes film.
    margin = 2 * max(plan.margin_mm - away, 0.0)
    for sets, times in ((per, count // per), (count % per, 1)):
        if sets == 0 or times == 0:
            continue
        at = [(i % columns * (w + gap), i // columns * (h + gap)) for i in range(sets)]
        cut = shapely.multipolygons(
            np.concatenate([shapely.get_parts(shapely.transform(base, lambda p, d=d: p + d)) for d in at])
        )
        frames = (
            shapely.multipolygons([shapely.transform(frame, lambda p, d=d: p + d) for d in at])
            if plan.weed_box
            else frame
        )
        n_rows, n_columns = math.ceil(sets / columns), min(sets, columns)
        wide, tall = n_columns * (w + gap) - gap, n_rows * (h + gap) - gap
        out.append(
            Sheet(layer, cutter, cut, frames, sets, times, turned, wide, tall, (wide + margin) * (tall + margin), fits)
        )
    return out


def plan_sheets(layers: Layers, plan: SheetPlan, quantity: int) -> Sheets:
    """Lay the layers of a batch on loads. Raises BadDocument for a cutter there is none of."""
    cutter = cutter_by_id(plan.cutter, "sheets.cutter")
    sheets: list[Sheet] = []
    verdicts: list[Verdict] = []
    for layer in layers.layers:
        loads = _layout(layer, plan, cutter, quantity)
        sheets += loads
        first = loads[0]
        if not first.fits:
            over_w, over_h = first.width - cutter.safe_width_mm, first.height - cutter.safe_length_mm
            over = max(over_w, over_h)
            side = "wide" if over_w >= over_h else "long"
            verdicts.append(
                Verdict(
                    "sheets.fits",
                    "sheets",
                    "stop",
                    over,
                    0.0,
                    "mm",
                    f"{layer.name}: it is {{value}} too {side} for the cutter's safe area of {{w}} by {{h}}"
                    f"{', and this film must not be turned' if layer.film.directional else ''}.",
                    (
                        "Make it smaller or cut it on the roll cutter."
                        if cutter.medium == "mat"
                        else "Make it smaller, or split it into panels."
                    ),
                    {"w": (cutter.safe_width_mm, "mm"), "h": (cutter.safe_length_mm, "mm")},
                    field="sheets.cutter",
                    fix="roll-24" if cutter.medium == "mat" else None,
                )
            )
        else:
            turned = ", turned on the sheet" if first.turned else ""
            verdicts.append(
                Verdict(
                    "sheets.fits",
                    "sheets",
                    "ok",
                    max(first.width, first.height),
                    None,
                    "mm",
                    f"{layer.name}: {{w}} by {{h}}, inside the cutter's safe area{turned}.",
                    figures={"w": (first.width, "mm"), "h": (first.height, "mm")},
                )
            )
    area = sum(s.film_area * s.times for s in sheets)
    loads_total = sum(s.times for s in sheets)
    if sheets:
        share = 100 * sum(s.layer.area * s.sets * s.times for s in sheets) / area
        verdicts.append(
            Verdict(
                "sheets.film",
                "sheets",
                "ok",
                area,
                None,
                "mm2",
                f"{'The load uses' if loads_total == 1 else f'The {loads_total} loads use'} {{value}} of film, of which"
                " {share} ends on the work.",
                figures={"share": (share, "%")},
            )
        )
    if any(s.layer.film.mirrored for s in sheets):
        verdicts.append(
            Verdict("sheets.mirrored", "sheets", "ok", 1, None, "count", "The heat-transfer film is cut mirrored.")
        )
    return Sheets(tuple(sheets), cutter, area, tuple(verdicts))
