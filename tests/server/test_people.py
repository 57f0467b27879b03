"""People: signing in and guessing, members and their roles, links that let people in, who changed what."""

from __future__ import annotations

import datetime as dt
import threading
import time
from collections.abc import Callable
from typing import Any

import pytest
from django.contrib.auth.hashers import get_hasher
from django.contrib.auth.models import User
from django.db import connections
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory, override_settings
from hypothesis import given
from hypothesis import strategies as st
from samples import cup
from server_api import Api
from wimple_core.errors import BadDocument
from wimple_core.job import load_job
from wimple_core.job.changes import what_changed
from wimple_server.api import api as ninja
from wimple_server.jobs.models import Job
from wimple_server.people import accounts, guessing, session_api
from wimple_server.people.models import Guesses, Invitation, SignedIn
from wimple_server.proxy import TrustedProxy
from wimple_server.workshops.models import Membership, Role, Workshop

SECRET = "a long enough secret"


def nobody() -> Api:
    return Api()


def in_role(role: str, name: str = "cy") -> Api:
    return Api(accounts.new_account(Workshop.objects.get(name="Hill Decals"), name, SECRET, role))


def signs_in(name: str, password: str = SECRET, workshop: str = "", by: Api | None = None, **more: Any) -> Any:
    return (by or nobody())("POST", "/session", {"username": name, "password": password, "workshop": workshop}, **more)


# -- roles ---------------------------------------------------------------------------------------------------------

