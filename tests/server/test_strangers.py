"""Every endpoint that takes an id of something is called with ids that exist, by a member of another workshop: nothing
is told, nothing is changed. A new endpoint is called by itself; a new kind of id has no value here, and fails."""

from __future__ import annotations

import re
from typing import Any

import pytest
from django.apps import apps
from django.core import serializers
from samples import cup, drawing
from server_api import Api
from wimple_core.job import load_job
from wimple_server.api import api as ninja
from wimple_server.cutters.models import CutLoad, OnCutter
from wimple_server.folio.models import FolioItem
from wimple_server.jobs.models import Drawing, Job
from wimple_server.people.accounts import new_account
from wimple_server.people.models import Invitation
from wimple_server.shelf.models import ShelfBlank
from wimple_server.works.models import Work
from wimple_server.workshops.models import Membership, Role, Workshop

SECRET = "a code, which is itself the key"
OPEN = {"code"}
"""Ids that whoever holds them may use."""
PIECE = {
    "film": "calendered-gloss",
    "name": "black",
    "form": "sheet",
    "width_mm": "300",
    "length_mm": "300",
    "sheets": 2,
}
BODIES: dict[tuple[str, str], dict[str, Any]] = {
    ("PUT", "/jobs/{job_id}"): {"revision": 1, "document": cup()},
    ("POST", "/jobs/{job_id}/places"): {"document": {}, "element": 0, "placement": 0, "places": [[0, 0]]},
    ("POST", "/jobs/{job_id}/match"): {"document": {}, "element": 0, "placement": 0, "pairs": [[[0, 0], [0, 0]]]},
    ("PUT", "/stock/pieces/{piece_id}"): {"piece": PIECE},
}
"""What is sent where the schema does not tell enough of it."""


@pytest.fixture()
def there(api: Api, job: Job) -> dict[str, Any]:
    """One of each kind of thing in the first workshop, by the name its id has in a path or a body."""
    hill = Workshop.objects.get(name="Hill Decals")
    user = new_account(hill, "cy", "a long enough secret", Role.MAKER)
    assert api("POST", "/invitations", {"role": "maker", "note": ""}).status_code == 201
    assert api("POST", "/stock/pieces", {"piece": PIECE}).status_code == 201
    assert api("POST", "/shelf", {"job": job.pk, "name": "Kept"}).status_code == 201
    assert api("POST", "/folio/from-job", {"job": job.pk, "file": "moon-band.svg"}).status_code == 201
    hill.refresh_from_db()
    work = Work.objects.create(workshop=hill, job=job, kind=Work.Kind.FILES, status="done", made=b"PK")
    on = OnCutter.objects.create(workshop=hill, job=job, cutter="desktop-mat", load="d", name="gold", strokes=b"")
    return {
        "job_id": job.pk,
        "member_id": Membership.objects.get(user=user).pk,
        "invitation_id": Invitation.objects.get(workshop=hill).pk,
        "on_id": on.pk,
        "cut_id": CutLoad.objects.create(workshop=hill, job=job, load="d", name="gold").pk,
        "piece_id": hill.load_tables().stock[0].id,
        "work_id": work.pk,
        "blank_id": ShelfBlank.objects.get(workshop=hill).pk,
        "item_id": FolioItem.objects.get(workshop=hill).pk,
        "name": "moon-band.svg",
    }


IN_BODIES = {"job": "job_id", "blank": "blank_id", "item": "item_id", "work": "work_id", "ids": "blank_id"}
"""What an id is called where it is asked for in a body or behind a question mark."""


def schema_of(of: dict[str, Any], every: dict[str, Any]) -> dict[str, Any]:
    if "$ref" in of:
        return schema_of(every[of["$ref"].rsplit("/", 1)[-1]], every)
    for some in ("anyOf", "allOf"):
        if some in of:
            return schema_of(next(x for x in of[some] if x.get("type") != "null"), every)
    return of


def sample(of: dict[str, Any], every: dict[str, Any], there: dict[str, Any], name: str = "") -> Any:
    """The least that a schema takes, with ids of what is there."""
    of = schema_of(of, every)
    if name in IN_BODIES and of.get("type") in ("integer", "string"):
        return there[IN_BODIES[name]]
    kind = of.get("type")
    if "enum" in of or "const" in of:
        return of.get("const", of.get("enum", [None])[0])
    if kind == "object":
        some = {*of.get("required", []), *(n for n in of.get("properties", {}) if n in IN_BODIES)}
        return {n: sample(p, every, there, n) for n, p in of.get("properties", {}).items() if n in some}
    if kind == "array":
        return [sample(of["items"], every, there) for _ in range(of.get("minItems", 0))] if "items" in of else []
    return {"integer": 1, "number": 1.0, "boolean": True, "string": "right"}.get(str(kind), {})


