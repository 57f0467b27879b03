"""Pictures in a job: seen roughly at once, traced finely by a task; and things brought to a picture."""

from __future__ import annotations

import io
import json
from typing import Any

import pytest
from PIL import Image, ImageDraw
from samples import svg
from server_api import Api
from wimple_server.jobs import building
from wimple_server.jobs.models import Job
from wimple_server.works.models import Work
from wimple_server.workshops.models import KeptResult


def picture(wide: int, tall: int) -> bytes:
    """A red disc of half the width on paper, with a speck 3 pixels wide."""
    image = Image.new("RGB", (wide, tall), "#f0e8d0")
    pen = ImageDraw.Draw(image)
    pen.ellipse((wide / 4, 40, 3 * wide / 4, 40 + wide / 2), fill="#b3261e")
    pen.rectangle((10, 10, 12, 12), fill="#b3261e")
    out = io.BytesIO()
    image.save(out, "PNG", dpi=(96, 96))
    return out.getvalue()


def with_picture(api: Api, job: Job, data: bytes, **source: Any) -> dict[str, Any]:
    taken = api.upload(f"/jobs/{job.pk}/drawings", "disc.png", data)
    assert taken.status_code == 201, taken.content
    made = taken.json()
    one = {"source": {"kind": "file", "file": made["file"], "colours": 2, **source}, "placements": [made["placement"]]}
    return {**job.document, "elements": [one]}


def disc_of(scene: dict[str, Any]) -> tuple[float, int]:
    """How wide the red of a scene is, and how many corners it has."""
    (red,) = [p for p in scene["paints"][0] if p["colour"] == "#b3261e"]
    ring = max(red["rings"], key=len)
    return max(ring[::2]) - min(ring[::2]), len(ring) // 2


def test_a_large_picture_is_seen_roughly_and_then_as_it_is(api: Api, stranger: Api, plain: Job) -> None:
    document = with_picture(api, plain, picture(1400, 1000))
    rough = api.scene(plain.pk, document, "artwork")
    (wanted,) = rough["waiting"]
    assert wanted["kind"] == "trace" and rough["stopped"] is None and rough["levels"]["artwork"] == "look"
    assert any("traced roughly" in v["sentence"] for v in rough["verdicts"])
    asked = {"job": plain.pk, "key": wanted["key"], "document": document}
    assert stranger.work("trace", **asked).status_code == 404
    assert api.work("trace", **asked | {"key": "none"}).json()["status"] == "failed"
    assert api.work("trace", **asked).json()["status"] == "done"
    assert KeptResult.objects.filter(kind="trace", workshop=plain.workshop).count() == 1
    fine = api.scene(plain.pk, document, "artwork")
    assert not fine["waiting"] and fine["levels"]["artwork"] == "ok"
    assert any("in 2 colours of 1,400 × 1,000 pixels" in v["sentence"] for v in fine["verdicts"])
    (wide, corners), (rough_wide, rough_corners) = disc_of(fine), disc_of(rough)
    assert rough_wide == pytest.approx(wide, rel=0.01) and rough_corners < corners
    # Files are made of the fine one, whoever waits: what is rough never reaches a blade.
    api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": {**document, "title": "Disc"}})
    KeptResult.objects.all().delete()
    building.CACHE = building.StageCache()
    made = api.work("files", job=plain.pk).json()
    assert made["status"] == "done" and not Work.objects.filter(kind="trace", status="waiting")
    report = json.loads(api("GET", f"/works/{made['id']}/files/report.json").content)
    assert not [v for v in report["verdicts"] if "roughly" in v["sentence"]]


def test_a_small_picture_waits_for_nothing_and_is_seen_where_it_lies(api: Api, plain: Job) -> None:
    document = with_picture(api, plain, picture(400, 300))
    scene = api.scene(plain.pk, document, "artwork")
    assert not scene["waiting"]
    (placed,) = scene["placed"]
    assert placed["page"]["across"] == 10 and len(placed["page"]["places"]) == 2 * 11 * 11
    # All of it is paper or disc: its corners are those of what is laid.
    places, box = placed["page"]["places"], placed["outline"]
    quarter = len(box) // 4
    for corner, k in ((0, 0), (10, quarter), (120, 2 * quarter), (110, 3 * quarter)):
        assert places[2 * corner : 2 * corner + 2] == pytest.approx(box[k : k + 2], abs=0.3), corner
    file = document["elements"][0]["source"]["file"]
    answer = api("GET", f"/jobs/{plain.pk}/pictures/{file}")
    assert answer.status_code == 200 and answer["Content-Type"] == "image/png"
    api.upload(f"/jobs/{plain.pk}/drawings", "plain.svg", svg('<rect width="9" height="9"/>'))
    assert api("GET", f"/jobs/{plain.pk}/pictures/plain.svg").status_code == 404


def test_what_is_drawn_by_hand_is_found_in_the_drawing_and_brought_to_a_picture(
    api: Api, stranger: Api, plain: Job
) -> None:
    api.upload(f"/jobs/{plain.pk}/drawings", "bar.svg", svg('<rect width="60" height="20" fill="#1c3d7a"/>'))
    placement = {"width_mm": 60, "up_mm": 50, "centre_deg": 10, "way": "level"}
    one = {"source": {"kind": "file", "file": "bar.svg"}, "placements": [placement]}
    document = {**plain.document, "elements": [one]}
    (placed,) = api.scene(plain.pk, document, "artwork")["placed"]
    x, y = placed["centre"]
    asked = {"document": document, "element": 0, "placement": 0}
    found = api("POST", f"/jobs/{plain.pk}/places", {**asked, "places": [[x, y]]})
    assert found.json()[0] == pytest.approx([30, 90], abs=0.01)
    beside = api("POST", f"/jobs/{plain.pk}/places", {**asked, "places": [[x - 60, y], [x - 50, y + 9]]})
    assert (
        beside.status_code == 422 and beside.json()["field"] == "places" and "over the first" in beside.json()["hint"]
    )
    across = api("POST", f"/jobs/{plain.pk}/places", {**asked, "places": [[x - 60, y], [x + 60, y]]})
    assert across.status_code == 200 and across.json()[0][0] < 0 < 60 < across.json()[1][0]
    pairs = [[[x, y], [x, y + 7]]]
    sets = api("POST", f"/jobs/{plain.pk}/match", {**asked, "pairs": pairs}).json()["sets"]
    assert set(sets) == {"up_mm", "centre_deg"} and sets["up_mm"] == pytest.approx(57, abs=0.3)
    by = api("POST", f"/jobs/{plain.pk}/match", {**asked, "pairs": pairs, "pieces": ["1"]}).json()
    assert by["sets"] is None and by["up_mm"] == pytest.approx(7, abs=0.3) and by["turn_deg"] == 0
    near = [[[x, y], [x, y]], [[x, y], [x, y + 5]]]
    refused = api("POST", f"/jobs/{plain.pk}/match", {**asked, "pairs": near})
    assert refused.status_code == 422 and "too near" in refused.json()["message"]
    gone = api("POST", f"/jobs/{plain.pk}/places", {**asked, "element": 3, "places": [[x, y]]})
    assert gone.status_code == 422 and gone.json()["field"] == "placement"
    assert stranger("POST", f"/jobs/{plain.pk}/places", {**asked, "places": [[x, y]]}).status_code == 404
