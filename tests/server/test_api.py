"""The API: saving, history, stale saves, drawings, files, and who may see what."""

from __future__ import annotations

import copy
import gzip
import io
import json
import zipfile
from typing import Any

import pytest
from django.conf import settings
from django.core.management import call_command
from PIL import Image
from samples import EXAMPLES, ROOT, cup, element, svg
from wimple_core.job import load_job
from wimple_core.slow import flat_patch
from wimple_core.verdict import STEPS
from wimple_server.jobs.models import Drawing, Job
from wimple_server.shelf.models import ShelfBlank
from wimple_server.works import tasks
from wimple_server.works.models import Work
from wimple_server.workshops.models import KeptResult, Workshop


def test_save_undo_redo(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    at = api("GET", f"/jobs/{plain.pk}").json()
    assert not at["can_undo"]
    for lap in (2, 3):
        at["document"]["wrap"]["overlap_mm"] = f"{lap} mm"
        answer = api("PUT", f"/jobs/{plain.pk}", {"revision": at["revision"], "document": at["document"]})
        assert answer.status_code == 200, answer.content
        at = answer.json()
    back = api("POST", f"/jobs/{plain.pk}/undo", {"revision": at["revision"]}).json()
    assert back["document"]["wrap"]["overlap_mm"] == 2 and back["can_redo"]
    back = api("POST", f"/jobs/{plain.pk}/undo", {"revision": back["revision"]}).json()
    assert back["document"]["wrap"]["overlap_mm"] == 0 and not back["can_undo"]
    again = api("POST", f"/jobs/{plain.pk}/redo", {"revision": back["revision"]}).json()
    assert again["document"]["wrap"]["overlap_mm"] == 2
    again["document"]["title"] = "Another way"
    on = api("PUT", f"/jobs/{plain.pk}", {"revision": again["revision"], "document": again["document"]}).json()
    assert not on["can_redo"] and on["can_undo"]
    same = api("PUT", f"/jobs/{plain.pk}", {"revision": on["revision"], "document": on["document"]}).json()
    assert same["revision"] == on["revision"]


def test_a_stale_save_gets_409_and_both_can_be_kept(api, job: Job) -> None:  # type: ignore[no-untyped-def]
    at = api("GET", f"/jobs/{job.pk}").json()
    mine = {**at["document"], "title": "Mine"}
    api("PUT", f"/jobs/{job.pk}", {"revision": at["revision"], "document": {**at["document"], "title": "Theirs"}})
    for call in (
        ("PUT", f"/jobs/{job.pk}", {"revision": at["revision"], "document": mine}),
        ("POST", f"/jobs/{job.pk}/undo", {"revision": at["revision"]}),
    ):
        stale = api(*call)
        assert stale.status_code == 409 and stale.json()["revision"] == at["revision"] + 1 and stale.json()["hint"]
    twin = api("POST", f"/jobs/{job.pk}/copy", {"document": mine})
    assert (
        twin.status_code == 201
        and twin.json()["document"]["title"] == "Mine, copy"
        and twin.json()["drawings"] == ["moon-band.svg"]
    )
    assert api("GET", f"/jobs/{job.pk}").json()["document"]["title"] == "Theirs"


@pytest.mark.parametrize("step", ["measure", "unwrap", "artwork", "layers", "sheets", "layup", "price"])
def test_every_step_builds(api, job: Job, step: str) -> None:  # type: ignore[no-untyped-def]
    scene = api.scene(job.pk, job.document, step)
    # What is free on a blank is its template's to say, and the template shows what lies on it.
    upto = {"measure": "unwrap", "unwrap": "artwork"}.get(step, step)
    assert scene["stopped"] is None and list(scene["levels"]) == list(STEPS[: STEPS.index(upto) + 1])
    assert step in ("measure", "unwrap") or len(scene["worn"]) == 3
    assert scene["template"]["outline"] and all(v["sentence"] for v in scene["verdicts"])


def test_only_what_changed_is_sent(api, job: Job) -> None:  # type: ignore[no-untyped-def]
    """A drawing moved changes what is drawn of it, and neither the cup nor its template; asked again, nothing is."""
    first = api.scene(job.pk, job.document, "artwork")
    have = [p["digest"] for p in first["parts"].values()]
    assert all(p["data"] is None for p in api.scene(job.pk, job.document, "artwork", have)["parts"].values())
    moved = copy.deepcopy(job.document)
    moved["elements"][0]["placements"][0]["centre_deg"] = 20
    then = api.scene(job.pk, moved, "artwork", have)["parts"]
    sent = {name for name, part in then.items() if part["data"] is not None}
    assert {"paints", "placed", "worn"} <= sent and not sent & {"measure", "template", "solid", "skin", "rows"}
    assert then["template"]["digest"] == first["parts"]["template"]["digest"]


def test_build_stops_where_the_job_stops_and_shows_the_rest(api, job: Job) -> None:  # type: ignore[no-untyped-def]
    job.document["elements"][0]["source"]["file"] = "lost.svg"
    scene = api.scene(job.pk, job.document, "layers")
    stopped = scene["stopped"]
    assert stopped["step"] == "artwork" and "lost.svg" in stopped["fault"]["message"]
    assert stopped["fault"]["field"] == "elements.0.source.file"
    assert scene["template"] and scene["levels"]["artwork"] == "stop"


def test_bad_documents_answer_422_with_fields(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    for value in ("abc", "", 0, -3, "2 in 5 mm", 1e12):
        plain.document["blank"]["upper"]["readings"] = [value]
        for method, path, body in (
            ("POST", "/build", {"document": plain.document}),
            ("PUT", "", {"revision": 1, "document": plain.document}),
        ):
            bad = api(method, f"/jobs/{plain.pk}{path}", body)
            assert bad.status_code == 422 and bad.json()["faults"][0]["field"] == "blank.upper.readings.0", bad.content
    assert api("POST", f"/jobs/{plain.pk}/build", {"document": []}).status_code == 422
    assert api("POST", f"/jobs/{plain.pk}/build").status_code in (400, 422)


def test_inches_are_read_in_an_inch_workshop(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    assert api("PATCH", "/workshop", {"length_style": "in_fraction"}).json()["length_style"] == "in_fraction"
    plain.document["blank"]["upper"]["readings"] = ["10 1/2"]
    scene = api.scene(plain.pk, plain.document)
    assert scene["document"]["blank"]["upper"]["readings"] == [pytest.approx(266.7)]
    assert any(" in" in v["sentence"] for v in scene["verdicts"])
    assert api("PATCH", "/workshop", {"length_style": "cubits"}).status_code == 422


def test_drawings_are_cleaned_and_named_apart(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    data = svg('<script>alert(1)</script><rect width="40" height="20" onclick="x()"/>')
    first = api.upload(f"/jobs/{plain.pk}/drawings", "../../etc/moon.svg", data)
    taken = first.json()
    assert first.status_code == 201 and (taken["file"], taken["width"], taken["height"]) == ("moon.svg", 40, 20)
    # It goes where the side that is seen is free, no larger than it is and than there is room.
    assert taken["placement"]["width_mm"] == 40 and taken["placement"]["centre_deg"] == 0
    tall = svg('<rect width="100" height="400"/>', 'width="100mm" height="400mm"')
    placed = api.upload(f"/jobs/{plain.pk}/drawings", "tall.svg", tall).json()["placement"]
    assert 4 * placed["width_mm"] == pytest.approx(0.9 * 78, abs=0.5)  # 96 between the lines, less both bands
    assert api.upload(f"/jobs/{plain.pk}/drawings", "moon.svg", data).json()["file"] == "moon-2.svg"
    kept = bytes(Drawing.objects.get(job=plain, name="moon.svg").data)
    assert b"script" not in kept and b"onclick" not in kept
    for bad in (b"", b"not a drawing", data[:60], b"<svg>" + b" " * 20_000_001):
        refused = api.upload(f"/jobs/{plain.pk}/drawings", "bad.svg", bad)
        assert refused.status_code == 422 and refused.json()["hint"]


def test_files_are_made_by_a_task(api, job: Job) -> None:  # type: ignore[no-untyped-def]
    asked = api.work("files", job=job.pk)
    assert asked.status_code == 202, asked.content
    made = api("GET", f"/works/{asked.json()['id']}").json()
    names = made["result"]["names"]
    assert made["status"] == "done" and made["share"] == 1
    archive = zipfile.ZipFile(io.BytesIO(api("GET", f"/works/{made['id']}/zip").content))
    assert archive.testzip() is None and set(archive.namelist()) == set(names)
    one = api("GET", f"/works/{made['id']}/files/layers/03-midnight.svg")
    assert one.content == archive.read("layers/03-midnight.svg") and "attachment" in one["Content-Disposition"]
    assert api("GET", f"/works/{made['id']}/files/../../secret").status_code == 404


def test_odd_names_and_titles_come_through(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    """Dots, other scripts and line breaks: kept apart from paths, and never in a header as they are."""
    names = [
        api.upload(f"/jobs/{plain.pk}/drawings", n, svg('<rect width="9" height="9"/>')).json()["file"]
        for n in ("...", "..svg", "月.svg")
    ]
    assert not any(n.startswith(".") for n in names) and names[2] == "月.svg"
    document = {**plain.document, "title": "月の杯\nTwo", "elements": [element(n) for n in names]}
    assert api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": document}).status_code == 200
    made = api.work("files", job=plain.pk).json()
    assert made["status"] == "done" and "drawings/月.svg" in made["result"]["names"]
    shown = api("GET", f"/works/{made['id']}/zip")["Content-Disposition"]
    assert shown.isascii() and "\n" not in shown and ".zip" in shown


def test_a_job_that_cannot_be_built_says_so(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    plain.document["elements"] = [element("lost.svg")]
    saved = api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": plain.document})
    assert saved.status_code == 200
    made = api.work("files", job=plain.pk).json()
    assert made["status"] == "failed" and "lost.svg" in made["error"]["message"]
    assert api("GET", f"/works/{made['id']}/zip").status_code == 404


def long_work(api: Any, kind: str, job: Job) -> Work:
    """A work of each kind as it stands when the program is stopped."""
    about: dict[str, Any] = {"document": job.document}
    brought, key = None, ""
    if kind == "picture":
        about, brought = {"name": "a.jpg"}, (EXAMPLES / "drawings" / "bellied-mug.jpg").read_bytes()
    elif kind == "patch":
        data = (EXAMPLES / "drawings" / "dome-40.ply").read_bytes()
        file = Drawing.keep(job, "cap.ply", data, "mesh")
        document = load_job({"blank": {"kind": "mesh", "file": "cap.ply", "unit": "mm"}})
        about = {"document": document.model_dump(mode="json")}
        key = flat_patch(None, document.blank, file.digest, document.wrap.patch).wanted.key  # type: ignore[arg-type]
    elif kind == "trace":
        picture = io.BytesIO()
        Image.linear_gradient("L").resize((900, 700)).save(picture, "PNG")
        Drawing.keep(job, "sky.png", picture.getvalue())
        about = {"document": {**cup(), "elements": [element("sky.png")]}}
        (wanted,) = api.scene(job.pk, about["document"], "artwork")["waiting"]
        key = wanted["key"]
    elif kind == "shelf":
        brought = json.dumps(
            {"format": "wimple.shelf", "version": 1, "blanks": [{"blank": cup()["blank"]}] * 3}
        ).encode()
    return Work.objects.create(
        workshop=job.workshop,
        job=None if kind in ("shelf", "tickets") else job,
        kind=kind,
        key=key,
        about=about,
        brought=brought,
        status="running",
    )


KINDS = ["files", "picture", "patch", "trace", "shelf", "tickets"]


@pytest.mark.parametrize("kind", KINDS)
def test_work_can_be_stopped_and_is_taken_up_after_a_restart(  # type: ignore[no-untyped-def]
    api, job: Job, monkeypatch: pytest.MonkeyPatch, kind: str
) -> None:
    monkeypatch.setattr("wimple_core.pipeline.INLINE_TRIANGLES", 100)
    for n in range(3):
        Job.start(job.workshop, load_job({**cup(), "title": f"Another {n}"}))
    work = long_work(api, kind, job)
    files, report, heard = job.drawings.count(), Work.say, [0]

    def stop_half_way(self: Work, **change: object) -> None:
        heard[0] += 1
        if heard[0] == 3:
            assert api("DELETE", f"/works/{self.pk}").json()["status"] == "stopped"
        report(self, **change)

    monkeypatch.setattr(Work, "say", stop_half_way)
    tasks.carry_out.func(work.pk)
    work.refresh_from_db()
    assert work.status == "stopped" and job.drawings.count() == files and work.made is None
    assert work.brought is None, "what is over is let go of"
    slow = KeptResult.objects.exclude(kind__in=("drawing", "size"))
    assert not slow.exists() and not ShelfBlank.objects.exists()
    monkeypatch.setattr(Work, "say", report)
    job.drawings.filter(name__in=("cap.ply", "sky.png")).delete()
    again = long_work(api, kind, job)
    assert tasks.take_up_again() == 1
    again.refresh_from_db()
    assert again.status == "done", again.error
    assert slow.count() == (kind in ("picture", "patch", "trace"))


@pytest.mark.parametrize("kind", KINDS)
def test_work_that_breaks_says_it_is_ours(api: Any, job: Job, monkeypatch: pytest.MonkeyPatch, kind: str) -> None:
    """A fault of ours inside long work ends it, says so, and shows nothing of its inside."""
    work = long_work(api, kind, job)

    def breaks(*args: object, **more: object) -> None:
        raise RuntimeError("secret")

    for name in ("build_whole", "read_apart", "make_slow", "import_shelf", "write_ticket"):
        monkeypatch.setattr(tasks, name, breaks)
    tasks.carry_out.func(work.pk)
    work.refresh_from_db()
    assert work.status == "failed" and work.error["code"] == "our_fault" and "secret" not in json.dumps(work.error)


def test_another_workshops_things_are_not_there(api, stranger, job: Job) -> None:  # type: ignore[no-untyped-def]
    work = api.work("files", job=job.pk).json()["id"]
    calls = [
        ("GET", f"/jobs/{job.pk}", None),
        ("PUT", f"/jobs/{job.pk}", {"revision": 1, "document": job.document}),
        ("DELETE", f"/jobs/{job.pk}", None),
        ("POST", f"/jobs/{job.pk}/copy", {"document": job.document}),
        ("POST", f"/jobs/{job.pk}/undo", {"revision": 1}),
        ("POST", f"/jobs/{job.pk}/redo", {"revision": 1}),
        ("POST", f"/jobs/{job.pk}/build", {"document": job.document}),
        ("POST", "/works", {"kind": "files", "job": job.pk}),
        ("POST", "/works", {"kind": "photo", "job": job.pk, "document": job.document}),
        ("GET", f"/works/{work}", None),
        ("DELETE", f"/works/{work}", None),
        ("GET", f"/works/{work}/zip", None),
        ("GET", f"/works/{work}/files/report.json", None),
    ]
    for method, path, body in calls:
        theirs, nobodys = (
            stranger(method, path, body),
            stranger(
                method,
                path.replace(f"jobs/{job.pk}", "jobs/999").replace(f"works/{work}", "works/999"),
                {**body, "job": 999} if body and "job" in body else body,
            ),
        )
        assert theirs.status_code == nobodys.status_code == 404 and theirs.content == nobodys.content, path
    assert stranger.upload(f"/jobs/{job.pk}/drawings", "a.svg", svg("<rect width='5' height='5'/>")).status_code == 404
    assert stranger("GET", "/jobs").json()["tickets"] == [] and len(api("GET", "/jobs").json()["tickets"]) == 1


def test_bench_new_and_delete(api) -> None:  # type: ignore[no-untyped-def]
    for kind in ("cup", "panel"):
        made = api("POST", "/jobs", {"title": f"A {kind}", "kind": kind})
        assert made.status_code == 201
        assert api.scene(made.json()["id"], made.json()["document"])["stopped"] is None
    assert api("POST", "/jobs", {"kind": "teapot"}).status_code == 422
    waiting = api("GET", "/jobs").json()["tickets"]
    assert {t["title"] for t in waiting} == {"A cup", "A panel"} and all(t["worst"] is None for t in waiting)
    assert api.work("tickets").json()["status"] == "done"
    tickets = api("GET", "/jobs").json()["tickets"]
    assert {t["title"] for t in tickets} == {"A cup", "A panel"} and all(t["outline"] and t["worst"] for t in tickets)
    assert api("DELETE", f"/jobs/{tickets[0]['id']}").status_code == 204
    assert len(api("GET", "/jobs").json()["tickets"]) == 1


def test_front_ends_types_are_made_from_this_api(tmp_path) -> None:  # type: ignore[no-untyped-def]
    """Every path and schema of the API stands in the committed types."""
    call_command("write_openapi", str(tmp_path / "openapi.json"))
    spec = json.loads((tmp_path / "openapi.json").read_text())
    types = (ROOT / "web/src/lib/api/schema.d.ts").read_text()
    for path in spec["paths"]:
        assert f'"{path}": {{' in types, path
    for name, schema in spec["components"]["schemas"].items():
        block = types.split(f"        {name}: {{", 1)
        if schema.get("properties"):
            assert len(block) == 2, name
            for field in schema["properties"]:
                assert f"{field}:" in block[1] or f"{field}?:" in block[1], f"{name}.{field}"


def test_demo_loads_once(db: None) -> None:
    for _ in range(2):
        call_command("load_demo")
    assert Workshop.objects.filter(demo=True).count() == 1 and Job.objects.count() == 11
    assert settings.DEMO is False


def test_a_build_that_is_followed_comes_in_lines(api, plain: Job) -> None:  # type: ignore[no-untyped-def]
    """Who accepts lines hears of every step in its order, its share growing, and gets the same scene at the end."""
    path, body = f"/api/jobs/{plain.pk}/build", {"document": plain.document, "step": "price"}
    lines = {"Accept": "application/x-ndjson", "X-CSRFToken": api.token}
    answer = api.client.post(path, json.dumps(body), "application/json", headers=lines)
    assert answer.streaming
    *doing, whole = [json.loads(line) for line in b"".join(answer.streaming_content).splitlines()]
    assert [d["doing"] for d in doing][-3:] == ["sheets", "layup", "price"]
    shares = [d["share"] for d in doing]
    assert shares == sorted(shares) and shares[0] > 0 and shares[-1] < 1
    assert whole["whole"] is True
    assert whole == api("POST", path.removeprefix("/api"), body).json()
    broken = {
        **plain.document,
        "blank": {**plain.document["blank"], "upper": {**plain.document["blank"]["upper"], "readings": ["abc"]}},
    }
    refused = api.client.post(path, json.dumps({**body, "document": broken}), "application/json", headers=lines)
    assert refused.status_code == 422 and refused.json()["field"].startswith("blank.upper")


def test_a_large_drawing_comes_before_what_the_object_wears(api, job: Job, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    """Each part comes once over all lines, squeezed where that is taken, and together they are the whole scene; what
    the browser says it has does not come again."""
    from wimple_core.views import scene

    path, body = f"/api/jobs/{job.pk}/build", {"document": job.document, "step": "artwork"}
    lines = {"Accept": "application/x-ndjson", "X-CSRFToken": api.token}
    whole = api("POST", path.removeprefix("/api"), body).json()

    def scenes(headers: dict[str, str] | None = None, **more: Any) -> list[dict[str, Any]]:
        answer = api.client.post(
            path, json.dumps({**body, **more}), "application/json", headers={**lines, **(headers or {})}
        )
        data = b"".join(answer.streaming_content)
        if headers:
            assert answer.headers["Content-Encoding"] == "gzip"
            data = gzip.decompress(data)
        return [s for s in map(json.loads, data.splitlines()) if "parts" in s]

    assert len(scenes()) == 1
    monkeypatch.setattr(scene, "LARGE_BYTES", 100)
    for headers in (None, {"Accept-Encoding": "gzip, br"}):
        first, last = scenes(headers)
        assert (first["whole"], "worn" in first["parts"], last["whole"]) == (False, False, True)
        for name, part in whole["parts"].items():
            came = [s["parts"][name]["data"] for s in (first, last) if s["parts"].get(name)]
            assert [c for c in came if c is not None] == [part["data"]], name
        assert first["parts"]["paints"]["data"] and last["parts"]["paints"]["data"] is None
    (again,) = scenes(have=[p["digest"] for p in whole["parts"].values()])
    assert all(p["data"] is None for p in again["parts"].values())


def test_a_drawing_that_was_slow_to_read_is_kept_for_the_next_process(  # type: ignore[no-untyped-def]
    api, job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    from wimple_core import bringing
    from wimple_server.jobs import building

    monkeypatch.setattr(bringing, "KEEP_AFTER_S", -1.0)
    monkeypatch.setattr(building, "CACHE", building.StageCache())
    first = api.scene(job.pk, job.document, "artwork")
    assert KeptResult.objects.filter(workshop=job.workshop, kind="drawing").exists()
    monkeypatch.setattr(building, "CACHE", building.StageCache())
    monkeypatch.setattr(building, "read_apart", lambda *a, **m: pytest.fail("read again"))
    assert api.scene(job.pk, job.document, "artwork") == first