def everything() -> dict[str, Any]:
    """All that is written down, of all workshops."""
    names = ("workshops", "people", "jobs", "shelf", "folio", "stock", "cutters", "works")
    models = [m for m in apps.get_models() if m._meta.app_label in names]
    return {m.__name__: serializers.serialize("json", m._default_manager.order_by("pk")) for m in models}


def asked() -> list[tuple[str, str, dict[str, Any]]]:
    paths = ninja.get_openapi_schema()["paths"]
    return [
        (method.upper(), path.removeprefix("/api"), about)
        for path, ways in paths.items()
        for method, about in ways.items()
    ]


def takes_an_id(path: str, about: dict[str, Any], every: dict[str, Any]) -> bool:
    if set(re.findall(r"{(\w+)}", path)) - OPEN:
        return True
    body = next(iter(about.get("requestBody", {}).get("content", {}).values()), {}).get("schema", {})
    named = set(schema_of(body, every).get("properties", {})) | {p["name"] for p in about.get("parameters", [])}
    return bool(named & set(IN_BODIES))


@pytest.mark.django_db()
def test_nothing_is_told_to_a_member_of_another_workshop(stranger: Api, there: dict[str, Any]) -> None:
    every = ninja.get_openapi_schema()["components"]["schemas"]
    before, called, told = everything(), 0, list[tuple[str, str, int, bytes]]()
    for method, path, about in asked():
        if not takes_an_id(path, about, every):
            continue
        names = re.findall(r"{(\w+)}", path)
        assert set(names) <= {*there, *OPEN}, f"{path}: tell one that exists"
        at = path.format(**{n: there.get(n, "nobody") for n in names})
        query = [p["name"] for p in about.get("parameters", []) if p["in"] == "query"]
        at += "?" + "&".join(
            f"{n}={there[IN_BODIES[n]] if n in IN_BODIES else 'moon-band.svg' if n == 'file' else 1}" for n in query
        )
        content = about.get("requestBody", {}).get("content", {})
        if "multipart/form-data" in content:
            answer = stranger.upload(at, "moon-band.svg", drawing("moon-band.svg"))
        else:
            schema = next(iter(content.values()), {}).get("schema")
            body = BODIES.get((method, path), sample(schema, every, there) if schema else None)
            answer = stranger(method, at, body)
        if answer.status_code != 404:
            told.append((method, path, answer.status_code, answer.content[:200]))
        called += 1
    assert not told
    assert called > 45 and everything() == before


@pytest.mark.django_db()
def test_what_another_workshop_uses_is_not_counted(stranger: Api, there: dict[str, Any]) -> None:
    """The same drawing kept and used in both: each sees its own jobs only."""
    valley = Workshop.objects.get(name="Valley Decals")
    assert stranger("GET", "/folio").json()["items"] == [] and stranger("GET", "/jobs").json()["total"] == 0
    mine = Job.start(valley, load_job(cup()))
    Drawing.keep(mine, "moon-band.svg", drawing("moon-band.svg"))
    assert stranger("POST", "/folio/from-job", {"job": mine.pk, "file": "moon-band.svg"}).status_code == 201
    (card,) = stranger("GET", "/folio").json()["items"]
    assert card["used"] == 1
    used = stranger("GET", f"/folio/{card['id']}/used-in").json()
    assert [j["job"] for j in used] == [mine.pk]
    assert stranger("GET", "/stock").json()["films"] == [] or "black" not in str(
        stranger("GET", "/stock").json()["films"]
    )


@pytest.mark.django_db()
def test_film_is_written_down_in_the_workshops_own_unit(api: Api) -> None:
    """A foot by two as typed in inches: 304.8 by 609.6 mm."""
    hill = Workshop.objects.get(name="Hill Decals")
    assert api("PATCH", "/workshop", {"length_style": "in_fraction"}).status_code == 200
    assert api("POST", "/stock/pieces", {"piece": {**PIECE, "width_mm": "12", "length_mm": "24"}}).status_code == 201
    hill.refresh_from_db()
    (piece,) = hill.load_tables().stock
    assert (piece.width_mm, piece.length_mm) == (pytest.approx(304.8), pytest.approx(609.6))
