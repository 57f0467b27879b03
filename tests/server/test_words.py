"""Words over HTTP: offered, set, laid, cut; and what is wrong with them is said at their own field."""

from __future__ import annotations

from typing import Any

import pytest
from server_api import Api
from wimple_core.job import load_job
from wimple_core.job.lettering import SHIPPED_FONTS
from wimple_core.job.makeable import MAKEABLE
from wimple_core.pipeline import remedies_of
from wimple_server.cutters.keeping import tables_of
from wimple_server.jobs.models import Job


def lettered(job: Job, **source: Any) -> dict[str, Any]:
    words = {"kind": "lettering", "text": "Wenna", **source}
    return {**job.document, "elements": [{"source": words, "placements": [{"up_mm": 45, "width_mm": 999}]}]}


@pytest.mark.parametrize("make", [m.id for m in MAKEABLE])
def test_what_can_be_made_is_offered_as_large_as_goes(api: Api, plain: Job, make: str) -> None:
    """Each lies within what is free, passes the whole street, and its measures are all there under their paths."""
    offered = api("POST", f"/jobs/{plain.pk}/make", {"make": make})
    assert offered.status_code == 200, offered.content
    found = offered.json()
    assert found["knocks_out"] == (make == "hole")
    element = {"source": found["source"], "placements": [found["placement"]]}
    scene = api.scene(plain.pk, {**plain.document, "elements": [element]}, "artwork")
    (placed,) = scene["placed"]
    assert scene["stopped"] is None
    assert placed["width"] == pytest.approx(found["placement"]["width_mm"], rel=0.03) or make in ("words", "tally")
    assert not [v for v in scene["verdicts"] if v["level"] == "stop"]
    assert not [v for v in scene["verdicts"] if v["code"] == "artwork.seam" and v["level"] != "ok"]
    (known,) = [m for m in api("GET", "/tables").json()["makes"] if m["id"] == make]
    for measure in known["measures"]:
        at = found["source"]
        for part in measure["path"].split("."):
            at = at[part]
        assert at is not None and measure["title"]
    assert all(f.startswith("elements.0.source.") for f in placed["sized_by"]) and placed["sized_by"]


def test_what_cannot_be_made_is_said(api: Api, plain: Job) -> None:
    bad = api("POST", f"/jobs/{plain.pk}/make", {"make": "rainbow"})
    assert bad.status_code == 422 and "ring_words" in bad.json()["hint"]
    assert {f["id"] for f in api("GET", "/tables").json()["fonts"]} == set(SHIPPED_FONTS)


def test_words_go_down_the_whole_street(api: Api, plain: Job) -> None:
    scene = api.scene(plain.pk, lettered(plain, font="pacifico", size_mm=14), "price")
    assert scene["stopped"] is None and scene["levels"]["price"] == "ok"
    larger = api.scene(plain.pk, lettered(plain, font="pacifico", size_mm=21), "artwork")["placed"][0]
    small = api.scene(plain.pk, lettered(plain, font="pacifico", size_mm=14), "artwork")["placed"][0]
    assert larger["width"] / small["width"] == pytest.approx(1.5, rel=0.01)  # whatever the placement's width says


def test_a_remedy_for_their_width_mends_their_size(api: Api, plain: Job) -> None:
    document = lettered(plain, text="VISITORS WELCOME", size_mm=11)
    verdicts = api.scene(plain.pk, document, "artwork")["verdicts"]
    (wide,) = [v for v in verdicts if v["code"] == "artwork.readable"]
    assert wide["level"] == "look" and wide["field"] == "elements.0.source.size_mm"
    found = remedies_of(load_job(document), {}, tables=tables_of(plain))
    (remedy,) = [r for r in found if r.of.code == "artwork.readable"]
    assert list(remedy.edits) == ["elements.0.source.size_mm"] and remedy.edits["elements.0.source.size_mm"] < 11
    document["elements"][0]["source"]["size_mm"] = remedy.edits["elements.0.source.size_mm"]
    (now,) = [v for v in api.scene(plain.pk, document, "artwork")["verdicts"] if v["code"] == "artwork.readable"]
    assert now["level"] == "ok"


def test_letters_that_are_not_there_are_a_stop_at_the_words(api: Api, plain: Job) -> None:
    scene = api.scene(plain.pk, lettered(plain, text="Wenna 星", font="heebo"), "artwork")
    (gone,) = [v for v in scene["verdicts"] if v["code"] == "artwork.letters"]
    assert gone["level"] == "stop" and gone["field"] == "elements.0.source.text" and "Heebo" in gone["sentence"]


def test_words_and_a_drawing_lie_beside_each_other(api: Api, job: Job) -> None:
    words = lettered(job)["elements"]
    both = {**job.document, "elements": [*job.document["elements"], *words]}
    assert api.scene(job.pk, both, "layers")["stopped"] is None
    scene = api.scene(job.pk, both, "artwork")
    assert [p["name"] for p in scene["placed"]] == ["moon-band.svg", "Wenna"]


@pytest.mark.parametrize(
    ("source", "field", "said"),
    [
        ({"text": ""}, "text", ""),
        ({"text": " \n "}, "text", "no words"),
        ({"text": "a\n" * 13}, "text", "lines"),
        ({"text": "bell\x07"}, "text", "cannot be drawn"),
        ({"size_mm": 0}, "size_mm", ""),
        ({"features": ["toolong"]}, "features.0", ""),
        ({"font": "x", "sizd": 3}, "sizd", "not part"),
    ],
)
def test_what_is_wrong_with_words_is_said_at_its_field(
    api: Api, plain: Job, source: dict[str, Any], field: str, said: str
) -> None:
    bad = api("POST", f"/jobs/{plain.pk}/build", {"document": lettered(plain, **source)})
    assert bad.status_code == 422 and bad.json()["faults"][0]["field"] == f"elements.0.source.{field}", bad.content
    assert said in bad.json()["message"] and bad.json()["hint"]


