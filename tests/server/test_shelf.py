"""The Shelf: kept, found, compared, used, carried in and out; and never another workshop's."""

from __future__ import annotations

import io
import json
from typing import Any

import pytest
from django.core.management import call_command
from PIL import Image
from samples import EXAMPLES, cup, dimension, example
from server_api import Api
from wimple_core.job import load_job
from wimple_server.jobs.models import Drawing, Job
from wimple_server.shelf.models import ShelfBlank
from wimple_server.works.models import Work
from wimple_server.workshops.models import Workshop


def put(workshop: str, blank: dict[str, Any], name: str) -> Job:
    return Job.start(Workshop.objects.get(name=workshop), load_job({"title": name, "blank": {**blank, "name": name}}))


@pytest.fixture()
def kept(api: Api) -> dict[str, Any]:
    job = put("Hill Decals", cup()["blank"], "Enamel cup")
    answer = api("POST", "/shelf", {"job": job.pk})
    assert answer.status_code == 201
    return dict(answer.json())


def test_kept_changed_found_and_used(api: Api, kept: dict[str, Any]) -> None:
    assert kept["jobs"] == 1 and kept["size"] and kept["outline"]
    at = f"/shelf/{kept['id']}"
    changed = api("PATCH", at, {"tags": ["enamel", " enamel ", "", "Fair"], "note": "from the autumn lot"}).json()
    assert changed["tags"] == ["enamel", "Fair"]
    for q, found in (("ENAMEL cup", 1), ("autumn", 1), ("204", 1), ("teapot", 0)):
        assert api("GET", f"/shelf?q={q}").json()["found"] == found, q
    assert api("GET", "/shelf?tag=Fair").json()["found"] == 1 and api("GET", "/shelf?tag=enam").json()["found"] == 0
    assert api("GET", "/shelf?kind=dome").json()["found"] == 0
    started = api("POST", f"{at}/jobs", {"title": "Second run"}).json()["job"]
    assert Job.objects.get(pk=started).document["blank"] == kept["blank"] and api("GET", at).json()["jobs"] == 2
    twin = api("POST", f"{at}/copy").json()
    assert twin["jobs"] == 0 and twin["blank"] == kept["blank"] and twin["tags"] == ["enamel", "Fair"]
    assert api("DELETE", at).status_code == 204 and Job.objects.filter(pk=started).exists()


def test_compared_with_last_time(api: Api, kept: dict[str, Any]) -> None:
    again = api(
        "POST", "/shelf", {"job": put("Hill Decals", cup(262.9, 204.8, 96.2)["blank"], "Enamel cup, new lot").pk}
    ).json()
    other = api("POST", "/shelf", {"job": put("Hill Decals", cup(270)["blank"], "Wider cup").pk}).json()
    ask = lambda a, b: api("GET", f"/shelf/compare?first={a['id']}&second={b['id']}").json()  # noqa: E731
    assert ask(kept, again)["level"] == "ok" and ask(kept, other)["level"] == "stop"
    assert {d["name"] for d in ask(kept, other)["differences"]} >= {
        "round the top",
        "round the bottom",
        "along the side",
    }


def test_pictures_are_kept_small_and_bare(api: Api, kept: dict[str, Any]) -> None:
    photo = Image.new("RGB", (3000, 2000), "#406080")
    exif = Image.Exif()
    exif[0x010E] = "somewhere"
    out = io.BytesIO()
    photo.save(out, "JPEG", exif=exif)
    at = f"/shelf/{kept['id']}/picture"
    assert api("GET", at).status_code == 404
    assert api.upload(at, "cup.jpg", out.getvalue()).status_code == 200
    small = api("GET", at).content
    image = Image.open(io.BytesIO(small))
    assert max(image.size) <= 640 and not image.getexif() and b"somewhere" not in small
    bad = api.upload(at, "cup.jpg", b"not a picture")
    assert bad.status_code == 422 and bad.json()["hint"] and api("GET", at).content == small


