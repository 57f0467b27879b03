"""Piece work: each edit against areas and places that are known, and what stays what it was."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter
from samples import cup, element, svg
from shapely import affinity
from wimple_core.artwork import Paint, read_svg, separate
from wimple_core.artwork.edits import Applied, Stack, apply
from wimple_core.artwork.edits.around import offset, swept
from wimple_core.artwork.likeness import alike, shapes_of
from wimple_core.errors import BadDrawing, WimpleError
from wimple_core.job import load_job
from wimple_core.job.edits import Edit
from wimple_core.pipeline import build_whole
from wimple_core.views.bill import bill_view

EDIT: TypeAdapter[Any] = TypeAdapter(Edit)
BODY = (
    '<rect id="a" x="10" y="10" width="60" height="40" fill="#112233"/>'
    '<rect x="20" y="20" width="10" height="10" fill="#aa0000"/>'
    '<rect x="40" y="20" width="20" height="10" fill="#aa0000"/>'
    '<circle cx="85" cy="85" r="8" fill="#00aa00"/>'
)


def stack(body: str = BODY) -> Stack:
    art = read_svg(svg(body))
    return Stack(art.paints, separate(art.paints, art.tolerance), art.tolerance)


def named(s: Stack) -> dict[str, tuple[str, float]]:
    return {p.name: (p.colour, round(p.region.area, 3)) for p in s.pieces.values()}


def done(s: Stack, scale: float = 1.0, **edit: Any) -> Applied:
    return apply(s, EDIT.validate_python(edit), 0, scale)


def at(s: Stack, x: float, y: float) -> str:
    """The name of the piece at a place of the page, y down as it was drawn."""
    point = shapely.Point(x, 100 - y)
    return next(p.name for p in s.pieces.values() if p.region.contains(point))


def test_each_edit_makes_what_it_says() -> None:
    s = stack()
    small, wide, disc, ground = at(s, 25, 25), at(s, 50, 25), at(s, 85, 85), at(s, 12, 12)
    start = named(s)
    assert start[ground] == ("#112233", 60 * 40 - 300) and start[small][1] == 100 and start[wide][1] == 200

    out = done(s, kind="leave_out", pieces=[small])
    now = named(out.stack)
    assert now[ground][1] == 2400 - 200 and small not in now and [p.name for p in out.gone] == [small]
    assert now[wide] == start[wide] and now[disc] == start[disc]

    now = named(done(s, kind="give", pieces=[small, disc], colour="#0000ff").stack)
    assert now == {**start, small: ("#0000ff", 100.0), disc: ("#0000ff", start[disc][1])}

    # One with its ground: it lies in no piece of its own any more.
    now = named(done(s, kind="give", pieces=[small], colour="#112233").stack)
    assert now[ground][1] == 2200 and small not in now

    now = named(done(s, kind="join", pieces=[small, ground]).stack)
    assert now[small] == ("#aa0000", 2400.0) and len(now) == 2 and ground not in now

    gap = done(s, scale=2.0, kind="cut_out", pieces=[small], of=[ground], gap_mm=2).stack
    grown = 100 + 4 * 10 * 1 + math.pi
    assert named(gap)[ground][1] == pytest.approx(2400 - 200 - grown, abs=0.05) and named(gap)[small] == start[small]
    gone = done(s, kind="cut_out", pieces=[small], of=[ground], stay=False).stack
    assert named(gone)[ground] == start[ground] and small not in named(gone)

    both = stack(BODY + '<rect x="60" y="30" width="30" height="10" fill="#ffff00"/>')
    bar, under = at(both, 80, 35), at(both, 12, 12)
    now = named(done(both, kind="common", pieces=[under, bar]).stack)
    assert now[under] == ("#112233", 100.0) and bar not in now

    parted = done(s, kind="divide", pieces=[disc], start=[85, 0], end=[85, 5], gap_mm=0.5).stack
    halves = [p for p in parted.pieces.values() if p.colour == "#00aa00"]
    assert [p.name for p in halves] == [disc, f"{disc}:2"] or {p.name for p in halves} == {disc, f"{disc}:2"}
    half = start[disc][1] / 2 - 0.25 * 16
    assert [p.region.area for p in halves] == pytest.approx([half, half], abs=0.01)


def test_pieces_move_turn_mirror_align_and_spread() -> None:
    s = stack()
    small, wide, disc = at(s, 25, 25), at(s, 50, 25), at(s, 85, 85)
    box = {n: p.region.bounds for n, p in s.pieces.items()}

    def boxes(**edit: Any) -> dict[str, Any]:
        return {n: p.region.bounds for n, p in done(s, **edit).stack.pieces.items()}

    now = boxes(kind="move", pieces=[wide], across_mm=3, up_mm=-2)
    assert now[wide] == pytest.approx((43, 68, 63, 78)) and now[small] == pytest.approx(box[small])
    now = boxes(kind="move", pieces=[wide], turn_deg=90)
    assert now[wide] == pytest.approx((45, 65, 55, 85), abs=1e-4)
    # Together about their common middle (20 to 60): what lay left lies right.
    now = boxes(kind="move", pieces=[small, wide], mirrored=True)
    assert now[small][0] == pytest.approx(50) and now[wide][0] == pytest.approx(20)
    # Counter-clockwise is positive: what lay right of the middle is turned upward.
    now = boxes(kind="move", pieces=[small, wide], turn_deg=90)
    assert now[wide][1] > now[small][1]
    assert boxes(kind="align", pieces=[small, disc], at="left")[disc][0] == pytest.approx(20)
    assert boxes(kind="align", pieces=[small, disc], at="top")[disc][3] == pytest.approx(80)
    now = boxes(kind="align", pieces=[small, disc], at="concentric")[disc]
    assert ((now[0] + now[2]) / 2, (now[1] + now[3]) / 2) == pytest.approx((25, 75), abs=1e-3)
    now = boxes(kind="spread", pieces=[small, wide, disc], along="across")
    assert now[wide][0] - now[small][2] == pytest.approx(now[disc][0] - now[wide][2])
    assert now[small] == pytest.approx(box[small]) and now[disc][0] == pytest.approx(box[disc][0], abs=1e-4)


MICRONS = st.integers(0, 50_000).map(lambda n: n / 1000)


@settings(max_examples=60, deadline=None)
@given(points=st.lists(st.tuples(MICRONS, MICRONS), min_size=5, max_size=12), by=st.floats(0.2, 12))
def test_outlines_of_convex_shapes_by_steiner(points: list[tuple[float, float]], by: float) -> None:
    """Steiner: the area of a convex shape grown by d is A + P d + pi d^2, round; and it shrinks back to itself."""
    hull = shapely.convex_hull(shapely.MultiPoint(points))
    if hull.geom_type != "Polygon" or hull.area < 1:
        return
    grown = offset(hull, by, 0.001)
    assert grown.area == pytest.approx(hull.area + hull.length * by + math.pi * by**2, rel=2e-4, abs=0.003)
    assert offset(grown, -by, 0.001).symmetric_difference(hull).area < 0.02 * hull.length
    mitred = offset(hull, by, 0.001, "mitred")
    blunt = offset(hull, by, 0.001, "blunt")
    assert blunt.area < grown.area * (1 + 1e-9) and mitred.area >= grown.area * (1 - 1e-4)
    # Against the library with very many chords.
    assert grown.symmetric_difference(shapely.buffer(hull, by, quad_segs=400)).area < 0.002 * grown.length


def test_a_rim_round_a_rim_has_no_more_corners_each_time() -> None:
    """Thirty rims, each round the one before, are one as wide as all of them, with about as many corners."""
    once = start = stack(BODY).pieces[at(stack(), 85, 85)].region
    for _ in range(30):
        once = offset(once, 1.0, 0.01)
    whole = offset(start, 30.0, 0.01)
    assert once.area == pytest.approx(whole.area, rel=0.01)
    assert shapely.get_num_coordinates(once) < 4 * shapely.get_num_coordinates(whole)


def test_what_is_made_round_pieces() -> None:
    s = stack('<path fill-rule="evenodd" fill="#112233" d="M20 20h40v40h-40z M30 30h20v20h-20z"/>')
    (frame,) = s.pieces
    rim = named(done(s, scale=2.0, kind="outline", by_mm=4, corners="mitred", colour="#ffffff").stack)
    # Two of the drawing's mm wide: outside 44 x 44 less 40 x 40, inside 20 x 20 less 16 x 16.
    assert rim[frame] == ("#112233", 1200.0)
    assert sum(a for c, a in rim.values() if c == "#ffffff") == pytest.approx(44**2 - 40**2 + 20**2 - 16**2)
    full = named(done(s, kind="outline", by_mm=2, corners="mitred", filled=True, colour="#ffffff").stack)
    assert sum(a for c, a in full.values() if c == "#ffffff") == pytest.approx(44**2 - 40**2 + 400)
    inward = named(done(s, kind="outline", by_mm=-1, corners="mitred", colour="#ffffff").stack)
    assert inward["outline"] == ("#ffffff", 38**2 - 22**2) and frame in inward
    assert sum(a for c, a in inward.values() if c == "#112233") == pytest.approx(1200 - 960)
    drop = done(s, kind="shadow", across_mm=3, up_mm=-3, colour="#777777").stack
    shown = shapely.union_all([p.region for p in drop.pieces.values() if p.colour == "#777777"])
    whole = shapely.box(20, 40, 60, 80).difference(shapely.box(30, 50, 50, 70))
    assert shown.symmetric_difference(affinity.translate(whole, 3, -3).difference(whole)).area < 1e-3
    # A square of side a swept aslant by (d, d) covers a^2 + 2 a d.
    square = shapely.box(0, 0, 10, 10)
    assert swept(square, np.array([3.0, 3.0])).area == pytest.approx(100 + 60)
    assert swept(square, np.array([-3.0, 0.0])).area == pytest.approx(130)
    two = stack('<circle cx="30" cy="50" r="10" fill="#112233"/><circle cx="60" cy="50" r="10" fill="#112233"/>')
    ground = done(two, kind="background", shape="close", reach_mm=6, margin_mm=2, colour="#ffffff").stack
    assert len([p for p in ground.pieces.values() if p.colour == "#ffffff"]) == 1
    apart = done(two, kind="background", shape="close", reach_mm=1, margin_mm=2, colour="#ffffff").stack
    assert len([p for p in apart.pieces.values() if p.colour == "#ffffff"]) == 2
    hull = done(two, kind="background", shape="hull", margin_mm=0, colour="#ffffff").stack
    assert sum(p.region.area for p in hull.pieces.values()) == pytest.approx(math.pi * 100 + 600, rel=1e-3)


def test_bridges_hold_what_would_fall_out() -> None:
    """After them no piece has a hole, however it is turned, and what is taken is a strip above and one below."""
    s = stack('<path fill-rule="evenodd" fill="#112233" d="M20 20h40v60h-40z M30 30h20v10h-20z M30 60h20v10h-20z"/>')
    (eight,) = s.pieces
    for turn in (0.0, 90.0, 20.0):
        cut = done(s, kind="bridges", width_mm=2, turn_deg=turn).stack
        assert all(not p.region.interiors for p in cut.pieces.values())
        assert eight in cut.pieces
    cut = done(s, kind="bridges", width_mm=2).stack
    taken = s.pieces[eight].region.area - sum(p.region.area for p in cut.pieces.values())
    assert taken == pytest.approx(2 * (10 + 20 + 10), abs=1e-3)  # the bar between both is cut once


def test_edits_find_their_pieces_whatever_the_size_and_are_said_where_gone() -> None:
    def made(width: float, *edits: dict[str, Any]) -> Any:
        raw = {"blank": {"kind": "panel", "width": {"reads": "width", "readings": [400]},
                         "height": {"reads": "height", "readings": [300]}},
               "elements": [{**element("a.svg", {"width_mm": width, "up_mm": 150}), "edits": list(edits)}]}  # fmt: skip
        return build_whole(load_job(raw), {"a.svg": svg(BODY)}, "layers")

    s = stack()
    small, disc = at(s, 25, 25), at(s, 85, 85)
    edits = (
        {"kind": "leave_out", "pieces": [small]},
        {"kind": "give", "pieces": [disc], "colour": "#0000ff"},
        {"kind": "outline", "by_mm": 2, "colour": "#ffffff", "pieces": [disc]},
    )
    for width in (50, 222.2):
        b = made(width, *edits)
        scale = width / 83
        by = {c.colour: c for c in b.fit.colours}
        # What it is wide stays what was drawn, though a rim stands beyond it.
        assert b.fit.drawings[0].width == width
        assert by["#112233"].seen.area == pytest.approx(2200 * scale**2, rel=1e-3)
        r = 8 * scale
        assert by["#ffffff"].seen.area == pytest.approx(math.pi * ((r + 2) ** 2 - r**2), rel=2e-3)
        (count,) = [v for v in b.verdicts if v.code == "artwork.pieces"]
        assert count.level == "ok" and "4 pieces" in count.sentence() and "1 left out" in count.sentence()
    late = made(50, {"kind": "give", "pieces": ["99", disc], "colour": "#0000ff"})
    (said,) = [v for v in late.verdicts if v.code == "artwork.lost_piece"]
    assert "99" in said.sentence() and said.field == "elements.0.edits.0"
    # A piece that lies partly beneath a rim upon its neighbour is in two films.
    ground = at(s, 12, 12)
    hidden = made(83, {"kind": "common", "pieces": [small, disc]})
    (count,) = [v for v in hidden.verdicts if v.code == "artwork.pieces"]
    assert count.level == "look" and small in count.sentence() and disc in count.sentence()
    assert ground not in count.sentence().split("(")[1]


def test_a_group_is_moved_as_one_until_a_piece_goes_to_another() -> None:
    some = [(0, 0, 10), (30, 2, 5), (37, 20, 6), (60, 40, 4), (90, 7, 10)]
    body = "".join(
        f'<rect x="{x}" y="{y}" width="{w}" height="5" fill="#0000{n}0"/>' for n, (x, y, w) in enumerate(some)
    )
    s = stack(body)
    a, b, c, d, e = (at(s, x, y) for x, y in [(5, 3), (32, 4), (40, 22), (62, 42), (95, 9)])
    box = {n: p.region.bounds for n, p in s.pieces.items()}
    kept = done(s, kind="group", pieces=[b, c]).stack
    assert kept.groups == (frozenset({b, c}),) and kept.pieces == s.pieces

    def left(s: Stack, **edit: Any) -> dict[str, float]:
        return {n: p.region.bounds[0] for n, p in done(s, **edit).stack.pieces.items()}

    now = left(kept, kind="align", pieces=[a, b, c], at="left")
    assert (now[a], now[b], now[c]) == pytest.approx((0, 0, 7))
    now = left(s, kind="align", pieces=[a, b, c], at="left")
    assert (now[b], now[c]) == pytest.approx((0, 0))
    # 10 + 13 + 4 + 10 of 100 are pieces: three gaps of 21 between four units.
    now = left(kept, kind="spread", pieces=[a, b, c, d, e], along="across")
    assert [now[n] for n in (a, b, c, d, e)] == pytest.approx([0, 31, 38, 65, 90])
    # All of it lies left of where it was in one box: the concentric ones keep their distance.
    round_ = done(kept, kind="align", pieces=[a, b, c], at="concentric").stack.pieces
    apart = np.subtract(box[c], box[b])
    assert np.subtract(round_[c].region.bounds, round_[b].region.bounds) == pytest.approx(apart)
    other = done(kept, kind="group", pieces=[c, d]).stack
    assert other.groups == (frozenset({c, d}),)


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        ({"kind": "outline", "corners": "x"}, "corners"),
        ({"kind": "outline", "by_mm": "far"}, "by_mm"),
        ({"kind": "give", "pieces": ["1"], "colour": "red"}, "colour"),
        ({"kind": "move", "pieces": []}, "pieces"),
        ({"kind": "divide", "pieces": ["1"], "start": [3, 3], "end": [3, 3]}, ""),
        ({"kind": "join"}, "pieces"),
        ({"kind": "fold"}, ""),
        ({}, ""),
        ({"kind": "join", "pieces": ["1"], "glue": 3}, "glue"),
    ],
)
def test_faults_of_edits_stand_at_their_fields(edit: dict[str, Any], field: str) -> None:
    with pytest.raises(WimpleError) as bad:
        load_job({**cup(), "elements": [{**element("a.svg"), "edits": [edit]}]})
    assert bad.value.field == f"elements.0.edits.0.{field}".rstrip(".") and bad.value.hint
    assert "zone" not in bad.value.message


def test_taking_everything_out_is_refused() -> None:
    s = stack('<rect x="10" y="10" width="5" height="5" fill="#112233"/>')
    with pytest.raises(BadDrawing) as bad:
        done(s, kind="leave_out", pieces=list(s.pieces))
    assert bad.value.field == "edits.0"


def test_thousands_of_pieces_are_worked_on_at_once() -> None:
    """Two of three thousand squares left out of one lump, and the names of the others stay theirs."""
    body = "".join(f"M{x * 1.7:.2f} {y * 1.9:.2f}h1v1h-1z" for x in range(55) for y in range(52))
    s = stack(f'<path fill="#112233" d="{body}"/>')
    names = list(s.pieces)
    assert len(names) == 2860
    out = done(s, kind="leave_out", pieces=names[::2]).stack
    assert set(out.pieces) == set(names[1::2])
    assert all(out.pieces[n].region.equals_exact(s.pieces[n].region, 1e-3) for n in names[1::2])


def test_likeness_and_names_of_shapes() -> None:
    star = shapely.Polygon([(math.cos(a) * r, math.sin(a) * r) for a, r in
                            zip(np.linspace(0, 2 * math.pi, 11)[:-1], [5, 2] * 5, strict=True)])  # fmt: skip
    disc, ring = shapely.Point(0, 0).buffer(2), shapely.Point(0, 0).buffer(4).difference(shapely.Point(0, 0).buffer(3))
    bar = shapely.box(0, 0, 8, 2)
    some = [star, disc, ring, bar, shapely.box(0, 0, 3, 3)]
    every = np.array(
        [affinity.rotate(affinity.scale(g, k, k), t) for k, t in ((1, 0), (3, 20), (0.5, 77)) for g in some]
    )
    groups = alike(every).reshape(3, 5)
    assert (groups == groups[0]).all() and len(set(groups[0].tolist())) == 5
    assert shapes_of(every[:5]).tolist() == ["piece", "dot", "ring", "bar", "square"]
    assert shapes_of(every[:5], 2.0)[1] == "disc"


def test_the_bill_says_what_there_is() -> None:
    raw = {"blank": {"kind": "panel", "width": {"reads": "width", "readings": [400]},
                     "height": {"reads": "height", "readings": [300]}},
           "elements": [{**element("a.svg", {"width_mm": 166, "up_mm": 150})}]}  # fmt: skip
    b = build_whole(load_job(raw), {"a.svg": svg(BODY)}, "artwork")
    assert b.drawings is not None
    (bill,) = bill_view(b.job.elements, b.drawings, "mm")
    lines = {(line.colour, line.words): line for line in bill.lines}
    assert bill.scale == pytest.approx(2.0, rel=1e-3)
    disc, bars = lines["#00aa00", "disc"], lines["#aa0000", "bar"]
    assert (disc.count, disc.sizes) == (1, "32.0 mm") and bars.count == 1 and lines["#aa0000", "square"].count == 1
    assert bars.area == "8.0 cm²"
    ground = bill.names.index(at(stack(), 12, 12))
    assert [bill.within[n] for n in bars.pieces] == [ground] and bill.within[disc.pieces[0]] == -1
    assert sum(bill.area) == pytest.approx(4 * (2400 + math.pi * 64), rel=1e-3)


def test_documents_of_before_left_out_one_piece_an_edit() -> None:
    old = {"format": "wimple.job", "version": 2, **cup()}
    old["elements"] = [{"source": {"kind": "file", "file": "a.svg"}, "edits": [{"kind": "leave_out", "piece": "3"}]}]
    job = load_job(old)
    assert json.loads(job.model_dump_json())["elements"][0]["edits"] == [{"kind": "leave_out", "pieces": ["3"]}]
    assert job.version == 3 and Paint


def test_contours_for_the_screen_belong_to_their_pieces() -> None:
    """Also of a piece that falls into several where it is thinned: a dumbbell on a hair."""
    from wimple_core.views.drawn import rings_by_part

    hair = shapely.union_all([shapely.box(0, 0, 5, 5), shapely.box(5, 2.499, 25, 2.5), shapely.box(25, 0, 30, 5)])
    ring = shapely.box(40, 0, 60, 20).difference(shapely.box(45, 5, 55, 15))
    rings, of = rings_by_part(shapely.multipolygons([hair, ring]))
    assert len(rings) == len(of) and of.count(1) == 2 and of.count(0) >= 1
    box = [min(min(r[::2]) for r, n in zip(rings, of, strict=True) if n == 0),
           max(max(r[::2]) for r, n in zip(rings, of, strict=True) if n == 0)]  # fmt: skip
    assert box == [0, 30]
