"""The fourth stage: one layer of film for each colour, the lowest first."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..artwork import ColourRegion
from ..artwork.artwork import polygons_only
from ..job.blanks import Blank
from ..job.document import LayerPlan
from ..job.tables import Film, film_by_id
from ..verdict import Verdict
from .colours import contrast_ratio, merge_near
from .inspection import Inspection, inspect
from .marks import crosses_above
from .names import name_colours

LEAST_CONTRAST = 2.0
SHOWN_GAPS = 0.05
"""A gap may show at a knocked-out joint in one lay-up of twenty."""
FEWEST_TO_KNOCK_OUT = 4
MANY_LAYERS = 6
"""More than this is not laid up by hand as a rule (common practice, no source)."""

Joint = Literal["stacked", "knocked_out"]


@dataclass(frozen=True)
class Layer:
    """One film to cut. `region` and `marks` mm on the template; `seen` what shows of it in the end."""

    name: str
    colour: str
    film: Film
    film_colour: str
    region: BaseGeometry
    seen: BaseGeometry
    marks: BaseGeometry
    pieces: int
    weeded: int
    area: float
    inspection: Inspection

    @property
    def cut(self) -> BaseGeometry:
        """Everything the blade goes round: the pieces and the marks, which lie apart from them."""
        return shapely.multipolygons(np.concatenate([shapely.get_parts(self.region), shapely.get_parts(self.marks)]))


@dataclass(frozen=True)
class Layers:
    """All layers, the lowest (first on the blank) first."""

    layers: tuple[Layer, ...]
    joint: Joint
    overlap: float
    gap_chance: float
    verdicts: tuple[Verdict, ...]


def gap_chance(overlap: float, accuracy: float) -> float:
    """Chance that a gap shows at a knocked-out joint: `exp(-o^2 / (2 sigma^2))` (Rayleigh)."""
    return math.exp(-(overlap**2) / (2 * accuracy**2))


def overlap_for(chance: float, accuracy: float) -> float:
    """Overlap in mm at which a gap shows with that chance: `sigma sqrt(-2 ln p)`."""
    return accuracy * math.sqrt(-2 * math.log(chance))


def join(colours: tuple[ColourRegion, ...], joint: Joint, overlap: float) -> list[BaseGeometry]:
    """The regions to cut, lowest first, so that stacked they show each colour's `seen` region.

    Stacked: a layer reaches under those above it as far as it was painted. Knocked out: by `overlap` mm.
    """
    out: list[BaseGeometry] = []
    above: BaseGeometry = shapely.Polygon()
    for c in reversed(colours):
        if above.is_empty:
            out.append(c.seen)
        elif joint == "stacked":
            out.append(polygons_only(shapely.union(c.seen, shapely.intersection(c.painted, above))))
        else:
            reach = shapely.buffer(c.seen, overlap, quad_segs=8)
            out.append(polygons_only(shapely.union(c.seen, shapely.intersection(reach, above))))
        above = shapely.union(above, c.seen)
    return out[::-1]


def _merged(colours: tuple[ColourRegion, ...], plan: LayerPlan) -> tuple[ColourRegion, ...]:
    if not plan.merge_near or len(colours) < 2:
        return colours
    stands = merge_near({c.colour: c.seen.area for c in colours}, plan.merge_delta_e)
    groups: dict[str, list[ColourRegion]] = {}
    for c in colours:
        groups.setdefault(stands[c.colour], []).append(c)
    return tuple(
        ColourRegion(
            name,
            polygons_only(shapely.union_all([c.seen for c in group])),
            polygons_only(shapely.union_all([c.painted for c in group])),
        )
        for name, group in groups.items()
    )


def count_weeded(region: BaseGeometry, marks: BaseGeometry, away: float) -> int:
    """Pieces of waste inside a frame `away` mm outside the work: the surround and every hole."""
    both = shapely.multipolygons(np.concatenate([shapely.get_parts(region), shapely.get_parts(marks)]))
    left, low, right, high = both.bounds
    frame = shapely.box(left - away, low - away, right + away, high + away)
    return len(shapely.get_parts(shapely.difference(frame, both)))


def _layer_verdicts(i: int, layer: Layer, blank: Blank) -> list[Verdict]:
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
                f"{where}: {n} dot{'s' if n > 1 else ''} under the safe {{limit}} for this film, the least {{value}}.",
                "Count them on the waste before it is thrown away.",
                places=found.dots[:400],
                field=f"layers.films.{i}",
            )
        )
    n = len(found.thin)
    if n:
        out.append(
            Verdict(
                "layers.thin",
                "layers",
                "look",
                float(n),
                film.least_stroke_mm,
                "count",
                f"{where}: {n} place{'s' if n > 1 else ''} thinner than the safe {{safe}} for this film.",
                "Make the drawing larger, its strokes wider, or choose a film that holds.",
                {"safe": (film.least_stroke_mm, "mm")},
                places=found.thin[:400],
                field=f"layers.films.{i}",
            )
        )
    return out


def _contrast_verdict(i: int, layer: Layer, blank: Blank) -> Verdict:
    ratio = contrast_ratio(layer.film_colour, blank.colour)
    level: Literal["ok", "look"] = "look" if ratio < LEAST_CONTRAST else "ok"
    return Verdict(
        "layers.contrast",
        "layers",
        level,
        ratio,
        LEAST_CONTRAST,
        "ratio",
        f"{layer.name} on the blank {{value}}{' (limit {limit}): it will hardly show' if level == 'look' else ''}.",
        "Choose another film colour, or put an outline behind it.",
        field=f"layers.films.{i}",
    )


def _borders_blank(layer: Layer, covered: BaseGeometry) -> bool:
    """Does a fair part of what is seen of the layer lie next to the bare blank? `covered` is what all layers cover."""
    wider = shapely.buffer(layer.seen, 0.2, quad_segs=2)
    return bool(shapely.difference(wider, covered).area > 0.05 * (wider.area - layer.seen.area))


def make_layers(colours: tuple[ColourRegion, ...], plan: LayerPlan, blank: Blank, weed_away: float) -> Layers:
    """Turn colours on the template into layers.

    Raises BadDocument for a film there is none of.
    """
    for n, wanted in enumerate(plan.films):
        film_by_id(wanted.film, f"layers.films.{n}.film")
    default = film_by_id(plan.default_film, "layers.default_film")
    colours = _merged(colours, plan)
    names = name_colours(c.colour for c in colours)
    joint: Joint = (
        ("stacked" if len(colours) < FEWEST_TO_KNOCK_OUT else "knocked_out") if plan.joint == "auto" else plan.joint
    )
    regions = join(colours, joint, plan.overlap_mm)
    chosen = {f.colour: f for f in plan.films}
    index = {f.colour: n for n, f in enumerate(plan.films)}
    marks: BaseGeometry = shapely.Polygon()
    if regions and plan.marks.kind == "crosses":
        b = shapely.total_bounds(np.array(regions, dtype=object))
        marks = crosses_above(
            (float(b[0]), float(b[1]), float(b[2]), float(b[3])), plan.marks.size_mm, plan.marks.away_mm
        )
    layers = []
    for c, region in zip(colours, regions, strict=True):
        choice = chosen.get(c.colour)
        film = film_by_id(choice.film) if choice else default
        film_colour = (choice.film_colour if choice else None) or c.colour
        layers.append(
            Layer(
                names[c.colour],
                c.colour,
                film,
                film_colour,
                region,
                c.seen,
                marks,
                len(shapely.get_parts(region)),
                count_weeded(region, marks, weed_away),
                float(region.area),
                inspect(region, film.least_stroke_mm, film.least_dot_mm),
            )
        )
    verdicts: list[Verdict] = []
    covered = shapely.union_all([layer.seen for layer in layers])
    for n, layer in enumerate(layers):
        i = index.get(layer.colour, n)
        verdicts += _layer_verdicts(i, layer, blank)
        if _borders_blank(layer, covered):
            verdicts.append(_contrast_verdict(i, layer, blank))
    chance = gap_chance(plan.overlap_mm, plan.accuracy_mm) if joint == "knocked_out" and len(layers) > 1 else 0.0
    if joint == "knocked_out" and len(layers) > 1:
        need = math.ceil(overlap_for(SHOWN_GAPS, plan.accuracy_mm) * 20) / 20
        verdicts.append(
            Verdict(
                "layers.overlap",
                "layers",
                "look" if chance > SHOWN_GAPS else "ok",
                plan.overlap_mm,
                need,
                "mm",
                (
                    "Overlap {value} hides a hand's {sigma}; a gap shows in {share} of lay-ups."
                    if chance <= SHOWN_GAPS
                    else "Overlap {value} is little for a hand's {sigma}: a gap shows in {share} of lay-ups."
                ),
                "Overlap by {limit}.",
                {"sigma": (plan.accuracy_mm, "mm"), "share": (100 * chance, "%")},
                field="layers.overlap_mm",
                fix=need,
            )
        )
    if len(layers) > MANY_LAYERS:
        verdicts.append(
            Verdict(
                "layers.count",
                "layers",
                "stop" if len(layers) > 2 * MANY_LAYERS else "look",
                len(layers),
                MANY_LAYERS,
                "count",
                "{value} layers are more than a hand lays up well (limit {limit}).",
                "Let near colours become one, or take colours out of the drawing.",
                field="layers.merge_near",
                fix=None if plan.merge_near else True,
            )
        )
    if len(layers) > 1 and plan.marks.kind == "none":
        verdicts.append(
            Verdict(
                "layers.marks",
                "layers",
                "look",
                0,
                2,
                "count",
                f"{len(layers)} layers and no registration marks.",
                "Add marks, so that they can be lined up.",
                field="layers.marks.kind",
                fix="crosses",
            )
        )
    return Layers(tuple(layers), joint, plan.overlap_mm, chance, tuple(verdicts))
