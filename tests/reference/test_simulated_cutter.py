"""Cutting against the simulated cutter: what it really cut against what was wanted, and every way it fails."""

from __future__ import annotations

import json
import math
import socket
from typing import Any

import numpy as np
import pytest
import shapely
from shapely import affinity
from wimple_core.cuts import cuts_round
from wimple_core.cutting import ordered_paths, plotter_file
from wimple_core.cutting.plotter import in_units
from wimple_core.cutting.sending import AT_ONCE_MM, CutterFault, Done, cut
from wimple_core.cutting.simulated import Faults, Machine, Sheet
from wimple_core.cutting.simulated.machine import BUFFER_BYTES, PER_UM, Off
from wimple_core.cutting.simulated.program import Cutter

D = 0.3
TURNS = np.arange(10) * math.pi / 5
SPOKES = np.array([25, 10] * 5)[:, None]
STAR = shapely.Polygon(np.array([30.0, 40.0]) + SPOKES * np.column_stack([np.sin(TURNS), np.cos(TURNS)]))
RING = shapely.Point(90, 40).buffer(20, quad_segs=32).difference(shapely.Point(90, 40).buffer(12, quad_segs=32))
WORK = cuts_round(shapely.multipolygons([STAR, RING]))
WANTED = shapely.MultiLineString(
    [STAR.exterior.coords, RING.exterior.coords, RING.interiors[0].coords, [(0, 0), (6, 0)]]
)


class Direct:
    """A line straight into a machine."""

    def __init__(self, machine: Machine) -> None:
        self.machine, self.answers, self.sent = machine, b"", 0

    def send(self, data: bytes) -> None:
        assert len(data) <= BUFFER_BYTES
        self.sent += len(data)
        try:
            self.answers += self.machine.take(data)
        except Off as bad:
            raise ConnectionError(str(bad)) from bad

    def receive(self) -> bytes:
        if not self.answers:
            raise TimeoutError
        out, self.answers = self.answers, b""
        return out


def machine(**faults: Any) -> Machine:
    made = Machine(D, faults=Faults(**faults), force_gf=80.0)
    made.load(Sheet(70.0))
    return made


def strokes(offset: float = D) -> list[np.ndarray]:
    return [p.points for p in ordered_paths(WORK, 0.5, offset)]


def quiet(done: Done) -> None:
    pass


def stray(made: Machine) -> float:
    """How far off the wanted lines it cut, the stroke that turns the blade left out."""
    return max(s.stray(WANTED) for s in made.strokes[1:])


def reached(made: Machine) -> float:
    """How far at most a wanted place is from what was cut."""
    every = shapely.union_all([shapely.LineString(s.tip) for s in made.strokes])
    places = shapely.points(
        shapely.get_coordinates(shapely.segmentize(shapely.multilinestrings(list(WANTED.geoms)[:3]), 0.2))
    )
    return float(shapely.distance(places, every).max())  # fmt: skip


def test_compensated_it_cuts_the_drawing_within_a_twentieth_of_a_millimetre() -> None:
    made = machine()
    assert cut(Direct(made), strokes(), quiet) == Done(len(strokes()))
    assert stray(made) < 0.05 and reached(made) < 0.05
    assert all(s.through and not s.into_liner for s in made.strokes)


def test_uncompensated_it_rounds_every_corner() -> None:
    made = machine()
    cut(Direct(made), strokes(0.0), quiet)
    # The star's points turn by more than a right angle: the tip is left behind by the whole offset there.
    assert stray(made) == pytest.approx(D, abs=0.06)


def test_a_file_cuts_as_strokes_do() -> None:
    """The plotter file of the same work, poured in as there is room."""
    made, other = machine(), machine()
    text = plotter_file(ordered_paths(WORK, 0.5, D)).encode()
    for n in range(0, len(text), 200):
        made.take(text[n : n + 200])
    cut(Direct(other), strokes(), quiet)
    assert len(made.strokes) == len(other.strokes)
    for a, b in zip(made.strokes, other.strokes, strict=True):
        assert shapely.LineString(a.wanted).hausdorff_distance(shapely.LineString(b.wanted)) < 1e-9


def test_more_than_its_buffer_takes_is_lost_and_said() -> None:
    made = machine()
    made.take(b"IN;PA;")
    made.take(b"PD" + b"1" * (BUFFER_BYTES + 10))
    assert made.status & 32


def total(paths: list[np.ndarray]) -> float:
    return sum(float(np.hypot(*np.diff(in_units(p) / 40.0, axis=0).T).sum()) for p in paths)


@pytest.mark.parametrize("after", [3, 50, 333, 700, 1201, 2500, 4000, 5003])
def test_a_line_dropped_at_any_byte_is_taken_up_where_it_broke(after: int) -> None:
    made = machine(drop_after=after)
    with pytest.raises(CutterFault) as bad:
        cut(Direct(made), strokes(), quiet)
    done = bad.value.done  # type: ignore[attr-defined]
    assert cut(Direct(made), strokes(), quiet, done) == Done(len(strokes()))
    assert reached(made) < 0.05
    # Cut twice is at most what had not been confirmed.
    cut_mm = sum(float(np.hypot(*np.diff(s.wanted, axis=0).T).sum()) for s in made.strokes)
    assert cut_mm <= total(strokes()) + AT_ONCE_MM + 10.0


