"""Two workshops, each with a member, and a job in the first."""

from __future__ import annotations

import json
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.test import Client
from samples import cup, drawing, example
from wimple_core.job import load_job
from wimple_server.jobs.models import Drawing, Job
from wimple_server.workshops.models import Membership, Workshop


class Api:
    """A signed-in client that speaks JSON."""

    def __init__(self, user: User | None = None) -> None:
        self.client = Client(enforce_csrf_checks=True)
        if user:
            self.client.force_login(user)
        self.token = self.client.get("/api/session").json()["csrf"]

    def __call__(self, method: str, path: str, body: Any = None, **more: Any):  # type: ignore[no-untyped-def]
        data = {} if body is None else {"data": json.dumps(body), "content_type": "application/json"}
        return self.client.generic(method, f"/api{path}", headers={"X-CSRFToken": self.token}, **data, **more)

    def upload(self, path: str, name: str, data: bytes):  # type: ignore[no-untyped-def]
        from django.core.files.uploadedfile import SimpleUploadedFile

        return self.client.post(f"/api{path}", {"file": SimpleUploadedFile(name, data)}, headers={"X-CSRFToken": self.token})


def member(name: str, workshop: str) -> User:
    user = User.objects.create_user(name, password="a long enough secret")
    Membership.objects.create(user=user, workshop=Workshop.objects.create(name=workshop))
    return user


@pytest.fixture()
def api(db: None) -> Api:
    return Api(member("ada", "Hill Decals"))


@pytest.fixture()
def stranger(db: None) -> Api:
    return Api(member("bo", "Valley Decals"))


@pytest.fixture()
def job(api: Api) -> Job:
    started = Job.start(Workshop.objects.get(name="Hill Decals"), load_job(example("perihelion-cup")))
    Drawing.objects.create(job=started, name="moon-band.svg", data=drawing("moon-band.svg"))
    return started


@pytest.fixture()
def plain(api: Api) -> Job:
    return Job.start(Workshop.objects.get(name="Hill Decals"), load_job(cup()))
