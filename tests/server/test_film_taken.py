"""The stock of a workshop over HTTP: film written down, taken by loads that are cut, and put back."""

from __future__ import annotations

from typing import Any

import pytest
from samples import drawing
from server_api import Api
from wimple_core.job import load_job
from wimple_server.cutters.keeping import tables_of
from wimple_server.jobs.models import Drawing, Job

ROLL = {"film": "calendered-gloss", "name": "midnight", "form": "roll", "width_mm": "305 mm", "length_mm": 2000}


@pytest.fixture()
def batch(job: Job) -> Job:
    """Five of the job, so that two loads differ."""
    document = {**job.document, "quantity": 5}
    made = Job.start(job.workshop, load_job(document))
    for name in load_job(document).drawings:
        Drawing.keep(made, name, drawing(name))
    return made


def loads(api: Api, job: Job) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = api.scene(job.pk, job.document, "sheets")["sheets"]["loads"]
    return found


def left(api: Api, id: str) -> float | None:
    pieces = {p["piece"]["id"]: p["piece"] for f in api("GET", "/stock").json()["films"] for p in f["pieces"]}
    return pieces[id]["length_mm"] if id in pieces else None


def film_of(api: Api, job: Job) -> dict[str, Any]:
    """A roll of every film on the job's loads, by what the colours at hand call it."""
    layers = api.scene(job.pk, job.document, "layers")["layers"]["layers"]
    colours = [{"film": la["film"], "name": f"c{n}", "colour": la["film_colour"]} for n, la in enumerate(layers)]
    assert api("PUT", "/tables/colours", {"colours": colours}).status_code == 200
    for n, c in enumerate(colours):
        piece = {**ROLL, "id": f"roll-{n}", "film": c["film"], "name": c["name"]}
        assert api("POST", "/stock/pieces", {"piece": piece}).status_code == 201
    return {f"roll-{n}": c for n, c in enumerate(colours)}


def test_a_load_that_is_cut_takes_its_film_and_stays_as_it_was(api: Api, batch: Job) -> None:
    rolls = film_of(api, batch)
    before = loads(api, batch)
    assert before and all(load["taken"] for load in before)
    first = before[0]
    offer = api("POST", f"/jobs/{batch.pk}/cuts/offer", {"load": first["digest"]}).json()
    assert offer["missing"] == [] and "off the roll" in offer["off"][0]
    cut = api("POST", f"/jobs/{batch.pk}/cuts", {"load": first["digest"]})
    assert cut.status_code == 201, cut.content
    spent = {id for id in rolls if left(api, id) != 2000}
    assert spent == {t["piece"] for t in first["taken"]}
    # The next one is planned as it was, though there is less film now.
    assert [x["digest"] for x in loads(api, batch)] == [x["digest"] for x in before]
    assert loads(api, batch)[0]["taken"] == first["taken"]
    # As often as it is wanted, and no more.
    for _ in range(first["times"] - 1):
        assert api("POST", f"/jobs/{batch.pk}/cuts", {"load": first["digest"]}).status_code == 201
    again = api("POST", f"/jobs/{batch.pk}/cuts", {"load": first["digest"]})
    assert again.status_code == 422 and "was cut so often" in again.json()["message"]
    # However many of its loads were cut, the job is planned on the film as it was before all of them.
    for load in before[1:]:
        assert api("POST", f"/jobs/{batch.pk}/cuts", {"load": load["digest"]}).status_code == 201
    assert {p.length_mm for p in tables_of(Job.objects.get(pk=batch.pk)).stock} == {2000}
    for one in reversed(api("GET", f"/jobs/{batch.pk}/cuts").json()):
        assert api("DELETE", f"/jobs/{batch.pk}/cuts/{one['id']}").status_code == 204
    assert {left(api, id) for id in rolls} == {2000}


