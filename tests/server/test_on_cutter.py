"""Loads cut from Wimple on the simulated cutter: to the end, through faults, again in the same place, and refused."""

from __future__ import annotations

import socket
import socketserver
import threading
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from samples import board, element, svg
from server_api import Api
from wimple_core.cutting.simulated import Faults, Machine, Sheet
from wimple_core.cutting.simulated.program import Cutter
from wimple_core.job import load_job
from wimple_core.job.shipped import CUTTERS
from wimple_server.cutters import running
from wimple_server.cutters.models import OnCutter
from wimple_server.cutters.strokes import Passes
from wimple_server.jobs.models import Drawing, Job
from wimple_server.workshops.models import Workshop

STARS = svg(
    '<circle cx="20" cy="20" r="8" fill="#101010"/><path d="M40 10l20 4l-6 18z" fill="#101010"/>'
    '<rect x="70" y="8" width="20" height="20" fill="#101010"/>'
)


def on_free_ports(machine: Machine) -> Cutter:
    """The stand-in on two ports that follow each other."""
    for _ in range(50):
        with socket.socket() as tried:
            tried.bind(("127.0.0.1", 0))
            port = tried.getsockname()[1]
        try:
            return Cutter(machine, port)
        except OSError:
            continue
    raise RuntimeError("no two free ports")


@pytest.fixture()
def machine(settings: Any) -> Iterator[Machine]:
    made = Machine(0.25, force_gf=10.0)
    with on_free_ports(made) as cutter:
        settings.SIMULATED_CUTTER = f"127.0.0.1:{cutter.port}"
        yield made


@pytest.fixture()
def work(api: Api) -> Job:
    """Three shapes on a panel, cut on the stand-in, whose blade trails 0.25 mm."""
    workshop = Workshop.objects.get(name="Hill Decals")
    mat = CUTTERS["desktop-mat"].model_dump(mode="json") | {"simulated": True, "blade_offset_mm": 0.25}
    assert api("PUT", "/cutters", {"cutters": [mat], "blades": [BLADE]}).status_code == 200
    workshop.refresh_from_db()
    raw = {"blank": board(300, 300), "elements": [element("a.svg", {"width_mm": 90, "up_mm": 150})]}
    job = Job.start(workshop, load_job(raw))
    Drawing.keep(job, "a.svg", STARS)
    return job


BLADE = {"id": "b1", "name": "blade 1", "cutter": "desktop-mat", "before_m": 640}
RIGHT = {"force_gf": 80, "speed_mm_s": 120}


def begun(api: Api, job: Job) -> int:
    load = api.scene(job.pk, job.document, "sheets")["sheets"]["loads"][0]["digest"]
    answer = api("POST", f"/jobs/{job.pk}/cutting", {"load": load})
    assert answer.status_code == 201, answer.content
    assert answer.json()["stage"] == "loading" and "test it first" in answer.json()["advice"]["words"]
    return int(answer.json()["id"])


def after(api: Api, on: int, do: str, code: int = 200, **more: Any) -> dict[str, Any]:
    answer = api("POST", f"/cutting/{on}/next", {"do": do, **more})
    assert answer.status_code == code, answer.content
    said: dict[str, Any] = answer.json()
    return said


def test_a_load_is_cut_looked_at_unloaded_and_logged(api: Api, work: Job, machine: Machine) -> None:
    on = begun(api, work)
    assert after(api, on, "loaded")["stage"] == "ready" and machine.sheet == Sheet(70.0)
    cut = after(api, on, "cut", setting=RIGHT, blade="b1")
    assert cut["stage"] == "look" and cut["done"] == cut["passes"][0]["strokes"] == len(machine.strokes)
    assert machine.force_gf == 80 and machine.speed_mm_s == pytest.approx(120)
    # What it really cut is within a twentieth of a millimetre of what was wanted, and through.
    assert cut["found_in_all"] == len(machine.strokes) and cut["stray"] < 0.05
    assert all(70 <= depth <= 145 for _, _, depth in cut["found"])
    wanted = Passes.from_bytes(bytes(OnCutter.objects.get(pk=on).strokes)).targets[0]
    assert sum(np.hypot(*np.diff(p, axis=0).T).sum() for p in wanted) / 1000 == pytest.approx(
        sum(f[0] for f in cut["found"]) / 1000, rel=0.02
    )
    assert after(api, on, "unload", 422)["message"] == "Lift a corner of the last film first."
    assert after(api, on, "corner", corner="right")["stage"] == "cut"
    over = after(api, on, "unload", weeded="clean")
    assert over["stage"] == "over" and machine.sheet is None
    (entry,) = api("GET", "/cutters/log").json()
    assert entry["corner"] == "right" and entry["setting"]["force_gf"] == 80 and entry["blade_m"] == 640
    assert api("GET", "/cutters").json()["metres"]["b1"] == pytest.approx(640 + entry["metres"], abs=0.1)
    assert [c["load"] for c in api("GET", f"/jobs/{work.pk}/cuts").json()] == [over["load"]]
    # A second pass would not land in the same place now.
    assert "would not land in the same place" in after(api, on, "again", 422)["message"]
    assert api("GET", f"/jobs/{work.pk}/cutting").json() is None


