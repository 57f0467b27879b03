"""The order of films against trying all there are, and what is seen from above of every pile."""

from __future__ import annotations

import itertools
import time

import numpy as np
import pytest
import shapely
from many_coloured import JOINTS, PLACES, off_from_above, sample
from samples import cup, element, svg
from wimple_core.artwork import ColourRegion, Paint, separate
from wimple_core.errors import WimpleError
from wimple_core.job import load_job
from wimple_core.layers.order import Lying, fewest, laid_out, lying, pile, woven
from wimple_core.pipeline import build_whole as build

RNG = np.random.default_rng(12)


def wrong(over: np.ndarray, order: tuple[int, ...] | list[int]) -> float:
    """How much lies the wrong way: of each film what is to lie on those that come after it."""
    return float(sum(over[a, b] for n, a in enumerate(order) for b in order[n + 1 :]))


@pytest.mark.parametrize("films", [2, 3, 4, 5, 6])
def test_no_order_of_all_there_are_has_less_lying_the_wrong_way(films: int) -> None:
    for _ in range(25):
        over = RNG.random((films, films)) * (RNG.random((films, films)) < RNG.choice([0.2, 0.4, 0.7]))
        np.fill_diagonal(over, 0)
        best = min(wrong(over, p) for p in itertools.permutations(range(films)))
        found = pile(over, list(range(films)))
        assert sorted(found) == list(range(films)) and wrong(over, found) == pytest.approx(best, abs=1e-12)


def drawn_at_random(films: int, paints: int) -> tuple[ColourRegion, ...]:
    """Bars over each other, in few colours."""
    some = []
    for n in range(paints):
        x, y, (w, h) = RNG.uniform(0, 60), RNG.uniform(0, 60), RNG.uniform(5, 40, 2)
        some.append(Paint(shapely.box(x, y, x + w, y + h), f"#{n % films:06d}", str(n)))
    return separate(tuple(some))


def all_lie_right(found: Lying, layers: list[tuple[int, np.ndarray]]) -> bool:
    """Is each piece in one layer of its colour, above all that it lies on?"""
    at = np.full(len(found.pieces), -1)
    for n, (colour, some) in enumerate(layers):
        assert (at[some] == -1).all() and (found.colour[some] == colour).all()
        at[some] = n
    sound = ~woven(found)
    lower, upper = (some[sound] for some in found.pairs)
    return bool((at >= 0).all() and (at[lower] < at[upper]).all())


@pytest.mark.parametrize("films", [2, 3, 4, 5, 6])
def test_no_shorter_pile_shows_a_drawing_whole(films: int) -> None:
    """Against every pile of one layer fewer, colour by colour."""
    parted = 0
    for _ in range(12 if films < 6 else 3):
        colours = drawn_at_random(films, films + int(RNG.integers(1, 4)))
        found, count = lying(colours), len(colours)
        layers = fewest(found, list(range(count)))
        assert all_lie_right(found, layers)
        parted += len(layers) > count
        if len(layers) > count:
            for steps in itertools.product(range(count), repeat=len(layers) - 1):
                if set(steps) == set(range(count)):
                    assert not all_lie_right(found, laid_out(found, steps)), steps
    assert parted, "none of them had to be parted"


