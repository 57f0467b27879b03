"""The fourth stage: one layer of film for each colour, the lowest first."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
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
from ..job.document import FilmChoice, LayerPlan, Weeding
from ..job.shipped import Film
from ..job.tables import SHIPPED, Tables
from ..overlay import difference, together
from ..verdict import Verdict
from .at_hand import at_hand_verdicts, own_colour
from .inspection import Inspection, inspect
from .joints import Rim, join, joint_places, rim
from .layer import Layer, Layers, Meets
from .marks import Placed, place_marks
from .mending import mend
from .misregistration import Hand
from .pile import make_pile
from .thickness import measure_pile, thickness_verdict
from .verdicts import (
    borders_blank,
    count_verdicts,
    glass_verdicts,
    joint_verdicts,
    layer_verdicts,
    mending_verdicts,
    near_verdicts,
)
from .weeding import Weeded, plan_weeding

LEAST_SLIT_MM = 0.2
"""A slit shorter than this in a piece lets nothing give."""


AT_ONCE = 2
"""So many films are looked at at once."""
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


def _film_of(colour: str, choice: FilmChoice | None, default: Film, tables: Tables) -> Film:
    """The film a colour is cut from, with what the workshop wrote down of that colour of it."""
    film = default if choice is None else tables.film(choice.film)
    if not any(c.says_more for c in tables.colours if c.film == film.id):
        return film
    own = own_colour(film.id, (choice.film_colour if choice else None) or colour, tables.colours)
    return own.of(film) if own is not None else film


def _hand(plan: LayerPlan, marks: Placed | None, bounds: tuple[float, float, float, float]) -> Hand:
    """How the films are laid: against the marks, or by eye along the edges of the work."""
    if marks is not None:
        return Hand(plan.accuracy_mm, marks.middle, marks.apart)
    left, low, right, high = bounds
    return Hand(plan.accuracy_mm, ((left + right) / 2, (low + high) / 2), max(right - left, high - low))


def make_layers(
    colours: tuple[ColourRegion, ...],
    plan: LayerPlan,
    grounds: tuple[str, ...],
    tables: Tables = SHIPPED,
    slits: Sequence[np.ndarray] = (),
    box_away: float = 4.0,
    keep: Keep = keep_nothing,
) -> Layers:
    """Turn colours on the template into layers over a blank; `grounds` are its colour and what is seen behind it.

    `slits` (2, 2) each, mm on the template, cut whatever lies there; the weed box stands `box_away` mm round all. What
    `keep` holds of a film, under what the film is, is not worked out anew: a change in one costs no look at the others.

    Raises BadDocument for a film there is none of.
    """
    for n, wanted in enumerate(plan.films):
        tables.film(wanted.film, f"layers.films.{n}.film")
    default = tables.film(plan.default_film, "layers.default_film")
    pile = make_pile(colours, plan, len(grounds) > 1)
    colours, joint = pile.colours, pile.joint
    drawn = digest_of([g for c in colours for g in (c.seen, c.painted)])
    meet = tuple(pile.meet(a, b) for b in range(len(colours)) for a in range(b))
    regions = list(keep(("join", drawn, meet, plan.overlap_mm), lambda: join(colours, pile.meet, plan.overlap_mm)))
    if pile.base is not None:
        regions[0] = pile.base
    chosen = {f.colour: (n, f) for n, f in enumerate(plan.films)}
    films = [_film_of(c.colour, chosen[c.colour][1] if c.colour in chosen else None, default, tables) for c in colours]
    regions, shown, mending = mend(regions, [c.seen for c in colours], films, plan.mend, keep)
    left = [n for n, region in enumerate(regions) if not region.is_empty]
    gone = [name for n, name in enumerate(pile.names) if n not in left]
    if gone:
        pile = pile.only(left)
        colours = pile.colours
        regions, shown, films = ([some[n] for n in left] for some in (regions, shown, films))
    b = shapely.total_bounds(np.array(regions, dtype=object)).tolist() if regions else [0.0, 0.0, 1.0, 1.0]
    bounds = (b[0], b[1], b[2], b[3])
    told = digest_of([*regions, *shown])
    placed = keep(("marks", told, plan.marks), lambda: place_marks(plan.marks, regions, bounds))
    marks: BaseGeometry = placed.region if placed else EMPTY
    round_ = _Round(marks, slits, plan.weeding, box_away, tables.log.pace)
    layers: list[Layer] = []

    def look_at(n: int) -> tuple[Inspection, Cuts, int, Weeded]:
        region, c, film = regions[n], colours[n], films[n]
        key = ("film", digest_of([region, c.seen]), c.names, film.least_stroke_mm, film.least_dot_mm, *round_.key)
        return keep(key, lambda: round_.look_at(region, c, film))

    # The library lets others work while it does: two films are looked at at once.
    with ThreadPoolExecutor(AT_ONCE) as pool:
        looks = list(pool.map(look_at, range(len(colours))))
    for c, name, film, seen, region, look in zip(colours, pile.names, films, shown, regions, looks, strict=True):
        choice = chosen[c.colour][1] if c.colour in chosen else FilmChoice(colour=c.colour, film=film.id)
        found, cuts, weeded, weeding = look
        warm = None if film.changes_at_c is None else choice.warm_colour or film.warm_colour
        area, pieces = float(region.area), len(shapely.get_parts(region))
        layers.append(
            Layer(
                name,
                c.colour,
                film,
                choice.film_colour or c.colour,
                cuts,
                seen,
                pieces,
                weeded,
                area,
                found,
                weeding,
                warm,
            )
        )
    verdicts: list[Verdict] = []
    on_blank, rims = keep(("bare", told), lambda: _edges(shown))
    for n, layer, bare in zip(left, layers, on_blank, strict=True):
        # A film that nobody chose yet is chosen by going on with the list.
        number = f".{chosen[layer.colour][0]}" if layer.colour in chosen else ""
        verdicts += layer_verdicts(f"layers.films{number}", layer, bare, grounds, [m for m in mending if n in m.films])
    far = max(plan.overlap_mm, FAR * plan.accuracy_mm)
    asked = 0.0 if joint == "butted" and not pile.odd else plan.overlap_mm
    places = keep(("joints", told, asked, far), lambda: joint_places(shown, rims, regions, asked, far))
    hand = _hand(plan, placed, bounds)
    said, chance, weakest, shows = joint_verdicts([layer.name for layer in layers], places, plan, pile, hand)
    verdicts += (*pile.verdicts, *mending_verdicts(mending, gone))
    verdicts += said + count_verdicts(layers, plan)
    thicknesses = tuple(film.thickness_um for film in films)
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
        pile.base is not None,
        mending,
        hand if len(layers) > 1 else None,
        shows,
        thick,
    )
