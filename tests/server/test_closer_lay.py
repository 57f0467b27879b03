"""Sets of a batch laid closer, as a task: waited for, kept, and ended early with what it has."""

from __future__ import annotations

from typing import Any

import pytest
from samples import cup, element, svg
from server_api import Api
from wimple_server.jobs.models import Drawing, Job
from wimple_server.works import tasks
from wimple_server.works.models import Work
from wimple_server.workshops.models import KeptResult

ARC = svg(
    '<path d="M0 60A100 100 0 0 1 100 30V45A90 90 0 0 0 10 70z" fill="#1c3d7a"/>',
    'width="100mm" height="80mm" viewBox="0 0 100 80"',
)


@pytest.fixture()
def batch(plain: Job, monkeypatch: pytest.MonkeyPatch) -> tuple[Job, dict[str, Any]]:
    monkeypatch.setattr("wimple_core.sheets.search.SECONDS", 1)
    monkeypatch.setattr("wimple_core.sheets.search.MORE", 1)
    Drawing.keep(plain, "arc.svg", ARC)
    document = {
        **cup(),
        "quantity": 40,
        "elements": [element("arc.svg", {"width_mm": 70.0, "up_mm": 40.0})],
        "sheets": {"lay": "searched"},
    }
    return plain, document


def asked(api: Api, job: Job, document: dict[str, Any]) -> dict[str, Any]:
    scene = api.scene(job.pk, document, "sheets")
    assert any("being looked for" in v["sentence"] for v in scene["verdicts"])
    (wanted,) = scene["waiting"]
    assert wanted["kind"] == "lay"
    return {"job": job.pk, "key": wanted["key"], "document": document}


def test_a_closer_lay_is_searched_for_once_and_kept(api: Api, batch: tuple[Job, dict[str, Any]]) -> None:
    job, document = batch
    wanted = asked(api, job, document)
    made = api.work("lay", **wanted).json()
    assert made["status"] == "done", made
    assert KeptResult.objects.filter(kind="lay", workshop=job.workshop).count() == 1
    scene = api.scene(job.pk, document, "sheets")
    assert not scene["waiting"] and not any("being looked for" in v["sentence"] for v in scene["verdicts"])


def test_a_search_that_is_ended_keeps_what_it_has(
    api: Api, batch: tuple[Job, dict[str, Any]], monkeypatch: pytest.MonkeyPatch
) -> None:
    job, document = batch
    wanted = asked(api, job, document)
    work = Work.objects.create(
        workshop=job.workshop, job=job, kind="lay", key=wanted["key"], about={"document": document}, status="running"
    )
    say = Work.say
    shown: list[dict[str, Any]] = []

    def stop_once_something_is_found(self: Work, **change: Any) -> None:
        shown.extend([change["result"]["lay"]] if change.get("result") else [])
        if "so far" in str(change.get("working_on", "")) and shown:
            lay = api("GET", f"/works/{self.pk}").json()["result"]["lay"]
            assert lay == shown[-1] and lay["sets"] == len(lay["places"]) and lay["width"] < lay["room"] + 20 < 300
            assert {which for which, *_ in lay["places"]} == {0} and len(lay["rings"]) == 1
            api("DELETE", f"/works/{self.pk}")
        say(self, **change)

    monkeypatch.setattr(Work, "say", stop_once_something_is_found)
    tasks.carry_out.func(work.pk)
    work.refresh_from_db()
    assert work.status == "stopped" and len(shown) == 1
    assert KeptResult.objects.filter(kind="lay", key=wanted["key"]).count() == 1
    monkeypatch.setattr(Work, "say", say)
    assert not api.scene(job.pk, document, "sheets")["waiting"]