def test_a_second_pass_lands_in_the_same_place(api: Api, work: Job, machine: Machine) -> None:
    on = begun(api, work)
    after(api, on, "loaded")
    after(api, on, "cut", setting={"force_gf": 50, "speed_mm_s": 100})
    assert not any(s.through for s in machine.strokes)
    first = len(machine.strokes)
    assert after(api, on, "corner", corner="not_through")["stage"] == "look"
    assert after(api, on, "again")["stage"] == "ready"
    twice = after(api, on, "cut", setting={"force_gf": 80, "speed_mm_s": 100})
    assert twice["passes"][0]["round"] == 2 and len(machine.strokes) == 2 * first
    for one, other in zip(machine.strokes[:first], machine.strokes[first:], strict=True):
        assert np.array_equal(one.wanted, other.wanted)


@pytest.mark.parametrize("after_bytes", [700, 1400, 2600])
def test_a_dropped_line_is_told_and_nothing_is_cut_twice(
    api: Api, work: Job, machine: Machine, after_bytes: int
) -> None:
    on = begun(api, work)
    after(api, on, "loaded")
    machine.faults = Faults(drop_after=after_bytes)
    broken = after(api, on, "cut", setting=RIGHT)
    assert broken["stage"] == "fault" and "lost" in broken["error"]["message"], broken
    whole = after(api, on, "cut")
    assert whole["stage"] == "look" and whole["done"] == whole["passes"][0]["strokes"]
    passes = Passes.from_bytes(bytes(OnCutter.objects.get(pk=on).strokes))
    length = sum(float(np.hypot(*np.diff(p, axis=0).T).sum()) for p in passes.pivots[0])
    cut = sum(float(np.hypot(*np.diff(s.wanted, axis=0).T).sum()) for s in machine.strokes)
    # What was on its way when the line broke may have been cut unseen: one part of 25 mm at most.
    assert length - 0.2 < cut < length + 25.5


def test_it_pauses_and_goes_on(api: Api, work: Job, machine: Machine, monkeypatch: pytest.MonkeyPatch) -> None:
    on = begun(api, work)
    after(api, on, "loaded")
    looked = [0]
    look = running._look

    def pausing(one: OnCutter, *more: Any) -> None:
        look(one, *more)
        looked[0] += 1
        if looked[0] == 3:
            OnCutter.objects.filter(pk=one.pk).update(wish="pause")

    monkeypatch.setattr(running, "_look", pausing)
    monkeypatch.setattr(running, "WRITE_EVERY_S", 0.0)
    paused = after(api, on, "cut", setting=RIGHT)
    assert paused["stage"] == "paused" and paused["done"] + paused["place"] > 0
    assert paused["done"] < paused["passes"][0]["strokes"]
    assert after(api, on, "cut")["stage"] == "look"
    assert sum(f[0] for f in api("GET", f"/cutting/{on}").json()["found"]) > 0


def test_what_was_cut_when_the_program_died_is_not_gone_on_with_unasked(api: Api, work: Job, machine: Machine) -> None:
    on = begun(api, work)
    after(api, on, "loaded")
    OnCutter.objects.filter(pk=on).update(stage="cutting", done=2)
    running.cut_on(on, tries=2)
    said = api("GET", f"/cutting/{on}").json()
    assert said["stage"] == "fault" and "ended in the midst" in said["error"]["message"] and not machine.strokes