@pytest.mark.parametrize("after_mm", [1.0, 40.0, 123.4, 300.0])
def test_power_cut_in_mid_contour_goes_on_from_there(after_mm: float) -> None:
    made = machine(power_after_mm=after_mm)
    with pytest.raises(CutterFault) as bad:
        cut(Direct(made), strokes(), quiet)
    with pytest.raises(CutterFault):
        cut(Direct(made), strokes(), quiet, bad.value.done)  # type: ignore[attr-defined]
    made.power_on()
    cut(Direct(made), strokes(), quiet, bad.value.done)  # type: ignore[attr-defined]
    assert reached(made) < 0.3, "the blade points anywhere once the power was gone"


@pytest.mark.parametrize("after", [200, 1000, 3000])
def test_bytes_that_are_lost_are_noticed_before_anything_else_is_cut(after: int) -> None:
    made = machine(lose_after=after)
    told: list[Done] = []
    with pytest.raises(CutterFault) as bad:
        cut(Direct(made), strokes(), told.append)
    assert bad.value.hint and (not told or told[-1].strokes < len(strokes()))
    assert len(made.strokes) <= (told[-1].strokes if told else 0) + 1


def test_what_dies_dull_or_weak_is_not_through_and_an_offset_that_is_wrong_shows() -> None:
    dull, weak, wrong = machine(dull=0.5), machine(force=0.6), machine(offset_mm=0.3)
    for made in (dull, weak, wrong):
        cut(Direct(made), strokes(), quiet)
    assert not any(s.through for s in dull.strokes + weak.strokes)
    assert all(s.through for s in wrong.strokes) and stray(wrong) > 0.1
    assert weak.strokes[0].depth_um == pytest.approx(80 * 0.6 / PER_UM)
    deep = machine()
    deep.force_gf = 200.0
    cut(Direct(deep), strokes(), quiet)
    assert all(s.into_liner for s in deep.strokes)


def test_a_sheet_that_lies_askew_is_cut_askew_and_a_blade_wears() -> None:
    made = machine()
    made.load(Sheet(70.0, 1.0))
    cut(Direct(made), strokes(), quiet)
    askew = affinity.rotate(WANTED, -1.0, origin=(0, 0))
    assert stray(made) > 1.0 and max(s.stray(askew) for s in made.strokes[1:]) < 0.05
    worn = machine()
    worn.blade_m = 900.0
    assert worn.edge == pytest.approx(0.5) and worn.depth_um < 70


def test_nothing_is_cut_without_film_or_once_it_is_ended_by_hand() -> None:
    made = machine()
    made.unload()
    with pytest.raises(CutterFault, match="no film"):
        cut(Direct(made), strokes(), quiet)

    class Enough(Exception):
        pass

    def enough(done: Done) -> None:
        if done.strokes == 2:
            raise Enough

    other = machine()
    with pytest.raises(Enough):
        cut(Direct(other), strokes(), enough)
    assert len(other.strokes) == 2 and not other.status & 1


def hand(port: int, **wish: Any) -> dict[str, Any]:
    with socket.create_connection(("127.0.0.1", port), 5) as line, line.makefile("rwb") as both:
        both.write(json.dumps(wish).encode() + b"\n")
        both.flush()
        return dict(json.loads(both.readline()))


class Socket:
    def __init__(self, port: int) -> None:
        self.socket = socket.create_connection(("127.0.0.1", port), 5)

    def send(self, data: bytes) -> None:
        self.socket.sendall(data)

    def receive(self) -> bytes:
        return self.socket.recv(256)


def test_the_program_takes_a_load_over_its_port_and_shows_what_it_cut() -> None:
    with Cutter(Machine(D, force_gf=80.0)) as cutter:
        with pytest.raises(CutterFault, match="no film"):
            cut(Socket(cutter.port), strokes(), quiet)
        assert hand(cutter.hand_port, load={"film_um": 70})["status"] == 16
        cut(Socket(cutter.port), strokes(), quiet)
        seen = hand(cutter.hand_port, cut=True)
        assert len(seen["strokes"]) == len(strokes()) and all(s["through"] for s in seen["strokes"])
        tip = np.array(seen["strokes"][1]["tip"]).reshape(-1, 2)
        assert float(shapely.distance(shapely.points(tip), WANTED).max()) < 0.05
        assert "error" in hand(cutter.hand_port, faults={"nonsense": 1})
        assert hand(cutter.hand_port, faults={"drop_after": 10_000_000}, blade=True)["blade_m"] == 0


@pytest.mark.parametrize("said", [b"", b"hello\r", b"\x00" * 100, b"-\r", b"12"])
def test_what_is_no_cutter_is_said_to_be_none(said: bytes) -> None:
    class Rubbish:
        def __init__(self) -> None:
            self.left = [said]

        def send(self, data: bytes) -> None:
            pass

        def receive(self) -> bytes:
            return self.left.pop() if self.left else b""

    with pytest.raises(CutterFault) as bad:
        cut(Rubbish(), strokes(), quiet)
    assert bad.value.hint and bad.value.done == Done()  # type: ignore[attr-defined]
