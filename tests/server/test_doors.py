"""Signing in, headers, and what the settings promise."""

from __future__ import annotations

import os
import subprocess
import sys

from django.core.management import call_command
from django.test import Client
from samples import ROOT


def test_sign_in_and_out(api) -> None:  # type: ignore[no-untyped-def]
    api("DELETE", "/session")
    api.token = api.client.get("/api/session").json()["csrf"]
    assert api("GET", "/jobs").status_code == 401
    wrong = api("POST", "/session", {"username": "ada", "password": "wrong"})
    assert wrong.status_code == 403 and "go together" in wrong.json()["message"]
    signed = api("POST", "/session", {"username": "ada", "password": "a long enough secret"})
    assert signed.status_code == 200 and signed.json()["workshop"]["name"] == "Hill Decals"
    assert api("GET", "/jobs").status_code == 200


def test_sign_in_is_throttled(api) -> None:  # type: ignore[no-untyped-def]
    api("DELETE", "/session")
    api.token = api.client.get("/api/session").json()["csrf"]
    codes = [api("POST", "/session", {"username": "ada", "password": f"guess {i}"}).status_code for i in range(8)]
    assert codes[0] == 403 and codes[-1] == 429
    assert api("POST", "/session", {"username": "ada", "password": "a long enough secret"}).status_code == 429


def test_demo_door_is_shut_outside_demo_mode(api) -> None:  # type: ignore[no-untyped-def]
    call_command("load_demo")
    assert api("GET", "/session").json()["demo"] is False
    assert api("POST", "/session/demo").status_code == 403


def test_writing_wants_the_csrf_token(api, plain) -> None:  # type: ignore[no-untyped-def]
    api.token = "x" * 64
    for method, path, body in (
        ("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": plain.document}),
        ("POST", "/jobs", {"kind": "cup"}),
        ("POST", "/session", {"username": "a", "password": "b"}),
        ("DELETE", "/session", None),
    ):
        assert api(method, path, body).status_code == 403, path


def test_headers(db: None) -> None:
    answer = Client().get("/api/session")
    csp = answer["Content-Security-Policy"]
    assert (
        "default-src 'none'" in csp
        and "'unsafe-inline'" not in csp
        and "'unsafe-eval'" not in csp
        and "frame-ancestors 'none'" in csp
    )
    assert answer["Cache-Control"] == "no-store"
    assert answer["X-Content-Type-Options"] == "nosniff" and answer["X-Frame-Options"] == "DENY"
    assert Client().get("/api/nowhere").status_code == 404


def test_database_is_in_wal_mode_with_a_busy_timeout(tmp_path) -> None:  # type: ignore[no-untyped-def]
    """On a real file: in memory, where these tests run, SQLite has no log."""
    code = (
        "import django; django.setup(); from django.db import connection as c; k = c.cursor(); print(k.execute('PRAGMA"
        " journal_mode').fetchone()[0], k.execute('PRAGMA busy_timeout').fetchone()[0])"
    )
    env = {
        **os.environ,
        "WIMPLE_DATA": str(tmp_path),
        "WIMPLE_MODE": "demo",
        "DJANGO_SETTINGS_MODULE": "wimple_server.settings",
    }
    env.pop("WIMPLE_DATABASE", None)
    env["PYTHONPATH"] = os.pathsep.join([str(ROOT / "server"), str(ROOT / "core")])
    said = subprocess.run(
        [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
    ).stdout.split()
    assert said == ["wal", "20000"]


def test_deploy_check_is_clean_in_serve_mode(tmp_path) -> None:  # type: ignore[no-untyped-def]
    env = {**os.environ, "WIMPLE_MODE": "serve", "WIMPLE_DATA": str(tmp_path)}
    env.pop("DJANGO_SETTINGS_MODULE", None)
    done = subprocess.run(
        [sys.executable, str(ROOT / "server/manage.py"), "check", "--deploy", "--fail-level", "WARNING"],
        env=env,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0 and "no issues" in done.stdout, done.stderr


def test_a_sign_no_database_keeps_is_refused_by_name(api, plain) -> None:  # type: ignore[no-untyped-def]
    for refused in (
        api("POST", "/jobs", {"title": "a\0b", "kind": "cup"}),
        api("PUT", f"/jobs/{plain.pk}", {"revision": 1, "document": {**plain.document, "title": "a\0b"}}),
        api("GET", "/jobs?q=a%00b"),
        api("GET", "/shelf?tag=a%00b"),
        api("POST", "/session", {"username": "a\0b", "password": "c"}),
    ):
        assert refused.status_code == 422 and "code 0" in refused.json()["message"]


def test_requests_are_written_down_in_serve_mode(tmp_path) -> None:  # type: ignore[no-untyped-def]
    code = "import django, logging; django.setup(); print(logging.getLogger('wimple.asked').isEnabledFor(logging.INFO))"
    env = {**os.environ, "WIMPLE_DATA": str(tmp_path), "WIMPLE_MODE": "serve"}
    env |= {"DJANGO_SETTINGS_MODULE": "wimple_server.settings", "PYTHONPATH": f"{ROOT}/server:{ROOT}/core"}
    said = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True).stdout
    assert said.split() == ["True"]