def test_a_change_to_the_job_does_not_reach_a_load_on_the_machine(api: Api, work: Job, machine: Machine) -> None:
    on = begun(api, work)
    after(api, on, "loaded")
    kept = bytes(OnCutter.objects.get(pk=on).strokes)
    elements = work.document["elements"]
    smaller = {**elements[0], "placements": [{**elements[0]["placements"][0], "width_mm": 60}]}
    changed = {**work.document, "elements": [smaller]}
    assert api("PUT", f"/jobs/{work.pk}", {"revision": 1, "document": changed}).status_code == 200
    assert bytes(OnCutter.objects.get(pk=on).strokes) == kept
    assert after(api, on, "cut", setting=RIGHT)["stage"] == "look"
    after(api, on, "corner", corner="right")
    after(api, on, "unload")
    # It is in the log, and is none of the loads the job has now.
    assert len(api("GET", "/cutters/log").json()) == 1 and api("GET", f"/jobs/{work.pk}/cuts").json() == []


def test_a_machine_that_is_taken_gone_or_babbles(api: Api, work: Job, settings: Any, machine: Machine) -> None:
    on = begun(api, work)
    load = OnCutter.objects.get(pk=on).load
    busy = api("POST", f"/jobs/{work.pk}/cutting", {"load": load})
    assert busy.status_code == 422 and "is busy with" in busy.json()["message"]
    after(api, on, "loaded")
    there, settings.SIMULATED_CUTTER = settings.SIMULATED_CUTTER, "127.0.0.1:1"
    gone = after(api, on, "cut", setting=RIGHT)
    assert gone["stage"] == "fault" and "is not there" in gone["error"]["message"]

    class Babble(socketserver.BaseRequestHandler):
        def handle(self) -> None:
            while self.request.recv(4096):
                self.request.sendall(b"\x00\xffwhat\r")

    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Babble) as babbler:
        babbler.daemon_threads = True
        threading.Thread(target=babbler.serve_forever, daemon=True).start()
        settings.SIMULATED_CUTTER = f"127.0.0.1:{babbler.server_address[1]}"
        said = after(api, on, "cut")
        assert said["stage"] == "fault" and "makes no sense" in said["error"]["message"]
        babbler.shutdown()
    settings.SIMULATED_CUTTER = there
    assert after(api, on, "cut")["stage"] == "look"
    assert "Nothing is being cut" in after(api, on, "pause", 422)["message"]


@pytest.mark.parametrize(
    ("setting", "words"),
    [
        ({"force_gf": 0}, "It must be more than 0 gf."),
        ({"force_gf": 1e9}, "It must be at most 5000 gf."),
        ({"force_gf": "abc"}, "“abc” is not a number."),
        ({"force_gf": "80 mm"}, "“80 mm” is not a number."),
        ({"force_gf": 80, "speed_mm_s": "fast"}, "“fast” is not a number."),
        ({"speed_mm_s": 80}, "No force is given."),
        ({"on_scale": 4}, "no scale of its own"),
    ],
)
def test_a_setting_the_machine_does_not_take(
    api: Api, work: Job, machine: Machine, setting: dict[str, Any], words: str
) -> None:
    on = begun(api, work)
    after(api, on, "loaded")
    said = after(api, on, "cut", 422, setting=setting)["faults"]
    assert words in str(said)
    # It is said at the field that the maker typed it in.
    assert {f["field"] for f in said} <= {f"setting.{name}" for name in setting} | {"setting"}, said
    assert api("GET", f"/cutting/{on}").json()["stage"] == "ready" and not machine.strokes


def test_a_machine_with_a_scale_of_its_own_is_told_what_it_is_set_to(api: Api, work: Job, machine: Machine) -> None:
    (now,) = [c for c in api("GET", "/cutters").json()["cutters"] if c["id"] == "desktop-mat"]
    scaled = {**now, "scale": {"name": "wheel", "least": 1, "most": 9}}
    assert api("PUT", "/cutters", {"cutters": [scaled], "blades": []}).status_code == 200
    on = begun(api, work)
    after(api, on, "loaded")
    assert "Type what" in after(api, on, "cut", 422, setting={"speed_mm_s": 100})["hint"] and not machine.strokes
    assert "from 1 to 9, not to 12" in after(api, on, "cut", 422, setting={"on_scale": "12"})["message"]
    cut = after(api, on, "cut", setting={"on_scale": "4,5", "speed_mm_s": "100 mm/s"})
    assert cut["stage"] == "look" and cut["passes"][0]["setting"]["on_scale"] == 4.5
    assert after(api, on, "set", 422, setting={"on_scale": 5})["message"] == "It is set before it is cut."


