"""A printed page cut from Wimple: found by its marks wherever the hand laid it, cut where the print is, and refused."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from samples import board, element, svg
from server_api import Api
from test_film_taken import ROLL
from test_on_cutter import BLADE, RIGHT, after, machine  # noqa: F401
from wimple_core.cutting.found_marks import Lie
from wimple_core.cutting.frame import on_machine
from wimple_core.cutting.simulated import Faults, Machine, Sheet
from wimple_core.job import load_job
from wimple_core.job.shipped import CUTTERS, Cutter
from wimple_core.pipeline import build_whole
from wimple_server.cutters.models import OnCutter
from wimple_server.cutters.strokes import Passes
from wimple_server.jobs.models import Drawing, Job
from wimple_server.workshops.models import Workshop

ART = svg('<path d="M0 30L40 0l50 20l-20 40z" fill="#e8822a"/><circle cx="45" cy="28" r="9" fill="#1c3d7a"/>')
RAW = {
    "blank": board(300, 300),
    "quantity": 2,
    "elements": [element("a.svg", {"width_mm": 90, "up_mm": 150}) | {"printed": {"film": "clear-printable"}}],
    "layers": {"marks": {"kind": "none"}},
}


def printed(api: Api, **more: Any) -> tuple[Job, Cutter]:
    workshop = Workshop.objects.get(name="Hill Decals")
    mat = CUTTERS["desktop-mat"].model_dump(mode="json") | {"simulated": True, "blade_offset_mm": 0.25} | more
    assert api("PUT", "/cutters", {"cutters": [mat], "blades": [BLADE]}).status_code == 200
    workshop.refresh_from_db()
    job = Job.start(workshop, load_job(RAW))
    Drawing.keep(job, "a.svg", ART)
    return job, workshop.load_tables().cutters[0]


def page_of(api: Api, job: Job) -> dict[str, Any]:
    sheets = api.scene(job.pk, job.document, "sheets")["sheets"]
    assert sheets["loads"] == []
    (page,) = sheets["pages"]
    return dict(page)


def laid_on(api: Api, job: Job) -> int:
    answer = api("POST", f"/jobs/{job.pk}/cutting", {"load": page_of(api, job)["load"]["digest"]})
    assert answer.status_code == 201, answer.content
    said = answer.json()
    assert said["printed"] and said["lie"] is None and said["passes"][0]["film"] == "clear-printable"
    return int(said["id"])


@pytest.mark.parametrize(
    "frame", [{}, {"origin": "lower_right"}, {"origin": "upper_left", "x_along_feed": True}, {"origin": "upper_right"}]
)
def test_a_page_is_cut_where_its_print_lies(api: Api, machine: Machine, frame: dict[str, Any]) -> None:  # noqa: F811
    job, cutter = printed(api, **frame)
    page = page_of(api, job)
    assert page["load"]["times"] == 2 and {ink["colour"] for ink in page["inks"]} == {"#e8822a", "#1c3d7a"}
    # The drawing stands on it as on the blank, 90 mm wide, marks and all around it.
    (patch,) = page["load"]["patches"]
    left, low, right, high = patch["box"]
    assert (left, low, right, high) == (0, 0, page["load"]["width"], page["load"]["height"]) and right > high > 90
    on = laid_on(api, job)
    assert after(api, on, "find", 422)["message"] == "It is not ready to be looked at."
    after(api, on, "loaded")
    assert after(api, on, "cut", 422, setting=RIGHT)["hint"] == "Look for them first."
    sheet = machine.sheet
    assert sheet is not None and sheet.film_um == 75 and sheet.lie is not None
    found = after(api, on, "find")["lie"]
    true = sheet.lie
    assert found["turn_deg"] == pytest.approx(math.degrees(true.turn), abs=0.05)
    assert found["percent"] == pytest.approx(100 * true.scale, abs=0.05)
    marks = np.array(OnCutter.objects.get(pk=on).page["marks"])  # type: ignore[index]
    moved = true.of(marks[:1]) - marks[:1]
    assert [found["right"], found["up"]] == pytest.approx(moved[0].tolist(), abs=0.06)
    cut = after(api, on, "cut", setting=RIGHT, blade="b1")
    assert cut["stage"] == "look" and cut["stray"] < 0.1
    # Against what is printed, worked out from the job itself: 0.05 for the page, and 0.05 for the blade.
    (load,) = build_whole(load_job(RAW), {"a.svg": ART}, tables=job.workshop.load_tables()).sheets.pages  # type: ignore[union-attr]
    assert load.face is not None
    # However the machine counts, its marks stand to the contour as they are printed.
    strokes = shapely.multilinestrings(Passes.from_bytes(bytes(OnCutter.objects.get(pk=on).strokes)).targets[0][1:])
    edge = shapely.boundary(load.face.contour)
    far = [shapely.distance(shapely.points(at), line) for at, line in ((marks, strokes), (load.face.marks, edge))]
    assert far[0] == pytest.approx(far[1], abs=0.05)
    wanted = shapely.boundary(
        shapely.transform(load.face.contour, lambda p: true.of(on_machine(p, cutter, load.reach)))
    )
    tips = shapely.points(np.concatenate([s.tip for s in machine.strokes[1:]]))
    assert shapely.distance(tips, wanted).max() < 0.1
    assert after(api, on, "corner", corner="right")["stage"] == "cut"
    # Printing took its film off the stock: cutting takes none.
    white = {"film": "clear-printable", "name": "white", "colour": "#ffffff"}
    assert api("PUT", "/tables/colours", {"colours": [white]}).status_code == 200
    roll = {**ROLL, "id": "roll-0", "film": "clear-printable", "name": "white"}
    assert api("POST", "/stock/pieces", {"piece": roll}).status_code == 201
    offer = api("POST", f"/jobs/{job.pk}/cuts/offer", {"load": page["load"]["digest"]}).json()
    assert offer["off"] == [] and offer["missing"] == [] and offer["remnants"] == []
    over = after(api, on, "unload", weeded="clean")
    assert over["stage"] == "over" and over["error"] is None
    job.workshop.refresh_from_db()
    assert [p.length_mm for p in job.workshop.load_tables().stock] == [ROLL["length_mm"]]
    assert [c["load"] for c in api("GET", f"/jobs/{job.pk}/cuts").json()] == [load.digest]
    assert api("GET", "/cutters/log").json()[0]["film"] == "clear-printable"


def test_a_page_that_is_not_found_is_not_cut(api: Api, machine: Machine) -> None:  # noqa: F811
    job, _ = printed(api)
    on = laid_on(api, job)
    after(api, on, "loaded")
    marks = np.array(OnCutter.objects.get(pk=on).page["marks"])  # type: ignore[index]

    def lies(lie: Lie) -> None:
        machine.load(Sheet(75.0, marks=tuple(map(tuple, lie.of(marks))), lie=lie))  # type: ignore[arg-type]

    machine.load(Sheet(75.0))
    assert "not where they should be" in after(api, on, "find", 422)["message"]
    lies(Lie((5.0, 5.0), 0.0, 0.94, 0.0))
    assert "at 94." in after(api, on, "find", 422)["message"]
    lies(Lie((-8.0, 3.0), 0.0, 1.0, 0.0))
    assert "mm too near the origin" in after(api, on, "find", 422)["message"]
    assert after(api, on, "cut", 422, setting=RIGHT)["hint"] == "Look for them first."
    lies(Lie((5.0, 5.0), 0.0, 1.0, 0.0))
    assert after(api, on, "find")["lie"]["right"] == pytest.approx(5, abs=0.05)
    # Laid anew and looked for again, the last look counts.
    lies(Lie((9.0, 2.0), 0.01, 1.0, 0.0))
    assert after(api, on, "find")["lie"]["turn_deg"] == pytest.approx(math.degrees(0.01), abs=0.02)
    assert after(api, on, "cut", setting=RIGHT)["stray"] < 0.1
    assert "not ready" in after(api, on, "find", 422)["message"]


def test_what_is_not_printed_has_no_marks_to_look_for(api: Api, machine: Machine) -> None:  # noqa: F811
    job, _ = printed(api)
    raw = RAW | {"elements": [element("a.svg", {"width_mm": 90, "up_mm": 150})]}
    job = Job.start(job.workshop, load_job(raw))
    Drawing.keep(job, "a.svg", ART)
    sheets = api.scene(job.pk, job.document, "sheets")["sheets"]
    assert sheets["pages"] == [] and sheets["loads"]
    on = api("POST", f"/jobs/{job.pk}/cutting", {"load": sheets["loads"][0]["digest"]}).json()["id"]
    after(api, on, "loaded")
    assert after(api, on, "find", 422)["message"] == "Nothing is printed on this load."


def test_a_page_on_no_film_of_the_shop_is_refused(api: Api) -> None:
    job, _ = printed(api)
    raw = RAW | {"elements": [element("a.svg", {"width_mm": 90, "up_mm": 150}) | {"printed": {"film": "tin"}}]}
    said = api.scene(job.pk, raw, "sheets")
    fault = said["stopped"]["fault"]
    assert fault["field"] == "elements.0.printed.film" and "tin" in fault["message"]


def test_a_page_that_broke_in_its_midst_goes_on_where_it_lay(api: Api, machine: Machine) -> None:  # noqa: F811
    job, _ = printed(api)
    on = laid_on(api, job)
    after(api, on, "loaded")
    lie = after(api, on, "find")["lie"]
    machine.faults = Faults(power_after_mm=60)
    broke = after(api, on, "cut", setting=RIGHT)
    assert broke["stage"] == "fault" and broke["done"] + broke["place"] > 0
    assert after(api, on, "find", 422)["message"] == "A part of it is cut: it lies where it was found."
    machine.power_on()
    whole = after(api, on, "cut")
    assert whole["stage"] == "look" and whole["lie"] == lie and whole["stray"] < 0.1
