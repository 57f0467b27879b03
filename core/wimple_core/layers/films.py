"""The films of a job as they lie on one another: what is cut of each, and what shows of it in the end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import EMPTY, areas, holes_in
from ..artwork import ColourRegion
from ..cache import Keep, digest_of, keep_nothing
from ..job.document import FilmChoice, LayerPlan, Mend
from ..job.shipped import Film
from ..job.tables import SHIPPED, Tables
from ..overlay import union
from ..thin import LEAST_CUT_MM, hair_thin
from .at_hand import own_colour
from .joints import join
from .mending import AllMended, LookChange, Mending, MendKind, could_mend, look_change, mend, seen_anew
from .pile import Pile, Sheet, make_pile

Bounds = tuple[float, float, float, float]


@dataclass(frozen=True, eq=False)
class OfFilm:
    """What is cut of one film, marks apart, and what shows of it (`seen`); `drawn` is the colour it was, `number` its
    place in the pile before what mending left nothing of was taken out, `field` where its film is chosen."""

    name: str
    colour: str
    film: Film
    film_colour: str
    region: BaseGeometry
    seen: BaseGeometry
    drawn: ColourRegion
    number: int
    field: str
    warm_colour: str | None = None
    """What its colour becomes in the warmth; None where it stays."""


@dataclass(frozen=True, eq=False)
class Unmended:
    """The film of a colour before it was mended: what is cut and what is seen of it, and what is asked for."""

    colour: str
    region: BaseGeometry
    seen: BaseGeometry
    film: Film
    mend: Mend


@dataclass(frozen=True, eq=False)
class DoneMending:
    """What was mended: in how many places each way was wanted, of which there were too many, and what came of it."""

    places: Mapping[MendKind, int]
    too_many: frozenset[MendKind]
    change: LookChange


@dataclass(frozen=True)
class Hairs:
    """How many pieces and holes are nowhere as wide as LEAST_CUT_MM, and so not cut, and where the pieces were, mm."""

    pieces: int = 0
    holes: int = 0
    places: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Films:
    """All films, the lowest (first on the blank) first. `gone` are the names of those of which nothing is left, `hairs`
    what is too thin to be cut at all, `before` what was cut and what was seen of all of them before they were mended,
    with their films and what was asked for of each; `mended` what was done in how many places, and what came of it."""

    each: tuple[OfFilm, ...]
    pile: Pile
    mended: DoneMending | None = None
    gone: tuple[str, ...] = ()
    hairs: Hairs = Hairs()
    before: tuple[Unmended, ...] = ()

    @property
    def regions(self) -> list[BaseGeometry]:
        """What is cut of each."""
        return [film.region for film in self.each]

    @property
    def shown(self) -> list[BaseGeometry]:
        """What shows of each."""
        return [film.seen for film in self.each]

    @cached_property
    def bounds(self) -> Bounds:
        """The box round all of them, mm."""
        if not self.each:
            return (0.0, 0.0, 1.0, 1.0)
        left, low, right, high = shapely.total_bounds(np.array(self.regions, dtype=object)).tolist()
        return (left, low, right, high)

    @cached_property
    def digest(self) -> bytes:
        """What tells them from others."""
        return digest_of([*self.regions, *self.shown])


def _film_of(colour: str, choice: FilmChoice | None, default: Film, tables: Tables) -> Film:
    """The film a colour is cut from, with what the workshop wrote down of that colour of it."""
    film = default if choice is None else tables.film(choice.film)
    if not any(c.says_more for c in tables.colours if c.film == film.id):
        return film
    own = own_colour(film.id, (choice.film_colour if choice else None) or colour, tables.colours)
    return own.of(film) if own is not None else film


def make_films(
    colours: tuple[ColourRegion, ...],
    plan: LayerPlan,
    grounds: tuple[str, ...],
    tables: Tables = SHIPPED,
    keep: Keep = keep_nothing,
    sheet: Sheet | None = None,
) -> Films:
    """Put colours on the template on one another as films, and mend what is asked for; `grounds` are the blank's colour
    and what is seen behind it, `sheet` the blank itself where it is cut out too. What `keep` holds is not worked out
    anew.

    Raises BadDocument for a film there is none of.
    """
    for n, wanted in enumerate(plan.films):
        tables.film(wanted.film, f"layers.films.{n}.film")
    default = tables.film(plan.default_film, "layers.default_film")
    pile = make_pile(colours, plan, len(grounds) > 1, sheet)
    chosen = {f.colour: (n, f) for n, f in enumerate(plan.films)}

    def choice(colour: str) -> FilmChoice | None:
        return chosen[colour][1] if colour in chosen else None

    films = [_film_of(c.colour, choice(c.colour), default, tables) for c in pile.colours]
    if sheet is not None and sheet.colour not in chosen:
        cut_from = tables.film(sheet.film, "blank.cut_from") if sheet.film else default
        films[0] = _film_of(sheet.colour, None, cut_from, tables)
    before = _joined(pile, plan, keep)
    unmended = tuple(
        Unmended(c.colour, region, c.seen, film, plan.mend_for(c.colour))
        for region, c, film in zip(before, pile.colours, films, strict=True)
    )
    made, done = _mended(unmended, keep), None
    regions, shown, hairs = _cut_at_all(made.regions, made.seen, keep)
    if made.places:
        change = look_change([(u.region, u.seen) for u in unmended], made.each)
        done = DoneMending(made.places, made.too_many, change)
    left = [n for n, region in enumerate(regions) if not region.is_empty]
    gone = tuple(name for n, name in enumerate(pile.names) if n not in left)
    each = []
    for n in left:
        c, film = pile.colours[n], films[n]
        wanted_film = choice(c.colour)
        # A film that nobody chose yet is chosen by going on with the list.
        number = f".{chosen[c.colour][0]}" if c.colour in chosen else ""
        warm = None if film.changes_at_c is None else (wanted_film and wanted_film.warm_colour) or film.warm_colour
        each.append(
            OfFilm(
                pile.names[n],
                c.colour,
                film,
                (wanted_film and wanted_film.film_colour) or c.colour,
                regions[n],
                shown[n],
                c,
                n,
                f"layers.films{number}",
                warm,
            )
        )
    return Films(tuple(each), pile.only(left) if gone else pile, done, gone, hairs, unmended)


def _joined(pile: Pile, plan: LayerPlan, keep: Keep) -> list[BaseGeometry]:
    """What is cut of each colour of a pile, so that laid on one another they show what was drawn."""
    colours = pile.colours
    drawn = digest_of([g for c in colours for g in (c.seen, c.painted)])
    meet = tuple(pile.meet(a, b) for b in range(len(colours)) for a in range(b))
    regions = list(keep(("join", drawn, meet, plan.overlap_mm), lambda: join(colours, pile.meet, plan.overlap_mm)))
    regions[: len(pile.under)] = pile.under
    return regions


def _without_hairs(region: BaseGeometry) -> tuple[BaseGeometry, Hairs]:
    """A region without what no blade goes round, and without its holes of that kind."""
    parts = areas(np.array([region], dtype=object))
    holes = holes_in(parts)[0]
    thin, filled = hair_thin(parts, LEAST_CUT_MM), hair_thin(holes, LEAST_CUT_MM)
    if not thin.any() and not filled.any():
        return region, Hairs()
    left, hairs = parts[~thin], Hairs(int(thin.sum()), int(filled.sum()), _middles(parts[thin]))
    if filled.any():
        solid = shapely.union_all([*left, *holes[filled]])
        return (solid if len(left) else EMPTY), hairs
    return (shapely.multipolygons(left) if len(left) else EMPTY), hairs


def _middles(parts: np.ndarray) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in shapely.get_coordinates(shapely.point_on_surface(parts)))


def _cut_at_all(
    regions: Sequence[BaseGeometry], seen: Sequence[BaseGeometry], keep: Keep
) -> tuple[list[BaseGeometry], list[BaseGeometry], Hairs]:
    """Films without what no blade goes round, what then shows of each, and how much that was."""
    found = [keep(("hairs", digest_of([r])), lambda r=r: _without_hairs(r)) for r in regions]  # type: ignore[misc]
    out = [region for region, _ in found]
    if all(hairs == Hairs() for _, hairs in found):
        return list(regions), list(seen), Hairs()
    changed = [shapely.symmetric_difference(a, b) for a, b in zip(regions, out, strict=True) if a is not b]
    hairs = Hairs(
        sum(h.pieces for _, h in found), sum(h.holes for _, h in found), tuple(p for _, h in found for p in h.places)
    )
    return out, seen_anew(out, seen, union(changed)), hairs


def _mended(unmended: Sequence[Unmended], keep: Keep) -> AllMended:
    regions, seen = [u.region for u in unmended], [u.seen for u in unmended]
    return mend(regions, seen, [u.film for u in unmended], [u.mend for u in unmended], keep)


def mending_of(films: Films, plan: LayerPlan, keep: Keep = keep_nothing) -> tuple[Mending, ...]:
    """What every way of mending all films would change, or has changed."""
    some = films.before
    regions, seen = [u.region for u in some], [u.seen for u in some]
    return could_mend(regions, seen, [u.film for u in some], [u.colour for u in some], plan, keep)
