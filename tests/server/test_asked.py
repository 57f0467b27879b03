"""The API asked at random, by its own OpenAPI document, about things that are really there: nothing is a fault.

WIMPLE_ASKED sets how many requests each endpoint gets; 100 make more than 5,000 in all.
"""

from __future__ import annotations

import os
from collections import Counter
from typing import Any

import numpy as np
import schemathesis
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from samples import drawing, svg
from schemathesis.core import NotSet
from server_api import Api
from wimple_core.job import load_job
from wimple_core.views.folio import folio_in
from wimple_server.api import api as ninja
from wimple_server.cutters.models import CutLoad, OnCutter
from wimple_server.cutters.strokes import Passes
from wimple_server.folio.models import FolioItem
from wimple_server.jobs.models import Drawing, Job
from wimple_server.people import accounts
from wimple_server.shelf import keeping
from wimple_server.works import tasks
from wimple_server.works.models import Work
from wimple_server.workshops.models import Membership, Role, Workshop

EACH = int(os.environ.get("WIMPLE_ASKED", "6"))
FILES = (
    b"",
    b"<svg",
    drawing("moon-band.svg"),
    svg('<rect width="9" height="9"/>'),
    b"0\nSECTION\n",
    b"\x89PNG",
    b"{}",
)
ENDS_IT = {("DELETE", "/session"), ("DELETE", "/account/sessions"), ("PUT", "/account/password")}
"""What would end the session that asks: asked by hand elsewhere."""


class Shop:
    """Things that are really there, made again where a request took them away."""

    def __init__(self, api: Api, job: Job) -> None:
        self.api, self.document = api, job.document
        self.workshop = Workshop.objects.get(name="Hill Decals")
        self.owner = User.objects.get(first_name="ada")

    def job_id(self) -> int:
        job = Job.objects.filter(workshop=self.workshop).first()
        if job is None:
            job = Job.start(self.workshop, load_job(self.document))
            Drawing.keep(job, "moon-band.svg", drawing("moon-band.svg"))
        return job.pk

    def blank_id(self) -> int:
        kept = self.workshop.shelf.first()
        return (kept or keeping.keep(Job.objects.get(pk=self.job_id()))).pk

    def item_id(self) -> int:
        item = self.workshop.folio.first()
        return (item or FolioItem.keep(self.workshop, "moon.svg", folio_in(drawing("moon-band.svg"), "moon.svg"))).pk

    def piece_id(self) -> str:
        piece = {"id": "r1", "film": "calendered-gloss", "name": "midnight", "form": "roll"}
        self.workshop.refresh_from_db()
        self.workshop.tables["stock"] = [{**piece, "width_mm": 305, "length_mm": 900}]
        self.workshop.save()
        return "r1"

    def cut_id(self) -> int:
        job = Job.objects.get(pk=self.job_id())
        return CutLoad.objects.create(workshop=self.workshop, job=job, load="0", name="midnight").pk

    def on_id(self) -> int:
        """A load on a machine that is not there."""
        job = Job.objects.get(pk=self.job_id())
        line = np.array([[0.0, 0.0], [10.0, 0.0]])
        one = {"film": "cast", "name": "midnight", "film_um": 50, "seconds": 1.0, "metres": 0.01, "strokes": 1}
        return OnCutter.objects.create(
            workshop=self.workshop,
            job=job,
            cutter="desktop-mat",
            load="0",
            name="midnight",
            strokes=Passes([[line]], [[line]], [[line]]).as_bytes(),
            passes=[{**one, "smallest_mm": 2.0, "setting": {}, "blade": "", "round": 1, "corner": None}],
        ).pk

    def work_id(self) -> int:
        work = Work.objects.filter(workshop=self.workshop).first()
        return (work or tasks.start(Work(workshop=self.workshop, kind="tickets"))).pk

    def member_id(self) -> int:
        member = Membership.objects.filter(workshop=self.workshop).exclude(user=self.owner).first()
        if member is None:
            user = accounts.new_account(self.workshop, "cy", "a long enough secret", Role.MAKER)
            member = user.memberships.get()
        return member.pk

    def invitation_id(self) -> int:
        return accounts.invite(self.workshop, Role.MAKER)[0].pk

    def code(self) -> str:
        return accounts.invite(self.workshop, Role.MAKER)[1]

    def name(self) -> str:
        return "moon-band.svg"


def ask_all(shop: Shop, op: Any, codes: Counter[int]) -> None:
    """Requests to one endpoint; four of five are about what is there."""

    @settings(max_examples=EACH, deadline=None, suppress_health_check=list(HealthCheck), database=None)
    @given(case=op.as_strategy(), real=st.integers(0, 4), file=st.sampled_from(FILES))
    def run(case: Any, real: int, file: bytes) -> None:
        if real:
            case.path_parameters = {name: getattr(shop, name)() for name in case.path_parameters or {}}
        own = Membership.objects.filter(user=shop.owner).values_list("pk", flat=True)
        if (case.path_parameters or {}).get("member_id") in own:
            # Whoever asks is not taken out: nothing could be asked after that.
            return
        path = case.formatted_path.removeprefix("/api")
        query = {k: v for k, v in (case.query or {}).items() if isinstance(v, (str, int))}
        if "multipart" in (case.media_type or ""):
            answer = shop.api.client.post(
                f"/api{path}", {"file": SimpleUploadedFile("a.svg", file)}, headers={"X-CSRFToken": shop.api.token}
            )
        else:
            body = None if isinstance(case.body, NotSet) else case.body
            answer = shop.api(case.method.upper(), path, body, query_params=query)
        assert answer.status_code < 500, (case.method, path, query, case.body, answer.content)
        codes[answer.status_code] += 1
        if answer.status_code >= 400 and answer.status_code != 405:
            assert {"code", "message", "hint", "faults"} <= set(answer.json()), (path, answer.content)
        if not Membership.objects.filter(user=shop.owner, workshop=shop.workshop, role=Role.OWNER).exists():
            Membership.objects.update_or_create(user=shop.owner, workshop=shop.workshop, defaults={"role": Role.OWNER})

    run()


def test_nothing_asked_about_things_that_are_there_is_a_fault(api: Api, job: Job) -> None:
    spec = schemathesis.openapi.from_dict(ninja.get_openapi_schema())
    shop, codes = Shop(api, job), Counter[int]()
    for operation in spec.get_all_operations():
        op = operation.ok()
        if (op.method.upper(), op.path.removeprefix("/api")) not in ENDS_IT:
            ask_all(shop, op, codes)
    print(f"{codes.total()} requests: {dict(codes)}")
    # Many of them really do something, many are refused.
    assert codes.total() > 40 * EACH and codes[200] + codes[201] + codes[202] + codes[204] > codes.total() / 4
    assert codes[422] > 0 and codes[404] > 0