def test_twelve_films_and_thousands_of_pieces_are_ordered() -> None:
    """A stack of twelve whose one order is known, among three thousand pieces; and bad input: fifty colours in a
    circle."""
    paints = [Paint(shapely.box(n, n, 100 - n, 100 - n), f"#{(7 * n) % 12:06d}") for n in range(12)]
    dots = [
        Paint(shapely.Point(15 + i % 60, 15 + i // 60).buffer(0.3), f"#{(7 * (i % 12)) % 12:06d}") for i in range(3000)
    ]
    colours = separate(tuple(paints))
    found = lying(colours)
    steps = pile(found.over, [0.0] * 12)
    assert [colours[n].colour for n in steps] == [p.colour for p in paints]
    many = lying(separate((*paints, *dots)))
    began = time.monotonic()
    layers = fewest(many, list(range(12)))
    assert all_lie_right(many, layers) and len(layers) == 23, "the dots of all but the uppermost lie on it"
    assert time.monotonic() - began < 5
    ring = np.zeros((50, 50))
    ring[np.arange(50), (np.arange(50) + 1) % 50] = 1.0
    assert wrong(ring, pile(ring, list(range(50)))) == 1.0


WOVEN = {
    "a.svg": svg(
        '<rect x="10" y="40" width="80" height="10" fill="#1c3d7a"/><rect x="20" y="20" width="10" height="60"'
        ' fill="#b98a2f"/><rect x="60" y="20" width="10" height="60" fill="#b98a2f"/>'
        '<circle cx="65" cy="45" r="4" fill="#1c3d7a"/>'
    )
}


def woven_job(**layers: object):  # type: ignore[no-untyped-def]
    return load_job({**cup(), "elements": [element("a.svg", {"width_mm": 60, "up_mm": 45})], "layers": layers})


def test_films_that_lie_on_each_other_both_ways_are_said_and_parted() -> None:
    """Gold on midnight in two places, midnight on gold in one: cut as two layers, midnight shows it whole."""
    b = build(woven_job(), WOVEN, "layers")
    (said,) = [v for v in b.verdicts if v.code == "layers.order"]
    assert "one film of each cannot lie both ways" in said.sentence() and len(said.places) == 1
    assert said.fixes["layers.order"] == ["#1c3d7a", "#b98a2f", "#1c3d7a"]
    parted = build(woven_job(order=said.fixes["layers.order"]), WOVEN, "layers")
    assert [la.name for la in parted.layers.layers] == ["lower midnight", "gold", "upper midnight"]  # type: ignore[union-attr]
    low, gold, high = (la.region for la in parted.layers.layers)  # type: ignore[union-attr]
    assert len(shapely.get_parts(high)) == 1 and len(shapely.get_parts(low)) == 1, "whole beneath"
    assert gold.covers(high.buffer(-0.01)) and shapely.intersection(low, gold).area == pytest.approx(
        2 * 7.5 * 7.5, rel=0.06
    )
    assert not [v for v in parted.verdicts if v.code == "layers.order"]


@pytest.mark.parametrize("n", range(12))
def test_seen_from_above_every_pile_is_the_artwork(n: int) -> None:
    """Of many-coloured drawings nobody here made, stacked, knocked out and edge to edge, on a panel, a cylinder and a
    taper: what shows of each colour is what was drawn, to a thousandth of its area."""
    for name, data in list(sample(24, seed=20261127))[2 * n : 2 * n + 2]:
        for place in (PLACES[0], PLACES[1], PLACES[2 + n % 3]):
            for joint in JOINTS:
                try:
                    off = off_from_above(data, place, joint)
                except WimpleError:
                    continue
                assert off < 0.001, (name, joint, place[0])


def test_each_two_colours_meet_as_was_chosen_for_them() -> None:
    """Gold edge to edge with midnight, cream beneath it; what is not chosen is as all is."""
    three = {
        "a.svg": svg(
            '<rect width="100" height="40" fill="#1c3d7a"/><circle cx="25" cy="20" r="10" fill="#b98a2f"/>'
            '<circle cx="75" cy="20" r="10" fill="#efe6c8"/>'
        )
    }
    meetings = [
        {"colours": ["#b98a2f", "#1c3d7a"], "joint": "butted"},
        {"colours": ["#1c3d7a", "#efe6c8"], "joint": "knocked_out", "under": "#1c3d7a"},
    ]
    b = build(woven_job(meetings=meetings, overlap_mm=0.5), three, "layers")
    by = {la.colour: la for la in b.layers.layers}  # type: ignore[union-attr]
    order = [la.colour for la in b.layers.layers]  # type: ignore[union-attr]
    assert order.index("#1c3d7a") < order.index("#efe6c8")
    sky, gold, cream = (by[c].region for c in ("#1c3d7a", "#b98a2f", "#efe6c8"))
    assert shapely.intersection(sky, gold).area < 1e-3
    r = np.sqrt(cream.area / np.pi)
    assert shapely.intersection(sky, cream).area == pytest.approx(np.pi * (r**2 - (r - 0.5) ** 2), rel=0.02)
    turned = build(woven_job(meetings=[{**meetings[1], "under": "#efe6c8"}], joint="stacked"), three, "layers")
    order = [la.colour for la in turned.layers.layers]  # type: ignore[union-attr]
    assert order.index("#efe6c8") < order.index("#1c3d7a")
    assert {(m.lower, m.upper): m.joint for m in turned.layers.meets} == {(0, 1): "knocked_out", (1, 2): "stacked"}  # type: ignore[union-attr]


@pytest.mark.parametrize("bad", [["#b98a2f", "#b98a2f"], ["#b98a2f", "#1c3d7a"]])
def test_a_meeting_that_cannot_be_is_refused(bad: list[str]) -> None:
    with pytest.raises(WimpleError) as found:
        woven_job(meetings=[{"colours": bad, "under": "#000000"}])
    assert "meetings" in found.value.faults[0].field


RING = {
    "a.svg": svg(
        '<path d="M50 10A40 40 0 1 1 49.99 10zM50 30A20 20 0 1 0 50.01 30z" fill-rule="evenodd" fill="#1c3d7a"/>'
        '<circle cx="50" cy="50" r="8" fill="#b98a2f"/>'
    )
}


@pytest.mark.parametrize("holes", ["clear", "filled", "auto"])
def test_a_base_lies_under_all_and_holes_stay_clear_on_clear_blanks(holes: str) -> None:
    """A ring with a disc in it: the base is larger by its outline, and the gap between them stays clear or not. By
    circles: of R the ring's outer radius, R / 2 its inner one, R / 5 the disc's."""
    for behind in (None, "#334455"):
        raw = {
            "blank": {**PLACES[0][1], "behind": behind},
            "elements": [element("a.svg", {"width_mm": 60, "up_mm": 150})],
            "layers": {"base": {"outline_mm": 2.5, "colour": "#ffffff", "holes": holes}},
        }
        b = build(load_job(raw), RING, "layers")
        base, *above = b.layers.layers  # type: ignore[union-attr]
        assert base.colour == "#ffffff" and b.layers.under == 1 and len(above) == 2  # type: ignore[union-attr]
        r = 30.0
        clear = holes == "clear" or (holes == "auto" and behind is not None)
        gap = np.pi * ((r / 2) ** 2 - (r / 5) ** 2)
        assert base.region.area == pytest.approx(np.pi * (r + 2.5) ** 2 - clear * gap, rel=2e-3)
        (said,) = [v for v in b.verdicts if v.code == "layers.base"]
        assert ("stays clear" in said.sentence()) is clear
        white = {"a.svg": RING["a.svg"].replace(b"#b98a2f", b"#ffffff")}
        one = build(load_job(raw), white, "layers").layers
        assert one and [la.colour for la in one.layers] == ["#ffffff", "#1c3d7a"], "one film of one colour"


def test_what_was_said_of_two_colours_holds_in_an_order_by_hand() -> None:
    """Dragged on top, and then said to lie beneath: it does."""
    order = ["#b98a2f", "#1c3d7a"]
    plain = build(woven_job(order=order), RING, "layers").layers
    said = [{"colours": order, "under": "#1c3d7a"}]
    turned = build(woven_job(order=order, meetings=said), RING, "layers").layers
    assert plain and [la.colour for la in plain.layers] == order
    assert turned and [la.colour for la in turned.layers] == order[::-1]


def test_fifty_colours_that_all_touch_are_built_and_said_to_be_too_many() -> None:
    """Bad input: a fan of fifty wedges about one point, each touching all others there, and each beside two."""
    turn = np.linspace(0, 2 * np.pi, 51)
    at = 50 + 49 * np.column_stack([np.cos(turn), np.sin(turn)])
    fan = "".join(
        f'<path d="M50 50L{x:.3f} {y:.3f}L{x1:.3f} {y1:.3f}z" fill="#{5 * n:02x}{255 - 5 * n:02x}80"/>'
        for n, ((x, y), (x1, y1)) in enumerate(itertools.pairwise(at))
    )
    b = build(woven_job(marks={"kind": "none"}), {"a.svg": svg(fan)}, "layers")
    assert b.layers and 45 <= len(b.layers.layers) <= 50
    assert [v.level for v in b.verdicts if v.code == "layers.count"] == ["stop"]
    above = shapely.Polygon()
    for la in reversed(b.layers.layers):
        assert la.region.is_valid
        above = shapely.union(above, la.region)
    assert above.area == pytest.approx(sum(c.seen.area for c in b.fit.colours), rel=1e-3)  # type: ignore[union-attr]