def test_a_remnant_is_kept_or_thrown_away(api: Api, batch: Job) -> None:
    rolls = film_of(api, batch)
    for id, c in rolls.items():
        wide = {**ROLL, "film": c["film"], "name": c["name"], "width_mm": 610, "bought_on": "2026-11-02"}
        assert api("PUT", f"/stock/pieces/{id}", {"piece": wide}).status_code == 200
    first = loads(api, batch)[0]
    path = f"/jobs/{batch.pk}/cuts"
    offered = api("POST", f"{path}/offer", {"load": first["digest"]}).json()["remnants"]
    assert offered
    cut = api("POST", path, {"load": first["digest"], "keep": [False] * len(offered)}).json()
    assert cut["remnants"] == [] and left(api, offered[0]["id"]) is None
    api("DELETE", f"{path}/{cut['id']}")
    kept = api("POST", path, {"load": first["digest"]}).json()
    assert kept["remnants"] and left(api, kept["remnants"][0]) is not None
    api("DELETE", f"{path}/{kept['id']}")
    assert left(api, kept["remnants"][0]) is None


def test_a_load_that_was_changed_or_has_no_film_is_not_marked(api: Api, batch: Job) -> None:
    rolls = film_of(api, batch)
    first = loads(api, batch)[0]
    lost = api("POST", f"/jobs/{batch.pk}/cuts", {"load": "0" * 24})
    assert lost.status_code == 422 and "it was changed since" in lost.json()["message"]
    for id, c in rolls.items():
        none = {**ROLL, "film": c["film"], "name": c["name"], "length_mm": 0}
        assert api("PUT", f"/stock/pieces/{id}", {"piece": none}).status_code == 200
    gone = api("POST", f"/jobs/{batch.pk}/cuts", {"load": loads(api, batch)[0]["digest"]})
    assert gone.status_code == 422 and "in stock" in gone.json()["message"], first


@pytest.mark.parametrize(
    ("bad", "field", "words"),
    [
        ({"width_mm": "wide"}, "width_mm", "“wide”"),
        ({"length_mm": -3}, "length_mm", "too small"),
        ({"form": "heap"}, "form", "roll"),
        ({"name": "nought"}, "", "no such colour"),
        ({"id": "../x"}, "id", ""),
        ({"outline": [[0, 0], [1, 1]]}, "", "remnant"),
        ({"length_mm": 1e9}, "length_mm", "too large"),
    ],
)
def test_film_badly_written_down_is_refused_in_words(api: Api, bad: dict[str, Any], field: str, words: str) -> None:
    answer = api("POST", "/stock/pieces", {"piece": {**ROLL, **bad}})
    assert answer.status_code == 422 and answer.json()["field"] == field, answer.content
    assert (
        words in f"{answer.json()['message']} {answer.json()['hint']}" and "Value error" not in answer.content.decode()
    )
    assert api("GET", "/stock").json()["films"] == []


def test_another_workshops_film_is_not_there(api: Api, job: Job, stranger: Api) -> None:
    assert api("POST", "/stock/pieces", {"piece": {**ROLL, "id": "mine"}}).status_code == 201
    taken = api("POST", "/stock/pieces", {"piece": {**ROLL, "id": "mine"}})
    assert taken.status_code == 422 and "have the id" in taken.json()["message"]
    assert stranger("GET", "/stock").json()["films"] == []
    assert stranger("DELETE", "/stock/pieces/mine").status_code == 404
    assert stranger("PUT", "/stock/pieces/mine", {"piece": ROLL}).status_code == 404
    for method, path in (("GET", ""), ("POST", "/offer"), ("POST", ""), ("DELETE", "/1")):
        assert stranger(method, f"/jobs/{job.pk}/cuts{path}", {"load": "x"}).status_code == 404
    assert left(api, "mine") == 2000
    assert api("DELETE", "/stock/pieces/none").status_code == 404
    # A colour of which there is film is not struck out.
    gone = api("PUT", "/tables/colours", {"colours": []})
    assert gone.status_code == 422 and "no such colour" in gone.json()["message"]
