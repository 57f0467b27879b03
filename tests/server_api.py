"""A signed-in client of the server's API, for tests."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from django.contrib.auth.models import User
from django.test import Client


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

    def scene(self, job: int, document: Any, step: str = "measure", have: Sequence[str] = ()) -> dict[str, Any]:
        """The scene of a step, its parts laid out beside its head."""
        answer = self("POST", f"/jobs/{job}/build", {"document": document, "step": step, "have": list(have)})
        assert answer.status_code == 200, answer.content
        scene: dict[str, Any] = answer.json()
        parts = scene.pop("parts")
        return {**scene, **{name: part["data"] for name, part in parts.items()}, "parts": parts}

    def work(self, kind: str, **more: Any):  # type: ignore[no-untyped-def]
        """Ask for long work."""
        return self("POST", "/works", {"kind": kind, **more})

    def upload(self, path: str, name: str, data: bytes):  # type: ignore[no-untyped-def]
        from django.core.files.uploadedfile import SimpleUploadedFile

        return self.client.post(
            f"/api{path}", {"file": SimpleUploadedFile(name, data)}, headers={"X-CSRFToken": self.token}
        )
