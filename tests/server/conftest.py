"""Two workshops, each with a member, and a job in the first."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import User
from samples import cup, drawing, example
from server_api import Api
from wimple_core.job import load_job
from wimple_server.jobs.models import Drawing, Job
from wimple_server.people.accounts import new_account
from wimple_server.workshops.models import Role, Workshop


def member(name: str, workshop: str) -> User:
    return new_account(Workshop.objects.create(name=workshop), name, "a long enough secret", Role.OWNER)


@pytest.fixture()
def api(db: None) -> Api:
    return Api(member("ada", "Hill Decals"))


@pytest.fixture()
def stranger(db: None) -> Api:
    return Api(member("bo", "Valley Decals"))


@pytest.fixture()
def job(api: Api) -> Job:
    started = Job.start(Workshop.objects.get(name="Hill Decals"), load_job(example("perihelion-cup")))
    Drawing.keep(started, "moon-band.svg", drawing("moon-band.svg"))
    return started


@pytest.fixture()
def plain(api: Api) -> Job:
    return Job.start(Workshop.objects.get(name="Hill Decals"), load_job(cup()))
