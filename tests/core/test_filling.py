"""A region and what is added outside it, hole by hole, against the library's overlay of all at once."""

from typing import Any

import numpy as np
import pytest
import shapely
from shapely import affinity
from wimple_core import filling
from wimple_core.filling import with_added


def disc(x: float, y: float, r: float) -> Any:
    return shapely.Point(x, y).buffer(r, quad_segs=12)


def same(region: Any, added: list[Any]) -> Any:
    """The two joined, looked at beside the library's union."""
    got, wanted = with_added(region, added), shapely.union_all([region, *added], grid_size=1e-5)
    assert got.is_valid
    assert shapely.symmetric_difference(got, wanted).area < 1e-5 * (1 + wanted.length)
    assert len(shapely.get_parts(got)) == len(shapely.get_parts(wanted))
    rings = [len(shapely.get_rings(shapely.get_parts(g))) for g in (got, wanted)]
    assert rings[0] == rings[1]
    return got


GROUND = shapely.box(0, 0, 100, 60)
RING = disc(50, 30, 20) - disc(50, 30, 12)
ISLANDS = shapely.MultiPolygon([GROUND - disc(50, 30, 25), RING, disc(50, 30, 6)])


@pytest.mark.parametrize(
    ("region", "added"),
    [
        (GROUND - disc(20, 20, 8), [disc(20, 20, 8) - disc(20, 20, 7)]),
        (GROUND - disc(20, 20, 8), [disc(20, 20, 8)]),
        (GROUND - disc(20, 20, 8), [shapely.box(12, 18, 28, 22) & disc(20, 20, 8)]),
        (GROUND - disc(20, 20, 8), [disc(20, 20, 3)]),
        (GROUND - disc(20, 20, 8), [shapely.Polygon([(12, 20), (20, 18), (20, 22)])]),
        (GROUND - disc(20, 20, 8), [shapely.box(-3, 5, 0, 9), shapely.box(100, 0, 104, 60)]),
        (GROUND - disc(20, 20, 8), []),
        (ISLANDS, [disc(50, 30, 25) - disc(50, 30, 23)]),
        (ISLANDS, [disc(50, 30, 25) - disc(50, 30, 20)]),
        (ISLANDS, [disc(50, 30, 12) - disc(50, 30, 6)]),
        (ISLANDS, [shapely.box(44, 29, 100, 31) - ISLANDS]),
        (ISLANDS, [shapely.box(60, 20, 66, 40) - ISLANDS, disc(50, 30, 9) - disc(50, 30, 6)]),
        (shapely.MultiPolygon([GROUND, affinity.translate(GROUND, 110)]), [shapely.box(100, 10, 110, 20)]),
        (
            shapely.MultiPolygon([GROUND, affinity.translate(GROUND, 110)]),
            [shapely.box(100, 10, 110, 20), shapely.box(100, 40, 110, 50)],
        ),
    ],
)
def test_as_all_at_once(region: Any, added: list[Any]) -> None:
    same(region, added)


@pytest.mark.parametrize("seed", range(25))
def test_any_ground_with_holes_and_islands(seed: int) -> None:
    """Rings in rings thrown over one another, and what is thrown besides wherever the region is not."""
    rng = np.random.default_rng(seed)

    def thrown(n: int, large: float) -> Any:
        at, r = rng.uniform(0, 60, (n, 2)), rng.uniform(1.0, large, n)
        rings = [disc(x, y, a) - disc(x, y, a * rng.uniform(0.3, 0.8)) for (x, y), a in zip(at, r, strict=True)]
        return shapely.union_all(rings)

    region = thrown(14, 18)
    more = [shapely.difference(g, region) for g in shapely.get_parts(thrown(10, 9))]
    same(region, [g for g in more if not g.is_empty])


def test_hole_by_hole_is_the_way_taken(monkeypatch: Any) -> None:
    """Five hundred rimmed holes go through no overlay of all at once."""
    at = [(x, y) for x in range(2, 100, 4) for y in range(2, 58, 3)]
    holes = shapely.union_all([disc(x, y, 1.2) for x, y in at])
    rims = [disc(x, y, 1.2) - disc(x, y, 0.9) for x, y in at]
    ground = GROUND - holes
    monkeypatch.setattr(filling, "union", None)
    got = with_added(ground, rims)
    assert got.area == pytest.approx(ground.area + sum(r.area for r in rims)) and len(got.interiors) == len(at)
