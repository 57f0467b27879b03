"""The fourth stage: one layer of film for each colour, the lowest first."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..artwork import ColourRegion
from ..job.blanks import Blank
from ..job.document import LayerPlan
from ..job.tables import Film, film_by_id
from ..overlay import EMPTY, difference, together, union
from ..verdict import Verdict
from .colours import merge_near
from .inspection import Inspection, inspect
from .joints import Joint, join, joint_places
from .marks import Placed, crosses_above
from .misregistration import Hand
from .names import name_colours
from .verdicts import count_verdicts, joint_verdicts, layer_verdicts

FEWEST_TO_KNOCK_OUT = 4
FAR = 8.0
"""So many times its accuracy a hand never misses by: a film that reaches that far beneath shows no gap."""


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
        return together([self.region, self.marks])


@dataclass(frozen=True)
class Layers:
    """All layers, the lowest (first on the blank) first. `gap_chance`: that a gap shows anywhere in one lay-up."""

    layers: tuple[Layer, ...]
    joint: Joint
    overlap: float
    gap_chance: float
    verdicts: tuple[Verdict, ...]


def _merged(colours: tuple[ColourRegion, ...], plan: LayerPlan) -> tuple[ColourRegion, ...]:
    if not plan.merge_near or len(colours) < 2:
        return colours
    stands = merge_near({c.colour: c.seen.area for c in colours}, plan.merge_delta_e)
    groups: dict[str, list[ColourRegion]] = {}
    for c in colours:
        groups.setdefault(stands[c.colour], []).append(c)
    return tuple(
        ColourRegion(name, union([c.seen for c in group]), union([c.painted for c in group]))
        for name, group in groups.items()
    )


def count_weeded(region: BaseGeometry, marks: BaseGeometry, away: float) -> int:
    """Pieces of waste inside a frame `away` mm outside the work: the surround and every hole."""
    both = together([region, marks])
    left, low, right, high = both.bounds
    frame = shapely.box(left - away, low - away, right + away, high + away)
    return len(shapely.get_parts(difference(frame, both)))


def _hand(plan: LayerPlan, marks: Placed | None, bounds: tuple[float, float, float, float]) -> Hand:
    """How the films are laid: against the marks, or by eye along the edges of the work."""
    if marks is not None:
        return Hand(plan.accuracy_mm, marks.middle, marks.apart)
    left, low, right, high = bounds
    return Hand(plan.accuracy_mm, ((left + right) / 2, (low + high) / 2), max(right - left, high - low))


def make_layers(colours: tuple[ColourRegion, ...], plan: LayerPlan, blank: Blank, weed_away: float) -> Layers:
    """Turn colours on the template into layers.

    Raises BadDocument for a film there is none of.
    """
    for n, wanted in enumerate(plan.films):
        film_by_id(wanted.film, f"layers.films.{n}.film")
    default = film_by_id(plan.default_film, "layers.default_film")
    colours = _merged(colours, plan)
    names = name_colours(c.colour for c in colours)
    joint: Joint = "stacked" if len(colours) < FEWEST_TO_KNOCK_OUT else "knocked_out"
    if plan.joint != "auto":
        joint = plan.joint
    regions = join(colours, joint, plan.overlap_mm)
    chosen = {f.colour: (n, f) for n, f in enumerate(plan.films)}
    b = shapely.total_bounds(np.array(regions, dtype=object)).tolist() if regions else [0.0, 0.0, 1.0, 1.0]
    bounds = (b[0], b[1], b[2], b[3])
    placed = None
    if regions and plan.marks.kind == "crosses":
        placed = crosses_above(bounds, plan.marks.size_mm, plan.marks.away_mm)
    marks: BaseGeometry = placed.region if placed else EMPTY
    layers: list[Layer] = []
    for c, region in zip(colours, regions, strict=True):
        choice = chosen[c.colour][1] if c.colour in chosen else None
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
    covered = together(layer.seen for layer in layers)
    for n, layer in enumerate(layers):
        verdicts += layer_verdicts(chosen[layer.colour][0] if layer.colour in chosen else n, layer, covered, blank)
    far = max(plan.overlap_mm, FAR * plan.accuracy_mm)
    places = joint_places([layer.seen for layer in layers], regions, plan.overlap_mm, far)
    found, chance = joint_verdicts([layer.name for layer in layers], places, plan, _hand(plan, placed, bounds))
    verdicts += found + count_verdicts(layers, plan)
    return Layers(tuple(layers), joint, plan.overlap_mm, chance, tuple(verdicts))
