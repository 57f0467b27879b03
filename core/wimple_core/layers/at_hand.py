"""The colours of a drawing against the colours of film at hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..job.document import LayerPlan
from ..job.stock import FilmColour
from ..verdict import Verdict
from .colours import colour_difference
from .layer import Layer

MOST_NAMED = 4
AT_A_GLANCE = 10.0
"""Colours that differ by more (CIEDE2000) are seen at a glance to be two (common practice, no source)."""


@dataclass(frozen=True)
class AtHand:
    """The colour of its film nearest to a layer's, and how far from it (CIEDE2000); `other` is the nearest of another
    film, where that one is too far."""

    nearest: FilmColour | None
    away: float
    other: FilmColour | None = None

    @property
    def near(self) -> bool:
        """Would it pass for it?"""
        return self.nearest is not None and self.away <= AT_A_GLANCE


def own_colour(film: str, colour: str, colours: Sequence[FilmColour]) -> FilmColour | None:
    """Which of the colours at hand of a film would pass for one; None where none does."""
    away = {c: colour_difference(colour, c.colour) for c in colours if c.film == film}
    nearest = min(away, key=lambda c: away[c], default=None)
    return nearest if nearest is not None and away[nearest] <= AT_A_GLANCE else None


def at_hand(layer: Layer, colours: Sequence[FilmColour]) -> AtHand:
    """What there is for a layer."""
    away = {c: colour_difference(layer.film_colour, c.colour) for c in colours}
    mine = min((c for c in colours if c.film == layer.film.id), key=lambda c: away[c], default=None)
    found = AtHand(mine, away[mine] if mine else float("inf"))
    if found.near:
        return found
    other = min((c for c in colours if away[c] <= AT_A_GLANCE), key=lambda c: away[c], default=None)
    return AtHand(mine, found.away, other)


def with_nearest(plan: LayerPlan, layers: Sequence[Layer], found: Sequence[AtHand]) -> list[dict[str, object]]:
    """The films chosen for colours, those of these layers being the nearest at hand."""
    chosen = {c.colour: c.model_dump(mode="json", exclude_none=True) for c in plan.films}
    for layer, there in zip(layers, found, strict=True):
        if there.nearest is not None:
            kept = {"colour": layer.colour, "film": layer.film.id, "film_colour": there.nearest.colour}
            chosen[layer.colour] = kept
    return list(chosen.values())


def at_hand_verdicts(layers: Sequence[Layer], plan: LayerPlan, colours: Sequence[FilmColour]) -> list[Verdict]:
    """Layers for which there is no film, and layers that one film would serve."""
    if not colours or not layers:
        return []
    found = [at_hand(layer, colours) for layer in layers]
    far = [(layer, there) for layer, there in zip(layers, found, strict=True) if not there.near]
    out = [_none_near(far, len(layers), plan)] if far else []
    of: dict[FilmColour, list[Layer]] = {}
    for layer, there in zip(layers, found, strict=True):
        if there.near and there.nearest is not None:
            of.setdefault(there.nearest, []).append(layer)
    shared = next(((c, some) for c, some in of.items() if len(some) > 1), None)
    if shared is not None:
        film, some = shared
        *others, last = (layer.name for layer in some)
        names = f"{', '.join(others)} and {last}"
        out.append(
            Verdict(
                "layers.films",
                "layers",
                "look",
                len(layers),
                len(of),
                "count",
                f"More colours than films: for {len(layers)} colours {len(of)} of the films at hand serve, and {names}"
                f" would all be cut from the one {film.name}.",
                "Give them to one colour, or write down another film.",
                field="layers.films",
            )
        )
    return out


def _none_near(far: Sequence[tuple[Layer, AtHand]], count: int, plan: LayerPlan) -> Verdict:
    """What is said of the layers that no film at hand comes near to, and what would be taken for them."""
    layer, there = max(far, key=lambda f: f[1].away)
    if len(far) == 1:
        said = f"{layer.name.capitalize()}: no {layer.film.name.lower()} film at hand comes near it"
        if there.nearest is None:
            said += "."
        else:
            # The film may be called as the colour is.
            same = there.nearest.name.lower() == layer.name.lower()
            film = f"the film called {there.nearest.name}" if same else there.nearest.name
            said += f"; {film} is nearest and differs by {{value}} (limit {{limit}})."
    else:
        some = ", ".join(f"{la.name} ({t.nearest.name if t.nearest else 'none'})" for la, t in far[:MOST_NAMED])
        more = f" and {len(far) - MOST_NAMED} more" if len(far) > MOST_NAMED else ""
        said = f"{len(far)} of {count} colours are of no film at hand; nearest to them: {some}{more}."
    others = [f"{t.other.name} for {la.name}" for la, t in far if t.other is not None][:MOST_NAMED]
    helps = any(t.nearest is not None for _, t in far)
    remedy = "Take the nearest" if helps else "Choose another film"
    remedy += ", or write down the films you have."
    if others:
        remedy += f" Of another film there is {', '.join(others)}."
    return Verdict(
        "layers.at_hand",
        "layers",
        "look",
        min(there.away, 100.0),
        AT_A_GLANCE,
        "ΔE",
        said,
        remedy,
        field="layers.films",
        fixes={"layers.films": with_nearest(plan, [la for la, _ in far], [t for _, t in far])} if helps else {},
        subject=layer.name if len(far) == 1 else "",
    )
