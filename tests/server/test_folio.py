"""The Folio: drawings and fonts of a workshop, kept once, found, fetched into jobs, and nobody else's."""

from __future__ import annotations

import io
import zipfile

import pytest
from samples import drawing, svg
from server_api import Api
from wimple_core.artwork.lettering.fonts import FOLDER
from wimple_server.jobs.models import Job


def kept(api: Api, name: str, data: bytes) -> dict:  # type: ignore[type-arg]
    answer = api.upload("/folio", name, data)
    assert answer.status_code == 201, answer.content
    return dict(answer.json())


def test_kept_once_found_and_used(api: Api, plain: Job) -> None:
    job = plain
    assert api.upload(f"/jobs/{job.pk}/drawings", "moon.svg", drawing("moon-band.svg")).status_code == 201
    moon = kept(api, "moon band.svg", drawing("moon-band.svg"))
    assert kept(api, "again.svg", drawing("moon-band.svg"))["id"] == moon["id"]
    assert (
        moon["kind"] == "drawing" and moon["used"] == 1 and moon["name"] == "moon band" and "3 colours" in moon["says"]
    )
    right = moon["bounds"][2] - moon["bounds"][0]
    assert right == pytest.approx(224.2, abs=0.5) and {p["colour"] for p in moon["paints"]} > {"#1c3d7a"}
    font = kept(api, "marks.ttf", drawing("fernhallow-marks.ttf"))
    assert font["kind"] == "font" and font["name"] == "Fernhallow Marks" and font["used"] == 0
    api("PATCH", f"/folio/{font['id']}", {"tags": ["signs", " signs", ""], "name": "Marks"})
    assert [i["name"] for i in api("GET", "/folio?q=sig").json()["items"]] == ["Marks"]
    found = api("GET", "/folio?kind=drawing").json()
    assert (found["found"], found["total"]) == (1, 2) and found["tags"] == [{"tag": "signs", "count": 1}]
    assert api("GET", "/folio?tag=sig").json()["found"] == 0
    used = api("GET", f"/folio/{moon['id']}/used-in").json()
    assert used == [{"job": job.pk, "title": str(job)}]


def test_fetched_into_a_job_it_is_its_own(api: Api, plain: Job) -> None:
    font = kept(api, "marks.ttf", drawing("fernhallow-marks.ttf"))
    fetched = [api("POST", f"/folio/{font['id']}/jobs/{plain.pk}").json()["file"] for _ in range(2)]
    assert fetched == ["marks.ttf", "marks.ttf"]
    words = {"kind": "lettering", "text": "ABC", "font": "marks.ttf", "size_mm": 10}
    document = {**plain.document, "elements": [{"source": words, "placements": [{"up_mm": 45}]}]}
    scene = api.scene(plain.pk, document, "artwork")
    assert scene["stopped"] is None and scene["placed"][0]["pieces"] == 3
    # A star, a disc and a ring, each 700 units tall as its script draws it: 10 mm of capitals.
    assert scene["placed"][0]["height"] == pytest.approx(10, abs=0.5)
    assert api("DELETE", f"/folio/{font['id']}").status_code == 204
    assert api.scene(plain.pk, document, "artwork")["stopped"] is None


def test_a_drawing_of_a_job_can_be_kept_and_all_carried_out(api: Api, job: Job) -> None:
    assert api("GET", "/folio/export").status_code == 422
    answer = api("POST", "/folio/from-job", {"job": job.pk, "file": "moon-band.svg"})
    assert answer.status_code == 201 and answer.json()["used"] == 1
    kept(api, "moon-band.svg", svg('<circle cx="5" cy="5" r="5"/>'))
    names = zipfile.ZipFile(io.BytesIO(api("GET", "/folio/export").content)).namelist()
    assert len(names) == 2 and "moon-band.svg" in names
    one = api("GET", f"/folio/{answer.json()['id']}/file")
    assert one.content == drawing("moon-band.svg") or b"<svg" in one.content
    assert "attachment" in one.headers["Content-Disposition"]


def test_nobody_elses_is_seen(api: Api, stranger: Api, job: Job) -> None:
    mine = kept(api, "a.svg", drawing("comet.svg"))["id"]
    assert stranger("GET", "/folio").json()["total"] == 0
    for method, path, body in (
        ("GET", f"/folio/{mine}/file", None),
        ("GET", f"/folio/{mine}/used-in", None),
        ("PATCH", f"/folio/{mine}", {"name": "x"}),
        ("DELETE", f"/folio/{mine}", None),
        ("POST", f"/folio/{mine}/jobs/{job.pk}", None),
        ("POST", "/folio/from-job", {"job": job.pk, "file": "moon-band.svg"}),
        ("GET", f"/jobs/{job.pk}/features?font=pacifico", None),
    ):
        assert stranger(method, path, body).status_code == 404, path
    # The same file in two workshops is two items.
    assert kept(stranger, "a.svg", drawing("comet.svg"))["used"] == 0


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("a.ttf", b"\x00\x01\x00\x00broken", "not a font"),
        ("a.otf", b"", "not a font"),
        ("a.ttf", b"ttcf" + b"\x00" * 40, "collection"),
        ("a.svg", b"<svg", ""),
        ("a.png", b"\x89PNG\r\n\x1a\nbroken", ""),
    ],
)
def test_what_cannot_be_read_is_said(api: Api, name: str, data: bytes, said: str) -> None:
    answer = api.upload("/folio", name, data)
    assert answer.status_code == 422 and said in answer.json()["message"], answer.content
    assert answer.json()["field"] == "file" and answer.json()["hint"]
    assert api("GET", "/folio").json()["total"] == 0


def test_forms_of_a_font_are_offered_by_its_tables(api: Api, plain: Job) -> None:
    offered = api("GET", f"/jobs/{plain.pk}/features?font=zilla-slab").json()
    assert {f["tag"]: f["on"] for f in offered} == {
        "frac": False,
        "liga": True,
        "lnum": False,
        "pnum": False,
        "tnum": False,
    }
    assert all(f["words"] for f in offered)
    assert api("GET", f"/jobs/{plain.pk}/features?font=none.ttf").status_code == 404
    assert api("GET", f"/jobs/{plain.pk}/features?font=none").status_code == 422
    own = sorted(FOLDER.glob("eb-garamond.*.woff2"))[0].read_bytes()
    item = kept(api, "book.woff2", own)
    file = api("POST", f"/folio/{item['id']}/jobs/{plain.pk}").json()["file"]
    assert {f["tag"] for f in api("GET", f"/jobs/{plain.pk}/features?font={file}").json()} >= {"frac", "liga"}


def test_a_list_is_read_over_http(api: Api, stranger: Api, plain: Job) -> None:
    found = api.upload(f"/jobs/{plain.pk}/list", "l.csv", b"Name,No\nAda,1\nAda,1\n\nBo\n")
    assert found.status_code == 200
    assert found.json()["headings"] == ["Name", "No"] and found.json()["rows"] == [
        ["Ada", "1"],
        ["Ada", "1"],
        ["Bo", ""],
    ]
    assert len(found.json()["notes"]) == 3
    bad = api.upload(f"/jobs/{plain.pk}/list", "l.csv", b"x\n" * 1000)
    assert bad.status_code == 422 and bad.json()["field"] == "names.rows"
    assert stranger.upload(f"/jobs/{plain.pk}/list", "l.csv", b"x").status_code == 404
