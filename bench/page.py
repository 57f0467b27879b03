"""A page that edits: a scene asked for in lines as a page asks for it, heard to its end while the next edit may drop
what is left of it."""

from __future__ import annotations

import http.client
import json
import threading
import time
import zlib
from typing import Any

from doors import Shop


class PageAsks:
    """A page of one job: `ask` answers once the open step is there; the rest is heard until it ends or the next."""

    def __init__(self, shop: Shop, job: int, page: str) -> None:
        self.shop, self.job, self.page = shop, job, page
        self.have: set[str] = set()
        self.told: list[str] = []
        self.line: http.client.HTTPConnection | None = None

    def ask(self, document: dict[str, Any], rest: bool, step: str = "artwork") -> float:
        """How many seconds it was until the scene was whole."""
        if self.line is not None and self.line.sock is not None:
            # As a browser drops an answer: the line is closed.
            self.line.sock.shutdown(2)
        shop = self.shop
        body = {"document": document, "step": step, "have": sorted(self.have), "page": self.page, "rest": rest}
        headers = {
            "X-CSRFToken": shop.csrf,
            "Cookie": "; ".join(f"{k}={v}" for k, v in shop.cookies.items()),
            "X-Forwarded-Proto": "https",
            "Referer": f"https://{shop.host}/",
            "Content-Type": "application/json",
            "Accept": "application/x-ndjson",
            "Accept-Encoding": "gzip",
        }
        line = self.line = http.client.HTTPConnection(shop.host, timeout=60)
        began = time.monotonic()
        line.request("POST", f"/api/jobs/{self.job}/build", json.dumps(body).encode(), headers)
        answer = line.getresponse()
        assert answer.status == 200, answer.read()
        whole, self.told = threading.Event(), []
        took: list[float] = []

        def hear() -> None:
            open_, text = zlib.decompressobj(wbits=16 + zlib.MAX_WBITS), b""
            try:
                while chunk := answer.read1(65536):
                    text += open_.decompress(chunk)
                    *lines, text = text.split(b"\n")
                    for one in map(json.loads, filter(None, lines)):
                        self.have |= {p["digest"] for p in one.get("parts", {}).values() if p}
                        self.told = one.get("told", self.told)
                        if one.get("whole"):
                            took.append(time.monotonic() - began)
                            whole.set()
            except (OSError, ValueError, http.client.HTTPException):
                pass
            finally:
                whole.set()

        threading.Thread(target=hear, daemon=True).start()
        whole.wait(60)
        return took[0] if took else 99.0