def test_carried_to_another_workshop(api: Api, stranger: Api, db: None) -> None:
    """Everything on the demo's Shelf, files and all, goes out as JSON and comes in elsewhere as it was."""
    call_command("load_demo")
    demo = Workshop.objects.get(demo=True)
    hill = Workshop.objects.get(name="Hill Decals")
    ShelfBlank.objects.filter(workshop=demo).update(workshop=hill)
    out = api("GET", "/shelf/export").content
    assert stranger.upload("/shelf/import", "shelf.json", out).json()["result"]["taken"] == hill.shelf.count()
    valley = Workshop.objects.get(name="Valley Decals")
    for a, b in zip(hill.shelf.order_by("name", "pk"), valley.shelf.order_by("name", "pk"), strict=True):
        assert (a.name, a.blank, a.tags, a.card["size"]) == (b.name, b.blank, b.tags, b.card["size"])
        assert a.file_bytes() == b.file_bytes()
    assert hill.shelf.count() == 15


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"no json", "not JSON"),
        (b"[]", "not an exported Shelf"),
        (b'{"format":"wimple.shelf","version":9,"blanks":[]}', "Version"),
        (b'{"format":"wimple.shelf","version":1,"blanks":[{"name":"x"}]}', "Blank 1"),
        (
            json.dumps(
                {
                    "format": "wimple.shelf",
                    "version": 1,
                    "blanks": [{"blank": cup()["blank"]}, {"blank": cup(-1)["blank"]}],
                }
            ).encode(),
            "Blank 2",
        ),
        (
            json.dumps(
                {"format": "wimple.shelf", "version": 1, "blanks": [{"blank": cup()["blank"], "picture": "%%%"}]}
            ).encode(),
            "Blank 1",
        ),
        (
            json.dumps(
                {"format": "wimple.shelf", "version": 1, "blanks": [{"blank": cup()["blank"], "files": [1]}]}
            ).encode(),
            "Blank 1",
        ),
    ],
)
def test_nothing_is_taken_from_a_bad_file(api: Api, body: bytes, says: str) -> None:
    bad = api.upload("/shelf/import", "shelf.json", body).json()
    assert bad["status"] == "failed" and says in bad["error"]["message"] and bad["error"]["hint"]
    assert api("GET", "/shelf").json()["total"] == 0


def test_a_blank_that_cannot_be_measured_is_not_kept(api: Api) -> None:
    bad = api("POST", "/shelf", {"job": put("Hill Decals", cup(600, 100, 20)["blank"], "No cup").pk})
    assert bad.status_code == 422 and bad.json()["field"] == "blank.side.readings.0"


def test_another_workshops_shelf_is_not_there(api: Api, stranger: Api, kept: dict[str, Any]) -> None:
    at = f"/shelf/{kept['id']}"
    assert stranger("GET", "/shelf").json()["total"] == 0
    for method, path, body in (
        ("GET", at, None),
        ("PATCH", at, {"name": "mine"}),
        ("DELETE", at, None),
        ("POST", f"{at}/copy", None),
        ("POST", f"{at}/jobs", {}),
        ("GET", f"{at}/picture", None),
        ("GET", f"/shelf/compare?first={kept['id']}&second={kept['id']}", None),
        ("POST", "/shelf", {"job": Job.objects.get().pk}),
    ):
        assert stranger(method, path, body).status_code == 404, path
    assert json.loads(stranger("GET", "/shelf/export").content)["blanks"] == []
    assert ShelfBlank.objects.get().name == "Enamel cup"


def test_files_of_a_blank_travel_with_it(api: Api, plain: Job) -> None:
    """A mesh comes in, is measured, kept, and is there in the next job; a copy of the job has it too."""
    added = api.upload(f"/jobs/{plain.pk}/mesh", "cap.ply", (EXAMPLES / "drawings" / "dome-40.ply").read_bytes()).json()
    raw = {"blank": {"kind": "mesh", "file": added["file"], "unit": "mm"}}
    assert api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": raw}).status_code == 200
    scene = api.scene(plain.pk, raw)
    assert scene["measure"]["size"][0] == pytest.approx(128.56, abs=0.01) and scene["solid"]["triangles"]
    kept = api("POST", "/shelf", {"job": plain.pk}).json()
    started = api("POST", f"/shelf/{kept['id']}/jobs", {}).json()["job"]
    twin = api("POST", f"/jobs/{started}/copy", {"document": raw}).json()["id"]
    assert Drawing.objects.filter(job_id__in=[started, twin], name=added["file"], kind="mesh").count() == 2
    assert api("POST", f"/jobs/{twin}/build", {"document": raw, "step": "measure"}).status_code == 200
    assert api("GET", f"/jobs/{plain.pk}").json()["drawings"] == []


@pytest.mark.parametrize(
    ("what", "name", "data", "field"),
    [
        ("mesh", "a.stl", b"junk", "blank.file"),
        ("mesh", "a.exe", b"MZ", "blank.file"),
        ("outline", "a.svg", b"<svg/>", None),
        ("outline", "a.dxf", b"x", "blank.outline"),
    ],
)
def test_files_that_are_none_are_refused(
    api: Api, plain: Job, what: str, name: str, data: bytes, field: str | None
) -> None:
    bad = api.upload(f"/jobs/{plain.pk}/{what}", name, data)
    assert bad.status_code == 422 and bad.json()["hint"] and (field is None or bad.json()["field"] == field)
    assert not plain.drawings.exists()


