"""Saving under pressure, and what is kept of history."""

from __future__ import annotations

import copy
import json
import threading

import pytest
from django.db import connections
from samples import cup, element, svg
from wimple_core.job import load_job
from wimple_server.errors import Conflict
from wimple_server.jobs import history
from wimple_server.jobs.building import write_ticket
from wimple_server.jobs.models import Drawing, Job
from wimple_server.workshops.models import Workshop


@pytest.mark.django_db(transaction=True)
def test_of_two_saves_from_one_revision_one_wins() -> None:
    job = Job.start(Workshop.objects.create(name="Hill"), load_job(cup()))
    outcomes: list[str] = []
    start = threading.Barrier(6)

    def save(n: int) -> None:
        start.wait()
        try:
            history.save(Job.objects.get(pk=job.pk), 1, load_job({**cup(), "title": f"hand {n}"}))
            outcomes.append("saved")
        except Conflict:
            outcomes.append("stale")
        finally:
            connections.close_all()

    hands = [threading.Thread(target=save, args=(n,)) for n in range(6)]
    for h in hands:
        h.start()
    for h in hands:
        h.join()
    assert sorted(outcomes) == ["saved"] + ["stale"] * 5
    job.refresh_from_db()
    assert job.revision == 2 and job.states.count() == 2


def test_history_is_long_but_has_an_end(plain: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(history, "MOST_STATES", 5)
    job = plain
    for n in range(12):
        job = history.save(job, job.revision, load_job({**cup(), "title": f"step {n}"}))
    assert job.states.count() == 5
    for _ in range(9):
        job = history.step(job, job.revision, back=True)
    assert job.document["title"] == "step 7" and not job.can_undo and job.can_redo
    job = history.save(job, job.revision, load_job({**cup(), "title": "another way"}))
    assert not job.can_redo


def test_undo_finds_its_drawing_again(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    file = api.upload(f"/jobs/{plain.pk}/drawings", "a.svg", svg('<rect width="40" height="20"/>')).json()["file"]
    at = api("GET", f"/jobs/{plain.pk}").json()
    at["document"]["elements"] = [element(file, {"width_mm": 40, "up_mm": 45})]
    at = api("PUT", f"/jobs/{plain.pk}", {"revision": at["revision"], "document": at["document"]}).json()
    bare = copy.deepcopy(at["document"])
    bare["elements"] = []
    at = api("PUT", f"/jobs/{plain.pk}", {"revision": at["revision"], "document": bare}).json()
    back = api("POST", f"/jobs/{plain.pk}/undo", {"revision": at["revision"]}).json()
    scene = api.scene(plain.pk, back["document"], "layers")
    assert scene["stopped"] is None and len(scene["layers"]["layers"]) == 1


def test_tickets_are_written_once_a_revision(api, job: Job, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    api.work("tickets")
    (first,) = api("GET", "/jobs").json()["tickets"]
    assert first["worst"] == "look" and first["paints"] and first["sentence"]
    monkeypatch.setattr("wimple_server.works.tasks.write_ticket", lambda *a: pytest.fail("written again"))
    assert api.work("tickets").json()["status"] == "done" and api("GET", "/jobs").json()["tickets"] == [first]


def test_a_ticket_of_a_job_that_cannot_be_measured(plain: Job) -> None:
    raw = cup(600.0, 100.0, 20.0)
    history.save(plain, 1, load_job(raw))
    write_ticket(Job.objects.select_related("workshop").get(pk=plain.pk))
    plain.refresh_from_db()
    assert json.loads(plain.ticket)["worst"] == "stop" and "no wall can join" in plain.sentence


def test_a_request_of_many_megabytes_is_refused_in_shape(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    huge = {"revision": 1, "document": {**plain.document, "note": "x" * 9_000_000}}
    answer = api("PUT", f"/jobs/{plain.pk}", huge)
    assert answer.status_code in (400, 413) and {"code", "message", "hint"} <= set(answer.json())
    deep = api.client.post(
        f"/api/jobs/{plain.pk}/build",
        "[" * 100_000,
        content_type="application/json",
        headers={"X-CSRFToken": api.token},
    )
    assert 400 <= deep.status_code < 500 and deep.json()["code"]


def test_scene_keeps_drawings_of_one_place_apart(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    """Two drawings over one another: the later lies on top, and the lower layer shows round it."""
    for name, colour in (("low.svg", "#1c3d7a"), ("high.svg", "#f2d22e")):
        Drawing.keep(plain, name, svg(f'<rect width="40" height="20" fill="{colour}"/>'))
    plain.document["elements"] = [
        element("low.svg", {"width_mm": 60, "up_mm": 45}),
        element("high.svg", {"width_mm": 20, "up_mm": 45}),
    ]
    scene = api.scene(plain.pk, plain.document, "layers")
    assert [la["colour"] for la in scene["layers"]["layers"]] == ["#1c3d7a", "#f2d22e"]
    assert [len(w["rings"]) for w in scene["worn"]] == [1, 1], "at the layers the films themselves, whole beneath"
    seen = api.scene(plain.pk, plain.document, "sheets")["worn"]
    assert [len(w["rings"]) for w in seen] == [2, 1], "else what is seen of them"