def test_a_test_row_is_cut_at_the_speed_of_the_cut(api: Api, work: Job, machine: Machine) -> None:
    on = begun(api, work)
    row = api("POST", f"/cutting/{on}/trial", {"force_gf": "80 gf", "speed_mm_s": "45"}).json()
    assert 80 in row["forces"] and machine.speed_mm_s == pytest.approx(45)
    refused = api("POST", f"/cutting/{on}/trial", {"force_gf": "much"})
    assert refused.status_code == 422 and refused.json()["message"] == "“much” is not a number."


def test_small_pieces_are_advised_lighter_and_slower(api: Api, work: Job, machine: Machine) -> None:
    usual = api("GET", f"/cutting/{begun(api, work)}").json()
    assert usual["passes"][0]["smallest_mm"] > 10 and "lighter and slower" not in usual["advice"]["words"]
    after(api, usual["id"], "stop")
    tiny = svg('<circle cx="50" cy="50" r="40" fill="#101010"/><circle cx="5" cy="5" r="1.2" fill="#101010"/>')
    Drawing.objects.filter(job=work).delete()
    Drawing.keep(work, "a.svg", tiny)
    small = api("GET", f"/cutting/{begun(api, work)}").json()
    assert small["passes"][0]["smallest_mm"] < 3 and "lighter and slower" in small["advice"]["words"]
    assert small["advice"]["speed_mm_s"] < usual["advice"]["speed_mm_s"]


def test_a_test_cut_in_a_row_of_forces(api: Api, work: Job, machine: Machine) -> None:
    on = begun(api, work)
    row = api("POST", f"/cutting/{on}/trial", {"force_gf": 80}).json()
    assert row["forces"] == [61, 70, 80, 90, 99]
    assert row["depths"] == pytest.approx([f / 0.9 for f in row["forces"]], rel=0.01)
    shown = ["not_through" if d < 70 else "right" for d in row["depths"]]
    told = api("POST", "/cutting/tapped", {"forces": row["forces"], "corners": shown}).json()
    assert told["force_gf"] == pytest.approx((70 + 99) / 2) and told["margin_gf"] > 0
    assert api("POST", "/cutting/tapped", {"forces": [1, 2], "corners": ["right"]}).status_code == 422


def test_nobody_elses_machine(api: Api, work: Job, machine: Machine, stranger: Api) -> None:
    on = begun(api, work)
    for method, path in (("GET", f"/cutting/{on}"), ("GET", f"/cutting/{on}/lines"), ("POST", f"/cutting/{on}/next")):
        assert stranger(method, path, {"do": "loaded"} if method == "POST" else None).status_code == 404
    assert stranger("POST", f"/jobs/{work.pk}/cutting", {"load": "x"}).status_code == 404
    assert stranger("GET", "/cutters/log").json() == [] and stranger("GET", "/cutters").json()["blades"] == []


@pytest.mark.parametrize(
    ("bad", "field", "words"),
    [
        ({"safe_width_mm": 400}, "cutters.0", "larger than"),
        ({"address": "not an address"}, "cutters.0.address", ""),
        ({"speed_mm_s": 0}, "cutters.0.speed_mm_s", ""),
        ({"scale": {"name": "wheel", "least": 5, "most": 5}}, "cutters.0.scale", "smaller one first"),
        ({"width_mm": "wide"}, "cutters.0.width_mm", "wide"),
    ],
)
def test_a_machine_badly_written_down(api: Api, bad: dict[str, Any], field: str, words: str) -> None:
    mat = CUTTERS["desktop-mat"].model_dump(mode="json")
    answer = api("PUT", "/cutters", {"cutters": [{**mat, **bad}]})
    assert answer.status_code == 422 and answer.json()["field"] == field, answer.content
    assert words in f"{answer.json()['message']} {answer.json()['hint']}"
    none = api("PUT", "/cutters", {"cutters": []})
    assert none.status_code == 422 and "no cutter left" in none.json()["message"]