@pytest.mark.parametrize(
    ("source", "field", "said"),
    [
        ({"font": "teapot"}, "font", "teapot"),
        ({"text": "星"}, "text", "星"),
        (
            {"text": "a\nb\nc\nd\ne", "baseline": {"kind": "over", "radius_mm": 20}, "size_mm": 9},
            "baseline.radius_mm",
            "no room",
        ),
    ],
)
def test_words_that_cannot_be_set_stop_the_artwork_and_nothing_before_it(
    api: Api, plain: Job, source: dict[str, Any], field: str, said: str
) -> None:
    scene = api.scene(plain.pk, lettered(plain, **source), "artwork")
    assert scene["stopped"]["step"] == "artwork" and scene["template"]
    assert scene["stopped"]["fault"]["field"] == f"elements.0.source.{field}"
    assert said in scene["stopped"]["fault"]["message"]


def test_what_is_placed_grows_by_its_outline(api: Api, stranger: Api, plain: Job) -> None:
    """Placed from another, the fields it is given are counted from that one too."""
    star = {"kind": "shape", "form": {"form": "star", "points": 5, "outside_mm": 10, "inside_mm": 4}}
    disc = {"kind": "shape", "form": {"form": "disc", "across_mm": 6}}
    document = {
        **plain.document,
        "elements": [
            {"id": "a", "source": star, "placements": [{"up_mm": 40, "centre_deg": 20}]},
            {"id": "b", "source": disc, "placements": [{"up_mm": 8, "centre_deg": 30, "beside": "a"}]},
        ],
    }
    asked = {"document": document, "element": 1, "placement": 0, "margin_mm": 1}
    answer = api("POST", f"/jobs/{plain.pk}/grow", asked)
    assert answer.status_code == 200, answer.content
    sets = answer.json()
    document["elements"][1]["source"]["form"]["across_mm"] = sets.pop("width_mm")
    document["elements"][1]["placements"][0] |= sets
    scene = api.scene(plain.pk, document, "artwork")
    assert not [v for v in scene["verdicts"] if v["level"] == "stop"] and scene["placed"][1]["width"] > 40
    for bad, field in (({"element": 7}, "placement"), ({"margin_mm": 90}, "margin_mm")):
        refused = api("POST", f"/jobs/{plain.pk}/grow", {**asked, **bad})
        assert refused.status_code == 422 and refused.json()["field"] == field, refused.content
    assert stranger("POST", f"/jobs/{plain.pk}/grow", asked).status_code == 404


def test_films_at_hand_are_each_workshops_own(api: Api, stranger: Api, plain: Job) -> None:
    """Written down by one, judged by it at once, and nothing to another; what cannot be is said at its row."""
    theirs = stranger("GET", "/tables").json()["colours"]
    unsaid = {"price_per_m2": None, "turns": None, "cap_sheet": None}
    ink = {"film": "calendered-gloss", "name": "ink", "colour": "#18202e", **unsaid}
    assert api("PUT", "/tables/colours", {"colours": [ink]}).json() == [ink]
    assert api("GET", "/tables").json()["colours"] == [ink]
    assert stranger("GET", "/tables").json()["colours"] == theirs and len(theirs) > 20

    def judged(colour: str) -> list[str]:
        scene = api.scene(plain.pk, lettered(plain, colour=colour), "layers")
        return [v["sentence"] for v in scene["verdicts"] if v["code"] == "layers.at_hand"]

    assert judged("#c22a2a")[0].startswith("Red: no permanent") and not judged("#18202e")
    bad = api("PUT", "/tables/colours", {"colours": [ink, {**ink, "film": "velvet"}]})
    assert bad.status_code == 422 and "velvet" in bad.json()["message"]
    assert api("GET", "/tables").json()["colours"] == [ink]
    assert api("PUT", "/tables/colours", {"colours": [{**ink, "colour": "ink"}]}).status_code == 422


def test_the_log_of_hands_is_kept_and_what_follows_from_it(api: Api) -> None:
    """Five misses of known size tell how far this hand misses: sqrt(mean(r^2) / 2); weeding that took twice its
    estimate makes it slower, three plain jobs among them."""
    assert api("GET", "/tables").json()["log"] == {
        "misses": [],
        "weeding": [],
        "accuracy": {"marks": None, "parchment": None, "eye": None},
        "pace": 1.0,
    }
    misses = [{"how": "marks", "mm": mm} for mm in (0.3, "0.4 mm", 0.5, "1/64 in", 0.2)]
    said = api("PUT", "/tables/log", {"misses": misses, "weeding": [{"estimated": 5, "minutes": 10}]}).json()
    squares = [0.3, 0.4, 0.5, 25.4 / 64, 0.2]
    assert said["accuracy"]["marks"] == pytest.approx((sum(r * r for r in squares) / 5 / 2) ** 0.5)
    assert said["accuracy"]["eye"] is None and said["pace"] == pytest.approx(5 / 4)
    assert api("GET", "/tables").json()["log"]["pace"] == pytest.approx(1.25)
    bad = api("PUT", "/tables/log", {"misses": [{"how": "luck", "mm": 1}], "weeding": []})
    assert bad.status_code == 422
    far = api("PUT", "/tables/log", {"misses": [{"how": "eye", "mm": 40}], "weeding": []})
    assert far.status_code == 422 and api("GET", "/tables").json()["log"]["pace"] == pytest.approx(1.25)
