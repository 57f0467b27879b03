"""The stage of the layers: one of film for each colour, the lowest first, with its marks and what is judged of it."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY, areas, clusters
from ..artwork import ColourRegion
from ..artwork.pieces import names_after
from ..cache import Keep, Key, digest_of, keep_nothing
from ..cuts import Cuts, cuts_along, cuts_round
from ..cuts import together as all_cuts
from ..job.document import LayerPlan, Weeding
from ..job.shipped import Film
from ..job.tables import SHIPPED, Tables
from ..overlay import difference, together
from ..verdict import Verdict
from .at_hand import at_hand_verdicts
from .films import Films, OfFilm
from .inspection import Inspection, inspect
from .joints import Rim, joint_places, rim
from .layer import Layer, Layers, Meets
from .marks import Placed, place_marks
from .mending import Mending
from .misregistration import Hand
from .thickness import measure_pile, thickness_verdict
from .verdicts import (
    borders_blank,
    count_verdicts,
    glass_verdicts,
    hair_verdicts,
    joint_verdicts,
    layer_verdicts,
    mending_verdicts,
    near_verdicts,
)
from .weeding import Weeded, plan_weeding

LEAST_SLIT_MM = 0.2
"""A slit shorter than this in a piece lets nothing give."""

FAR = 8.0
"""So many times its accuracy a hand never misses by: a film that reaches that far beneath shows no gap."""


def _cuts_of(region: BaseGeometry, colour: ColourRegion, marks: BaseGeometry, slits: Sequence[np.ndarray]) -> Cuts:
    """Pieces with their holes, the slits where they lie in them, and the marks."""
    parts = shapely.get_parts(region)
    parts = parts[~shapely.is_empty(parts)]
    # What reaches under nothing is what is seen, with its names.
    names = colour.pieces[1] if region is colour.seen else names_after(parts, *colour.pieces)
    lines: list[np.ndarray] = []
    owners: list[str] = []
    if len(slits) and len(parts):
        every = shapely.linestrings(list(slits))
        line, part = shapely.STRtree(parts).query(every, predicate="intersects")
        cut, of = shapely.get_parts(shapely.intersection(every[line], parts[part]), return_index=True)
        long = shapely.length(cut) > LEAST_SLIT_MM
        lines = [shapely.get_coordinates(g) for g in cut[long]]
        owners = [names[part[i]] for i in of[long]]
    return all_cuts([cuts_round(region, "piece", names), cuts_along(lines, "slit", owners), cuts_round(marks, "mark")])


def count_weeded(region: BaseGeometry, marks: BaseGeometry) -> int:
    """Pieces of waste round the work: the surround, every hole, and what pieces that touch
    enclose between them."""
    parts = areas(np.array([region, marks], dtype=object))
    count = 1
    for group in clusters(shapely.polygons(shapely.get_exterior_ring(parts))):
        if len(group) == 1:
            count += int(shapely.get_num_interior_rings(parts[group[0]]))
        else:
            work = shapely.multipolygons(parts[group])
            left, low, right, high = work.bounds
            count += len(shapely.get_parts(difference(shapely.box(left - 1, low - 1, right + 1, high + 1), work))) - 1
    return count


@dataclass(frozen=True)
class _Round:
    """What all films of a job are looked at and weeded by."""

    marks: BaseGeometry
    slits: Sequence[np.ndarray]
    weeding: Weeding
    box_away: float
    pace: float

    @cached_property
    def key(self) -> Key:
        """What tells it from another."""
        slits = tuple(line.tobytes() for line in self.slits)
        return (digest_of([self.marks]), slits, self.weeding, self.box_away, self.pace)

    def look_at(self, region: BaseGeometry, colour: ColourRegion, film: Film) -> tuple[Inspection, Cuts, int, Weeded]:
        """What is found in one film, its cuts, how many pieces of waste it has and how it is weeded."""
        found = inspect(region, film.least_stroke_mm, film.least_dot_mm)
        cuts = _cuts_of(region, colour, self.marks, self.slits)
        weeded = count_weeded(region, self.marks)
        names = [cuts.ids[n] for n in cuts.only("piece").pieces.tolist()]
        plan = plan_weeding(region, self.marks, names, found, weeded, self.weeding, self.box_away, self.pace)
        cuts = all_cuts([cuts, cuts_along(plan.lines, "weed"), cuts_round(plan.frames, "frame")])
        return found, cuts, weeded, plan


def _edges(shown: Sequence[BaseGeometry]) -> tuple[list[bool], list[Rim]]:
    """Which of the films border on the bare blank, and their rims."""
    covered, rims = together(shown), [rim(region) for region in shown]
    return [borders_blank(edge, covered) for edge in rims], rims


def _hand(plan: LayerPlan, marks: Placed | None, bounds: tuple[float, float, float, float]) -> Hand:
    """How the films are laid: against the marks, or by eye along the edges of the work."""
    if marks is not None:
        return Hand(plan.accuracy_mm, marks.middle, marks.apart)
    left, low, right, high = bounds
    return Hand(plan.accuracy_mm, ((left + right) / 2, (low + high) / 2), max(right - left, high - low))


def make_layers(
    films: Films,
    plan: LayerPlan,
    grounds: tuple[str, ...],
    tables: Tables = SHIPPED,
    slits: Sequence[np.ndarray] = (),
    box_away: float = 4.0,
    keep: Keep = keep_nothing,
    at_once: int = 2,
) -> Layers:
    """Turn the films of a job into layers over a blank; `grounds` are its colour and what is seen behind it.

    `slits` (2, 2) each, mm on the template, cut whatever lies there; the weed box stands `box_away` mm round all. What
    `keep` holds of a film, under what the film is, is not worked out anew: a change in one costs no look at the others.
    So many films are looked at `at_once`.
    """
    pile, regions, shown, told = films.pile, films.regions, films.shown, films.digest
    bounds = films.bounds
    placed = keep(("marks", told, plan.marks), lambda: place_marks(plan.marks, regions, bounds))
    marks: BaseGeometry = placed.region if placed else EMPTY
    round_ = _Round(marks, slits, plan.weeding, box_away, tables.log.pace)

    def look_at(film: OfFilm) -> tuple[Inspection, Cuts, int, Weeded]:
        c, of = film.drawn, film.film
        key = ("film", digest_of([film.region, c.seen]), c.names, of.least_stroke_mm, of.least_dot_mm, *round_.key)
        return keep(key, lambda: round_.look_at(film.region, c, of))

    if at_once > 1:
        # The library lets others work while it does.
        with ThreadPoolExecutor(at_once) as pool:
            looks = list(pool.map(look_at, films.each))
    else:
        looks = [look_at(film) for film in films.each]
    layers = [
        Layer(
            film.name,
            film.colour,
            film.film,
            film.film_colour,
            cuts,
            film.seen,
            len(shapely.get_parts(film.region)),
            weeded,
            float(film.region.area),
            found,
            weeding,
            film.warm_colour,
        )
        for film, (found, cuts, weeded, weeding) in zip(films.each, looks, strict=True)
    ]
    verdicts: list[Verdict] = []
    on_blank, rims = keep(("bare", told), lambda: _edges(shown))
    for n, (film, layer, bare) in enumerate(zip(films.each, layers, on_blank, strict=True)):
        # The blank itself need not stand out from itself.
        verdicts += layer_verdicts(film.field, layer, bare and not (pile.sheet and n == 0), grounds, plan)
    far = max(plan.overlap_mm, FAR * plan.accuracy_mm)
    joint = pile.joint
    asked = 0.0 if joint == "butted" and not pile.odd else plan.overlap_mm
    places = keep(("joints", told, asked, far), lambda: joint_places(shown, rims, regions, asked, far))
    hand = _hand(plan, placed, bounds)
    said, chance, weakest, shows = joint_verdicts([layer.name for layer in layers], places, plan, pile, hand)
    verdicts += (*pile.verdicts, *mending_verdicts(films.mended, films.gone), *hair_verdicts(films.hairs))
    verdicts += said + count_verdicts(layers, plan)
    thicknesses = tuple(film.film.thickness_um for film in films.each)
    thick = keep(
        ("thick", told, asked, far, thicknesses), lambda: measure_pile(regions, shown, rims, places, thicknesses)
    )
    if len(layers) > 1:
        verdicts += thickness_verdict(thick, joint == "stacked" and thick.films > 1)
    verdicts += near_verdicts(layers, plan) + glass_verdicts(layers, plan)
    verdicts += at_hand_verdicts(layers, plan, tables.colours)
    return Layers(
        tuple(layers),
        joint,
        0.0 if joint == "butted" else plan.overlap_mm,
        chance,
        tuple(verdicts),
        plan.seen == "through_glass",
        weakest,
        tuple(Meets(j.lower, j.upper, pile.meet(j.lower, j.upper)) for j in places),
        len(pile.under),
        pile.sheet,
        (),
        hand if len(layers) > 1 else None,
        shows,
        thick,
    )


def with_mending(layers: Layers, mending: tuple[Mending, ...]) -> Layers:
    """The same with what every way of mending all films would change, as `could_mend` found it."""
    return replace(layers, mending=mending)