LEAST = {
    ("GET", "/session"): None,
    ("POST", "/session"): None,
    ("DELETE", "/session"): None,
    ("POST", "/session/demo"): None,
    ("PUT", "/session/workshop"): "signed in",
    ("DELETE", "/account/sessions"): "signed in",
    ("PUT", "/account/password"): "signed in",
    ("GET", "/join/{code}"): None,
    ("POST", "/join/{code}"): None,
    ("POST", "/join/{code}/mine"): "signed in",
    ("GET", "/people"): Role.OWNER,
    ("PATCH", "/people/{member_id}"): Role.OWNER,
    ("DELETE", "/people/{member_id}"): Role.OWNER,
    ("POST", "/people/{member_id}/password"): Role.OWNER,
    ("POST", "/invitations"): Role.OWNER,
    ("DELETE", "/invitations/{invitation_id}"): Role.OWNER,
    ("PATCH", "/workshop"): Role.MAKER,
    ("GET", "/tables"): Role.VIEWER,
    ("PUT", "/tables/colours"): Role.MAKER,
    ("PUT", "/tables/log"): Role.MAKER,
    ("GET", "/stock"): Role.VIEWER,
    ("POST", "/stock/pieces"): Role.MAKER,
    ("PUT", "/stock/pieces/{piece_id}"): Role.MAKER,
    ("DELETE", "/stock/pieces/{piece_id}"): Role.MAKER,
    ("PUT", "/stock/remnant"): Role.MAKER,
    ("GET", "/cutters"): Role.VIEWER,
    ("PUT", "/cutters"): Role.OWNER,
    ("GET", "/cutters/log"): Role.VIEWER,
    ("GET", "/jobs/{job_id}/cutting"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/cutting"): Role.MAKER,
    ("GET", "/cutting/{on_id}"): Role.VIEWER,
    ("GET", "/cutting/{on_id}/lines"): Role.VIEWER,
    ("POST", "/cutting/{on_id}/next"): Role.MAKER,
    ("POST", "/cutting/{on_id}/trial"): Role.MAKER,
    ("POST", "/cutting/tapped"): Role.VIEWER,
    ("GET", "/jobs/{job_id}/cuts"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/cuts/offer"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/cuts"): Role.MAKER,
    ("DELETE", "/jobs/{job_id}/cuts/{cut_id}"): Role.MAKER,
    ("GET", "/jobs"): Role.VIEWER,
    ("POST", "/jobs"): Role.MAKER,
    ("GET", "/jobs/{job_id}"): Role.VIEWER,
    ("PUT", "/jobs/{job_id}"): Role.MAKER,
    ("DELETE", "/jobs/{job_id}"): Role.MAKER,
    ("POST", "/jobs/{job_id}/copy"): Role.MAKER,
    ("POST", "/jobs/{job_id}/undo"): Role.MAKER,
    ("POST", "/jobs/{job_id}/redo"): Role.MAKER,
    ("GET", "/jobs/{job_id}/history"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/restore"): Role.MAKER,
    ("POST", "/jobs/{job_id}/build"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/drawings"): Role.MAKER,
    ("POST", "/jobs/{job_id}/make"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/outline"): Role.MAKER,
    ("POST", "/jobs/{job_id}/mesh"): Role.MAKER,
    ("POST", "/jobs/{job_id}/photo"): Role.MAKER,
    ("GET", "/jobs/{job_id}/pictures/{name}"): Role.VIEWER,
    ("POST", "/works"): Role.VIEWER,
    ("GET", "/works/{work_id}"): Role.VIEWER,
    ("DELETE", "/works/{work_id}"): Role.VIEWER,
    ("GET", "/works/{work_id}/zip"): Role.VIEWER,
    ("GET", "/works/{work_id}/files/{name}"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/grow"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/places"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/match"): Role.VIEWER,
    ("POST", "/jobs/{job_id}/list"): Role.MAKER,
    ("POST", "/jobs/{job_id}/reference"): Role.MAKER,
    ("GET", "/jobs/{job_id}/place"): Role.VIEWER,
    ("GET", "/jobs/{job_id}/features"): Role.VIEWER,
    ("GET", "/folio"): Role.VIEWER,
    ("POST", "/folio"): Role.MAKER,
    ("POST", "/folio/from-job"): Role.MAKER,
    ("GET", "/folio/export"): Role.VIEWER,
    ("GET", "/folio/{item_id}/used-in"): Role.VIEWER,
    ("GET", "/folio/{item_id}/file"): Role.VIEWER,
    ("PATCH", "/folio/{item_id}"): Role.MAKER,
    ("DELETE", "/folio/{item_id}"): Role.MAKER,
    ("POST", "/folio/{item_id}/jobs/{job_id}"): Role.MAKER,
    ("GET", "/shelf"): Role.VIEWER,
    ("POST", "/shelf"): Role.MAKER,
    ("GET", "/shelf/export"): Role.VIEWER,
    ("POST", "/shelf/import"): Role.MAKER,
    ("GET", "/shelf/compare"): Role.VIEWER,
    ("GET", "/shelf/{blank_id}"): Role.VIEWER,
    ("PATCH", "/shelf/{blank_id}"): Role.MAKER,
    ("DELETE", "/shelf/{blank_id}"): Role.MAKER,
    ("POST", "/shelf/{blank_id}/copy"): Role.MAKER,
    ("POST", "/shelf/{blank_id}/jobs"): Role.MAKER,
    ("POST", "/shelf/{blank_id}/picture"): Role.MAKER,
    ("GET", "/shelf/{blank_id}/picture"): Role.VIEWER,
}
"""What each endpoint asks for at least. A new endpoint has no line here, and fails."""
RANK = [Role.VIEWER, Role.MAKER, Role.OWNER]


def endpoints() -> set[tuple[str, str]]:
    paths = ninja.get_openapi_schema()["paths"]
    return {(method.upper(), path.removeprefix("/api")) for path, ways in paths.items() for method in ways}


def test_every_endpoint_asks_for_its_role(api: Api) -> None:
    assert endpoints() == set(LEAST)
    outside = accounts.new_account(Workshop.objects.create(name="Empty"), "zed", SECRET, Role.OWNER)
    Membership.objects.filter(user=outside).delete()
    hands = {role: in_role(role, str(role)) for role in RANK} | {"none": nobody(), "outside": Api(outside)}
    for (method, path), least in LEAST.items():
        if least is None or least == "signed in":
            continue
        at = path.replace("{member_id}", "999").replace("{invitation_id}", "999").replace("{", "").replace("}", "")
        for part in ("job_id", "work_id", "blank_id", "item_id", "cut_id", "on_id"):
            at = at.replace(part, "999")
        for who, hand in hands.items():
            code = hand(method, at, {} if method != "GET" else None).status_code
            wanted = 401 if who == "none" else 403 if who == "outside" or RANK.index(who) < RANK.index(least) else None
            assert code == wanted if wanted else code not in (401, 403), (method, path, who, code)


def test_a_viewer_looks_at_a_job_and_changes_nothing(api: Api, job: Job) -> None:
    viewer = in_role(Role.VIEWER)
    before = (job.revision, job.document, job.states.count())
    assert (
        viewer.scene(job.pk, job.document, "layers")["layers"] and viewer("GET", f"/jobs/{job.pk}").status_code == 200
    )
    changed = {**job.document, "title": "Mine"}
    assert viewer("PUT", f"/jobs/{job.pk}", {"revision": 1, "document": changed}).status_code == 403
    job.refresh_from_db()
    assert (job.revision, job.document, job.states.count()) == before
    assert viewer.work("files", job=job.pk).status_code == 202


def test_a_role_taken_away_is_gone_at_once(api: Api, plain: Job) -> None:
    maker = in_role(Role.MAKER)
    (other,) = [m for m in api("GET", "/people").json()["members"] if not m["me"]]
    assert other["account"] == "cy@hill-decals" and other["role"] == "maker"
    assert api("PATCH", f"/people/{other['id']}", {"role": "viewer"}).json()["role"] == "viewer"
    assert maker("POST", "/jobs", {"kind": "cup"}).status_code == 403
    assert api("DELETE", f"/people/{other['id']}").status_code == 204
    assert maker("GET", f"/jobs/{plain.pk}").status_code == 401
    assert signs_in("cy").status_code == 403 and not User.objects.filter(first_name="cy").exists()


def test_a_workshop_keeps_an_owner(api: Api) -> None:
    (me,) = api("GET", "/people").json()["members"]
    for refused in (api("PATCH", f"/people/{me['id']}", {"role": "maker"}), api("DELETE", f"/people/{me['id']}")):
        assert refused.status_code == 422 and "only owner" in refused.json()["message"]
    in_role(Role.OWNER)
    assert api("PATCH", f"/people/{me['id']}", {"role": "maker"}).status_code == 200
    assert api("GET", "/people").status_code == 403


# -- names, links, several workshops -------------------------------------------------------------------------------


def test_two_workshops_each_have_an_anna(api: Api, stranger: Api) -> None:
    hill, valley = Workshop.objects.get(name="Hill Decals"), Workshop.objects.get(name="Valley Decals")
    accounts.new_account(hill, "Anna", "first of all secrets", Role.MAKER)
    accounts.new_account(valley, "anna", "second of all secrets", Role.MAKER)
    assert signs_in("anna", "first of all secrets", "hill-decals").json()["workshop"]["name"] == "Hill Decals"
    assert signs_in("ANNA ", "second of all secrets", "Valley-Decals").json()["workshop"]["name"] == "Valley Decals"
    assert signs_in("anna@hill-decals", "first of all secrets").json()["user"] == "Anna"
    assert signs_in("anna", "first of all secrets").status_code == 403
    assert signs_in("anna", "second of all secrets", "hill-decals").status_code == 403
    with pytest.raises(BadDocument, match="already"):
        accounts.new_account(hill, "ANNA", SECRET, Role.VIEWER)
    assert signs_in("ada").status_code == 200  # the only one of that name
    accounts.new_account(hill, "cy at post.example", SECRET, Role.MAKER)
    assert signs_in("Cy@post.example").status_code == 200  # as from before names had workshops


def test_a_link_lets_one_in_once(api: Api) -> None:
    made = api("POST", "/invitations", {"role": "viewer", "note": "for Dee"}).json()
    assert api("GET", "/people").json()["invitations"][0]["code"] is None
    assert not Invitation.objects.filter(digest__contains=made["code"]).exists()
    new = nobody()
    assert new("GET", f"/join/{made['code']}").json() == {"workshop": "Hill Decals", "role": "viewer", "renews": None}
    for bad in (
        {"name": "", "password": SECRET},
        {"name": "d@e", "password": SECRET},
        {"name": "ada", "password": SECRET},
        {"name": "d\uff20e", "password": SECRET},  # a wide sign that folds to @
        {"name": 20 * "\ufdfa", "password": SECRET},  # one that folds to eighteen
        {"name": 61 * "d", "password": SECRET},
    ):
        refused = new("POST", f"/join/{made['code']}", bad)
        assert refused.status_code == 422 and refused.json()["field"] == "name"
    weak = new("POST", f"/join/{made['code']}", {"name": "dee", "password": "short"})
    assert weak.status_code == 422 and weak.json()["field"] == "password"
    joined = new("POST", f"/join/{made['code']}", {"name": "Dee", "password": SECRET})
    assert joined.json()["role"] == "viewer" and joined.json()["account"] == "dee@hill-decals"
    assert nobody()("POST", f"/join/{made['code']}", {"name": "eve", "password": SECRET}).status_code == 422
    old = api("POST", "/invitations", {}).json()
    Invitation.objects.update(ends=dt.datetime.now(dt.UTC) - dt.timedelta(seconds=1))
    assert nobody()("GET", f"/join/{old['code']}").status_code == 422
    withdrawn = api("POST", "/invitations", {}).json()
    assert api("DELETE", f"/invitations/{withdrawn['id']}").status_code == 204
    assert nobody()("POST", f"/join/{withdrawn['code']}", {"name": "eve", "password": SECRET}).status_code == 422


def test_one_person_in_two_workshops_chooses(api: Api, stranger: Api, job: Job) -> None:
    code = api("POST", "/invitations", {"role": "maker"}).json()["code"]
    before = User.objects.get(first_name="bo").password
    both = stranger("POST", f"/join/{code}/mine").json()
    assert [w["role"] for w in both["workshops"]] == ["owner", "maker"] and both["workshop"]["name"] == "Hill Decals"
    assert User.objects.get(first_name="bo").password == before
    assert stranger("GET", f"/jobs/{job.pk}").status_code == 200 and stranger("GET", "/people").status_code == 403
    valley = Workshop.objects.get(name="Valley Decals")
    assert stranger("PUT", "/session/workshop", {"workshop": valley.pk}).json()["role"] == "owner"
    assert stranger("GET", f"/jobs/{job.pk}").status_code == 404 and stranger("GET", "/people").status_code == 200
    other = Workshop.objects.create(name="Third")
    assert stranger("PUT", "/session/workshop", {"workshop": other.pk}).status_code == 404
    # No owner of one workshop opens the other's door by a new password.
    (bo,) = [m for m in api("GET", "/people").json()["members"] if m["name"] == "bo"]
    assert api("POST", f"/people/{bo['id']}/password").status_code == 422
    assert api("DELETE", f"/people/{bo['id']}").status_code == 204
    assert signs_in("bo").json()["workshop"]["name"] == "Valley Decals"


def test_a_forgotten_password_is_renewed_by_a_link(api: Api) -> None:
    maker = in_role(Role.MAKER)
    (cy,) = [m for m in api("GET", "/people").json()["members"] if m["name"] == "cy"]
    code = api("POST", f"/people/{cy['id']}/password").json()["code"]
    assert nobody()("GET", f"/join/{code}").json()["renews"] == "cy"
    assert nobody()("POST", f"/join/{code}", {"password": "quite another secret"}).json()["user"] == "cy"
    assert maker("GET", "/jobs").status_code == 401
    assert signs_in("cy").status_code == 403 and signs_in("cy", "quite another secret").status_code == 200


def test_a_link_to_a_new_password_opens_no_workshop_come_into_since(api: Api, stranger: Api) -> None:
    maker = in_role(Role.MAKER)
    (cy,) = [m for m in api("GET", "/people").json()["members"] if m["name"] == "cy"]
    renewal = api("POST", f"/people/{cy['id']}/password").json()["code"]
    into = stranger("POST", "/invitations", {"role": "owner"}).json()["code"]
    assert maker("POST", f"/join/{into}/mine").status_code == 200
    refused = nobody()("POST", f"/join/{renewal}", {"password": "quite another secret"})
    assert refused.status_code == 422 and "another workshop" in refused.json()["message"]
    assert signs_in("cy").status_code == 200


# -- passwords and sessions ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "bad", ["short", "password123", "12345678901234", "Hill-Decals-1", "ada-hill-decals", "hill-decals"]
)
def test_passwords_that_are_easily_guessed_are_refused(api: Api, bad: str) -> None:
    refused = api("PUT", "/account/password", {"old": SECRET, "new": bad})
    assert refused.status_code == 422 and refused.json()["field"] == "password" and refused.json()["hint"]
    assert signs_in("ada").status_code == 200


def test_a_new_password_ends_every_other_session(api: Api) -> None:
    elsewhere = nobody()
    assert signs_in("ada", by=elsewhere).status_code == 200
    wrong = api("PUT", "/account/password", {"old": "not it", "new": "quite another secret"})
    assert wrong.status_code == 422 and wrong.json()["field"] == "old"
    changed = api("PUT", "/account/password", {"old": SECRET, "new": "quite another secret"})
    assert changed.status_code == 200
    api.token = changed.json()["csrf"]
    assert api("GET", "/jobs").status_code == 200 and elsewhere("GET", "/jobs").status_code == 401
    assert signs_in("ada").status_code == 403 and signs_in("ada", "quite another secret").status_code == 200


def test_signing_out_everywhere(api: Api, stranger: Api) -> None:
    elsewhere = nobody()
    signs_in("ada", by=elsewhere)
    assert SignedIn.objects.filter(account=User.objects.get(first_name="ada").pk).count() == 2
    assert api("DELETE", "/account/sessions").status_code == 204
    assert elsewhere("GET", "/jobs").status_code == api("GET", "/jobs").status_code == 401
    assert stranger("GET", "/jobs").status_code == 200


def test_sessions_slide_and_end(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    def session() -> Any:
        return SignedIn.objects.get(account=User.objects.get(first_name="ada").pk)

    api("GET", "/jobs")
    first = session().expire_date
    api("GET", "/jobs")
    assert session().expire_date == first  # not written at each request
    now, begun = time.time, time.time()
    monkeypatch.setattr(time, "time", lambda: now() + 2 * 3600)
    real = dt.datetime.now(dt.UTC)
    monkeypatch.setattr("django.utils.timezone.now", lambda: real + dt.timedelta(hours=2))
    api("GET", "/jobs")
    assert session().expire_date - first == pytest.approx(dt.timedelta(hours=2), abs=dt.timedelta(minutes=1))
    monkeypatch.undo()
    monkeypatch.setattr(time, "time", lambda: begun + 91 * 24 * 3600)
    assert api("GET", "/jobs").status_code == 401


def test_signing_in_anew_begins_the_longest_time_anew(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    api("GET", "/jobs")
    begun = time.time()
    monkeypatch.setattr(time, "time", lambda: begun + 89 * 24 * 3600)
    api.token = signs_in("ada", by=api).json()["csrf"]
    monkeypatch.setattr(time, "time", lambda: begun + 91 * 24 * 3600)
    assert api("GET", "/jobs").status_code == 200


def test_passwords_are_kept_by_argon2id(api: Api) -> None:
    """OWASP Password Storage Cheat Sheet (from memory): Argon2id with at least 19 MiB and two passes."""
    kept = User.objects.get(first_name="ada").password
    assert kept.startswith("argon2$argon2id$v=19$m=19456,t=2,p=1$")
    old = User.objects.get(first_name="ada")
    old.password = get_hasher("pbkdf2_sha256").encode(SECRET, "saltsaltsaltsaltsaltsa")
    old.save()
    assert signs_in("ada").status_code == 200
    assert User.objects.get(first_name="ada").password.startswith("argon2$")


# -- guessing ------------------------------------------------------------------------------------------------------


@given(st.integers(0, 10_000))
def test_the_pause_grows_and_never_past_half_a_minute(count: int) -> None:
    assert guessing.pause_s(count) <= guessing.pause_s(count + 1) <= 30
    assert guessing.pause_s(3) == 0 and guessing.pause_s(4) == 1 and guessing.pause_s(9) == 30


@pytest.mark.django_db(transaction=True)
def test_forty_guesses_at_once_count_as_forty(monkeypatch: pytest.MonkeyPatch) -> None:
    accounts.new_account(Workshop.objects.create(name="Hill Decals"), "ada", SECRET, Role.OWNER)
    looked: list[str] = []
    at_once = dt.datetime.now(dt.UTC)
    monkeypatch.setattr(guessing.timezone, "now", lambda: at_once)
    real: Callable[..., Any] = session_api.authenticate
    monkeypatch.setattr(
        session_api, "authenticate", lambda request, **who: (looked.append(who["username"]), real(request, **who))[1]
    )
    hands = [nobody() for _ in range(40)]
    codes: list[int] = []
    start = threading.Barrier(40)

    def guess(n: int) -> None:
        start.wait()
        codes.append(signs_in("ada", f"guess {n}", by=hands[n]).status_code)
        connections.close_all()

    threads = [threading.Thread(target=guess, args=(n,)) for n in range(40)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert Guesses.objects.get(key__startswith="address").count == 40
    assert len(looked) == codes.count(403) == guessing.FREE_BY_NAME
    assert codes.count(429) == 40 - len(looked)


def test_guesses_of_one_address_end_for_all_names_and_no_other_address(api: Api) -> None:
    known = nobody()
    assert signs_in("ada", by=known, REMOTE_ADDR="203.0.113.5").status_code == 200
    known("DELETE", "/session")
    known.token = known.client.get("/api/session").json()["csrf"]
    for n in range(guessing.MOST_BY_ADDRESS):
        assert signs_in(f"name {n}", "guess", REMOTE_ADDR="203.0.113.5").status_code == 403
    blocked = signs_in("ada", REMOTE_ADDR="203.0.113.5")
    assert blocked.status_code == 429 and 800 < int(blocked["Retry-After"]) <= 900
    assert "15 minutes" in blocked.json()["message"]
    # Who signed in here before is not kept out by others behind the same address.
    assert signs_in("ada", by=known, REMOTE_ADDR="203.0.113.5").status_code == 200
    assert signs_in("ada", REMOTE_ADDR="203.0.113.6").status_code == 200
    for n in range(guessing.MOST_BY_ADDRESS):  # one subscriber's half of IPv6 is one address
        signs_in(f"other {n}", "guess", REMOTE_ADDR=f"2001:db8::{n + 1:x}")
    assert signs_in("ada", REMOTE_ADDR="2001:db8::ffff").status_code == 429
    assert signs_in("ada", REMOTE_ADDR="2001:db8:0:1::1").status_code == 200


def test_nobodys_guessing_keeps_anybody_else_out(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    known = nobody()
    assert signs_in("ada", by=known).status_code == 200
    real = dt.datetime.now(dt.UTC)
    clock = [real]
    monkeypatch.setattr(guessing.timezone, "now", lambda: clock[0])
    for n in range(100):  # from many addresses, each time as soon as may be
        clock[0] += dt.timedelta(seconds=31)
        assert signs_in("ada", "guess", REMOTE_ADDR=f"198.51.100.{n}").status_code == 403
    known("DELETE", "/session")
    known.token = known.client.get("/api/session").json()["csrf"]
    assert signs_in("ada", by=known, REMOTE_ADDR="198.51.100.7").status_code == 200  # the browser is known
    later = signs_in("ada", REMOTE_ADDR="203.0.113.9")
    assert later.status_code == 429 and int(later["Retry-After"]) == 30
    clock[0] += dt.timedelta(seconds=31)
    assert signs_in("ada", REMOTE_ADDR="203.0.113.9").status_code == 200


def test_the_log_tells_who_came_in_and_who_was_refused(api: Api, caplog: pytest.LogCaptureFixture) -> None:
    caplog.set_level("INFO", logger="wimple.door")
    signs_in("ada", REMOTE_ADDR="203.0.113.5")
    signs_in("ada", "guess", REMOTE_ADDR="203.0.113.6")
    signs_in("my secret in the wrong field", "x", REMOTE_ADDR="203.0.113.7")
    said = [r.getMessage() for r in caplog.records if r.name == "wimple.door"]
    assert said == [
        "ada@hill-decals signed in from 203.0.113.5",
        "ada@hill-decals was refused from 203.0.113.6",
        "a name nobody has was refused from 203.0.113.7",
    ]


def test_a_forged_mark_of_a_known_browser_is_none(api: Api) -> None:
    request = RequestFactory().post("/api/session")
    request.COOKIES[guessing.DEVICE_COOKIE] = "eyJhZGEiOiJ4In0:forged:mark"
    assert guessing.Guess(request, "ada@hill-decals").by_address


def test_the_right_password_is_no_wrong_guess(api: Api) -> None:
    for n in range(3 * guessing.MOST_BY_ADDRESS):
        assert signs_in("ada").status_code == 200, n


# -- the client's address ------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("peer", "said", "client"),
    [
        ("127.0.0.1", "203.0.113.5", "203.0.113.5"),
        ("127.0.0.1", "1.2.3.4, 203.0.113.5", "203.0.113.5"),  # what the client wrote itself is not believed
        ("10.1.2.3", "203.0.113.5, 10.9.9.9", "203.0.113.5"),  # two proxies of ours
        ("198.51.100.1", "203.0.113.5", "198.51.100.1"),  # no proxy of ours
        ("127.0.0.1", "", "127.0.0.1"),
        ("127.0.0.1", "nonsense", "127.0.0.1"),
        ("127.0.0.1", "203.0.113.5, nonsense", "127.0.0.1"),
        ("", "2001:db8::5", "2001:db8::5"),  # through a socket
        ("::ffff:127.0.0.1", "203.0.113.5", "203.0.113.5"),
    ],
)
def test_the_clients_address_is_the_last_that_no_proxy_of_ours_has(peer: str, said: str, client: str) -> None:
    seen: list[HttpRequest] = []
    with override_settings(TRUSTED_PROXIES=["127.0.0.1", "10.0.0.0/8"]):
        look = TrustedProxy(lambda request: (seen.append(request), HttpResponse())[1])
    headers = {"HTTP_X_FORWARDED_FOR": said} if said else {}
    look(RequestFactory().get("/", REMOTE_ADDR=peer, HTTP_X_FORWARDED_PROTO="https", **headers))
    assert seen[0].META["REMOTE_ADDR"] == client
    assert ("HTTP_X_FORWARDED_PROTO" in seen[0].META) == (peer != "198.51.100.1")


# -- who changed what ----------------------------------------------------------------------------------------------


def test_history_says_who_changed_what_and_brings_any_revision_back(api: Api, plain: Job) -> None:
    maker = in_role(Role.MAKER, "Cy")
    at = api("GET", f"/jobs/{plain.pk}").json()
    first = at["document"]
    taller = {**first, "blank": {**first["blank"], "note": "tall", "name": "Another"}}
    at = api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": taller}).json()
    at = maker("PUT", f"/jobs/{plain.pk}", {"revision": 2, "document": {**taller, "quantity": 12}}).json()
    at = api("POST", f"/jobs/{plain.pk}/undo", {"revision": 3}).json()
    at = api("PUT", f"/jobs/{plain.pk}", {"revision": 4, "document": {**taller, "title": "Gone on"}}).json()
    assert not at["can_redo"]
    told = api("GET", f"/jobs/{plain.pk}/history").json()
    assert told["total"] == 5
    assert [(r["revision"], r["by"], r["via"], r["what"]) for r in told["revisions"]] == [
        (5, "ada", "saved", "title"),
        (4, "ada", "undone", "quantity"),
        (3, "Cy", "saved", "quantity"),
        (2, "ada", "saved", "blank: name, note"),
        (1, "", "started", ""),
    ]
    # What was undone and left behind is not lost.
    back = maker("POST", f"/jobs/{plain.pk}/restore", {"revision": 5, "to": 3}).json()
    newest = api("GET", f"/jobs/{plain.pk}/history").json()["revisions"][0]
    assert (newest["by"], newest["via"], newest["what"]) == ("Cy", "restored", "revision 3")
    assert back["revision"] == 6 and back["document"]["quantity"] == 12 and back["can_undo"]
    assert api("POST", f"/jobs/{plain.pk}/undo", {"revision": 6}).json()["document"]["title"] == "Gone on"
    assert api("POST", f"/jobs/{plain.pk}/restore", {"revision": 6, "to": 3}).status_code == 409
    assert api("POST", f"/jobs/{plain.pk}/restore", {"revision": 7, "to": 99}).status_code == 404
    Membership.objects.get(user__first_name="Cy").user.delete()
    assert "Cy" in {r["by"] for r in api("GET", f"/jobs/{plain.pk}/history").json()["revisions"]}


def test_what_changed_is_said_in_words() -> None:
    one = load_job(cup()).model_dump(mode="json")
    file = {"id": "e1", "source": {"kind": "file", "file": "moon.svg"}, "placements": [{"up_mm": 4}], "edits": []}
    assert what_changed(one, one) == ""
    assert what_changed(one, {**one, "elements": [file]}) == "artwork: moon.svg brought in"
    assert what_changed({**one, "elements": [file]}, one) == "artwork: moon.svg taken out"
    moved = {**file, "placements": [{"up_mm": 9}]}
    assert what_changed({**one, "elements": [file]}, {**one, "elements": [moved]}) == "artwork: moon.svg placements"
    words = {"id": "e2", "source": {"kind": "lettering", "text": "Wenna\nof old", "size_mm": 9}, "placements": []}
    bold = {**words, "source": {**words["source"], "font": "heebo", "size_mm": 12}}
    assert what_changed({**one, "elements": [words]}, {**one, "elements": [bold]}) == "artwork: “Wenna” size, font"
    other = {**one, "wrap": {**one["wrap"], "overlap_mm": 3, "film_thickness_um": 80}, "due": "2027-01-01"}
    assert what_changed(one, other) == "due date; wrap: overlap, film thickness"
    assert what_changed(one, {**one, "blank": {"kind": "panel"}}) == "blank: another kind, panel"
