"""How thick the pile of films is at its highest, and where its edges stand so high that a nail catches them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from ..arrangement import prepared
from ..arrays import Array
from ..verdict import Verdict
from .joints import JointPlaces, Rim

CATCHES_UM = 150.0
"""An edge so high catches a nail, and the dishwater (common practice, no source)."""
BESIDE_MM = 0.05
MOST_EDGES = 1500
MOST_PLACES = 100


@dataclass(frozen=True)
class Thickness:
    """The thickness (um) of the pile at its highest, where that is and of how many films; the highest edge (um) and
    places on edges that catch; and how much film (mm2) lies hidden beneath other film."""

    highest_um: float
    at: tuple[float, float]
    films: int
    edge_um: float
    edges: tuple[tuple[float, float], ...]
    hidden_mm2: float
    thickest_um: float = 0.0
    """Of a single film."""


def measure_pile(
    regions: Sequence[BaseGeometry],
    seen: Sequence[BaseGeometry],
    rims: Sequence[Rim],
    joints: Sequence[JointPlaces],
    thick_um: Sequence[float],
) -> Thickness:
    """Measure the pile of films (n,), each so many um thick: at a place in every piece, within every overlap, and on
    both sides of every edge that is seen."""
    if not regions:
        return Thickness(0.0, (0.0, 0.0), 0, 0.0, (), 0.0)
    made = [prepared(g) for g in regions]
    inner = shapely.get_coordinates(shapely.point_on_surface(shapely.get_parts(np.array(list(seen), dtype=object))))
    within = [j.at + (np.minimum(j.reach, 1.0) / 2)[:, None] * j.toward for j in joints]
    places = np.concatenate([inner, *within])

    def films_at(points: Array) -> np.ndarray:
        return np.array([shapely.contains_xy(g, points[:, 0], points[:, 1]) for g in made])

    there = films_at(places)
    each = np.asarray(thick_um)
    total = each @ there
    n = int(np.argmax(total))
    middles, outward = (np.concatenate([some[k] for some in rims]) for k in (0, 1))
    if len(middles) > MOST_EDGES:
        pick = np.linspace(0, len(middles) - 1, MOST_EDGES).astype(int)
        middles, outward = middles[pick], outward[pick]
    inside, outside = (each @ films_at(middles + side * BESIDE_MM * outward) for side in (-1, 1))
    step = np.abs(inside - outside)
    catches = middles[step >= CATCHES_UM]
    hidden = float(sum(g.area for g in regions) - sum(g.area for g in seen))
    return Thickness(
        float(total[n]),
        (float(places[n, 0]), float(places[n, 1])),
        int(there[:, n].sum()),
        float(step.max(initial=0.0)),
        tuple((float(x), float(y)) for x, y in catches[:MOST_PLACES]),
        max(hidden, 0.0),
        float(each.max()),
    )


def thickness_verdict(found: Thickness, stacked: bool) -> list[Verdict]:
    """What is said of the pile's height, and of edges that catch."""
    if found.films < 1:
        return []
    # Knocked out, two films still lie on each other where they overlap.
    helps = stacked and 2 * found.thickest_um < CATCHES_UM
    of = f"where {found.films} films lie on each other" if found.films > 1 else "one film high"
    said = f"The pile is {{value}} thick, {of}; {{hidden}} of film lie hidden in it"
    level = "look" if found.edges else "ok"
    if found.edges:
        said += ", and an edge of {edge} catches a nail ({limit} does)"
    return [
        Verdict(
            "layers.pile",
            "layers",
            "look" if level == "look" else "ok",
            found.highest_um / 1000,
            CATCHES_UM / 1000,
            "mm",
            f"{said}.",
            "Knock the films out of each other, so that fewer lie at the edge."
            if helps
            else "Press its edge down well, keep it from where fingers take hold, or take thinner film.",
            {"edge": (found.edge_um / 1000, "mm"), "hidden": (found.hidden_mm2, "mm²")},
            field="layers.joint",
            fix="knocked_out" if helps and found.edges else None,
            places=found.edges or (found.at,),
        )
    ]
