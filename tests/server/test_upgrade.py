"""A database of an earlier program is brought up to date: nobody's name, password or history is lost."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from samples import ROOT

BEFORE = """
import json
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
to = [("workshops", "0002_workshop_tables_keptresult"), ("jobs", "0005_works_and_digests")]
executor = MigrationExecutor(connection)
executor.migrate(to)
apps = executor.loader.project_state(to).apps
User, Workshop = apps.get_model("auth", "User"), apps.get_model("workshops", "Workshop")
Member, Job, State = (apps.get_model(*m) for m in (("workshops", "Membership"), ("jobs", "Job"), ("jobs", "JobState")))
shops = [Workshop.objects.create(name=n) for n in ("Hill Decals", "Hill decals!", "…")]
people = [User.objects.create(username=n, password="kept as it is") for n in ("Anna", "bo@post.example", "anna")]
for user, shop in ((0, 0), (1, 0), (1, 1), (2, 0)):
    Member.objects.create(user=people[user], workshop=shops[shop])
job = Job.objects.create(workshop=shops[0], document={"title": "c"}, revision=9, position=2)
for n in range(4):
    State.objects.create(job=job, position=n, document={"title": "abcd"[n]})
"""
AFTER = """
import json
from django.contrib.auth.models import User
from wimple_server.workshops.models import Membership, Workshop
from wimple_server.jobs.models import Job
print(json.dumps({
    "shops": list(Workshop.objects.order_by("pk").values_list("short", flat=True)),
    "people": [[u.username, u.first_name, u.password] for u in User.objects.order_by("pk")],
    "roles": [[m.user.first_name, m.workshop.short, m.role] for m in Membership.objects.all()],
    "states": [[s.revision, s.position, s.via, s.document["title"]]
               for s in Job.objects.get().states.order_by("revision")],
    "steps": [Job.objects.get().can_undo, Job.objects.get().can_redo],
}))
"""


@pytest.fixture()
def run(tmp_path: Path) -> Any:
    env = {**os.environ, "WIMPLE_MODE": "demo", "WIMPLE_DATA": str(tmp_path)}
    env.pop("WIMPLE_DATABASE", None)
    env["DJANGO_SETTINGS_MODULE"] = "wimple_server.settings"
    env["PYTHONPATH"] = os.pathsep.join([str(ROOT / "server"), str(ROOT / "core")])

    def run(*command: str) -> str:
        done = subprocess.run([sys.executable, *command], env=env, capture_output=True, text=True)
        assert done.returncode == 0, done.stderr
        return done.stdout

    return run


def test_accounts_roles_and_history_come_along(run: Any) -> None:
    run("-c", f"import django; django.setup()\n{BEFORE}")
    run(str(ROOT / "server" / "manage.py"), "migrate", "-v", "0")
    found = json.loads(run("-c", f"import django; django.setup()\n{AFTER}"))
    assert found["shops"] == ["hill-decals", "hill-decals-2", "workshop"]
    assert found["people"] == [
        ["anna@hill-decals", "Anna", "kept as it is"],
        ["bo at post.example@hill-decals", "bo at post.example", "kept as it is"],
        ["anna 2@hill-decals", "anna", "kept as it is"],
    ]
    assert found["roles"] == [
        ["Anna", "hill-decals", "owner"],
        ["bo at post.example", "hill-decals", "maker"],
        ["bo at post.example", "hill-decals-2", "owner"],
        ["anna", "hill-decals", "maker"],
    ]
    assert found["states"] == [[6, 0, "started", "a"], [7, 1, "saved", "b"], [8, 2, "saved", "c"], [9, 3, "saved", "d"]]
    assert found["steps"] == [True, True]