def test_a_photograph_is_read_by_a_task(api: Api, stranger: Api, plain: Job) -> None:
    picture = (EXAMPLES / "drawings" / "bellied-mug.jpg").read_bytes()
    asked = api.upload(f"/jobs/{plain.pk}/photo", "side.jpg", picture).json()
    work = api("GET", f"/works/{asked['id']}").json()
    found = work["result"]["photo"]
    assert work["status"] == "done" and found["marks"]["width"] == 1600 and Work.objects.get().brought is None
    assert api("GET", f"/jobs/{plain.pk}/pictures/{found['name']}").content[:2] == b"\xff\xd8"
    assert stranger("GET", f"/works/{asked['id']}").status_code == 404
    assert stranger("GET", f"/jobs/{plain.pk}/pictures/{found['name']}").status_code == 404
    photo = {
        "file": found["name"],
        "known": found["marks"]["known"],
        "axis": found["marks"]["axis"],
        "distance_mm": 520,
    }
    rings = [
        {"height": dimension("upright", h), "girth": dimension("diameter", d)} for h, d in ((1, 62), (50, 84), (91, 73))
    ]
    document = {"blank": {"kind": "revolution", "rings": rings, "photo": photo}}
    scene = api.scene(plain.pk, document)
    assert len(scene["measure"]["photo"]["checks"]) == 3 and scene["measure"]["photo"]["outline"]
    failed = api.upload(f"/jobs/{plain.pk}/photo", "c.jpg", b"no picture").json()
    assert failed["status"] == "failed" and failed["error"]["hint"] and plain.drawings.filter(kind="photo").count() == 1


def test_an_outline_that_was_not_kept_is_waited_for(api: Api, plain: Job) -> None:
    """A job brought in with its photograph: it is measured at once, says what it waits for, and has it when that is
    made."""
    Drawing.keep(plain, "bellied-mug.jpg", (EXAMPLES / "drawings" / "bellied-mug.jpg").read_bytes(), "photo")
    document = {"blank": example("bellied-mug")["blank"]}
    scene = api.scene(plain.pk, document)
    assert scene["measure"]["photo"] is None and scene["measure"]["figures"]
    (wanted,) = scene["waiting"]
    assert api.work("photo", job=plain.pk, key=wanted["key"], document=document).json()["status"] == "done"
    then = api.scene(plain.pk, document)
    assert then["measure"]["photo"]["checks"] and not then["waiting"]
    wrong = api.work("photo", job=plain.pk, key="another", document=document).json()
    assert wrong["status"] == "failed" and wrong["error"]["hint"]


def test_a_large_patch_is_flattened_by_a_task(api: Api, stranger: Api, plain: Job) -> None:
    """The scene says it waits; the task flattens it once; the scene then has it, and so have the files."""
    from rendering import cap_mesh

    added = api.upload(f"/jobs/{plain.pk}/mesh", "cap.ply", cap_mesh(100, 40, 48, 80).export(file_type="ply")).json()
    document = {"blank": {"kind": "mesh", "file": added["file"], "unit": "mm"}}
    assert api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": document}).status_code == 200
    scene = api.scene(plain.pk, document, "unwrap")
    assert "template" not in scene and scene["stopped"]["fault"]["code"] == "not_made"
    (wanted,) = scene["waiting"]
    assert wanted["kind"] == "patch"
    work = api.work("patch", job=plain.pk, key=wanted["key"], document=document).json()
    assert api("GET", f"/works/{work['id']}").json()["status"] == "done"
    assert stranger("GET", f"/works/{work['id']}").status_code == 404
    scene = api.scene(plain.pk, document, "unwrap")
    assert scene["stopped"] is None and 1.0861 <= scene["template"]["strain"]["ratio"] <= 1.0861 * 1.011
    assert scene["skin"]["strain"] and scene["strain"]
    assert api.work("patch", job=plain.pk, key="x", document={"blank": cup()["blank"]}).json()["status"] == "failed"


def test_what_is_no_disc_is_shown_on_the_object(api: Api, plain: Job) -> None:
    import numpy as np
    from rendering import cap_mesh

    holed = cap_mesh(50, 40, 8, 24)
    holed.update_faces(np.arange(len(holed.faces)) != 200)
    added = api.upload(f"/jobs/{plain.pk}/mesh", "cap.ply", holed.export(file_type="ply")).json()
    document = {"blank": {"kind": "mesh", "file": added["file"], "unit": "mm"}}
    fault = api.scene(plain.pk, document, "unwrap")["stopped"]["fault"]
    assert (
        "hole" in fault["message"]
        and fault["hint"]
        and fault["field"] == "wrap.patch.mode"
        and len(fault["places"]) >= 3
    )
